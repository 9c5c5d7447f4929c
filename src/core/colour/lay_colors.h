#pragma once
#include <vector>

#include "core/colour/blend.h"
#include "core/colour/recolour.h"

namespace bathylux {

/// Lays colours over a picture by a mode of W3C Compositing, alpha left as it is. `colors` (called from
/// several threads) gives a row of them, straight, sRGB-encoded, with their alpha: y within the region, and
/// four rows that may be written up to the next multiple of 16. `opaque`: all of them are.
template <class Colors>
Bundle colors_laid(const Bundle& below, const Context& context, BlendMode mode, bool opaque,
                   const Colors& colors) {
    const int w = context.region.width();
    const auto rows_of = [w](std::vector<float>& held) {
        const std::size_t stride = (static_cast<std::size_t>(w) + 15) / 16 * 16;
        held.resize(4 * stride);
        return std::array<float*, 4>{held.data(), held.data() + stride, held.data() + 2 * stride,
                                     held.data() + 3 * stride};
    };
    if (mode == BlendMode::normal && opaque) {
        // What was there does not matter.
        Bundle out = to_recolour(below, context.region);
        const int h = out.region.height();
        const bool solid = out.coverage.is_constant() && out.coverage.constant() == 1;
        const Rows alpha(out.coverage, w);
        std::array<Plane, 3> planes{Plane(w, h), Plane(w, h), Plane(w, h)};
        parallel_rows(0, h, [&](int y) {
            thread_local std::vector<float> held;
            const auto spare = rows_of(held);
            const std::array<float*, 3> rgb{planes[0].row(y), planes[1].row(y), planes[2].row(y)};
            colors(y, std::array<float*, 4>{rgb[0], rgb[1], rgb[2], spare[3]});
            decode_row(rgb, solid ? nullptr : alpha(y), w, !context.unclamped);
        });
        for (std::size_t c = 0; c < 3; ++c) out.color[c] = Field(std::move(planes[c]));
        return out;
    }
    return recoloured_rows<Values::encoded>(below, context, [&](const std::array<float*, 3>& rgb, int y) {
        thread_local std::vector<float> held;
        const auto over = rows_of(held);
        colors(y, over);
        if (mode == BlendMode::normal) {
            for (int c = 0; c < 3; ++c)
                for (int x = 0; x < w; ++x) rgb[c][x] += over[3][x] * (over[c][x] - rgb[c][x]);
            return;
        }
        for (int x = 0; x < w; ++x) {
            const Rgb under{rgb[0][x], rgb[1][x], rgb[2][x]};
            const Rgb both = blend(mode, under, {over[0][x], over[1][x], over[2][x]});
            for (int c = 0; c < 3; ++c) rgb[c][x] = under[c] + over[3][x] * (both[c] - under[c]);
        }
    });
}

} // namespace bathylux
