#include "core/shape/coverage.h"

#include "core/field/parallel.h"

namespace bathylux {

namespace {

constexpr int band_rows = 32;

/// Which segments touch each band of rows; those wholly above, below or to the right never matter.
std::vector<std::vector<int>> segments_by_band(const Polyline& polyline, Region region) {
    std::vector<std::vector<int>> bands((region.height() + band_rows - 1) / band_rows);
    const int last = static_cast<int>(bands.size()) - 1;
    for (int i = 0; i < static_cast<int>(polyline.segments.size()); ++i) {
        const Segment& s = polyline.segments[i];
        const double low = std::min(s.a.y, s.b.y) - region.y0, high = std::max(s.a.y, s.b.y) - region.y0;
        if (high < 0 || low > region.height() || low == high) continue;
        for (int k = std::max(0, static_cast<int>(low / band_rows)),
                 e = std::min(last, static_cast<int>(high / band_rows));
             k <= e; ++k)
            bands[k].push_back(i);
    }
    return bands;
}

/// Adds the signed area right of one segment to the differences of a row: after a running sum, each
/// pixel holds the winding-weighted share of it that is covered.
void add_to_row(float* row, int width, double x0, double x1, double dy) {
    // x0, x1: where the segment enters and leaves the row; dy: signed height it spans there.
    const double left = std::min(x0, x1), right = std::max(x0, x1);
    if (left >= width) return;
    if (right <= 0) {
        row[0] += static_cast<float>(dy);
        return;
    }
    if (left < 0 || right > width) {
        // Cut at the borders; what lies left counts whole, what lies right not at all.
        const double per_x = dy / (right - left);
        if (left < 0) row[0] += static_cast<float>(-left * per_x);
        const double cut_left = std::max(left, 0.0), cut_right = std::min(right, static_cast<double>(width));
        if (cut_right > cut_left) add_to_row(row, width, cut_left, cut_right, (cut_right - cut_left) * per_x);
        return;
    }
    const int first = static_cast<int>(left), last = static_cast<int>(std::ceil(right)) - 1;
    if (last <= first) {
        const double area = dy * (1 - ((left + right) / 2 - first));
        row[first] += static_cast<float>(area);
        row[first + 1] += static_cast<float>(dy - area);
        return;
    }
    const double per_x = dy / (right - left);
    double before = 0;
    for (int i = first; i <= last; ++i) {
        const double from = std::max(left, static_cast<double>(i)), to = std::min(right, i + 1.0);
        const double d = (to - from) * per_x;
        const double area = d * (i + 1 - (from + to) / 2);
        row[i] += static_cast<float>(area + before);
        before = d - area;
    }
    row[last + 1] += static_cast<float>(before);
}

} // namespace

Plane coverage(const Polyline& polyline, Region region, std::stop_token stop) {
    Plane out(region.width(), region.height());
    const auto bands = segments_by_band(polyline, region);
    const int width = region.width();
    parallel_blocks(
        0, region.height(), band_rows,
        [&](int y0, int y1) {
            std::vector<float> sums(static_cast<std::size_t>(width + 2) * (y1 - y0), 0.0f);
            for (int i : bands[y0 / band_rows]) {
                const Segment& s = polyline.segments[i];
                const bool down = s.b.y > s.a.y;
                const Vec2 top = down ? s.a : s.b, bottom = down ? s.b : s.a;
                const double slope = (bottom.x - top.x) / (bottom.y - top.y);
                const double low = std::max(top.y - region.y0, static_cast<double>(y0));
                const double high = std::min(bottom.y - region.y0, static_cast<double>(y1));
                for (int y = static_cast<int>(low); y < high; ++y) {
                    const double from = std::max(low, static_cast<double>(y)), to = std::min(high, y + 1.0);
                    if (to <= from) continue;
                    const auto x_at = [&](double yy) {
                        return top.x + (yy + region.y0 - top.y) * slope - region.x0;
                    };
                    add_to_row(&sums[static_cast<std::size_t>(width + 2) * (y - y0)], width, x_at(from),
                               x_at(to), down ? to - from : from - to);
                }
            }
            for (int y = y0; y < y1; ++y) {
                const float* in = &sums[static_cast<std::size_t>(width + 2) * (y - y0)];
                float* to = out.row(y);
                double sum = 0;
                for (int x = 0; x < width; ++x) {
                    sum += in[x];
                    float c = static_cast<float>(std::abs(sum));
                    if (polyline.rule == FillRule::evenodd) {
                        c = std::fmod(c, 2.0f);
                        if (c > 1) c = 2 - c;
                    }
                    // Sums of many areas leave dust that would show as not quite empty or full pixels.
                    to[x] = c < 1e-5f ? 0.0f : c > 1 - 1e-5f ? 1.0f : c;
                }
            }
        },
        stop);
    return out;
}

Spans inside_spans(const Polyline& polyline, Region region) {
    Spans spans(region.height());
    const auto bands = segments_by_band(polyline, region);
    parallel_blocks(0, region.height(), band_rows, [&](int y0, int y1) {
        std::vector<std::pair<double, int>> crossings;
        for (int y = y0; y < y1; ++y) {
            const double yc = region.y0 + y + 0.5;
            crossings.clear();
            for (int i : bands[y0 / band_rows]) {
                const Segment& s = polyline.segments[i];
                if ((s.a.y <= yc) == (s.b.y <= yc)) continue;
                crossings.emplace_back(s.a.x + (yc - s.a.y) / (s.b.y - s.a.y) * (s.b.x - s.a.x),
                                       s.b.y > s.a.y ? 1 : -1);
            }
            std::sort(crossings.begin(), crossings.end());
            int w = 0;
            for (std::size_t i = 0; i + 1 < crossings.size(); ++i) {
                w += crossings[i].second;
                if (polyline.rule == FillRule::nonzero ? w == 0 : (w & 1) == 0) continue;
                // Centres at +0.5: the first pixel whose centre is at or past the crossing.
                const auto pixel = [&](double x) {
                    return static_cast<int>(
                        std::clamp(std::ceil(x - region.x0 - 0.5), 0.0, static_cast<double>(region.width())));
                };
                const int from = pixel(crossings[i].first), to = pixel(crossings[i + 1].first);
                if (to <= from) continue;
                auto& row = spans[y];
                if (!row.empty() && row.back().second >= from)
                    row.back().second = std::max(row.back().second, to);
                else
                    row.emplace_back(from, to);
            }
        }
    });
    return spans;
}

Spans inside_spans(const Field& coverage, Region region) {
    Spans spans(region.height());
    const Rows rows(coverage, region.width());
    parallel_rows(0, region.height(), [&](int y) {
        const float* c = rows(y);
        for (int x = 0; x < region.width();) {
            if (c[x] <= 0.5f) {
                ++x;
                continue;
            }
            const int from = x;
            while (x < region.width() && c[x] > 0.5f) ++x;
            spans[y].emplace_back(from, x);
        }
    });
    return spans;
}

} // namespace bathylux
