#include "core/light/occlusion.h"

#include <numbers>

#include "core/field/parallel.h"
#include "core/light/normals.h"

namespace bathylux {

namespace {

constexpr float nothing = -1e30f; // the horizon where nothing was met

/// A height field as the sweep wants it: the sweep's way is always along a row.
struct Swept {
    const Plane& h;
    bool repeat;
};

/// How a line that sinks `shear` rows a px lies at every px of its way: whole rows, and the part of the next.
struct Shear {
    std::vector<int> rows;
    std::vector<float> part;
    Shear(int n, double shear) : rows(n), part(n) {
        for (int x = 0; x < n; ++x) {
            const double base = std::floor(x * shear);
            rows[x] = static_cast<int>(base), part[x] = static_cast<float>(x * shear - base);
        }
    }
};

/// Horizons, as slopes in height per px of way, met when going along +x or −x by one px and `shear` rows a
/// px. Result: line k, px x; line k passes through row k − first at x = 0.
struct Horizons {
    Plane slope;
    int first = 0; // of lines: line 0 lies `first` rows above row 0
};

Horizons sweep(const Swept& field, double shear, bool forward, float radius, std::stop_token stop) {
    const int w = field.h.width(), h = field.h.height();
    // A line keeps to the field: on a tile there are as many as rows, wrapped; else enough to meet every px.
    const int extra = field.repeat ? 0 : static_cast<int>(std::ceil(std::abs(shear) * w)) + 1;
    Horizons out{Plane(w, field.repeat ? h : h + extra + 1), shear > 0 && !field.repeat ? extra : 0};
    const auto step = static_cast<float>(std::sqrt(1 + shear * shear));
    const Shear lies(w, shear);
    parallel_blocks(
        0, out.slope.height(), 8,
        [&](int from, int to) {
            // The upper hull of what was met, nearest last: way and height.
            std::vector<float> ways(2 * static_cast<std::size_t>(w) + 2), heights(ways.size());
            for (int k = from; k < to; ++k) {
                int count = 0;
                float* slope_at = out.slope.row(k);
                // On a tile the first time round only fills the hull.
                for (int turn = field.repeat ? 0 : 1; turn < 2; ++turn)
                    for (int n = 0; n < w; ++n) {
                        const int x = forward ? n : w - 1 - n;
                        int r0 = k - out.first + lies.rows[x], r1 = r0 + 1;
                        if (field.repeat) {
                            r0 = ((r0 % h) + h) % h, r1 = r0 + 1 < h ? r0 + 1 : 0;
                        } else if (r0 < 0 || r1 >= h) {
                            if (r1 < 0 || r0 >= h) {
                                slope_at[x] = nothing;
                                continue;
                            }
                            r0 = std::clamp(r0, 0, h - 1), r1 = std::clamp(r1, 0, h - 1);
                        }
                        const float above = field.h(x, r0),
                                    height = above + lies.part[x] * (field.h(x, r1) - above);
                        const float way = static_cast<float>(turn == 1 && field.repeat ? n + w : n) * step;
                        // Off the hull goes what the new point hides behind what came before it.
                        while (count > 1) {
                            const float aw = ways[count - 2], ah = heights[count - 2];
                            if ((heights[count - 1] - ah) * (way - aw) >
                                (height - ah) * (ways[count - 1] - aw))
                                break;
                            --count;
                        }
                        // The nearest on the hull is the one the line of sight touches.
                        if (turn == 1) {
                            float slope = nothing;
                            if (count > 0)
                                if (const float d = way - ways[count - 1]; radius <= 0 || d <= radius)
                                    slope = (heights[count - 1] - height) / d;
                            slope_at[x] = slope;
                        }
                        ways[count] = way, heights[count] = height;
                        ++count;
                    }
            }
        },
        stop);
    return out;
}

Plane transposed(const Plane& p) {
    Plane out(p.height(), p.width());
    constexpr int tile = 32;
    parallel_blocks(0, p.width(), tile, [&](int x0, int x1) {
        for (int y0 = 0; y0 < p.height(); y0 += tile)
            for (int x = x0; x < x1; ++x)
                for (int y = y0; y < std::min(y0 + tile, p.height()); ++y) out(y, x) = p(x, y);
    });
    return out;
}

/// atan within 1e-5: a polynomial on −1…1 (Hastings 1955), the complement beyond.
float arctangent(float x) {
    const float a = std::abs(x), t = a > 1 ? 1 / a : a, q = t * t;
    const float p =
        t * (0.9998660f + q * (-0.3302995f + q * (0.1801410f + q * (-0.0851330f + q * 0.0208351f))));
    return std::copysign(a > 1 ? 0.5f * std::numbers::pi_v<float> - p : p, x);
}

/// ∫ over elevation, from the zenith down to the horizon, of the cosine to a normal (n_u along the azimuth,
/// n_z up) times the solid angle: n_u (T − ½ sin 2T) ÷ 2 + n_z ½ sin² T, with T = ½π − atan(slope).
float seen(float slope, float nu, float nz) {
    // The surface hides what lies below its own plane: slope −n_u ÷ n_z along the way.
    slope = std::max(slope, -nu / nz);
    const float inverse = 1 / (1 + slope * slope);
    return 0.5f *
           (nu * (0.5f * std::numbers::pi_v<float> - arctangent(slope) - slope * inverse) + nz * inverse);
}

} // namespace

Plane occlusion(const Field& height, Region region, float per_px, Edge edge, const Sky& sky,
                std::stop_token stop) {
    const int w = region.width(), h = region.height();
    Plane out(w, h, 0.0f);
    if (height.is_constant()) return Plane(w, h, 1.0f);
    const bool repeat = edge == Edge::repeat;
    const auto n = normals(height, region, region, per_px, edge, stop);
    // Heights in device px, so that slopes are slopes.
    Plane upright(w, h);
    parallel_rows(0, h, [&](int y) {
        const float* from = height.plane().row(y);
        for (int x = 0; x < w; ++x) upright(x, y) = from[x] * per_px;
    });
    const Plane turned = transposed(upright);
    for (int i = 0; i < sky.azimuths; ++i) {
        const double azimuth = 2 * std::numbers::pi * (i + 0.5) / sky.azimuths;
        const double dx = std::cos(azimuth), dy = -std::sin(azimuth); // y down; towards what is looked at
        const bool across = std::abs(dx) >= std::abs(dy);
        // The sweep comes from there: it goes along −d.
        double shear = across ? dy / dx : dx / dy;
        // On a tile lines have to close: the shear is rounded to whole rows a round.
        if (repeat) shear = std::round(shear * (across ? w : h)) / (across ? w : h);
        const bool forward = across ? dx < 0 : dy < 0;
        const Swept field{across ? upright : turned, repeat};
        Horizons s = sweep(field, shear, forward, sky.radius, stop);
        const auto nu_x = static_cast<float>(dx), nu_y = static_cast<float>(-dy); // normals have y up
        const int lines = s.slope.height();
        // Read along the picture's rows in either case.
        if (!across) s.slope = transposed(s.slope);
        // The line through a px: so many above the one of its row, and the part of the next.
        const Shear back(across ? w : h, -shear);
        parallel_rows(
            0, h,
            [&](int y) {
                float* to = out.row(y);
                const float *nx = n[0].row(y), *ny = n[1].row(y), *nz = n[2].row(y);
                for (int x = 0; x < w; ++x) {
                    const int along = across ? x : y, row = across ? y : x;
                    int k0 = row + s.first + back.rows[along], k1 = k0 + 1;
                    if (repeat)
                        k0 = ((k0 % lines) + lines) % lines, k1 = k0 + 1 < lines ? k0 + 1 : 0;
                    else
                        k0 = std::clamp(k0, 0, lines - 1), k1 = std::clamp(k1, 0, lines - 1);
                    const float a = across ? s.slope(x, k0) : s.slope(k0, y),
                                b = across ? s.slope(x, k1) : s.slope(k1, y);
                    const float slope = a == nothing ? b : b == nothing ? a : a + back.part[along] * (b - a);
                    to[x] += seen(slope, nx[x] * nu_x + ny[x] * nu_y, nz[x]);
                }
            },
            stop);
    }
    const float per = 2.0f / static_cast<float>(sky.azimuths); // 2π a round, ÷ π
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) out(x, y) = std::clamp(out(x, y) * per, 0.0f, 1.0f);
    });
    return out;
}

} // namespace bathylux
