#pragma once
#include <array>
#include <optional>

#include "app/document/desk.h"
#include "core/bend/perspective.h"

namespace bathylux {

/// The corners of an element's box where a perspective step has moved them, canvas px: top left first, round
/// to the right.
struct Corners {
    std::string element, step;
    Perspective now;
    Context context; // at scale 1
    std::array<Vec2, 4> at;

    /// The step with one corner moved to a place; none where that would fold it over.
    std::optional<Perspective> moved(int corner, Vec2 to) const;
};

/// Of the open element's open step, if that is a perspective.
std::optional<Corners> cornersOf(const Desk& desk);

} // namespace bathylux
