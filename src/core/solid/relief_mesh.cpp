#include "core/solid/relief_mesh.h"

#include <meshoptimizer.h>

#include <algorithm>
#include <map>

#include "core/error.h"
#include "core/field/parallel.h"
#include "core/solid/mesh_body.h"

namespace bathylux {

namespace {

TriangleMesh::Point point_of(Vec3 p) {
    return {static_cast<float>(p.x), static_cast<float>(p.y), static_cast<float>(p.z)};
}

/// The canvas as a grid of points laid on the body.
class CanvasGrid {
  public:
    CanvasGrid(const Body& body, const TexelMap& texels, double width, double height, const MeshOrder& order)
        : body_(body), texels_(texels), width_(width), height_(height), laying_(body, width, height),
          order_(order) {
        closed_ = laying_.whole();
        ball_ = closed_ && body.kind == BodyKind::sphere;
        // How long the canvas's sides are on the body.
        const double per_x = px_along({0, height / 2}, {1, 0}, width),
                     per_y = px_along({width / 2, 0}, {0, 1}, height);
        across_ = cells(width * per_x), down_ = cells(height * per_y);
        const double points = double(across_ + 1) * (down_ + 1);
        if (points > static_cast<double>(order.most_points))
            throw Error("A mesh as fine as that would have " +
                        std::to_string(static_cast<long long>(points / 1e6)) + " million points, more than " +
                        std::to_string(order.most_points / 1'000'000) + " million: give a larger fineness.");
    }

    ReliefMesh made() {
        skin();
        out_.skin_triangles = out_.mesh.triangles.size();
        if (closed_ && !ball_) caps();
        if (!closed_ && order_.base) base();
        return std::move(out_);
    }

  private:
    int cells(double length) const {
        return std::max(2, static_cast<int>(std::ceil(length / order_.fineness - 1e-9)));
    }
    /// px of surface a px of canvas along a direction, the most there is.
    double px_along(Vec2 from, Vec2 along, double length) const {
        double most = 0;
        constexpr int probes = 32;
        for (int i = 0; i < probes; ++i) {
            const Vec2 p = from + (length * (i + 0.25) / probes) * along, q = p + 0.5 * along;
            most = std::max(most, bathylux::length(laying_.at(q).place - laying_.at(p).place) / 0.5);
        }
        return std::max(most, 1e-3);
    }
    int columns() const { return closed_ ? across_ : across_ + 1; } // of points
    bool pole(int y) const { return ball_ && (y == 0 || y == down_); }
    std::uint32_t at(int x, int y) const {
        if (pole(y)) return y == 0 ? 0 : static_cast<std::uint32_t>(out_.mesh.points.size() - 1);
        const auto row = static_cast<std::size_t>(ball_ ? y - 1 : y);
        return static_cast<std::uint32_t>(row * columns() + static_cast<std::size_t>(x % columns()) +
                                          (ball_ ? 1 : 0));
    }
    Vec2 canvas_of(int x, int y) const { return {width_ * x / across_, height_ * y / down_}; }

    void skin() {
        const int rows = ball_ ? down_ - 1 : down_ + 1;
        const std::size_t n = static_cast<std::size_t>(rows) * columns() + (ball_ ? 2 : 0);
        out_.mesh.points.resize(n), out_.canvas.resize(n), out_.normals.resize(n), out_.along.resize(n);
        parallel_rows(0, down_ + 1, [&](int y) {
            for (int x = 0; x < (pole(y) ? 1 : columns()); ++x) {
                // A pole's point is all of its row: read in the middle of it.
                const Vec2 c = canvas_of(pole(y) ? across_ / 2 : x, y);
                const SurfacePoint s = laying_.at(c);
                const std::uint32_t i = at(x, y);
                const double g = double(body_.relief) * texels_.height_at(c.x, c.y) + body_.shift;
                out_.mesh.points[i] = point_of(s.place + g * s.normal);
                out_.canvas[i] = c, out_.normals[i] = s.normal;
                const double e = c.x < width_ / 2 ? 0.5 : -0.5;
                const Vec3 way = (1 / e) * (laying_.at({c.x + e, c.y}).place - s.place);
                out_.along[i] = normalized(way - dot(way, s.normal) * s.normal);
            }
        });
        const auto height = [&](std::uint32_t i) {
            return texels_.height_at(out_.canvas[i].x, out_.canvas[i].y);
        };
        for (int y = 0; y < down_; ++y)
            for (int x = 0; x < across_; ++x) {
                const std::uint32_t a = at(x, y), b = at(x + 1, y), c = at(x, y + 1), d = at(x + 1, y + 1);
                if (pole(y))
                    triangle(a, c, d);
                else if (pole(y + 1))
                    triangle(a, c, b);
                else if (std::abs(height(a) - height(d)) <= std::abs(height(b) - height(c)))
                    triangle(a, c, d), triangle(a, d, b); // along the gentler diagonal
                else
                    triangle(a, c, b), triangle(b, c, d);
            }
    }

    void triangle(std::uint32_t a, std::uint32_t b, std::uint32_t c) {
        out_.mesh.triangles.push_back({a, b, c});
    }
    std::uint32_t add(TriangleMesh::Point p, std::uint32_t like) {
        out_.mesh.points.push_back(p);
        out_.canvas.push_back(Vec2(out_.canvas[like])), out_.normals.push_back(Vec3(out_.normals[like]));
        out_.along.push_back(Vec3(out_.along[like]));
        return static_cast<std::uint32_t>(out_.mesh.points.size() - 1);
    }

    /// Closes top and bottom from the middle of their rims.
    void caps() {
        for (const int y : {0, down_}) {
            Vec3 sum;
            for (int x = 0; x < columns(); ++x) {
                const auto& p = out_.mesh.points[at(x, y)];
                sum = sum + Vec3{p[0], p[1], p[2]};
            }
            const std::uint32_t middle = add(point_of((1.0 / columns()) * sum), at(0, y));
            for (int x = 0; x < columns(); ++x)
                if (y == 0)
                    triangle(middle, at(x, y), at(x + 1, y));
                else
                    triangle(middle, at(x + 1, y), at(x, y));
        }
    }

    /// The same grid once more, under height 0, and walls between the two.
    void base() {
        const auto n = static_cast<std::uint32_t>(out_.mesh.points.size());
        const auto [low, top] = texels_.range();
        const double deepest = std::min(body_.relief * low, body_.relief * top) + body_.shift;
        if (deepest <= -*order_.base)
            throw Error("The relief is sunk deeper than its base is thick: give a thicker base.");
        for (std::uint32_t i = 0; i < n; ++i)
            add(point_of(laying_.at(out_.canvas[i]).place - *order_.base * out_.normals[i]), i);
        const std::size_t skin_end = out_.mesh.triangles.size();
        for (std::size_t t = 0; t < skin_end; ++t) {
            const auto [a, b, c] = out_.mesh.triangles[t];
            triangle(a + n, c + n, b + n);
        }
        const auto wall = [&](std::uint32_t a, std::uint32_t b) { // the skin lies to the left of a → b
            triangle(b, a, a + n), triangle(b, a + n, b + n);
        };
        for (int x = 0; x < across_; ++x) wall(at(x + 1, 0), at(x, 0)), wall(at(x, down_), at(x + 1, down_));
        for (int y = 0; y < down_; ++y)
            wall(at(0, y), at(0, y + 1)), wall(at(across_, y + 1), at(across_, y));
    }

    const Body& body_;
    const TexelMap& texels_;
    double width_, height_;
    Laying laying_;
    MeshOrder order_;
    bool closed_ = false, ball_ = false;
    int across_ = 0, down_ = 0;
    ReliefMesh out_;
};

/// Takes away pairs of triangles that lie on one another, face to face: what is left of a fold.
void drop_folded(std::vector<std::array<std::uint32_t, 3>>& triangles, std::size_t& skin) {
    std::map<std::array<std::uint32_t, 3>, std::vector<std::size_t>> over;
    for (std::size_t i = 0; i < triangles.size(); ++i) {
        auto sorted = triangles[i];
        std::sort(sorted.begin(), sorted.end());
        over[sorted].push_back(i);
    }
    std::vector<bool> gone(triangles.size());
    for (const auto& [corners, at] : over)
        for (std::size_t i = 0; i + 1 < at.size(); i += 2) gone[at[i]] = gone[at[i + 1]] = true;
    std::vector<std::array<std::uint32_t, 3>> kept;
    std::size_t of_skin = 0;
    for (std::size_t i = 0; i < triangles.size(); ++i) {
        if (gone[i]) continue;
        kept.push_back(triangles[i]);
        if (i < skin) ++of_skin;
    }
    triangles = std::move(kept), skin = of_skin;
}

/// Leaves out points; the skin and what closes it apart, and the rim between them kept, so that neither
/// tears.
void decimate(ReliefMesh& m, double error) {
    auto& mesh = m.mesh;
    const float scale =
        meshopt_simplifyScale(mesh.points[0].data(), mesh.points.size(), sizeof(TriangleMesh::Point));
    if (!(scale > 0)) return;
    std::vector<std::uint32_t> flat(mesh.triangles.size() * 3), kept(flat.size());
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        std::copy(mesh.triangles[t].begin(), mesh.triangles[t].end(),
                  flat.begin() + 3 * static_cast<std::ptrdiff_t>(t));
    const std::size_t split = m.skin_triangles * 3;
    std::vector<std::array<std::uint32_t, 3>> out;
    std::size_t skin = 0;
    for (const auto& [from, to] : {std::pair{std::size_t{0}, split}, {split, flat.size()}}) {
        if (to == from) continue;
        const std::size_t n = meshopt_simplify(
            kept.data(), flat.data() + from, to - from, mesh.points[0].data(), mesh.points.size(),
            sizeof(TriangleMesh::Point), 3, static_cast<float>(error) / scale,
            split < flat.size() ? meshopt_SimplifyLockBorder : 0, nullptr);
        for (std::size_t i = 0; i < n; i += 3) out.push_back({kept[i], kept[i + 1], kept[i + 2]});
        if (from == 0) skin = out.size();
    }
    drop_folded(out, skin);
    // Points that no triangle has any more go.
    constexpr auto gone = static_cast<std::uint32_t>(-1);
    std::vector<std::uint32_t> now(mesh.points.size(), gone);
    ReliefMesh small;
    small.skin_triangles = skin;
    for (auto& t : out)
        for (std::uint32_t& i : t) {
            if (now[i] == gone) {
                now[i] = static_cast<std::uint32_t>(small.mesh.points.size());
                small.mesh.points.push_back(mesh.points[i]);
                small.canvas.push_back(m.canvas[i]), small.normals.push_back(m.normals[i]);
                small.along.push_back(m.along[i]);
            }
            i = now[i];
        }
    small.mesh.triangles = std::move(out);
    m = std::move(small);
}

} // namespace

ReliefMesh relief_mesh(const Body& body, const TexelMap& texels, double canvas_width, double canvas_height,
                       const MeshOrder& order, const TriangleMesh* of_body) {
    ReliefMesh out = body.kind == BodyKind::mesh && of_body
                         ? displaced_mesh(body, texels, canvas_width, canvas_height, order, *of_body)
                         : CanvasGrid(body, texels, canvas_width, canvas_height, order).made();
    // Where the canvas is cut off by its body's end, cells have no area.
    std::size_t skin = 0;
    std::vector<std::array<std::uint32_t, 3>> kept;
    for (std::size_t i = 0; i < out.mesh.triangles.size(); ++i) {
        const auto& [a, b, c] = out.mesh.triangles[i];
        const auto& p = out.mesh.points;
        if (p[a] == p[b] || p[b] == p[c] || p[a] == p[c]) continue;
        kept.push_back(out.mesh.triangles[i]);
        if (!out.mesh.texture.empty()) out.mesh.texture[kept.size() - 1] = out.mesh.texture[i];
        if (i < out.skin_triangles) ++skin;
    }
    if (!out.mesh.texture.empty()) out.mesh.texture.resize(kept.size());
    out.mesh.triangles = std::move(kept), out.skin_triangles = skin;
    if (order.error > 0) decimate(out, order.error);
    return out;
}

} // namespace bathylux
