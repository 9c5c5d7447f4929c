#include "core/piece/picture.h"

#include <cstring>

#include "core/colour/srgb.h"
#include "core/field/hash.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

float sample(const Picture& p, const std::vector<std::byte>& from, std::size_t i) {
    switch (p.format) {
    case Picture::Format::u8: return static_cast<float>(std::to_integer<int>(from[i])) / 255.0f;
    case Picture::Format::u16: {
        std::uint16_t v = 0;
        std::memcpy(&v, &from[2 * i], 2);
        return static_cast<float>(v) / 65535.0f;
    }
    case Picture::Format::f32: {
        float v = 0;
        std::memcpy(&v, &from[4 * i], 4);
        return v;
    }
    }
    return 0;
}

Picture::Level full_size(const Picture& p, bool color) {
    Picture::Level out{p.width, p.height, std::vector<float>(4ull * p.width * p.height)};
    const auto& from = color && !p.color_samples.empty() ? p.color_samples : p.samples;
    std::array<float, 256> decode8{};
    for (int i = 0; i < 256; ++i) decode8[i] = srgb_decode(static_cast<float>(i) / 255.0f);
    const auto linear = [&](float v, std::size_t i) {
        if (p.is_float()) return v;
        return p.format == Picture::Format::u8 ? decode8[std::to_integer<int>(from[i])] : fast_srgb_decode(v);
    };
    parallel_rows(0, p.height, [&](int y) {
        for (int x = 0; x < p.width; ++x) {
            const std::size_t pixel = static_cast<std::size_t>(y) * p.width + x, first = pixel * p.channels;
            float* to = &out.rgba[4 * pixel];
            const float a = p.has_alpha() ? sample(p, from, first + p.channels - 1) : 1.0f;
            for (int c = 0; c < 3; ++c) {
                const std::size_t i = first + (p.channels < 3 ? 0 : c);
                const float v = sample(p, from, i);
                to[c] = color ? linear(v, i) * a : v;
            }
            to[3] = a;
        }
    });
    return out;
}

Picture::Level halved(const Picture::Level& in) {
    Picture::Level out{std::max(1, in.width / 2), std::max(1, in.height / 2), {}};
    out.rgba.resize(4ull * out.width * out.height);
    parallel_rows(0, out.height, [&](int y) {
        const int y0 = std::min(2 * y, in.height - 1), y1 = std::min(2 * y + 1, in.height - 1);
        for (int x = 0; x < out.width; ++x) {
            const int x0 = std::min(2 * x, in.width - 1), x1 = std::min(2 * x + 1, in.width - 1);
            const auto at = [&](int px, int py) { return &in.rgba[4 * (static_cast<std::size_t>(py) * in.width + px)]; };
            for (int c = 0; c < 4; ++c)
                out.rgba[4 * (static_cast<std::size_t>(y) * out.width + x) + c] =
                    0.25f * (at(x0, y0)[c] + at(x1, y0)[c] + at(x0, y1)[c] + at(x1, y1)[c]);
        }
    });
    return out;
}

} // namespace

float Picture::stored(int x, int y, int channel) const {
    return sample(*this, samples, (static_cast<std::size_t>(y) * width + x) * channels + channel);
}

bool Picture::is_transparent() const {
    if (!has_alpha()) return false;
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            if (stored(x, y, channels - 1) < 1) return true;
    return false;
}

void Picture::seal() {
    Hash h;
    h << width << height << channels << static_cast<int>(format);
    h.bytes(samples.data(), samples.size()).bytes(color_samples.data(), color_samples.size());
    hash = h.value();
}

int Picture::levels() const {
    int n = 1;
    for (int w = width, h = height; w > 1 && h > 1; w /= 2, h /= 2) ++n;
    return n;
}

const Picture::Level& Picture::level(std::vector<std::unique_ptr<Level>>& pyramid, bool color, int level) const {
    const std::lock_guard lock(pyramids_->mutex);
    while (static_cast<int>(pyramid.size()) <= level)
        pyramid.push_back(std::make_unique<Level>(pyramid.empty() ? full_size(*this, color) : halved(*pyramid.back())));
    return *pyramid[level];
}

const Picture::Level& Picture::color_level(int l) const { return level(pyramids_->color, true, l); }
const Picture::Level& Picture::stored_level(int l) const { return level(pyramids_->stored, false, l); }

} // namespace bathylux
