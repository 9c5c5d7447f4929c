#include "core/render/develop.h"

#include <array>
#include <cmath>

#include "core/field/oklab.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"

namespace bathylux {

namespace {

std::uint32_t to_byte(float v) { return static_cast<std::uint32_t>(std::clamp(v, 0.0f, 1.0f) * 255 + 0.5f); }

std::array<std::uint32_t, 256> make_tints() {
    // Hue and chroma at five depths; lightness runs straight from the first to the last.
    constexpr std::array<Lab, 5> stops{{{0, -0.050f, -0.030f},
                                        {0, -0.078f, -0.016f},
                                        {0, -0.070f, 0.012f},
                                        {0, -0.004f, 0.048f},
                                        {0, 0.028f, 0.084f}}};
    constexpr float dark = 0.31f, light = 0.90f;
    std::array<std::uint32_t, 256> out{};
    for (int i = 0; i < 256; ++i) {
        const float t = static_cast<float>(i) / 255, u = t * (stops.size() - 1);
        const int k = std::min(static_cast<int>(u), static_cast<int>(stops.size()) - 2);
        const float f = u - static_cast<float>(k);
        const Lab lab{dark + t * (light - dark), stops[k].a + f * (stops[k + 1].a - stops[k].a),
                      stops[k].b + f * (stops[k + 1].b - stops[k].b)};
        const auto rgb = from_oklab(lab);
        out[i] = 0xff000000u;
        for (int c = 0; c < 3; ++c) out[i] |= to_byte(srgb_encode(std::max(0.0f, rgb[c]))) << (16 - 8 * c);
    }
    return out;
}

const std::array<std::uint32_t, 256>& tints() {
    static const auto table = make_tints();
    return table;
}

/// Eight-bit sRGB of linear 0…1 from a table of 4096 steps of the square root, where the curve is gentle.
class EncodeTable {
  public:
    EncodeTable() {
        for (int i = 0; i <= size; ++i) {
            const float r = static_cast<float>(i) / size;
            table_[i] = srgb_encode(r * r) * 255 + 0.5f;
        }
    }
    std::uint32_t operator()(float linear) const {
        // What is no number is black, and no place in the table.
        const float r = std::sqrt(linear > 0 ? std::min(linear, 1.0f) : 0.0f) * size;
        const int i = std::min(static_cast<int>(r), size - 1);
        return static_cast<std::uint32_t>(table_[i] +
                                          (r - static_cast<float>(i)) * (table_[i + 1] - table_[i]));
    }

  private:
    static constexpr int size = 1024;
    std::array<float, size + 1> table_{};
};

} // namespace

std::uint32_t depth_tint(float t) {
    return tints()[static_cast<int>((t > 0 ? std::min(t, 1.0f) : 0.0f) * 255 + 0.5f)];
}

float round_contour_step(float low, float high) {
    const double rough = std::max(1e-6, (static_cast<double>(high) - low) / 8);
    const double power = std::pow(10.0, std::floor(std::log10(rough)));
    for (double k : {1.0, 2.0, 5.0})
        if (rough <= k * power) return static_cast<float>(k * power);
    return static_cast<float>(10 * power);
}

Pixels develop_color(const std::array<Field, 3>& color, const Field& coverage, int width, int height) {
    static const EncodeTable encode;
    Pixels out{width, height, std::vector<std::uint32_t>(static_cast<std::size_t>(width) * height)};
    const Rows r(color[0], width), g(color[1], width), b(color[2], width), a(coverage, width);
    parallel_rows(0, height, [&](int y) {
        const float *pr = r(y), *pg = g(y), *pb = b(y), *pa = a(y);
        std::uint32_t* to = &out.argb[static_cast<std::size_t>(y) * width];
        for (int x = 0; x < width; ++x) {
            const float k = std::clamp(pa[x], 0.0f, 1.0f);
            if (k >= 1) {
                to[x] = 0xff000000u | encode(pr[x]) << 16 | encode(pg[x]) << 8 | encode(pb[x]);
            } else if (k <= 0) {
                to[x] = 0;
            } else {
                const float inverse = 1 / k;
                const auto channel = [&](float v) {
                    return static_cast<std::uint32_t>(static_cast<float>(encode(v * inverse)) * k + 0.5f);
                };
                to[x] = to_byte(k) << 24 | channel(pr[x]) << 16 | channel(pg[x]) << 8 | channel(pb[x]);
            }
        }
    });
    return out;
}

Pixels develop_normals(const std::array<Field, 3>& n, int width, int height) {
    Pixels out{width, height, std::vector<std::uint32_t>(static_cast<std::size_t>(width) * height)};
    const Rows nx(n[0], width), ny(n[1], width), nz(n[2], width);
    const auto byte = [](float v) { return static_cast<std::uint32_t>(std::lround(127.5f + 127.5f * v)); };
    parallel_rows(0, height, [&](int y) {
        for (int x = 0; x < width; ++x)
            out.argb[static_cast<std::size_t>(y) * width + x] =
                0xff000000u | byte(nx(y)[x]) << 16 | byte(ny(y)[x]) << 8 | byte(nz(y)[x]);
    });
    return out;
}

Pixels develop_height(const Field& field, int width, int height, const ChartStyle& style) {
    Pixels out{width, height, std::vector<std::uint32_t>(static_cast<std::size_t>(width) * height)};
    const Rows rows(field, width);
    const float per = style.high > style.low ? 1 / (style.high - style.low) : 0;
    const float inverse_step = style.contour_step > 0 ? 1 / style.contour_step : 0;
    parallel_rows(0, height, [&](int y) {
        const float *h = rows(y), *above = rows(std::max(0, y - 1)),
                    *below = rows(std::min(height - 1, y + 1));
        for (int x = 0; x < width; ++x) {
            const float t = std::clamp((h[x] - style.low) * per, 0.0f, 1.0f);
            std::uint32_t& to = out.argb[static_cast<std::size_t>(y) * width + x];
            if (style.grey) {
                const auto v = static_cast<std::uint32_t>(t * 255 + 0.5f);
                to = 0xff000000u | v << 16 | v << 8 | v;
                continue;
            }
            to = depth_tint(t);
            if (inverse_step == 0) continue;
            const float gx = 0.5f * (h[std::min(width - 1, x + 1)] - h[std::max(0, x - 1)]),
                        gy = 0.5f * (below[x] - above[x]);
            const float gradient = std::sqrt(gx * gx + gy * gy) * inverse_step; // contours per px
            if (gradient < 1e-4f) continue;
            const float u = h[x] * inverse_step,
                        off = std::abs(u - std::round(u)) / gradient; // px to the line
            // Where lines would lie closer than three pixels they fade out rather than fill.
            const float ink =
                0.55f * std::clamp(1.1f - off, 0.0f, 1.0f) * std::clamp(1.3f - 3 * gradient, 0.0f, 1.0f);
            if (ink <= 0) continue;
            std::uint32_t mixed = 0xff000000u;
            for (int shift : {16, 8, 0}) {
                const auto v = static_cast<float>(to >> shift & 255);
                mixed |= static_cast<std::uint32_t>(v * (1 - ink) + (shift == 0 ? 28.0f : 22.0f) * ink)
                         << shift;
            }
            to = mixed;
        }
    });
    return out;
}

} // namespace bathylux
