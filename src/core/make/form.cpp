#include "core/make/form.h"

#include "core/field/geometry.h"

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

} // namespace bathylux
