#pragma once
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace bathylux {

/// Frames a second as a fraction, so that odd rates are met exactly.
struct Rate {
    std::int64_t frames = 24, seconds = 1; // so many in so many; both at least 1

    double a_second() const { return static_cast<double>(frames) / static_cast<double>(seconds); }
    friend bool operator==(const Rate&, const Rate&) = default;
};

/// "24/1", "24000/1001", "25"; none where it is nothing like that, below one frame in 1000 s or over 1000 a
/// second.
std::optional<Rate> rate_from_text(std::string_view text);
std::string to_string(const Rate& rate);

/// How a piece runs.
struct Timing {
    Rate rate{};
    int frames = 96;
    bool loop = true; // when played
    friend bool operator==(const Timing&, const Timing&) = default;
};
constexpr int most_frames = 1'000'000;

} // namespace bathylux
