#include "core/relief/deterrace.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <optional>

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/relief/chamfer.h"
#include "core/step/height.h"

namespace bathylux {

float level_gap(const Field& height, const Field& weight, Region r) {
    if (height.is_constant()) return 0;
    std::vector<float> seen;
    const int w = r.width(), step = std::max(1, static_cast<int>(std::sqrt(double(r.area()) / 6e4)));
    const Rows h(height, w), k(weight, w);
    for (int y = step / 2; y < r.height(); y += step)
        for (int x = step / 2; x < w; x += step)
            if (k(y)[x] > 0.999f) seen.push_back(h(y)[x]);
    if (seen.size() < 64) return 0;
    std::sort(seen.begin(), seen.end());
    const float range = seen.back() - seen.front(), same = range * 2e-5f;
    std::vector<float> rungs;
    for (float v : seen)
        if (rungs.empty() || v - rungs.back() > same) rungs.push_back(v);
    // A few heights are shapes, very many are a fine map; in between, a ladder's gaps are whole numbers of
    // its least.
    if (rungs.size() < 4 || rungs.size() > 512) return 0;
    std::vector<float> gaps;
    for (std::size_t i = 1; i < rungs.size(); ++i) gaps.push_back(rungs[i] - rungs[i - 1]);
    std::nth_element(gaps.begin(), gaps.begin() + static_cast<std::ptrdiff_t>(gaps.size() / 4), gaps.end());
    const float gap = gaps[gaps.size() / 4];
    int fits = 0;
    for (float g : gaps) fits += std::abs(g / gap - std::round(g / gap)) < 0.12f;
    return fits >= 0.9 * static_cast<double>(gaps.size()) ? gap : 0;
}

namespace {

constexpr float nowhere = 1e9f; // a way that leads to none

/// A plane with room around it: two px on every side, and what a vector reads beyond.
class Padded {
  public:
    static constexpr int rim = 2;
    Padded(int width, int height, float outside) : plane_(width + 2 * rim + 16, height + 2 * rim, outside) {}
    float* row(int y) { return plane_.row(y + rim) + rim; }
    const float* row(int y) const { return plane_.row(y + rim) + rim; }

  private:
    Plane plane_;
};

/// Way, in px, to where the level changes by one rung in a direction, within a place's own level: chamfer
/// distance with weights 5, 7 and 11 (Borgefors 1986), there and back twice, which is enough for plain
/// shapes.
class Reaches {
  public:
    Reaches(const Plane& heights, const Field& weight, float gap)
        : w_(heights.width()), rows_(heights.height()), gap_(gap),
          heights_(w_, rows_, std::numeric_limits<float>::infinity()), whole_(w_, rows_, 0) {
        const Rows k(weight, w_);
        parallel_rows(0, rows_, [&](int y) {
            std::copy_n(heights.row(y), w_, heights_.row(y));
            std::copy_n(k(y), w_, whole_.row(y));
        });
    }

    /// `sign`: 1 to the next rung up, −1 down. Places from which there is none are far.
    Padded to_rung(float sign) const {
        Padded way(w_, rows_, nowhere);
        for (int y = 0; y < rows_; ++y)
            mark_rungs({heights_.row(y - 1), heights_.row(y), heights_.row(y + 1), whole_.row(y - 1),
                        whole_.row(y), whole_.row(y + 1), way.row(y), w_},
                       gap_, sign, nowhere);
        for (int there_and_back = 0; there_and_back < 2; ++there_and_back) {
            for (int y = 0; y < rows_; ++y) pass(way, y, 1);
            for (int y = rows_ - 1; y >= 0; --y) pass(way, y, -1);
        }
        return way;
    }

  private:
    /// One row, come from above (sense 1) and the left or from below (−1) and the right.
    void pass(Padded& way, int y, int sense) const {
        if (y % 64 == 0) stop_here();
        float* to = way.row(y);
        const float* h = heights_.row(y);
        const float same = 0.5f * gap_;
        chamfer_from_before({way.row(y - 2 * sense), way.row(y - sense), heights_.row(y - 2 * sense),
                             heights_.row(y - sense), h, to, w_},
                            same);
        // What was written beyond the row's end is outside again.
        std::fill_n(to + w_, 16, nowhere);
        const int first = sense > 0 ? 0 : w_ - 1;
        float come = nowhere, from = std::numeric_limits<float>::infinity();
        for (int n = 0, x = first; n < w_; ++n, x += sense) {
            const float further = std::abs(h[x] - from) < same ? come + 1 : nowhere;
            come = std::min(to[x], further), from = h[x];
            to[x] = come;
        }
    }

    int w_, rows_;
    float gap_;
    Padded heights_, whole_;
};

} // namespace

Bundle Deterrace::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    if (!below.gives_height) return out;
    const Region all = below.region;
    const float gap = level_gap(below.height, below.weight, all);
    if (gap <= 0) return out;
    const int w = all.width(), h = all.height();
    const Plane& given = below.height.plane();
    const Reaches reaches(given, below.weight, gap);
    std::array<std::optional<Padded>, 2> rungs; // ways up and down
    parallel_blocks(0, 2, 1, [&](int i, int) { rungs[i] = reaches.to_rung(i == 0 ? 1.0f : -1.0f); });
    const auto widest = static_cast<float>(reach_px * context.length);
    const Rows weight(below.weight, w);
    Plane now(w, h);
    parallel_rows(0, h, [&](int y) {
        const float *up = rungs[0]->row(y), *down = rungs[1]->row(y);
        for (int x = 0; x < w; ++x) {
            const float u = up[x], d = down[x];
            float share = 0; // of a level, from the middle of the rung
            if (u + d <= widest)
                share = d / (u + d) - 0.5f;
            else {
                // A top, a hollow, or truly level ground: it leaves its rung only towards its rim.
                const float rim = widest / 4;
                share = 0.5f * std::max(0.0f, 1 - u / rim) - 0.5f * std::max(0.0f, 1 - d / rim);
            }
            now(x, y) = given(x, y) + (weight(y)[x] > 0.999f ? gap * share : 0.0f);
        }
    });
    for (const double sigma : {2.0, 1.0}) {
        const Plane smooth =
            gaussian(now, all, all, std::max(0.5, sigma * context.length), context.canvas_edge);
        parallel_rows(0, h, [&](int y) {
            const float *s = smooth.row(y), *g = given.row(y), *k = weight(y);
            float* to = now.row(y);
            for (int x = 0; x < w; ++x)
                if (k[x] > 0.999f) to[x] = std::clamp(s[x], g[x] - gap / 2, g[x] + gap / 2);
        });
    }
    out.height = cropped(Field(std::move(now)), all, context.region);
    return out;
}

} // namespace bathylux
