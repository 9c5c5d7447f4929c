#pragma once
#include <cstdint>

namespace bathylux {

constexpr int median_classes = 128;

// The vector loops of median(); counts are cumulative over classes.

/// column[b] += (b ≥ enters) − (b ≥ leaves).
void exchange_in_column(std::uint16_t* column, int enters, int leaves);
/// sum[b] += add[b] − subtract[b].
void slide_window(std::uint32_t* sum, const std::uint16_t* add, const std::uint16_t* subtract);
/// Index of the n-th (from 0) of `count` members that lies in the window [x0, x1] × [y0, y1].
int nth_in_window(const std::int16_t* x, const std::int16_t* y, int count, int x0, int x1, int y0, int y1,
                  int n);

} // namespace bathylux
