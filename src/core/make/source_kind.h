#pragma once
#include <concepts>

#include "core/step/bundle.h"
#include "core/step/kind.h"
#include "core/step/picture.h"

namespace bathylux {

/// Under what circumstances a source gives what it gives.
struct SourceContext {
    Region region;                 // what is wanted, device px
    Channels wanted;               // what else need not be made
    std::uint64_t hash;            // names the source with its files
    Affine to_device;              // source px about its centre → device px; can be inverted
    double rise = 1;               // factor on heights (a group's scale)
    double scale = 1;              // device px per canvas px
    Vec2 canvas;                   // size of the canvas, canvas px
    Edge edge = Edge::none;        // what a picture shows past its own rim
    const Asset* asset = nullptr;  // what its files and text became; null: none needed, or not to be had
    int frame = 0;                 // of what is made of frames
    const Painting* ink = nullptr; // colour painted on it; null: none
    Memo* memo = nullptr;
};

/// A kind of source. Beside what every described thing has: where it lies and what it gives.
struct SourceKind : Kind {
    bool fills = false;                   // gives something everywhere
    bool has_rim = false;                 // a picture, whose placement says what lies past its rim
    bool holds_elements = false;          // gives what its elements give
    bool follows = false;                 // gives what another element gives
    bool outlined = false;                // its edge is an outline (Bundle::silhouette)
    bool (*edged)(const void*) = nullptr; // whether it is, as it is set
    bool (*tiles)(const void*) = nullptr; // whether it is counted out from the canvas's corner, whatever its
                                          // placement, as it is set
    bool framed = false;                  // shows frames in turn
    bool tonal = false;                   // a tone in 0…1 and no picture: what steps on tones take whole
    Channels gives = channel::color;
    /// Extent of the source in its own px, about its centre, on a canvas of that size.
    Box (*box)(const void*, const Asset*, Vec2 canvas) = nullptr;
    Bundle (*give)(const void*, const SourceContext&) = nullptr;
};

/// The kind of a source struct: see RectangleSource for what such a struct holds.
template <class T> constexpr SourceKind describe_source() {
    SourceKind k;
    static_cast<Kind&>(k) = describe<T>();
    if constexpr (requires { T::fills; }) k.fills = T::fills;
    if constexpr (requires { T::has_rim; }) k.has_rim = T::has_rim;
    if constexpr (requires { T::holds_elements; }) k.holds_elements = T::holds_elements;
    if constexpr (requires { T::follows; }) k.follows = T::follows;
    if constexpr (requires { T::outlined; }) k.outlined = T::outlined;
    if constexpr (requires(const T& t) { t.edged(); })
        k.edged = [](const void* s) { return static_cast<const T*>(s)->edged(); };
    if constexpr (requires(const T& t) {
                      { t.tile } -> std::convertible_to<bool>;
                  })
        k.tiles = [](const void* s) { return static_cast<const T*>(s)->tile; };
    if constexpr (requires { T::framed; }) k.framed = T::framed;
    if constexpr (requires { T::tonal; }) k.tonal = T::tonal;
    if constexpr (requires { T::gives; }) k.gives = T::gives;
    if constexpr (requires(const T& t) { t.box(); })
        k.box = [](const void* s, const Asset*, Vec2) { return static_cast<const T*>(s)->box(); };
    else if constexpr (requires(const T& t, Vec2 canvas) { t.box(canvas); })
        k.box = [](const void* s, const Asset*, Vec2 canvas) {
            return static_cast<const T*>(s)->box(canvas);
        };
    else
        k.box = [](const void*, const Asset* a, Vec2) { return a ? box_about(a->width, a->height) : Box{}; };
    if constexpr (requires(const T& t, const SourceContext& c) { t.give(c); })
        k.give = [](const void* s, const SourceContext& c) { return static_cast<const T*>(s)->give(c); };
    return k;
}

} // namespace bathylux
