#include "core/step/profile.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bathylux {

ProfileCurve::ProfileCurve(const Profile& profile)
    : profile_(profile), smooth_(profile.smooth ? profile.points : Points()) {}

float ProfileCurve::operator()(float t) const {
    t = std::clamp(t, 0.0f, 1.0f);
    switch (profile_.shape) {
    case Profile::Shape::chamfer: return t;
    case Profile::Shape::round: return std::sqrt(std::max(0.0f, 1 - (1 - t) * (1 - t)));
    case Profile::Shape::cove: return 1 - std::sqrt(std::max(0.0f, 1 - t * t));
    case Profile::Shape::ogee: return t * t * (3 - 2 * t);
    case Profile::Shape::step: {
        // Two treads, each behind a riser an eighth of the width long.
        constexpr float riser = 0.125f;
        return t < 0.5f ? 0.5f * std::min(1.0f, t / riser) : 0.5f + 0.5f * std::min(1.0f, (t - 0.5f) / riser);
    }
    // A rounded roll at the edge, a hollow behind it, then up.
    case Profile::Shape::bead: return t + 0.32f * std::sin(2 * std::numbers::pi_v<float> * t);
    case Profile::Shape::own: break;
    }
    const Points& p = profile_.points;
    if (profile_.smooth || p.empty()) return smooth_(t);
    if (t <= p.front().first) return p.front().second;
    if (!(t < p.back().first)) return p.back().second;
    const auto next =
        std::upper_bound(p.begin(), p.end(), t, [](float v, const auto& q) { return v < q.first; });
    const auto from = *(next - 1), to = *next;
    const float u = (t - from.first) / std::max(to.first - from.first, 1e-6f);
    return from.second + u * (to.second - from.second);
}

} // namespace bathylux
