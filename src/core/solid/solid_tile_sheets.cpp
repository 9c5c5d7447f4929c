#include "core/solid/solid_tile.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/solid/glass.h"

namespace bathylux {

using namespace solid_tile;

void SolidPicture::Tile::put_together(int i) {
    std::array<float, 4> v{0, 0, 0, 0};
    for (int at = under[i].last; at >= 0; at = records[static_cast<std::size_t>(at)].before) {
        const Record& r = records[static_cast<std::size_t>(at)];
        if (r.mixed_as) {
            std::array<float, 4> shown{r.light[0], r.light[1], r.light[2], r.cover};
            // What is mixed with what is seen through it: it looks nowhere else.
            if (r.mixed_as->part == SolidSheet::Part::seen_through)
                for (int c = 0; c < 4; ++c) shown[c] += r.lets[c] * v[c];
            composite(r.mixed_as->blend, r.mixed_as->linear, shown, v);
            continue;
        }
        for (int c = 0; c < 3; ++c) v[c] = r.light[c] + r.lets[c] * v[c];
        v[3] = r.cover + r.lets[3] * v[3];
    }
    for (int c = 0; c < 3; ++c) to.sums[c][i] += v[c];
    to.sums[6][i] += v[3];
}

bool SolidPicture::Tile::descend(int i, std::uint32_t s, int go) {
    Under& u = under[i];
    u.go = go;
    const Body& body = scene.skin->body();
    const SkinFrame& f = u.frame;
    while (u.sheet >= 0) {
        const int number = u.sheet--;
        const SolidSheet& sheet = scene.sheets[static_cast<std::size_t>(number)];
        const Texel t = sheet.texels->smooth_at(u.at.x, u.at.y);
        const auto [x, y] = sheet.texels->px_of(u.at.x, u.at.y);
        const float a = std::clamp(t.alpha, 0.0f, 1.0f);
        Record seen;
        seen.of_sheet = true;
        if (sheet.part == SolidSheet::Part::laid_over) {
            if (!(a > 0)) continue;
            seen.light = {t.red, t.green, t.blue}, seen.cover = a, seen.lets.fill(1 - a);
            seen.mixed_as = &sheet;
            note(i, seen);
            continue;
        }
        const Vec2 off = u.at - f.canvas;
        const Vec3 place = f.foot + off.x * f.along_x + off.y * f.along_y +
                           (double(body.relief) * t.height + body.shift) * f.normal,
                   normal = f.turned(double(body.relief) * t.slope_x, double(body.relief) * t.slope_y);
        std::array<float, 3> base{t.red, t.green, t.blue};
        float share = 1;
        if (sheet.part == SolidSheet::Part::seen_through) {
            const float k = sheet.opacity * a;
            if (!(k > 0)) continue;
            if (k < 1) { // some of the samples look through it, the others past it
                u.chosen = true;
                const float chance =
                    s == 0 ? 0.5f : spread(i)(s, 4096 + static_cast<std::uint32_t>(number)).x;
                if (chance >= k) continue;
            }
            for (float& c : base) c /= a;
            go_through(i, sheet, base, seen, s, static_cast<std::uint32_t>(number));
            if (sheet.blend != BlendMode::normal) seen.mixed_as = &sheet;
            for (float& c : base) c *= seen.cover; // what is not let through is lit as any surface
        } else {
            const float own = number == 0 ? scene.bare.coverage.constant() : 0.0f, there = a + (1 - a) * own;
            if (!(there > 0)) continue;
            for (int c = 0; c < 3; ++c)
                base[c] = (base[c] + (1 - a) * own * scene.bare.color[c].constant()) / there;
            share = there;
            seen.cover = there, seen.lets.fill(1 - there);
            if (number > 0) seen.mixed_as = &sheet;
        }
        const int k = next(i, u.along, place, normal, f.normal, from_of(u, place), share);
        records[static_cast<std::size_t>(lot.record[k])].of_sheet = true;
        Record& noted = records[static_cast<std::size_t>(lot.record[k])];
        noted.cover = seen.cover, noted.lets = seen.lets, noted.mixed_as = seen.mixed_as;
        paint(k, base, sheet.texels->bundle(), x, y,
              sheet.part == SolidSheet::Part::seen_through ? 1 : a / share);
        if (seen.lets[3] > 0 || seen.lets[0] > 0) break;
        u.sheet = -1;
        left[i] = 0;
        return false;
    }
    // Behind the last of them the look goes on as it came.
    if (u.sheet < 0) {
        rays[i].from = u.met + lifted * rays[i].along;
        left[i] = 1;
    }
    return true;
}

void SolidPicture::Tile::go_through(int i, const SolidSheet& sheet, const std::array<float, 3>& base,
                                    Record& seen, std::uint32_t s, std::uint32_t number) {
    Under& u = under[i];
    const SkinFrame& f = u.frame;
    const Bundle& own = sheet.own->bundle();
    const Texel t = sheet.own->smooth_at(u.at.x, u.at.y);
    const auto [x, y] = sheet.own->px_of(u.at.x, u.at.y);
    const double relief = scene.skin->body().relief, across_px = length(f.along_x),
                 down_px = length(f.along_y);
    if (!(across_px > 0) || !(down_px > 0)) return;
    // About the place: to the canvas's right, up, and out of the body.
    const Vec3 right = (1 / across_px) * f.along_x, up = cross(f.normal, right);
    const Vec3 view{dot(u.along, right), dot(u.along, up), dot(u.along, f.normal)},
        n = normalized({-relief * t.slope_x / across_px, relief * t.slope_y / down_px, 1});
    const float thick = own.thickness.at(x, y), through = own.transmission.at(x, y),
                distance = own.attenuation_distance.at(x, y);
    const WayThrough way = way_through(view, n, own.ior.at(x, y), thick + relief * t.height);
    seen.cover = 1 - through, seen.lets[3] = through;
    for (int c = 0; c < 3; ++c) {
        seen.lets[c] = through * base[c] * static_cast<float>(way.share);
        if (distance > 0)
            seen.lets[c] *= std::pow(own.attenuation[c].at(x, y), static_cast<float>(way.way) / distance);
    }
    Vec2 off = way.off;
    if (const double sigma = thick * double(own.roughness.at(x, y)) * own.roughness.at(x, y) / 2;
        sigma > 0.05) {
        u.chosen = true;
        if (s > 0) { // the first looks at the middle of what is blurred (Box & Muller 1958)
            const auto& p = spread(i)(s, 4224 + number);
            const double r = sigma * std::sqrt(-2 * std::log(std::max(1e-6, 1.0 - p.x)));
            const double turn = 2 * std::numbers::pi * p.y;
            off = off + Vec2{r * std::cos(turn), r * std::sin(turn)};
        }
    }
    u.at = u.at + Vec2{off.x / across_px, -off.y / down_px};
}

Vec3 SolidPicture::Tile::from_of(const Under& u, Vec3 place) const {
    if (!scene.solid_skin) return u.from;
    const double high = std::max(1.0, dot(u.met - place, u.frame.normal)) + 2;
    const Ray down{place + high * u.frame.normal, -u.frame.normal};
    Skin::Hit hit;
    scene.shadows().meet({&down, 1}, {&hit, 1});
    const double off = std::isfinite(hit.distance) ? std::max(0.0, high - double(hit.distance)) : 0;
    return place + (off + 2 * lifted) * u.frame.normal;
}

} // namespace bathylux
