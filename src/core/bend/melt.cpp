#include "core/bend/melt.h"

#include <algorithm>
#include <cmath>

#include "core/field/median.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

constexpr float covered = 1.0f / 16; // from here on a px has colour to carry

/// Offsets within a distance, nearest first.
std::vector<std::pair<int, int>> nearest_first(int radius) {
    std::vector<std::pair<int, int>> out;
    for (int y = -radius; y <= radius; ++y)
        for (int x = -radius; x <= radius; ++x) out.emplace_back(x, y);
    std::sort(out.begin(), out.end(), [](auto a, auto b) {
        const int da = a.first * a.first + a.second * a.second, db = b.first * b.first + b.second * b.second;
        return da != db ? da < db : a < b;
    });
    return out;
}

} // namespace

Bundle Melt::apply(const Bundle& below, const Context& context) const {
    const int r = static_cast<int>(std::lround(radius * context.length));
    const Region want = context.region, have = below.region;
    Bundle out = cropped(below, want);
    if (r <= 0 || below.coverage.is_constant()) return out;
    const int w = want.width(), h = want.height();
    const Plane now = median(below.coverage.plane(), have, want, r, context.canvas_edge);

    // Where it has grown, colour is carried there from the nearest px that has some; elsewhere all stays
    // where it is, and what goes with coverage goes as it has changed.
    struct Carried {
        int x, u, v; // in the result's row; from there in `below`
    };
    const Plane& was = below.coverage.plane();
    const auto near = nearest_first(r + 1);
    std::vector<std::vector<Carried>> from(static_cast<std::size_t>(h));
    Plane changed(w, h);
    parallel_rows(0, h, [&](int y) {
        const int i0 = want.x0 - have.x0, j = y + want.y0 - have.y0;
        const float *a = was.row(j) + i0, *b = now.row(y);
        float* to = changed.row(y);
        for (int x = 0; x < w; ++x) to[x] = a[x] > 0 ? b[x] / a[x] : 0.0f;
        for (int x = 0; x < w; ++x) {
            if (!(b[x] > 0 && a[x] < covered)) continue;
            for (const auto& [dx, dy] : near) {
                const int u = i0 + x + dx, v = j + dy;
                if (u < 0 || v < 0 || u >= have.width() || v >= have.height() || was(u, v) < covered)
                    continue;
                from[static_cast<std::size_t>(y)].push_back({x, u, v});
                to[x] = b[x] / was(u, v);
                break;
            }
        }
    });
    const auto carried = [&](const Field& f, Field& to, bool premultiplied) {
        if (f.is_constant() && (!premultiplied || f.constant() == 0)) return;
        Plane p(w, h);
        const Rows rows(f, have.width());
        parallel_rows(0, h, [&](int y) {
            const float *own = rows(y + want.y0 - have.y0) + (want.x0 - have.x0), *by = changed.row(y);
            float* out_row = p.row(y);
            std::copy_n(own, w, out_row);
            for (const Carried& c : from[static_cast<std::size_t>(y)]) out_row[c.x] = rows(c.v)[c.u];
            for (int x = 0; premultiplied && x < w; ++x) out_row[x] *= by[x];
        });
        to = Field(std::move(p));
    };
    for (int c = 0; c < 3; ++c) carried(below.color[c], out.color[c], true);
    if (below.gives_height) {
        carried(below.height, out.height, false);
        carried(below.weight, out.weight, true);
    }
    carried(below.surface_weight, out.surface_weight, true);
    const auto surface = below.surface();
    const auto to = out.surface();
    for (std::size_t i = 0; i < surface.size(); ++i) carried(*surface[i], *to[i], false);
    if (below.tone) carried(*below.tone, *out.tone, false);
    out.coverage = Field(now);
    out.stored.reset(), out.silhouette.reset();
    out.coverage_hash =
        (Hash() << "melted" << below.coverage_hash << r << want.x0 << want.y0 << want.x1 << want.y1).value();
    return out;
}

} // namespace bathylux
