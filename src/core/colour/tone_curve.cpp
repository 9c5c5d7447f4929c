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
    const auto through = [&](float v) {
        const float u = std::clamp(v, 0.0f, 1.0f) * size;
        const int i = static_cast<int>(u);
        return table[i] + (u - static_cast<float>(i)) * (table[i + 1] - table[i]);
    };
    const int only = static_cast<int>(channel) - 1;
    return recoloured<Values::encoded>(below, context, [&](Rgb v) {
        for (int c = 0; c < 3; ++c)
            if (only < 0 || only == c) v[c] = through(v[c]);
        return v;
    });
}

std::string ToneCurve::says() const {
    static constexpr std::string_view of[] = {"all tones", "red", "green", "blue"};
    const auto n = points.size();
    return std::string(of[static_cast<int>(channel)]) + ", " + said(static_cast<double>(n)) + " points";
}

} // namespace bathylux
