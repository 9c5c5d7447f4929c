#include "core/relief/terrace.h"

#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

template <class F> Bundle remapped(const Bundle& below, const Context& context, const F& level) {
    Bundle out = cropped(below, context.region);
    if (!below.gives_height) return out;
    const auto [low, high] = context.range;
    if (!(high > low)) return out;
    Plane& height = give_height(out);
    parallel_rows(0, height.height(), [&, low = low, span = high - low](int y) {
        float* h = height.row(y);
        for (int x = 0; x < height.width(); ++x) h[x] = level((h[x] - low) / span, low, span);
    });
    return out;
}

} // namespace

Bundle Terrace::apply(const Bundle& below, const Context& context) const {
    const float n = std::max(2.0f, std::round(steps));
    return remapped(below, context, [&](float t, float low, float span) {
        const float u = std::clamp(t, 0.0f, 1.0f) * n, k = std::min(std::floor(u), n - 1), within = u - k;
        const float rising =
            slope > 0 && k < n - 1 ? std::clamp((within - 1 + slope) / slope, 0.0f, 1.0f) : 0.0f;
        return low + span * (k + rising) / (n - 1);
    });
}

Bundle TotalRise::apply(const Bundle& below, const Context& context) const {
    const auto from = static_cast<float>(low * context.rise), to = static_cast<float>(high * context.rise);
    return remapped(below, context, [&](float t, float, float) { return from + t * (to - from); });
}

} // namespace bathylux
