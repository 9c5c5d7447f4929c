#pragma once
#include <functional>
#include <string>
#include <vector>

namespace bathylux {

/// One piece of work to be timed, and how many yardsticks it may take.
struct Case {
    std::string name;
    double target; // in units of the yardstick
    std::function<void()> run;
};

/// The yardstick: OpenCV's GaussianBlur, σ = 5, one float channel, 1920 × 1080.
std::function<void()> yardstick();
/// Work of the core at 1920 × 1080, ready to run again and again.
std::vector<Case> core_cases();

/// How the cost of light grows with lights, pixels and cores, as tables in Markdown.
std::string growth_table();

} // namespace bathylux
