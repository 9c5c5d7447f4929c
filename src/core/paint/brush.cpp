#include "core/paint/brush.h"

#include <cmath>

#include "core/make/noise.h"
#include "core/make/pattern.h"
#include "core/paint/push.h"

namespace bathylux {

constexpr std::array<Parameter, 9> Brush::parameters{
    choice<&Brush::work, brush_work_names>("work", "Works", "What the brush does"),
    number<&Brush::size>("size", "Size", Unit::px, {2, 400, 1, 4096}, "Diameter"),
    number<&Brush::hardness>("hardness", "Hardness", Unit::ratio, {0, 1, 0, 1},
                             "0 soft all through, 1 full to the rim"),
    number<&Brush::flow>("flow", "Flow", Unit::ratio, {0, 1, 0, 1}, "How much one dab gives"),
    number<&Brush::spacing>("spacing", "Gap", Unit::ratio, {0.02, 1, 0.01, 10}, "From dab to dab, in sizes"),
    number<&Brush::height>("height", "Height", Unit::px, {0, 40, 0, 4096},
                           "What a dab of full flow raises or lowers"),
    number<&Brush::ceiling>("ceiling", "Ceiling", Unit::px, {0, 120, 0, 100000},
                            "Painted heights stay within this; 0: no ceiling"),
    number<&Brush::turns>("turns", "Turn", Unit::ratio, {0, 1, 0, 1},
                          "How far every dab's tip is turned by chance"),
    number<&Brush::scatter>("scatter", "Stray", Unit::ratio, {0, 2, 0, 10},
                            "How far dabs fall beside the stroke, in sizes"),
};

float falloff(float d, float hardness) {
    if (d >= 1) return 0;
    if (d <= hardness) return 1;
    const float t = (1 - d) / (1 - hardness);
    return t * t * (3 - 2 * t);
}

namespace {

/// Least-squares plane a + b x + c y through weighted heights, about the dab's middle.
struct Fit {
    double w = 0, wx = 0, wy = 0, wxx = 0, wxy = 0, wyy = 0, wh = 0, wxh = 0, wyh = 0;
    void add(double k, double x, double y, double h) {
        w += k, wx += k * x, wy += k * y, wxx += k * x * x, wxy += k * x * y, wyy += k * y * y;
        wh += k * h, wxh += k * x * h, wyh += k * y * h;
    }
    /// By Cramer's rule; level where it is undetermined.
    std::array<double, 3> plane() const {
        const double d =
            w * (wxx * wyy - wxy * wxy) - wx * (wx * wyy - wxy * wy) + wy * (wx * wxy - wxx * wy);
        if (std::abs(d) < 1e-9) return {w > 0 ? wh / w : 0, 0, 0};
        const double a =
            wh * (wxx * wyy - wxy * wxy) - wx * (wxh * wyy - wxy * wyh) + wy * (wxh * wxy - wxx * wyh);
        const double b =
            w * (wxh * wyy - wxy * wyh) - wh * (wx * wyy - wxy * wy) + wy * (wx * wyh - wxh * wy);
        const double c =
            w * (wxx * wyh - wxh * wxy) - wx * (wx * wyh - wxh * wy) + wh * (wx * wxy - wxx * wy);
        return {a / d, b / d, c / d};
    }
};

} // namespace

Region dab(Painting& painting, const Brush& brush, Vec2 at, float strength, const Ground& ground,
           float target, float turn) {
    const float radius = std::max(0.5f, brush.size / 2), flow = std::clamp(brush.flow * strength, 0.0f, 1.0f);
    // The corners of a tip reach further than a circle.
    const double reach = brush.tip ? 1.4143 * radius : radius;
    const Region area = covering(Box{at.x - reach, at.y - reach, at.x + reach, at.y + reach});
    if (flow <= 0) return {};
    const double cosine = std::cos(turn * radians_per_degree), sine = std::sin(turn * radians_per_degree);
    const auto share = [&](int x, int y) {
        const double dx = x + 0.5 - at.x, dy = y + 0.5 - at.y;
        if (brush.tip)
            return flow * brush.tip->at(static_cast<float>((cosine * dx - sine * dy) / radius),
                                        static_cast<float>((sine * dx + cosine * dy) / radius), 2 * radius);
        return flow * falloff(static_cast<float>(std::sqrt(dx * dx + dy * dy)) / radius, brush.hardness);
    };
    // What brushes that look see: the ground with what is painted on it, and a rim for the smoothing.
    const bool looks =
        brush.work == BrushWork::level || brush.work == BrushWork::smooth || brush.work == BrushWork::flatten;
    const int rim = brush.work == BrushWork::smooth ? std::clamp(static_cast<int>(radius / 4), 1, 12) : 0;
    const Region seen = grow(area, rim);
    Plane relief;
    if (looks) {
        relief = Plane(seen.width(), seen.height());
        for (int y = seen.y0; y < seen.y1; ++y)
            for (int x = seen.x0; x < seen.x1; ++x)
                relief(x - seen.x0, y - seen.y0) = painting.height(x, y) + (ground ? ground(x, y) : 0.0f);
    }
    Plane smooth;
    if (brush.work == BrushWork::smooth) {
        // A tent, as two boxes either way: what falls off evenly to the rim.
        Plane across(seen.width(), seen.height());
        smooth = Plane(seen.width(), seen.height());
        const auto tent = [&](const auto& from, auto&& to, int n) {
            for (int i = 0; i < n; ++i) {
                float sum = 0, weight = 0;
                for (int k = -rim; k <= rim; ++k) {
                    const float w = static_cast<float>(rim + 1 - std::abs(k));
                    if (i + k < 0 || i + k >= n) continue;
                    sum += w * from(i + k), weight += w;
                }
                to(i, sum / weight);
            }
        };
        for (int y = 0; y < seen.height(); ++y)
            tent([&](int i) { return relief(i, y); }, [&](int i, float v) { across(i, y) = v; },
                 seen.width());
        for (int x = 0; x < seen.width(); ++x)
            tent([&](int i) { return across(x, i); }, [&](int i, float v) { smooth(x, i) = v; },
                 seen.height());
    }
    std::array<double, 3> plane{};
    if (brush.work == BrushWork::flatten) {
        Fit fit;
        for (int y = area.y0; y < area.y1; ++y)
            for (int x = area.x0; x < area.x1; ++x)
                if (const float k = share(x, y); k > 0)
                    fit.add(k, x + 0.5 - at.x, y + 0.5 - at.y, relief(x - seen.x0, y - seen.y0));
        plane = fit.plane();
    }
    const float a = brush.color.a;
    const std::array<float, 4> ink{a * srgb_decode(brush.color.r), a * srgb_decode(brush.color.g),
                                   a * srgb_decode(brush.color.b), a};
    painting.change(area, [&](Painting::Tile& tile, int x0, int y0) {
        const Region part = intersect(area, {x0, y0, x0 + Painting::side, y0 + Painting::side});
        for (int y = part.y0; y < part.y1; ++y)
            for (int x = part.x0; x < part.x1; ++x) {
                const float k = share(x, y);
                if (k <= 0) continue;
                const auto i = static_cast<std::size_t>((y - y0) * Painting::side + x - x0);
                float& h = tile.height[i];
                float& hidden = tile.hidden[i];
                const float before = h;
                const auto now = [&] { return relief(x - seen.x0, y - seen.y0); };
                switch (brush.work) {
                case BrushWork::raise: h += k * brush.height; break;
                case BrushWork::lower: h -= k * brush.height; break;
                case BrushWork::pattern:
                    h += k * brush.height * pattern_at(brush.pattern, {x + 0.5, y + 0.5});
                    break;
                case BrushWork::level: h += k * (target - now()); break;
                case BrushWork::smooth: h += k * (smooth(x - seen.x0, y - seen.y0) - now()); break;
                case BrushWork::flatten:
                    h += k * static_cast<float>(plane[0] + plane[1] * (x + 0.5 - at.x) +
                                                plane[2] * (y + 0.5 - at.y) - now());
                    break;
                case BrushWork::hide: hidden += k * (1 - hidden), tile.hides = true; break;
                case BrushWork::reveal: hidden -= k * hidden; break;
                case BrushWork::ink:
                    for (int c = 0; c < 4; ++c) {
                        float& v = tile.ink_plane(c)[i];
                        v = k * ink[static_cast<std::size_t>(c)] + (1 - k) * v;
                    }
                    break;
                case BrushWork::lift:
                    for (int c = 0; c < 4 && !tile.ink.empty(); ++c) tile.ink_plane(c)[i] *= 1 - k;
                    break;
                default: break; // what pushes does so by itself
                }
                // The ceiling stops what rises against it, but pulls nothing back that was there before.
                if (brush.ceiling > 0) {
                    if (h > before) h = std::min(h, std::max(before, brush.ceiling));
                    if (h < before) h = std::max(h, std::min(before, -brush.ceiling));
                }
            }
    });
    return area;
}

void BrushStroke::press(Vec2 at, float pressure, std::vector<Region>& changed) {
    // Chances are counted off by the dab, so that the same stroke is the same again.
    const auto seed = static_cast<std::uint32_t>(brush_.seed);
    const auto chance = [&](int k) { return 2 * lattice_value(dabs_, k, seed) - 1; };
    const float turn = 180 * brush_.turns * chance(0);
    if (brush_.scatter > 0)
        at = at + double(brush_.scatter) * brush_.size * Vec2{chance(1) / 2.0, chance(2) / 2.0};
    ++dabs_;
    std::vector<Vec2> places{at};
    if (mirrors_.x) places.push_back({2 * *mirrors_.x - at.x, at.y});
    if (mirrors_.y)
        for (std::size_t i = 0, n = places.size(); i < n; ++i)
            places.push_back({places[i].x, 2 * *mirrors_.y - places[i].y});
    const Vec2 way = pressed_ ? at - *pressed_ : Vec2{};
    pressed_ = at;
    for (std::size_t i = 0; i < places.size() && works_on_drift(brush_.work); ++i) {
        const bool flipped_x = mirrors_.x && i % 2 == 1, flipped_y = mirrors_.y && i >= places.size() / 2;
        const Vec2 by{flipped_x ? -way.x : way.x, flipped_y ? -way.y : way.y};
        if (const Region r = push_dab(painting_, brush_, places[i], pressure, by); !r.empty())
            changed.push_back(r);
    }
    if (works_on_drift(brush_.work)) return;
    for (Vec2 p : places)
        if (const Region r = dab(painting_, brush_, p, pressure, ground_, target_.value_or(0.0f), turn);
            !r.empty())
            changed.push_back(r);
}

std::vector<Region> BrushStroke::to(Vec2 at, float pressure) {
    std::vector<Region> changed;
    // What pushes goes in small steps.
    const double spacing = works_on_drift(brush_.work) ? std::min(brush_.spacing, 0.08f) : brush_.spacing,
                 gap = std::max(0.5, spacing * brush_.size);
    if (!last_) {
        const int x = static_cast<int>(std::floor(at.x)), y = static_cast<int>(std::floor(at.y));
        target_ = painting_.height(x, y) + (ground_ ? ground_(x, y) : 0.0f);
        press(at, pressure, changed);
        last_ = at, last_pressure_ = pressure;
        due_ = gap;
        return changed;
    }
    const double way = length(at - *last_);
    for (; due_ <= way && way > 0; due_ += gap) {
        const double t = due_ / way;
        press(*last_ + t * (at - *last_),
              static_cast<float>(last_pressure_ + t * (pressure - last_pressure_)), changed);
    }
    due_ -= way;
    last_ = at, last_pressure_ = pressure;
    return changed;
}

} // namespace bathylux
