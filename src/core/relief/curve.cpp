#include "core/relief/curve.h"

#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

Bundle HeightCurve::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    if (!below.gives_height) return out;
    const auto from = static_cast<float>(low * context.rise), to = static_cast<float>(high * context.rise);
    const float span = to - from, per = std::abs(span) > 1e-6f ? 1 / span : 0;
    const ProfileCurve curve(profile);
    Plane& height = give_height(out);
    parallel_rows(0, height.height(), [&](int y) {
        for (float *h = height.row(y), *end = h + height.width(); h < end; ++h)
            *h = from + span * curve(std::clamp((*h - from) * per, 0.0f, 1.0f));
    });
    return out;
}

} // namespace bathylux
