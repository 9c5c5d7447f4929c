#include "core/light/sky_map.h"

#include <algorithm>
#include <cmath>
#include <list>
#include <mutex>
#include <numbers>

#include "core/field/geometry.h"
#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "core/step/picture.h"

namespace bathylux {

namespace {

using Direction = std::array<double, 3>;
constexpr double pi = std::numbers::pi;

Direction unit(Direction d) {
    const double k = 1 / std::sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
    return {d[0] * k, d[1] * k, d[2] * k};
}

/// Octahedral map (Cigolle et al. 2014): u, v in −1…1, straight up in the middle.
Direction unfolded(double u, double v) {
    const double z = 1 - std::abs(u) - std::abs(v);
    if (z >= 0) return unit({u, v, z});
    return unit({std::copysign(1 - std::abs(v), u), std::copysign(1 - std::abs(u), v), z});
}

/// Solid angle of a texel, up to a factor: the map's stretch.
double weight_at(const Direction& d) {
    const double sum = std::abs(d[0]) + std::abs(d[1]) + std::abs(d[2]);
    return sum * sum * sum;
}

double radical_inverse(unsigned i) {
    double out = 0, f = 0.5;
    for (; i; i >>= 1, f *= 0.5) out += f * (i & 1);
    return out;
}

Rgb linear(const Color& c) { return {srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b)}; }

Rgb mixed(const Rgb& a, const Rgb& b, double t) {
    const auto f = static_cast<float>(std::clamp(t, 0.0, 1.0));
    return {a[0] + f * (b[0] - a[0]), a[1] + f * (b[1] - a[1]), a[2] + f * (b[2] - a[2])};
}

double smooth(double low, double high, double x) {
    const double t = std::clamp((x - low) / (high - low), 0.0, 1.0);
    return t * t * (3 - 2 * t);
}

/// A harbour at dusk: a warm band low in the west, cool overhead, dark water, lamps along the quay.
Rgb harbour(const Direction& d) {
    const double up = std::asin(std::clamp(d[2], -1.0, 1.0)) / (pi / 2), azimuth = std::atan2(d[1], d[0]);
    const double west = 0.5 + 0.5 * std::cos(azimuth - 2.7);
    Rgb out = mixed({0.16f, 0.2f, 0.34f}, {0.05f, 0.09f, 0.2f}, up);
    const double glow = std::exp(-std::pow(std::max(0.0, up) / 0.22, 2)) * std::pow(west, 1.5);
    for (int c = 0; c < 3; ++c) out[c] += static_cast<float>(glow) * std::array{2.2f, 0.92f, 0.34f}[c];
    // Bars of cloud over the glow.
    const double bars =
        smooth(0.2, 0.9, std::sin(34 * up + 2.5 * std::sin(azimuth))) * std::exp(-4 * std::max(0.0, up));
    out = mixed(out, {0.3f, 0.2f, 0.24f}, 0.45 * bars * west);
    if (d[2] < 0) out = mixed(out, {0.05f, 0.06f, 0.08f}, smooth(0, 0.06, -d[2]));
    for (int i = 0; i < 5; ++i) {
        const Direction lamp =
            unit({std::cos(-0.9 + 0.42 * i), std::sin(-0.9 + 0.42 * i), 0.16 + 0.03 * (i % 2)});
        const double off = 1 - (d[0] * lamp[0] + d[1] * lamp[1] + d[2] * lamp[2]);
        const double shine = 9 * std::exp(-off / 0.0016);
        for (int c = 0; c < 3; ++c) out[c] += static_cast<float>(shine) * std::array{1.0f, 0.78f, 0.45f}[c];
    }
    return out;
}

/// A workshop: dim walls, a window of six panes on the left, a long lamp over the bench, a warm bulb behind.
Rgb workshop(const Direction& d) {
    Rgb out = mixed({0.1f, 0.095f, 0.09f}, {0.2f, 0.2f, 0.21f}, smooth(-0.2, 0.9, d[2]));
    const auto panel = [&](const Direction& towards, const Direction& side, double half_wide,
                           double half_high, int columns, int rows, const Rgb& light) {
        const Direction n = unit(towards), u = unit(side);
        const Direction v{n[1] * u[2] - n[2] * u[1], n[2] * u[0] - n[0] * u[2], n[0] * u[1] - n[1] * u[0]};
        const double facing = d[0] * n[0] + d[1] * n[1] + d[2] * n[2];
        if (facing <= 0.05) return;
        const double a = (d[0] * u[0] + d[1] * u[1] + d[2] * u[2]) / facing / half_wide,
                     b = (d[0] * v[0] + d[1] * v[1] + d[2] * v[2]) / facing / half_high;
        double share = smooth(1.04, 0.96, std::abs(a)) * smooth(1.04, 0.96, std::abs(b));
        const auto bar = [](double t, int count) {
            if (count < 2) return 1.0;
            const double p = (t + 1) / 2 * count, off = std::abs(p - std::round(p));
            return std::round(p) <= 0 || std::round(p) >= count ? 1.0 : smooth(0.03, 0.08, off);
        };
        share *= bar(a, columns) * bar(b, rows);
        for (int c = 0; c < 3; ++c) out[c] += static_cast<float>(share) * light[c];
    };
    panel({-0.75, 0.45, 0.5}, {0.45, 0.75, 0}, 0.42, 0.5, 2, 3, {3.4f, 3.7f, 4.1f});
    panel({0.25, 0.2, 0.95}, {1, -0.25, 0}, 0.75, 0.07, 1, 1, {4.4f, 4.2f, 3.8f});
    panel({0.8, -0.5, 0.35}, {0.5, 0.8, 0}, 0.14, 0.14, 1, 1, {3.6f, 2.1f, 0.9f});
    return out;
}

Rgb panorama_at(const Picture::Texels& picture, const Direction& d) {
    // The middle column looks to the top of the canvas; further right in the picture is further clockwise.
    const double u = 0.5 + (pi / 2 - std::atan2(d[1], d[0])) / (2 * pi),
                 v = std::acos(std::clamp(d[2], -1.0, 1.0)) / pi;
    const double x = (u - std::floor(u)) * picture.width - 0.5, y = v * picture.height - 0.5;
    const int x0 = static_cast<int>(std::floor(x)), y0 = static_cast<int>(std::floor(y));
    const auto fx = static_cast<float>(x - x0), fy = static_cast<float>(y - y0);
    Rgb out{};
    for (int j = 0; j < 2; ++j)
        for (int i = 0; i < 2; ++i) {
            const int px = ((x0 + i) % picture.width + picture.width) % picture.width,
                      py = std::clamp(y0 + j, 0, picture.height - 1);
            const float w = (i ? fx : 1 - fx) * (j ? fy : 1 - fy);
            for (int c = 0; c < 3; ++c) out[c] += w * picture.rgba(4 * px + c, py);
        }
    return out;
}

} // namespace

SkyMap::Radiance radiance_of(const SkyLight& sky, const std::shared_ptr<const Picture>& panorama) {
    const double cosine = std::cos(sky.turn * radians_per_degree),
                 sine = std::sin(sky.turn * radians_per_degree);
    const auto turned = [=](const Direction& d) {
        return Direction{cosine * d[0] + sine * d[1], cosine * d[1] - sine * d[0], d[2]};
    };
    if (sky.scene == SkyScene::harbour) return [=](const Direction& d) { return harbour(turned(d)); };
    if (sky.scene == SkyScene::workshop) return [=](const Direction& d) { return workshop(turned(d)); };
    if (sky.scene == SkyScene::file && panorama) {
        int level = 0;
        while (panorama->width >> level > 512 && level + 1 < panorama->levels()) ++level;
        const auto [w, h] = panorama->size_of_level(level);
        const auto texels = std::make_shared<const Picture::Texels>(
            panorama->texels(Picture::Reading::color, level, {0, 0, w, h}, Edge::clamp));
        return [=](const Direction& d) { return panorama_at(*texels, turned(d)); };
    }
    const Rgb zenith = linear(sky.zenith), horizon = linear(sky.horizon), ground = linear(sky.ground);
    return [=](const Direction& d) {
        return d[2] >= 0 ? mixed(horizon, zenith, std::sqrt(d[2]))
                         : mixed(horizon, ground, smooth(0, 0.2, -d[2]));
    };
}

SkyMap::SkyMap(const Radiance& radiance) {
    Level sharp{128, std::vector<Rgb>(130 * 130)};
    parallel_rows(0, 130, [&](int y) {
        for (int x = 0; x < 130; ++x) {
            // Beyond the map's edge it folds over: the same point mirrored along the edge.
            double u = (x - 0.5) / 64 - 1, v = (y - 0.5) / 64 - 1;
            if (std::abs(u) > 1) u = std::copysign(2 - std::abs(u), u), v = -v;
            if (std::abs(v) > 1) v = std::copysign(2 - std::abs(v), v), u = -u;
            sharp.texels[y * 130 + x] = radiance(unfolded(u, v));
        }
    });
    levels_[0] = std::move(sharp);
    for (int i = 1; i < levels; ++i)
        levels_[i] =
            blurred(levels_[i == 1 ? 0 : 1], i == 1 ? 64 : 32, static_cast<double>(i) / (levels - 1));

    // Irradiance: bands 0 to 2, already folded with the cosine (A0 = π, A1 = 2π ÷ 3, A2 = π ÷ 4) and ÷ π.
    double whole = 0;
    std::array<std::array<double, 3>, 9> sum{};
    const auto basis = [](const Direction& d) {
        return std::array<double, 9>{0.282095,
                                     0.488603 * d[1],
                                     0.488603 * d[2],
                                     0.488603 * d[0],
                                     1.092548 * d[0] * d[1],
                                     1.092548 * d[1] * d[2],
                                     0.315392 * (3 * d[2] * d[2] - 1),
                                     1.092548 * d[0] * d[2],
                                     0.546274 * (d[0] * d[0] - d[1] * d[1])};
    };
    for (int y = 0; y < 128; ++y)
        for (int x = 0; x < 128; ++x) {
            const Direction d = unfolded((x + 0.5) / 64 - 1, (y + 0.5) / 64 - 1);
            const double w = weight_at(d);
            const auto b = basis(d);
            whole += w;
            for (int k = 0; k < 9; ++k)
                for (int c = 0; c < 3; ++c)
                    sum[k][c] += w * b[k] * levels_[0].texels[(y + 1) * 130 + x + 1][c];
        }
    constexpr std::array<double, 9> fold{1, 2 / 3.0, 2 / 3.0, 2 / 3.0, 0.25, 0.25, 0.25, 0.25, 0.25};
    constexpr std::array<double, 9> norm{0.282095, 0.488603, 0.488603, 0.488603, 1.092548,
                                         1.092548, 0.315392, 1.092548, 0.546274};
    for (int k = 0; k < 9; ++k)
        for (int c = 0; c < 3; ++c)
            harmonics_[k][c] = static_cast<float>(sum[k][c] / whole * 4 * pi * fold[k] * norm[k]);
}

SkyMap::Level SkyMap::blurred(const Level& from, int side, double roughness) {
    Level out{side, std::vector<Rgb>((side + 2) * (side + 2))};
    struct Ray {
        std::array<float, 3> d;
        float weight;
        Rgb light;
    };
    // A source no finer than the lobe needs.
    std::vector<Ray> rays;
    const int step = from.side > 64 ? 2 : 1;
    for (int y = 0; y < from.side; y += step)
        for (int x = 0; x < from.side; x += step) {
            const Direction d =
                unfolded((x + 0.5 * step) / (0.5 * from.side) - 1, (y + 0.5 * step) / (0.5 * from.side) - 1);
            Rgb light{};
            for (int j = 0; j < step; ++j)
                for (int i = 0; i < step; ++i)
                    for (int c = 0; c < 3; ++c)
                        light[c] += from.texels[(y + j + 1) * (from.side + 2) + x + i + 1][c] /
                                    static_cast<float>(step * step);
            rays.push_back({{static_cast<float>(d[0]), static_cast<float>(d[1]), static_cast<float>(d[2])},
                            static_cast<float>(weight_at(d)),
                            light});
        }
    const auto a2 = static_cast<float>(std::pow(roughness, 4));
    parallel_rows(0, side + 2, [&](int y) {
        for (int x = 0; x < side + 2; ++x) {
            double u = (x - 0.5) / (0.5 * side) - 1, v = (y - 0.5) / (0.5 * side) - 1;
            if (std::abs(u) > 1) u = std::copysign(2 - std::abs(u), u), v = -v;
            if (std::abs(v) > 1) v = std::copysign(2 - std::abs(v), v), u = -u;
            const Direction n = unfolded(u, v);
            const auto nx = static_cast<float>(n[0]), ny = static_cast<float>(n[1]),
                       nz = static_cast<float>(n[2]);
            Rgb sum{};
            float whole = 0;
            for (const Ray& r : rays) {
                const float ndl = nx * r.d[0] + ny * r.d[1] + nz * r.d[2];
                if (ndl <= 0) continue;
                // n = v: n·h = √((1 + n·l) ÷ 2), and the lobe over l carries 1 ÷ (4 v·h).
                const float ndh2 = 0.5f * (1 + ndl), t = ndh2 * (a2 - 1) + 1;
                const float w = r.weight * ndl * a2 / (t * t);
                whole += w;
                for (int c = 0; c < 3; ++c) sum[c] += w * r.light[c];
            }
            for (float& c : sum) c /= std::max(whole, 1e-20f);
            out.texels[y * (side + 2) + x] = sum;
        }
    });
    return out;
}

Rgb SkyMap::diffuse(float x, float y, float z) const {
    const std::array<float, 9> b{1, y, z, x, x * y, y * z, 3 * z * z - 1, x * z, x * x - y * y};
    Rgb out{};
    for (int k = 0; k < 9; ++k)
        for (int c = 0; c < 3; ++c) out[c] += b[k] * harmonics_[k][c];
    for (float& c : out) c = std::max(c, 0.0f);
    return out;
}

Rgb SkyMap::at(const Level& level, float u, float v) const {
    const auto half = 0.5f * static_cast<float>(level.side);
    const float x = (u + 1) * half + 0.5f, y = (v + 1) * half + 0.5f;
    const int x0 = std::clamp(static_cast<int>(x), 0, level.side),
              y0 = std::clamp(static_cast<int>(y), 0, level.side);
    const float fx = x - static_cast<float>(x0), fy = y - static_cast<float>(y0);
    const Rgb* t = &level.texels[y0 * (level.side + 2) + x0];
    const Rgb* below = t + level.side + 2;
    Rgb out;
    for (int c = 0; c < 3; ++c) {
        const float a = t[0][c] + fx * (t[1][c] - t[0][c]),
                    b = below[0][c] + fx * (below[1][c] - below[0][c]);
        out[c] = a + fy * (b - a);
    }
    return out;
}

Rgb SkyMap::reflected(float x, float y, float z, float roughness) const {
    const float k = 1 / std::max(std::abs(x) + std::abs(y) + std::abs(z), 1e-9f);
    float u = x * k, v = y * k;
    if (z < 0) {
        const float fu = std::copysign(1 - std::abs(v), u), fv = std::copysign(1 - std::abs(u), v);
        u = fu, v = fv;
    }
    const float l = std::clamp(roughness, 0.0f, 1.0f) * (levels - 1);
    const int i = std::min(static_cast<int>(l), levels - 2);
    const float f = l - static_cast<float>(i);
    const Rgb a = at(levels_[i], u, v), b = at(levels_[i + 1], u, v);
    return {a[0] + f * (b[0] - a[0]), a[1] + f * (b[1] - a[1]), a[2] + f * (b[2] - a[2])};
}

std::shared_ptr<const SkyMap> sky_map_of(const SkyLight& sky,
                                         const std::shared_ptr<const Picture>& panorama) {
    Hash h;
    h << static_cast<int>(sky.scene) << sky.turn << (panorama ? panorama->hash : 0);
    if (sky.scene == SkyScene::gradient)
        h << to_string(sky.zenith) << to_string(sky.horizon) << to_string(sky.ground);
    // Blurring takes some tens of milliseconds, and a light's intensity does not change it.
    static std::mutex mutex;
    static std::list<std::pair<std::uint64_t, std::shared_ptr<const SkyMap>>> kept;
    {
        const std::lock_guard lock(mutex);
        for (const auto& [key, map] : kept)
            if (key == h.value()) return map;
    }
    auto made = std::make_shared<const SkyMap>(radiance_of(sky, panorama));
    const std::lock_guard lock(mutex);
    kept.emplace_front(h.value(), made);
    if (kept.size() > 8) kept.pop_back();
    return made;
}

namespace {

constexpr int table_side = 32;

/// A table over n·v and roughness, both 0…1, read bilinearly.
template <class T> struct Table {
    std::array<std::array<T, table_side>, table_side> values; // [roughness][n·v]
    template <class F> T read(float ndv, float roughness, const F& lerp) const {
        // What lies in a vector behind the end of a row may be anything, and no number.
        const auto held = [](float v) { return v > 0 ? std::min(v, 1.0f) : 0.0f; };
        const float x = held(ndv) * (table_side - 1), y = held(roughness) * (table_side - 1);
        const int i = std::min(static_cast<int>(x), table_side - 2),
                  j = std::min(static_cast<int>(y), table_side - 2);
        const float fx = x - static_cast<float>(i), fy = y - static_cast<float>(j);
        return lerp(lerp(values[j][i], values[j][i + 1], fx),
                    lerp(values[j + 1][i], values[j + 1][i + 1], fx), fy);
    }
};

} // namespace

EnvironmentShare environment_share(float ndv_asked, float roughness_asked) {
    static const auto table = [] {
        Table<EnvironmentShare> out;
        parallel_rows(0, table_side, [&](int row) {
            for (int column = 0; column < table_side; ++column) {
                const double ndv = std::max(column / (table_side - 1.0), 1e-3),
                             r = std::max(row / (table_side - 1.0), 0.03);
                const double alpha = r * r, a2 = alpha * alpha;
                const Direction v{std::sqrt(1 - ndv * ndv), 0, ndv};
                double scale = 0, offset = 0;
                constexpr int samples = 512;
                for (unsigned i = 0; i < samples; ++i) {
                    // Half vectors by the lobe itself (Hammersley points).
                    const double e = (i + 0.5) / samples, phi = 2 * pi * radical_inverse(i);
                    const double c = std::sqrt((1 - e) / (1 + (a2 - 1) * e)), s = std::sqrt(1 - c * c);
                    const Direction h{s * std::cos(phi), s * std::sin(phi), c};
                    const double vdh = v[0] * h[0] + v[2] * h[2], ndl = 2 * vdh * h[2] - v[2];
                    if (ndl <= 0 || vdh <= 0) continue;
                    const double visible = 2 * ndl * ndv /
                                           (ndl * std::sqrt(ndv * ndv * (1 - a2) + a2) +
                                            ndv * std::sqrt(ndl * ndl * (1 - a2) + a2));
                    const double g = visible * vdh / (c * ndv), f = std::pow(1 - vdh, 5);
                    scale += (1 - f) * g / samples, offset += f * g / samples;
                }
                out.values[row][column] = {static_cast<float>(scale), static_cast<float>(offset)};
            }
        });
        return out;
    }();
    return table.read(ndv_asked, roughness_asked, [](EnvironmentShare a, EnvironmentShare b, float f) {
        return EnvironmentShare{a.scale + f * (b.scale - a.scale), a.offset + f * (b.offset - a.offset)};
    });
}

float sheen_share(float ndv_asked, float roughness_asked) {
    static const auto table = [] {
        Table<float> out;
        parallel_rows(0, table_side, [&](int row) {
            for (int column = 0; column < table_side; ++column) {
                const double ndv = std::max(column / (table_side - 1.0), 1e-3),
                             r = std::max(row / (table_side - 1.0), 0.03);
                const double inverse = 1 / (r * r);
                const Direction v{std::sqrt(1 - ndv * ndv), 0, ndv};
                double sum = 0;
                constexpr int rings = 24, spokes = 24;
                for (int i = 0; i < rings; ++i)
                    for (int k = 0; k < spokes; ++k) {
                        // Evenly over the projected hemisphere's solid angle.
                        const double ndl = (i + 0.5) / rings, s = std::sqrt(1 - ndl * ndl),
                                     phi = pi * (k + 0.5) / spokes;
                        const Direction h = unit({v[0] + s * std::cos(phi), s * std::sin(phi), v[2] + ndl});
                        const double sine = std::sqrt(std::max(0.0, 1 - h[2] * h[2]));
                        const double d = (2 + inverse) * std::pow(sine, inverse) / (2 * pi);
                        sum += d / (4 * (ndl + ndv - ndl * ndv)) * ndl * 2 * pi / (rings * spokes);
                    }
                out.values[row][column] = static_cast<float>(std::min(sum, 1.0));
            }
        });
        return out;
    }();
    return table.read(ndv_asked, roughness_asked, [](float a, float b, float f) { return a + f * (b - a); });
}

} // namespace bathylux
