#pragma once
#include <algorithm>
#include <array>

#include "core/field/parallel.h"
#include "core/field/root_table.h"
#include "core/field/srgb.h"
#include "core/field/srgb_simd.h"
#include "core/step/height.h"

namespace bathylux {

/// A straight colour at a place; sRGB-encoded or linear, as who asks for it says.
using Rgb = std::array<float, 3>;

enum class Values { encoded, linear };

/// What a step on colour begins with: the part that is wanted, the tones forgotten as they were stored.
inline Bundle to_recolour(const Bundle& below, Region wanted) {
    Bundle out = cropped(below, wanted);
    out.stored.reset();
    out.tone.reset();
    return out;
}

namespace detail {

/// Straight linear colour of a row, in place, and back.
inline void unmultiply_row(const std::array<float*, 3>& rgb, const float* alpha, int width) {
    for (int x = 0; alpha && x < width; ++x) {
        const float k = alpha[x] > 1e-30f ? 1 / alpha[x] : 0;
        for (float* row : rgb) row[x] *= k;
    }
}
inline void multiply_row(const std::array<float*, 3>& rgb, const float* alpha, int width, bool held) {
    for (float* row : rgb)
        for (int x = 0; x < width; ++x) {
            const float v = held ? std::clamp(row[x], 0.0f, 1.0f) : row[x];
            row[x] = alpha ? alpha[x] * v : v;
        }
}

} // namespace detail

/// What every step on colour does: sends the straight colour of each place, with its alpha left alone,
/// through `work`, a row at a time (three rows, changed in place; y within the region), holds what comes in
/// 0…1 where the picture is yet to be lit, and forgets the tones as they were stored. Light that lies over
/// nothing, as a lit picture may have it, stays as it is. `work` is called from several threads.
template <Values values, class Work>
Bundle recoloured_rows(const Bundle& below, const Context& context, const Work& work) {
    Bundle out = to_recolour(below, context.region);
    const int w = out.region.width(), h = out.region.height();
    const bool opaque = out.coverage.is_constant() && out.coverage.constant() == 1, held = !context.unclamped;
    const Field cover = out.coverage;
    const Rows alpha(cover, w);
    const auto before = out.color;
    const std::array<Rows, 3> from{Rows(before[0], w), Rows(before[1], w), Rows(before[2], w)};
    std::array<Plane, 3> planes{Plane(w, h), Plane(w, h), Plane(w, h)};
    parallel_rows(0, h, [&](int y) {
        const std::array<float*, 3> rgb{planes[0].row(y), planes[1].row(y), planes[2].row(y)};
        const std::array<const float*, 3> there{from[0](y), from[1](y), from[2](y)};
        const float* a = opaque ? nullptr : alpha(y);
        std::vector<std::pair<int, Rgb>> over_nothing;
        for (int x = 0; a && !held && x < w; ++x)
            if (!(a[x] > 0)) over_nothing.emplace_back(x, Rgb{there[0][x], there[1][x], there[2][x]});
        if constexpr (values == Values::encoded)
            encode_row(there, rgb, a, w);
        else {
            for (std::size_t c = 0; c < 3; ++c) std::copy_n(there[c], w, rgb[c]);
            detail::unmultiply_row(rgb, a, w);
        }
        work(rgb, y);
        if constexpr (values == Values::encoded)
            decode_row(rgb, a, w, held);
        else
            detail::multiply_row(rgb, a, w, held);
        for (const auto& [x, v] : over_nothing)
            for (int c = 0; c < 3; ++c) rgb[c][x] = v[c];
    });
    for (std::size_t c = 0; c < 3; ++c) out.color[c] = Field(std::move(planes[c]));
    return out;
}

/// The same where each place's colour depends on itself alone: `work` makes an Rgb of an Rgb.
template <Values values, class Work>
Bundle recoloured(const Bundle& below, const Context& context, const Work& work) {
    const int w = context.region.width();
    const bool constant =
        below.coverage.is_constant() &&
        std::all_of(below.color.begin(), below.color.end(), [](const Field& f) { return f.is_constant(); });
    const auto through = [&work](const std::array<float*, 3>& rgb, int width) {
        for (int x = 0; x < width; ++x) {
            const Rgb v = work(Rgb{rgb[0][x], rgb[1][x], rgb[2][x]});
            rgb[0][x] = v[0], rgb[1][x] = v[1], rgb[2][x] = v[2];
        }
    };
    if (!constant)
        return recoloured_rows<values>(below, context,
                                       [&](const std::array<float*, 3>& rgb, int) { through(rgb, w); });
    // One colour all over stays one.
    Bundle one = below;
    one.region = {0, 0, 1, 1};
    Context there = context;
    there.region = one.region;
    one =
        recoloured_rows<values>(one, there, [&](const std::array<float*, 3>& rgb, int) { through(rgb, 1); });
    Bundle out = to_recolour(below, context.region);
    for (int c = 0; c < 3; ++c) out.color[c] = one.color[c].at(0, 0);
    return out;
}

/// The same where each channel depends on itself alone: `work` makes an encoded value of one and does not
/// change faster than `slope` anywhere. Where that is moderate it is read from a table over the root of the
/// linear value, straight lines in between (within 1e-4).
template <class Work>
Bundle recoloured_by_channel(const Bundle& below, const Context& context, float slope, int only,
                             const Work& work) {
    constexpr float moderate = 24;
    const bool constant = below.coverage.is_constant() && below.color[0].is_constant() &&
                          below.color[1].is_constant() && below.color[2].is_constant();
    if (!(slope <= moderate) || constant)
        return recoloured<Values::encoded>(below, context, [&](Rgb v) {
            for (int c = 0; c < 3; ++c)
                if (only < 0 || only == c) v[c] = work(v[c]);
            return v;
        });
    const bool held = !context.unclamped;
    const auto through = [&](float linear) {
        const float v = work(srgb_encode(linear));
        return srgb_decode(held ? std::clamp(v, 0.0f, 1.0f) : v);
    };
    const RootTable table(through);
    Bundle out = to_recolour(below, context.region);
    const int w = out.region.width(), h = out.region.height();
    const bool opaque = out.coverage.is_constant() && out.coverage.constant() == 1;
    const Rows alpha(out.coverage, w);
    for (int c = 0; c < 3; ++c) {
        if (only >= 0 && only != c) continue;
        const Field before = out.color[c];
        const Rows from(before, w);
        Plane plane(w, h);
        parallel_rows(
            0, h, [&](int y) { table.row(from(y), opaque ? nullptr : alpha(y), plane.row(y), w, through); });
        out.color[c] = Field(std::move(plane));
    }
    return out;
}

} // namespace bathylux
