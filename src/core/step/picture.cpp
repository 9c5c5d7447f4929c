#include "core/step/picture.h"

#include <cstring>

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"

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
    /// The px from x0 to x1 of a row.
    void operator()(int y, int x0, int x1, float* to) const {
        const std::size_t first = (static_cast<std::size_t>(y) * p_.width + x0) * n_;
        const int count = x1 - x0;
        if (p_.format == Picture::Format::u8) {
            const auto* v = reinterpret_cast<const std::uint8_t*>(from_.data()) + first;
            if (alpha_ < 0) {
                for (int x = 0; x < count; ++x, v += n_, to += 4)
                    to[0] = table_[v[0]], to[1] = table_[v[second_]], to[2] = table_[v[third_]], to[3] = 1;
                return;
            }
            for (int x = 0; x < count; ++x, v += n_, to += 4) {
                const float a = alpha_ < 0 ? 1.0f : static_cast<float>(v[alpha_]) / 255.0f,
                            k = color_ ? a : 1.0f;
                to[0] = table_[v[0]] * k, to[1] = table_[v[second_]] * k, to[2] = table_[v[third_]] * k,
                to[3] = a;
            }
            return;
        }
        const auto linear = [&](float v) { return p_.is_float() || !color_ ? v : fast_srgb_decode(v); };
        for (int x = 0; x < count; ++x, to += 4) {
            const std::size_t i = first + static_cast<std::size_t>(x) * n_;
            const float a = alpha_ < 0 ? 1.0f : sample(p_, from_, i + alpha_), k = color_ ? a : 1.0f;
            to[0] = linear(sample(p_, from_, i)) * k, to[1] = linear(sample(p_, from_, i + second_)) * k,
            to[2] = linear(sample(p_, from_, i + third_)) * k, to[3] = a;
        }
    }

    /// Whether `halved` may be asked: most photographs.
    bool opaque_bytes() const { return p_.format == Picture::Format::u8 && alpha_ < 0; }
    /// Means of 2 × 2 px of the rows `above` and `below`, the px from x0 to x1 of what comes out: the same as
    /// halving what is read, without writing it down first.
    void halved(int above, int below, int x0, int x1, float* __restrict to) const {
        const std::size_t row = static_cast<std::size_t>(p_.width) * n_;
        const auto* v = reinterpret_cast<const std::uint8_t*>(from_.data());
        const std::uint8_t *a = v + row * above, *b = v + row * below;
        for (int x = x0; x < x1; ++x, to += 4) {
            const int left = 2 * x * n_, right = std::min(2 * x + 1, p_.width - 1) * n_;
            const auto mean = [&](int c) {
                return 0.25f * (table_[a[left + c]] + table_[a[right + c]] + table_[b[left + c]] +
                                table_[b[right + c]]);
            };
            to[0] = mean(0), to[1] = n_ < 3 ? to[0] : mean(1), to[2] = n_ < 3 ? to[0] : mean(2), to[3] = 1;
        }
    }

  private:
    const Picture& p_;
    bool color_;
    const std::vector<std::byte>& from_;
    int n_, alpha_, second_, third_;
    std::array<float, 256> table_{};
};

/// Means of 2 × 2 px; the last column goes twice where there is no other.
void halve_rows(const float* __restrict above, const float* __restrict below, int width, float* __restrict to,
                int halved_width) {
    const int whole = std::min(halved_width, width / 2);
    for (int x = 0; x < whole; ++x, to += 4, above += 8, below += 8)
        for (int c = 0; c < 4; ++c) to[c] = 0.25f * (above[c] + above[4 + c] + below[c] + below[4 + c]);
    if (whole < halved_width)
        for (int c = 0; c < 4; ++c) to[c] = 0.25f * (above[c] + above[c] + below[c] + below[c]);
}

/// Rows of the picture halved a few times, made from its samples.
class HalvedRows {
  public:
    HalvedRows(const Picture& p, bool color) : p_(p), read_(p, color) {}
    /// The px from x0 to x1 of row y, halved `level` times.
    void operator()(int level, int y, int x0, int x1, float* to) const {
        if (level == 0) return read_(y, x0, x1, to);
        const auto [w, h] = p_.size_of_level(level - 1);
        if (level == 1 && read_.opaque_bytes())
            return read_.halved(std::min(2 * y, h - 1), std::min(2 * y + 1, h - 1), x0, x1, to);
        const int from = std::min(2 * x0, w - 1), until = std::min(2 * x1, w);
        const std::size_t floats = std::size_t{4} * (until - from);
        const auto rows = std::make_unique_for_overwrite<float[]>(2 * floats);
        float *const above = rows.get(), *const below = above + floats;
        (*this)(level - 1, std::min(2 * y, h - 1), from, until, above);
        (*this)(level - 1, std::min(2 * y + 1, h - 1), from, until, below);
        halve_rows(above, below, until - from, to, x1 - x0);
    }

  private:
    const Picture& p_;
    RowReader read_;
};

/// The first level that is kept whole.
constexpr int first_kept = 2;

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

std::pair<int, int> Picture::size_of_level(int level) const {
    int w = width, h = height;
    for (; level > 0; --level) w = std::max(1, w / 2), h = std::max(1, h / 2);
    return {w, h};
}

const Picture::Texels& Picture::small_level(Reading reading, int level) const {
    auto& kept = pyramids_->levels[static_cast<std::size_t>(reading)];
    {
        const std::lock_guard lock(pyramids_->mutex);
        if (kept.size() <= static_cast<std::size_t>(level)) kept.resize(level + 1);
        if (kept[level]) return *kept[level];
    }
    // Not under the lock: while rows of a loop are waited for, this thread may come by here for another
    // loop's. Of two that make the same, the first is kept.
    const Texels* const above = level > first_kept ? &small_level(reading, level - 1) : nullptr;
    const auto [w, h] = size_of_level(level);
    auto made = std::make_unique<Texels>(Texels{w, h, Plane(4 * w, h)});
    const HalvedRows rows(*this, reading == Reading::color);
    parallel_rows(0, h, [&, w = w](int y) {
        float* to = made->rgba.row(y);
        if (above)
            halve_rows(above->rgba.row(std::min(2 * y, above->height - 1)),
                       above->rgba.row(std::min(2 * y + 1, above->height - 1)), above->width, to, w);
        else
            rows(level, y, 0, w, to);
    });
    const std::lock_guard lock(pyramids_->mutex);
    if (!kept[level]) kept[level] = std::move(made);
    return *kept[level];
}

Picture::Texels Picture::texels(Reading reading, int level, Region wanted, Edge edge) const {
    const auto [w, h] = size_of_level(level);
    const Texels* whole = level >= first_kept ? &small_level(reading, level) : nullptr;
    const HalvedRows rows(*this, reading == Reading::color);
    Texels out{wanted.width(), wanted.height(), Plane(4 * wanted.width(), wanted.height())};
    // The stretch of px that are the picture's own is read in one go.
    const int x0 = std::clamp(wanted.x0, 0, w), x1 = std::clamp(wanted.x1, x0, w);
    parallel_blocks(0, out.height, 8, [&, w = w, h = h](int from, int until) {
        std::vector<float> one(4);
        for (int y = from; y < until; ++y) {
            const int row = wrapped(wanted.y0 + y, h, edge);
            const auto read = [&](int a, int b, float* to) {
                if (whole)
                    std::memcpy(to, whole->rgba.row(row) + 4 * a, sizeof(float) * 4 * (b - a));
                else
                    rows(level, row, a, b, to);
            };
            float* to = out.rgba.row(y);
            if (x0 < x1) read(x0, x1, to + 4 * (x0 - wanted.x0));
            for (int x = wanted.x0; x < wanted.x1; ++x) {
                if (x == x0 && x0 < x1) x = x1;
                if (x >= wanted.x1) break;
                const int i = wrapped(x, w, edge);
                if (i >= x0 && i < x1)
                    std::memcpy(to + 4 * (x - wanted.x0), to + 4 * (i - wanted.x0), sizeof(float) * 4);
                else
                    read(i, i + 1, to + 4 * (x - wanted.x0));
            }
        }
    });
    return out;
}

} // namespace bathylux
