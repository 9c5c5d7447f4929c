#include "core/solid/solid_tile.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bathylux {

using namespace solid_tile;

namespace {

/// The ways from places to a lamp's body.
struct Way {
    explicit Way(const Lamp& l) : lamp(l), at{l.x, -l.y, l.z}, bar{l.along[0], l.along[1], l.along[2]} {
        if (!l.directional) return;
        at = {l.x, l.y, l.z};
        std::tie(right, up) = across(at);
        spread = l.size > 0 ? std::tan(l.size / 2 * radians_per_degree) : 0;
    }
    bool to(Vec3 from, const Sequence::Point& u, Vec3& along, float& far) const {
        if (lamp.directional) {
            along = at + spread * u.disc_x * right + spread * u.disc_y * up; // no need of a unit's length
            return true;
        }
        Vec3 way = at - from;
        double x = u.disc_x, y = u.disc_y;
        if (lamp.half_length > 0) {
            way = way + (2.0 * u.x - 1) * lamp.half_length * bar;
            // Another place across the bar for every place along it.
            const Sequence::Point& v = Sequence::at(static_cast<std::uint32_t>(u.y * 9973) + 4099);
            x = v.disc_x, y = v.disc_y;
        }
        if (lamp.size > 0) {
            const auto [a, b] = across(normalized(way));
            way = way + (lamp.size / 2.0) * (x * a + y * b);
        }
        const double l = length(way);
        if (!(l > 1e-6)) return false;
        along = (1 / l) * way, far = static_cast<float>(l);
        return true;
    }
    const Lamp& lamp;
    Vec3 at, bar, right, up;
    double spread = 0;
};

} // namespace

template <class Ask> void SolidPicture::Tile::trace(Ask&& ask, Lot::Row& seen) const {
    std::array<Ray, rays_at_once> way;
    std::array<float, rays_at_once> far;
    std::array<int, rays_at_once> whose;
    int n = 0;
    const auto flush = [&] {
        if (n == 0) return;
        const auto some = static_cast<std::size_t>(n);
        const unsigned stopped = scene.shadows().stopped({way.data(), some}, {far.data(), some});
        for (int j = 0; j < n; ++j)
            if (stopped >> j & 1) seen[whose[j]] = 0;
        n = 0;
    };
    for (int k = 0; k < lot.count; ++k) {
        seen[k] = 1;
        Vec3 along;
        float length = never_met;
        if (!ask(k, along, length)) continue;
        const Vec3 from = lot.from[k];
        // The ground is in the way as well.
        if (scene.ground.on && scene.ground.color.a > 0 && !lot.ground[k] && along.y != 0)
            if (const double t = (scene.ground.height - from.y) / along.y; t > 0 && t < length) {
                seen[k] = 1 - scene.ground.color.a;
                if (scene.ground.color.a >= 1) continue;
            }
        way[n] = {from, along}, far[n] = length, whose[n] = k;
        // From the ground most ways go past the body.
        if (lot.ground[k] && !scene.shadows().may_meet(way[n])) continue;
        if (++n == rays_at_once) flush();
    }
    flush();
}

void SolidPicture::Tile::light(std::uint32_t s, std::uint32_t layer) {
    if (lot.count == 0) return;
    const Lighting& lighting = scene.lighting;
    const std::vector<bool> throws = throw_shadow(lighting);
    lot.seen.resize(throws.size());
    const bool early = s < sure_after;
    for (std::size_t l = 0; l < throws.size(); ++l) {
        if (!throws[l]) continue;
        const Way way(lighting.lamps[l]);
        Plane& before = to.seen_[l];
        const auto agreed = [&](int k) {
            return !early && lot.steady[k] && before(x_of(lot.px[k]), y_of(lot.px[k])) != ask_on;
        };
        trace(
            [&](int k, Vec3& along, float& length) {
                if (agreed(k)) return false;
                const auto& u = spread(lot.px[k])(s, 16 + 64 * layer + static_cast<std::uint32_t>(l));
                return way.to(lot.from[k], u, along, length) && dot(along, lot.normal[k]) > 0;
            },
            lot.seen[l]);
        for (int k = 0; k < lot.count; ++k) {
            float& sum = before(x_of(lot.px[k]), y_of(lot.px[k]));
            if (early && lot.steady[k])
                sum += lot.seen[l][k];
            else if (agreed(k) && !(sum > 0))
                lot.seen[l][k] = 0;
        }
    }
    for (int k = 0; early && k < lot.count; ++k)
        if (lot.steady[k]) to.times_(x_of(lot.px[k]), y_of(lot.px[k])) += 1;
    const bool dims = hides_sky(lighting);
    if (dims) look_up(s, layer);

    ShadeRow row;
    const auto three = [](const std::array<Lot::Row, 3>& r) {
        return std::array<const float*, 3>{r[0].data(), r[1].data(), r[2].data()};
    };
    const ShadeRow::Space space{lot.place[0].data(), lot.place[1].data(), three(lot.right),
                                three(lot.up),       three(lot.towards),  three(lot.level)};
    row.width = lot.count;
    row.nx = lot.n[0].data(), row.ny = lot.n[1].data(), row.nz = lot.n[2].data();
    row.height = lot.place[2].data();
    row.space = &space;
    row.material = {three(lot.base), lot.roughness.data(), lot.metallic.data(), lot.specular.data()};
    if (lot.coated)
        row.material.coat = lot.coat.data(), row.material.coat_roughness = lot.coat_roughness.data();
    if (lot.soft)
        row.material.sheen = lot.sheen.data(), row.material.sheen_roughness = lot.sheen_roughness.data(),
        row.material.sheen_tint = lot.sheen_tint.data();
    row.out = {lot.out[0].data(), lot.out[1].data(), lot.out[2].data()};
    for (std::size_t l = 0; l < throws.size(); ++l)
        row.seen.push_back(throws[l] ? lot.seen[l].data() : nullptr);
    // The row's last vector reads on past its end: what lies there must be a place like another.
    pad();
    std::array<float, Lot::most> caught; // what the ground would get if nothing stood in the way
    const bool catches =
        scene.ground.on && scene.ground.color.a < 1 &&
        std::any_of(lot.ground.begin(), lot.ground.begin() + lot.count, [](bool g) { return g; });
    if (catches) {
        ShadeRow free = row;
        free.seen.clear();
        light_row(free, lighting, nullptr);
        for (int k = 0; k < lot.count; ++k) caught[k] = lot.out[0][k] + lot.out[1][k] + lot.out[2][k];
    }
    light_row(row, lighting, dims ? lot.open.data() : nullptr);
    for (int k = 0; k < lot.count; ++k) {
        const int x = x_of(lot.px[k]), y = y_of(lot.px[k]);
        float w = lot.weight[k], cover = w;
        if (lot.ground[k] && scene.ground.color.a < 1) {
            const float arrives = lot.out[0][k] + lot.out[1][k] + lot.out[2][k];
            const float dark = caught[k] > 1e-6f ? std::clamp(1 - arrives / caught[k], 0.0f, 1.0f) : 0;
            const float a = scene.ground.color.a;
            cover = w * (a + (1 - a) * dark), w *= a;
        }
        if (lot.record[k] >= 0) {
            Record& seen = records[static_cast<std::size_t>(lot.record[k])];
            for (int c = 0; c < 3; ++c) seen.light[c] = w * lot.out[c][k];
            if (seen.of_sheet) continue;
            // The ground, or the body where no canvas lies: as much as it covers is not seen behind.
            seen.cover = cover, seen.lets.fill(1 - cover);
            for (int c = 0; c < 3; ++c) to.sums_[3 + c](x, y) += lot.art[k] * lot.base[c][k];
            continue;
        }
        for (int c = 0; c < 3; ++c) {
            to.sums_[c](x, y) += w * lot.out[c][k];
            to.sums_[3 + c](x, y) += w * lot.base[c][k];
        }
        to.sums_[6](x, y) += cover;
    }
}

void SolidPicture::Tile::pad() {
    const auto fill = [&](Lot::Row& r) {
        std::fill(r.begin() + lot.count, r.begin() + std::min(Lot::most, lot.count + 16), r[lot.count - 1]);
    };
    for (auto* rows : {&lot.n, &lot.place, &lot.right, &lot.up, &lot.towards, &lot.level, &lot.base})
        for (Lot::Row& r : *rows) fill(r);
    for (Lot::Row* r : {&lot.roughness, &lot.metallic, &lot.specular, &lot.coat, &lot.coat_roughness,
                        &lot.sheen, &lot.sheen_roughness, &lot.sheen_tint, &lot.open})
        fill(*r);
    for (Lot::Row& r : lot.seen) fill(r);
}

void SolidPicture::Tile::look_up(std::uint32_t s, std::uint32_t layer) {
    std::fill_n(lot.open.begin(), lot.count, 0.0f);
    Lot::Row seen;
    const float far = scene.lighting.occlusion_radius > 0 ? scene.lighting.occlusion_radius : never_met;
    const std::uint32_t rays_now = s == 0 ? first_sky_rays : sky_rays,
                        before = s == 0 ? 0 : first_sky_rays + (s - 1) * sky_rays;
    const bool all_steady =
        std::all_of(lot.steady.begin(), lot.steady.begin() + lot.count, [](bool v) { return v; });
    const std::uint32_t most = all_steady ? rays_now : std::uint32_t{unsteady_sky_rays};
    for (std::uint32_t j = 0; j < most; ++j) {
        trace(
            [&](int k, Vec3& along, float& length) {
                if (lot.steady[k] && j >= rays_now) return false;
                if (lot.steady[k]) {
                    const int x = x_of(lot.px[k]), y = y_of(lot.px[k]);
                    if (const float n = to.open_rays_(x, y); n >= open_after && to.open_(x, y) == n)
                        return false;
                }
                const std::uint32_t number = lot.steady[k] ? before + j : s * most + j;
                const auto& u = spread(lot.px[k])(number, 8 + 4 * layer);
                const Vec3 n = lot.normal[k];
                const auto [a, b] = across(n);
                const double x = u.disc_x, y = u.disc_y;
                along = x * a + y * b + std::sqrt(std::max(0.0, 1 - x * x - y * y)) * n;
                length = far;
                return true;
            },
            seen);
        for (int k = 0; k < lot.count; ++k)
            if (!lot.steady[k] || j < rays_now) lot.open[k] += seen[k];
    }
    for (int k = 0; k < lot.count; ++k) {
        if (!lot.steady[k]) {
            lot.open[k] /= static_cast<float>(most);
            continue;
        }
        const int x = x_of(lot.px[k]), y = y_of(lot.px[k]);
        to.open_(x, y) += lot.open[k], to.open_rays_(x, y) += static_cast<float>(rays_now);
        lot.open[k] = to.open_(x, y) / to.open_rays_(x, y);
    }
}

} // namespace bathylux
