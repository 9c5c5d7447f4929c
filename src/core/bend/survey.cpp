#include "core/bend/survey.h"

#include <cmath>

#include "core/bend/survey_simd.h"
#include "core/field/parallel.h"

namespace bathylux {

Survey surveyed(const Looks& looks, Region most) {
    const int h = looks.region.height();
    if (looks.region.empty()) return {};
    std::vector<RowsSurvey> parts(static_cast<std::size_t>((h + read_rows_at_once - 1) / read_rows_at_once));
    parallel_blocks(0, h, read_rows_at_once, [&](int y0, int y1) {
        parts[static_cast<std::size_t>(y0 / read_rows_at_once)] = survey_rows(looks, y0, y1, most);
    });
    Survey out;
    float longest = 0;
    bool halvings = false;
    Span all;
    double read = 0;
    for (const RowsSurvey& p : parts) {
        longest = std::max(longest, p.longest), halvings |= p.halvings, all.add(p.span);
        for (const Span& s : p.blocks) read += s.area(), out.blocks.push_back(s);
    }
    if (halvings) out.halvings = std::clamp(static_cast<int>(std::ceil(0.5f * std::log2(longest))), 0, 12);
    if (all.empty()) return out;
    const auto held = [](float v) { return static_cast<int>(std::clamp(v, -1.6e7f, 1.6e7f)); };
    out.region = intersect({held(std::floor(all.x0)), held(std::floor(all.y0)), held(std::ceil(all.x1)),
                            held(std::ceil(all.y1))},
                           most);
    const double area = double(out.region.width()) * out.region.height();
    out.scattered = read > 4 * area && area < (1 << 28);
    return out;
}

} // namespace bathylux
