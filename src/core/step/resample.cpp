#include "core/step/resample.h"

namespace bathylux {

PictureSampler::PictureSampler(const Picture& picture, const Affine& to_picture, Edge edge,
                               Picture::Reading reading, Region region)
    : edge_(edge) {
    // The level at which the longer of the two steps is at least one of its pixels, but below two.
    const int wanted = static_cast<int>(std::floor(std::log2(std::max(1.0, to_picture.max_scale() + 1e-9))));
    const int level = std::clamp(wanted, 0, picture.levels() - 1);
    const double k = 1.0 / (1 << level);
    unscaled_ = std::abs(std::abs(to_picture.a) + std::abs(to_picture.b) - 1) < 1e-9;
    map_ = Affine::translation(-0.5, -0.5) * Affine::scaling(k, k) * to_picture;
    std::tie(width_, height_) = picture.size_of_level(level);
    const Region all{0, 0, width_, height_};
    held_ = grow(covering(transformed(
                     Box{double(region.x0), double(region.y0), double(region.x1), double(region.y1)}, map_)),
                 2);
    const bool endless = edge == Edge::repeat || edge == Edge::mirrored_repeat;
    if (endless && held_.area() > all.area())
        held_ = all, whole_ = true;
    else if (!endless) {
        // Beyond the rim its last px go on for ever: one of them is enough.
        const auto within = [](int v, int most) { return std::clamp(v, -1, most + 1); };
        held_ = {within(held_.x0, width_), within(held_.y0, height_), within(held_.x1, width_),
                 within(held_.y1, height_)};
        if (held_.x0 == held_.x1) held_.x1 > width_ ? --held_.x0 : ++held_.x1;
        if (held_.y0 == held_.y1) held_.y1 > height_ ? --held_.y0 : ++held_.y1;
    }
    texels_ = picture.texels(reading, level, held_, edge);
}

std::array<float, 4> PictureSampler::at(double x, double y) const {
    const Vec2 p = map_({x, y});
    double px = std::clamp(p.x, -1e8, 1e8), py = std::clamp(p.y, -1e8, 1e8);
    if (unscaled_) {
        // Round away the dust of the matrix product, so that whole-pixel placements stay exact.
        const auto clean = [](double v) { return std::abs(v - std::round(v)) < 1e-6 ? std::round(v) : v; };
        px = clean(px), py = clean(py);
    }
    // Quicker than std::floor, which is a call on machines that round by no instruction of their own.
    const auto below = [](double v) {
        const int i = static_cast<int>(v);
        return v < i ? i - 1 : i;
    };
    const int x0 = below(px), y0 = below(py);
    const auto fx = static_cast<float>(px - x0), fy = static_cast<float>(py - y0);
    const auto texel = [&](int i, int j) {
        if (whole_)
            i = wrapped(i, width_, edge_), j = wrapped(j, height_, edge_);
        else
            i = std::clamp(i, held_.x0, held_.x1 - 1) - held_.x0,
            j = std::clamp(j, held_.y0, held_.y1 - 1) - held_.y0;
        return texels_.rgba.row(j) + 4 * i;
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
