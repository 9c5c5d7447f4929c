#pragma once
#include <array>
#include <optional>

#include "core/render/scene.h"

namespace bathylux {

/// The frame round what is chosen, and what dragging its handles means. All in canvas px.
///
/// One element has a frame that turns with it; several have an upright one round them all.
struct Placing {
    struct Part {
        std::string id;
        Placement placement;
        Affine parent; // the parent's px → canvas px
    };
    std::vector<Part> parts;
    Affine frame; // the unit square about its middle (−1…1) → canvas px
    bool single = false;

    bool empty() const { return parts.empty(); }
    Vec2 centre() const { return frame({0, 0}); }
    /// Handles: 0–7 clockwise from the upper left corner (even: corners, odd: sides), 8: turning.
    Vec2 handle(int i, double turnDistance) const;
    Box bounds() const;
};

Placing placing_of(const Scene& scene, const std::vector<std::string>& ids);

/// Placements after a move by (dx, dy).
std::vector<Placement> moved(const Placing& p, Vec2 by);
/// After a turn of `angle` degrees (counter-clockwise as seen) about a pivot.
std::vector<Placement> turned(const Placing& p, double angle, Vec2 pivot);
/// After dragging a handle to a place; `locked` keeps the proportion, `centred` scales about the middle.
std::vector<Placement> scaled(const Placing& p, int handle, Vec2 to, bool locked, bool centred);
/// Mirrored within its frame, left and right or top and bottom changing places.
std::vector<Placement> flipped(const Placing& p, bool across);

enum class AlignTo { left, centre, right, top, middle, bottom };
/// Each part by itself set against a box, by its own extent.
std::vector<Placement> aligned(const Placing& p, const std::vector<Box>& extents, const Box& to, AlignTo how);

} // namespace bathylux
