#include "core/relief/tones.h"

#include <numeric>

#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "core/step/height.h"
#include "core/step/resample.h"

namespace bathylux {

namespace {

float tone_of(const float* rgba, Channel channel) {
    if (channel == Channel::luma) return luma_r * rgba[0] + luma_g * rgba[1] + luma_b * rgba[2];
    return rgba[static_cast<int>(channel) - 1];
}

} // namespace

Plane tone_plane(const Bundle& b, Channel channel) {
    const int w = b.region.width(), h = b.region.height();
    if (b.tone && channel != Channel::alpha && !b.tone->is_constant()) return b.tone->plane();
    Plane out(w, h);
    if (b.stored) {
        const StoredSampler sampler(*b.stored, b.region);
        parallel_rows(0, h, [&](int y) {
            for (int x = 0; x < w; ++x) {
                const auto rgba = sampler.at(b.region.x0 + x + 0.5, b.region.y0 + y + 0.5);
                out(x, y) = tone_of(rgba.data(), channel);
            }
        });
        return out;
    }
    const Rows red(b.color[0], w), green(b.color[1], w), blue(b.color[2], w), alpha(b.coverage, w);
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const float a = alpha(y)[x], k = a > 1e-30f ? 1 / a : 0;
            const float rgba[4] = {fast_srgb_encode(k * red(y)[x]), fast_srgb_encode(k * green(y)[x]),
                                   fast_srgb_encode(k * blue(y)[x]), a};
            out(x, y) = tone_of(rgba, channel);
        }
    });
    return out;
}

Bundle Tones::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const Plane tone = tone_plane(out, channel);
    const bool straight = curve.shape == Profile::Shape::chamfer;
    const bool held = !straight || !(out.tone || (out.stored && out.stored->picture->is_float()));
    const ProfileCurve shape(curve);
    const float span = std::abs(high - low) < 1e-6f ? 1e-6f : high - low;
    const auto top = static_cast<float>(rise * context.rise);
    Plane& height = give_height(out);
    parallel_rows(0, height.height(), [&](int y) {
        const float* t = tone.row(y);
        float* h = height.row(y);
        for (int x = 0; x < height.width(); ++x) {
            float u = (t[x] - low) / span;
            if (gain != 1) u = 0.5f + gain * (u - 0.5f);
            if (held) u = std::clamp(u, 0.0f, 1.0f);
            if (!straight) u = shape(u);
            // Of a float's tones and a steep gain: no higher than what slopes can be made of.
            h[x] += std::clamp(top * u, -1e9f, 1e9f);
        }
    });
    return out;
}

std::string Tones::says() const {
    const std::string what =
        channel == Channel::luma ? "tones" : std::string(channel_names[static_cast<std::size_t>(channel)]);
    const std::string more = gain != 1 ? ", gain " + said(gain) : "";
    return what + " " + said(low) + " to " + said(high) + ", " + (rise < 0 ? "down " : "up ") +
           said(std::abs(rise)) + " px" + more;
}

std::optional<float> stored_tone(const Picture& p, int x, int y, Channel channel) {
    const bool grey = p.channels < 3;
    float rgba[4];
    for (int c = 0; c < 3; ++c) rgba[c] = p.stored(x, y, grey ? 0 : c);
    rgba[3] = p.has_alpha() ? p.stored(x, y, p.channels - 1) : 1.0f;
    if (rgba[3] <= 0 && channel != Channel::alpha) return std::nullopt;
    const float t = tone_of(rgba, channel);
    return std::isfinite(t) ? std::optional(t) : std::nullopt;
}

int tone_bin(float tone, int bins) {
    return std::clamp(static_cast<int>(tone * static_cast<float>(bins)), 0, bins - 1);
}

std::vector<int> tone_histogram(const Picture& p, Channel channel, int bins) {
    std::vector<int> out(bins, 0);
    // A million samples say all that a histogram shows.
    const int step = std::max(1, static_cast<int>(std::sqrt(static_cast<double>(p.width) * p.height / 1e6)));
    for (int y = 0; y < p.height; y += step)
        for (int x = 0; x < p.width; x += step)
            if (const auto t = stored_tone(p, x, y, channel)) ++out[tone_bin(*t, bins)];
    return out;
}

std::pair<float, float> tone_range(const Picture& picture, Channel channel) {
    constexpr int bins = 256;
    const auto counts = tone_histogram(picture, channel, bins);
    const double total = std::accumulate(counts.begin(), counts.end(), 0.0), spare = total / 1000;
    int low = 0, high = bins - 1;
    for (double sum = 0; low < bins - 1 && (sum += counts[low]) <= spare;) ++low;
    for (double sum = 0; high > 0 && (sum += counts[high]) <= spare;) --high;
    if (high <= low) return {0.0f, 1.0f};
    return {static_cast<float>(low) / bins, static_cast<float>(high + 1) / bins};
}

} // namespace bathylux
