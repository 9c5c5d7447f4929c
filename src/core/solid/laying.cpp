#include "core/solid/laying.h"

#include <algorithm>

namespace bathylux {

namespace {
/// a brought to within half a period of 0.
double nearest_round(double a, double period) { return a - period * std::round(a / period); }
} // namespace

Laying::Laying(const Body& body, double width, double height)
    : body_(body.as_it_counts()), width_(width), height_(height), whole_(body.is_whole()),
      cos_(std::cos(body.turn * radians_per_degree)), sin_(std::sin(body.turn * radians_per_degree)),
      patches_(patches_of(body, width, height)) {
    if (body.kind == BodyKind::cylinder) around_ = 2 * half_circle * body.radius;
    if (body.kind == BodyKind::box || body.kind == BodyKind::cylinder)
        for (const Patch& p : patches_) {
            // Once round, and from the top of the sides to their foot, edges and all.
            if (p.bare || (p.flat && std::abs(p.outward.y) > 0.5)) continue;
            if (body.kind == BodyKind::box && std::abs(p.b0 + p.b1) < 1e-9) around_ += p.a1 - p.a0;
            up_down_ = std::max(up_down_, 2 * std::max(std::abs(p.b0), std::abs(p.b1)));
        }
    if (body.kind == BodyKind::sphere || body.kind == BodyKind::mesh) {
        const double lon = body.u / body.radius, lat = -body.v / body.radius;
        middle_ = {std::sin(lon) * std::cos(lat), std::sin(lat), std::cos(lon) * std::cos(lat)};
        right_ = {std::cos(lon), 0, -std::sin(lon)};
        down_ = cross(right_, middle_);
    }
    const double across = whole_ ? width_ / (around_ > 0 ? around_ : 2 * half_circle * body_.radius)
                                 : 1 / (double(body_.scale) * body_.scale_u),
                 down = whole_ ? height_ / (up_down_ > 0 ? up_down_ : half_circle * body_.radius)
                               : 1 / (double(body_.scale) * body_.scale_v);
    canvas_a_px_ = std::minmax(across, down);
}

Vec2 Laying::label(Vec2 s) const {
    // Turned counter-clockwise, its own u axis points along (cos, −sin).
    const double x = cos_ * s.x - sin_ * s.y, y = sin_ * s.x + cos_ * s.y;
    return {width_ / 2 + x / (double(body_.scale) * body_.scale_u),
            height_ / 2 + y / (double(body_.scale) * body_.scale_v)};
}

Vec2 Laying::surface(Vec2 c) const {
    const double x = (c.x - width_ / 2) * body_.scale * body_.scale_u,
                 y = (c.y - height_ / 2) * body_.scale * body_.scale_v;
    return {cos_ * x + sin_ * y, -sin_ * x + cos_ * y};
}

Vec2 Laying::canvas_at(Vec3 d) const {
    const double z = dot(d, middle_), x = dot(d, right_), y = dot(d, down_), across = std::hypot(x, y);
    if (!whole_) {
        // Azimuthal-equidistant: distances and directions from the middle are true.
        const double k = across > 0 ? body_.radius * std::atan2(across, z) / across : 0;
        return label({k * x, k * y});
    }
    const double tx = cos_ * x - sin_ * y, ty = sin_ * x + cos_ * y;
    return {width_ * (0.5 + std::atan2(tx, z) / (2 * half_circle)),
            height_ * (0.5 + std::atan2(ty, std::hypot(tx, z)) / half_circle)};
}

std::optional<Vec2> Laying::canvas_at(const Patch& patch, double a, double b, Vec3 normal) const {
    if (patch.bare) return std::nullopt;
    if (body_.kind == BodyKind::sphere) return canvas_at(normal);
    if (whole_) {
        if (patch.flat && std::abs(patch.outward.y) > 0.5) return std::nullopt; // a box's top and bottom
        return Vec2{width_ * (0.5 + (a - body_.u) / around_), height_ * (0.5 + (b - body_.v) / up_down_)};
    }
    double s = a - body_.u;
    if (around_ > 0) s = nearest_round(s, around_);
    return label({s, b - body_.v});
}

Affine Laying::turned(const Patch& patch, double a, double b) const {
    if (patch.bare) return {0, 0, 0, 0, 0, 0};
    if (body_.kind == BodyKind::sphere) {
        constexpr double e = 0.02;                // px
        const auto across = [&](Vec2 p, Vec2 q) { // over the join of a whole skin
            Vec2 d = q - p;
            if (whole_) d.x = nearest_round(d.x, width_);
            return (0.5 / e) * d;
        };
        const Vec2 x = across(*canvas_at(patch, a - e, b), *canvas_at(patch, a + e, b)),
                   y = across(*canvas_at(patch, a, b - e), *canvas_at(patch, a, b + e));
        return {x.x, x.y, y.x, y.y, 0, 0};
    }
    if (whole_) return {width_ / around_, 0, 0, height_ / up_down_, 0, 0};
    const double u = 1 / (double(body_.scale) * body_.scale_u), v = 1 / (double(body_.scale) * body_.scale_v);
    return {u * cos_, v * sin_, -u * sin_, v * cos_, 0, 0};
}

bool Laying::on_canvas(Vec2& p) const {
    if (whole_ || body_.repeat) {
        p.x -= width_ * std::floor(p.x / width_);
        if (body_.repeat) p.y -= height_ * std::floor(p.y / height_);
        return p.y >= 0 && p.y <= height_;
    }
    return p.x >= 0 && p.y >= 0 && p.x <= width_ && p.y <= height_;
}

Vec2 Laying::uv_at(const Patch& patch, double a, double b) const {
    if (body_.kind != BodyKind::sphere) return {a, b};
    const Vec3 n = patch.at(a, b).normal;
    return {body_.radius * std::atan2(n.x, n.z), -body_.radius * std::asin(std::clamp(n.y, -1.0, 1.0))};
}

SurfacePoint Laying::at(Vec2 canvas) const {
    if (body_.kind == BodyKind::sphere) {
        Vec3 d;
        if (whole_) {
            const double lon = (canvas.x / width_ - 0.5) * 2 * half_circle,
                         lat = (canvas.y / height_ - 0.5) * half_circle;
            const double tx = std::sin(lon) * std::cos(lat), ty = std::sin(lat);
            d = (cos_ * tx + sin_ * ty) * right_ + (-sin_ * tx + cos_ * ty) * down_ +
                (std::cos(lon) * std::cos(lat)) * middle_;
        } else {
            const Vec2 s = surface(canvas);
            const double far = length(s), t = far / body_.radius;
            d = std::cos(t) * middle_;
            if (far > 0) d = d + (std::sin(t) / far) * (s.x * right_ + s.y * down_);
        }
        // By longitude and latitude it is the only patch there is.
        return patches_[0].at(body_.radius * std::atan2(d.x, d.z),
                              -body_.radius * std::asin(std::clamp(d.y, -1.0, 1.0)));
    }
    Vec2 s = whole_ ? Vec2{(canvas.x / width_ - 0.5) * around_, (canvas.y / height_ - 0.5) * up_down_}
                    : surface(canvas);
    s = s + Vec2{body_.u, body_.v};
    if (patches_.empty()) return {};
    const Patch* best = &patches_[0];
    double least = 1e300;
    double a = s.x, b = s.y;
    for (const Patch& p : patches_) {
        if (p.bare) continue;
        double at = s.x;
        if (around_ > 0 && !(p.flat && std::abs(p.outward.y) > 0.5)) {
            const double middle = (p.a0 + p.a1) / 2;
            at = middle + nearest_round(s.x - middle, around_);
        }
        const double x = std::clamp(at, p.a0, p.a1), y = std::clamp(s.y, p.b0, p.b1);
        const double off = std::hypot(x - at, y - s.y);
        if (off < least) least = off, best = &p, a = x, b = y;
    }
    // A plane goes on past its edge.
    return body_.kind == BodyKind::plane ? best->at(s.x, s.y) : best->at(a, b);
}

} // namespace bathylux
