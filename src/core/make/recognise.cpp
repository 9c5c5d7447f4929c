#include "core/make/recognise.h"

#include <algorithm>
#include <cmath>

namespace bathylux {

namespace {

std::array<float, 3> vector_at(const Picture& p, int x, int y) {
    std::array<float, 3> v{};
    for (int c = 0; c < 3; ++c) v[c] = p.is_float() ? p.stored(x, y, c) : 2 * p.stored(x, y, c) - 1;
    return v;
}

bool looks_like_normals(const Picture& p, int step) {
    long long looked = 0, unit = 0, upward = 0, flat = 0;
    for (int y = 0; y < p.height; y += step)
        for (int x = 0; x < p.width; x += step) {
            const auto n = vector_at(p, x, y);
            const float len = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
            ++looked;
            unit += std::abs(len - 1) < 0.06f;
            upward += n[2] > 0;
            flat += n[2] > 0.9f;
        }
    return looked > 0 && unit > 0.9 * looked && upward > 0.97 * looked && flat > 0;
}

Green green_of(const Picture& p) {
    double up = 0, down = 0;
    const auto slopes = [&](int x, int y) {
        const auto n = vector_at(p, x, y);
        const float z = std::max(n[2], 0.05f);
        return std::array{-n[0] / z, n[1] / z}; // ∂h/∂x, and ∂h/∂y_down if green points up
    };
    const int rows = std::max(1, p.height / 1024);
    for (int y = 1; y + 1 < p.height; y += rows)
        for (int x = 1; x + 1 < p.width; ++x) {
            const double dp = slopes(x, y + 1)[0] - slopes(x, y - 1)[0],
                         dq = slopes(x + 1, y)[1] - slopes(x - 1, y)[1];
            up += (dp - dq) * (dp - dq);
            down += (dp + dq) * (dp + dq);
        }
    if (up < 0.8 * down) return Green::up;
    if (down < 0.8 * up) return Green::down;
    return Green::unsure;
}

} // namespace

Recognised recognise(const Picture& p) {
    Recognised out{Guess::picture, Green::none, 1e30f, -1e30f};
    const int color = p.channels < 3 ? 1 : 3;
    bool grey = true;
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x) {
            for (int c = 0; c < color; ++c) {
                const float v = p.stored(x, y, c);
                if (std::isfinite(v)) out.low = std::min(out.low, v), out.high = std::max(out.high, v);
            }
            if (color == 3 && grey)
                grey = p.stored(x, y, 0) == p.stored(x, y, 1) && p.stored(x, y, 1) == p.stored(x, y, 2);
        }
    if (color == 3 && !grey &&
        looks_like_normals(
            p, std::max(1, static_cast<int>(std::sqrt(static_cast<double>(p.width) * p.height / 2.5e5))))) {
        out.what = Guess::normals;
        out.green = green_of(p);
    } else if (grey && p.format != Picture::Format::u8)
        out.what = Guess::height;
    return out;
}

} // namespace bathylux
