#include "core/solid/skin.h"

#include <embree3/rtcore.h>

#include <algorithm>
#include <atomic>
#include <cstring>
#include <limits>

#include "core/error.h"
#include "core/field/parallel.h"
#include "core/solid/mesh_body.h"

namespace bathylux {

namespace {

constexpr int cells_of_block = 16;            // a side
constexpr int finest = 2;                     // how often a cell may be halved
constexpr std::size_t level_points = 100'000; // of a body without relief, that nobody sees
constexpr float bend_allowed = 0.08f; // px that the geometry may lie off the relief before it is cut finer

std::atomic<std::ptrdiff_t> held_for_rays = 0; // bytes, of all skins

RTCDevice device() {
    // One for the whole program, and never given back: scenes of other threads may outlive any other owner.
    static const RTCDevice made = [] {
        const RTCDevice d = rtcNewDevice("threads=0");
        const auto counted = [](void*, ssize_t bytes, bool) {
            held_for_rays += bytes;
            return true;
        };
        if (d) rtcSetDeviceMemoryMonitorFunction(d, counted, nullptr);
        return d;
    }();
    if (!made) throw Error("The solid cannot be shown: rays cannot be traced on this machine.");
    return made;
}

} // namespace

struct Skin::Traced {
    RTCScene scene = nullptr;
    ~Traced() {
        if (scene) rtcReleaseScene(scene);
    }
};

/// A part of a patch that is cut evenly.
struct Skin::Block {
    const Patch* patch;
    double a0, a1, b0, b1;
    int cells_a, cells_b; // before they are cut again
    int level = 0;
    std::size_t first = 0; // of its points
    int across() const { return (cells_a << level) + 1; }
    int down() const { return (cells_b << level) + 1; }
};

Skin::Skin(const Body& body, const TexelMap& texels, double canvas_width, double canvas_height,
           std::shared_ptr<const TriangleMesh> mesh, std::size_t most_points)
    : body_(body.as_it_counts()), width_(canvas_width), height_(canvas_height), mesh_(std::move(mesh)),
      most_points_(most_points), laying_(body, canvas_width, canvas_height),
      patches_(patches_of(body, canvas_width, canvas_height)), traced_(std::make_unique<Traced>()) {
    traced_->scene = rtcNewScene(device());
    const std::ptrdiff_t before = held_for_rays;
    rtcSetSceneFlags(traced_->scene, RTC_SCENE_FLAG_ROBUST | RTC_SCENE_FLAG_COMPACT);
    if (mesh_ && body.kind == BodyKind::mesh)
        build_mesh(texels);
    else
        build_patches(texels);
    rtcCommitScene(traced_->scene);
    // Another skin made at the same time may be counted along: better too much than too little.
    bytes_ += static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, held_for_rays - before));
    RTCBounds box;
    rtcGetSceneBounds(traced_->scene, &box);
    bounds_ = {{box.lower_x, box.lower_y, box.lower_z}, {box.upper_x, box.upper_y, box.upper_z}};
}

Skin::~Skin() = default;

double Skin::height_at(const TexelMap& texels, const std::optional<Vec2>& canvas) const {
    if (!canvas) return body_.shift;
    Vec2 p = *canvas;
    if (!laying_.on_canvas(p)) return body_.shift;
    return double(body_.relief) * texels.height_at(p.x, p.y) + body_.shift;
}

Vec3 Skin::displaced(const TexelMap& texels, const Patch& patch, const Patch::Turn& turn,
                     const Patch::Profile& profile) const {
    const SurfacePoint s = patch.at(turn, profile);
    return s.place + height_at(texels, laying_.canvas_at(patch, turn.a, profile.b, s.normal)) * s.normal;
}

void Skin::build_patches(const TexelMap& texels) {
    // Larger cells where there would be too many points.
    double fineness = body_.fineness;
    const auto count = [](double length, double step, int least) {
        return std::max(least, static_cast<int>(std::ceil(length / step - 1e-9)));
    };
    const auto points_at = [&](double step) {
        double n = 0;
        for (const Patch& p : patches_)
            n += double(count(p.a1 - p.a0, step, p.least_a) + 1) * (count(p.b1 - p.b0, step, p.least_b) + 1);
        return n;
    };
    while (points_at(fineness) > static_cast<double>(most_points_)) fineness *= 1.25;

    const double per_px = laying_.canvas_a_px().second;
    const auto [low, top] = texels.range();
    struct Layout {
        std::size_t first;
        int across, down;
    };
    std::vector<Layout> layouts;
    std::vector<float> bends; // what each block's cells are off by
    for (const Patch& patch : patches_) {
        const int na = count(patch.a1 - patch.a0, fineness, patch.least_a),
                  nb = count(patch.b1 - patch.b0, fineness, patch.least_b);
        const double da = (patch.a1 - patch.a0) / na, db = (patch.b1 - patch.b0) / nb;
        layouts.push_back({blocks_.size(), (na + cells_of_block - 1) / cells_of_block,
                           (nb + cells_of_block - 1) / cells_of_block});
        for (int j = 0; j < nb; j += cells_of_block)
            for (int i = 0; i < na; i += cells_of_block) {
                Block block{&patch,
                            patch.a0 + i * da,
                            0,
                            patch.b0 + j * db,
                            0,
                            std::min(cells_of_block, na - i),
                            std::min(cells_of_block, nb - j)};
                block.a1 = patch.a0 + (i + block.cells_a) * da;
                block.b1 = patch.b0 + (j + block.cells_b) * db;
                blocks_.push_back(block);
            }
    }
    bends.assign(blocks_.size(), 0);
    if (!patches_.empty() && low != top)
        parallel_rows(0, static_cast<int>(blocks_.size()), [&](int i) {
            const Block& block = blocks_[i];
            Box box;
            bool in = false, out = false;
            for (int y = 0; y <= 4; ++y)
                for (int x = 0; x <= 4; ++x) {
                    auto p = laying_.canvas_at(*block.patch, block.a0 + x * (block.a1 - block.a0) / 4,
                                               block.b0 + y * (block.b1 - block.b0) / 4);
                    if (p && laying_.on_canvas(*p))
                        box.add(*p), in = true;
                    else
                        out = true;
                }
            if (!in) return;
            const double apart = per_px * (block.a1 - block.a0) / block.cells_a;
            // The label's own edge is a step down to the body.
            bends[i] = out ? std::max(std::abs(low), std::abs(top))
                           : texels.bend_within(box.x0, box.y0, box.x1, box.y1, apart);
            bends[i] *= std::abs(body_.relief);
        });
    const double least_step = 0.99 / (per_px * texels.scale()); // the relief's own px on the surface
    for (float allowed = bend_allowed;; allowed *= 2) {
        points_ = 0;
        for (std::size_t i = 0; i < blocks_.size(); ++i) {
            Block& block = blocks_[i];
            block.level = 0;
            double step = (block.a1 - block.a0) / block.cells_a;
            for (float bend = bends[i]; block.level < finest && bend > allowed && step / 2 >= least_step;
                 bend /= 2, step /= 2)
                ++block.level;
            block.first = points_;
            points_ += static_cast<std::size_t>(block.across()) * block.down();
        }
        if (points_ <= most_points_ || allowed > 1e4f) break;
    }

    const RTCGeometry geometry = rtcNewGeometry(device(), RTC_GEOMETRY_TYPE_GRID);
    auto* points = static_cast<float*>(rtcSetNewGeometryBuffer(
        geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, std::max<std::size_t>(points_, 1)));
    auto* grids = static_cast<RTCGrid*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_GRID, 0,
                                                                RTC_FORMAT_GRID, sizeof(RTCGrid),
                                                                std::max<std::size_t>(blocks_.size(), 1)));
    const auto layout_of = [&](std::size_t i) {
        std::size_t p = layouts.size() - 1;
        while (layouts[p].first > i) --p;
        return layouts[p];
    };
    parallel_rows(0, static_cast<int>(blocks_.size()), [&](int number) {
        const Block& block = blocks_[number];
        const int w = block.across(), h = block.down();
        float* to = points + 3 * block.first;
        std::vector<Patch::Turn> turns;
        turns.reserve(static_cast<std::size_t>(w));
        for (int x = 0; x < w; ++x)
            turns.push_back(block.patch->turn(block.a0 + (block.a1 - block.a0) * x / (w - 1)));
        float* at = to;
        for (int y = 0; y < h; ++y) {
            const Patch::Profile profile =
                block.patch->profile(block.b0 + (block.b1 - block.b0) * y / (h - 1));
            for (const Patch::Turn& turn : turns) {
                const Vec3 p = displaced(texels, *block.patch, turn, profile);
                *at++ = static_cast<float>(p.x), *at++ = static_cast<float>(p.y),
                *at++ = static_cast<float>(p.z);
            }
        }
        // Edges follow the coarser neighbour; those of the patch the coarsest there is.
        const Layout layout = layout_of(static_cast<std::size_t>(number));
        const int in_patch = number - static_cast<int>(layout.first), bx = in_patch % layout.across,
                  by = in_patch / layout.across;
        const auto level_at = [&](int x, int y) {
            if (x < 0 || y < 0 || x >= layout.across || y >= layout.down) return 0;
            return blocks_[layout.first + static_cast<std::size_t>(y) * layout.across + x].level;
        };
        const auto follow = [&](int other, std::ptrdiff_t first, std::ptrdiff_t stride, int n) {
            const int step = 1 << std::max(0, block.level - other);
            for (int i = 0; i < n; ++i)
                if (const int over = i % step; over > 0) {
                    const float *from = to + 3 * (first + (i - over) * stride),
                                *until = to + 3 * (first + (i - over + step) * stride);
                    const float t = static_cast<float>(over) / static_cast<float>(step);
                    for (int c = 0; c < 3; ++c)
                        to[3 * (first + i * stride) + c] = from[c] + t * (until[c] - from[c]);
                }
        };
        follow(level_at(bx - 1, by), 0, w, h);
        follow(level_at(bx + 1, by), w - 1, w, h);
        follow(level_at(bx, by - 1), 0, 1, w);
        follow(level_at(bx, by + 1), static_cast<std::ptrdiff_t>(h - 1) * w, 1, w);
        grids[number] = {static_cast<unsigned>(block.first), static_cast<unsigned>(w),
                         static_cast<unsigned short>(w), static_cast<unsigned short>(h)};
    });
    rtcCommitGeometry(geometry);
    rtcAttachGeometryByID(traced_->scene, geometry, 0);
    rtcReleaseGeometry(geometry);
    bytes_ = blocks_.size() * sizeof(Block);
}

void Skin::build_mesh(const TexelMap& texels) {
    own_ = std::make_unique<const MeshBody>(
        mesh_body(body_, texels, width_, height_, body_.fineness, most_points_, *mesh_));
    points_ = own_->points.size();
    const RTCGeometry geometry = rtcNewGeometry(device(), RTC_GEOMETRY_TYPE_TRIANGLE);
    std::memcpy(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, points_),
                own_->points.data(), points_ * 12);
    auto* corners = static_cast<std::uint32_t*>(rtcSetNewGeometryBuffer(
        geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, own_->triangles.size()));
    for (const auto& t : own_->triangles)
        for (const auto& c : t) *corners++ = c.point;
    rtcCommitGeometry(geometry);
    rtcAttachGeometryByID(traced_->scene, geometry, 0);
    rtcReleaseGeometry(geometry);
    bytes_ = points_ * 12 + own_->triangles.size() * sizeof(own_->triangles[0]);
}

namespace {

template <class Rays> int fill(std::span<const Ray> rays, Rays& to, int* valid) {
    const int n = static_cast<int>(rays.size());
    for (int i = 0; i < rays_at_once; ++i) {
        valid[i] = i < n ? -1 : 0;
        const Ray& r = rays[std::min(i, n - 1)];
        to.org_x[i] = static_cast<float>(r.from.x), to.org_y[i] = static_cast<float>(r.from.y);
        to.org_z[i] = static_cast<float>(r.from.z), to.dir_x[i] = static_cast<float>(r.along.x);
        to.dir_y[i] = static_cast<float>(r.along.y), to.dir_z[i] = static_cast<float>(r.along.z);
        to.tnear[i] = 0, to.tfar[i] = std::numeric_limits<float>::infinity();
        to.time[i] = 0, to.mask[i] = ~0u, to.id[i] = 0, to.flags[i] = 0;
    }
    return n;
}

} // namespace

bool Skin::may_meet(const Ray& ray, double end) const {
    // A thousandth of a px more than it is, for what rounding takes away.
    const auto& [low, high] = bounds_;
    double near = 0, far = end;
    const auto between = [&](double from, double along, double a, double b) {
        const double per = 1 / along, s = (a - 1e-3 - from) * per, t = (b + 1e-3 - from) * per;
        near = std::max(near, std::min(s, t)), far = std::min(far, std::max(s, t));
    };
    between(ray.from.x, ray.along.x, low.x, high.x);
    between(ray.from.y, ray.along.y, low.y, high.y);
    between(ray.from.z, ray.along.z, low.z, high.z);
    return !(near > far); // a ray within a side's plane is no number there, and is looked at
}

void Skin::meet(std::span<const Ray> rays, std::span<Hit> hits) const {
    alignas(32) int valid[rays_at_once];
    alignas(32) RTCRayHit8 packet;
    const int n = fill(rays, packet.ray, valid);
    for (unsigned& id : packet.hit.geomID) id = RTC_INVALID_GEOMETRY_ID;
    for (unsigned& id : packet.hit.instID[0]) id = RTC_INVALID_GEOMETRY_ID;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcIntersect8(valid, traced_->scene, &context, &packet);
    for (int i = 0; i < n; ++i) {
        const bool met = packet.hit.geomID[i] != RTC_INVALID_GEOMETRY_ID;
        hits[i] = {met ? packet.ray.tfar[i] : std::numeric_limits<float>::infinity(),
                   packet.hit.geomID[i],
                   packet.hit.primID[i],
                   packet.hit.u[i],
                   packet.hit.v[i],
                   {packet.hit.Ng_x[i], packet.hit.Ng_y[i], packet.hit.Ng_z[i]}};
    }
}

unsigned Skin::stopped(std::span<const Ray> rays, std::span<const float> far) const {
    alignas(32) int valid[rays_at_once];
    alignas(32) RTCRay8 packet;
    const int n = fill(rays, packet, valid);
    for (int i = 0; i < n; ++i) packet.tfar[i] = far[i];
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcOccluded8(valid, traced_->scene, &context, &packet);
    unsigned out = 0;
    for (int i = 0; i < n; ++i)
        if (packet.tfar[i] < 0) out |= 1u << i;
    return out;
}

std::unique_ptr<const Skin> Skin::level_with(const Spot& spot, const TexelMap& texels) const {
    Body level = body_;
    if (spot.covered) level.shift += body_.relief * spot.texel.height;
    level.relief = 0;
    return std::make_unique<const Skin>(level, texels, width_, height_, mesh_, level_points);
}

std::optional<Vec2> Skin::uv_under(const Ray& ray) const {
    Hit hit;
    meet({&ray, 1}, {&hit, 1});
    if (!std::isfinite(hit.distance)) return std::nullopt;
    if (own_) {
        const auto& t = own_->triangles[hit.primitive];
        const double k[3] = {1.0 - hit.u - hit.v, hit.u, hit.v};
        Vec2 canvas;
        for (int i = 0; i < 3; ++i) canvas = canvas + k[i] * Vec2{t[i].canvas_x, t[i].canvas_y};
        if (!std::isfinite(canvas.x)) return std::nullopt;
        return Vec2{body_.u, body_.v} + laying_.from_middle(canvas);
    }
    const Block& block = blocks_[hit.primitive];
    if (block.patch->bare) return std::nullopt;
    return laying_.uv_at(*block.patch, block.a0 + hit.u * (block.a1 - block.a0),
                         block.b0 + hit.v * (block.b1 - block.b0));
}

std::optional<Vec3> Skin::place_at(const TexelMap& texels, Vec2 canvas) const {
    if (own_) return std::nullopt;
    const SurfacePoint s = laying_.at(canvas);
    return s.place + height_at(texels, canvas) * s.normal;
}

double Skin::way_over(const TexelMap& texels, Vec2 from, Vec2 to) const {
    const int steps = std::clamp(static_cast<int>(length(to - from)), 8, 4096);
    double out = 0;
    std::optional<Vec3> before = place_at(texels, from);
    for (int i = 1; before && i <= steps; ++i) {
        const auto now = place_at(texels, from + (double(i) / steps) * (to - from));
        out += length(*now - *before);
        before = now;
    }
    return out;
}

SkinFrame Skin::frame_on_mesh(const Hit& hit) const {
    const auto& t = own_->triangles[hit.primitive];
    const double k[3] = {1.0 - hit.u - hit.v, hit.u, hit.v};
    const auto vec = [](const MeshBody::Point& p) { return Vec3{p[0], p[1], p[2]}; };
    SkinFrame out;
    Vec3 normal;
    for (int i = 0; i < 3; ++i) {
        out.foot = out.foot + k[i] * vec(own_->base[t[i].point]);
        normal = normal + k[i] * vec(t[i].normal);
        out.canvas = out.canvas + k[i] * Vec2{t[i].canvas_x, t[i].canvas_y};
    }
    out.normal = normalized(normal);
    if (!std::isfinite(out.canvas.x) || !laying_.on_canvas(out.canvas)) return out;
    out.covered = true;
    // How the surface runs with the canvas, flat in the triangle.
    const Vec3 e = vec(own_->base[t[1].point]) - vec(own_->base[t[0].point]),
               f = vec(own_->base[t[2].point]) - vec(own_->base[t[0].point]);
    const double ex = t[1].canvas_x - t[0].canvas_x, ey = t[1].canvas_y - t[0].canvas_y,
                 fx = t[2].canvas_x - t[0].canvas_x, fy = t[2].canvas_y - t[0].canvas_y,
                 det = ex * fy - ey * fx;
    if (std::abs(det) < 1e-12) return out;
    const auto across = [&](Vec3 v) { return v - dot(v, out.normal) * out.normal; };
    out.along_x = across((1 / det) * (fy * e - ey * f));
    out.along_y = across((1 / det) * (ex * f - fx * e));
    return out;
}

Vec3 SkinFrame::turned(double slope_x, double slope_y) const {
    Vec3 out = cross(along_y + slope_y * normal, along_x + slope_x * normal);
    if (dot(out, normal) < 0) out = -out;
    const double l = length(out);
    return l > 1e-12 ? (1 / l) * out : normal;
}

void Skin::on_mesh(const TexelMap& texels, const Hit& hit, double px_at_hit, Spot& out) const {
    const SkinFrame frame = frame_on_mesh(hit);
    out.base_normal = out.normal = frame.normal;
    out.place = frame.foot + double(body_.shift) * frame.normal;
    if (!frame.covered) return;
    out.covered = true;
    read(texels, frame.canvas, px_at_hit, out);
    out.place = out.place + (double(body_.relief) * out.texel.height) * frame.normal;
    out.normal =
        frame.turned(double(body_.relief) * out.texel.slope_x, double(body_.relief) * out.texel.slope_y);
}

SkinFrame Skin::frame(const Hit& hit, double height) const {
    if (own_) return frame_on_mesh(hit);
    const Block& block = blocks_[hit.primitive];
    const double a = block.a0 + hit.u * (block.a1 - block.a0), b = block.b0 + hit.v * (block.b1 - block.b0);
    const SurfacePoint s = block.patch->at(a, b);
    SkinFrame out{s.place, s.normal, {}, {}, false, {}};
    auto canvas = laying_.canvas_at(*block.patch, a, b);
    if (!canvas || !laying_.on_canvas(*canvas)) return out;
    out.covered = true, out.canvas = *canvas;
    const Affine d = laying_.turned(*block.patch, a, b);
    const double det = d.a * d.d - d.b * d.c;
    if (std::abs(det) < 1e-12) return out;
    const Vec3 along_a = s.place_a + height * s.normal_a, along_b = s.place_b + height * s.normal_b;
    out.along_x = (1 / det) * (d.d * along_a - d.b * along_b);
    out.along_y = (1 / det) * (d.a * along_b - d.c * along_a);
    return out;
}

void Skin::read(const TexelMap& texels, Vec2 canvas, double px_at_hit, Spot& out) const {
    out.canvas = canvas;
    std::tie(out.x, out.y) = texels.px_of(canvas.x, canvas.y);
    const double per_px = px_at_hit * texels.scale() * laying_.canvas_a_px().first;
    out.texel = per_px < 0.7 ? texels.smooth_at(canvas.x, canvas.y) : texels.at(out.x, out.y);
}

Spot Skin::spot(const TexelMap& texels, const Ray& ray, const Hit& hit, double px_at_hit) const {
    Spot out;
    out.met = ray.from + double(hit.distance) * ray.along;
    if (own_) {
        on_mesh(texels, hit, px_at_hit, out);
        out.facet = normalized(hit.facet);
        if (dot(out.facet, out.base_normal) < 0) out.facet = -out.facet;
        return out;
    }
    const Block& block = blocks_[hit.primitive];
    const double a = block.a0 + hit.u * (block.a1 - block.a0), b = block.b0 + hit.v * (block.b1 - block.b0);
    const SurfacePoint s = block.patch->at(a, b);
    out.base_normal = s.normal;
    out.facet = normalized(hit.facet);
    if (dot(out.facet, s.normal) < 0) out.facet = -out.facet;
    double g = body_.shift, g_a = 0, g_b = 0;
    if (auto canvas = laying_.canvas_at(*block.patch, a, b); canvas && laying_.on_canvas(*canvas)) {
        out.covered = true;
        read(texels, *canvas, px_at_hit, out);
        const Affine d = laying_.turned(*block.patch, a, b);
        g += double(body_.relief) * out.texel.height;
        g_a = body_.relief * (out.texel.slope_x * d.a + out.texel.slope_y * d.b);
        g_b = body_.relief * (out.texel.slope_x * d.c + out.texel.slope_y * d.d);
    }
    out.place = s.place + g * s.normal;
    const Vec3 along_a = s.place_a + g * s.normal_a + g_a * s.normal,
               along_b = s.place_b + g * s.normal_b + g_b * s.normal;
    const Vec3 n = cross(along_b, along_a);
    const double l = length(n);
    out.normal = l > 1e-12 ? (1 / l) * n : s.normal;
    return out;
}

} // namespace bathylux
