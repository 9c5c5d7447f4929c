#include "files/export_mesh.h"

#include <QBuffer>
#include <QImage>
#include <QJsonArray>
#include <QJsonObject>
#include <cmath>
#include <cstring>

#include "core/error.h"
#include "core/field/srgb.h"
#include "core/render/views.h"
#include "core/solid/relief_mesh.h"
#include "files/gltf_file.h"
#include "files/module.h"
#include "files/package.h"
#include "files/plain_mesh.h"
#include "files/sample_encoder.h"

namespace bathylux::files {

namespace {

struct Mapping {
    double w, h; // the canvas, px
    bool repeats;
};

/// The texture coordinates of a triangle's corners, v down; those of a whole skin go on past its join.
std::array<std::array<float, 2>, 3> texture_of(const ReliefMesh& m, std::size_t triangle,
                                               const Mapping& map) {
    if (!m.mesh.texture.empty()) return m.mesh.texture[triangle];
    std::array<std::array<float, 2>, 3> out;
    float most = 0;
    for (int k = 0; k < 3; ++k) {
        const Vec2 c = m.canvas[m.mesh.triangles[triangle][k]];
        out[k] = {static_cast<float>(c.x / map.w), static_cast<float>(c.y / map.h)};
        most = std::max(most, out[k][0]);
    }
    if (map.repeats)
        for (auto& c : out)
            if (most - c[0] > 0.5f) c[0] += 1;
    return out;
}

/// Triangles from `first` to `last` over points that have one texture coordinate each: where corners of a
/// point differ, it is there several times.
struct Textured {
    std::vector<std::uint32_t> points; // of the mesh
    std::vector<std::array<float, 2>> uv;
    std::vector<std::uint32_t> corners;
};
Textured textured(const ReliefMesh& m, std::size_t first, std::size_t last, const Mapping& map) {
    Textured out;
    constexpr auto none = static_cast<std::uint32_t>(-1);
    std::vector<std::uint32_t> of(m.mesh.points.size(), none), next; // of a point, and its next with another
    for (std::size_t t = first; t < last; ++t) {
        const auto uv = texture_of(m, t, map);
        for (int k = 0; k < 3; ++k) {
            const std::uint32_t p = m.mesh.triangles[t][k];
            std::uint32_t at = of[p];
            while (at != none && out.uv[at] != uv[k]) at = next[at];
            if (at == none) {
                at = static_cast<std::uint32_t>(out.points.size());
                out.points.push_back(p), out.uv.push_back(uv[k]), next.push_back(of[p]);
                of[p] = at;
            }
            out.corners.push_back(at);
        }
    }
    return out;
}

Vec3 vec(const TriangleMesh::Point& p) { return {p[0], p[1], p[2]}; }

/// Normals of the points as the geometry has them, weighted by area.
std::vector<Vec3> normals_of(const TriangleMesh& mesh) {
    std::vector<Vec3> out(mesh.points.size());
    for (const auto& t : mesh.triangles) {
        const Vec3 a = vec(mesh.points[t[0]]),
                   n = cross(vec(mesh.points[t[1]]) - a, vec(mesh.points[t[2]]) - a);
        for (const std::uint32_t i : t) out[i] = out[i] + n;
    }
    for (Vec3& n : out) n = normalized(n);
    return out;
}

/// The mesh in mm, with texture coordinates for a format that holds them, with normals for others.
PlainMesh plain(const ReliefMesh& m, double mm, bool with_texture, const Mapping& map) {
    const auto in_mm = [k = static_cast<float>(mm)](const TriangleMesh::Point& p) {
        return TriangleMesh::Point{p[0] * k, p[1] * k, p[2] * k};
    };
    PlainMesh out;
    if (with_texture) {
        Textured split = textured(m, 0, m.mesh.triangles.size(), map);
        for (const std::uint32_t p : split.points) out.points.push_back(in_mm(m.mesh.points[p]));
        for (const auto& uv : split.uv) out.texture.push_back({uv[0], 1 - uv[1]});
        out.corners = std::move(split.corners);
    } else {
        for (const auto& p : m.mesh.points) out.points.push_back(in_mm(p));
        for (const Vec3& n : normals_of(m.mesh))
            out.normals.push_back(
                {static_cast<float>(n.x), static_cast<float>(n.y), static_cast<float>(n.z)});
        for (const auto& t : m.mesh.triangles) out.corners.insert(out.corners.end(), t.begin(), t.end());
    }
    return out;
}

MeshModule& mesh_module() {
    using Entry = MeshModule* (*)();
    static MeshModule* const loaded = reinterpret_cast<Entry>(
        module_entry("bathylux_meshes.so", "bathylux_mesh_module", "The part that writes meshes"))();
    return *loaded;
}

/// A PNG out of rows of three bytes.
QByteArray png(int w, int h, const std::function<void(int, int, unsigned char*)>& at) {
    QImage image(w, h, QImage::Format_RGB888);
    for (int y = 0; y < h; ++y) {
        unsigned char* row = image.scanLine(y);
        for (int x = 0; x < w; ++x) at(x, y, row + std::ptrdiff_t{3} * x);
    }
    QBuffer buffer;
    buffer.open(QIODevice::WriteOnly);
    if (!image.save(&buffer, "PNG"))
        throw Error("The mesh's textures cannot be written: there is too little memory.");
    return buffer.data();
}

unsigned char byte(float share) {
    return static_cast<unsigned char>(std::lround(255 * std::clamp(share, 0.0f, 1.0f)));
}

/// One primitive: triangles from `first` to `last`.
QJsonObject primitive(Gltf& out, const ReliefMesh& m, std::size_t first, std::size_t last, bool skin,
                      double metres, const Mapping& map, const std::vector<Vec3>& facets, int material) {
    const Textured split = textured(m, first, last, map);
    std::vector<float> places, normals, tangents, uvs;
    const bool along = m.mesh.texture.empty() && skin;
    const auto add3 = [](std::vector<float>& to, Vec3 v) {
        for (const double c : {v.x, v.y, v.z}) to.push_back(static_cast<float>(c));
    };
    for (std::size_t i = 0; i < split.points.size(); ++i) {
        const std::uint32_t p = split.points[i];
        add3(places, metres * vec(m.mesh.points[p]));
        // The skin's normals are the body's: its relief is all in the normal texture.
        add3(normals, skin ? m.normals[p] : facets[p]);
        if (along) {
            add3(tangents, m.along[p]);
            tangents.push_back(1);
        }
        if (skin) uvs.insert(uvs.end(), split.uv[i].begin(), split.uv[i].end());
    }
    const std::size_t n = split.points.size();
    constexpr int floats = 5126, wholes = 5125;
    QJsonObject attributes{{"POSITION", out.accessor(places, "VEC3", floats, n, true)},
                           {"NORMAL", out.accessor(normals, "VEC3", floats, n)}};
    if (along) attributes["TANGENT"] = out.accessor(tangents, "VEC4", floats, n);
    if (skin) attributes["TEXCOORD_0"] = out.accessor(uvs, "VEC2", floats, n);
    return {{"attributes", attributes},
            {"material", material},
            {"indices", out.accessor(split.corners, "SCALAR", wholes, split.corners.size())}};
}

Bytes glb(Evaluator& evaluator, const Scene& scene, const Solid& solid, const ReliefMesh& m, double metres,
          const Mapping& map, int side) {
    Gltf out;
    const int wrap = map.repeats ? 10497 : 33071; // repeat, or clamp to the edge
    out.add("samplers", {{"wrapS", wrap}, {"wrapT", wrap}, {"minFilter", 9987}, {"magFilter", 9729}});
    const double scale = side / std::max(map.w, map.h);
    const Region all = canvas_region(scene.piece->canvas, scale);
    const auto seen =
        look(evaluator, scene, {View::art, View::normals, View::roughness, View::metallic}, all, scale);
    const Body& body = solid.body;
    const std::array<float, 3> under{srgb_decode(body.color.r), srgb_decode(body.color.g),
                                     srgb_decode(body.color.b)};
    const auto art = [&](int x, int y, unsigned char* to) {
        const float a = seen[0].channels[3].at(x, y);
        for (int c = 0; c < 3; ++c)
            to[c] =
                byte(srgb_encode(std::clamp(seen[0].channels[c].at(x, y) + (1 - a) * under[c], 0.0f, 1.0f)));
    };
    const auto slopes = [&](int x, int y, unsigned char* to) {
        Vec3 n{seen[1].channels[0].at(x, y), seen[1].channels[1].at(x, y), seen[1].channels[2].at(x, y)};
        const double k = body.relief / double(body.scale);
        n = normalized(Vec3{n.x * k / body.scale_u, n.y * k / body.scale_v, n.z});
        to[0] = byte(static_cast<float>(0.5 + 0.5 * n.x)), to[1] = byte(static_cast<float>(0.5 + 0.5 * n.y)),
        to[2] = byte(static_cast<float>(0.5 + 0.5 * n.z));
    };
    const auto surface = [&](int x, int y, unsigned char* to) {
        const float a = seen[0].channels[3].at(x, y);
        const auto mixed = [&](float own, float bare) { return byte(bare + a * (own - bare)); };
        to[0] = 255, to[1] = mixed(seen[2].channels[0].at(x, y), solid.surface.roughness),
        to[2] = mixed(seen[3].channels[0].at(x, y), solid.surface.metallic);
    };
    const auto texture = [&](auto&& at) {
        return QJsonObject{{"index", out.texture(png(all.width(), all.height(), at))}};
    };
    out.add("materials",
            {{"name", "skin"},
             {"pbrMetallicRoughness", QJsonObject{{"baseColorTexture", texture(art)},
                                                  {"metallicRoughnessTexture", texture(surface)}}},
             {"normalTexture", texture(slopes)}});
    out.add("materials", {{"name", "body"},
                          {"pbrMetallicRoughness",
                           QJsonObject{{"baseColorFactor", QJsonArray{under[0], under[1], under[2], 1}},
                                       {"metallicFactor", solid.surface.metallic},
                                       {"roughnessFactor", solid.surface.roughness}}}});
    const std::size_t n = m.mesh.triangles.size();
    QJsonArray primitives{primitive(out, m, 0, m.skin_triangles, true, metres, map, m.normals, 0)};
    if (n > m.skin_triangles)
        primitives.append(primitive(out, m, m.skin_triangles, n, false, metres, map, normals_of(m.mesh), 1));
    out.add("meshes", {{"name", "relief"}, {"primitives", primitives}});
    out.add("nodes", {{"mesh", 0}});
    out.add("scenes", {{"nodes", QJsonArray{0}}});
    return out.written();
}

} // namespace

bool is_mesh_out(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    return e == ".stl" || e == ".obj" || e == ".ply" || e == ".glb";
}

void export_mesh(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path,
                 const MeshExport& how) {
    const Solid solid = scene.piece->solid.value_or(Solid());
    const Canvas& canvas = scene.piece->canvas;
    const double mm = 1 / double(canvas.px_per_mm);
    MeshOrder order;
    order.fineness = how.fineness > 0 ? how.fineness : solid.body.fineness;
    if (how.base_mm) order.base = *how.base_mm / mm;
    order.error = how.error_mm / mm;
    const SkinParts parts = skin_parts(evaluator, scene);
    const Mapping map{canvas.width, canvas.height, parts.repeats};
    const ReliefMesh mesh =
        relief_mesh(solid.body, *parts.texels, canvas.width, canvas.height, order, parts.mesh.get());
    const std::string ending = ending_of(path);
    const int side = how.texture > 0
                         ? how.texture
                         : static_cast<int>(std::min(4096.0f, std::max(canvas.width, canvas.height)));
    write_atomically(path, ending == ".glb"
                               ? glb(evaluator, scene, solid, mesh, mm / 1000, map, side)
                               : mesh_module().written(plain(mesh, mm, ending == ".obj", map), ending));
}

} // namespace bathylux::files
