#include "files/plain_png.h"

#include <png.h>

#include <algorithm>
#include <array>
#include <bit>
#include <csetjmp>
#include <cstdint>
#include <cstring>
#include <new>
#include <string>
#include <string_view>

#include "core/error.h"

namespace bathylux::files {

namespace {

using Encoded = std::span<const std::byte>;

constexpr std::string_view signature = "\x89PNG\r\n\x1a\n";
constexpr std::size_t header_at = 16; // what IHDR holds, behind its length and name

std::uint32_t number_at(Encoded bytes, std::size_t at) {
    std::uint32_t v = 0;
    for (std::size_t i = 0; i < 4; ++i) v = v << 8 | std::to_integer<std::uint32_t>(bytes[at + i]);
    return v;
}

bool is_plain_header(Encoded bytes) {
    const int bits = std::to_integer<int>(bytes[header_at + 8]),
              type = std::to_integer<int>(bytes[header_at + 9]),
              interlaced = std::to_integer<int>(bytes[header_at + 12]);
    return (bits == 8 || bits == 16) && interlaced == 0 &&
           (type == PNG_COLOR_TYPE_GRAY || type == PNG_COLOR_TYPE_RGB || type == PNG_COLOR_TYPE_RGB_ALPHA);
}

/// What reading goes through, where errors jump out of libpng.
struct Reading {
    Encoded bytes;
    std::size_t at = 0;
    png_structp png = nullptr;
    png_infop info = nullptr;
    std::array<char, 128> trouble{};

    explicit Reading(Encoded all) : bytes(all) {
        png = png_create_read_struct(PNG_LIBPNG_VER_STRING, this, &Reading::fail,
                                     [](png_structp, png_const_charp) {});
        if (png) info = png_create_info_struct(png);
        if (!info) throw std::bad_alloc();
        png_set_read_fn(png, this, &Reading::give);
    }
    ~Reading() { png_destroy_read_struct(&png, &info, nullptr); }
    Reading(const Reading&) = delete;
    Reading& operator=(const Reading&) = delete;

    static void fail(png_structp png, png_const_charp why) {
        auto& self = *static_cast<Reading*>(png_get_error_ptr(png));
        std::strncpy(self.trouble.data(), why, self.trouble.size() - 1);
        png_longjmp(png, 1);
    }
    static void give(png_structp png, png_bytep to, std::size_t size) {
        auto& self = *static_cast<Reading*>(png_get_io_ptr(png));
        if (size > self.bytes.size() - self.at) png_error(png, "it ends too early");
        std::memcpy(to, self.bytes.data() + self.at, size);
        self.at += size;
    }
};

// Nothing in these two has to be destroyed where an error jumps over it.
bool begun(Reading& r) {
    if (setjmp(png_jmpbuf(r.png))) return false;
    png_read_info(r.png, r.info);
    if (std::endian::native == std::endian::little && png_get_bit_depth(r.png, r.info) == 16)
        png_set_swap(r.png);
    png_read_update_info(r.png, r.info);
    return true;
}
bool row_read(Reading& r, std::byte* to) {
    if (setjmp(png_jmpbuf(r.png))) return false;
    png_read_row(r.png, reinterpret_cast<png_bytep>(to), nullptr);
    return true;
}

} // namespace

bool is_plain_png(Encoded bytes) {
    if (bytes.size() < header_at + 17 || std::memcmp(bytes.data(), signature.data(), signature.size()) != 0 ||
        std::memcmp(&bytes[12], "IHDR", 4) != 0 || !is_plain_header(bytes))
        return false;
    bool srgb = false, other_color = false;
    for (std::size_t at = signature.size(); at + 12 <= bytes.size();) {
        const std::size_t size = number_at(bytes, at);
        const std::string_view name(reinterpret_cast<const char*>(&bytes[at + 4]), 4);
        if (name == "IDAT") return srgb || !other_color;
        srgb |= name == "sRGB";
        other_color |= name == "gAMA" || name == "cHRM"; // without sRGB they say which it is
        constexpr std::array<std::string_view, 10> harmless{"IHDR", "sRGB", "gAMA", "cHRM", "pHYs",
                                                            "tEXt", "zTXt", "iTXt", "tIME", "bKGD"};
        if (std::find(harmless.begin(), harmless.end(), name) == harmless.end()) return false;
        at += size + 12;
    }
    return false;
}

std::pair<long long, long long> size_of_plain_png(Encoded bytes) {
    return {number_at(bytes, header_at), number_at(bytes, header_at + 4)};
}

Picture read_plain_png(Encoded bytes) {
    Reading reading(bytes);
    const auto refuse = [&] { throw Error(reading.trouble.data()); };
    if (!begun(reading)) refuse();
    Picture out;
    out.width = static_cast<int>(png_get_image_width(reading.png, reading.info));
    out.height = static_cast<int>(png_get_image_height(reading.png, reading.info));
    out.channels = png_get_channels(reading.png, reading.info);
    out.format =
        png_get_bit_depth(reading.png, reading.info) == 16 ? Picture::Format::u16 : Picture::Format::u8;
    const std::size_t row = png_get_rowbytes(reading.png, reading.info);
    out.samples.reserve(row * static_cast<std::size_t>(out.height));
    for (int y = 0; y < out.height; ++y) {
        out.samples.resize(row * (y + 1));
        if (!row_read(reading, &out.samples[row * y])) refuse();
    }
    return out;
}

} // namespace bathylux::files
