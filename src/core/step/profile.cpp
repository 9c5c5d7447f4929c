#include "core/step/profile.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bathylux {

ProfileCurve::ProfileCurve(const Profile& profile) : profile_(profile) {
    const auto& p = profile_.points;
    if (profile_.shape != Profile::Shape::own || !profile_.smooth || p.size() < 3) return;
    // Fritsch & Carlson 1980, with the harmonic mean of the neighbouring slopes: monotone between points.
    const std::size_t n = p.size();
    std::vector<float> secant(n - 1);
    for (std::size_t i = 0; i + 1 < n; ++i)
        secant[i] = (p[i + 1].second - p[i].second) / std::max(p[i + 1].first - p[i].first, 1e-6f);
    slopes_.assign(n, 0.0f);
    slopes_.front() = secant.front();
    slopes_.back() = secant.back();
    for (std::size_t i = 1; i + 1 < n; ++i)
        if (secant[i - 1] * secant[i] > 0)
            slopes_[i] = 2 * secant[i - 1] * secant[i] / (secant[i - 1] + secant[i]);
}

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
    const auto& p = profile_.points;
    if (p.empty()) return t;
    if (t <= p.front().first) return p.front().second;
    if (t >= p.back().first) return p.back().second;
    const auto next =
        std::upper_bound(p.begin(), p.end(), t, [](float v, const auto& q) { return v < q.first; });
    const std::size_t i = static_cast<std::size_t>(next - p.begin()) - 1;
    const float h = std::max(p[i + 1].first - p[i].first, 1e-6f), u = (t - p[i].first) / h;
    if (slopes_.empty()) return p[i].second + u * (p[i + 1].second - p[i].second);
    const float u2 = u * u, u3 = u2 * u; // cubic Hermite
    return (2 * u3 - 3 * u2 + 1) * p[i].second + (u3 - 2 * u2 + u) * h * slopes_[i] +
           (3 * u2 - 2 * u3) * p[i + 1].second + (u3 - u2) * h * slopes_[i + 1];
}

} // namespace bathylux
