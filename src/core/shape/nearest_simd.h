#pragma once
#include <cstdint>
#include <span>

namespace bathylux {

/// A chord from (ax, ay) along (dx, dy), with 1 ÷ its squared length (0 for a point).
struct ChordLine {
    float ax, ay, dx, dy, inverse_length2;
};

/// For the points (x + i, y), i = 0 … distance.size() − 1 (a multiple of 16): the distance to the nearest
/// chord and that chord's index. `chords` must not be empty; both outputs 64-byte aligned.
void nearest_chords(std::span<const ChordLine> chords, float x, float y, std::span<float> distance,
                    std::span<std::int32_t> nearest);

} // namespace bathylux
