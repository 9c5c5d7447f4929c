#pragma once
#include <cstdint>

namespace bathylux {

/// So many places of no consequence stand before and behind the lists by rank, for vectors that reach beyond.
constexpr int median_margin = 128;

/// A tile ready for its medians: the rank of every place among all, along rows and along columns, counted up
/// from the least number there is; and by rank the values and places. `Rank`: 16 bits where the tile has no
/// more than 65 536 px; `Place`: bytes where no side exceeds 255.
template <class Rank, class Place> struct MedianTile {
    int width = 0, height = 0; // with the rim
    int side = 0;              // of the window, so that the result is side − 1 less
    const Rank *by_row = nullptr, *by_column = nullptr; // readable 64 beyond their end
    const float* values = nullptr;
    const Place *x = nullptr, *y = nullptr;
};

/// Writes the medians row by row.
void median_rows(const MedianTile<std::int16_t, std::uint8_t>& tile, float* out, int stride);
void median_rows(const MedianTile<std::int32_t, std::uint16_t>& tile, float* out, int stride);

} // namespace bathylux
