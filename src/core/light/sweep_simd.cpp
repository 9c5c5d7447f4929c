#include "core/light/sweep.h"

#include <algorithm>
#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/light/sweep_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
/// Where a falling, convex d crosses zero: on the line through the last two levels above zero, which is exact as
/// long as one thing stands in the way; the chord to the next level would be bent by the ground close before.
struct Crossing {
    V at, gap, before, above, next_at;
    HWY_INLINE void level(D d, V x, V this_gap, V previous, V value, V next_x) {
        const auto hidden = hn::Gt(value, hn::Zero(d));
        at = hn::IfThenElse(hidden, x, at);
        gap = hn::IfThenElse(hidden, this_gap, gap);
        before = hn::IfThenElse(hidden, previous, before);
        above = hn::IfThenElse(hidden, value, above);
        next_at = hn::IfThenElse(hidden, next_x, next_at);
    }
    HWY_INLINE V found(D d) const {
        const auto fall = hn::Max(hn::Sub(before, above), hn::Set(d, 1e-20f));
        return hn::Min(next_at, hn::Add(at, hn::Div(hn::Mul(gap, above), fall)));
    }
};

template <int kCount>
HWY_INLINE void ReadLevels(const Carried& c, const Levels& levels, float part, float further, const float* height,
                           int count, float lowest, float* slope) {
    const D d;
    const auto f = hn::Set(d, part), g = hn::Set(d, 1 - part);
    for (int i = 0; i < count; i += static_cast<int>(hn::Lanes(d))) {
        const auto h = hn::LoadU(d, height + i);
        auto previous = hn::Zero(d);
        Crossing crossing{hn::Set(d, lowest), hn::Zero(d), hn::Zero(d), hn::Zero(d), hn::Set(d, lowest)};
        for (int j = 0; j < kCount; ++j) {
            const float* line = c.horizon + j * c.stride + i;
            // Weighed so, a line that has met nothing yet does not spoil its neighbour where its share is 0.
            const auto ray = hn::Add(hn::Mul(g, hn::LoadU(d, line)), hn::Mul(f, hn::LoadU(d, line + 1)));
            const auto value = hn::Sub(hn::Sub(ray, hn::Set(d, levels.slope[j] * further)), h);
            crossing.level(d, hn::Set(d, levels.slope[j]),
                           hn::Set(d, j > 0 ? levels.slope[j] - levels.slope[j - 1] : 0.0f), previous, value,
                           hn::Set(d, levels.slope[j + 1 < kCount ? j + 1 : j]));
            previous = value;
        }
        hn::StoreU(crossing.found(d), d, slope + i);
    }
}

void ReadHorizon(const Carried& c, const Levels& levels, float part, float further, const float* height, int count,
                 float lowest, float* slope) {
    switch (levels.count) {
    case 4: return ReadLevels<4>(c, levels, part, further, height, count, lowest, slope);
    case 5: return ReadLevels<5>(c, levels, part, further, height, count, lowest, slope);
    default: return ReadLevels<most_levels>(c, levels, part, further, height, count, lowest, slope);
    }
}

void ReadNear(const NearRow* rows, int near, const float* height, int count, float* slope) {
    const D d;
    for (int i = 0; i < count; i += static_cast<int>(hn::Lanes(d))) {
        const auto h = hn::LoadU(d, height + i);
        auto steepest = hn::LoadU(d, slope + i);
        for (int t = 0; t < near; ++t) {
            const auto f = hn::Set(d, rows[t].part), g = hn::Set(d, 1 - rows[t].part);
            const auto seen = hn::Add(hn::Mul(g, hn::LoadU(d, rows[t].row + i)),
                                      hn::Mul(f, hn::LoadU(d, rows[t].row + i + 1)));
            steepest = hn::Max(steepest, hn::Mul(hn::Sub(seen, h), hn::Set(d, rows[t].inverse_way)));
        }
        hn::StoreU(steepest, d, slope + i);
    }
}

void MeetRow(const Carried& c, const Levels& levels, const float* row, float part, int count, float step) {
    const D d;
    const auto f = hn::Set(d, part), g = hn::Set(d, 1 - part);
    for (int i = 0; i < count; i += static_cast<int>(hn::Lanes(d))) {
        const auto h = hn::Add(hn::Mul(g, hn::LoadU(d, row + i)), hn::Mul(f, hn::LoadU(d, row + i + 1)));
        for (int j = 0; j < levels.count; ++j) {
            float* line = c.horizon + j * c.stride + i;
            hn::StoreU(hn::Sub(hn::Max(hn::LoadU(d, line), h), hn::Set(d, levels.slope[j] * step)), d, line);
        }
    }
}

void AddShareAbove(const float* slope, int count, float low, float high, float weight, float* sum) {
    const D d;
    const auto top = hn::Set(d, high), per = hn::Set(d, 1 / (high - low)), w = hn::Set(d, weight);
    int i = 0;
    for (; i + static_cast<int>(hn::Lanes(d)) <= count; i += static_cast<int>(hn::Lanes(d))) {
        const auto share = hn::Mul(hn::Sub(top, hn::LoadU(d, slope + i)), per);
        const auto held = hn::Min(hn::Set(d, 1.0f), hn::Max(hn::Zero(d), share));
        hn::StoreU(hn::Add(hn::LoadU(d, sum + i), hn::Mul(w, held)), d, sum + i);
    }
    const float inverse = 1 / (high - low);
    for (; i < count; ++i) sum[i] += weight * std::clamp((high - slope[i]) * inverse, 0.0f, 1.0f);
}

HWY_INLINE V Sky(D d, V slope, V nu, V nz) {
    const auto s = hn::Max(slope, hn::Neg(hn::Div(nu, nz)));
    const auto inverse = hn::Div(hn::Set(d, 1.0f), hn::Add(hn::Set(d, 1.0f), hn::Mul(s, s)));
    const auto wide = hn::Sub(hn::Sub(hn::Set(d, 1.57079633f), Arctangent(d, s)), hn::Mul(s, inverse));
    return hn::Mul(hn::Set(d, 0.5f), hn::Add(hn::Mul(nu, wide), hn::Mul(nz, inverse)));
}

void AddSky(const float* slope, const float* nx, const float* ny, const float* nz, int count, float dx, float dy,
            float* sum) {
    const D d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto ux = hn::Set(d, dx), uy = hn::Set(d, -dy);
    const auto at = [&](const float* s, const float* x, const float* y, const float* z) {
        return Sky(d, hn::LoadU(d, s), hn::Add(hn::Mul(hn::LoadU(d, x), ux), hn::Mul(hn::LoadU(d, y), uy)),
                   hn::LoadU(d, z));
    };
    int i = 0;
    for (; i + lanes <= count; i += lanes)
        hn::StoreU(hn::Add(hn::LoadU(d, sum + i), at(slope + i, nx + i, ny + i, nz + i)), d, sum + i);
    if (i == count) return;
    std::array<float, 16> s{}, x{}, y{}, z{}, out{};
    z.fill(1);
    std::copy(slope + i, slope + count, s.begin()), std::copy(nx + i, nx + count, x.begin());
    std::copy(ny + i, ny + count, y.begin()), std::copy(nz + i, nz + count, z.begin());
    hn::StoreU(at(s.data(), x.data(), y.data(), z.data()), d, out.data());
    for (int j = 0; i + j < count; ++j) sum[i + j] += out[j];
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(ReadHorizon);
HWY_EXPORT(ReadNear);
HWY_EXPORT(MeetRow);
HWY_EXPORT(AddShareAbove);
HWY_EXPORT(AddSky);
void read_horizon(const Carried& carried, const Levels& levels, float part, float further, const float* height,
                  int count, float lowest, float* slope) {
    HWY_DYNAMIC_DISPATCH(ReadHorizon)(carried, levels, part, further, height, count, lowest, slope);
}
void read_near(const NearRow* rows, int near, const float* height, int count, float* slope) {
    HWY_DYNAMIC_DISPATCH(ReadNear)(rows, near, height, count, slope);
}
void meet_row(const Carried& carried, const Levels& levels, const float* row, float part, int count, float step) {
    HWY_DYNAMIC_DISPATCH(MeetRow)(carried, levels, row, part, count, step);
}
void add_share_above(const float* slope, int count, float low, float high, float weight, float* sum) {
    HWY_DYNAMIC_DISPATCH(AddShareAbove)(slope, count, low, high, weight, sum);
}
void add_sky(const float* slope, const float* nx, const float* ny, const float* nz, int count, float dx, float dy,
             float* sum) {
    HWY_DYNAMIC_DISPATCH(AddSky)(slope, nx, ny, nz, count, dx, dy, sum);
}

// Four levels side by side are one vector everywhere: nothing to choose at run time.

void meet_from_lamp(Blockers& blockers, const float* height, int count, const Mast& mast, float inverse_away) {
    const auto m = mast;
    for (int i = 0; i < count; ++i) {
        float* h = blockers.line(i);
        float* k = h + 4;
        for (int j = 0; j < 4; ++j) {
            // The steepest way down from the mast's level hides most.
            const bool more = (m[j] - height[i]) * inverse_away < (m[j] - h[j]) * k[j];
            h[j] = more ? height[i] : h[j];
            k[j] = more ? inverse_away : k[j];
        }
    }
}

void read_from_lamp(Blockers& blockers, const FromLamp& from, const int* line, const float* part, const float* height,
                    const float* near, int count, float* seen) {
    const float inverse = 1 / from.away;
    // Through (1 ÷ k, b) and (away, h) back to the mast: (b k − h ÷ away) ÷ (k − 1 ÷ away).
    const auto hidden_to = [&](const float* b, float h) {
        std::array<float, 4> up;
        for (int j = 0; j < 4; ++j)
            up[j] = (b[j] * b[j + 4] - h * inverse) / std::max(b[j + 4] - inverse, 1e-12f);
        return std::max(std::max(up[0], up[1]), std::max(up[2], up[3]));
    };
    for (int i = 0; i < count; ++i) {
        const float beside = from.beside + static_cast<float>(i), aside = beside - from.shift, h = height[i];
        const float up = from.top - h, flat2 = from.away * from.away + beside * beside;
        const float flat = std::sqrt(flat2), distance = std::sqrt(flat2 + up * up);
        const float to_mast = std::sqrt(from.away * from.away + aside * aside);
        // tan (e ± δ), δ = half ÷ distance.
        const float slope = up / flat, delta = std::min(from.half / distance, 1.2f);
        const float high = h + to_mast * (1 - slope * delta > 1e-3f ? (slope + delta) / (1 - slope * delta) : 1e9f),
                    low = h + to_mast * (1 + slope * delta > 1e-3f ? (slope - delta) / (1 + slope * delta) : -1e9f);
        // Between lines it is the height on the mast that is interpolated: on a slope both neighbours cancel.
        const float a = hidden_to(blockers.line(line[i]), h), b = hidden_to(blockers.line(line[i] + 1), h);
        const float hidden = std::max((1 - part[i]) * a + part[i] * b, h + near[i] * to_mast);
        const float share = std::clamp((high - hidden) / (high - low), 0.0f, 1.0f);
        seen[i] += from.weight * share;
    }
}

} // namespace bathylux
#endif
