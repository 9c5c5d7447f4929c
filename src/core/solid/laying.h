#pragma once
#include <optional>
#include <utility>

#include "core/field/geometry.h"
#include "core/solid/patch.h"

namespace bathylux {

/// How the canvas lies on a body: from places of its surface to points of the canvas, and back.
class Laying {
  public:
    /// `width`, `height`: the canvas's, px.
    Laying(const Body& body, double width, double height);

    /// The point of the canvas that lies at the coordinates (a, b) of a patch; on a label that may be a point
    /// past its edge. None where it never lies.
    std::optional<Vec2> canvas_at(const Patch& patch, double a, double b) const {
        return canvas_at(patch, a, b, body_.kind == BodyKind::sphere ? patch.at(a, b).normal : Vec3());
    }
    /// The same where the bare surface's normal there is known.
    std::optional<Vec2> canvas_at(const Patch& patch, double a, double b, Vec3 normal) const;
    /// How that point moves with a (as a, b) and with b (as c, d): canvas px a px.
    Affine turned(const Patch& patch, double a, double b) const;
    /// The same at a direction from the body's middle, of what is wrapped by longitude and latitude.
    Vec2 canvas_at(Vec3 direction) const;
    /// Whether that point is one of the canvas (always, where it is repeated or the whole skin); then folded
    /// back into it.
    bool on_canvas(Vec2& point) const;

    /// Where a point of the canvas lies on the bare surface, and which way that faces; none for meshes.
    SurfacePoint at(Vec2 canvas) const;

    /// How far a point of the canvas lies from the label's middle, px along the surface.
    Vec2 from_middle(Vec2 canvas) const { return surface(canvas); }

    bool whole() const { return whole_; }
    /// Canvas px a px of the surface: where they lie farthest apart and where closest, on a whole skin about
    /// its middle.
    const std::pair<double, double>& canvas_a_px() const { return canvas_a_px_; }
    /// What becomes of (u, v), for the body's label to come to lie with the middle where that place of the
    /// surface is; px.
    Vec2 uv_at(const Patch& patch, double a, double b) const;

  private:
    Vec2 label(Vec2 surface) const; // px along the surface from the label's middle → canvas px
    Vec2 surface(Vec2 canvas) const;

    Body body_;
    double width_, height_;
    bool whole_;
    std::pair<double, double> canvas_a_px_;
    double around_ = 0;          // px once round; 0: it does not close
    double up_down_ = 0;         // px from top to bottom of what a whole skin covers
    Vec3 middle_, right_, down_; // of a label on a sphere: its middle's direction, and which way it runs
    double cos_ = 1, sin_ = 0;
    std::vector<Patch> patches_;
};

} // namespace bathylux
