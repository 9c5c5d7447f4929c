#pragma once
#include <optional>
#include <string>
#include <string_view>

namespace bathylux {

/// How a value runs from one key to the next: the easing functions of CSS Easing Functions Level 1.
struct Easing {
    enum class Kind { linear, bezier, steps };
    enum class Jump { start, end, none, both };
    Kind kind = Kind::linear;
    double x1 = 0, y1 = 0, x2 = 1, y2 = 1; // a bezier's two inner points; x 0…1
    int count = 1;                         // of steps; with Jump::none at least 2
    Jump jump = Jump::end;

    /// How far the value has come, 0 at `t` 0 and 1 at 1 (steps apart); between them it may leave 0…1.
    double at(double t) const;

    friend bool operator==(const Easing&, const Easing&) = default;
};

Easing bezier(double x1, double y1, double x2, double y2);
/// The same run backwards: 1 − at(1 − t).
Easing reversed(const Easing& easing);
/// "linear", "ease", "ease-in", "ease-out", "ease-in-out", "step-start", "step-end", "cubic-bezier(…)",
/// "steps(…)"; none for anything else.
std::optional<Easing> easing_from_text(std::string_view text);
/// As CSS would say it, by its name where it has one.
std::string to_string(const Easing& easing);

} // namespace bathylux
