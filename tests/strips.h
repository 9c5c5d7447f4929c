#pragma once
// Views beside one another.
#include <span>

#include "core/render/views.h"

namespace bathylux {

/// Where `part` is not bit for bit what `whole` says there; "" for nowhere. `views`: what each strip is of.
std::string differs(std::span<const View> views, const std::vector<Strip>& whole,
                    const std::vector<Strip>& part);
/// Where one is no number; "" for nowhere.
std::string not_finite(std::span<const View> views, const std::vector<Strip>& strips);
/// On how much of a region two fields are a hundredth of all there is apart, `second` so many times as much.
double share_apart(const Field& first, const Field& second, Region r, double times);
/// The view that is another on more than `most` of it, heights so many times as high; "" for none.
std::string apart(std::span<const View> views, const std::vector<Strip>& was, const std::vector<Strip>& is,
                  double most, double times = 1);
/// What is far away stands in the way of a tile's light more coarsely (see test_light): without that a tile
/// is as the whole.
Piece without_shadows(Piece piece);

} // namespace bathylux
