#include "core/light/shade.h"

#include <cstring>

#include "core/colour/srgb.h"
#include "core/field/parallel.h"
#include "core/light/normals.h"

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

  private:
    std::vector<float> data_;
};

constexpr int padded(int width) { return (width + 31) / 16 * 16; }

} // namespace

std::array<Plane, 3> normals(const Field& height, Region have, Region wanted, float per_px, Edge edge, std::stop_token stop) {
    const int w = wanted.width(), h = wanted.height();
    std::array<Plane, 3> n{Plane(w, h), Plane(w, h), Plane(w, h)};
    parallel_blocks(
        wanted.y0, wanted.y1, 16,
        [&](int y0, int y1) {
            PaddedRow above(w), row(w), below(w);
            for (int y = y0; y < y1; ++y) {
                const int i = y - wanted.y0;
                normals_row(above.fill(height, have, wanted, y - 1, edge), row.fill(height, have, wanted, y, edge),
                            below.fill(height, have, wanted, y + 1, edge), w, per_px, n[0].row(i), n[1].row(i), n[2].row(i));
            }
        },
        stop);
    return n;
}

Lighting lighting_of(const Piece& piece) {
    const Ambient& a = piece.ambient;
    return {lamps_of(piece),
            {a.intensity * srgb_decode(a.color.r), a.intensity * srgb_decode(a.color.g), a.intensity * srgb_decode(a.color.b)},
            std::exp2(piece.exposure),
            piece.keep_flat_color};
}

std::array<Plane, 3> shade(const Bundle& relief, Region wanted, double scale, Edge edge, const Lighting& lighting,
                           std::stop_token stop) {
    const int w = wanted.width(), h = wanted.height();
    std::array<Plane, 3> out{Plane(w, h), Plane(w, h), Plane(w, h)};
    const auto per_px = static_cast<float>(scale), step = static_cast<float>(1 / scale);
    const Region have = relief.region;
    parallel_blocks(
        wanted.y0, wanted.y1, 16,
        [&](int y0, int y1) {
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
                            below.fill(relief.height, have, wanted, y + 1, edge), w, per_px, nx.data(), ny.data(), nz.data());
                s.nx = nx.data(), s.ny = ny.data(), s.nz = nz.data();
                s.roughness = rough.fill(relief.roughness, have, wanted, y, edge);
                s.metallic = metal.fill(relief.metallic, have, wanted, y, edge);
                const float* a = cover.fill(relief.coverage, have, wanted, y, edge);
                float* base[3] = {red.fill(relief.color[0], have, wanted, y, edge), green.fill(relief.color[1], have, wanted, y, edge),
                                  blue.fill(relief.color[2], have, wanted, y, edge)};
                for (int x = 0; x < w; ++x)
                    if (a[x] != 1) {
                        const float k = a[x] > 0 ? 1 / a[x] : 0;
                        for (float* b : base) b[x] *= k;
                    }
                s.base = {base[0], base[1], base[2]};
                const int i = y - wanted.y0;
                s.out = {out[0].row(i), out[1].row(i), out[2].row(i)};
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
