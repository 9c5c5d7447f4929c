#include "core/render/sounding.h"

#include "core/light/normals.h"

namespace bathylux {

namespace {

float bilinear(const Field& height, Region have, double px, double py) {
    const double x = std::clamp(px - 0.5 - have.x0, 0.0, have.width() - 1.0),
                 y = std::clamp(py - 0.5 - have.y0, 0.0, have.height() - 1.0);
    const int x0 = static_cast<int>(x), y0 = static_cast<int>(y);
    const int x1 = std::min(x0 + 1, have.width() - 1), y1 = std::min(y0 + 1, have.height() - 1);
    const auto fx = static_cast<float>(x - x0), fy = static_cast<float>(y - y0);
    const float top = height.at(x0, y0) + fx * (height.at(x1, y0) - height.at(x0, y0));
    const float bottom = height.at(x0, y1) + fx * (height.at(x1, y1) - height.at(x0, y1));
    return top + fy * (bottom - top);
}

} // namespace

std::optional<Sounding> sound(const Bundle& relief, double scale, Edge edge, Vec2 at) {
    const Region r = relief.region;
    const double x = at.x * scale, y = at.y * scale;
    if (r.empty() || x < r.x0 || y < r.y0 || x >= r.x1 || y >= r.y1) return std::nullopt;
    const int i = static_cast<int>(x), j = static_cast<int>(y);
    const auto n = normals(relief.height, r, {i, j, i + 1, j + 1}, static_cast<float>(scale), edge);
    Sounding out;
    out.height = bilinear(relief.height, r, x, y);
    out.normal = {n[0](0, 0), n[1](0, 0), n[2](0, 0)};
    out.slope = static_cast<float>(std::acos(std::min(1.0f, out.normal[2])) / radians_per_degree);
    return out;
}

Profile1D profile_along(const Bundle& relief, double scale, const SectionLine& line, int count) {
    Profile1D out;
    out.length = length(line.b - line.a);
    if (relief.region.empty() || count < 2) return out;
    out.heights.reserve(count);
    for (int i = 0; i < count; ++i) {
        const Vec2 p = line.a + (static_cast<double>(i) / (count - 1)) * (line.b - line.a);
        out.heights.push_back(bilinear(relief.height, relief.region, p.x * scale, p.y * scale));
    }
    const double step = out.length / (count - 1);
    if (step <= 0) return out;
    for (int i = 0; i + 1 < count; ++i) {
        const double slope =
            std::atan2(std::abs(out.heights[i + 1] - out.heights[i]), step) / radians_per_degree;
        if (slope > out.steepest) out.steepest = slope, out.steepest_at = (i + 0.5) * step;
    }
    return out;
}

} // namespace bathylux
