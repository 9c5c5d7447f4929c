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
template <int kCount>
HWY_INLINE void SolveLevels(const Carried& c, const Levels& levels, const float* row, float part,
                            float further, int count, const LineHorizons& out) {
    const D d;
    const auto f = hn::Set(d, part), g = hn::Set(d, 1 - part), zero = hn::Zero(d);
    for (int i = 0; i < count; i += lanes) {
        const auto h = Fused(d, f, hn::LoadU(d, row + i + 1), hn::Mul(g, hn::LoadU(d, row + i)));
        const auto above = [&](int j) {
            return hn::Sub(
                hn::Sub(hn::LoadU(d, c.horizon + j * c.stride + i), hn::Set(d, levels.slope[j] * further)),
                h);
        };
        // The last two levels whose rays are above the ground; between the lowest two, those.
        auto before = above(0), now = above(1);
        auto at = hn::Set(d, levels.slope[1]), gap = hn::Set(d, levels.slope[1] - levels.slope[0]);
        const auto free = hn::Le(levels.guess ? before : now, zero);
        auto upper = before, lower = now;
        for (int j = 2; j < kCount; ++j) {
            before = now, now = above(j);
            const auto hidden = hn::Gt(now, zero);
            upper = hn::IfThenElse(hidden, before, upper);
            lower = hn::IfThenElse(hidden, now, lower);
            at = hn::IfThenElse(hidden, hn::Set(d, levels.slope[j]), at);
            gap = hn::IfThenElse(hidden, hn::Set(d, levels.slope[j] - levels.slope[j - 1]), gap);
        }
        // The way to what stands there is how fast the ray's height falls with the slope.
        const auto less = hn::Div(gap, hn::Max(hn::Sub(upper, lower), hn::Set(d, 1e-20f)));
        const auto slope = Fused(d, hn::Add(lower, h), less, at);
        hn::StoreU(hn::IfThenElse(free, hn::Set(d, levels.slope[0]), slope), d, out.slope + i);
        hn::StoreU(hn::IfThenElse(free, zero, less), d, out.less + i);
    }
}

void SolveLines(const Carried& c, const Levels& levels, const float* row, float part, float further,
                int count, const LineHorizons& out) {
    if (levels.count == 5)
        SolveLevels<5>(c, levels, row, part, further, count, out);
    else
        SolveLevels<9>(c, levels, row, part, further, count, out);
}

void ReadHorizon(const LineHorizons& lines, float part, const float* height, int count, float* slope) {
    const D d;
    const auto f = hn::Set(d, part), g = hn::Set(d, 1 - part);
    const auto between = [&](const float* v) {
        return Fused(d, f, hn::LoadU(d, v + 1), hn::Mul(g, hn::LoadU(d, v)));
    };
    for (int i = 0; i < count; i += lanes)
        hn::StoreU(Less(d, between(lines.less + i), hn::LoadU(d, height + i), between(lines.slope + i)), d,
                   slope + i);
}

void ReadNear(const NearPoint* points, int near, const float* height, int count, float* slope) {
    const D d;
    for (int i = 0; i < count; i += lanes) {
        const auto h = hn::LoadU(d, height + i);
        auto steepest = hn::LoadU(d, slope + i);
        for (int t = 0; t < near; ++t) {
            const auto f = hn::Set(d, points[t].part), g = hn::Set(d, 1 - points[t].part);
            const auto seen =
                Fused(d, f, hn::LoadU(d, points[t].b + i), hn::Mul(g, hn::LoadU(d, points[t].a + i)));
            steepest = hn::Max(steepest, hn::Mul(hn::Sub(seen, h), hn::Set(d, points[t].inverse_way)));
        }
        hn::StoreU(steepest, d, slope + i);
    }
}

void ReadCell(const float* own, const float* before, float aside, float back, const float* height, int count,
              float* slope) {
    const D d;
    const auto f = hn::Set(d, aside), g = hn::Set(d, 1 - aside);
    const auto across = [&](const float* row) {
        return Fused(d, f, hn::LoadU(d, row + 1), hn::Mul(g, hn::LoadU(d, row)));
    };
    for (int i = 0; i < count; i += lanes) {
        const auto seen =
            Fused(d, hn::Set(d, back), across(before + i), hn::Mul(hn::Set(d, 1 - back), across(own + i)));
        hn::StoreU(hn::Max(hn::LoadU(d, slope + i), hn::Sub(seen, hn::LoadU(d, height + i))), d, slope + i);
    }
}

template <int kCount>
HWY_INLINE void MeetLevels(const Carried& c, const Levels& levels, const float* row, float part, int count,
                           float step) {
    const D d;
    const auto f = hn::Set(d, part), g = hn::Set(d, 1 - part);
    std::array<float, kCount> fall;
    for (int j = 0; j < kCount; ++j) fall[j] = levels.slope[j] * step;
    for (int i = 0; i < count; i += lanes) {
        const auto h = Fused(d, f, hn::LoadU(d, row + i + 1), hn::Mul(g, hn::LoadU(d, row + i)));
        for (int j = 0; j < kCount; ++j) {
            float* line = c.horizon + j * c.stride + i;
            hn::StoreU(hn::Sub(hn::Max(hn::LoadU(d, line), h), hn::Set(d, fall[j])), d, line);
        }
    }
}

void MeetRow(const Carried& c, const Levels& levels, const float* row, float part, int count, float step) {
    if (levels.count == 5)
        MeetLevels<5>(c, levels, row, part, count, step);
    else
        MeetLevels<9>(c, levels, row, part, count, step);
}

void AddShareAbove(const float* slope, int count, float low, float high, float weight, float* sum) {
    const D d;
    const auto top = hn::Set(d, high), per = hn::Set(d, 1 / (high - low)), w = hn::Set(d, weight);
    int i = 0;
    for (; i + lanes <= count; i += lanes) {
        const auto share = hn::Mul(hn::Sub(top, hn::LoadU(d, slope + i)), per);
        const auto held = hn::Min(hn::Set(d, 1.0f), hn::Max(hn::Zero(d), share));
        hn::StoreU(Fused(d, w, held, hn::LoadU(d, sum + i)), d, sum + i);
    }
    const float inverse = 1 / (high - low);
    for (; i < count; ++i) sum[i] += weight * std::clamp((high - slope[i]) * inverse, 0.0f, 1.0f);
}

/// `ground`: the slope of the surface itself along the azimuth, upwards positive.
HWY_INLINE V Sky(D d, V slope, V ground, V nz) {
    const auto one = hn::Set(d, 1.0f);
    const auto s = hn::Max(slope, ground), a = hn::Max(hn::Abs(s), hn::Set(d, 1e-20f));
    const auto squared = Fused(d, s, s, one);
    // One division for 1 ÷ (1 + s²) and for the arctangent's 1 ÷ |s|.
    const auto both = hn::Div(one, hn::Mul(a, squared)), inverse = hn::Mul(a, both);
    const auto beyond = hn::Gt(a, one);
    const auto p = ArctangentOfUnit(d, hn::IfThenElse(beyond, hn::Mul(squared, both), a));
    const auto half_pi = hn::Set(d, 1.57079633f);
    const auto angle = hn::CopySign(hn::IfThenElse(beyond, hn::Sub(half_pi, p), p), s);
    const auto wide = Less(d, s, inverse, hn::Sub(half_pi, angle));
    return hn::Mul(hn::Mul(hn::Set(d, 0.5f), nz), Less(d, ground, wide, inverse));
}

void AddSky(const float* slope, const float* gx, const float* gy, const float* nz, int count, float dx,
            float dy, float* sum) {
    const D d;
    const auto ux = hn::Set(d, dx), uy = hn::Set(d, dy);
    const auto at = [&](const float* s, const float* x, const float* y, const float* z) {
        return Sky(d, hn::LoadU(d, s), Fused(d, hn::LoadU(d, y), uy, hn::Mul(hn::LoadU(d, x), ux)),
                   hn::LoadU(d, z));
    };
    int i = 0;
    for (; i + lanes <= count; i += lanes)
        hn::StoreU(hn::Add(hn::LoadU(d, sum + i), at(slope + i, gx + i, gy + i, nz + i)), d, sum + i);
    if (i == count) return;
    std::array<float, 16> s{}, x{}, y{}, z{}, out{};
    std::copy(slope + i, slope + count, s.begin()), std::copy(gx + i, gx + count, x.begin());
    std::copy(gy + i, gy + count, y.begin()), std::copy(nz + i, nz + count, z.begin());
    hn::StoreU(at(s.data(), x.data(), y.data(), z.data()), d, out.data());
    for (int j = 0; i + j < count; ++j) sum[i + j] += out[j];
}

void CrossRow(const float* row, int width, float at, float spread, int count, float* height) {
    const D d;
    const DI di;
    const auto last = hn::Set(di, width - 1), zero = hn::Zero(di);
    for (int i = 0; i < count; i += lanes) {
        const auto x = Fused(d, hn::Set(d, spread), CountedFrom(d, static_cast<float>(i)), hn::Set(d, at));
        const auto floor = hn::Floor(x), f = hn::Sub(x, floor);
        const auto left = hn::ConvertTo(di, floor);
        const auto a = hn::GatherIndex(d, row, hn::Min(last, hn::Max(zero, left)));
        const auto b = hn::GatherIndex(d, row, hn::Min(last, hn::Max(zero, hn::Add(left, hn::Set(di, 1)))));
        hn::StoreU(Fused(d, f, hn::Sub(b, a), a), d, height + i);
    }
}

void MeetFromLamp(const Fan& fan, const float* height, int count, const Mast& mast, float inverse_away) {
    const D d;
    const auto k = hn::Set(d, inverse_away);
    for (int i = 0; i < count; i += lanes) {
        const auto h = hn::LoadU(d, height + i);
        for (int j = 0; j < mast_levels; ++j) {
            const auto m = hn::Set(d, mast[j]);
            const auto was = hn::LoadU(d, fan.height[j] + i), inverse = hn::LoadU(d, fan.inverse[j] + i);
            // The steepest way down from the mast's level hides most.
            const auto more = hn::Lt(hn::Mul(hn::Sub(m, h), k), hn::Mul(hn::Sub(m, was), inverse));
            hn::StoreU(hn::IfThenElse(more, h, was), d, fan.height[j] + i);
            hn::StoreU(hn::IfThenElse(more, k, inverse), d, fan.inverse[j] + i);
        }
    }
}

void SolveFan(const Fan& fan, const float* height, int count, float inverse_away) {
    const D d;
    const auto k = hn::Set(d, inverse_away), one = hn::Set(d, 1.0f);
    for (int i = 0; i < count; i += lanes) {
        const auto h = hn::LoadU(d, height + i);
        auto best = hn::Set(d, -1e30f), hidden = best, less = hn::Zero(d);
        for (int j = 0; j < mast_levels; ++j) {
            // Through (1 ÷ inverse, b) and (away, h) back to the mast: (b inverse − h ÷ away) ÷ (inverse − 1
            // ÷ away).
            const auto b = hn::LoadU(d, fan.height[j] + i), inverse = hn::LoadU(d, fan.inverse[j] + i);
            const auto per = hn::Div(one, hn::Max(hn::Sub(inverse, k), hn::Set(d, 1e-9f)));
            const auto from_ground = hn::Mul(hn::Mul(b, inverse), per), fall = hn::Mul(k, per);
            const auto value = Less(d, fall, h, from_ground);
            const auto more = hn::Gt(value, best);
            best = hn::IfThenElse(more, value, best);
            hidden = hn::IfThenElse(more, from_ground, hidden);
            less = hn::IfThenElse(more, fall, less);
        }
        hn::StoreU(hidden, d, fan.hidden + i);
        hn::StoreU(less, d, fan.less + i);
    }
}

void NearTowardsLamp(const FieldView& field, int y, int sign, int x0, int count, float ox, float away,
                     int near, float* slope) {
    const D d;
    const DI di;
    using VI = hn::Vec<decltype(di)>;
    const auto one = hn::Set(d, 1.0f), zero = hn::Zero(d);
    const auto zero_i = hn::Zero(di), last = hn::Set(di, field.width - 1), stride = hn::Set(di, field.stride);
    const auto held = [&](VI x) { return hn::Min(last, hn::Max(zero_i, x)); };
    // The relief in a row, `at` px from its start.
    const auto in_row = [&](int row, V at) {
        const auto floor = hn::Floor(at), f = hn::Sub(at, floor);
        const auto left = hn::ConvertTo(di, floor);
        const float* from = field.from + static_cast<std::ptrdiff_t>(row) * field.stride;
        const auto a = hn::GatherIndex(d, from, held(left)),
                   b = hn::GatherIndex(d, from, held(hn::Add(left, hn::Set(di, 1))));
        return Fused(d, f, hn::Sub(b, a), a);
    };
    const auto inside = [&](int row) { return row >= 0 && row < field.height; };
    std::array<float, 16> out{};
    for (int i = 0; i < count; i += lanes) {
        const auto x = CountedFrom(d, static_cast<float>(x0 + i));
        const auto lean = hn::Mul(hn::Sub(x, hn::Set(d, ox)), hn::Set(d, 1 / away));
        const auto shorter = hn::Div(one, hn::Sqrt(Fused(d, lean, lean, one))); // 1 ÷ px a row
        const auto own = in_row(y, x);
        auto best = hn::Set(d, -1e30f);
        if (away > 1 && inside(y - sign)) {
            const auto at = Less(d, shorter, lean, x), here = in_row(y, at), there = in_row(y - sign, at);
            best = hn::Sub(Fused(d, shorter, hn::Sub(there, here), here), own);
        }
        for (int t = 1; t <= near && static_cast<float>(t) < away && inside(y - sign * t); ++t) {
            const auto seen = in_row(y - sign * t, Less(d, hn::Set(d, static_cast<float>(t)), lean, x));
            best = hn::Max(best, hn::Mul(hn::Mul(hn::Sub(seen, own), shorter),
                                         hn::Set(d, 1.0f / static_cast<float>(t))));
        }
        // The m-th column is crossed m ÷ |lean| rows before.
        const auto steep = hn::Max(hn::Abs(lean), hn::Set(d, 1e-6f)), per = hn::Div(one, steep);
        const auto reach = hn::Set(d, std::min(static_cast<float>(near), away));
        const auto side = hn::IfThenElse(hn::Lt(lean, zero), hn::Set(d, -1.0f), one);
        for (int m = 1; m <= near; ++m) {
            const auto t = hn::Mul(hn::Set(d, static_cast<float>(m)), per);
            const auto near_enough = hn::Le(t, reach);
            if (hn::AllFalse(d, near_enough)) break;
            const auto t0 = hn::Min(hn::Floor(t), reach), f = hn::Sub(t, t0);
            const auto column = hn::ConvertTo(di, Less(d, hn::Set(d, static_cast<float>(m)), side, x));
            const auto row_at = [&](V back) {
                const auto row = hn::Sub(
                    hn::Set(di, y), hn::ConvertTo(di, hn::Mul(hn::Set(d, static_cast<float>(sign)), back)));
                return hn::Min(hn::Set(di, field.height - 1), hn::Max(zero_i, row));
            };
            const auto value = [&](V back) {
                return hn::GatherIndex(d, field.from, hn::Add(hn::Mul(row_at(back), stride), held(column)));
            };
            const auto a = value(t0), seen = Fused(d, f, hn::Sub(value(hn::Add(t0, one)), a), a);
            const auto found = hn::Mul(hn::Mul(hn::Sub(seen, own), shorter),
                                       hn::Mul(steep, hn::Set(d, 1.0f / static_cast<float>(m))));
            best = hn::IfThenElse(near_enough, hn::Max(best, found), best);
        }
        if (i + lanes <= count) {
            hn::StoreU(best, d, slope + i);
            continue;
        }
        hn::StoreU(best, d, out.data());
        std::copy(out.begin(), out.begin() + (count - i), slope + i);
    }
}

HWY_INLINE V Share(D d, const Fan& fan, const FromLamp& from, V number, V h, V near) {
    const DI di;
    const auto one = hn::Set(d, 1.0f), zero = hn::Zero(d);
    const auto line = hn::Max(zero, Fused(d, hn::Set(d, from.per), number, hn::Set(d, from.line)));
    const auto floor = hn::Floor(line), part = hn::Sub(line, floor);
    const auto at = hn::ConvertTo(di, floor), next = hn::Add(at, hn::Set(di, 1));
    // Between lines it is the height on the mast that is interpolated: on a slope both neighbours cancel.
    const auto between = [&](const float* values) {
        const auto a = hn::GatherIndex(d, values, at), b = hn::GatherIndex(d, values, next);
        return Fused(d, part, b, hn::Mul(hn::Sub(one, part), a));
    };
    const auto beside = hn::Add(hn::Set(d, from.beside), number),
               aside = hn::Sub(beside, hn::Set(d, from.shift));
    const auto away2 = hn::Set(d, from.away * from.away), up = hn::Sub(hn::Set(d, from.top), h);
    const auto flat2 = hn::Max(Fused(d, beside, beside, away2), hn::Set(d, 1e-6f));
    const auto to_mast = hn::Sqrt(Fused(d, aside, aside, away2));
    const auto hidden =
        hn::Max(Less(d, between(fan.less), h, between(fan.hidden)), Fused(d, near, to_mast, h));
    // tan (e ± δ), δ = half ÷ distance; what would lean over backwards is as good as upright.
    const auto slope = hn::Mul(up, InverseSqrt(d, flat2));
    const auto delta =
        hn::Min(hn::Mul(hn::Set(d, from.half), InverseSqrt(d, Fused(d, up, up, flat2))), hn::Set(d, 1.2f));
    const auto lean = hn::Mul(slope, delta), least = hn::Set(d, 1e-6f);
    const auto high =
        Fused(d, to_mast, hn::Div(hn::Add(slope, delta), hn::Max(hn::Sub(one, lean), least)), h);
    const auto low = Fused(d, to_mast, hn::Div(hn::Sub(slope, delta), hn::Max(hn::Add(one, lean), least)), h);
    const auto share = hn::Div(hn::Sub(high, hidden), hn::Max(hn::Sub(high, low), hn::Set(d, 1e-9f)));
    return hn::Mul(hn::Set(d, from.weight), hn::Min(one, hn::Max(zero, share)));
}

void ReadFromLamp(const Fan& fan, const FromLamp& from, const float* height, const float* near, int count,
                  float* seen) {
    const D d;
    int i = 0;
    for (; i + lanes <= count; i += lanes)
        hn::StoreU(hn::Add(hn::LoadU(d, seen + i), Share(d, fan, from, CountedFrom(d, static_cast<float>(i)),
                                                         hn::LoadU(d, height + i), hn::LoadU(d, near + i))),
                   d, seen + i);
    if (i == count) return;
    std::array<float, 16> h{}, n{}, out{};
    std::copy(height + i, height + count, h.begin()), std::copy(near + i, near + count, n.begin());
    // Lanes beyond the last place look at its line.
    const auto number =
        hn::Min(CountedFrom(d, static_cast<float>(i)), hn::Set(d, static_cast<float>(count - 1)));
    hn::StoreU(Share(d, fan, from, number, hn::LoadU(d, h.data()), hn::LoadU(d, n.data())), d, out.data());
    for (int j = 0; i + j < count; ++j) seen[i + j] += out[j];
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(SolveLines);
HWY_EXPORT(ReadHorizon);
HWY_EXPORT(ReadNear);
HWY_EXPORT(ReadCell);
HWY_EXPORT(MeetRow);
HWY_EXPORT(AddShareAbove);
HWY_EXPORT(AddSky);
HWY_EXPORT(CrossRow);
HWY_EXPORT(MeetFromLamp);
HWY_EXPORT(SolveFan);
HWY_EXPORT(NearTowardsLamp);
HWY_EXPORT(ReadFromLamp);
void solve_lines(const Carried& carried, const Levels& levels, const float* row, float part, float further,
                 int count, const LineHorizons& out) {
    HWY_DYNAMIC_DISPATCH(SolveLines)(carried, levels, row, part, further, count, out);
}
void read_horizon(const LineHorizons& lines, float part, const float* height, int count, float* slope) {
    HWY_DYNAMIC_DISPATCH(ReadHorizon)(lines, part, height, count, slope);
}
void read_near(const NearPoint* points, int near, const float* height, int count, float* slope) {
    HWY_DYNAMIC_DISPATCH(ReadNear)(points, near, height, count, slope);
}
void read_cell(const float* own, const float* before, float aside, float back, const float* height, int count,
               float* slope) {
    HWY_DYNAMIC_DISPATCH(ReadCell)(own, before, aside, back, height, count, slope);
}
void meet_row(const Carried& carried, const Levels& levels, const float* row, float part, int count,
              float step) {
    HWY_DYNAMIC_DISPATCH(MeetRow)(carried, levels, row, part, count, step);
}
void add_share_above(const float* slope, int count, float low, float high, float weight, float* sum) {
    HWY_DYNAMIC_DISPATCH(AddShareAbove)(slope, count, low, high, weight, sum);
}
void add_sky(const float* slope, const float* gx, const float* gy, const float* nz, int count, float dx,
             float dy, float* sum) {
    HWY_DYNAMIC_DISPATCH(AddSky)(slope, gx, gy, nz, count, dx, dy, sum);
}

void cross_row(const float* row, int width, float at, float spread, int count, float* height) {
    HWY_DYNAMIC_DISPATCH(CrossRow)(row, width, at, spread, count, height);
}
void meet_from_lamp(const Fan& fan, const float* height, int count, const Mast& mast, float inverse_away) {
    HWY_DYNAMIC_DISPATCH(MeetFromLamp)(fan, height, count, mast, inverse_away);
}
void solve_fan(const Fan& fan, const float* height, int count, float inverse_away) {
    HWY_DYNAMIC_DISPATCH(SolveFan)(fan, height, count, inverse_away);
}
void near_towards_lamp(const FieldView& field, int y, int sign, int x0, int count, float ox, float away,
                       int near, float* slope) {
    HWY_DYNAMIC_DISPATCH(NearTowardsLamp)(field, y, sign, x0, count, ox, away, near, slope);
}
void read_from_lamp(const Fan& fan, const FromLamp& from, const float* height, const float* near, int count,
                    float* seen) {
    HWY_DYNAMIC_DISPATCH(ReadFromLamp)(fan, from, height, near, count, seen);
}

} // namespace bathylux
#endif
