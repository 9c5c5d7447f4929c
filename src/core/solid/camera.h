#pragma once
#include "core/solid/body.h"
#include "core/solid/vec3.h"

namespace bathylux {

/// A ray: from `from` along the unit vector `along`.
struct Ray {
    Vec3 from, along;
};

/// A camera in place, ready to look.
class Sight {
  public:
    /// `canvas_height`: px that a parallel look takes in from bottom to top. The picture has `width` ×
    /// `height` px.
    Sight(const Camera& camera, double canvas_height, int width, int height);

    /// Through the picture's point (x, y), px from its top left corner. `lens_x`, `lens_y`: where on the
    /// lens, within the unit disc.
    Ray through(double x, double y, double lens_x = 0, double lens_y = 0) const;
    /// Where a point is seen, px, and as z its depth: px from the camera along its axis. Behind the camera of
    /// a perspective look the depth is negative and the place means nothing.
    Vec3 seen_at(Vec3 point) const;
    double depth(Vec3 point) const { return dot(point - eye_, -towards_); }
    /// px of space that a px of the picture spans at a depth.
    double px_at(double depth) const { return (parallel_ ? 1 : depth) * per_px_; }

    Vec3 eye() const { return eye_; }
    Vec3 right() const { return right_; }
    Vec3 up() const { return up_; }
    Vec3 towards() const { return towards_; } // from what it looks at to the eye
    bool parallel() const { return parallel_; }

  private:
    Vec3 eye_, right_, up_, towards_;
    bool parallel_;
    double per_px_; // of the plane at depth 1 (parallel: any)
    double middle_x_, middle_y_;
    double lens_, focus_;
};

/// The camera's own directions: right, up and towards the eye, unit vectors, its roll included.
struct CameraAxes {
    Vec3 right, up, towards;
};
CameraAxes axes_of(const Camera& camera);

} // namespace bathylux
