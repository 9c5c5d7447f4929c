#include "core/solid/solid_tile.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/field/srgb.h"
#include "core/step/bundle.h"

namespace bathylux {

using namespace solid_tile;

float SolidPicture::Tile::shown(int i) const {
    const auto luma = [&](std::size_t first) {
        return luma_r * to.sums[first][i] + luma_g * to.sums[first + 1][i] + luma_b * to.sums[first + 2][i];
    };
    return luma(0) + luma(3) + to.sums[6][i];
}

Mask Mask::with_all_around(int reach, int width, int height) const {
    const std::uint32_t beyond = width < block_width ? ~0u << width : 0;
    Mask across, out;
    for (int y = 0; y < height; ++y) {
        std::uint32_t all = rows[y] | beyond;
        for (int k = 0; k < reach; ++k) all &= (all << 1 | 1u) & (all >> 1 | 1u << (block_width - 1));
        across.rows[y] = all;
    }
    for (int y = 0; y < height; ++y) {
        out.rows[y] = ~0u;
        for (int v = std::max(0, y - reach); v <= std::min(height - 1, y + reach); ++v)
            out.rows[y] &= across.rows[v];
    }
    return out;
}

void SolidPicture::Tile::agree(int samples) {
    const auto times = static_cast<float>(samples);
    for (Kept::Row& seen : to.seen) {
        const auto all_say = [&](float count, float agreed) {
            return widely(
                [&](int i) { return to.met[i] == times && (seen[i] == count || seen[i] == agreed); });
        };
        const Mask all = all_say(times, seen_by_all), none = all_say(0, seen_by_none);
        for (const int i : to.taking)
            if (all[i])
                seen[i] = seen_by_all;
            else if (none[i])
                seen[i] = seen_by_none;
    }
    agree_on_sky();
}

void SolidPicture::Tile::settle(int samples) {
    const auto n = static_cast<float>(samples);
    // Light as it is looked at: shares of what there is, and near black of a little more.
    const auto seen_as = [](float light) { return 0.15f + light; };
    Kept::Row mean;
    Mask alike, edge;
    for (int y = 0; y < region.height(); ++y)
        for (int x = 0; x < region.width(); ++x) {
            const int i = y * block_width + x;
            mean[i] = to.shown[i] / to.taken[i];
            const auto beside = [&](int j) {
                if (std::abs(mean[i] - mean[j]) > edge_apart * seen_as(std::min(mean[i], mean[j])))
                    edge.set(i), edge.set(j);
            };
            if (x > 0) beside(i - 1);
            if (y > 0) beside(i - block_width);
        }
    const float allowed = std::min(error_allowed, error_of_few * (n - 1));
    for (const int i : to.taking) {
        // The standard error of the mean, squared.
        const float error = std::max(0.0f, to.squares[i] / n - mean[i] * mean[i]) / (n - 1),
                    most = allowed * seen_as(mean[i]);
        if (error <= most * most) alike.set(i);
    }
    alike = alike.with_all_around(1, region.width(), region.height());
    std::erase_if(to.taking, [&](int i) { return alike[i] && !edge[i]; });
}

void SolidPicture::Tile::sample(int number) {
    const auto s = static_cast<std::uint32_t>(number);
    if (number > 0 && number <= first_samples) agree(number);
    if (number >= 2) settle(number);
    if (to.taking.empty()) return;
    records.clear();
    if (in_sheets()) under.assign(std::size_t{block_area}, {});
    // All px share the places within them, so that neighbours stay alike.
    double jx = 0.5, jy = 0.5;
    if (number > 0) jx = Sequence::at(s).x, jy = Sequence::at(s).y;
    for (const int i : to.taking) {
        Sequence::Point lens{0, 0, 0, 0};
        if (number > 0 && scene.camera.lens > 0) lens = spread(i)(s, 1);
        rays[i] = sight.through(x_of(i) + jx, y_of(i) + jy, lens.disc_x, lens.disc_y);
        left[i] = 1;
    }
    const int goes = in_sheets() ? most_goes : most_layers;
    for (int go = 0; go < goes; ++go) {
        lot.count = 0;
        lot.coated = lot.soft = false;
        bool more = false;
        if (in_sheets())
            for (const int i : to.taking)
                if (under[i].sheet >= 0) more |= descend(i, s, go);
        const std::span<const int> all(to.taking);
        for (std::size_t from = 0; from < all.size(); from += rays_at_once)
            more |=
                look(number, go, all.subspan(from, std::min<std::size_t>(rays_at_once, all.size() - from)));
        light(s, static_cast<std::uint32_t>(go));
        if (!more) break;
    }
    for (const int i : to.taking) {
        if (in_sheets()) put_together(i);
        to.taken[i] += 1;
        const float all = shown(i), one = all - to.shown[i];
        to.shown[i] = all, to.squares[i] += one * one;
    }
}

bool SolidPicture::Tile::look(int number, int go, std::span<const int> px) {
    std::array<Ray, rays_at_once> traced;
    std::array<Skin::Hit, rays_at_once> hits;
    std::array<int, rays_at_once> whose;
    bool more = false;
    std::size_t some = 0;
    bool near = false;
    for (const int i : px)
        if (left[i] > 0 && !(in_sheets() && (under[i].sheet >= 0 || under[i].go == go))) {
            near = near || scene.skin->may_meet(rays[i]);
            whose[some] = i, traced[some++] = rays[i];
        }
    if (some == 0) return false;
    if (near)
        scene.skin->meet({traced.data(), some}, {hits.data(), some});
    else
        for (Skin::Hit& hit : hits) hit.distance = never_met;
    for (std::size_t k = 0; k < some; ++k) {
        const int i = whose[k];
        const Ray& ray = rays[i];
        const Skin::Hit& hit = hits[k];
        float nearest = hit.distance;
        const Lamp* lamp = body_met(ray, nearest);
        const double down = (scene.ground.height - ray.from.y) / ray.along.y;
        const float ground = scene.ground.on && down > 0 && down < nearest && std::isfinite(down)
                                 ? floor.there(ray.from + down * ray.along)
                                 : 0;
        const bool on_ground = ground > 0;
        if (on_ground) nearest = static_cast<float>(down), lamp = nullptr;
        if (lamp) {
            show(i, *lamp);
            left[i] = 0;
            continue;
        }
        if (!std::isfinite(nearest)) {
            left[i] = 0;
            continue;
        }
        const Vec3 met = ray.from + double(nearest) * ray.along;
        const bool tell = number == 0 && go == 0;
        if (tell) to.depth[i] = static_cast<float>(sight.depth(met));
        if (on_ground) {
            stand(i, ray, met, ground, tell);
            left[i] = 0;
            continue;
        }
        more |= cover(i, ray, hit, tell, go);
    }
    return more;
}

const Lamp* SolidPicture::Tile::body_met(const Ray& ray, float& nearest) const {
    const Lamp* out = nullptr;
    for (const Lamp& l : scene.lighting.lamps) {
        if (!l.body || l.directional || l.size <= 0) continue;
        const Vec3 middle{l.x, -l.y, l.z}, u{l.along[0], l.along[1], l.along[2]};
        // The place of the bar nearest to the ray; a ball where it has no length.
        const Vec3 w = ray.from - middle;
        const double b = dot(ray.along, u), d = dot(ray.along, w), e = dot(u, w), k = 1 - b * b;
        const double s =
            std::clamp(k > 1e-9 ? (e - b * d) / k : 0.0, -double(l.half_length), double(l.half_length));
        const Vec3 centre = w - s * u;
        const double half = dot(centre, ray.along), off = dot(centre, centre) - half * half, r = l.size / 2.0;
        if (off > r * r) continue;
        const double t = -half - std::sqrt(r * r - off);
        if (t > 0 && t < nearest) nearest = static_cast<float>(t), out = &l;
    }
    return out;
}

void SolidPicture::Tile::show(int i, const Lamp& l) {
    Record seen;
    seen.lets = {0, 0, 0, 0}, seen.cover = 1;
    for (int c = 0; c < 3; ++c) {
        seen.light[c] = l.power[c] / std::numbers::pi_v<float> * scene.lighting.exposure;
        to.sums[3 + c][i] += (in_sheets() ? under[i].art : left[i]) * seen.light[c];
        if (!in_sheets()) to.sums[c][i] += left[i] * seen.light[c];
    }
    if (in_sheets())
        note(i, seen);
    else
        to.sums[6][i] += left[i];
}

void SolidPicture::Tile::finish_with(int i, float share) {
    if (in_sheets())
        under[i].art *= share, left[i] = share > 0 ? 1.0f : 0.0f;
    else
        left[i] *= share;
}

int SolidPicture::Tile::note(int i, Record seen) {
    seen.before = under[i].last;
    records.push_back(seen);
    return under[i].last = static_cast<int>(records.size()) - 1;
}

int SolidPicture::Tile::next(int i, Vec3 along, Vec3 place, Vec3 normal, Vec3 level, Vec3 from, float share) {
    const int k = lot.count++;
    lot.px[k] = i, lot.weight[k] = in_sheets() ? share : left[i] * share, lot.from[k] = from,
    lot.normal[k] = normal;
    lot.steady[k] = true, lot.record[k] = -1, lot.ground[k] = false;
    if (in_sheets()) {
        lot.steady[k] = under[i].last < 0 && !under[i].chosen;
        lot.record[k] = note(i, {});
        lot.art[k] = under[i].art * share;
    }
    const Vec3 v = -along;
    const auto [right, up] = across(v);
    const auto put = [&](std::array<Lot::Row, 3>& rows, Vec3 a) {
        rows[0][k] = static_cast<float>(a.x), rows[1][k] = static_cast<float>(a.y),
        rows[2][k] = static_cast<float>(a.z);
    };
    const auto seen = [&](Vec3 a) { // as the viewer has it; what would look away looks past
        Vec3 out{dot(a, right), dot(a, up), dot(a, v)};
        if (out.z < 1e-3) out.z = 1e-3, out = normalized(out);
        return out;
    };
    put(lot.n, seen(normal)), put(lot.level, seen(level));
    put(lot.place, {place.x, -place.y, place.z});
    put(lot.right, right), put(lot.up, up), put(lot.towards, v);
    return k;
}

void SolidPicture::Tile::paint(int k, const std::array<float, 3>& base, const Bundle& b, int x, int y,
                               float share) {
    const Bundle& bare = scene.bare;
    const auto mixed = [&](Field Bundle::*f) {
        const float bare_one = (bare.*f).at(0, 0);
        return share > 0 ? bare_one + share * ((b.*f).at(x, y) - bare_one) : bare_one;
    };
    for (int c = 0; c < 3; ++c) lot.base[c][k] = base[c];
    lot.roughness[k] = mixed(&Bundle::roughness), lot.metallic[k] = mixed(&Bundle::metallic);
    lot.specular[k] = mixed(&Bundle::specular), lot.coat[k] = mixed(&Bundle::coat);
    lot.coat_roughness[k] = mixed(&Bundle::coat_roughness), lot.sheen[k] = mixed(&Bundle::sheen);
    lot.sheen_roughness[k] = mixed(&Bundle::sheen_roughness);
    lot.sheen_tint[k] = mixed(&Bundle::sheen_tint);
    lot.coated |= lot.coat[k] > 0, lot.soft |= lot.sheen[k] > 0;
}

bool SolidPicture::Tile::cover(int i, const Ray& ray, const Skin::Hit& hit, bool tell, int go) {
    const Vec3 met = ray.from + double(hit.distance) * ray.along;
    Spot spot = scene.skin->spot(*scene.texels, ray, hit, sight.px_at(sight.depth(met)));
    const bool behind = dot(spot.facet, ray.along) > 0;
    if (behind) {
        spot.normal = -spot.normal, spot.facet = -spot.facet, spot.base_normal = -spot.base_normal;
        if (scene.skin->body().kind == BodyKind::plane) spot.covered = false;
    }
    if (tell) {
        to.normals[0][i] = static_cast<float>(spot.normal.x);
        to.normals[1][i] = static_cast<float>(spot.normal.y);
        to.normals[2][i] = static_cast<float>(spot.normal.z);
    }
    const float a = spot.covered ? std::clamp(spot.texel.alpha, 0.0f, 1.0f) : 0;
    const float body = scene.bare.coverage.constant(), there = a + (1 - a) * body;
    const bool through = there < 0.999f;
    std::array<float, 3> base;
    const std::array<float, 3> art{spot.texel.red, spot.texel.green, spot.texel.blue};
    for (int c = 0; c < 3 && there > 0; ++c)
        base[c] = ((spot.covered ? art[c] : 0) + (1 - a) * body * scene.bare.color[c].constant()) / there;
    if (in_sheets() && spot.covered && !behind) {
        Under& u = under[i];
        for (int c = 0; c < 3 && there > 0; ++c) to.sums[3 + c][i] += u.art * there * base[c];
        u.art *= 1 - there;
        u.sheet = static_cast<int>(scene.sheets.size()) - 1, u.go = go;
        u.frame = scene.skin->frame(hit, double(scene.skin->body().relief) * spot.texel.height +
                                             scene.skin->body().shift);
        u.at = u.frame.canvas, u.along = ray.along;
        const bool above = dot(spot.place - met, spot.base_normal) > 0;
        u.met = met, u.from = (above ? spot.place : met) + lifted * spot.facet;
        return true;
    }
    if (there > 0) {
        const bool above = !behind && dot(spot.place - met, spot.base_normal) > 0;
        const Vec3 from = (above ? spot.place : met) + lifted * spot.facet;
        const int k = next(i, ray.along, spot.place, spot.normal, spot.base_normal, from, there);
        paint(k, base, scene.texels->bundle(), spot.x, spot.y, a / there);
    }
    finish_with(i, through ? 1 - there : 0);
    if (through) rays[i].from = met + lifted * ray.along;
    return through;
}

Floor::Floor(const SolidScene& scene) {
    const auto [low, high] = scene.skin->bounds();
    middle = 0.5 * (low + high), size = std::max(1.0, length(high - low));
    const Color& c = scene.ground.color;
    color = {srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b)};
}

float Floor::there(Vec3 p) const {
    const double x = p.x - middle.x, z = p.z - middle.z, far = x * x + z * z;
    if (far <= 2.25 * size * size) return 1;
    const double t = std::sqrt(far) / size;
    const double k = std::clamp((5 - t) / 3.5, 0.0, 1.0); // whole within 1½ times its size, gone at 5
    return static_cast<float>(k * k * (3 - 2 * k));
}

void SolidPicture::Tile::stand(int i, const Ray& ray, Vec3 met, float there, bool tell) {
    const Vec3 up{0, ray.along.y < 0 ? 1.0 : -1.0, 0};
    if (tell) to.normals[1][i] = static_cast<float>(up.y);
    const int k = next(i, ray.along, met, up, up, met + lifted * up, there);
    lot.ground[k] = true;
    for (int c = 0; c < 3; ++c) lot.base[c][k] = floor.color[c];
    lot.coat_roughness[k] = lot.sheen_roughness[k] = lot.sheen_tint[k] = 0;
    lot.roughness[k] = 0.9f, lot.metallic[k] = 0, lot.specular[k] = 0.3f, lot.coat[k] = 0, lot.sheen[k] = 0;
}

} // namespace bathylux
