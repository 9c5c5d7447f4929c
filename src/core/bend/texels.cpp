#include "core/bend/texels.h"

#include <algorithm>
#include <cmath>

#include "core/bend/texels_simd.h"
#include "core/field/parallel.h"
#include "core/field/side_by_side_simd.h"

namespace bathylux {

namespace {

Texels::Level halved(const Texels::Level& l) {
    Texels::Level out{(l.width + 1) / 2, (l.height + 1) / 2, {}};
    for (const Plane& from : l.groups) {
        Plane& px = out.groups.emplace_back(4 * out.width, out.height);
        parallel_rows(0, out.height, [&](int y) {
            const float *a = from.row(2 * y), *b = from.row(std::min(2 * y + 1, l.height - 1));
            float* to = px.row(y);
            for (int x = 0; x < out.width; ++x) {
                const std::ptrdiff_t i = std::ptrdiff_t{8} * x,
                                     j = std::ptrdiff_t{4} * std::min(2 * x + 1, l.width - 1);
                for (int c = 0; c < 4; ++c) *to++ = 0.25f * (a[i + c] + a[j + c] + b[i + c] + b[j + c]);
            }
        });
    }
    return out;
}

} // namespace

Texels packed(const std::vector<const Field*>& fields, Region have, Region region, Edge edge, int halvings) {
    Texels out;
    out.region = region, out.edge = edge;
    Texels::Level& level = out.levels.emplace_back();
    level.width = region.width(), level.height = region.height();
    std::vector<Rows> rows;
    const Field nothing(0.0f);
    for (std::size_t i = 0; i < (fields.size() + 3) / 4 * 4; ++i)
        rows.emplace_back(i < fields.size() ? *fields[i] : nothing, have.width());
    const Region both = intersect(have, region);
    for (std::size_t first = 0; first < fields.size(); first += 4) {
        Plane& px = level.groups.emplace_back(4 * level.width, level.height);
        parallel_rows(region.y0, region.y1, [&](int y) {
            float* to = px.row(y - region.y0);
            if (!(both == region)) std::fill_n(to, 4 * level.width, 0.0f);
            if (both.empty() || y < both.y0 || y >= both.y1) return;
            std::array<const float*, 4> from{};
            for (std::size_t c = 0; c < 4; ++c) from[c] = rows[first + c](y - have.y0) + (both.x0 - have.x0);
            lay_side_by_side(from, both.width(), to + std::ptrdiff_t{4} * (both.x0 - region.x0));
        });
    }
    for (int i = 0; i < halvings && (out.levels.back().width > 1 || out.levels.back().height > 1); ++i)
        out.levels.push_back(halved(out.levels.back()));
    return out;
}

namespace {

/// Where the px of a row look, and how far about that is read.
struct RowSurvey {
    RowSeen seen;
    float x0 = 1e30f, x1 = -1e30f, y0 = 1e30f, y1 = -1e30f;
};

RowSurvey row_surveyed(const Looks& looks, int y, Region most) {
    RowSurvey out{seen_in_row(looks, y)};
    // Either side of a footprint, and a sample of a halving, which is at most half as wide again. What looks
    // far outside does not count: there is nothing to be read.
    const float by = 2.75f * std::min(std::sqrt(out.seen.longest), 1e7f) + 3;
    const float x0 = static_cast<float>(most.x0) - by, x1 = static_cast<float>(most.x1) + by,
                y0 = static_cast<float>(most.y0) - by, y1 = static_cast<float>(most.y1) + by;
    const float *px = looks.x.row(y + 1) + 1, *py = looks.y.row(y + 1) + 1;
    float left = out.x0, right = out.x1, top = out.y0, bottom = out.y1;
    for (int x = 0; x < looks.region.width(); ++x) {
        const bool near = px[x] > x0 && px[x] < x1 && py[x] > y0 && py[x] < y1;
        const float u0 = near ? px[x] : 1e30f, u1 = near ? px[x] : -1e30f, v0 = near ? py[x] : 1e30f,
                    v1 = near ? py[x] : -1e30f;
        left = u0 < left ? u0 : left, right = u1 > right ? u1 : right;
        top = v0 < top ? v0 : top, bottom = v1 > bottom ? v1 : bottom;
    }
    if (left <= right) out.x0 = left - by, out.x1 = right + by, out.y0 = top - by, out.y1 = bottom + by;
    return out;
}

} // namespace

Survey surveyed(const Looks& looks, Region most) {
    const int h = looks.region.height();
    if (looks.region.empty()) return {};
    std::vector<RowSurvey> rows(static_cast<std::size_t>(h));
    parallel_rows(0, h, [&](int y) { rows[static_cast<std::size_t>(y)] = row_surveyed(looks, y, most); });
    RowSurvey all;
    for (const RowSurvey& r : rows) {
        all.seen.longest = std::max(all.seen.longest, r.seen.longest);
        all.seen.halvings |= r.seen.halvings;
        all.x0 = std::min(all.x0, r.x0), all.x1 = std::max(all.x1, r.x1);
        all.y0 = std::min(all.y0, r.y0), all.y1 = std::max(all.y1, r.y1);
    }
    Survey out;
    if (all.seen.halvings)
        out.halvings = std::clamp(static_cast<int>(std::ceil(0.5f * std::log2(all.seen.longest))), 0, 12);
    if (all.x0 > all.x1) return out;
    const auto held = [](float v) { return static_cast<int>(std::clamp(v, -1.6e7f, 1.6e7f)); };
    out.region = intersect({held(std::floor(all.x0)), held(std::floor(all.y0)), held(std::ceil(all.x1)),
                            held(std::ceil(all.y1))},
                           most);
    return out;
}

std::vector<Plane> read_at(const Texels& texels, const Looks& looks, int planes, const ReadRow& then) {
    std::vector<Plane> out;
    out.reserve(static_cast<std::size_t>(planes));
    for (int i = 0; i < planes; ++i) out.emplace_back(looks.region.width(), looks.region.height());
    const bool empty = texels.region.empty() || texels.levels[0].groups.empty();
    parallel_blocks(0, looks.region.height(), 16, [&](int y0, int y1) {
        if (!empty)
            read_rows(texels, looks, y0, y1, out);
        else
            for (Plane& p : out)
                for (int y = y0; y < y1; ++y) std::fill_n(p.row(y), p.width(), 0.0f);
        if (then)
            for (int y = y0; y < y1; ++y) then(out, y);
    });
    return out;
}

} // namespace bathylux
