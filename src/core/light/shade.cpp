#include "core/light/shade.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <numbers>

#include "core/colour/blend.h"
#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "core/light/normals.h"
#include "core/light/occlusion.h"
#include "core/light/shadow.h"

namespace bathylux {

namespace {

/// A row of a field from x0 − 1 to x1 + 1 of the wanted region, edges continued; index 0 is x0.
class PaddedRow {
  public:
    PaddedRow(int width) : data_(width + 48) {}
    float* fill(const Field& field, Region have, Region wanted, int y, Edge edge) {
        float* to = data_.data() + 16;
        const int w = wanted.width();
        if (field.is_constant()) {
            std::fill_n(to - 1, w + 2, field.constant());
            return to;
        }
        const float* from = field.plane().row(wrapped(y - have.y0, have.height(), edge));
        std::memcpy(to, from + wanted.x0 - have.x0, sizeof(float) * w);
        to[-1] = from[wrapped(wanted.x0 - 1 - have.x0, have.width(), edge)];
        to[w] = from[wrapped(wanted.x1 - have.x0, have.width(), edge)];
        return to;
    }

    /// The row without its neighbours: the field's own memory where that can be read in whole vectors.
    const float* view(const Field& field, Region have, Region wanted, int y) {
        if (!field.is_constant() && wanted.x0 == have.x0 &&
            (wanted.width() + 15) / 16 * 16 <= field.plane().stride())
            return field.plane().row(y - have.y0);
        if (field.is_constant() && filled_) return data_.data() + 16;
        filled_ = field.is_constant();
        return fill(field, have, wanted, y, Edge::clamp);
    }

    /// A row copied, so that it can be read in whole vectors.
    float* copy(const float* from, int width) {
        std::memcpy(data_.data() + 16, from, sizeof(float) * width);
        return data_.data() + 16;
    }

  private:
    std::vector<float> data_;
    bool filled_ = false; // with a constant, once and for all rows
};

constexpr int padded(int width) { return (width + 31) / 16 * 16; }

} // namespace

void normal_rows(const Field& height, Region have, Region wanted, float per_px, Edge edge,
                 const TakeNormals& take) {
    const int w = wanted.width();
    parallel_blocks(wanted.y0, wanted.y1, 16, [&](int y0, int y1) {
        PaddedRow above(w), row(w), below(w);
        std::vector<float> nx(padded(w)), ny(padded(w)), nz(padded(w));
        for (int y = y0; y < y1; ++y) {
            normals_row(
                above.fill(height, have, wanted, y - 1, edge), row.fill(height, have, wanted, y, edge),
                below.fill(height, have, wanted, y + 1, edge), w, per_px, nx.data(), ny.data(), nz.data());
            take(y, nx.data(), ny.data(), nz.data());
        }
    });
}

std::array<Plane, 3> normals(const Field& height, Region have, Region wanted, float per_px, Edge edge) {
    const int w = wanted.width(), h = wanted.height();
    std::array<Plane, 3> n{Plane(w, h), Plane(w, h), Plane(w, h)};
    normal_rows(
        height, have, wanted, per_px, edge, [&](int y, const float* nx, const float* ny, const float* nz) {
            const int i = y - wanted.y0;
            std::copy_n(nx, w, n[0].row(i)), std::copy_n(ny, w, n[1].row(i)), std::copy_n(nz, w, n[2].row(i));
        });
    return n;
}

bool Lighting::looks_far() const {
    return occlusion || std::any_of(lamps.begin(), lamps.end(), [](const Lamp& l) { return l.shadow; }) ||
           std::any_of(skies.begin(), skies.end(), [](const SkyInUse& s) { return s.shadow; });
}

float rolled_off(RollOff how, float v) {
    if (how == RollOff::gentle) return v <= 0.7f ? v : 0.7f + 0.3f * (1 - std::exp((0.7f - v) / 0.3f));
    if (how == RollOff::film && v > 0) return v * (1.9f * v + 0.25f) / (v * (1.85f * v + 0.75f) + 0.42f);
    return v;
}

std::vector<bool> throw_shadow(const Lighting& lighting) {
    std::vector<bool> out;
    for (const Lamp& lamp : lighting.lamps)
        out.push_back(lamp.shadow && lighting.counted.shadow && lighting.counted.lamps);
    return out;
}

bool hides_sky(const Lighting& lighting) {
    const bool ambient = lighting.occlusion && std::any_of(lighting.ambient.begin(), lighting.ambient.end(),
                                                           [](float v) { return v > 0; });
    const bool skies =
        std::any_of(lighting.skies.begin(), lighting.skies.end(), [](const SkyInUse& s) { return s.shadow; });
    return lighting.counted.occlusion && (ambient || skies);
}

InTheWay in_the_way(const Field& height, Region region, float per_px, Edge edge, const Lighting& lighting) {
    InTheWay out{region, {}, {}};
    const auto throws = throw_shadow(lighting);
    for (std::size_t i = 0; i < throws.size(); ++i)
        out.shadows.push_back(
            throws[i] ? std::make_shared<const Plane>(shadow(height, region, per_px, edge, lighting.lamps[i]))
                      : nullptr);
    if (hides_sky(lighting))
        out.open = std::make_shared<const Plane>(
            occlusion(height, region, per_px, edge, {16, lighting.occlusion_radius * per_px}));
    return out;
}

namespace {

/// One row of light out of skies: the normals' diffuse share and the mirrored view's highlight.
void light_of_skies(const ShadeRow& row, const Lighting& lighting, const float* open, bool flat,
                    std::array<std::vector<float>, 3>& out) {
    const MaterialRow& m = row.material;
    const Counted counted = flat ? Counted{} : lighting.counted;
    const auto in_space = [&](int x, Rgb v) -> Rgb {
        if (!row.space) return v;
        const auto& s = *row.space;
        const auto part = [&](int c) {
            return v[0] * s.right[c][x] + v[1] * s.up[c][x] + v[2] * s.towards[c][x];
        };
        return {part(0), part(1), part(2)};
    };
    const auto level = [&](int c, int x) {
        return row.space ? row.space->level[c][x] : c == 2 ? 1.0f : 0.0f;
    };
    for (int x = 0; x < row.width; ++x) {
        const float nx = flat ? level(0, x) : row.nx[x], ny = flat ? level(1, x) : row.ny[x],
                    nz = flat ? level(2, x) : row.nz[x];
        const Rgb normal = in_space(x, {nx, ny, nz});
        const float rough = m.roughness[x], metal = m.metallic[x], specular = m.specular ? m.specular[x] : 1;
        const auto [rx, ry, rz] = in_space(x, {2 * nz * nx, 2 * nz * ny, 2 * nz * nz - 1});
        const EnvironmentShare share = environment_share(nz, rough);
        const float coat = m.coat ? m.coat[x] : 0, coat_rough = m.coat_roughness ? m.coat_roughness[x] : 0;
        const float w = 1 - nz, fresnel = 0.04f + 0.96f * w * w * w * w * w;
        const float sheen = m.sheen ? m.sheen[x] : 0, tint = m.sheen_tint ? m.sheen_tint[x] : 0;
        Rgb sum{};
        for (const SkyInUse& sky : lighting.skies) {
            const float seen =
                open && sky.shadow && !flat ? 1 - lighting.occlusion_strength * (1 - open[x]) : 1;
            // Reflections are shut out earlier the smoother the surface (Lagarde & de Rousiers 2014).
            const float mirror =
                seen >= 1
                    ? 1
                    : std::clamp(std::pow(nz + seen, std::exp2(-16 * rough - 1)) - 1 + seen, 0.0f, 1.0f);
            const Rgb around = sky.map->diffuse(normal[0], normal[1], normal[2]),
                      ahead = sky.map->reflected(rx, ry, rz, rough);
            const Rgb on_coat = coat > 0 ? sky.map->reflected(rx, ry, rz, coat_rough) : Rgb{};
            Rgb soft_color{};
            float most = 0;
            for (int c = 0; c < 3 && sheen > 0; ++c)
                soft_color[c] = sheen * (1 + tint * (m.base[c][x] - 1)), most = std::max(most, soft_color[c]);
            const float soft =
                sheen > 0 ? sheen_share(nz, m.sheen_roughness ? m.sheen_roughness[x] : 0.5f) : 0;
            for (int c = 0; c < 3; ++c) {
                const float base = m.base[c][x];
                const float f0 = 0.04f * specular * (1 - metal) + base * metal,
                            f90 = specular * (1 - metal) + metal;
                const float reflects = f0 * share.scale + f90 * share.offset;
                float light = (counted.diffuse ? (1 - reflects) * (1 - metal) * base * around[c] * seen : 0) +
                              (counted.highlights ? reflects * ahead[c] * mirror : 0);
                light = light * (1 - most * soft) +
                        (counted.highlights ? soft_color[c] * soft * around[c] * seen : 0);
                light = light * (1 - coat * fresnel) +
                        (counted.highlights ? coat * fresnel * on_coat[c] * mirror : 0);
                sum[c] += sky.power[c] * light;
            }
        }
        for (int c = 0; c < 3; ++c) out[c][x] = sum[c];
    }
}

} // namespace

void light_row(ShadeRow& row, const Lighting& lighting, float* open) {
    // A thread lights row after row.
    static thread_local std::array<std::vector<float>, 3> from, flat;
    const auto add = [&](std::array<std::vector<float>, 3>& to, const float* seen, bool level) {
        for (auto& c : to) c.resize(std::max(c.size(), static_cast<std::size_t>(padded(row.width))));
        light_of_skies(row, lighting, seen, level, to);
        return std::array<const float*, 3>{to[0].data(), to[1].data(), to[2].data()};
    };
    if (!lighting.skies.empty()) {
        if (lighting.counted.skies) row.from_skies = add(from, open, false);
        if (lighting.keep_flat_color) row.from_skies_flat = add(flat, nullptr, true);
    }
    if (open && lighting.occlusion) {
        for (int x = 0; x < row.width; ++x) open[x] = 1 - lighting.occlusion_strength * (1 - open[x]);
        row.sky = open;
    }
    shade_row(row, lighting);
}

std::array<Plane, 3> shade(const Bundle& relief, Region wanted, double scale, Edge edge,
                           const Lighting& lighting) {
    const InTheWay way = in_the_way(relief.height, relief.region, static_cast<float>(scale), edge, lighting);
    return shade(relief, wanted, scale, edge, lighting, way);
}

std::array<Plane, 3> shade(const Bundle& relief, Region wanted, double scale, Edge edge,
                           const Lighting& lighting, const InTheWay& way) {
    const int w = wanted.width(), h = wanted.height();
    std::array<Plane, 3> out{Plane(w, h), Plane(w, h), Plane(w, h)};
    const auto per_px = static_cast<float>(scale), step = static_cast<float>(1 / scale);
    const Region have = relief.region;
    const bool opaque = relief.coverage.is_constant() && relief.coverage.constant() == 1;
    // Properties nobody uses cost nothing.
    const auto plain = [](const Field& f, float value) { return f.is_constant() && f.constant() == value; };
    const bool dull = plain(relief.specular, 1), coated = !plain(relief.coat, 0),
               soft = !plain(relief.sheen, 0);
    parallel_blocks(wanted.y0, wanted.y1, 16, [&](int y0, int y1) {
        PaddedRow sky_row(w);
        std::vector<PaddedRow> seen_rows(way.shadows.size(), PaddedRow(w));
        PaddedRow above(w), row(w), below(w), cover(w), red(w), green(w), blue(w);
        std::vector<PaddedRow> material(8, PaddedRow(w));
        std::vector<float> nx(padded(w)), ny(padded(w)), nz(padded(w));
        for (int y = y0; y < y1; ++y) {
            ShadeRow s;
            s.width = w;
            s.x = static_cast<float>(wanted.x0) + 0.5f;
            s.y = (static_cast<float>(y) + 0.5f) * step;
            s.step = step;
            s.height = row.fill(relief.height, have, wanted, y, edge);
            normals_row(above.fill(relief.height, have, wanted, y - 1, edge), s.height,
                        below.fill(relief.height, have, wanted, y + 1, edge), w, per_px, nx.data(), ny.data(),
                        nz.data());
            s.nx = nx.data(), s.ny = ny.data(), s.nz = nz.data();
            const auto rows_of = [&](int i, const Field& f) { return material[i].view(f, have, wanted, y); };
            s.material.roughness = rows_of(0, relief.roughness);
            s.material.metallic = rows_of(1, relief.metallic);
            if (!dull) s.material.specular = rows_of(2, relief.specular);
            if (coated)
                s.material.coat = rows_of(3, relief.coat),
                s.material.coat_roughness = rows_of(4, relief.coat_roughness);
            if (soft)
                s.material.sheen = rows_of(5, relief.sheen),
                s.material.sheen_roughness = rows_of(6, relief.sheen_roughness),
                s.material.sheen_tint = rows_of(7, relief.sheen_tint);
            const int i = y - wanted.y0;
            s.out = {out[0].row(i), out[1].row(i), out[2].row(i)};
            const auto aligned = [&](const std::shared_ptr<const Plane>& from, PaddedRow& held) -> float* {
                if (!from) return nullptr;
                return held.copy(from->row(y - way.region.y0) + (wanted.x0 - way.region.x0), w);
            };
            for (std::size_t l = 0; l < way.shadows.size(); ++l)
                s.seen.push_back(aligned(way.shadows[l], seen_rows[l]));
            float* open = aligned(way.open, sky_row);
            // Straight colour; premultiplied again in the end.
            const float* a = opaque ? nullptr : cover.view(relief.coverage, have, wanted, y);
            if (opaque) {
                s.material.base = {red.view(relief.color[0], have, wanted, y),
                                   green.view(relief.color[1], have, wanted, y),
                                   blue.view(relief.color[2], have, wanted, y)};
            } else {
                float* base[3] = {red.fill(relief.color[0], have, wanted, y, edge),
                                  green.fill(relief.color[1], have, wanted, y, edge),
                                  blue.fill(relief.color[2], have, wanted, y, edge)};
                for (int x = 0; x < w; ++x)
                    if (a[x] != 1) {
                        const float k = a[x] > 1e-30f ? 1 / a[x] : 0;
                        for (float* b : base) b[x] *= k;
                    }
                s.material.base = {base[0], base[1], base[2]};
            }
            light_row(s, lighting, open);
            if (!opaque)
                for (int x = 0; x < w; ++x)
                    if (a[x] != 1)
                        for (float* o : s.out) o[x] *= a[x];
        }
    });
    return out;
}

void show_bodies(const Lighting& lighting, Region wanted, double scale, const Bundle& relief,
                 std::array<Plane, 3>& lit, Field& coverage) {
    const Region have = relief.region;
    for (const Lamp& l : lighting.lamps) {
        if (!l.body || l.directional || l.size <= 0) continue;
        const double half = l.half_length, r = l.size / 2, reach = (half + r) * scale + 2;
        const double cx = l.x * scale, cy = l.y * scale;
        const Region part = intersect({static_cast<int>(cx - reach), static_cast<int>(cy - reach),
                                       static_cast<int>(cx + reach) + 1, static_cast<int>(cy + reach) + 1},
                                      wanted);
        for (int y = part.y0; y < part.y1; ++y)
            for (int x = part.x0; x < part.x1; ++x) {
                // What stands higher than the light hides it.
                if (relief.height.at(x - have.x0, y - have.y0) > l.z) continue;
                const double dx = (x + 0.5) / scale - l.x, dy = l.y - (y + 0.5) / scale;
                const double s = std::clamp(dx * l.along[0] + dy * l.along[1], -half, half);
                const double off = std::hypot(dx - s * l.along[0], dy - s * l.along[1]);
                const auto cover = static_cast<float>(std::clamp((r - off) * scale + 0.5, 0.0, 1.0));
                if (cover <= 0) continue;
                for (int c = 0; c < 3; ++c) {
                    float& v = lit[c](x - wanted.x0, y - wanted.y0);
                    // As bright as a white surface lit straight on at its reach.
                    const float shine = l.power[c] / std::numbers::pi_v<float> * lighting.exposure;
                    v += cover * (shine - v);
                }
                if (coverage.is_constant() && coverage.constant() >= 1) continue;
                float& a = coverage.writable(wanted.width(), wanted.height())(x - wanted.x0, y - wanted.y0);
                a += cover * (1 - a);
            }
    }
}

} // namespace bathylux
