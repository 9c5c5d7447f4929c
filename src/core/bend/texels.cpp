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
    rows.reserve(fields.size());
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

Survey surveyed(const Looks& looks, Region most) {
    const int w = looks.region.width(), h = looks.region.height();
    if (w <= 0 || h <= 0) return {};
    // The longest side of any px's footprint, squared.
    std::vector<float> widest(static_cast<std::size_t>(h), 0);
    parallel_rows(0, h, [&](int y) {
        const float *px = looks.x.row(y + 1) + 1, *py = looks.y.row(y + 1) + 1, *ux = looks.x.row(y) + 1,
                    *uy = looks.y.row(y) + 1, *lx = looks.x.row(y + 2) + 1, *ly = looks.y.row(y + 2) + 1;
        float all = 0;
        for (int x = 0; x < w; ++x) {
            const auto square = [](float u, float v) { return u * u + v * v; };
            const float a = square(px[x + 1] - px[x], py[x + 1] - py[x]),
                        b = square(px[x] - px[x - 1], py[x] - py[x - 1]),
                        c = square(lx[x] - px[x], ly[x] - py[x]), e = square(px[x] - ux[x], py[x] - uy[x]);
            const float along = a < b ? a : b, down = c < e ? c : e, longer = along > down ? along : down;
            all = longer > all ? longer : all;
        }
        widest[static_cast<std::size_t>(y)] = all;
    });
    const float wide = std::sqrt(*std::max_element(widest.begin(), widest.end()));
    Survey out;
    if (wide * wide > 2) out.halvings = std::clamp(static_cast<int>(std::ceil(std::log2(wide))), 0, 12);

    // Either side of a footprint, and a sample of a halving, which is at most half as wide again. What looks
    // far outside does not count: there is nothing to be read.
    const float by = 2.75f * std::min(wide, 1e7f) + 3;
    struct Ends {
        float x0 = 1e30f, x1 = -1e30f, y0 = 1e30f, y1 = -1e30f;
    };
    std::vector<Ends> ends(static_cast<std::size_t>(h));
    const float x0 = static_cast<float>(most.x0) - by, x1 = static_cast<float>(most.x1) + by,
                y0 = static_cast<float>(most.y0) - by, y1 = static_cast<float>(most.y1) + by;
    parallel_rows(0, h, [&](int y) {
        const float *px = looks.x.row(y + 1) + 1, *py = looks.y.row(y + 1) + 1;
        Ends e;
        for (int x = 0; x < w; ++x) {
            const bool near = px[x] > x0 && px[x] < x1 && py[x] > y0 && py[x] < y1;
            const float u0 = near ? px[x] : 1e30f, u1 = near ? px[x] : -1e30f, v0 = near ? py[x] : 1e30f,
                        v1 = near ? py[x] : -1e30f;
            e.x0 = u0 < e.x0 ? u0 : e.x0, e.x1 = u1 > e.x1 ? u1 : e.x1;
            e.y0 = v0 < e.y0 ? v0 : e.y0, e.y1 = v1 > e.y1 ? v1 : e.y1;
        }
        ends[static_cast<std::size_t>(y)] = e;
    });
    Ends all;
    for (const Ends& e : ends) {
        all.x0 = std::min(all.x0, e.x0), all.x1 = std::max(all.x1, e.x1);
        all.y0 = std::min(all.y0, e.y0), all.y1 = std::max(all.y1, e.y1);
    }
    if (all.x0 > all.x1) return out;
    const auto held = [](float v) { return static_cast<int>(std::clamp(v, -1.6e7f, 1.6e7f)); };
    out.region = intersect({held(std::floor(all.x0 - by)), held(std::floor(all.y0 - by)),
                            held(std::ceil(all.x1 + by)), held(std::ceil(all.y1 + by))},
                           most);
    return out;
}

std::vector<Plane> read_at(const Texels& texels, const Looks& looks, int planes) {
    std::vector<Plane> out;
    out.reserve(static_cast<std::size_t>(planes));
    for (int i = 0; i < planes; ++i) out.emplace_back(looks.region.width(), looks.region.height());
    const bool empty = texels.region.empty();
    parallel_rows(0, looks.region.height(), [&](int y) {
        std::vector<float*> to;
        to.reserve(out.size());
        for (Plane& p : out) to.push_back(p.row(y));
        if (empty)
            for (float* row : to) std::fill_n(row, looks.region.width(), 0.0f);
        else
            read_row(texels, looks, y, to);
    });
    return out;
}

} // namespace bathylux
