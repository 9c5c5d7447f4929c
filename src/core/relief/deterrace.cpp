#include "core/relief/deterrace.h"

#include <array>

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
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

/// Way, in px, to where the level changes by one rung in a direction, within a place's own level: chamfer
/// distance with weights 5, 7 and 11 (Borgefors 1986), there and back twice, which is enough for plain
/// shapes.
class Reaches {
  public:
    Reaches(const Plane& heights, const Field& weight, float gap)
        : h_(heights), gap_(gap), weight_(weight, heights.width()) {}

    /// `sign`: 1 to the next rung up, −1 down. Places from which there is none are far.
    Plane to_rung(float sign) const {
        const int w = h_.width(), rows = h_.height();
        Plane d(w, rows);
        parallel_rows(0, rows, [&](int y) {
            for (int x = 0; x < w; ++x) {
                bool at_rung = false;
                for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}})
                    if (const int i = x + dx, j = y + dy;
                        i >= 0 && j >= 0 && i < w && j < rows && inside(i, j)) {
                        const float rise = sign * (h_(i, j) - h_(x, y)) / gap_;
                        at_rung = at_rung || (rise > 0.5f && rise < 1.5f);
                    }
                d(x, y) = at_rung ? 0.5f : far;
            }
        });
        constexpr float k = 1 / 5.0f;
        static constexpr struct {
            int dx, dy;
            float way;
        } before[] = {{-1, 0, 5 * k},   {0, -1, 5 * k},  {-1, -1, 7 * k},  {1, -1, 7 * k},
                      {-2, -1, 11 * k}, {2, -1, 11 * k}, {-1, -2, 11 * k}, {1, -2, 11 * k}};
        for (int pass = 0; pass < 4; ++pass) {
            const int s = pass % 2 ? -1 : 1;
            for (int n = 0; n < rows; ++n)
                for (int m = 0; m < w; ++m) {
                    const int x = s > 0 ? m : w - 1 - m, y = s > 0 ? n : rows - 1 - n;
                    float best = d(x, y);
                    for (const auto& b : before) {
                        const int i = x + s * b.dx, j = y + s * b.dy;
                        if (i < 0 || j < 0 || i >= w || j >= rows || d(i, j) + b.way >= best) continue;
                        if (std::abs(h_(i, j) - h_(x, y)) < 0.5f * gap_) best = d(i, j) + b.way;
                    }
                    d(x, y) = best;
                }
        }
        return d;
    }
    static constexpr float far = 1e9f;

  private:
    bool inside(int x, int y) const { return weight_(y)[x] > 0.999f; }
    const Plane& h_;
    float gap_;
    Rows weight_;
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
    std::array<Plane, 2> rungs; // ways up and down
    parallel_blocks(
        0, 2, 1, [&](int i, int) { rungs[i] = reaches.to_rung(i == 0 ? 1.0f : -1.0f); }, context.stop);
    const auto widest = static_cast<float>(reach_px * context.length);
    const Rows weight(below.weight, w);
    Plane now(w, h);
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const float u = rungs[0](x, y), d = rungs[1](x, y);
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
            gaussian(now, all, all, std::max(0.5, sigma * context.length), context.canvas_edge, context.stop);
        parallel_rows(
            0, h,
            [&](int y) {
                const float *s = smooth.row(y), *g = given.row(y), *k = weight(y);
                float* to = now.row(y);
                for (int x = 0; x < w; ++x)
                    if (k[x] > 0.999f) to[x] = std::clamp(s[x], g[x] - gap / 2, g[x] + gap / 2);
            },
            context.stop);
    }
    out.height = cropped(Field(std::move(now)), all, context.region);
    return out;
}

} // namespace bathylux
