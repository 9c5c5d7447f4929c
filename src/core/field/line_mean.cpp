#include "core/field/line_mean.h"

#include <cmath>
#include <vector>

#include "core/field/parallel.h"

namespace bathylux {

namespace {

/// ∫ of the hat max(0, 1 − |s − at|) over −half … half.
double hat_within(double at, double half) {
    const auto below = [at](double s) { // from −∞ to s
        const double u = std::clamp(s - at, -1.0, 1.0);
        return u < 0 ? (1 + u) * (1 + u) / 2 : 1 - (1 - u) * (1 - u) / 2;
    };
    return below(half) - below(-half);
}

struct Tap {
    int dx, dy;
    float weight;
};

/// A tap at every px of the longer axis, parted between the two nearest of the other.
std::vector<Tap> taps_of(Vec2 line) {
    const bool flat = std::abs(line.x) >= std::abs(line.y);
    const double half = (flat ? std::abs(line.x) : std::abs(line.y)) / 2,
                 slope = half > 0 ? (flat ? line.y / line.x : line.x / line.y) : 0;
    std::vector<Tap> out;
    const int n = static_cast<int>(std::ceil(half));
    for (int i = -n; i <= n; ++i) {
        const double weight = half > 0 ? hat_within(i, half) / (2 * half) : 1, across = i * slope,
                     whole = std::floor(across), f = across - whole;
        for (const auto& [k, share] : {std::pair{0, 1 - f}, {1, f}}) {
            const int j = static_cast<int>(whole) + k;
            if (share * weight > 0)
                out.push_back({flat ? i : j, flat ? j : i, static_cast<float>(share * weight)});
        }
    }
    return out;
}

} // namespace

Plane line_mean(const Plane& in, Region have, Region wanted, Vec2 line, Edge edge) {
    const auto taps = taps_of(line);
    int reach = 0;
    for (const Tap& t : taps) reach = std::max({reach, std::abs(t.dx), std::abs(t.dy)});
    const Region wide = grow(wanted, reach);
    const Plane* from = &in;
    Plane padded;
    Region held = have;
    if (!have.contains(wide)) padded = extended(in, have, wide, edge), from = &padded, held = wide;
    const int w = wanted.width();
    Plane out(w, wanted.height(), 0.0f);
    parallel_rows(0, wanted.height(), [&](int y) {
        float* to = out.row(y);
        for (const Tap& t : taps) {
            const float* row = from->row(y + wanted.y0 + t.dy - held.y0) + (wanted.x0 + t.dx - held.x0);
            for (int x = 0; x < w; ++x) to[x] += t.weight * row[x];
        }
    });
    return out;
}

} // namespace bathylux
