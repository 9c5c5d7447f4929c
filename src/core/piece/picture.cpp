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

/// Turns rows of samples into floats: straight as stored, or linear and premultiplied.
class RowReader {
  public:
    RowReader(const Picture& p, bool color)
        : p_(p), color_(color), from_(color && !p.color_samples.empty() ? p.color_samples : p.samples),
          n_(p.channels), alpha_(p.has_alpha() ? n_ - 1 : -1), second_(n_ < 3 ? 0 : 1),
          third_(n_ < 3 ? 0 : 2) {
        // Bytes go through a table: what a value is, as stored or as light.
        for (int i = 0; i < 256; ++i)
            table_[i] = color ? srgb_decode(static_cast<float>(i) / 255.0f) : static_cast<float>(i) / 255.0f;
    }
    void operator()(int y, float* to) const {
        const std::size_t first = static_cast<std::size_t>(y) * p_.width * n_;
        if (p_.format == Picture::Format::u8) {
            const auto* v = reinterpret_cast<const std::uint8_t*>(from_.data()) + first;
            for (int x = 0; x < p_.width; ++x, v += n_, to += 4) {
                const float a = alpha_ < 0 ? 1.0f : static_cast<float>(v[alpha_]) / 255.0f,
                            k = color_ ? a : 1.0f;
                to[0] = table_[v[0]] * k, to[1] = table_[v[second_]] * k, to[2] = table_[v[third_]] * k,
                to[3] = a;
            }
            return;
        }
        const auto linear = [&](float v) { return p_.is_float() || !color_ ? v : fast_srgb_decode(v); };
        for (int x = 0; x < p_.width; ++x, to += 4) {
            const std::size_t i = first + static_cast<std::size_t>(x) * n_;
            const float a = alpha_ < 0 ? 1.0f : sample(p_, from_, i + alpha_), k = color_ ? a : 1.0f;
            to[0] = linear(sample(p_, from_, i)) * k, to[1] = linear(sample(p_, from_, i + second_)) * k,
            to[2] = linear(sample(p_, from_, i + third_)) * k, to[3] = a;
        }
    }

  private:
    const Picture& p_;
    bool color_;
    const std::vector<std::byte>& from_;
    int n_, alpha_, second_, third_;
    std::array<float, 256> table_{};
};

Picture::Level full_size(const Picture& p, bool color) {
    Picture::Level out{p.width, p.height, Plane(4 * p.width, p.height)};
    const RowReader read(p, color);
    parallel_rows(0, p.height, [&](int y) { read(y, out.rgba.row(y)); });
    return out;
}

void halve_rows(const float* above, const float* below, int width, float* to, int halved_width) {
    for (int x = 0; x < halved_width; ++x) {
        const int l = 4 * std::min(2 * x, width - 1), r = 4 * std::min(2 * x + 1, width - 1);
        for (int c = 0; c < 4; ++c)
            to[4 * x + c] = 0.25f * (above[l + c] + above[r + c] + below[l + c] + below[r + c]);
    }
}

/// The first halving straight from the samples: a preview of a large picture never needs it whole in floats.
Picture::Level half_size(const Picture& p, bool color) {
    const int w = std::max(1, p.width / 2), h = std::max(1, p.height / 2);
    Picture::Level out{w, h, Plane(4 * w, h)};
    const RowReader read(p, color);
    parallel_blocks(0, h, 16, [&](int y0, int y1) {
        std::vector<float> above(4ull * p.width), below(4ull * p.width);
        for (int y = y0; y < y1; ++y) {
            read(std::min(2 * y, p.height - 1), above.data());
            read(std::min(2 * y + 1, p.height - 1), below.data());
            halve_rows(above.data(), below.data(), p.width, out.rgba.row(y), w);
        }
    });
    return out;
}

Picture::Level halved(const Picture::Level& in) {
    const int w = std::max(1, in.width / 2), h = std::max(1, in.height / 2);
    Picture::Level out{w, h, Plane(4 * w, h)};
    parallel_rows(0, h, [&](int y) {
        halve_rows(in.rgba.row(std::min(2 * y, in.height - 1)),
                   in.rgba.row(std::min(2 * y + 1, in.height - 1)), in.width, out.rgba.row(y), w);
    });
    return out;
}

} // namespace

float Picture::stored(int x, int y, int channel) const {
    return sample(*this, samples, (static_cast<std::size_t>(y) * width + x) * channels + channel);
}

void Picture::seal() {
    Hash h;
    h << width << height << channels << static_cast<int>(format);
    h.bytes(samples.data(), samples.size()).bytes(color_samples.data(), color_samples.size());
    hash = h.value();
    transparent_ = false;
    for (int y = 0; has_alpha() && !transparent_ && y < height; ++y)
        for (int x = 0; x < width && !transparent_; ++x) transparent_ = stored(x, y, channels - 1) < 1;
}

int Picture::levels() const {
    int n = 1;
    for (int w = width, h = height; w > 1 && h > 1; w /= 2, h /= 2) ++n;
    return n;
}

const Picture::Level& Picture::level(std::vector<std::unique_ptr<Level>>& pyramid, bool color,
                                     int level) const {
    const std::lock_guard lock(pyramids_->mutex);
    if (pyramid.size() <= static_cast<std::size_t>(level)) pyramid.resize(level + 1);
    int known = level; // the deepest level to begin from: one that is there, or the samples
    while (known > 1 && !pyramid[known]) --known;
    if (!pyramid[known])
        pyramid[known] =
            std::make_unique<Level>(known == 0 ? full_size(*this, color) : half_size(*this, color));
    for (; known < level; ++known) pyramid[known + 1] = std::make_unique<Level>(halved(*pyramid[known]));
    return *pyramid[level];
}

const Picture::Level& Picture::color_level(int l) const { return level(pyramids_->color, true, l); }
const Picture::Level& Picture::stored_level(int l) const { return level(pyramids_->stored, false, l); }

} // namespace bathylux
