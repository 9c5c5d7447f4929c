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

SolidPicture::SolidPicture(int width, int height) : width_(width), height_(height) {
    const int across = (width + block_width - 1) / block_width,
              down = (height + block_height - 1) / block_height;
    kept_.resize(static_cast<std::size_t>(across) * down);
    parallel_rows(0, static_cast<int>(kept_.size()),
                  [&](int i) { kept_[static_cast<std::size_t>(i)] = std::make_unique<Kept>(); });
}
SolidPicture::~SolidPicture() = default;
SolidPicture::SolidPicture(SolidPicture&&) noexcept = default;
SolidPicture& SolidPicture::operator=(SolidPicture&&) noexcept = default;

void SolidPicture::add(const SolidScene& scene, int count) {
    const Sight sight(scene.camera, scene.canvas_height, width_, height_);
    const Floor floor(scene);
    const int across = (width_ + block_width - 1) / block_width;
    parallel_rows(0, static_cast<int>(kept_.size()), [&](int number) {
        Kept& kept = *kept_[static_cast<std::size_t>(number)];
        if (samples_ > 0 && kept.taking.empty()) return;
        const int x = number % across * block_width, y = number / across * block_height;
        const Region r{x, y, std::min(width_, x + block_width), std::min(height_, y + block_height)};
        if (kept.seen.size() < scene.lighting.lamps.size()) kept.seen.resize(scene.lighting.lamps.size());
        const auto tile = std::make_unique<Tile>(scene, sight, floor, kept, r);
        for (int i = 0; samples_ == 0 && i < block_area; ++i)
            if (tile->x_of(i) < r.x1 && tile->y_of(i) < r.y1) kept.taking.push_back(i);
        for (int s = 0; s < count; ++s) tile->sample(samples_ + s);
    });
    samples_ += count;
}

template <class Value> Plane SolidPicture::plane_of(Value&& value) const {
    Plane out(width_, height_);
    const int across = (width_ + block_width - 1) / block_width;
    parallel_rows(0, height_, [&](int y) {
        const std::unique_ptr<Kept>* tile = &kept_[static_cast<std::size_t>(y / block_height) * across];
        float* row = out.row(y);
        for (int x = 0; x < width_; x += block_width, ++tile)
            for (int i = 0; i < std::min(block_width, width_ - x); ++i)
                row[x + i] = value(**tile, y % block_height * block_width + i);
    });
    return out;
}

Plane SolidPicture::taken() const {
    return plane_of([](const Kept& k, int i) { return k.taken[i]; });
}
Plane SolidPicture::depth() const {
    return plane_of([](const Kept& k, int i) { return k.depth[i]; });
}
std::array<Plane, 3> SolidPicture::normals() const {
    const auto one = [&](std::size_t c) {
        return plane_of([&](const Kept& k, int i) { return k.normals[c][i]; });
    };
    return {one(0), one(1), one(2)};
}

std::array<Plane, 4> SolidPicture::mean(std::size_t first) const {
    const auto one = [&](std::size_t sum) {
        return plane_of([&](const Kept& k, int i) { return k.sums[sum][i] / std::max(1.0f, k.taken[i]); });
    };
    return {one(first), one(first + 1), one(first + 2), one(6)};
}

} // namespace bathylux
