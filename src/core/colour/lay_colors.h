#pragma once
#include <vector>

#include "core/colour/blend.h"
#include "core/colour/recolour.h"

namespace bathylux {

/// Rows for a thread's own use, each readable and writable up to the next multiple of 16.
template <std::size_t N> std::array<float*, N> spare_rows(int width) {
    thread_local std::vector<float> held;
    const std::size_t stride = (static_cast<std::size_t>(width) + 15) / 16 * 16;
    held.resize(N * stride);
    std::array<float*, N> out;
    for (std::size_t i = 0; i < N; ++i) out[i] = held.data() + i * stride;
    return out;
}

/// What is known of the colours that are laid: whether all of them are opaque, and whether they depend on
/// what is there.
struct Laid {
    bool opaque = false, by_own = false;
};

/// Lays colours over a picture by a mode of W3C Compositing, alpha left as it is. `colors` (called from
/// several threads) gives a row of them, straight, sRGB-encoded, with their alpha: y within the region, the
/// row that is there (straight, encoded; anything unless they depend on it), and four rows that may be
/// written up to the next multiple of 16.
template <class Colors>
Bundle colors_laid(const Bundle& below, const Context& context, BlendMode mode, Laid laid,
                   const Colors& colors) {
    const int w = context.region.width();
    if (mode == BlendMode::normal && laid.opaque && !laid.by_own) {
        // What was there does not matter.
        Bundle out = to_recolour(below, context.region);
        const int h = out.region.height();
        const bool solid = out.coverage.is_constant() && out.coverage.constant() == 1;
        const Rows alpha(out.coverage, w);
        std::array<Plane, 3> planes{Plane(w, h), Plane(w, h), Plane(w, h)};
        parallel_rows(0, h, [&](int y) {
            const std::array<float*, 3> rgb{planes[0].row(y), planes[1].row(y), planes[2].row(y)};
            colors(y, rgb, std::array<float*, 4>{rgb[0], rgb[1], rgb[2], spare_rows<4>(w)[3]});
            decode_row(rgb, solid ? nullptr : alpha(y), w, !context.unclamped);
        });
        for (std::size_t c = 0; c < 3; ++c) out.color[c] = Field(std::move(planes[c]));
        return out;
    }
    return recoloured_rows<Values::encoded>(below, context, [&](const std::array<float*, 3>& rgb, int y) {
        const auto over = spare_rows<4>(w);
        if (mode == BlendMode::normal && laid.opaque)
            return colors(y, rgb, std::array<float*, 4>{rgb[0], rgb[1], rgb[2], over[3]});
        colors(y, rgb, over);
        if (mode == BlendMode::normal) {
            for (std::size_t c = 0; c < 3; ++c) {
                const float *a = over[3], *v = over[c];
                float* to = rgb[c];
#pragma GCC ivdep
                for (int x = 0; x < w; ++x) to[x] += a[x] * (v[x] - to[x]);
            }
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
