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
            along = at + spread * u.disc_x * right + spread * u.disc_y * up;
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
        if (!(dot(way, way) > 1e-12)) return false;
        along = way, far = 1; // no need of a unit's length
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
        if (lot.ground[k] && !scene.shadows().may_meet(way[n], length)) continue;
        if (++n == rays_at_once) flush();
    }
    flush();
}

void SolidPicture::Tile::look_for(std::size_t l, std::uint32_t s, std::uint32_t layer) {
    const Way way(scene.lighting.lamps[l]);
    Kept::Row& agreed = to.seen[l];
    Lot::Row& seen = lot.seen[l];
    const auto known = [&](int k) {
        const float v = agreed[lot.px[k]];
        return lot.steady[k] && (v == seen_by_all || v == seen_by_none);
    };
    const auto asks = [&](int k, Vec3& along, float& length) {
        if (known(k)) return false;
        const auto& u = spread(lot.px[k])(s, 16 + 64 * layer + static_cast<std::uint32_t>(l));
        return way.to(lot.from[k], u, along, length) && dot(along, lot.normal[k]) > 0;
    };
    if (s > 0)
        trace(asks, seen);
    else {
        // Every second px asks first. Of the others those do about which not all say the same.
        const auto first = [&](int k) {
            return !lot.steady[k] || (lot.px[k] + lot.px[k] / block_width) % 2 == 0;
        };
        trace([&](int k, Vec3& along, float& length) { return first(k) && asks(k, along, length); }, seen);
        const Lot::Row of_first = seen;
        const auto about_all_say = [&](float what) {
            Mask out;
            for (int k = 0; k < lot.count; ++k)
                if (lot.steady[k] && (!first(k) || seen[k] == what)) out.set(lot.px[k]);
            return out.with_all_around(sure_around, region.width(), region.height());
        };
        const Mask all = about_all_say(1), none = about_all_say(0);
        trace(
            [&](int k, Vec3& along, float& length) {
                return !first(k) && !all[lot.px[k]] && !none[lot.px[k]] && asks(k, along, length);
            },
            seen);
        for (int k = 0; k < lot.count; ++k)
            if (first(k))
                seen[k] = of_first[k];
            else if (none[lot.px[k]])
                seen[k] = 0;
    }
    for (int k = 0; k < lot.count; ++k) {
        float& count = agreed[lot.px[k]];
        if (!known(k))
            count += s < first_samples && lot.steady[k] ? seen[k] : 0;
        else if (count == seen_by_none)
            seen[k] = 0;
    }
}

void SolidPicture::Tile::light(std::uint32_t s, std::uint32_t layer) {
    if (lot.count == 0) return;
    const Lighting& lighting = scene.lighting;
    const std::vector<bool> throws = throw_shadow(lighting);
    lot.seen.resize(throws.size());
    for (std::size_t l = 0; l < throws.size(); ++l)
        if (throws[l]) look_for(l, s, layer);
    for (int k = 0; s < first_samples && k < lot.count; ++k)
        if (lot.steady[k]) to.met[lot.px[k]] += 1;
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
        const int i = lot.px[k];
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
            for (int c = 0; c < 3; ++c) to.sums[3 + c][i] += lot.art[k] * lot.base[c][k];
            continue;
        }
        for (int c = 0; c < 3; ++c) {
            to.sums[c][i] += w * lot.out[c][k];
            to.sums[3 + c][i] += w * lot.base[c][k];
        }
        to.sums[6][i] += cover;
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

void SolidPicture::Tile::agree_on_sky() {
    const Mask open = widely([&](int i) { return to.open_rays[i] > 0 && to.open[i] == to.open_rays[i]; });
    for (const int i : to.taking)
        if (open[i]) to.open[i] = to.open_rays[i] = open_after;
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
        if (s == 0 && j == 1) agree_on_sky();
        const auto asks = [&](int k) {
            const int i = lot.px[k];
            return !lot.steady[k] ||
                   (j < rays_now && !(to.open_rays[i] >= open_after && to.open[i] == to.open_rays[i]));
        };
        trace(
            [&](int k, Vec3& along, float& length) {
                if (!asks(k)) return false;
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
            if (!lot.steady[k])
                lot.open[k] += seen[k];
            else if (asks(k))
                to.open[lot.px[k]] += seen[k], to.open_rays[lot.px[k]] += 1;
    }
    for (int k = 0; k < lot.count; ++k)
        lot.open[k] = lot.steady[k] ? to.open[lot.px[k]] / to.open_rays[lot.px[k]]
                                    : lot.open[k] / static_cast<float>(most);
}

} // namespace bathylux
