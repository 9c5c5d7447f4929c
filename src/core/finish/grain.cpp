#include "core/finish/grain.h"

#include <cmath>

#include "core/colour/recolour.h"
#include "core/make/noise.h"

namespace bathylux {

namespace {

/// A cell's chance: mean 0, deviation ½ (three even ones of variance 1 ÷ 12 each).
float chance(int x, int y, std::uint32_t seed) {
    float sum = -1.5f;
    for (std::uint32_t k = 0; k < 3; ++k)
        sum += static_cast<float>(lattice_hash(x, y, 3 * seed + k) >> 8) * (1.0f / 16777216.0f);
    return sum;
}

} // namespace

Bundle Grain::apply(const Bundle& below, const Context& context) const {
    const Region r = context.region;
    const double per_px = 1 / (size * context.length);
    const auto s = static_cast<std::uint32_t>(seed);
    return recoloured_rows<Values::encoded>(below, context, [&](const std::array<float*, 3>& rgb, int y) {
        // Canvas px fall on cells of size 1.
        const double v = (r.y0 + y + 0.5) * per_px - 0.5 / size;
        const double fv = std::floor(v);
        const auto j = static_cast<int>(fv);
        const auto b = static_cast<float>(v - fv);
        for (int x = 0; x < r.width(); ++x) {
            const double u = (r.x0 + x + 0.5) * per_px - 0.5 / size, fu = std::floor(u);
            const auto i = static_cast<int>(fu);
            const auto a = static_cast<float>(u - fu);
            const float w00 = (1 - a) * (1 - b), w10 = a * (1 - b), w01 = (1 - a) * b, w11 = a * b;
            const float n = (w00 * chance(i, j, s) + w10 * chance(i + 1, j, s) + w01 * chance(i, j + 1, s) +
                             w11 * chance(i + 1, j + 1, s)) /
                            std::sqrt(w00 * w00 + w10 * w10 + w01 * w01 + w11 * w11);
            for (float* row : rgb) row[x] += strength * n;
        }
    });
}

} // namespace bathylux
