#pragma once
#include "core/step/bundle.h"
#include "core/step/channels.h"
#include "core/step/kind.h"
#include "core/step/looks.h"

namespace bathylux {

/// A kind of step. Beside what every described thing has: where it stands in the picker, what it reads and
/// gives, how far it reads beyond what is wanted, and the work itself.
struct StepKind : Kind {
    std::string_view group; // "give depth", "shape depth", "shape", "colour", "wear", "bend", "finish"
    bool spreads = false;   // reads (and may write) beyond the element by its reach, held at the canvas edge
    bool whole_without_outline = false; // gives an outline; where there is none to work on it reads the whole
    bool drops_outline = false;         // what it gives has none
    bool needs_range = false; // wants the range of the height over the whole canvas (Context::range)
    Channels reads = channel::all, gives = channel::all;
    Channels (*needs)(const void*) = nullptr; // what else it reads, as it is set
    float (*reach)(const void*) = nullptr;    // px of its own parameters; infinite: it reads the whole canvas
    /// Where it reads the element alone, but writes beyond its edge: how far, px.
    float (*writes)(const void*) = nullptr;
    Bundle (*apply)(const void*, const Bundle&, const Context&) = nullptr;
    bool looks = false; // reads by Context::below and maps what it needs to, and is given nothing
    /// Of a step that bends: where it looks, over context.region (see bend/texels.h).
    Looks (*looks_at)(const void*, const Context&) = nullptr;
    /// Of such a step: where what it gives can lie, for what it is given lies there. Throws Error where it is
    /// set to what cannot be.
    Region (*lands)(const void*, Region, const Context&) = nullptr;
    Box (*boxed)(const void*, const Context&) = nullptr; // what it leaves of the element's box
    bool takes_pairs = false;                            // its maps may be two numbers
};

/// The kind of a step struct: see Bevel for what such a struct holds. `reads` and `gives` that a struct does
/// not state are all channels.
template <class T> constexpr StepKind describe_step() {
    StepKind k;
    static_cast<Kind&>(k) = describe<T>();
    k.group = T::group;
    k.spreads = T::spreads;
    if constexpr (requires { T::reads; }) k.reads = T::reads;
    if constexpr (requires { T::gives; }) k.gives = T::gives;
    if constexpr (requires { T::whole_without_outline; }) k.whole_without_outline = T::whole_without_outline;
    if constexpr (requires { T::drops_outline; }) k.drops_outline = T::drops_outline;
    if constexpr (requires { T::needs_range; }) k.needs_range = T::needs_range;
    if constexpr (requires(const T& t) { t.needs(); })
        k.needs = [](const void* s) { return static_cast<const T*>(s)->needs(); };
    k.reach = [](const void* s) { return static_cast<const T*>(s)->reach(); };
    if constexpr (requires(const T& t) { t.writes(); })
        k.writes = [](const void* s) { return static_cast<const T*>(s)->writes(); };
    k.apply = [](const void* s, const Bundle& b, const Context& c) {
        return static_cast<const T*>(s)->apply(b, c);
    };
    if constexpr (requires { T::looks; }) k.looks = T::looks;
    if constexpr (requires(const T& t, const Context& c) { t.looks_at(c); })
        k.looks_at = [](const void* s, const Context& c) { return static_cast<const T*>(s)->looks_at(c); };
    if constexpr (requires { T::takes_pairs; }) k.takes_pairs = T::takes_pairs;
    if constexpr (requires(const T& t, Region r, const Context& c) { t.lands(r, c); })
        k.lands = [](const void* s, Region r, const Context& c) {
            return static_cast<const T*>(s)->lands(r, c);
        };
    if constexpr (requires(const T& t, const Context& c) { t.boxed(c); })
        k.boxed = [](const void* s, const Context& c) { return static_cast<const T*>(s)->boxed(c); };
    return k;
}

/// A number as a person would say it: at most two decimals, none that are zero.
std::string said(double number);

} // namespace bathylux
