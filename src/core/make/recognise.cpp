#include "core/make/recognise.h"

#include <algorithm>
#include <cmath>

#include "core/field/parallel.h"

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
    const auto slopes = [&](int x, int y) {
        const auto n = vector_at(p, x, y);
        const float z = std::max(n[2], 0.05f);
        return std::array{-n[0] / z, n[1] / z}; // ∂h/∂x, and ∂h/∂y_down if green points up
    };
    // How far the field is from having no curl, one way and the other, row by row.
    const int step = std::max(1, p.height / 1024), rows = std::max(0, (p.height - 2 + step - 1) / step);
    std::vector<std::array<double, 2>> curls(rows);
    parallel_rows(0, rows, [&](int i) {
        const int y = 1 + i * step;
        double up = 0, down = 0;
        for (int x = 1; x + 1 < p.width; ++x) {
            const double dp = slopes(x, y + 1)[0] - slopes(x, y - 1)[0],
                         dq = slopes(x + 1, y)[1] - slopes(x - 1, y)[1];
            up += (dp - dq) * (dp - dq);
            down += (dp + dq) * (dp + dq);
        }
        curls[i] = {up, down};
    });
    double up = 0, down = 0;
    for (const auto& c : curls) up += c[0], down += c[1];
    if (up < 0.8 * down) return Green::up;
    if (down < 0.8 * up) return Green::down;
    return Green::unsure;
}

} // namespace

Recognised recognise(const Picture& p) {
    Recognised out{Guess::picture, Green::none, 1e30f, -1e30f};
    const int color = p.channels < 3 ? 1 : 3;
    struct Seen {
        float low = 1e30f, high = -1e30f;
        bool grey = true;
    };
    std::vector<Seen> rows(p.height);
    parallel_rows(0, p.height, [&](int y) {
        Seen s;
        for (int x = 0; x < p.width; ++x) {
            const float first = p.stored(x, y, 0);
            for (int c = 0; c < color; ++c) {
                const float v = c == 0 ? first : p.stored(x, y, c);
                s.grey = s.grey && v == first;
                if (std::isfinite(v)) s.low = std::min(s.low, v), s.high = std::max(s.high, v);
            }
        }
        rows[y] = s;
    });
    bool grey = true;
    for (const Seen& s : rows)
        out.low = std::min(out.low, s.low), out.high = std::max(out.high, s.high), grey = grey && s.grey;
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
