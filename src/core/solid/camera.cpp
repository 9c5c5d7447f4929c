#include "core/solid/camera.h"

#include "core/field/geometry.h"

namespace bathylux {

CameraAxes axes_of(const Camera& c) {
    const double t = c.turn * radians_per_degree, e = c.tilt * radians_per_degree,
                 r = c.roll * radians_per_degree;
    const Vec3 towards{std::sin(t) * std::cos(e), std::sin(e), std::cos(t) * std::cos(e)};
    const Vec3 right{std::cos(t), 0, -std::sin(t)};
    const Vec3 up = cross(towards, right);
    // The picture turns counter-clockwise when the camera turns the other way.
    return {std::cos(r) * right - std::sin(r) * up, std::sin(r) * right + std::cos(r) * up, towards};
}

Sight::Sight(const Camera& c, double canvas_height, int width, int height)
    : parallel_(c.field <= 0), middle_x_(width / 2.0), middle_y_(height / 2.0), lens_(c.lens / 2),
      focus_(c.focus > 0 ? c.focus : c.distance) {
    const CameraAxes axes = axes_of(c);
    right_ = axes.right, up_ = axes.up, towards_ = axes.towards;
    eye_ = Vec3{c.x, c.y, c.z} + c.distance * towards_;
    const double high = parallel_ ? canvas_height : 2 * std::tan(c.field * radians_per_degree / 2);
    per_px_ = high / height;
}

Ray Sight::through(double x, double y, double lens_x, double lens_y) const {
    const double sx = (x - middle_x_) * per_px_, sy = (middle_y_ - y) * per_px_;
    const Vec3 aside = sx * right_ + sy * up_;
    Ray ray = parallel_ ? Ray{eye_ + aside, -towards_} : Ray{eye_, normalized(aside - towards_)};
    if (lens_ > 0) {
        // All rays through a px meet in the plane of focus.
        const Vec3 sharp = ray.from + (focus_ / dot(ray.along, -towards_)) * ray.along;
        ray.from = ray.from + lens_ * (lens_x * right_ + lens_y * up_);
        ray.along = normalized(sharp - ray.from);
    }
    return ray;
}

Vec3 Sight::seen_at(Vec3 point) const {
    const Vec3 from = point - eye_;
    const double depth = dot(from, -towards_), k = 1 / ((parallel_ ? 1 : depth) * per_px_);
    return {middle_x_ + k * dot(from, right_), middle_y_ - k * dot(from, up_), depth};
}

} // namespace bathylux
