#include "core/solid/solid_picture.h"

#include <algorithm>
#include <limits>
#include <memory>
#include <numbers>

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"

namespace bathylux {

namespace {

constexpr int block_width = 32, block_height = 8, block_area = block_width * block_height;
constexpr int most_layers = 4;                  // see-through ones, one behind the other
constexpr int first_sky_rays = 4, sky_rays = 1; // of the first sample, and of those that follow
constexpr float open_after = 8;                 // rays that all saw the sky: then no more are asked
constexpr int sure_after = 4;   // samples that agree whether a lamp is seen: then it is not asked again
constexpr double lifted = 0.02; // px that rays set out above where the skin was met
constexpr float never_met = std::numeric_limits<float>::infinity();

/// Points of a sequence that is evenly spread wherever one enters it (R2, Roberts 2018): of the unit square
/// and, by the same number, of the unit disc.
class Sequence {
  public:
    static constexpr std::uint32_t length = 1u << 12;
    struct Point {
        float x, y, disc_x, disc_y;
    };
    static const Point& at(std::uint32_t i) {
        static const Sequence made;
        return made.points_[i % length];
    }

  private:
    Sequence() : points_(length) {
        for (std::uint32_t i = 0; i < length; ++i) {
            const auto part = [](double v) { return v - std::floor(v); };
            const double x = part(0.5 + i * 0.7548776662466927), y = part(0.5 + i * 0.5698402909980532),
                         r = std::sqrt(x), t = 2 * std::numbers::pi * y;
            points_[i] = {static_cast<float>(x), static_cast<float>(y), static_cast<float>(r * std::cos(t)),
                          static_cast<float>(r * std::sin(t))};
        }
    }
    std::vector<Point> points_;
};

/// The point of a px for a sample and a use: every px and every use enters the sequence elsewhere.
struct Spread {
    std::uint64_t px;
    const Sequence::Point& operator()(std::uint32_t sample, std::uint32_t use) const {
        return Sequence::at(static_cast<std::uint32_t>(bathylux::mixed(px << 20 | use)) + sample);
    }
};

/// Two unit vectors across a third (Duff et al. 2017).
std::pair<Vec3, Vec3> across(Vec3 n) {
    const double sign = std::copysign(1.0, n.z), a = -1 / (sign + n.z), b = n.x * n.y * a;
    return {{1 + sign * n.x * n.x * a, sign * b, -sign * n.x}, {b, sign + n.y * n.y * a, -n.y}};
}

/// The places of a tile that are lit, side by side.
struct Lot {
    static constexpr int most = block_area + 16;
    using Row = std::array<float, most>;
    int count = 0;
    std::array<int, most> px{};
    std::array<float, most> weight{};
    std::array<Vec3, most> from; // where rays set out
    std::array<Vec3, most> normal;
    std::array<bool, most> ground{};
    std::array<Row, 3> n, place, right, up, towards, level, base, out;
    Row roughness, metallic, specular, coat, coat_roughness, sheen, sheen_roughness, sheen_tint, open;
    std::vector<Row> seen;
    bool coated = false, soft = false;
};

} // namespace

std::optional<Spot> spot_at(const SolidScene& scene, const Sight& sight, double x, double y) {
    const Ray ray = sight.through(x, y);
    Skin::Hit hit;
    scene.skin->meet({&ray, 1}, {&hit, 1});
    if (!std::isfinite(hit.distance)) return std::nullopt;
    return scene.skin->spot(ray, hit, sight.px_at(sight.depth(ray.from + double(hit.distance) * ray.along)));
}

Lamp lamp_in_space(Lamp lamp, double w, double h) {
    if (!lamp.directional) lamp.x -= static_cast<float>(w / 2), lamp.y -= static_cast<float>(h / 2);
    return lamp;
}

Lamp lamp_with_camera(Lamp lamp, const Camera& camera) {
    const CameraAxes axes = axes_of(camera);
    const Vec3 at{camera.x, camera.y, camera.z};
    const auto turned = [&](Vec3 v) { return v.x * axes.right + v.y * axes.up + v.z * axes.towards; };
    return moved(
        lamp, [&](Vec3 p) { return at + turned(p); }, turned);
}

/// One tile of the picture, one sample at a time.
struct SolidPicture::Tile {
    const SolidScene& scene;
    const Sight& sight;
    SolidPicture& to;
    Region region;
    Lot lot{};
    std::array<Ray, block_area> rays{};
    std::array<float, block_area> left{}; // how much of each px is still to be seen

    int px_count() const { return region.width() * region.height(); }
    int x_of(int i) const { return region.x0 + i % region.width(); }
    int y_of(int i) const { return region.y0 + i / region.width(); }
    Spread spread(int i) const {
        return {static_cast<std::uint64_t>(y_of(i)) << 20 | static_cast<std::uint64_t>(x_of(i))};
    }

    void sample(int number) {
        const auto s = static_cast<std::uint32_t>(number);
        const int n = px_count();
        // All px share the places within them, so that neighbours stay alike.
        double jx = 0.5, jy = 0.5;
        if (number > 0) jx = Sequence::at(s).x, jy = Sequence::at(s).y;
        for (int i = 0; i < n; ++i) {
            Sequence::Point lens{0, 0, 0, 0};
            if (number > 0 && scene.camera.lens > 0) lens = spread(i)(s, 1);
            rays[i] = sight.through(x_of(i) + jx, y_of(i) + jy, lens.disc_x, lens.disc_y);
            left[i] = 1;
        }
        for (int layer = 0; layer < most_layers; ++layer) {
            lot.count = 0;
            lot.coated = lot.soft = false;
            bool more = false;
            for (int from = 0; from < n; from += rays_at_once)
                more |= look(number, layer, from, std::min(n, from + rays_at_once));
            light(s, static_cast<std::uint32_t>(layer));
            if (!more) break;
        }
    }

    /// Whether something is still to be seen behind what these rays met.
    bool look(int number, int layer, int from, int until) {
        std::array<Skin::Hit, rays_at_once> hits;
        bool any = false, more = false;
        for (int i = from; i < until; ++i) any |= left[i] > 0;
        if (!any) return false;
        const auto some = static_cast<std::size_t>(until - from);
        scene.skin->meet({&rays[from], some}, {hits.data(), some});
        for (int i = from; i < until; ++i) {
            if (!(left[i] > 0)) continue;
            const Ray& ray = rays[i];
            const Skin::Hit& hit = hits[i - from];
            float nearest = hit.distance;
            const Lamp* lamp = body_met(ray, nearest);
            const double down = (scene.ground.height - ray.from.y) / ray.along.y;
            const bool on_ground = scene.ground.on && down > 0 && down < nearest && std::isfinite(down) &&
                                   ground_there(ray.from + down * ray.along) > 0;
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
            const bool tell = number == 0 && layer == 0;
            if (tell) to.depth_(x_of(i), y_of(i)) = static_cast<float>(sight.depth(met));
            if (on_ground) {
                stand(i, ray, met, tell);
                left[i] = 0;
                continue;
            }
            more |= cover(i, ray, hit, tell);
        }
        return more;
    }

    /// The nearest shown lamp that a ray meets before `nearest`.
    const Lamp* body_met(const Ray& ray, float& nearest) const {
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
            const double half = dot(centre, ray.along), off = dot(centre, centre) - half * half,
                         r = l.size / 2.0;
            if (off > r * r) continue;
            const double t = -half - std::sqrt(r * r - off);
            if (t > 0 && t < nearest) nearest = static_cast<float>(t), out = &l;
        }
        return out;
    }

    void show(int i, const Lamp& l) {
        const int x = x_of(i), y = y_of(i);
        for (int c = 0; c < 3; ++c) {
            const float shine = l.power[c] / std::numbers::pi_v<float> * scene.lighting.exposure * left[i];
            to.sums_[c](x, y) += shine, to.sums_[3 + c](x, y) += shine;
        }
        to.sums_[6](x, y) += left[i];
    }

    int next(int i, const Ray& ray, Vec3 place, Vec3 normal, Vec3 level, Vec3 from, float weight) {
        const int k = lot.count++;
        lot.px[k] = i, lot.weight[k] = weight, lot.from[k] = from, lot.normal[k] = normal;
        const Vec3 v = -ray.along;
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

    void paint(int k, const std::array<float, 3>& base, const Bundle& b, int x, int y, float share) {
        const Bundle& bare = scene.bare;
        const auto mixed = [&](Field Bundle::*f) {
            const float under = (bare.*f).at(0, 0);
            return share > 0 ? under + share * ((b.*f).at(x, y) - under) : under;
        };
        for (int c = 0; c < 3; ++c) lot.base[c][k] = base[c];
        lot.roughness[k] = mixed(&Bundle::roughness), lot.metallic[k] = mixed(&Bundle::metallic);
        lot.specular[k] = mixed(&Bundle::specular), lot.coat[k] = mixed(&Bundle::coat);
        lot.coat_roughness[k] = mixed(&Bundle::coat_roughness), lot.sheen[k] = mixed(&Bundle::sheen);
        lot.sheen_roughness[k] = mixed(&Bundle::sheen_roughness);
        lot.sheen_tint[k] = mixed(&Bundle::sheen_tint);
        lot.coated |= lot.coat[k] > 0, lot.soft |= lot.sheen[k] > 0;
    }

    /// The skin, covered by the canvas or bare. Whether it can be seen through.
    bool cover(int i, const Ray& ray, const Skin::Hit& hit, bool tell) {
        const Vec3 met = ray.from + double(hit.distance) * ray.along;
        Spot spot = scene.skin->spot(ray, hit, sight.px_at(sight.depth(met)));
        const bool behind = dot(spot.facet, ray.along) > 0;
        if (behind) {
            spot.normal = -spot.normal, spot.facet = -spot.facet, spot.base_normal = -spot.base_normal;
            if (scene.skin->body().kind == BodyKind::plane) spot.covered = false;
        }
        if (tell) {
            const int x = x_of(i), y = y_of(i);
            to.normals_[0](x, y) = static_cast<float>(spot.normal.x);
            to.normals_[1](x, y) = static_cast<float>(spot.normal.y);
            to.normals_[2](x, y) = static_cast<float>(spot.normal.z);
        }
        const float a = spot.covered ? std::clamp(spot.texel.alpha, 0.0f, 1.0f) : 0;
        const float body = scene.bare.coverage.constant(), there = a + (1 - a) * body;
        const bool through = there < 0.999f;
        if (there > 0) {
            std::array<float, 3> base;
            const std::array<float, 3> art{spot.texel.red, spot.texel.green, spot.texel.blue};
            for (int c = 0; c < 3; ++c)
                base[c] =
                    ((spot.covered ? art[c] : 0) + (1 - a) * body * scene.bare.color[c].constant()) / there;
            const bool above = !behind && dot(spot.place - met, spot.base_normal) > 0;
            const Vec3 from = (above ? spot.place : met) + lifted * spot.facet;
            const int k = next(i, ray, spot.place, spot.normal, spot.base_normal, from, left[i] * there);
            lot.ground[k] = false;
            paint(k, base, scene.texels->bundle(), spot.x, spot.y, a / there);
        }
        left[i] *= through ? 1 - there : 0;
        if (through) rays[i].from = met + lifted * ray.along;
        return through;
    }

    /// The ground fades into the backdrop far from what stands on it.
    float ground_there(Vec3 p) const {
        const auto [low, high] = scene.skin->bounds();
        const Vec3 middle = 0.5 * (low + high), off = p - middle;
        const double t = std::hypot(off.x, off.z) / std::max(1.0, length(high - low));
        const double k = std::clamp((5 - t) / 3.5, 0.0, 1.0); // whole within 1½ times its size, gone at 5
        return static_cast<float>(k * k * (3 - 2 * k));
    }

    void stand(int i, const Ray& ray, Vec3 met, bool tell) {
        const Vec3 up{0, ray.along.y < 0 ? 1.0 : -1.0, 0};
        if (tell) to.normals_[1](x_of(i), y_of(i)) = static_cast<float>(up.y);
        const Color& c = scene.ground.color;
        const int k = next(i, ray, met, up, up, met + lifted * up, left[i] * ground_there(met));
        lot.ground[k] = true;
        paint(k, {srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b)}, scene.bare, 0, 0, 0);
        lot.roughness[k] = 0.9f, lot.metallic[k] = 0, lot.specular[k] = 0.3f, lot.coat[k] = 0,
        lot.sheen[k] = 0;
    }

    /// Traces what is asked of a lot's places, eight at a time: bits of those whose way is stopped.
    template <class Ask> void trace(Ask&& ask, Lot::Row& seen) const {
        std::array<Ray, rays_at_once> way;
        std::array<float, rays_at_once> far;
        std::array<int, rays_at_once> whose;
        int n = 0;
        const auto flush = [&] {
            if (n == 0) return;
            const auto some = static_cast<std::size_t>(n);
            const unsigned stopped = scene.skin->stopped({way.data(), some}, {far.data(), some});
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
            if (++n == rays_at_once) flush();
        }
        flush();
    }

    void light(std::uint32_t s, std::uint32_t layer) {
        if (lot.count == 0) return;
        const Lighting& lighting = scene.lighting;
        const std::vector<bool> throws = throw_shadow(lighting);
        lot.seen.resize(throws.size());
        for (std::size_t l = 0; l < throws.size(); ++l) {
            if (!throws[l]) continue;
            const Way way(lighting.lamps[l]);
            // What the samples before agreed on holds: only half-shadow is looked at by all of them.
            const bool asked = s < sure_after || layer > 0;
            // Where not all of them met something, there is nothing to agree on.
            Plane& before = to.seen_[l];
            const auto agreed = [&](int k) {
                const int x = x_of(lot.px[k]), y = y_of(lot.px[k]);
                const float sum = before(x, y);
                return !asked && to.times_(x, y) == sure_after && (sum <= 0 || sum >= sure_after);
            };
            trace(
                [&](int k, Vec3& along, float& length) {
                    if (agreed(k)) return false;
                    const auto& u = spread(lot.px[k])(s, 16 + 64 * layer + static_cast<std::uint32_t>(l));
                    return way.to(lot.from[k], u, along, length) && dot(along, lot.normal[k]) > 0;
                },
                lot.seen[l]);
            if (asked && layer == 0)
                for (int k = 0; k < lot.count; ++k)
                    before(x_of(lot.px[k]), y_of(lot.px[k])) += lot.seen[l][k];
            if (!asked)
                for (int k = 0; k < lot.count; ++k)
                    if (agreed(k) && !(before(x_of(lot.px[k]), y_of(lot.px[k])) > 0)) lot.seen[l][k] = 0;
        }
        if (s < sure_after && layer == 0)
            for (int k = 0; k < lot.count; ++k) to.times_(x_of(lot.px[k]), y_of(lot.px[k])) += 1;
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
            for (int c = 0; c < 3; ++c) {
                to.sums_[c](x, y) += w * lot.out[c][k];
                to.sums_[3 + c](x, y) += w * lot.base[c][k];
            }
            to.sums_[6](x, y) += cover;
        }
    }

    void pad() {
        const auto fill = [&](Lot::Row& r) {
            std::fill(r.begin() + lot.count, r.begin() + std::min(Lot::most, lot.count + 16),
                      r[lot.count - 1]);
        };
        for (auto* rows : {&lot.n, &lot.place, &lot.right, &lot.up, &lot.towards, &lot.level, &lot.base})
            for (Lot::Row& r : *rows) fill(r);
        for (Lot::Row* r : {&lot.roughness, &lot.metallic, &lot.specular, &lot.coat, &lot.coat_roughness,
                            &lot.sheen, &lot.sheen_roughness, &lot.sheen_tint, &lot.open})
            fill(*r);
        for (Lot::Row& r : lot.seen) fill(r);
    }

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
                along = spread > 0 ? normalized(at + spread * u.disc_x * right + spread * u.disc_y * up) : at;
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

    /// How much of the sky every place sees, cosine-weighted: the mean of what all samples so far saw from
    /// the px, for what it dims is no mean of what single rays would dim.
    void look_up(std::uint32_t s, std::uint32_t layer) {
        std::fill_n(lot.open.begin(), lot.count, 0.0f);
        Lot::Row seen;
        const float far = scene.lighting.occlusion_radius > 0 ? scene.lighting.occlusion_radius : never_met;
        const std::uint32_t rays_now = s == 0 || layer > 0 ? first_sky_rays : sky_rays,
                            before = s == 0 ? 0 : first_sky_rays + (s - 1) * sky_rays;
        for (std::uint32_t j = 0; j < rays_now; ++j) {
            trace(
                [&](int k, Vec3& along, float& length) {
                    if (layer == 0) {
                        const int x = x_of(lot.px[k]), y = y_of(lot.px[k]);
                        if (const float n = to.open_rays_(x, y); n >= open_after && to.open_(x, y) == n)
                            return false;
                    }
                    const auto& u = spread(lot.px[k])(before + j, 8 + 4 * layer);
                    const Vec3 n = lot.normal[k];
                    const auto [a, b] = across(n);
                    const double x = u.disc_x, y = u.disc_y;
                    along = x * a + y * b + std::sqrt(std::max(0.0, 1 - x * x - y * y)) * n;
                    length = far;
                    return true;
                },
                seen);
            for (int k = 0; k < lot.count; ++k) lot.open[k] += seen[k];
        }
        for (int k = 0; k < lot.count; ++k) {
            if (layer > 0) {
                lot.open[k] /= static_cast<float>(rays_now);
                continue;
            }
            const int x = x_of(lot.px[k]), y = y_of(lot.px[k]);
            to.open_(x, y) += lot.open[k], to.open_rays_(x, y) += static_cast<float>(rays_now);
            lot.open[k] = to.open_(x, y) / to.open_rays_(x, y);
        }
    }
};

SolidPicture::SolidPicture(int width, int height)
    : width_(width), height_(height), times_(width, height, 0), depth_(width, height, never_met) {
    for (Plane& p : sums_) p = Plane(width, height, 0);
    for (Plane& p : normals_) p = Plane(width, height, 0);
}

void SolidPicture::add(const SolidScene& scene, int count) {
    if (open_.width() == 0 && hides_sky(scene.lighting))
        open_ = Plane(width_, height_, 0), open_rays_ = Plane(width_, height_, 0);
    while (seen_.size() < scene.lighting.lamps.size()) seen_.emplace_back(width_, height_, 0.0f);
    const Sight sight(scene.camera, scene.canvas_height, width_, height_);
    const int across = (width_ + block_width - 1) / block_width,
              down = (height_ + block_height - 1) / block_height;
    parallel_rows(0, across * down, [&](int i) {
        const int x = i % across * block_width, y = i / across * block_height;
        const auto tile = std::make_unique<Tile>(
            Tile{scene,
                 sight,
                 *this,
                 {x, y, std::min(width_, x + block_width), std::min(height_, y + block_height)}});
        for (int s = 0; s < count; ++s) tile->sample(samples_ + s);
    });
    samples_ += count;
}

std::array<Plane, 4> SolidPicture::mean(int first) const {
    std::array<Plane, 4> out;
    const float k = 1.0f / static_cast<float>(std::max(1, samples_));
    for (int c = 0; c < 4; ++c) {
        const Plane& from = sums_[c < 3 ? first + c : 6];
        out[c] = Plane(width_, height_);
        parallel_rows(0, height_, [&](int y) {
            for (int x = 0; x < width_; ++x) out[c](x, y) = k * from(x, y);
        });
    }
    return out;
}

} // namespace bathylux
