#include "core/shape/coverage.h"

#include <cmath>
#include <cstdint>

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

// Areas are summed as whole numbers of 2⁻³² px²: whatever part of the canvas is asked for, the same sums come
// out.
constexpr double area_unit = 4294967296.0;
std::int64_t whole(double area) { return static_cast<std::int64_t>(std::llround(area * area_unit)); }

/// Adds the signed area right of one segment to the differences of a row: after a running sum, each pixel
/// holds the winding-weighted share of it that is covered. x0, x1: where the segment enters and leaves the
/// row, canvas px; dy: signed height it spans there.
void add_to_row(std::int64_t* row, int first_pixel, int width, double x0, double x1, double dy) {
    const double left = std::min(x0, x1), right = std::max(x0, x1);
    const int first = static_cast<int>(std::floor(left)), last = static_cast<int>(std::ceil(right)) - 1;
    const auto add = [&](int pixel, std::int64_t v) {
        if (pixel < first_pixel + width) row[std::max(pixel - first_pixel, 0)] += v;
    };
    std::int64_t before = 0;
    if (last <= first) {
        add(first, before = whole(dy * (1 - ((left + right) / 2 - first))));
    } else {
        const double per_x = dy / (right - left);
        // Pixel for pixel from the first, also of those left of what is wanted: each is rounded by itself.
        for (int i = first; i <= std::min(last, first_pixel + width - 1); ++i) {
            const double from = std::max(left, static_cast<double>(i)), to = std::min(right, i + 1.0);
            const std::int64_t here =
                whole(per_x * ((from - left) + (to - from) * (i + 1 - (from + to) / 2)));
            add(i, here - before);
            before = here;
        }
    }
    add(std::max(first, last) + 1, whole(dy) - before);
}

} // namespace

Plane coverage(const Polyline& polyline, Region region) {
    Plane out(region.width(), region.height());
    const auto bands = segments_by_band(polyline, region);
    const int width = region.width();
    parallel_blocks(0, region.height(), band_rows, [&](int y0, int y1) {
        std::vector<std::int64_t> sums(static_cast<std::size_t>(width) * (y1 - y0), 0);
        for (int i : bands[y0 / band_rows]) {
            const Segment& s = polyline.segments[i];
            const bool down = s.b.y > s.a.y;
            const Vec2 top = down ? s.a : s.b, bottom = down ? s.b : s.a;
            const double slope = (bottom.x - top.x) / (bottom.y - top.y);
            const double low = std::max(top.y, static_cast<double>(region.y0 + y0));
            const double high = std::min(bottom.y, static_cast<double>(region.y0 + y1));
            for (int y = static_cast<int>(std::floor(low)); y < high; ++y) {
                const double from = std::max(low, static_cast<double>(y)), to = std::min(high, y + 1.0);
                if (to <= from) continue;
                const auto x_at = [&](double yy) { return top.x + (yy - top.y) * slope; };
                add_to_row(&sums[static_cast<std::size_t>(width) * (y - region.y0 - y0)], region.x0, width,
                           x_at(from), x_at(to), down ? to - from : from - to);
            }
        }
        for (int y = y0; y < y1; ++y) {
            const std::int64_t* in = &sums[static_cast<std::size_t>(width) * (y - y0)];
            float* to = out.row(y);
            std::int64_t sum = 0;
            for (int x = 0; x < width; ++x) {
                sum += in[x];
                auto c = static_cast<float>(static_cast<double>(std::abs(sum)) / area_unit);
                if (polyline.rule == FillRule::evenodd) {
                    c = std::fmod(c, 2.0f);
                    if (c > 1) c = 2 - c;
                }
                // Sums of many areas leave dust that would show as not quite empty or full pixels.
                to[x] = c < 1e-5f ? 0.0f : c > 1 - 1e-5f ? 1.0f : c;
            }
        }
    });
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
                        std::clamp(std::ceil(x - 0.5) - region.x0, 0.0, static_cast<double>(region.width())));
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
