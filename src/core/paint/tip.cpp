#include "core/paint/tip.h"

#include <algorithm>
#include <cmath>

namespace bathylux {

Tip::Tip(const Picture& picture) {
    constexpr int most = 512;
    const int w = picture.width, h = picture.height, longer = std::max(w, h);
    const auto tone = [&](int x, int y) {
        if (picture.channels < 3) return picture.stored(x, y, 0);
        return luma_r * picture.stored(x, y, 0) + luma_g * picture.stored(x, y, 1) +
               luma_b * picture.stored(x, y, 2);
    };
    double rim = 0;
    for (int x = 0; x < w; ++x) rim += tone(x, 0) + tone(x, h - 1);
    for (int y = 0; y < h; ++y) rim += tone(0, y) + tone(w - 1, y);
    const bool dark_covers = rim > 0.5 * 2 * (w + h);
    const auto cover = [&](int x, int y) {
        if (picture.is_transparent()) return picture.stored(x, y, picture.channels - 1);
        return std::clamp(dark_covers ? 1 - tone(x, y) : tone(x, y), 0.0f, 1.0f);
    };
    Level whole;
    whole.side = std::min(most, longer);
    whole.cover.resize(static_cast<std::size_t>(whole.side) * whole.side);
    const double step = static_cast<double>(longer) / whole.side;
    for (int y = 0; y < whole.side; ++y)
        for (int x = 0; x < whole.side; ++x) {
            // The mean of what falls into a px, the picture in the middle of the square.
            const double left = x * step - (longer - w) / 2.0, top = y * step - (longer - h) / 2.0;
            double sum = 0;
            int n = 0;
            for (int j = static_cast<int>(std::floor(top)); j < std::max(top + step, std::floor(top) + 1);
                 ++j)
                for (int i = static_cast<int>(std::floor(left));
                     i < std::max(left + step, std::floor(left) + 1); ++i, ++n)
                    if (i >= 0 && j >= 0 && i < w && j < h) sum += cover(i, j);
            whole.cover[static_cast<std::size_t>(y) * whole.side + x] =
                n > 0 ? static_cast<float>(sum / n) : 0.0f;
        }
    levels_.push_back(std::move(whole));
    while (levels_.back().side > 4) {
        const Level& from = levels_.back();
        Level half;
        half.side = (from.side + 1) / 2;
        for (int y = 0; y < half.side; ++y)
            for (int x = 0; x < half.side; ++x)
                half.cover.push_back(0.25f * (from.px(2 * x, 2 * y) + from.px(2 * x + 1, 2 * y) +
                                              from.px(2 * x, 2 * y + 1) + from.px(2 * x + 1, 2 * y + 1)));
        levels_.push_back(std::move(half));
    }
}

float Tip::at(float u, float v, float across) const {
    if (!(std::abs(u) <= 1 && std::abs(v) <= 1)) return 0;
    std::size_t level = 0;
    while (level + 1 < levels_.size() && static_cast<float>(levels_[level + 1].side) >= across) ++level;
    const Level& l = levels_[level];
    const auto n = static_cast<float>(l.side);
    const float x = (u + 1) / 2 * n - 0.5f, y = (v + 1) / 2 * n - 0.5f;
    const int i = static_cast<int>(std::floor(x)), j = static_cast<int>(std::floor(y));
    const float a = x - static_cast<float>(i), b = y - static_cast<float>(j);
    return (1 - b) * ((1 - a) * l.px(i, j) + a * l.px(i + 1, j)) +
           b * ((1 - a) * l.px(i, j + 1) + a * l.px(i + 1, j + 1));
}

} // namespace bathylux
