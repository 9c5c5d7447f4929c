#pragma once
#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string_view>
#include <vector>

#include "core/field/plane.h"
#include "core/shape/coverage.h"
#include "core/step/channels.h"
#include "core/step/picture.h"

namespace bathylux {

/// The exact edge of an element, kept for as long as no step changes the shape. Coordinates are device
/// px; made from an outline when there is one.
struct Silhouette {
    Polyline fill; // flattened outline, for coverage and inside tests
    Polyline edge; // only what parts inside from outside
    std::uint64_t hash = 0;
};

/// Where a picture source's stored samples lie, for steps that read tones as stored.
struct StoredSamples {
    std::shared_ptr<const Picture> picture;
    Affine to_picture; // device px → picture px
    Edge edge = Edge::none;
};

/// What flows up the tree: colour, height, coverage and surface over a region.
struct Bundle {
    Region region;                // device px; every plane has its size
    std::array<Field, 3> color{}; // linear Rec. 709, premultiplied by coverage
    Field coverage = 0.0f;        // 0…1
    bool gives_height = false;
    Field height = 0.0f; // canvas px, positive towards the viewer
    Field weight = 0.0f; // 0…1, how much the height counts where elements join
    // The surface (see Surface), each 0…1.
    Field roughness = 0.5f, metallic = 0.0f, specular = 1.0f;
    Field coat = 0.0f, coat_roughness = 0.1f, sheen = 0.0f, sheen_roughness = 0.5f, sheen_tint = 0.5f;
    Field transmission = 0.0f, ior = 1.5f, thickness = 0.0f, attenuation_distance = 0.0f; // px, but for ior
    std::array<Field, 3> attenuation{1.0f, 1.0f, 1.0f};                                   // linear colour
    Field surface_weight = 0.0f; // 0…1, how much the surface counts where elements join
    Field worn = 0.0f;           // 0…1, what wear took, of what was there

    std::shared_ptr<const Silhouette> silhouette{}; // null: the edge is that of the coverage
    std::shared_ptr<const StoredSamples> stored{};  // null once a step on colour came
    std::optional<Field>
        tone{}; // raw tone of a computed source (noise, pattern); none once a step on colour came
    std::uint64_t coverage_hash = 0; // names the coverage, for what is derived from it

    /// The surface's properties by the names they have in a Surface, in its order.
    static constexpr std::array<std::string_view, 12> surface_names{
        "roughness",       "metallic",   "specular",     "coat", "coat_roughness", "sheen",
        "sheen_roughness", "sheen_tint", "transmission", "ior",  "thickness",      "attenuation_distance"};
    /// Those, and behind them the three of the attenuation's colour.
    std::array<Field*, 15> surface() { return all_of<Field>(*this); }
    std::array<const Field*, 15> surface() const { return all_of<const Field>(*this); }

  private:
    template <class F, class B> static std::array<F*, 15> all_of(B& b) {
        return {&b.roughness,       &b.metallic,
                &b.specular,        &b.coat,
                &b.coat_roughness,  &b.sheen,
                &b.sheen_roughness, &b.sheen_tint,
                &b.transmission,    &b.ior,
                &b.thickness,       &b.attenuation_distance,
                &b.attenuation[0],  &b.attenuation[1],
                &b.attenuation[2]};
    }
};

/// Something kept, and how many bytes it takes.
struct Kept {
    std::shared_ptr<const void> what;
    std::size_t bytes = 0;
};

/// Keeps what is costly to make (distance fields, outlines on their grid) from one evaluation to the next, by
/// a hash of all it depends on.
class Memo {
  public:
    virtual ~Memo() = default;
    /// What was kept under that key, or what `make` makes now.
    virtual std::shared_ptr<const void> kept(std::uint64_t key, const std::function<Kept()>& make) = 0;

    std::shared_ptr<const Plane> plane(std::uint64_t key, const std::function<Plane()>& make) {
        return std::static_pointer_cast<const Plane>(kept(key, [&] {
            auto made = std::make_shared<const Plane>(make());
            const std::size_t bytes = made->bytes();
            return Kept{std::move(made), bytes};
        }));
    }
};

class Painting;

/// What a step reads off an element by a map of its own: a number, or two, in the map's window; straight, and
/// how far there is anything.
struct MapField {
    Region region;
    Field x = 0.0f, y = 0.0f, cover = 0.0f;
};

/// Under what circumstances a step is evaluated.
struct Context {
    Region region;     // what is wanted, device px
    Region canvas;     // the whole canvas, device px
    double length = 1; // device px per px of a step's parameters
    double rise = 1;   // factor on a step's heights (a group's scale)
    double scale = 1;  // device px per canvas px
    Edge canvas_edge = Edge::clamp;
    Memo* memo = nullptr;
    Affine to_device = {}; // the element's source px about its centre → device px
    /// The element's box, about its centre, and where it lies: px of its source → device px. The canvas's for
    /// what fills it, and behind the light.
    Box box{};
    Affine box_to_device = {};
    bool unclamped = false; // the picture is lit: colours go on past 1, and are not held
    /// Lowest and highest height over the whole canvas of what comes in, for steps that ask for it.
    std::pair<float, float> range{0, 0};
    std::function<const Painting*(std::string_view file)> painting{}; // null where there is none

    // For steps that look for themselves (StepKind::looks):
    /// What comes in over a region of the plane, or over the part of it where there can be anything.
    std::function<Bundle(Region)> below{};
    Region below_extent{}; // where there can be anything
    /// What is read by its map parameters, in their order, over a region; null where nothing is.
    std::vector<std::function<MapField(Region)>> maps{};
    std::uint64_t reads_hash = 0; // names what comes in, what its maps read, and where it lies
};

} // namespace bathylux
