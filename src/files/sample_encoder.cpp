#include "files/sample_encoder.h"

#include <cstring>

#include "core/field/srgb.h"

namespace bathylux::files {

Bytes SampleEncoder::operator()(const Strip& s) const {
    const int w = s.region.width(), h = s.region.height(), n = static_cast<int>(s.channels.size());
    Bytes out(static_cast<std::size_t>(w) * h * n * bits_ / 8);
    std::vector<Rows> rows;
    rows.reserve(n);
    for (const Field& f : s.channels) rows.emplace_back(f, w);
    std::vector<float> pixel(n);
    std::size_t i = 0;
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            for (int c = 0; c < n; ++c) pixel[c] = rows[c](y)[x];
            encode(pixel);
            for (float v : pixel) put(out, i++, v);
        }
    return out;
}

Bytes SampleEncoder::straight(const std::vector<float>& pixels) const {
    Bytes out(pixels.size() * bits_ / 8);
    for (std::size_t i = 0; i < pixels.size(); ++i)
        put(out, i, i % 4 == 3 ? pixels[i] : fast_srgb_encode(std::clamp(pixels[i], 0.0f, 1.0f)));
    return out;
}

void SampleEncoder::encode(std::vector<float>& p) const {
    if (view_ == View::normals && !green_up_) p[1] = -p[1];
    if (bits_ == 32) return;
    if (view_ == View::normals) {
        for (float& v : p) v = 0.5f + 0.5f * v;
    } else if (!is_color(view_) && view_ != View::height) {
        p[0] = as_share(view_, p[0]);
    } else if (view_ == View::height) {
        p[0] = range_.second > range_.first ? (p[0] - range_.first) / (range_.second - range_.first) : 0.0f;
    } else {
        const float k = p[3] > 0 ? 1 / p[3] : 0;
        for (int c = 0; c < 3; ++c) p[c] = fast_srgb_encode(std::clamp(p[c] * k, 0.0f, 1.0f));
    }
}

void SampleEncoder::put(Bytes& out, std::size_t i, float v) const {
    if (bits_ == 32) {
        std::memcpy(&out[4 * i], &v, 4);
        return;
    }
    v = std::clamp(v, 0.0f, 1.0f);
    if (bits_ == 16) {
        const auto u = static_cast<std::uint16_t>(std::lround(v * 65535));
        std::memcpy(&out[2 * i], &u, 2);
    } else
        out[i] = static_cast<std::byte>(std::lround(v * 255));
}

} // namespace bathylux::files
