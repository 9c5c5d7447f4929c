#pragma once
#include <array>
#include <limits>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "core/field/hash.h"
#include "core/field/srgb.h"
#include "core/step/map_ref.h"
#include "core/step/points.h"
#include "core/step/profile.h"
#include "core/step/stops.h"

namespace bathylux {

/// What a parameter can hold.
using Value = std::variant<double, bool, std::string, Color, Profile, Points, Stops, std::vector<double>,
                           std::vector<std::string>, std::optional<MapRef>>;

enum class Unit { none, px, degrees, ratio, stops };
std::string_view symbol(Unit unit);

/// How a number is said: as it is; as a share in hundredths; up or down, in or out by its sign; as a place on
/// the canvas, whose size is then its sensible range.
enum class Said { plain, percent, up_down, across_canvas, down_canvas };

/// Where its control stands: among the first and always in sight; in sight; folded away; nowhere, because the
/// hand sets it in another way.
enum class Rank { first, sight, folded, hidden };

/// The sensible range of a number, and what it may never leave.
struct Range {
    double low = 0, high = 1;
    double floor = -std::numeric_limits<double>::infinity(),
           ceiling = std::numeric_limits<double>::infinity();
};

/// One parameter of a step, source, light or finish, told once: the file format, the command line, the
/// controls and the reference page are all made from this.
struct Parameter {
    enum class Type {
        number,
        whole,
        toggle,
        choice,
        text,
        file,
        font,
        color,
        profile,
        curve,
        stops,
        numbers,
        files,
        element,
        map
    };
    Type type;
    std::string_view id, name;
    Unit unit = Unit::none;
    Range range{};
    std::string_view help;
    std::span<const std::string_view> choices{};
    std::span<const std::string_view> words{}; // of the choices, in order, as a person reads them
    Said said = Said::plain;
    Rank rank = Rank::sight;
    std::string_view when{}, is{}; // see only_when
    Value (*get)(const void*) = nullptr;
    void (*set)(void*, const Value&) = nullptr;
    /// Of a map: where it lies, so that who looks at it need not copy it.
    const std::optional<MapRef>& (*map_in_place)(const void*) = nullptr;

    template <class M> constexpr Parameter changed(M Parameter::*member, M value) const {
        Parameter out = *this;
        out.*member = value;
        return out;
    }
    constexpr Parameter as(Said how) const { return changed(&Parameter::said, how); }
    constexpr Parameter ranked(Rank where) const { return changed(&Parameter::rank, where); }
    /// It has a say only while another parameter of the same thing has one of these values, parted by "|"; a
    /// choice by its name, a toggle "true" or "false", a number ">0". What has no say itself is regarded as
    /// its first choice, as off, or as nought.
    constexpr Parameter only_when(std::string_view parameter, std::string_view values) const {
        return changed(&Parameter::when, parameter).changed(&Parameter::is, values);
    }
    /// The words of its choices.
    template <std::size_t N>
    constexpr Parameter reads(const std::array<std::string_view, N>& choice_words) const {
        return changed(&Parameter::words, std::span<const std::string_view>(choice_words));
    }
};

/// Whether a parameter has a say now, beside the others that `data` holds.
bool counts(std::span<const Parameter> parameters, const void* data, const Parameter& parameter);
/// The words of a choice; its name, underscores left out, where it has none.
std::string words_of(const Parameter& parameter, std::string_view choice);

namespace detail {
template <class T> struct member_of;
template <class S, class M> struct member_of<M S::*> {
    using Struct = S;
    using Member = M;
};
template <auto M> using StructOf = typename member_of<decltype(M)>::Struct;
template <auto M> using MemberOf = typename member_of<decltype(M)>::Member;
template <auto M> auto& access(void* s) { return static_cast<StructOf<M>*>(s)->*M; }
template <auto M> const auto& access(const void* s) { return static_cast<const StructOf<M>*>(s)->*M; }

template <auto M, class Stored> constexpr Parameter plain(Parameter p) {
    p.get = [](const void* s) { return Value(Stored(access<M>(s))); };
    p.set = [](void* s, const Value& v) { access<M>(s) = static_cast<MemberOf<M>>(std::get<Stored>(v)); };
    return p;
}
} // namespace detail

template <auto M>
constexpr Parameter number(std::string_view id, std::string_view name, Unit unit, Range range,
                           std::string_view help) {
    return detail::plain<M, double>({Parameter::Type::number, id, name, unit, range, help});
}
template <auto M>
constexpr Parameter whole(std::string_view id, std::string_view name, Range range, std::string_view help) {
    return detail::plain<M, double>({Parameter::Type::whole, id, name, Unit::none, range, help});
}
template <auto M>
constexpr Parameter toggle(std::string_view id, std::string_view name, std::string_view help) {
    return detail::plain<M, bool>({Parameter::Type::toggle, id, name, Unit::none, {}, help});
}
template <auto M>
constexpr Parameter text(std::string_view id, std::string_view name, std::string_view help) {
    return detail::plain<M, std::string>({Parameter::Type::text, id, name, Unit::none, {}, help});
}
template <auto M>
constexpr Parameter file(std::string_view id, std::string_view name, std::string_view help) {
    return detail::plain<M, std::string>({Parameter::Type::file, id, name, Unit::none, {}, help});
}
template <auto M>
constexpr Parameter font(std::string_view id, std::string_view name, std::string_view help) {
    return detail::plain<M, std::string>({Parameter::Type::font, id, name, Unit::none, {}, help});
}
template <auto M>
constexpr Parameter color(std::string_view id, std::string_view name, std::string_view help) {
    Parameter p = detail::plain<M, Color>({Parameter::Type::color, id, name, Unit::none, {}, help});
    p.set = [](void* s, const Value& v) { detail::access<M>(s) = in_bytes(std::get<Color>(v)); };
    return p;
}
template <auto M>
constexpr Parameter profile(std::string_view id, std::string_view name, std::string_view help) {
    return detail::plain<M, Profile>(
        {Parameter::Type::profile, id, name, Unit::none, {}, help, profile_names});
}
/// A curve over 0…1 by its points.
template <auto M>
constexpr Parameter curve(std::string_view id, std::string_view name, std::string_view help) {
    return detail::plain<M, Points>({Parameter::Type::curve, id, name, Unit::none, {}, help});
}
/// Colours at places of 0…1.
template <auto M>
constexpr Parameter stops(std::string_view id, std::string_view name, std::string_view help) {
    Parameter p = detail::plain<M, Stops>({Parameter::Type::stops, id, name, Unit::none, {}, help});
    p.set = [](void* s, const Value& v) {
        detail::access<M>(s) = std::get<Stops>(v);
        for (Stop& stop : detail::access<M>(s)) stop.color = in_bytes(stop.color);
    };
    return p;
}
/// A list of numbers, at most eight.
template <auto M>
constexpr Parameter numbers(std::string_view id, std::string_view name, Range range, std::string_view help) {
    return detail::plain<M, std::vector<double>>(
        {Parameter::Type::numbers, id, name, Unit::ratio, range, help});
}
/// A list of files, in order.
template <auto M>
constexpr Parameter file_list(std::string_view id, std::string_view name, std::string_view help) {
    return detail::plain<M, std::vector<std::string>>(
        {Parameter::Type::files, id, name, Unit::none, {}, help});
}
/// An enumeration whose values are named, in order, by `names`.
template <auto M, const auto& names>
constexpr Parameter choice(std::string_view id, std::string_view name, std::string_view help) {
    Parameter p{Parameter::Type::choice, id, name, Unit::none, {}, help, names};
    p.get = [](const void* s) {
        return Value(std::string(names[static_cast<std::size_t>(detail::access<M>(s))]));
    };
    p.set = [](void* s, const Value& v) {
        const auto& text = std::get<std::string>(v);
        for (std::size_t i = 0; i < names.size(); ++i)
            if (names[i] == text) detail::access<M>(s) = static_cast<detail::MemberOf<M>>(i);
    };
    return p;
}

/// The id of another element that is read; "" for none.
template <auto M>
constexpr Parameter element(std::string_view id, std::string_view name, std::string_view help) {
    return detail::plain<M, std::string>({Parameter::Type::element, id, name, Unit::none, {}, help});
}

/// A quantity read off another element, or off the element itself as it is before the step; none: nothing.
template <auto M> constexpr Parameter map(std::string_view id, std::string_view name, std::string_view help) {
    Parameter p =
        detail::plain<M, std::optional<MapRef>>({Parameter::Type::map, id, name, Unit::none, {}, help});
    p.map_in_place = [](const void* s) -> const std::optional<MapRef>& { return detail::access<M>(s); };
    return p;
}

/// A number within what the parameter may hold.
double held(const Parameter& parameter, double number);
/// Brings a value into a running hash.
void add_to(Hash& hash, const Value& value);

} // namespace bathylux
