#include "core/light/beyond.h"

#include <algorithm>
#include <cmath>

#include "core/field/parallel.h"

namespace bathylux {

namespace {

/// A place is looked at as coarsely as a twentieth of its distance.
constexpr double parts_of_way = 20;

Plane half(const Plane& in) {
    const int w = (in.width() + 1) / 2, h = (in.height() + 1) / 2;
    Plane out(w, h);
    parallel_rows(0, h, [&](int y) {
        const float *a = in.row(2 * y), *b = in.row(std::min(2 * y + 1, in.height() - 1));
        for (int x = 0; x < w; ++x) {
            const int l = 2 * x, r = std::min(2 * x + 1, in.width() - 1);
            out(x, y) = std::max({a[l], a[r], b[l], b[r]});
        }
    });
    return out;
}

} // namespace

Beyond::Beyond(Plane coarse, double ratio) : ratio_(ratio) {
    highest_ = lowest_ = coarse(0, 0);
    for (int y = 0; y < coarse.height(); ++y)
        for (int x = 0; x < coarse.width(); ++x)
            highest_ = std::max(highest_, coarse(x, y)), lowest_ = std::min(lowest_, coarse(x, y));
    maxima_.push_back(std::move(coarse));
    while (maxima_.back().width() > 2 && maxima_.back().height() > 2) maxima_.push_back(half(maxima_.back()));
}

float Beyond::at(double x, double y, int level) const {
    const Plane& p = maxima_[level];
    const double k = ratio_ / (1 << level);
    const double u = std::clamp(x * k - 0.5, 0.0, p.width() - 1.0),
                 v = std::clamp(y * k - 0.5, 0.0, p.height() - 1.0);
    const int i = static_cast<int>(u), j = static_cast<int>(v);
    const int i1 = std::min(i + 1, p.width() - 1), j1 = std::min(j + 1, p.height() - 1);
    const auto fu = static_cast<float>(u - i), fv = static_cast<float>(v - j);
    const float top = p(i, j) + fu * (p(i1, j) - p(i, j)), bottom = p(i, j1) + fu * (p(i1, j1) - p(i, j1));
    return top + fv * (bottom - top);
}

template <class F>
void Beyond::walk(double x, double y, double dx, double dy, double most, const F& meet) const {
    const double w = maxima_[0].width() / ratio_, h = maxima_[0].height() / ratio_, cell = 1 / ratio_;
    const int levels = static_cast<int>(maxima_.size());
    // What lies less than a px away is the place itself.
    for (double t = std::max(0.5 * cell, 1.0); t < most;) {
        const double px = x + t * dx, py = y + t * dy;
        if (px < 0 || py < 0 || px >= w || py >= h) return;
        const double size = std::max(cell, t / parts_of_way);
        const int level = std::min(static_cast<int>(std::log2(size / cell)), levels - 1);
        meet(t, at(px, py, level));
        t += std::max(cell, size);
    }
}

void Beyond::enter(double x, double y, double dx, double dy, const Levels& levels, float* horizon) const {
    std::fill_n(horizon, levels.count, -1e30f);
    walk(x, y, dx, dy, 1e9, [&](double t, float height) {
        for (int j = 0; j < levels.count; ++j)
            horizon[j] = std::max(horizon[j], height - levels.slope[j] * static_cast<float>(t));
    });
}

void Beyond::enter_from(double x, double y, double mx, double my, bool across, const Mast& mast,
                        float* height, float* inverse) const {
    std::fill_n(height, mast_levels, -1e15f), std::fill_n(inverse, mast_levels, 1.0f);
    const double dx = mx - x, dy = my - y, way = std::hypot(dx, dy);
    if (way < 1e-6) return;
    const double along = std::abs(across ? dx : dy) / way; // of the rows' way, a px of the line's
    walk(x, y, dx / way, dy / way, way - 1, [&](double t, float h) {
        const auto k = static_cast<float>(1 / std::max(1e-6, (way - t) * along));
        for (int j = 0; j < mast_levels; ++j)
            if ((mast[j] - h) * k < (mast[j] - height[j]) * inverse[j]) height[j] = h, inverse[j] = k;
    });
}

} // namespace bathylux
