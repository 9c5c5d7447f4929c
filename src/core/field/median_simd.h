#pragma once
#include <cstdint>

namespace bathylux {

constexpr int median_classes = 32;

/// A tile ready for its medians: values by place, the class of each, and the members of every class in order
/// of value, by place. Member arrays may be read 64 beyond their end. `Place`: bytes where no side exceeds
/// 255 px.
template <class Place> struct MedianTile {
    int width = 0, height = 0,
        side = 0; // with the rim; side of the window, so that the result is side − 1 less
    const float* values = nullptr;
    const std::uint8_t* classes = nullptr;
    const Place *x = nullptr, *y = nullptr;
    const int* starts = nullptr; // of every class, and the end
};

/// Writes the medians row by row. `Count` holds side². Columns keep cumulative counts of classes, a running
/// sum of them gives the window's.
void median_rows(const MedianTile<std::uint8_t>& tile, float* out, int stride);
void median_rows(const MedianTile<std::uint16_t>& tile, float* out, int stride);

} // namespace bathylux
