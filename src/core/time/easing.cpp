#include "core/time/easing.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <utility>
#include <vector>

namespace bathylux {

namespace {

struct Named {
    std::string_view name;
    Easing easing;
};

const std::array<Named, 7>& named() {
    using Kind = Easing::Kind;
    using Jump = Easing::Jump;
    static const std::array<Named, 7> all{
        Named{"linear", {}},
        {"ease", bezier(0.25, 0.1, 0.25, 1)},
        {"ease-in", bezier(0.42, 0, 1, 1)},
        {"ease-out", bezier(0, 0, 0.58, 1)},
        {"ease-in-out", bezier(0.42, 0, 0.58, 1)},
        {"step-start", {.kind = Kind::steps, .count = 1, .jump = Jump::start}},
        {"step-end", {.kind = Kind::steps, .count = 1, .jump = Jump::end}},
    };
    return all;
}

constexpr std::array<std::pair<std::string_view, Easing::Jump>, 6> jumps{{
    {"jump-start", Easing::Jump::start},
    {"jump-end", Easing::Jump::end},
    {"jump-none", Easing::Jump::none},
    {"jump-both", Easing::Jump::both},
    {"start", Easing::Jump::start},
    {"end", Easing::Jump::end},
}};

/// The words between the parentheses of `name(…)`, parted by commas, without spaces; none where it is no such
/// thing.
std::optional<std::vector<std::string>> arguments(std::string_view text, std::string_view name) {
    if (!text.starts_with(name) || text.size() < name.size() + 2 || text[name.size()] != '(' ||
        text.back() != ')')
        return std::nullopt;
    std::vector<std::string> out(1);
    for (const char c : text.substr(name.size() + 1, text.size() - name.size() - 2)) {
        if (c == ',')
            out.emplace_back();
        else if (c != ' ')
            out.back() += c;
    }
    return out;
}

std::optional<double> number_of(const std::string& text) {
    double out = 0;
    const auto [end, wrong] = std::from_chars(text.data(), text.data() + text.size(), out);
    if (wrong != std::errc() || end != text.data() + text.size() || !std::isfinite(out)) return std::nullopt;
    return out;
}

std::string digits_of(double v) {
    char text[32];
    return {text, std::to_chars(text, text + sizeof text, v).ptr};
}

/// A coordinate of a cubic Bézier from 0 to 1, and how it changes.
double along(double p1, double p2, double s) {
    const double r = 1 - s;
    return 3 * r * r * s * p1 + 3 * r * s * s * p2 + s * s * s;
}
double slope(double p1, double p2, double s) {
    const double r = 1 - s;
    return 3 * r * r * p1 + 6 * r * s * (p2 - p1) + 3 * s * s * (1 - p2);
}

/// The s at which x is t: Newton's steps, kept within a bracket that is halved where they would leave it.
double solved(double x1, double x2, double t) {
    double low = 0, high = 1, s = t;
    for (int i = 0; i < 64; ++i) {
        const double off = along(x1, x2, s) - t;
        if (std::abs(off) < 1e-13) break;
        (off > 0 ? high : low) = s;
        const double d = slope(x1, x2, s), next = s - off / d;
        s = d > 1e-9 && next > low && next < high ? next : (low + high) / 2;
    }
    return s;
}

double stepped(int count, Easing::Jump jump, double t) {
    const bool first = jump == Easing::Jump::start || jump == Easing::Jump::both;
    const double levels = count + (jump == Easing::Jump::both) - (jump == Easing::Jump::none);
    return std::clamp(std::floor(t * count) + first, 0.0, levels) / levels;
}

} // namespace

Easing bezier(double x1, double y1, double x2, double y2) {
    return {.kind = Easing::Kind::bezier, .x1 = x1, .y1 = y1, .x2 = x2, .y2 = y2};
}

Easing reversed(const Easing& e) {
    Easing out = e;
    if (e.kind == Easing::Kind::bezier) return bezier(1 - e.x2, 1 - e.y2, 1 - e.x1, 1 - e.y1);
    if (e.jump == Easing::Jump::start) out.jump = Easing::Jump::end;
    if (e.jump == Easing::Jump::end && e.kind == Easing::Kind::steps) out.jump = Easing::Jump::start;
    return out;
}

double Easing::at(double t) const {
    t = std::clamp(t, 0.0, 1.0);
    switch (kind) {
    case Kind::linear: return t;
    case Kind::bezier:
        // The ends are met exactly, whatever the points.
        return t <= 0 ? 0 : t >= 1 ? 1 : along(y1, y2, solved(x1, x2, t));
    case Kind::steps: return stepped(count, jump, t);
    }
    return t;
}

std::optional<Easing> easing_from_text(std::string_view text) {
    for (const Named& n : named())
        if (n.name == text) return n.easing;
    if (const auto a = arguments(text, "cubic-bezier")) {
        if (a->size() != 4) return std::nullopt;
        double v[4];
        for (int i = 0; i < 4; ++i) {
            const auto n = number_of((*a)[static_cast<std::size_t>(i)]);
            if (!n || std::abs(*n) > 1000) return std::nullopt;
            v[i] = *n;
        }
        if (v[0] < 0 || v[0] > 1 || v[2] < 0 || v[2] > 1) return std::nullopt;
        return bezier(v[0], v[1], v[2], v[3]);
    }
    if (const auto a = arguments(text, "steps")) {
        if (a->empty() || a->size() > 2) return std::nullopt;
        const auto n = number_of((*a)[0]);
        if (!n || *n < 1 || *n > 1e6 || *n != std::floor(*n)) return std::nullopt;
        Easing out{.kind = Easing::Kind::steps, .count = static_cast<int>(*n)};
        if (a->size() == 2) {
            const auto found =
                std::find_if(jumps.begin(), jumps.end(), [&](const auto& j) { return j.first == (*a)[1]; });
            if (found == jumps.end()) return std::nullopt;
            out.jump = found->second;
        }
        if (out.jump == Easing::Jump::none && out.count < 2) return std::nullopt;
        return out;
    }
    return std::nullopt;
}

std::string to_string(const Easing& easing) {
    for (const Named& n : named())
        if (n.easing == easing) return std::string(n.name);
    if (easing.kind == Easing::Kind::bezier)
        return "cubic-bezier(" + digits_of(easing.x1) + ", " + digits_of(easing.y1) + ", " + digits_of(easing.x2) + ", " +
               digits_of(easing.y2) + ")";
    std::string out = "steps(" + std::to_string(easing.count);
    if (easing.jump != Easing::Jump::end)
        out += ", " + std::string(jumps[static_cast<std::size_t>(easing.jump)].first);
    return out + ")";
}

} // namespace bathylux
