#include "core/colour/ramp.h"

#include <algorithm>

#include "core/colour/lay_colors.h"
#include "core/relief/tones.h"
#include "core/step/color_words.h"
#include "core/step/stops_simd.h"

namespace bathylux {

Field gone_by(const Bundle& below, RampOf of, Region region, double scale) {
    switch (of) {
    case RampOf::tone: return Field(tone_plane(cropped(below, region), Channel::luma));
    case RampOf::height:
        return below.gives_height ? cropped(below.height, below.region, region) : Field(0.0f);
    case RampOf::slope:
        return below.gives_height
                   ? Field(steepness(below.height, below.region, region, static_cast<float>(scale)))
                   : Field(0.0f);
    case RampOf::alpha: return cropped(below.coverage, below.region, region);
    }
    return 0.0f;
}

Bundle Ramp::apply(const Bundle& below, const Context& context) const {
    const Region r = context.region;
    const MixedStops colors(stops, MixIn::encoded);
    // The brightness of the colour that is there is found along with it.
    const bool by_own = of == RampOf::tone && !below.tone && !below.stored;
    const Field q = by_own ? Field(0.0f) : gone_by(below, of, r, context.scale);
    const auto factor = static_cast<float>(of == RampOf::height ? context.rise : 1);
    const float from = factor * low, span = factor * (high - low),
                k = std::abs(span) < 1e-6f ? 1e6f : 1 / span;
    const int w = r.width();
    const Rows values(q, w);
    return colors_laid(below, context, blend, {colors.opaque(), by_own},
                       [&](int y, const std::array<float*, 3>& rgb, const std::array<float*, 4>& out) {
                           float* t = spare_rows<1>(w)[0];
                           const float* v = values(y);
                           if (by_own) {
#pragma GCC ivdep
                               for (int x = 0; x < w; ++x)
                                   t[x] = luma_r * rgb[0][x] + luma_g * rgb[1][x] + luma_b * rgb[2][x];
                               v = t;
                           }
                           repeat_row(v, t, w, from, k, repeats, mirrored);
                           colors.row(t, w, out);
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
