#include "core/step/points.h"

#include <algorithm>
#include <cmath>

namespace bathylux {

MonotoneCurve::MonotoneCurve(Points points) : points_(std::move(points)) {
    const std::size_t n = points_.size();
    if (n < 2) return;
    std::vector<float> secant(n - 1);
    for (std::size_t i = 0; i + 1 < n; ++i)
        secant[i] = (points_[i + 1].second - points_[i].second) /
                    std::max(points_[i + 1].first - points_[i].first, 1e-6f);
    tangents_.assign(n, 0.0f);
    tangents_.front() = secant.front(), tangents_.back() = secant.back();
    for (std::size_t i = 1; i + 1 < n; ++i)
        if (secant[i - 1] * secant[i] > 0) tangents_[i] = 0.5f * (secant[i - 1] + secant[i]);
    for (std::size_t i = 0; i + 1 < n; ++i) {
        if (secant[i] == 0) {
            tangents_[i] = tangents_[i + 1] = 0;
            continue;
        }
        const float alpha = tangents_[i] / secant[i], beta = tangents_[i + 1] / secant[i],
                    length2 = alpha * alpha + beta * beta;
        if (length2 <= 9) continue;
        const float tau = 3 / std::sqrt(length2);
        tangents_[i] = tau * alpha * secant[i], tangents_[i + 1] = tau * beta * secant[i];
    }
}

float MonotoneCurve::operator()(float x) const {
    const Points& p = points_;
    if (p.empty()) return x;
    if (!(x > p.front().first)) return p.front().second;
    if (x >= p.back().first) return p.back().second;
    const auto next =
        std::upper_bound(p.begin(), p.end(), x, [](float v, const auto& q) { return v < q.first; });
    const std::size_t i = static_cast<std::size_t>(next - p.begin()) - 1;
    const float h = p[i + 1].first - p[i].first, u = (x - p[i].first) / h, u2 = u * u, u3 = u2 * u;
    return (2 * u3 - 3 * u2 + 1) * p[i].second + (u3 - 2 * u2 + u) * h * tangents_[i] +
           (3 * u2 - 2 * u3) * p[i + 1].second + (u3 - u2) * h * tangents_[i + 1];
}

} // namespace bathylux
