#include "core/light/shade.h"

#include <algorithm>
#include <cstring>

#include "core/colour/srgb.h"
#include "core/field/parallel.h"
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
    const float* copy(const float* from, int width) {
        std::memcpy(data_.data() + 16, from, sizeof(float) * width);
        return data_.data() + 16;
    }

  private:
    std::vector<float> data_;
    bool filled_ = false; // with a constant, once and for all rows
};

constexpr int padded(int width) { return (width + 31) / 16 * 16; }

} // namespace

std::array<Plane, 3> normals(const Field& height, Region have, Region wanted, float per_px, Edge edge,
                             std::stop_token stop) {
    const int w = wanted.width(), h = wanted.height();
    std::array<Plane, 3> n{Plane(w, h), Plane(w, h), Plane(w, h)};
    parallel_blocks(
        wanted.y0, wanted.y1, 16,
        [&](int y0, int y1) {
            PaddedRow above(w), row(w), below(w);
            for (int y = y0; y < y1; ++y) {
                const int i = y - wanted.y0;
                normals_row(above.fill(height, have, wanted, y - 1, edge),
                            row.fill(height, have, wanted, y, edge),
                            below.fill(height, have, wanted, y + 1, edge), w, per_px, n[0].row(i),
                            n[1].row(i), n[2].row(i));
            }
        },
        stop);
    return n;
}

Lighting lighting_of(const Piece& piece) {
    const Ambient& a = piece.ambient;
    return {lamps_of(piece),
            {a.intensity * srgb_decode(a.color.r), a.intensity * srgb_decode(a.color.g),
             a.intensity * srgb_decode(a.color.b)},
            std::exp2(piece.exposure),
            piece.keep_flat_color,
            a.occlusion,
            a.strength,
            a.radius};
}

bool Lighting::looks_far() const {
    return occlusion || std::any_of(lamps.begin(), lamps.end(), [](const Lamp& l) { return l.shadow; });
}

std::array<Plane, 3> shade(const Bundle& relief, Region wanted, double scale, Edge edge,
                           const Lighting& lighting, std::stop_token stop) {
    const int w = wanted.width(), h = wanted.height();
    std::array<Plane, 3> out{Plane(w, h), Plane(w, h), Plane(w, h)};
    const auto per_px = static_cast<float>(scale), step = static_cast<float>(1 / scale);
    const Region have = relief.region;
    // What stands in the way of lamps and sky is found once, over all of the relief there is.
    std::vector<Plane> shadows;
    for (const Lamp& lamp : lighting.lamps)
        shadows.push_back(lamp.shadow ? shadow(relief.height, have, per_px, edge, lamp, stop) : Plane());
    Plane sky;
    if (lighting.occlusion &&
        (lighting.ambient[0] > 0 || lighting.ambient[1] > 0 || lighting.ambient[2] > 0)) {
        sky = occlusion(relief.height, have, per_px, edge, {16, lighting.occlusion_radius * per_px}, stop);
        const float k = lighting.occlusion_strength;
        parallel_rows(0, sky.height(), [&](int y) {
            float* v = sky.row(y);
            for (int x = 0; x < sky.width(); ++x) v[x] = 1 - k * (1 - v[x]);
        });
    }
    const bool opaque = relief.coverage.is_constant() && relief.coverage.constant() == 1;
    parallel_blocks(
        wanted.y0, wanted.y1, 16,
        [&](int y0, int y1) {
            PaddedRow sky_row(w);
            std::vector<PaddedRow> seen_rows(shadows.size(), PaddedRow(w));
            PaddedRow above(w), row(w), below(w), rough(w), metal(w), cover(w), red(w), green(w), blue(w);
            std::vector<float> nx(padded(w)), ny(padded(w)), nz(padded(w));
            for (int y = y0; y < y1; ++y) {
                ShadeRow s;
                s.width = w;
                s.x = (static_cast<float>(wanted.x0) + 0.5f) * step;
                s.y = (static_cast<float>(y) + 0.5f) * step;
                s.step = step;
                s.height = row.fill(relief.height, have, wanted, y, edge);
                normals_row(above.fill(relief.height, have, wanted, y - 1, edge), s.height,
                            below.fill(relief.height, have, wanted, y + 1, edge), w, per_px, nx.data(),
                            ny.data(), nz.data());
                s.nx = nx.data(), s.ny = ny.data(), s.nz = nz.data();
                s.roughness = rough.view(relief.roughness, have, wanted, y);
                s.metallic = metal.view(relief.metallic, have, wanted, y);
                const int i = y - wanted.y0;
                s.out = {out[0].row(i), out[1].row(i), out[2].row(i)};
                const auto aligned = [&](const Plane& from, PaddedRow& held) -> const float* {
                    if (!from.width()) return nullptr;
                    const float* r = from.row(y - have.y0) + (wanted.x0 - have.x0);
                    return held.copy(r, w);
                };
                for (std::size_t l = 0; l < shadows.size(); ++l)
                    s.seen.push_back(aligned(shadows[l], seen_rows[l]));
                s.sky = aligned(sky, sky_row);
                if (opaque) {
                    s.base = {red.view(relief.color[0], have, wanted, y),
                              green.view(relief.color[1], have, wanted, y),
                              blue.view(relief.color[2], have, wanted, y)};
                    shade_row(s, lighting);
                    continue;
                }
                // Lit as straight colour, then premultiplied again.
                const float* a = cover.view(relief.coverage, have, wanted, y);
                float* base[3] = {red.fill(relief.color[0], have, wanted, y, edge),
                                  green.fill(relief.color[1], have, wanted, y, edge),
                                  blue.fill(relief.color[2], have, wanted, y, edge)};
                for (int x = 0; x < w; ++x)
                    if (a[x] != 1) {
                        const float k = a[x] > 0 ? 1 / a[x] : 0;
                        for (float* b : base) b[x] *= k;
                    }
                s.base = {base[0], base[1], base[2]};
                shade_row(s, lighting);
                for (int x = 0; x < w; ++x)
                    if (a[x] != 1)
                        for (float* o : s.out) o[x] *= a[x];
            }
        },
        stop);
    return out;
}

} // namespace bathylux
