#include "core/piece/resample.h"

namespace bathylux {

PictureSampler::PictureSampler(const Picture& picture, const Affine& to_picture, Edge edge, bool color)
    : edge_(edge) {
    // The level at which the longer of the two steps is at least one of its pixels, but below two.
    const int wanted = static_cast<int>(std::floor(std::log2(std::max(1.0, to_picture.max_scale() + 1e-9))));
    const int level = std::clamp(wanted, 0, picture.levels() - 1);
    level_ = color ? &picture.color_level(level) : &picture.stored_level(level);
    const double k = 1.0 / (1 << level);
    unscaled_ = std::abs(std::abs(to_picture.a) + std::abs(to_picture.b) - 1) < 1e-9;
    map_ = Affine::translation(-0.5, -0.5) * Affine::scaling(k, k) * to_picture;
}

std::array<float, 4> PictureSampler::at(double x, double y) const {
    const Vec2 p = map_({x, y});
    double px = std::clamp(p.x, -1e8, 1e8), py = std::clamp(p.y, -1e8, 1e8);
    if (unscaled_) {
        // Round away the dust of the matrix product, so that whole-pixel placements stay exact.
        const auto clean = [](double v) { return std::abs(v - std::round(v)) < 1e-6 ? std::round(v) : v; };
        px = clean(px), py = clean(py);
    }
    const int x0 = static_cast<int>(std::floor(px)), y0 = static_cast<int>(std::floor(py));
    const auto fx = static_cast<float>(px - x0), fy = static_cast<float>(py - y0);
    const int w = level_->width, h = level_->height;
    const auto texel = [&](int i, int j) {
        return level_->rgba.row(wrapped(j, h, edge_)) + 4 * wrapped(i, w, edge_);
    };
    const float* a = texel(x0, y0);
    if (fx == 0 && fy == 0) return {a[0], a[1], a[2], a[3]};
    const float *b = texel(x0 + 1, y0), *c = texel(x0, y0 + 1), *d = texel(x0 + 1, y0 + 1);
    std::array<float, 4> out{};
    for (int i = 0; i < 4; ++i) {
        const float top = a[i] + fx * (b[i] - a[i]), bottom = c[i] + fx * (d[i] - c[i]);
        out[i] = top + fy * (bottom - top);
    }
    return out;
}

} // namespace bathylux
