#include "core/step/gradient.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace bathylux {

Gradient::Gradient(const GradientLine& line, const Stops& stops, MixIn mix_in, const Box& box,
                   const Affine& to_device)
    : line_(line), mix_in_(mix_in), stops_(stops, mix_in), half_u_(std::max(box.width() / 2, 1e-9)),
      half_v_(std::max(box.height() / 2, 1e-9)), turn_(line.angle * radians_per_degree),
      opaque_(stops_.opaque()) {
    const Vec2 middle = box.centre();
    to_box_ = Affine::scaling(1 / half_u_, 1 / half_v_) * Affine::translation(-middle.x, -middle.y) *
              to_device.inverse();
    // Half the line, as CSS measures it: how far the corners reach along it.
    const double x = std::cos(turn_), y = -std::sin(turn_),
                 half = std::abs(x) * half_u_ + std::abs(y) * half_v_;
    along_u_ = x * half_u_ / (2 * half), along_v_ = y * half_v_ / (2 * half);
    for (std::size_t i = 0; i < 4; ++i) corners_[i] = stops[std::min(i, stops.size() - 1)].color;
}

/// t along a row from px x0 on, whose px 0 lies at (u, v) and the next (du, dv) further: the same whatever
/// part of the row is asked for.
void Gradient::places(float u, float v, float du, float dv, int x0, int width, float* t) const {
    const auto each = [&](const auto& place) {
#pragma GCC ivdep
        for (int x = 0; x < width; ++x) {
            const auto i = static_cast<float>(x0 + x);
            t[x] = repeated(place(u + i * du, v + i * dv), line_.repeats, line_.mirrored);
        }
    };
    const auto a = static_cast<float>(along_u_), b = static_cast<float>(along_v_);
    switch (line_.shape) {
    case GradientShape::linear: return each([=](float p, float q) { return 0.5f + a * p + b * q; });
    case GradientShape::reflected:
        return each([=](float p, float q) { return std::abs(2 * (a * p + b * q)); });
    case GradientShape::radial: return each([](float p, float q) { return std::sqrt(p * p + q * q); });
    case GradientShape::conic:
        return each([&](float p, float q) {
            const double turns = (std::atan2(-q * half_v_, p * half_u_) - turn_) / (2 * std::numbers::pi);
            return static_cast<float>(turns - std::floor(turns));
        });
    case GradientShape::corners: break;
    }
}

Color Gradient::at_corners(float x, float y) const {
    // Premultiplied weights, in the values that are mixed: twice across, once down.
    return mixed(mixed(corners_[0], corners_[1], x, mix_in_), mixed(corners_[2], corners_[3], x, mix_in_), y,
                 mix_in_);
}

void Gradient::row(int x0, int y, int width, const std::array<float*, 4>& out) const {
    const Vec2 step = to_box_.direction({1, 0}), first = to_box_({0.5, y + 0.5});
    if (line_.shape != GradientShape::corners) {
        thread_local std::vector<float> t;
        t.resize(static_cast<std::size_t>(width) + 16);
        places(static_cast<float>(first.x), static_cast<float>(first.y), static_cast<float>(step.x),
               static_cast<float>(step.y), x0, width, t.data());
        return stops_.row(t.data(), width, out);
    }
    for (int x = 0; x < width; ++x) {
        const double u = first.x + (x0 + x) * step.x, v = first.y + (x0 + x) * step.y;
        const Color c = at_corners(static_cast<float>(std::clamp((u + 1) / 2, 0.0, 1.0)),
                                   static_cast<float>(std::clamp((v + 1) / 2, 0.0, 1.0)));
        out[0][x] = c.r, out[1][x] = c.g, out[2][x] = c.b, out[3][x] = c.a;
    }
}

} // namespace bathylux
