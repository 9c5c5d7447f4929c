#include "core/field/srgb.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cstdio>

#include "core/error.h"

namespace bathylux {

namespace {

constexpr int table_size = 4096;

/// Encoded values over √linear, in which the curve is nearly straight.
const std::array<float, table_size + 2> encode_table = [] {
    std::array<float, table_size + 2> t{};
    for (int i = 0; i < table_size + 2; ++i) {
        const double s = static_cast<double>(i) / table_size;
        const double x = s * s;
        t[i] = static_cast<float>(x <= 0.0031308 ? 12.92 * x : 1.055 * std::pow(x, 1 / 2.4) - 0.055);
    }
    return t;
}();

const std::array<float, table_size + 2> decode_table = [] {
    std::array<float, table_size + 2> t{};
    for (int i = 0; i < table_size + 2; ++i) {
        const double y = static_cast<double>(i) / table_size;
        t[i] = static_cast<float>(y <= 0.04045 ? y / 12.92 : std::pow((y + 0.055) / 1.055, 2.4));
    }
    return t;
}();

float look_up(const std::array<float, table_size + 2>& table, float t) {
    const float u = t * table_size;
    const int i = static_cast<int>(u);
    const float f = u - static_cast<float>(i);
    return table[i] + f * (table[i + 1] - table[i]);
}

} // namespace

float fast_srgb_encode(float linear) {
    if (!(linear >= 0 && linear <= 1)) return srgb_encode(linear);
    return look_up(encode_table, std::sqrt(linear));
}

float fast_srgb_decode(float encoded) {
    if (!(encoded >= 0 && encoded <= 1)) return srgb_decode(encoded);
    return look_up(decode_table, encoded);
}

Color in_bytes(const Color& color) {
    const auto byte = [](float v) { return std::round(std::clamp(v, 0.0f, 1.0f) * 255) / 255.0f; };
    return {byte(color.r), byte(color.g), byte(color.b), byte(color.a)};
}

Color parse_color(std::string_view text) {
    const auto bad = [&] {
        return Error(in_quotes(text) + " is not a colour; write it as #rrggbb or #rrggbbaa.");
    };
    if (text.empty() || text[0] != '#') throw bad();
    const std::string_view hex = text.substr(1);
    const bool is_short = hex.size() == 3;
    if (!is_short && hex.size() != 6 && hex.size() != 8) throw bad();
    std::array<float, 4> v{0, 0, 0, 1};
    const std::size_t digits = is_short ? 1 : 2;
    for (std::size_t i = 0; i * digits < hex.size(); ++i) {
        int n = 0;
        const auto part = hex.substr(i * digits, digits);
        const auto [end, ec] = std::from_chars(part.data(), part.data() + part.size(), n, 16);
        if (ec != std::errc() || end != part.data() + part.size() || n < 0) throw bad();
        v[i] = static_cast<float>(is_short ? n * 17 : n) / 255.0f;
    }
    return {v[0], v[1], v[2], v[3]};
}

std::string to_string(const Color& color) {
    const auto byte = [](float v) { return static_cast<int>(std::lround(std::clamp(v, 0.0f, 1.0f) * 255)); };
    char text[16];
    if (byte(color.a) == 255)
        std::snprintf(text, sizeof text, "#%02x%02x%02x", byte(color.r), byte(color.g), byte(color.b));
    else
        std::snprintf(text, sizeof text, "#%02x%02x%02x%02x", byte(color.r), byte(color.g), byte(color.b),
                      byte(color.a));
    return text;
}

} // namespace bathylux
