#pragma once
#include "core/light/shade.h"
#include "core/solid/sheet.h"
#include "core/solid/skin.h"

namespace bathylux {

/// All that a look at a solid is computed from.
struct SolidScene {
    std::shared_ptr<const Skin> skin;
    std::shared_ptr<const TexelMap> texels;
    std::vector<SolidSheet> sheets;         // back to front; none: all of it is lit in one go
    std::shared_ptr<const Skin> solid_skin; // what throws shadow, where that is not the skin
    const Skin& shadows() const { return solid_skin ? *solid_skin : *skin; }
    Bundle bare;       // colour and surface of the body itself: constants
    Lighting lighting; // its lamps in the solid's space, places with y down (see lamp_in_space)
    Camera camera;
    GroundPlane ground;
    double canvas_height = 0; // px a parallel look takes in
};

/// What of the skin is seen through a point of a picture; none where nothing is, or ground before it.
std::optional<Spot> spot_at(const SolidScene& scene, const Sight& sight, double x, double y);

/// Which point of the canvas is seen through every px of a picture: canvas px to the right and down, NaN
/// where none is.
std::array<Plane, 2> canvas_seen(const SolidScene& scene, int width, int height);

/// A lamp of the canvas in the solid's space: what it is on a plane of the canvas's size.
Lamp lamp_in_space(Lamp lamp, double canvas_width, double canvas_height);
/// The same of a lamp that goes with the camera: its place and direction are those it has when the camera
/// stands straight before the canvas.
Lamp lamp_with_camera(Lamp lamp, const Camera& camera);
/// Every direction and place of a lamp moved: `to` moves a place (y up), `turned` turns a direction.
template <class Place, class Turn> Lamp moved(Lamp lamp, Place&& to, Turn&& turned) {
    const auto direction = [&](float x, float y, float z) { return turned(Vec3{x, y, z}); };
    if (lamp.directional) {
        const Vec3 d = direction(lamp.x, lamp.y, lamp.z);
        lamp.x = static_cast<float>(d.x), lamp.y = static_cast<float>(d.y), lamp.z = static_cast<float>(d.z);
        return lamp;
    }
    const Vec3 p = to(Vec3{lamp.x, -lamp.y, lamp.z});
    lamp.x = static_cast<float>(p.x), lamp.y = static_cast<float>(-p.y), lamp.z = static_cast<float>(p.z);
    for (auto* v : {&lamp.axis, &lamp.along}) {
        const Vec3 d = direction((*v)[0], (*v)[1], (*v)[2]);
        *v = {static_cast<float>(d.x), static_cast<float>(d.y), static_cast<float>(d.z)};
    }
    return lamp;
}

/// A picture of a solid that becomes finer with every sample that is added: sums over samples.
class SolidPicture {
  public:
    SolidPicture(int width, int height);
    ~SolidPicture();
    SolidPicture(SolidPicture&&) noexcept;
    SolidPicture& operator=(SolidPicture&&) noexcept;

    /// Adds so many samples to every px. The first goes through the middle of the px; the next are spread
    /// over it, over the lights' bodies, the sky and the lens, each px by a sequence of its own (R2, Roberts
    /// 2018). A px whose mean is known well enough, as those about it are, takes no more (by its standard
    /// error). Throws Cancelled when asked to stop; the picture is of no use then.
    void add(const SolidScene& scene, int count = 1);
    int samples() const { return samples_; }
    int width() const { return width_; }
    int height() const { return height_; }

    /// Linear, premultiplied R, G, B and coverage: lit, and the flat art as it lies there.
    std::array<Plane, 4> lit() const { return mean(0); }
    std::array<Plane, 4> art() const { return mean(3); }
    /// How many samples were taken of each px.
    Plane taken() const;
    /// px from the camera along its axis, infinite where nothing is; of the px' middles.
    Plane depth() const;
    /// Unit normals in the solid's space, 0 where nothing is; of the px' middles.
    std::array<Plane, 3> normals() const;

  private:
    struct Tile;
    struct Kept;
    std::array<Plane, 4> mean(std::size_t first) const;
    template <class Value> Plane plane_of(Value&& value) const;
    int width_, height_, samples_ = 0;
    std::vector<std::unique_ptr<Kept>> kept_; // by tile
};

} // namespace bathylux
