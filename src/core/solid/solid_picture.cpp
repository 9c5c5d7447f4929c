#include "core/solid/solid_picture.h"

#include "core/field/parallel.h"
#include "core/solid/solid_tile.h"

namespace bathylux {

using namespace solid_tile;

std::optional<Spot> spot_at(const SolidScene& scene, const Sight& sight, double x, double y) {
    const Ray ray = sight.through(x, y);
    Skin::Hit hit;
    scene.skin->meet({&ray, 1}, {&hit, 1});
    if (!std::isfinite(hit.distance)) return std::nullopt;
    return scene.skin->spot(*scene.texels, ray, hit,
                            sight.px_at(sight.depth(ray.from + double(hit.distance) * ray.along)));
}

std::array<Plane, 2> canvas_seen(const SolidScene& scene, int width, int height) {
    constexpr float none = std::numeric_limits<float>::quiet_NaN();
    std::array<Plane, 2> out{Plane(width, height, none), Plane(width, height, none)};
    const Sight sight(scene.camera, scene.canvas_height, width, height);
    parallel_rows(0, height, [&](int y) {
        for (int x = 0; x < width; ++x)
            if (const auto spot = spot_at(scene, sight, x + 0.5, y + 0.5); spot && spot->covered) {
                out[0](x, y) = static_cast<float>(spot->canvas.x);
                out[1](x, y) = static_cast<float>(spot->canvas.y);
            }
    });
    return out;
}

Lamp lamp_in_space(Lamp lamp, double w, double h) {
    if (!lamp.directional) lamp.x -= static_cast<float>(w / 2), lamp.y -= static_cast<float>(h / 2);
    return lamp;
}

Lamp lamp_with_camera(Lamp lamp, const Camera& camera) {
    const CameraAxes axes = axes_of(camera);
    const Vec3 at{camera.x, camera.y, camera.z};
    const auto turned = [&](Vec3 v) { return v.x * axes.right + v.y * axes.up + v.z * axes.towards; };
    return moved(
        lamp, [&](Vec3 p) { return at + turned(p); }, turned);
}

SolidPicture::SolidPicture(int width, int height)
    : width_(width), height_(height), taken_(width, height, 0), least_(width, height, 0),
      most_(width, height, 0), times_(width, height, 0), depth_(width, height, never_met) {
    for (Plane& p : sums_) p = Plane(width, height, 0);
    for (Plane& p : normals_) p = Plane(width, height, 0);
}

void SolidPicture::add(const SolidScene& scene, int count) {
    if (open_.width() == 0 && hides_sky(scene.lighting))
        open_ = Plane(width_, height_, 0), open_rays_ = Plane(width_, height_, 0);
    while (seen_.size() < scene.lighting.lamps.size()) seen_.emplace_back(width_, height_, 0.0f);
    const Sight sight(scene.camera, scene.canvas_height, width_, height_);
    const Floor floor(scene);
    const int across = (width_ + block_width - 1) / block_width,
              down = (height_ + block_height - 1) / block_height;
    taking_.resize(static_cast<std::size_t>(across) * down);
    parallel_rows(0, across * down, [&](int i) {
        std::vector<int>& taking = taking_[static_cast<std::size_t>(i)];
        if (samples_ > 0 && taking.empty()) return;
        const int x = i % across * block_width, y = i / across * block_height;
        const Region r{x, y, std::min(width_, x + block_width), std::min(height_, y + block_height)};
        const auto tile = std::make_unique<Tile>(scene, sight, floor, *this, r);
        for (int p = 0; samples_ == 0 && p < block_area; ++p)
            if (tile->x_of(p) < r.x1 && tile->y_of(p) < r.y1) taking.push_back(p);
        tile->taking = std::move(taking);
        for (int s = 0; s < count; ++s) tile->sample(samples_ + s);
        taking = std::move(tile->taking);
    });
    samples_ += count;
}

std::array<Plane, 4> SolidPicture::mean(int first) const {
    std::array<Plane, 4> out;
    for (int c = 0; c < 4; ++c) {
        const Plane& from = sums_[c < 3 ? first + c : 6];
        out[c] = Plane(width_, height_);
        parallel_rows(0, height_, [&](int y) {
            for (int x = 0; x < width_; ++x) out[c](x, y) = from(x, y) / std::max(1.0f, taken_(x, y));
        });
    }
    return out;
}

} // namespace bathylux
