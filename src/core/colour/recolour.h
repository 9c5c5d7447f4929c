#pragma once
#include <algorithm>
#include <array>

#include "core/field/parallel.h"
#include "core/field/srgb.h"
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

/// What every step on colour does: sends the straight colour of each place, with its alpha left alone,
/// through `work` (Rgb → Rgb), holds what comes in 0…1, and forgets the tones as they were stored. Places
/// where there is nothing stay so. `work` is called from several threads.
template <Values values, class Work>
Bundle recoloured(const Bundle& below, const Context& context, const Work& work) {
    Bundle out = to_recolour(below, context.region);
    const int w = out.region.width(), h = out.region.height();
    const auto through = [&work](Rgb& v, float alpha) {
        if (!(alpha > 0)) return;
        for (float& c : v) {
            c /= alpha;
            if constexpr (values == Values::encoded) c = fast_srgb_encode(c);
        }
        v = work(v);
        for (float& c : v) {
            c = std::clamp(c, 0.0f, 1.0f);
            if constexpr (values == Values::encoded) c = fast_srgb_decode(c);
            c *= alpha;
        }
    };
    const bool constant =
        out.coverage.is_constant() &&
        std::all_of(out.color.begin(), out.color.end(), [](const Field& f) { return f.is_constant(); });
    if (constant) {
        Rgb v{out.color[0].constant(), out.color[1].constant(), out.color[2].constant()};
        through(v, out.coverage.constant());
        for (int c = 0; c < 3; ++c) out.color[c] = v[c];
        return out;
    }
    const Rows alpha(out.coverage, w);
    std::array<Plane*, 3> planes;
    for (int c = 0; c < 3; ++c) planes[c] = &out.color[c].writable(w, h);
    parallel_rows(0, h, [&](int y) {
        float *r = planes[0]->row(y), *g = planes[1]->row(y), *b = planes[2]->row(y);
        const float* a = alpha(y);
        for (int x = 0; x < w; ++x) {
            Rgb v{r[x], g[x], b[x]};
            through(v, a[x]);
            r[x] = v[0], g[x] = v[1], b[x] = v[2];
        }
    });
    return out;
}

} // namespace bathylux
