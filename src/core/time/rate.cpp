#include "core/time/rate.h"

#include <charconv>
#include <numeric>

namespace bathylux {

std::optional<Rate> rate_from_text(std::string_view text) {
    const auto slash = text.find('/');
    const auto whole = [](std::string_view part) -> std::optional<std::int64_t> {
        std::int64_t n = 0;
        const auto [end, wrong] = std::from_chars(part.data(), part.data() + part.size(), n);
        if (wrong != std::errc() || end != part.data() + part.size() || n < 1 || n > 1'000'000'000)
            return std::nullopt;
        return n;
    };
    const auto frames = whole(text.substr(0, slash));
    const auto seconds =
        slash == std::string_view::npos ? std::optional<std::int64_t>(1) : whole(text.substr(slash + 1));
    if (!frames || !seconds || *frames > 1000 * *seconds || *frames * 1000 < *seconds) return std::nullopt;
    const std::int64_t shared = std::gcd(*frames, *seconds);
    return Rate{*frames / shared, *seconds / shared};
}

std::string to_string(const Rate& rate) {
    return std::to_string(rate.frames) + "/" + std::to_string(rate.seconds);
}

} // namespace bathylux
