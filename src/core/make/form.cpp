#include "core/make/form.h"

#include "core/field/geometry.h"
#include "core/field/parallel.h"
#include "core/make/shapes.h"
#include "core/step/height.h"
#include "core/step/step_kind.h"

namespace bathylux {

bool is_round(FormShape shape) { return shape != FormShape::ramp && shape != FormShape::ridge; }

float form_height(const FormSource& f, Vec2 at) {
    const double a = std::max(1e-6, f.width / 2.0), b = std::max(1e-6, f.height / 2.0);
    const double u = at.x / a, v = at.y / b, rho = std::hypot(u, v);
    double share = 0;
    switch (f.shape) {
    case FormShape::dome: share = std::sqrt(std::max(0.0, 1 - rho * rho)); break;
    case FormShape::cone: share = std::max(0.0, 1 - rho); break;
    case FormShape::dish: share = rho < 1 ? rho * rho : 0; break;
    case FormShape::coin_rim: {
        const double t = f.rim > 0 ? (1 - rho) * std::min(a, b) / f.rim : 2;
        share = t > 0 && t < 1 ? 2 * std::sqrt(t * (1 - t)) : 0;
        break;
    }
    case FormShape::ramp: share = std::abs(v) <= 1 ? std::clamp((1 + u) / 2, 0.0, 1.0) : 0; break;
    case FormShape::ridge: share = std::abs(u) <= 1 ? std::max(0.0, 1 - std::abs(v)) : 0; break;
    }
    return static_cast<float>(f.rise * share);
}

Bundle FormSource::give(const SourceContext& context) const {
    Bundle out = shapes_bundle(
        context,
        {{is_round(shape) ? ellipse_outline(width, height) : rectangle_outline(width, height, 0), color}},
        context.hash);
    if (!context.wanted.has(channel::height)) return out;
    const Affine to_form = context.to_device.inverse();
    const auto factor = static_cast<float>(context.rise);
    const Region r = context.region;
    Plane& to = give_height(out);
    parallel_rows(0, r.height(), [&](int y) {
        for (int x = 0; x < r.width(); ++x)
            to(x, y) = factor * form_height(*this, to_form({r.x0 + x + 0.5, r.y0 + y + 0.5}));
    });
    return out;
}
std::string FormSource::says() const {
    std::string words(form_shape_names[static_cast<std::size_t>(shape)]);
    std::replace(words.begin(), words.end(), '_', ' ');
    return words + ", " + said(rise) + " px";
}

} // namespace bathylux
