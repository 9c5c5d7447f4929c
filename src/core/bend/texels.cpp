#include "core/bend/texels.h"

#include <algorithm>
#include <cmath>

#include "core/bend/texels_simd.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

Texels::Level halved(const Texels::Level& l, int floats) {
    Texels::Level out{(l.width + 1) / 2, (l.height + 1) / 2, {}};
    out.px = Plane(floats * out.width, out.height);
    parallel_rows(0, out.height, [&](int y) {
        const float *a = l.px.row(2 * y), *b = l.px.row(std::min(2 * y + 1, l.height - 1));
        float* to = out.px.row(y);
        for (int x = 0; x < out.width; ++x) {
            const std::ptrdiff_t i = static_cast<std::ptrdiff_t>(floats) * 2 * x,
                                 j = static_cast<std::ptrdiff_t>(floats) * std::min(2 * x + 1, l.width - 1);
            for (int c = 0; c < floats; ++c) *to++ = 0.25f * (a[i + c] + a[j + c] + b[i + c] + b[j + c]);
        }
    });
    return out;
}

} // namespace

Texels packed(const std::vector<const Field*>& fields, Region have, Region region, Edge edge, int halvings) {
    Texels out;
    const int n = static_cast<int>(fields.size());
    out.floats_a_px = n <= 4 ? 4 : (n + 7) / 8 * 8;
    out.region = region, out.edge = edge;
    Texels::Level& level = out.levels.emplace_back();
    level.width = region.width(), level.height = region.height();
    level.px = Plane(out.floats_a_px * level.width, level.height);
    std::vector<Rows> rows;
    for (const Field* f : fields) rows.emplace_back(*f, have.width());
    const Region both = intersect(have, region);
    parallel_rows(region.y0, region.y1, [&](int y) {
        float* to = level.px.row(y - region.y0);
        if (both.empty() || y < both.y0 || y >= both.y1) {
            std::fill_n(to, out.floats_a_px * level.width, 0.0f);
            return;
        }
        if (!(both == region)) std::fill_n(to, out.floats_a_px * level.width, 0.0f);
        to += static_cast<std::ptrdiff_t>(both.x0 - region.x0) * out.floats_a_px;
        const int w = both.width(), f = out.floats_a_px, skip = both.x0 - have.x0;
        constexpr int together = 4;
        for (int c = 0; c < f; c += together) {
            std::array<const float*, together> from{};
            static constexpr std::array<float, 1> none{};
            std::array<int, together> step{};
            for (int k = 0; k < together; ++k) {
                const bool there = c + k < n;
                from[k] = there ? rows[c + k](y - have.y0) + skip : none.data();
                step[k] = there ? 1 : 0;
            }
            float* t = to + c;
            for (int x = 0; x < w; ++x, t += f)
                for (int k = 0; k < together; ++k) t[k] = from[k][static_cast<std::ptrdiff_t>(x) * step[k]];
        }
    });
    for (int i = 0; i < halvings && (out.levels.back().width > 1 || out.levels.back().height > 1); ++i)
        out.levels.push_back(halved(out.levels.back(), out.floats_a_px));
    return out;
}

int halvings_for(const Looks& looks) {
    const int w = looks.region.width(), h = looks.region.height();
    std::vector<float> most(static_cast<std::size_t>(std::max(0, h)), 0);
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const Footprint f = footprint(looks, x, y);
            most[y] = std::max({most[y], f.ax * f.ax + f.ay * f.ay, f.bx * f.bx + f.by * f.by});
        }
    });
    float all = 0;
    for (float m : most) all = std::max(all, m);
    return all <= 2 ? 0 : std::clamp(static_cast<int>(std::ceil(std::log2(std::sqrt(all)))), 0, 12);
}

Region looked_at(const Looks& looks, Region most) {
    const int w = looks.region.width(), h = looks.region.height();
    // Far outside there is nothing to be read: what looks there does not count.
    struct Ends {
        float x0 = 1e30f, x1 = -1e30f, y0 = 1e30f, y1 = -1e30f;
    };
    std::vector<Ends> ends(static_cast<std::size_t>(std::max(0, h)));
    const float x0 = static_cast<float>(most.x0) - 2, x1 = static_cast<float>(most.x1) + 2,
                y0 = static_cast<float>(most.y0) - 2, y1 = static_cast<float>(most.y1) + 2;
    parallel_rows(0, h, [&](int y) {
        const float *px = looks.x.row(y + 1) + 1, *py = looks.y.row(y + 1) + 1;
        Ends& e = ends[y];
        for (int x = 0; x < w; ++x) {
            const Footprint f = footprint(looks, x, y);
            // A sample of a halving is as wide as that: at most half of what is seen either way.
            const float wide =
                0.75f * std::sqrt(std::max(f.ax * f.ax + f.ay * f.ay, f.bx * f.bx + f.by * f.by));
            const float rx = std::abs(f.ax) + std::abs(f.bx) + wide,
                        ry = std::abs(f.ay) + std::abs(f.by) + wide;
            if (!(px[x] + rx > x0 && px[x] - rx < x1 && py[x] + ry > y0 && py[x] - ry < y1)) continue;
            e.x0 = std::min(e.x0, px[x] - rx), e.x1 = std::max(e.x1, px[x] + rx);
            e.y0 = std::min(e.y0, py[x] - ry), e.y1 = std::max(e.y1, py[x] + ry);
        }
    });
    Ends all;
    for (const Ends& e : ends) {
        all.x0 = std::min(all.x0, e.x0), all.x1 = std::max(all.x1, e.x1);
        all.y0 = std::min(all.y0, e.y0), all.y1 = std::max(all.y1, e.y1);
    }
    if (all.x0 > all.x1) return {};
    const auto held = [](float v) { return std::clamp(v, -1e7f, 1e7f); };
    return intersect(
        {static_cast<int>(std::floor(held(all.x0))) - 3, static_cast<int>(std::floor(held(all.y0))) - 3,
         static_cast<int>(std::ceil(held(all.x1))) + 3, static_cast<int>(std::ceil(held(all.y1))) + 3},
        most);
}

std::vector<Plane> read_at(const Texels& texels, const Looks& looks, int planes) {
    std::vector<Plane> out;
    for (int i = 0; i < planes; ++i) out.emplace_back(looks.region.width(), looks.region.height());
    const bool empty = texels.region.empty();
    parallel_rows(0, looks.region.height(), [&](int y) {
        std::vector<float*> to;
        for (Plane& p : out) to.push_back(p.row(y));
        if (empty)
            for (float* row : to) std::fill_n(row, looks.region.width(), 0.0f);
        else
            read_row(texels, looks, y, to);
    });
    return out;
}

} // namespace bathylux
