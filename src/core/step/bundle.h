#pragma once
#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string_view>

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
    Field surface_weight = 0.0f; // 0…1, how much the surface counts where elements join

    std::shared_ptr<const Silhouette> silhouette{}; // null: the edge is that of the coverage
    std::shared_ptr<const StoredSamples> stored{};  // null once a step on colour came
    std::optional<Field>
        tone{}; // raw tone of a computed source (noise, pattern); none once a step on colour came
    std::uint64_t coverage_hash = 0; // names the coverage, for what is derived from it

    /// The surface's properties by the names they have in a Surface, in its order.
    static constexpr std::array<std::string_view, 8> surface_names{
        "roughness",      "metallic", "specular",        "coat",
        "coat_roughness", "sheen",    "sheen_roughness", "sheen_tint"};
    std::array<Field*, 8> surface() {
        return {&roughness,      &metallic, &specular,        &coat,
                &coat_roughness, &sheen,    &sheen_roughness, &sheen_tint};
    }
    std::array<const Field*, 8> surface() const {
        return {&roughness,      &metallic, &specular,        &coat,
                &coat_roughness, &sheen,    &sheen_roughness, &sheen_tint};
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

/// Under what circumstances a step is evaluated.
struct Context {
    Region region;     // what is wanted, device px
    Region canvas;     // the whole canvas, device px
    double length = 1; // device px per px of a step's parameters
    double rise = 1;   // factor on a step's heights (a group's scale)
    Edge canvas_edge = Edge::clamp;
    Memo* memo = nullptr;
    Affine to_device = {}; // the element's source px about its centre → device px
    /// Lowest and highest height over the whole canvas of what comes in, for steps that ask for it.
    std::pair<float, float> range{0, 0};
    std::function<const Painting*(std::string_view file)> painting{}; // null where there is none
};

} // namespace bathylux
