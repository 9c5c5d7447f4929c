// See mesh_readers.h.
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <cmath>
#include <cstring>
#include <functional>
#include <optional>

#include "files/mesh_readers.h"
#include "files/meshes.h"

namespace bathylux::files {

namespace {

using Matrix = std::array<double, 16>; // column by column, as glTF has it

[[noreturn]] void refuse_gltf(const std::string& why) { throw MeshTrouble{why}; }

Matrix times(const Matrix& a, const Matrix& b) {
    Matrix out{};
    for (std::size_t c = 0; c < 4; ++c)
        for (std::size_t r = 0; r < 4; ++r)
            for (std::size_t k = 0; k < 4; ++k) out[4 * c + r] += a[4 * k + r] * b[4 * c + k];
    return out;
}

std::vector<double> numbers_of(const QJsonValue& list) {
    std::vector<double> out;
    for (const auto v : list.toArray()) out.push_back(v.toDouble());
    return out;
}

Matrix matrix_of(const QJsonObject& n) {
    Matrix m{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1};
    if (const auto own = numbers_of(n["matrix"]); own.size() == 16) {
        std::copy(own.begin(), own.end(), m.begin());
        return m;
    }
    if (const auto r = numbers_of(n["rotation"]); r.size() == 4) {
        const double x = r[0], y = r[1], z = r[2], w = r[3];
        m = {1 - 2 * (y * y + z * z),
             2 * (x * y + z * w),
             2 * (x * z - y * w),
             0,
             2 * (x * y - z * w),
             1 - 2 * (x * x + z * z),
             2 * (y * z + x * w),
             0,
             2 * (x * z + y * w),
             2 * (y * z - x * w),
             1 - 2 * (x * x + y * y),
             0,
             0,
             0,
             0,
             1};
    }
    if (const auto k = numbers_of(n["scale"]); k.size() == 3)
        for (std::size_t c = 0; c < 3; ++c)
            for (std::size_t r = 0; r < 3; ++r) m[4 * c + r] *= k[c];
    if (const auto t = numbers_of(n["translation"]); t.size() == 3)
        for (std::size_t r = 0; r < 3; ++r) m[12 + r] = t[r];
    return m;
}

/// A glTF file taken apart: what it says, and its buffers.
struct Model {
    QJsonObject says;
    std::vector<QByteArray> buffers;
    /// The entry of a list that another part names; empty where there is none.
    QJsonObject entry(const char* list, const QJsonValue& index) const {
        const QJsonArray all = says[QLatin1String(list)].toArray();
        const int i = index.toInt(-1);
        if (i < 0 || i >= all.size()) refuse_gltf("is damaged.");
        return all[i].toObject();
    }
};

/// A number that counts or places bytes.
std::size_t bytes_of(const QJsonValue& v) {
    const double n = v.toDouble(0);
    if (!(n >= 0) || n > 4294967295.0) refuse_gltf("is damaged.");
    return static_cast<std::size_t>(n);
}

/// One accessor's numbers, `wanted` of each entry; held against the bytes there are.
class Numbers {
  public:
    Numbers(const Model& model, const QJsonValue& index, int wanted) {
        const QJsonObject a = model.entry("accessors", index);
        if (a.contains("sparse"))
            refuse_gltf("keeps its points sparsely, which is not read: export it without.");
        const QJsonObject v = model.entry("bufferViews", a["bufferView"]);
        const int buffer = v["buffer"].toInt(-1);
        if (buffer < 0 || buffer >= static_cast<int>(model.buffers.size())) refuse_gltf("is damaged.");
        const QByteArray& data = model.buffers[static_cast<std::size_t>(buffer)];
        const auto held = static_cast<std::size_t>(data.size());
        component_ = a["componentType"].toInt();
        const std::size_t size = component_ == 5126 || component_ == 5125   ? 4
                                 : component_ == 5122 || component_ == 5123 ? 2
                                                                            : 1;
        const QString type = a["type"].toString();
        const int parts = type == "SCALAR" ? 1
                          : type == "VEC2" ? 2
                          : type == "VEC3" ? 3
                          : type == "VEC4" ? 4
                                           : 0;
        if (parts < wanted || component_ < 5120 || component_ > 5126) refuse_gltf("is damaged.");
        const std::size_t entry = size * static_cast<std::size_t>(parts), own = bytes_of(v["byteStride"]);
        stride_ = own ? own : entry;
        count_ = bytes_of(a["count"]);
        const std::size_t first = bytes_of(v["byteOffset"]) + bytes_of(a["byteOffset"]);
        if (first > held || stride_ > 1 << 20 || count_ > held ||
            (count_ > 0 && (count_ - 1) * stride_ + entry > held - first))
            refuse_gltf("is cut short or damaged.");
        data_ = reinterpret_cast<const unsigned char*>(data.constData()) + first;
        normalised_ = a["normalized"].toBool();
    }
    std::size_t count() const { return count_; }
    double at(std::size_t i, std::size_t part) const {
        const unsigned char* from = data_ + i * stride_;
        const auto as = [&](auto v, double most) {
            std::memcpy(&v, from + part * sizeof v, sizeof v);
            return normalised_ ? static_cast<double>(v) / most : static_cast<double>(v);
        };
        switch (component_) {
        case 5126: return as(float{}, 1);
        case 5125: return as(std::uint32_t{}, 4294967295.0);
        case 5123: return as(std::uint16_t{}, 65535);
        case 5122: return as(std::int16_t{}, 32767);
        case 5121: return as(std::uint8_t{}, 255);
        case 5120: return as(std::int8_t{}, 127);
        default: refuse_gltf("is damaged.");
        }
    }

  private:
    const unsigned char* data_ = nullptr;
    std::size_t stride_ = 0, count_ = 0;
    int component_ = 0;
    bool normalised_ = false;
};

void take(const Model& model, const QJsonObject& p, const Matrix& m, TriangleMesh& to, bool& textured) {
    if (p["mode"].toInt(4) != 4) return; // points and lines, strips and fans
    const QJsonObject attributes = p["attributes"].toObject();
    if (!attributes.contains("POSITION")) return;
    const Numbers places(model, attributes["POSITION"], 3);
    const auto first = static_cast<std::uint32_t>(to.points.size());
    for (std::size_t i = 0; i < places.count(); ++i) {
        const double x = places.at(i, 0), y = places.at(i, 1), z = places.at(i, 2);
        TriangleMesh::Point out;
        for (std::size_t r = 0; r < 3; ++r)
            out[r] = static_cast<float>(m[r] * x + m[4 + r] * y + m[8 + r] * z + m[12 + r]);
        to.points.push_back(out);
    }
    std::optional<Numbers> uv;
    if (attributes.contains("TEXCOORD_0")) uv.emplace(model, attributes["TEXCOORD_0"], 2);
    textured = textured && uv && uv->count() >= places.count();
    std::optional<Numbers> indices;
    if (p.contains("indices")) indices.emplace(model, p["indices"], 1);
    const std::size_t corners = indices ? indices->count() : places.count();
    for (std::size_t i = 0; i + 2 < corners; i += 3) {
        std::array<std::uint32_t, 3> t{};
        std::array<std::array<float, 2>, 3> own{};
        for (std::size_t k = 0; k < 3; ++k) {
            const double at = indices ? indices->at(i + k, 0) : static_cast<double>(i + k);
            if (!(at >= 0) || at >= static_cast<double>(places.count()))
                refuse_gltf("names points that it does not have: it is damaged.");
            t[k] = first + static_cast<std::uint32_t>(at);
            if (textured)
                own[k] = {static_cast<float>(uv->at(static_cast<std::size_t>(at), 0)),
                          static_cast<float>(uv->at(static_cast<std::size_t>(at), 1))};
        }
        if (to.triangles.size() >= most_mesh_triangles)
            refuse_gltf("has more than 4 million triangles: make the mesh smaller.");
        to.triangles.push_back(t);
        if (textured) to.texture.push_back(own);
    }
}

} // namespace

void read_gltf(std::span<const std::byte> bytes, TriangleMesh& to) {
    Model model;
    QByteArray said = QByteArray::fromRawData(reinterpret_cast<const char*>(bytes.data()),
                                              static_cast<qsizetype>(bytes.size())),
               own;
    if (said.startsWith("glTF")) {
        // A header of 12 bytes, then the text, then what it calls its first buffer, each with its length
        // before it.
        const auto whole = [&](qsizetype at) {
            std::uint32_t v = 0;
            if (at + 4 > said.size()) refuse_gltf("is cut short or damaged.");
            std::memcpy(&v, said.constData() + at, 4);
            return static_cast<qsizetype>(v);
        };
        const qsizetype text = whole(12);
        if (whole(4) != 2 || whole(16) != 0x4E4F534A || text > said.size() - 20)
            refuse_gltf("is damaged or no glTF 2.0.");
        if (const qsizetype next = 20 + (text + 3) / 4 * 4; next + 8 <= said.size()) {
            const qsizetype length = whole(next);
            if (length > said.size() - next - 8) refuse_gltf("is cut short or damaged.");
            own = said.mid(next + 8, length);
        }
        said = said.mid(20, text);
    }
    model.says = QJsonDocument::fromJson(said).object();
    if (model.says["asset"].toObject()["version"].toString() != "2.0")
        refuse_gltf("is damaged or no glTF 2.0.");
    for (const auto b : model.says["buffers"].toArray()) {
        const QString uri = b.toObject()["uri"].toString();
        if (uri.isEmpty())
            model.buffers.push_back(own);
        else if (uri.startsWith("data:") && uri.contains(";base64,"))
            model.buffers.push_back(QByteArray::fromBase64(uri.mid(uri.indexOf(',') + 1).toLatin1()));
        else
            refuse_gltf("keeps its points in other files: save it as one .glb.");
    }
    bool textured = true;
    std::size_t parts = 0;
    const auto primitives = [&](const QJsonObject& mesh, const Matrix& m) {
        for (const auto p : mesh["primitives"].toArray()) take(model, p.toObject(), m, to, textured);
    };
    // A node may hang under several others, or under itself: so many are looked at and no more.
    const std::function<void(const QJsonValue&, const Matrix&, int)> walk =
        [&](const QJsonValue& index, const Matrix& parent, int depth) {
            if (depth > 64) refuse_gltf("is damaged.");
            if (++parts > most_mesh_parts) refuse_gltf("has more than 65536 parts.");
            const QJsonObject node = model.entry("nodes", index);
            const Matrix m = times(parent, matrix_of(node));
            if (node.contains("mesh")) primitives(model.entry("meshes", node["mesh"]), m);
            for (const auto child : node["children"].toArray()) walk(child, m, depth + 1);
        };
    constexpr Matrix one{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1};
    if (model.says["scenes"].toArray().isEmpty())
        for (const auto mesh : model.says["meshes"].toArray()) primitives(mesh.toObject(), one);
    else
        for (const auto node : model.entry("scenes", model.says["scene"].toInt(0))["nodes"].toArray())
            walk(node, one, 0);
    if (!textured) to.texture.clear();
}

} // namespace bathylux::files
