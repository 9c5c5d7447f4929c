#pragma once
#include <functional>
#include <iosfwd>
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

/// Renders every demo piece at twice its size, asks it to stop again and again, sooner and later, and tells
/// how long the slowest went on, in ms.
double slowest_stop(const std::string& demo_folder,
                    std::ostream* tell = nullptr); // `tell` hears of every one

/// What the frames of a piece cost one after the other, and what one costs beside one that was made, the mean
/// of every eighth. Writing them as a film is not in it.
struct FilmCost {
    int frames = 0;
    double all_ms = 0, moving_ms = 0;
    double ratio() const { return all_ms / (frames * moving_ms); }
};
FilmCost film_cost(const std::string& piece);

/// How the cost of light grows with lights, pixels and cores, as tables in Markdown.
std::string growth_table();

} // namespace bathylux
