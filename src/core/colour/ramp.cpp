#include "core/colour/ramp.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/colour/lay_colors.h"
#include "core/relief/tones.h"
#include "core/step/color_words.h"

namespace bathylux {

namespace {

/// How steep the height of a bundle is over `wanted`, 0 level to 1 upright.
Plane steepness(const Bundle& b, Region wanted, float per_px) {
    const Region have = b.region;
    Plane out(wanted.width(), wanted.height());
    const Rows heights(b.height, have.width());
    parallel_rows(0, wanted.height(), [&](int y) {
        const int j = y + wanted.y0 - have.y0;
        const float *above = heights(std::max(0, j - 1)), *row = heights(j),
                    *below = heights(std::min(have.height() - 1, j + 1));
        for (int x = 0; x < wanted.width(); ++x) {
            const int i = x + wanted.x0 - have.x0;
            const float gx = row[std::min(have.width() - 1, i + 1)] - row[std::max(0, i - 1)],
                        gy = below[i] - above[i];
            out(x, y) =
                std::atan(0.5f * per_px * std::sqrt(gx * gx + gy * gy)) * (2 / std::numbers::pi_v<float>);
        }
    });
    return out;
}

} // namespace

Bundle Ramp::apply(const Bundle& below, const Context& context) const {
    const Region r = context.region;
    const MixedStops colors(stops, MixIn::encoded);
    const bool by_own = of == RampOf::tone && !below.tone && !below.stored;
    Field q = 0.0f;
    switch (of) {
    case RampOf::tone:
        if (!by_own) q = Field(tone_plane(cropped(below, r), Channel::luma));
        break;
    case RampOf::height:
        if (below.gives_height) q = cropped(below.height, below.region, r);
        break;
    case RampOf::slope:
        if (below.gives_height) q = Field(steepness(below, r, static_cast<float>(context.scale)));
        break;
    case RampOf::alpha: q = cropped(below.coverage, below.region, r); break;
    }
    const auto factor = static_cast<float>(of == RampOf::height ? context.rise : 1);
    const float from = factor * low, span = factor * (high - low),
                k = std::abs(span) < 1e-6f ? 1e6f : 1 / span;
    const int w = r.width();
    // The colours of a row of the quantity, which is changed.
    const auto color_row = [&](float* v, const std::array<float*, 4>& out) {
#pragma GCC ivdep
        for (int x = 0; x < w; ++x)
            v[x] = repeated(std::clamp((v[x] - from) * k, 0.0f, 1.0f), repeats, mirrored);
        colors.row(v, w, out);
    };
    if (by_own && blend == BlendMode::normal)
        return recoloured_rows<Values::encoded>(below, context, [&](const std::array<float*, 3>& rgb, int) {
            thread_local std::vector<float> held;
            const std::size_t stride = (static_cast<std::size_t>(w) + 15) / 16 * 16;
            held.resize(5 * stride);
            float* t = held.data();
            const std::array<float*, 4> over{t + stride, t + 2 * stride, t + 3 * stride, t + 4 * stride};
#pragma GCC ivdep
            for (int x = 0; x < w; ++x) t[x] = luma_r * rgb[0][x] + luma_g * rgb[1][x] + luma_b * rgb[2][x];
            if (colors.opaque()) return color_row(t, {rgb[0], rgb[1], rgb[2], over[3]});
            color_row(t, over);
            for (std::size_t c = 0; c < 3; ++c) {
                const float *a = over[3], *v = over[c];
                float* to = rgb[c];
#pragma GCC ivdep
                for (int x = 0; x < w; ++x) to[x] += a[x] * (v[x] - to[x]);
            }
        });
    if (by_own) q = Field(tone_plane(cropped(below, r), Channel::luma));
    const Rows values(q, w);
    return colors_laid(below, context, blend, colors.opaque(), [&](int y, const std::array<float*, 4>& out) {
        thread_local std::vector<float> t;
        t.resize(static_cast<std::size_t>(w) + 16);
        std::copy_n(values(y), w, t.data());
        color_row(t.data(), out);
    });
}

std::string Ramp::says() const {
    const std::string by{ramp_of_words[static_cast<std::size_t>(of)]};
    std::string out = repeats == 1 ? in_words(stops) : counted(repeats) + " bands of " + in_words(stops);
    out += " by " + by;
    if (of == RampOf::height) return out + ", " + said(low) + " to " + said(high) + " px";
    if (low != 0 || high != 1) out += ", " + said(100 * low) + " to " + said(100 * high) + " %";
    return out;
}

} // namespace bathylux
