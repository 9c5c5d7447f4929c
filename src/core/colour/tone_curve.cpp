#include "core/colour/tone_curve.h"

#include "core/colour/recolour.h"

namespace bathylux {

Bundle ToneCurve::apply(const Bundle& below, const Context& context) const {
    const bool straight =
        points.front().first == 0 && points.back().first == 1 &&
        std::all_of(points.begin(), points.end(), [](const auto& p) { return p.first == p.second; });
    if (straight) return cropped(below, context.region); // exactly as it was
    // Read from a table with straight lines in between: within 1e-5 of the cubic.
    constexpr int size = 2048;
    const MonotoneCurve curve(points);
    std::vector<float> table(size + 2);
    for (int i = 0; i < size + 2; ++i) table[i] = curve(static_cast<float>(i) / size);
    // Light beyond 0…1, as a finish meets it, goes on as straight as the curve ends there.
    const auto slope = [](const auto& p, const auto& q) {
        return (q.second - p.second) / (q.first - p.first);
    };
    const std::size_t n = points.size();
    const float before = points[0].first == 0 ? slope(points[0], points[1]) : 0,
                after = points[n - 1].first == 1 ? slope(points[n - 2], points[n - 1]) : 0;
    const auto through = [&](float v) {
        if (v < 0) return table[0] + before * v;
        if (v > 1) return table[size] + after * (v - 1);
        const float u = v * size;
        const int i = static_cast<int>(u);
        return table[i] + (u - static_cast<float>(i)) * (table[i + 1] - table[i]);
    };
    float steepest = 0; // three times the secant at most (Fritsch & Carlson 1980)
    for (std::size_t i = 0; i + 1 < n; ++i)
        steepest = std::max(steepest, 3 * std::abs(slope(points[i], points[i + 1])));
    return recoloured_by_channel(below, context, steepest, static_cast<int>(channel) - 1, through);
}

std::string ToneCurve::says() const {
    static constexpr std::string_view of[] = {"all tones", "red", "green", "blue"};
    const auto n = points.size();
    return std::string(of[static_cast<int>(channel)]) + ", " + said(static_cast<double>(n)) + " points";
}

} // namespace bathylux
