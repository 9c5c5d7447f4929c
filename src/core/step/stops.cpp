#include "core/step/stops.h"

#include <algorithm>
#include <cmath>

#include "core/field/oklab.h"
#include "core/step/stops_simd.h"

namespace bathylux {

namespace {

using Rgba = std::array<float, 4>;

/// Premultiplied, in the values that are mixed.
Rgba into(const Color& c, MixIn mix_in) {
    std::array<float, 3> v{c.r, c.g, c.b};
    if (mix_in != MixIn::encoded)
        for (float& x : v) x = srgb_decode(x);
    if (mix_in == MixIn::oklab) {
        const Lab lab = to_oklab(v[0], v[1], v[2]);
        v = {lab.lightness, lab.a, lab.b};
    }
    return {c.a * v[0], c.a * v[1], c.a * v[2], c.a};
}

Color out_of(const Rgba& v, MixIn mix_in) {
    if (!(v[3] > 0)) return {0, 0, 0, 0};
    std::array<float, 3> s{v[0] / v[3], v[1] / v[3], v[2] / v[3]};
    if (mix_in == MixIn::oklab) s = shown({s[0], s[1], s[2]});
    if (mix_in != MixIn::encoded)
        for (float& x : s) x = srgb_encode(x);
    return {s[0], s[1], s[2], v[3]};
}

Rgba between(const Rgba& a, const Rgba& b, float t) {
    Rgba out;
    for (int c = 0; c < 4; ++c) out[c] = a[c] + t * (b[c] - a[c]);
    return out;
}

Rgba multiplied(const Color& c) { return {c.a * c.r, c.a * c.g, c.a * c.b, c.a}; }

} // namespace

Color mixed(const Color& a, const Color& b, float t, MixIn mix_in) {
    return out_of(between(into(a, mix_in), into(b, mix_in), t), mix_in);
}

MixedStops::MixedStops(const Stops& stops, MixIn mix_in) {
    for (const Stop& s : stops) opaque_ = opaque_ && s.color.a == 1;
    std::vector<Rgba> values;
    const auto put = [&](float at, const Color& c) {
        knots_.at.push_back(at), values.push_back(multiplied(c));
    };
    put(-1e30f, stops.front().color); // before the first, and past the last, colours go on
    // What is mixed in other values than the ones it is read in is bent: knots in between follow it.
    const int parts = mix_in == MixIn::encoded ? 1 : 512;
    for (std::size_t i = 0; i < stops.size(); ++i) {
        put(stops[i].at, stops[i].color);
        for (int k = 1; k < parts && i + 1 < stops.size(); ++k) {
            const float t = static_cast<float>(k) / static_cast<float>(parts);
            put(stops[i].at + t * (stops[i + 1].at - stops[i].at),
                mixed(stops[i].color, stops[i + 1].color, t, mix_in));
        }
    }
    const std::size_t n = values.size();
    for (std::size_t c = 0; c < 4; ++c)
        for (std::size_t i = 0; i < n; ++i) {
            const float way = i + 1 < n && i > 0 ? knots_.at[i + 1] - knots_.at[i] : 0;
            knots_.value[c].push_back(values[i][c]);
            knots_.rise[c].push_back(way > 0 ? (values[i + 1][c] - values[i][c]) / way : 0);
        }
    knots_.at.push_back(1e30f);
    float steepest = 0;
    for (const auto& rises : knots_.rise)
        for (const float rise : rises) steepest = std::max(steepest, std::abs(rise));
    knots_.few = n <= 12 && steepest < 100;
    std::int32_t k = 0;
    for (int i = 0; i <= stop_stretches; ++i) {
        const float t = static_cast<float>(i) / stop_stretches;
        const std::int32_t before = k;
        while (knots_.at[static_cast<std::size_t>(k) + 1] <= t) ++k;
        if (i > 0) knots_.steps = std::max(knots_.steps, k - before);
        knots_.first.push_back(k);
    }
}

Color MixedStops::at(float t) const {
    std::size_t k = static_cast<std::size_t>(
        knots_.first[static_cast<std::size_t>(std::clamp(t, 0.0f, 1.0f) * stop_stretches)]);
    while (knots_.at[k + 1] <= t) ++k;
    const float way = k > 0 ? t - knots_.at[k] : 0;
    Rgba v;
    for (std::size_t c = 0; c < 4; ++c) v[c] = knots_.value[c][k] + way * knots_.rise[c][k];
    if (v[3] == 1) return {v[0], v[1], v[2], 1};
    const float by = v[3] > 0 ? 1 / v[3] : 0;
    return {by * v[0], by * v[1], by * v[2], v[3]};
}

void MixedStops::row(const float* t, int width, const std::array<float*, 4>& out) const {
    read_stops(knots_, opaque_, t, width, out);
}

} // namespace bathylux
