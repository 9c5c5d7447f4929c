#include "files/mesh_readers.h"

#include <algorithm>
#include <array>
#include <bit>
#include <charconv>
#include <cstdint>
#include <cstring>
#include <optional>
#include <string_view>
#include <vector>

#include "files/meshes.h"

namespace bathylux::files {

namespace {

[[noreturn]] void refuse(const std::string& why) { throw MeshTrouble{why}; }
constexpr const char* cut_short = "is cut short or damaged.";
constexpr std::size_t most_corners = 1024; // of one face

void add_triangle(TriangleMesh& to, std::array<std::uint32_t, 3> t) {
    if (to.triangles.size() >= most_mesh_triangles)
        refuse("has more than 4 million triangles: make the mesh smaller.");
    to.triangles.push_back(t);
}

/// Text read word by word, line by line.
class Words {
  public:
    explicit Words(std::string_view text) : rest_(text) {}
    bool next_line() {
        if (done_) return false;
        const auto end = rest_.find('\n');
        line_ = rest_.substr(0, end);
        if (!line_.empty() && line_.back() == '\r') line_.remove_suffix(1);
        done_ = end == std::string_view::npos;
        if (!done_) rest_.remove_prefix(end + 1);
        return true;
    }
    std::string_view word() {
        const auto from = line_.find_first_not_of(" \t");
        if (from == std::string_view::npos) return line_ = {};
        const auto until = std::min(line_.find_first_of(" \t", from), line_.size());
        const std::string_view out = line_.substr(from, until - from);
        line_.remove_prefix(until);
        return out;
    }
    std::optional<double> number() {
        std::string_view w = word();
        if (!w.empty() && w.front() == '+') w.remove_prefix(1);
        double v = 0;
        const auto [end, code] = std::from_chars(w.data(), w.data() + w.size(), v);
        return code == std::errc() && end == w.data() + w.size() ? std::optional(v) : std::nullopt;
    }
    /// What has not been read yet, from the next line on.
    std::string_view rest() const { return done_ ? std::string_view() : rest_; }

  private:
    std::string_view rest_, line_;
    bool done_ = false;
};

std::string_view text_of(std::span<const std::byte> bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

TriangleMesh::Point three(Words& words) {
    TriangleMesh::Point p;
    for (float& v : p) {
        const auto n = words.number();
        if (!n) refuse(cut_short);
        v = static_cast<float>(*n);
    }
    return p;
}

} // namespace

void read_stl(std::span<const std::byte> bytes, TriangleMesh& to) {
    std::uint32_t count = 0;
    if (bytes.size() >= 84) std::memcpy(&count, &bytes[80], 4);
    const auto add = [&](const std::array<TriangleMesh::Point, 3>& corners) {
        const auto first = static_cast<std::uint32_t>(to.points.size());
        to.points.insert(to.points.end(), corners.begin(), corners.end());
        add_triangle(to, {first, first + 1, first + 2});
    };
    if (bytes.size() >= 84 && bytes.size() == 84 + std::size_t{50} * count) {
        for (std::size_t i = 0; i < count; ++i) {
            std::array<TriangleMesh::Point, 3> corners;
            std::memcpy(corners.data(), &bytes[84 + 50 * i + 12], 36);
            add(corners);
        }
        return;
    }
    Words words(text_of(bytes));
    if (!text_of(bytes.first(std::min<std::size_t>(5, bytes.size()))).starts_with("solid")) refuse(cut_short);
    std::array<TriangleMesh::Point, 3> corners;
    int n = 0;
    bool whole = false;
    while (words.next_line()) {
        const std::string_view w = words.word();
        if (w == "vertex" && n < 3) corners[static_cast<std::size_t>(n++)] = three(words);
        if (w == "endfacet") {
            if (n != 3) refuse(cut_short);
            add(corners), n = 0;
        }
        whole |= w == "endsolid";
    }
    if (!whole) refuse(cut_short);
}

void read_obj(std::span<const std::byte> bytes, TriangleMesh& to) {
    std::vector<std::array<float, 2>> uvs;
    bool textured = true;
    Words words(text_of(bytes));
    while (words.next_line()) {
        const std::string_view what = words.word();
        if (what == "v")
            to.points.push_back(three(words));
        else if (what == "vt") {
            const auto u = words.number(), v = words.number();
            if (!u) refuse(cut_short);
            uvs.push_back({static_cast<float>(*u), static_cast<float>(1 - v.value_or(0))});
        } else if (what == "f") {
            struct Corner {
                std::uint32_t point = 0;
                std::optional<std::array<float, 2>> uv;
            };
            std::vector<Corner> corners;
            for (std::string_view w = words.word(); !w.empty(); w = words.word()) {
                // point, point/uv, point//normal or point/uv/normal, counted from 1 or, below 0, from the
                // end.
                const auto index = [](std::string_view& part,
                                      std::size_t size) -> std::optional<std::size_t> {
                    const std::string_view own = part.substr(0, part.find('/'));
                    part.remove_prefix(std::min(part.size(), own.size() + 1));
                    if (own.empty()) return std::nullopt;
                    long long n = 0;
                    const auto [end, code] = std::from_chars(own.data(), own.data() + own.size(), n);
                    if (code != std::errc() || end != own.data() + own.size() || n == 0) refuse(cut_short);
                    const long long at = n > 0 ? n - 1 : static_cast<long long>(size) + n;
                    if (at < 0 || at >= static_cast<long long>(size))
                        refuse("names points that it does not have: it is damaged.");
                    return static_cast<std::size_t>(at);
                };
                Corner c;
                const auto point = index(w, to.points.size());
                if (!point) refuse(cut_short);
                c.point = static_cast<std::uint32_t>(*point);
                if (const auto uv = w.empty() ? std::nullopt : index(w, uvs.size())) c.uv = uvs[*uv];
                corners.push_back(c);
                if (corners.size() > most_corners) refuse("has a face with more than 1024 corners.");
            }
            for (std::size_t i = 2; i < corners.size(); ++i) {
                add_triangle(to, {corners[0].point, corners[i - 1].point, corners[i].point});
                textured = textured && corners[0].uv && corners[i - 1].uv && corners[i].uv;
                if (textured) to.texture.push_back({*corners[0].uv, *corners[i - 1].uv, *corners[i].uv});
            }
        }
    }
    if (!textured) to.texture.clear();
}

namespace {

enum class PlyType { i8, u8, i16, u16, i32, u32, f32, f64 };
std::optional<PlyType> ply_type(std::string_view name) {
    static constexpr std::pair<std::string_view, PlyType> names[] = {
        {"char", PlyType::i8},    {"int8", PlyType::i8},     {"uchar", PlyType::u8},
        {"uint8", PlyType::u8},   {"short", PlyType::i16},   {"int16", PlyType::i16},
        {"ushort", PlyType::u16}, {"uint16", PlyType::u16},  {"int", PlyType::i32},
        {"int32", PlyType::i32},  {"uint", PlyType::u32},    {"uint32", PlyType::u32},
        {"float", PlyType::f32},  {"float32", PlyType::f32}, {"double", PlyType::f64},
        {"float64", PlyType::f64}};
    for (const auto& [own, type] : names)
        if (own == name) return type;
    return std::nullopt;
}

struct PlyProperty {
    std::string name;
    PlyType type = PlyType::f32;
    std::optional<PlyType> count; // of a list
};
struct PlyElement {
    std::string name;
    std::size_t count = 0;
    std::vector<PlyProperty> properties;
};

/// Numbers of a PLY body, one after the other.
class PlyBody {
  public:
    enum class Form { text, little, big };
    PlyBody(Form form, std::string_view rest) : form_(form), rest_(rest) {}

    double next(PlyType type) {
        if (form_ == Form::text) {
            const auto from = rest_.find_first_not_of(" \t\r\n");
            if (from == std::string_view::npos) refuse(cut_short);
            const auto until = std::min(rest_.find_first_of(" \t\r\n", from), rest_.size());
            double v = 0;
            const auto [end, code] = std::from_chars(rest_.data() + from, rest_.data() + until, v);
            if (code != std::errc() || end != rest_.data() + until) refuse(cut_short);
            rest_.remove_prefix(until);
            return v;
        }
        switch (type) {
        case PlyType::i8: return raw<std::int8_t>();
        case PlyType::u8: return raw<std::uint8_t>();
        case PlyType::i16: return raw<std::int16_t>();
        case PlyType::u16: return raw<std::uint16_t>();
        case PlyType::i32: return raw<std::int32_t>();
        case PlyType::u32: return raw<std::uint32_t>();
        case PlyType::f32: return raw<float>();
        case PlyType::f64: return raw<double>();
        }
        return 0;
    }
    std::size_t left() const { return rest_.size(); }

  private:
    template <class T> double raw() {
        if (rest_.size() < sizeof(T)) refuse(cut_short);
        std::array<char, sizeof(T)> own;
        std::memcpy(own.data(), rest_.data(), sizeof(T));
        if ((form_ == Form::big) != (std::endian::native == std::endian::big))
            std::reverse(own.begin(), own.end());
        rest_.remove_prefix(sizeof(T));
        T v;
        std::memcpy(&v, own.data(), sizeof(T));
        return static_cast<double>(v);
    }
    Form form_;
    std::string_view rest_;
};

} // namespace

void read_ply(std::span<const std::byte> bytes, TriangleMesh& to) {
    Words words(text_of(bytes));
    if (!words.next_line() || words.word() != "ply") refuse(cut_short);
    std::optional<PlyBody::Form> form;
    std::vector<PlyElement> elements;
    bool ended = false;
    while (!ended && words.next_line()) {
        const std::string_view w = words.word();
        if (w == "format") {
            const std::string_view f = words.word();
            form = f == "ascii"                  ? PlyBody::Form::text
                   : f == "binary_little_endian" ? PlyBody::Form::little
                   : f == "binary_big_endian"    ? PlyBody::Form::big
                                                 : std::optional<PlyBody::Form>();
        } else if (w == "element") {
            PlyElement e;
            e.name = words.word();
            const auto n = words.number();
            if (!n || !(*n >= 0) || *n > static_cast<double>(bytes.size())) refuse(cut_short);
            e.count = static_cast<std::size_t>(*n);
            elements.push_back(std::move(e));
        } else if (w == "property") {
            PlyProperty p;
            std::string_view type = words.word();
            if (type == "list") {
                p.count = ply_type(words.word());
                if (!p.count) refuse(cut_short);
                type = words.word();
            }
            const auto own = ply_type(type);
            if (!own || elements.empty() || elements.back().properties.size() > 256) refuse(cut_short);
            p.type = *own, p.name = words.word();
            elements.back().properties.push_back(std::move(p));
        } else
            ended = w == "end_header";
    }
    if (!ended || !form) refuse(cut_short);
    PlyBody body(*form, words.rest());
    std::vector<std::array<float, 2>> uvs;
    bool textured = false;
    for (const PlyElement& e : elements) {
        if (!e.properties.empty() && e.count > body.left()) refuse(cut_short);
        const bool points = e.name == "vertex", faces = e.name == "face";
        for (std::size_t i = 0; i < e.count && !e.properties.empty(); ++i) {
            TriangleMesh::Point p{};
            std::array<float, 2> uv{};
            for (const PlyProperty& q : e.properties) {
                if (!q.count) {
                    const auto v = static_cast<float>(body.next(q.type));
                    if (!points) continue;
                    if (q.name.size() == 1 && q.name[0] >= 'x' && q.name[0] <= 'z')
                        p[static_cast<std::size_t>(q.name[0] - 'x')] = v;
                    else if (q.name == "s" || q.name == "u" || q.name == "texture_u")
                        uv[0] = v, textured = true;
                    else if (q.name == "t" || q.name == "v" || q.name == "texture_v")
                        uv[1] = 1 - v;
                    continue;
                }
                const double n = body.next(*q.count);
                if (!(n >= 0) || n > static_cast<double>(body.left())) refuse(cut_short);
                const bool corners = faces && (q.name == "vertex_indices" || q.name == "vertex_index");
                if (corners && n > static_cast<double>(most_corners))
                    refuse("has a face with more than 1024 corners.");
                std::vector<std::uint32_t> own;
                for (std::size_t k = 0; k < static_cast<std::size_t>(n); ++k) {
                    const double v = body.next(q.type);
                    if (!corners) continue;
                    if (!(v >= 0) || v >= static_cast<double>(to.points.size()))
                        refuse("names points that it does not have: it is damaged.");
                    own.push_back(static_cast<std::uint32_t>(v));
                }
                for (std::size_t k = 2; k < own.size(); ++k) {
                    add_triangle(to, {own[0], own[k - 1], own[k]});
                    if (textured) to.texture.push_back({uvs[own[0]], uvs[own[k - 1]], uvs[own[k]]});
                }
            }
            if (points) to.points.push_back(p), uvs.push_back(uv);
        }
    }
}

} // namespace bathylux::files
