#include "core/solid/mesh_body.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <numbers>
#include <queue>
#include <unordered_map>

#include "core/error.h"
#include "core/field/hash.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

using Point = MeshBody::Point;
using Corner = MeshBody::Corner;
using Triangles = std::vector<std::array<Corner, 3>>;

Vec3 vec(const Point& p) { return {p[0], p[1], p[2]}; }
Point point_at(Vec3 v) { return {static_cast<float>(v.x), static_cast<float>(v.y), static_cast<float>(v.z)}; }
constexpr float nothing_there = std::numeric_limits<float>::quiet_NaN();

/// Middle and scale as a body has them.
std::vector<Point> fitted(const TriangleMesh& mesh, double radius) {
    Vec3 low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};
    for (const Point& p : mesh.points) {
        low = {std::min<double>(low.x, p[0]), std::min<double>(low.y, p[1]), std::min<double>(low.z, p[2])};
        high = {std::max<double>(high.x, p[0]), std::max<double>(high.y, p[1]),
                std::max<double>(high.z, p[2])};
    }
    const Vec3 middle = 0.5 * (low + high);
    double far = 0;
    for (const Point& p : mesh.points) far = std::max(far, length(vec(p) - middle));
    if (!(far > 0)) throw Error("The mesh has no extent.");
    std::vector<Point> out;
    out.reserve(mesh.points.size());
    for (const Point& p : mesh.points) out.push_back(point_at((radius / far) * (vec(p) - middle)));
    return out;
}

/// The number of every point among those that lie at different places.
std::vector<std::uint32_t> welded(std::vector<Point>& points) {
    struct Same {
        std::size_t operator()(const Point& p) const {
            return (Hash() << p[0] + 0.0f << p[1] + 0.0f << p[2] + 0.0f).value();
        }
    };
    std::unordered_map<Point, std::uint32_t, Same> found;
    std::vector<std::uint32_t> number(points.size());
    std::vector<Point> kept;
    for (std::size_t i = 0; i < points.size(); ++i) {
        const auto [at, is_new] = found.try_emplace(points[i], static_cast<std::uint32_t>(kept.size()));
        if (is_new) kept.push_back(points[i]);
        number[i] = at->second;
    }
    points = std::move(kept);
    return number;
}

Vec3 facet(const std::vector<Point>& points, const std::array<Corner, 3>& t) { // as long as twice its area
    const Vec3 a = vec(points[t[0].point]);
    return cross(vec(points[t[1].point]) - a, vec(points[t[2].point]) - a);
}

/// Normals of the points, weighted by area; of the corners, of those facets that meet at less than an edge.
std::vector<Vec3> find_normals(const std::vector<Point>& points, Triangles& triangles, bool smooth) {
    std::vector<Vec3> sums(points.size());
    std::vector<std::vector<std::uint32_t>> around(points.size());
    for (std::uint32_t i = 0; i < triangles.size(); ++i)
        for (const Corner& c : triangles[i]) {
            sums[c.point] = sums[c.point] + facet(points, triangles[i]);
            around[c.point].push_back(i);
        }
    for (Vec3& n : sums) n = normalized(n);
    const double edge = std::cos(50 * radians_per_degree);
    for (auto& t : triangles) {
        const Vec3 own = normalized(facet(points, t));
        for (Corner& c : t) {
            Vec3 sum = own;
            if (smooth) {
                sum = {};
                for (const std::uint32_t j : around[c.point]) {
                    const Vec3 f = facet(points, triangles[j]);
                    if (dot(normalized(f), own) >= edge) sum = sum + f;
                }
            }
            c.normal = point_at(normalized(sum));
        }
    }
    return sums;
}

/// Coordinates along the surface from the place that faces +z, px right and down; not numbers farther than
/// `reach`.
std::vector<Vec2> unrolled(const std::vector<Point>& points, const Triangles& triangles,
                           const std::vector<Vec3>& normals, double reach) {
    std::vector<Vec2> out(points.size(), Vec2{NAN, NAN});
    // Where the axis meets the front-most facet.
    double best = -1e300;
    std::size_t seed = triangles.size();
    Vec3 from;
    for (std::size_t i = 0; i < triangles.size(); ++i) {
        const Vec3 a = vec(points[triangles[i][0].point]), n = facet(points, triangles[i]);
        if (!(n.z > 1e-12)) continue;
        const double z = dot(n, a) / n.z;
        const Vec3 at{0, 0, z};
        bool within = true;
        for (int k = 0; k < 3; ++k) {
            const Vec3 p = vec(points[triangles[i][k].point]),
                       q = vec(points[triangles[i][(k + 1) % 3].point]);
            within &= (q.x - p.x) * (0 - p.y) - (q.y - p.y) * (0 - p.x) >= -1e-9;
        }
        if (within && z > best) best = z, seed = i, from = at;
    }
    if (seed == triangles.size()) return out;
    const Vec3 up_there = normalized(facet(points, triangles[seed]));
    struct Frame {
        Vec3 right, down, normal;
    };
    const auto frame_like = [](const Frame& before, Vec3 n) { // turned as little as may be
        const Vec3 axis = cross(before.normal, n);
        const double s = length(axis), c = dot(before.normal, n);
        if (s < 1e-9) return Frame{before.right, before.down, n};
        const Vec3 k = (1 / s) * axis;
        const auto turn = [&](Vec3 v) { return c * v + s * cross(k, v) + ((1 - c) * dot(k, v)) * k; };
        return Frame{turn(before.right), turn(before.down), n};
    };
    const Vec3 right = normalized(Vec3{1, 0, 0} - up_there.x * up_there);
    const Frame first{right, cross(right, up_there), up_there};
    std::vector<std::vector<std::uint32_t>> next(points.size());
    for (const auto& t : triangles)
        for (int k = 0; k < 3; ++k) {
            next[t[k].point].push_back(t[(k + 1) % 3].point);
            next[t[k].point].push_back(t[(k + 2) % 3].point);
        }
    /// An edge seen in a frame: as long as it is, in the direction it has there.
    const auto step = [](const Frame& f, Vec3 e) -> Vec2 {
        const Vec2 flat{dot(e, f.right), dot(e, f.down)};
        const double l = length(flat);
        return l > 1e-12 ? (length(e) / l) * flat : Vec2{};
    };
    std::vector<Frame> frames(points.size());
    std::vector<double> far(points.size(), 1e300); // along edges
    std::vector<bool> known(points.size());
    using Entry = std::pair<double, std::uint32_t>;
    std::priority_queue<Entry, std::vector<Entry>, std::greater<>> open;
    for (const Corner& c : triangles[seed]) {
        const Vec3 way = vec(points[c.point]) - from;
        out[c.point] = step(first, way), frames[c.point] = frame_like(first, normals[c.point]);
        far[c.point] = length(way);
        open.emplace(far[c.point], c.point);
    }
    while (!open.empty()) {
        const auto [d, p] = open.top();
        open.pop();
        if (known[p] || d > 1.5 * reach) continue;
        known[p] = true;
        // The mean of what the known neighbours make of it, the nearer the more (Schmidt 2013).
        if (!std::isfinite(out[p].x)) {
            Vec2 sum;
            double weights = 0;
            const Frame* like = nullptr;
            double nearest = 1e300;
            for (const std::uint32_t q : next[p]) {
                if (!known[q] || q == p) continue;
                const Vec3 e = vec(points[p]) - vec(points[q]);
                const double w = 1 / std::max(1e-9, length(e));
                sum = sum + w * (out[q] + step(frames[q], e)), weights += w;
                if (far[q] < nearest) nearest = far[q], like = &frames[q];
            }
            out[p] = (1 / weights) * sum, frames[p] = frame_like(*like, normals[p]);
        }
        for (const std::uint32_t q : next[p]) {
            const double way = d + length(vec(points[q]) - vec(points[p]));
            if (!known[q] && way < far[q]) far[q] = way, open.emplace(way, q);
        }
    }
    for (std::size_t i = 0; i < points.size(); ++i)
        if (!known[i]) out[i] = {NAN, NAN};
    return out;
}

void lay_canvas(const Body& body, double w, double h, const TriangleMesh& mesh,
                const std::vector<Point>& points, const std::vector<Vec3>& normals, Triangles& triangles,
                const std::vector<std::uint32_t>& kept) {
    const Laying laying(body, w, h);
    if (body.wrap == Wrap::placed) {
        const double larger = double(body.scale) * std::max(body.scale_u, body.scale_v);
        const double reach = std::hypot(body.u, body.v) + larger * std::hypot(w, h);
        const auto at = unrolled(points, triangles, normals, body.repeat ? 1e300 : reach);
        const double c = std::cos(body.turn * radians_per_degree),
                     s = std::sin(body.turn * radians_per_degree);
        for (auto& t : triangles)
            for (Corner& k : t) {
                const Vec2 p = at[k.point] - Vec2{body.u, body.v};
                k.canvas_x =
                    static_cast<float>(w / 2 + (c * p.x - s * p.y) / (double(body.scale) * body.scale_u));
                k.canvas_y =
                    static_cast<float>(h / 2 + (s * p.x + c * p.y) / (double(body.scale) * body.scale_v));
            }
        return;
    }
    const auto fw = static_cast<float>(w), fh = static_cast<float>(h);
    for (std::size_t i = 0; i < triangles.size(); ++i) {
        auto& t = triangles[i];
        for (int k = 0; k < 3; ++k)
            if (!mesh.texture.empty()) {
                const auto& uv = mesh.texture[kept[i]][k];
                t[k].canvas_x = uv[0] * fw, t[k].canvas_y = uv[1] * fh;
            } else {
                const Vec2 at = laying.canvas_at(vec(points[t[k].point]));
                t[k].canvas_x = static_cast<float>(at.x), t[k].canvas_y = static_cast<float>(at.y);
            }
        if (!mesh.texture.empty()) continue;
        // Over the join.
        const float most = std::max({t[0].canvas_x, t[1].canvas_x, t[2].canvas_x});
        for (Corner& k : t)
            if (most - k.canvas_x > fw / 2) k.canvas_x += fw;
    }
}

/// Cuts every edge that is longer than asked in half, again and again; both sides of an edge alike.
/// Where all corners of a point agree on their normal, the middles bulge as the surface would: halfway to the
/// planes through the ends, which is true of arcs (after Boubekeur & Alexa 2008).
bool cut(MeshBody& m, std::vector<Vec3>& normals, double fineness, std::size_t most_points,
         const std::function<bool(const std::array<Corner, 3>&)>& covered) {
    std::vector<bool> round(m.base.size(), true);
    for (const auto& t : m.triangles)
        for (const Corner& c : t)
            if (dot(vec(c.normal), normals[c.point]) < 0.99) round[c.point] = false;
    for (int pass = 0; pass < 16; ++pass) {
        struct Mixed {
            std::size_t operator()(std::uint64_t edge) const { return bathylux::mixed(edge); }
        };
        std::unordered_map<std::uint64_t, std::uint32_t, Mixed> middles;
        middles.reserve(m.triangles.size() * 3 / 2);
        // Where the canvas does not lie, nothing stands out: there four times that will do.
        const double most2 = fineness * fineness, bare2 = 16 * most2;
        const auto key = [](std::uint32_t a, std::uint32_t b) {
            return static_cast<std::uint64_t>(std::min(a, b)) << 32 | std::max(a, b);
        };
        for (const auto& t : m.triangles)
            for (int k = 0; k < 3; ++k) {
                const std::uint32_t a = t[k].point, b = t[(k + 1) % 3].point;
                const Vec3 e = vec(m.base[b]) - vec(m.base[a]);
                if (dot(e, e) > (covered(t) ? most2 : bare2)) middles.try_emplace(key(a, b), 0);
            }
        if (middles.empty()) return false;
        if (m.base.size() + middles.size() > most_points) return true;
        for (const auto& t : m.triangles) // in the triangles' order, so that it is always the same
            for (int k = 0; k < 3; ++k) {
                const std::uint32_t a = t[k].point, b = t[(k + 1) % 3].point;
                const auto found = middles.find(key(a, b));
                if (found == middles.end() || found->second) continue;
                found->second = static_cast<std::uint32_t>(m.base.size());
                const Vec3 p = vec(m.base[a]), q = vec(m.base[b]);
                Vec3 middle = 0.5 * (p + q);
                if (round[a] && round[b])
                    middle = middle - (0.25 * dot(middle - p, normals[a])) * normals[a] -
                             (0.25 * dot(middle - q, normals[b])) * normals[b];
                m.base.push_back(point_at(middle));
                normals.push_back(normalized(normals[a] + normals[b]));
                round.push_back(round[a] && round[b]);
            }
        Triangles out;
        out.reserve(m.triangles.size() * 2);
        for (const auto& t : m.triangles) {
            Corner half[3];
            bool split[3];
            int n = 0;
            for (int k = 0; k < 3; ++k) {
                const Corner &a = t[k], &b = t[(k + 1) % 3];
                const auto found = middles.find(key(a.point, b.point));
                split[k] = found != middles.end();
                if (!split[k]) continue;
                ++n;
                half[k].point = found->second;
                half[k].normal = point_at(normalized(vec(a.normal) + vec(b.normal)));
                half[k].canvas_x = (a.canvas_x + b.canvas_x) / 2,
                half[k].canvas_y = (a.canvas_y + b.canvas_y) / 2;
            }
            if (n == 0)
                out.push_back(t);
            else if (n == 3) {
                for (int k = 0; k < 3; ++k) out.push_back({t[k], half[k], half[(k + 2) % 3]});
                out.push_back({half[0], half[1], half[2]});
            } else if (n == 1) {
                int k = 0;
                while (!split[k]) ++k;
                out.push_back({t[k], half[k], t[(k + 2) % 3]});
                out.push_back({half[k], t[(k + 1) % 3], t[(k + 2) % 3]});
            } else {
                int k = 0; // the edge that stays
                while (split[k]) ++k;
                const int p = (k + 1) % 3, q = (k + 2) % 3;
                out.push_back({half[p], t[q], half[q]});
                out.push_back({t[k], t[p], half[p]});
                out.push_back({t[k], half[p], half[q]});
            }
        }
        m.triangles = std::move(out);
    }
    return false;
}

} // namespace

MeshBody mesh_body(const Body& body, const TexelMap& texels, double w, double h, double fineness,
                   std::size_t most_points, const TriangleMesh& mesh) {
    MeshBody out;
    out.base = fitted(mesh, body.radius);
    const auto number = welded(out.base);
    std::vector<std::uint32_t> kept; // which of the mesh's triangles each is
    for (std::uint32_t i = 0; i < mesh.triangles.size(); ++i) {
        std::array<Corner, 3> t;
        for (int k = 0; k < 3; ++k) t[k].point = number[mesh.triangles[i][k]];
        if (!(length(facet(out.base, t)) > 1e-9)) continue; // no area
        out.triangles.push_back(t), kept.push_back(i);
    }
    if (out.triangles.empty()) throw Error("The mesh has no triangle with an area.");
    auto normals = find_normals(out.base, out.triangles, body.smooth);
    lay_canvas(body, w, h, mesh, out.base, normals, out.triangles, kept);
    const bool everywhere = body.wrap == Wrap::whole || body.repeat;
    out.coarser = cut(out, normals, fineness, most_points, [&](const std::array<Corner, 3>& t) {
        if (everywhere) return true;
        Box box;
        for (const Corner& c : t) {
            if (!std::isfinite(c.canvas_x)) return false;
            box.add(Vec2{c.canvas_x, c.canvas_y});
        }
        return box.x0 < w && box.y0 < h && box.x1 > 0 && box.y1 > 0;
    });
    const Laying laying(body, w, h);
    // Where several corners of a point lie at different places of the canvas, it is raised by their mean.
    std::vector<std::pair<double, int>> heights(out.base.size(), {0, 0});
    for (const auto& t : out.triangles)
        for (const Corner& c : t) {
            Vec2 at{c.canvas_x, c.canvas_y};
            const bool on = std::isfinite(c.canvas_x) && laying.on_canvas(at);
            heights[c.point].first += on ? texels.height_at(at.x, at.y) : 0;
            ++heights[c.point].second;
        }
    out.points.resize(out.base.size());
    parallel_rows(0, static_cast<int>(out.base.size()), [&](int i) {
        const double g =
            body.relief * (heights[i].second ? heights[i].first / heights[i].second : 0) + body.shift;
        out.points[i] = point_at(vec(out.base[i]) + g * normals[i]);
    });
    return out;
}

ReliefMesh displaced_mesh(const Body& body, const TexelMap& texels, double w, double h,
                          const MeshOrder& order, const TriangleMesh& mesh) {
    MeshBody m = mesh_body(body, texels, w, h, order.fineness, order.most_points, mesh);
    if (m.coarser) throw Error("The mesh would have too many points at that fineness: give a larger one.");
    ReliefMesh out;
    out.mesh.points = std::move(m.points);
    out.canvas.resize(out.mesh.points.size()), out.normals.resize(out.mesh.points.size());
    out.along.assign(out.mesh.points.size(), Vec3{1, 0, 0});
    // First what the canvas reaches; the rest has no place on it.
    const auto reached = std::stable_partition(m.triangles.begin(), m.triangles.end(), [&](const auto& t) {
        Box box;
        for (const Corner& c : t) {
            if (!std::isfinite(c.canvas_x) || !std::isfinite(c.canvas_y)) return false;
            box.add(Vec2{c.canvas_x, c.canvas_y});
        }
        return body.wrap == Wrap::whole || body.repeat ||
               (box.x0 < w && box.y0 < h && box.x1 > 0 && box.y1 > 0);
    });
    out.skin_triangles = static_cast<std::size_t>(reached - m.triangles.begin());
    for (auto bare = reached; bare != m.triangles.end(); ++bare)
        for (Corner& c : *bare) c.canvas_x = c.canvas_y = 0;
    for (const auto& t : m.triangles) {
        out.mesh.triangles.push_back({t[0].point, t[1].point, t[2].point});
        auto& uv = out.mesh.texture.emplace_back();
        for (int k = 0; k < 3; ++k) {
            const Corner& c = t[k];
            out.normals[c.point] = out.normals[c.point] + vec(c.normal);
            if (out.mesh.triangles.size() <= out.skin_triangles)
                out.canvas[c.point] = {c.canvas_x, c.canvas_y};
            uv[k] = {static_cast<float>(c.canvas_x / w), static_cast<float>(c.canvas_y / h)};
        }
    }
    for (Vec3& n : out.normals) n = normalized(n);
    return out;
}

} // namespace bathylux
