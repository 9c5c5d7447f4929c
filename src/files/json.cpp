#include "files/json.h"

#include <charconv>
#include <cmath>

namespace bathylux::files {

double number(double value) {
    if (value == std::round(value)) return value;
    char digits[32];
    const auto end = std::to_chars(digits, digits + sizeof digits, static_cast<float>(value)).ptr;
    double shortest = value;
    std::from_chars(digits, end, shortest);
    return static_cast<float>(shortest) == static_cast<float>(value) ? shortest : value;
}

} // namespace bathylux::files
