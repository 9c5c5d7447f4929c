#pragma once
#include <memory>
#include <vector>

#include "core/step/picture.h"

namespace bathylux {

/// What one press of a brush covers, 0…1, on a square of −1…1 both ways; nothing outside.
class Tip {
  public:
    /// Of a picture, laid into the square: its alpha where some of it is see-through; otherwise its tones,
    /// dark covering where its rim is mostly bright, and bright where that is dark.
    explicit Tip(const Picture& picture);
    /// At a place, for a dab of so many px across: from the halving that has about as many.
    float at(float u, float v, float across) const;

  private:
    struct Level {
        int side = 0;
        std::vector<float> cover;
        float px(int x, int y) const {
            return x < 0 || y < 0 || x >= side || y >= side ? 0.0f
                                                            : cover[static_cast<std::size_t>(y) * side + x];
        }
    };
    std::vector<Level> levels_; // largest first
};

} // namespace bathylux
