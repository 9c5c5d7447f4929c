#pragma once
#include <limits>
#include <memory>
#include <span>

#include "core/solid/camera.h"
#include "core/solid/laying.h"
#include "core/solid/texels.h"

namespace bathylux {

struct TriangleMesh;
struct MeshBody;

/// A place of the skin that a ray met, and what is known of it.
struct Spot {
    Vec3 place;           // on the true relief, finer than the geometry
    Vec3 normal;          // of the true relief, outwards
    Vec3 base_normal;     // of the body under it
    Vec3 met, facet;      // where the geometry was met, and its normal there (outwards)
    bool covered = false; // the canvas lies here
    Vec2 canvas;          // then where on it, canvas px
    Texel texel;          // and what it is like
    int x = 0, y = 0;     // and the px of the relief in which that is
};

/// How the canvas lies on the bare body about a place that a ray met.
struct SkinFrame {
    Vec3 foot, normal;     // on the bare body, and outwards
    Vec3 along_x, along_y; // how a place above it moves with the canvas's px
    bool covered = false;  // the canvas lies here
    Vec2 canvas;
    /// The normal of a relief there that rises so much a px of the canvas (to the right, down).
    Vec3 turned(double slope_x, double slope_y) const;
};

/// Rays side by side that are traced at once.
constexpr int rays_at_once = 8;

constexpr std::size_t most_skin_points = 6'000'000, most_coarse_points = 400'000;

/// A body with a relief on it, as true geometry that rays are traced against.
///
/// The surface is cut into cells of at most `fineness` px; where heights turn sharply, cells are cut again,
/// up to four times finer (never finer than the relief's px). What is finer than that shows in the normals.
/// Neighbouring cells of different fineness share their edge, so that the skin has no gaps.
///
/// What colours lie on it is no matter of the skin: `texels` of its members are any of the heights that it
/// was built of (TexelMap::heights_hash). Rays: Embree (Wald et al. 2014).
class Skin {
  public:
    /// `mesh`: of a body that is one; null where there is none. At most `most_points` points.
    Skin(const Body& body, const TexelMap& texels, double canvas_width, double canvas_height,
         std::shared_ptr<const TriangleMesh> mesh = {}, std::size_t most_points = most_skin_points);
    ~Skin();
    Skin(const Skin&) = delete;
    Skin& operator=(const Skin&) = delete;

    /// Where a ray first meets the skin.
    struct Hit {
        float distance = 0; // along the ray; infinite: nowhere
        unsigned geometry = 0, primitive = 0;
        float u = 0, v = 0;
        Vec3 facet;
    };
    /// Up to rays_at_once rays from `near` on.
    void meet(std::span<const Ray> rays, std::span<Hit> hits) const;
    /// How many of 8 rays are stopped on their way: a bit each. Ends at `far` px.
    unsigned stopped(std::span<const Ray> rays, std::span<const float> far) const;

    /// `px_at_hit`: px that a px of the picture spans there; where that is less than one of the relief, it is
    /// read between its px.
    Spot spot(const TexelMap& texels, const Ray& ray, const Hit& hit, double px_at_hit) const;

    /// How the canvas lies where a ray met the skin, for what lies `height` px above the bare body.
    SkinFrame frame(const Hit& hit, double height) const;

    /// The body without relief, all of it as far out as a place of the relief lies: over that a hand moves
    /// that took hold of the place.
    std::unique_ptr<const Skin> level_with(const Spot& spot, const TexelMap& texels) const;

    /// The u and v that bring the label's middle to where a ray meets the body; none where it meets nothing
    /// or a part no label lies on.
    std::optional<Vec2> uv_under(const Ray& ray) const;

    /// Where a point of the canvas lies on the relief; none for meshes.
    std::optional<Vec3> place_at(const TexelMap& texels, Vec2 canvas) const;
    /// How long the way from one point of the canvas to another is over the relief, straight on the canvas;
    /// px.
    double way_over(const TexelMap& texels, Vec2 from, Vec2 to) const;

    std::size_t points() const { return points_; }
    /// Of its points and what rays are traced in.
    std::size_t bytes() const { return bytes_; }
    const Laying& laying() const { return laying_; }
    const Body& body() const { return body_; }
    /// The box around it all, and whether a ray goes through it before its end (in lengths of `along`).
    std::pair<Vec3, Vec3> bounds() const { return bounds_; }
    bool may_meet(const Ray& ray, double end = std::numeric_limits<double>::infinity()) const;

  private:
    struct Traced;
    struct Block;
    void build_patches(const TexelMap& texels);
    void build_mesh(const TexelMap& texels);
    void read(const TexelMap& texels, Vec2 canvas, double px_at_hit, Spot& spot) const;
    SkinFrame frame_on_mesh(const Hit& hit) const;
    void on_mesh(const TexelMap& texels, const Hit& hit, double px_at_hit, Spot& spot) const;
    Vec3 displaced(const TexelMap& texels, const Patch& patch, const Patch::Turn& turn,
                   const Patch::Profile& profile) const;
    double height_at(const TexelMap& texels, const std::optional<Vec2>& canvas) const;

    Body body_;
    double width_, height_;
    std::shared_ptr<const TriangleMesh> mesh_;
    std::size_t most_points_;
    Laying laying_;
    std::vector<Patch> patches_;
    std::vector<Block> blocks_;
    std::unique_ptr<const MeshBody> own_; // of a body that is a mesh
    std::unique_ptr<Traced> traced_;
    std::size_t points_ = 0, bytes_ = 0;
    std::pair<Vec3, Vec3> bounds_;
};

} // namespace bathylux
