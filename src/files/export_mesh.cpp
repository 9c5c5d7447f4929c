#include "files/export_mesh.h"

#include <assimp/scene.h>

#include <QBuffer>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <assimp/Exporter.hpp>
#include <cmath>
#include <cstring>

#include "core/error.h"
#include "core/field/srgb.h"
#include "core/render/views.h"
#include "core/solid/relief_mesh.h"
#include "files/package.h"
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

/// The mesh as Assimp wants it, in mm.
std::unique_ptr<aiScene> scene_of(const ReliefMesh& m, double mm, bool with_texture, const Mapping& map) {
    const auto normals = with_texture ? std::vector<Vec3>() : normals_of(m.mesh);
    auto scene = std::make_unique<aiScene>();
    scene->mRootNode = new aiNode("relief");
    scene->mMaterials = new aiMaterial* [1] { new aiMaterial };
    scene->mNumMaterials = 1;
    auto* mesh = new aiMesh;
    scene->mMeshes = new aiMesh* [1] { mesh };
    scene->mNumMeshes = 1;
    scene->mRootNode->mMeshes = new unsigned[1]{0};
    scene->mRootNode->mNumMeshes = 1;
    mesh->mName = "relief";
    mesh->mPrimitiveTypes = aiPrimitiveType_TRIANGLE;
    const std::size_t triangles = m.mesh.triangles.size();
    const Textured split = with_texture ? textured(m, 0, triangles, map) : Textured{};
    const std::size_t n = with_texture ? split.points.size() : m.mesh.points.size();
    mesh->mNumVertices = static_cast<unsigned>(n);
    mesh->mVertices = new aiVector3D[n];
    if (with_texture)
        mesh->mTextureCoords[0] = new aiVector3D[n], mesh->mNumUVComponents[0] = 2;
    else
        mesh->mNormals = new aiVector3D[n];
    const auto k = static_cast<float>(mm);
    for (std::size_t i = 0; i < n; ++i) {
        const auto& p = m.mesh.points[with_texture ? split.points[i] : i];
        mesh->mVertices[i] = {p[0] * k, p[1] * k, p[2] * k};
        if (with_texture)
            mesh->mTextureCoords[0][i] = {split.uv[i][0], 1 - split.uv[i][1], 0};
        else
            mesh->mNormals[i] = {static_cast<float>(normals[i].x), static_cast<float>(normals[i].y),
                                 static_cast<float>(normals[i].z)};
    }
    mesh->mNumFaces = static_cast<unsigned>(triangles);
    mesh->mFaces = new aiFace[triangles];
    for (std::size_t t = 0; t < triangles; ++t) {
        aiFace& f = mesh->mFaces[t];
        f.mNumIndices = 3, f.mIndices = new unsigned[3];
        for (std::size_t c = 0; c < 3; ++c)
            f.mIndices[c] = with_texture ? split.corners[3 * t + c] : m.mesh.triangles[t][c];
    }
    return scene;
}

Bytes through_assimp(const ReliefMesh& m, double mm, const std::string& ending, const Mapping& map) {
    const auto scene = scene_of(m, mm, ending == ".obj", map);
    Assimp::Exporter exporter;
    const char* format = ending == ".stl" ? "stlb" : ending == ".ply" ? "plyb" : "objnomtl";
    const aiExportDataBlob* blob = exporter.ExportToBlob(scene.get(), format);
    if (!blob || !blob->data)
        throw Error(std::string("The mesh cannot be written: ") + exporter.GetErrorString());
    const auto* from = static_cast<const std::byte*>(blob->data);
    return {from, from + blob->size};
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

/// A glTF file put together: what it says, and one buffer behind it.
class Gltf {
  public:
    /// `type`: "VEC3" and so on; `component`: 5126 floats, 5125 whole numbers. `ends`: of places, whose ends
    /// are said.
    template <class T>
    int accessor(const std::vector<T>& data, const char* type, int component, std::size_t count,
                 bool ends = false) {
        QJsonObject a{{"bufferView", put(data.data(), data.size() * sizeof(T))},
                      {"componentType", component},
                      {"type", type},
                      {"count", static_cast<qint64>(count)}};
        if (ends) {
            std::array<double, 3> low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};
            for (std::size_t i = 0; i < data.size(); ++i) {
                const double v = static_cast<double>(data[i]);
                low[i % 3] = std::min(low[i % 3], v), high[i % 3] = std::max(high[i % 3], v);
            }
            a["min"] = QJsonArray{low[0], low[1], low[2]}, a["max"] = QJsonArray{high[0], high[1], high[2]};
        }
        return add("accessors", a);
    }
    int texture(const QByteArray& file) {
        const int image =
            add("images", {{"bufferView", put(file.constData(), static_cast<std::size_t>(file.size()))},
                           {"mimeType", "image/png"}});
        return add("textures", {{"source", image}, {"sampler", 0}});
    }
    int add(const char* list, const QJsonObject& entry) {
        QJsonArray all = says_[QLatin1String(list)].toArray();
        all.append(entry);
        says_[QLatin1String(list)] = all;
        return static_cast<int>(all.size() - 1);
    }
    Bytes written() {
        says_["asset"] = QJsonObject{{"version", "2.0"}, {"generator", "Bathylux"}};
        says_["scene"] = 0;
        says_["buffers"] = QJsonArray{QJsonObject{{"byteLength", static_cast<qint64>(buffer_.size())}}};
        QByteArray text = QJsonDocument(says_).toJson(QJsonDocument::Compact);
        while (text.size() % 4) text.append(' ');
        while (buffer_.size() % 4) buffer_.push_back(std::byte{0});
        Bytes out;
        const auto whole = [&](std::size_t v) {
            const auto own = static_cast<std::uint32_t>(v);
            const auto* from = reinterpret_cast<const std::byte*>(&own);
            out.insert(out.end(), from, from + 4);
        };
        const auto length = static_cast<std::size_t>(text.size());
        if (28 + length + buffer_.size() > 4294967295u)
            throw Error("The mesh is larger than a GLB can be: give a larger fineness.");
        whole(0x46546C67), whole(2), whole(28 + length + buffer_.size());
        whole(length), whole(0x4E4F534A);
        const auto* from = reinterpret_cast<const std::byte*>(text.constData());
        out.insert(out.end(), from, from + length);
        whole(buffer_.size()), whole(0x004E4942);
        out.insert(out.end(), buffer_.begin(), buffer_.end());
        return out;
    }

  private:
    int put(const void* data, std::size_t size) {
        while (buffer_.size() % 4) buffer_.push_back(std::byte{0});
        const int view = add("bufferViews", {{"buffer", 0},
                                             {"byteOffset", static_cast<qint64>(buffer_.size())},
                                             {"byteLength", static_cast<qint64>(size)}});
        const auto* from = static_cast<const std::byte*>(data);
        buffer_.insert(buffer_.end(), from, from + size);
        return view;
    }
    QJsonObject says_;
    Bytes buffer_;
};

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
    write_atomically(path, ending == ".glb" ? glb(evaluator, scene, solid, mesh, mm / 1000, map, side)
                                            : through_assimp(mesh, mm, ending, map));
}

} // namespace bathylux::files
