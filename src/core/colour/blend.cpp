#include "core/colour/blend.h"

#include <algorithm>
#include <cmath>

#include "core/field/srgb.h"

namespace bathylux {

namespace {

using Rgb = std::array<float, 3>;

float separable(BlendMode mode, float b, float s) {
    switch (mode) {
    case BlendMode::multiply: return b * s;
    case BlendMode::screen: return b + s - b * s;
    case BlendMode::overlay: return separable(BlendMode::hard_light, s, b);
    case BlendMode::darken: return std::min(b, s);
    case BlendMode::lighten: return std::max(b, s);
    case BlendMode::color_dodge: return b <= 0 ? 0 : s >= 1 ? 1 : std::min(1.0f, b / (1 - s));
    case BlendMode::color_burn: return b >= 1 ? 1 : s <= 0 ? 0 : 1 - std::min(1.0f, (1 - b) / s);
    case BlendMode::hard_light: return s <= 0.5f ? b * 2 * s : b + (2 * s - 1) - b * (2 * s - 1);
    case BlendMode::soft_light: {
        if (s <= 0.5f) return b - (1 - 2 * s) * b * (1 - b);
        const float d = b <= 0.25f ? ((16 * b - 12) * b + 4) * b : std::sqrt(b);
        return b + (2 * s - 1) * (d - b);
    }
    case BlendMode::difference: return std::abs(b - s);
    case BlendMode::exclusion: return b + s - 2 * b * s;
    default: return s;
    }
}

// The non-separable modes, with the names of the standard. Its luminosity weights are those of the
// standard's text, not of Rec. 709.
float lum(const Rgb& c) { return 0.3f * c[0] + 0.59f * c[1] + 0.11f * c[2]; }
float sat(const Rgb& c) { return std::max({c[0], c[1], c[2]}) - std::min({c[0], c[1], c[2]}); }

Rgb clip_color(Rgb c) {
    const float l = lum(c), n = std::min({c[0], c[1], c[2]}), x = std::max({c[0], c[1], c[2]});
    for (float& v : c) {
        if (n < 0) v = l + (v - l) * l / (l - n);
        if (x > 1) v = l + (v - l) * (1 - l) / (x - l);
    }
    return c;
}

Rgb set_lum(Rgb c, float l) {
    const float d = l - lum(c);
    for (float& v : c) v += d;
    return clip_color(c);
}

Rgb set_sat(const Rgb& c, float s) {
    const float low = std::min({c[0], c[1], c[2]}), span = sat(c);
    Rgb out{};
    if (span > 0)
        for (int i = 0; i < 3; ++i) out[i] = (c[i] - low) * s / span;
    return out;
}

} // namespace

Rgb blend(BlendMode mode, const Rgb& b, const Rgb& s) {
    switch (mode) {
    case BlendMode::hue: return set_lum(set_sat(s, sat(b)), lum(b));
    case BlendMode::saturation: return set_lum(set_sat(b, sat(s)), lum(b));
    case BlendMode::color: return set_lum(s, lum(b));
    case BlendMode::luminosity: return set_lum(b, lum(s));
    default: return {separable(mode, b[0], s[0]), separable(mode, b[1], s[1]), separable(mode, b[2], s[2])};
    }
}

void composite(BlendMode mode, bool linear, const std::array<float, 4>& source,
               std::array<float, 4>& backdrop) {
    const float as = source[3], ab = backdrop[3];
    if (as <= 0) return;
    if (mode == BlendMode::normal && (as >= 1 || ab <= 0)) {
        backdrop = source;
        return;
    }
    const auto encode = [&](float v) { return linear ? v : fast_srgb_encode(v); };
    Rgb cs{}, cb{};
    for (int i = 0; i < 3; ++i) {
        cs[i] = encode(source[i] / as);
        cb[i] = ab > 0 ? encode(backdrop[i] / ab) : 0.0f;
    }
    const Rgb mixed = ab > 0 ? blend(mode, cb, cs) : cs;
    const float ao = united_coverage(as, ab);
    for (int i = 0; i < 3; ++i) {
        const float co = (1 - ab) * as * cs[i] + ab * as * mixed[i] + (1 - as) * ab * cb[i];
        backdrop[i] = ao * (linear ? co / ao : fast_srgb_decode(co / ao));
    }
    backdrop[3] = ao;
}

} // namespace bathylux
