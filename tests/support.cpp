#include "support.h"

#include <cstring>
#include <map>

#include "core/error.h"
#include "core/solid/vec3.h"

namespace bathylux {

Scene scene_of(const std::string& json) {
    return {std::make_shared<const Piece>(piece_from_json(parse_json(json))),
            std::make_shared<const Assets>()};
}

std::string piece_json(int w, int h, const std::string& elements, const std::string& more) {
    return R"({"bathylux": 1, "canvas": {"width": )" + std::to_string(w) + R"(, "height": )" +
           std::to_string(h) + R"(}, "elements": [)" + elements + "]" + (more.empty() ? "" : ", " + more) +
           "}";
}

std::string busy_elements() {
    return R"(
    {"id": "plate", "source": {"kind": "rectangle", "width": 300, "height": 180, "corner": 30, "color": "#6a7078"}, "steps": [{"kind": "bevel", "width": 14, "rise": 9, "profile": "round"}]},
    {"id": "g", "source": {"kind": "group"}, "placement": {"turn": 8, "scale_u": 1.2, "scale_v": 1.2}, "steps": [{"kind": "soften", "radius": 2}], "elements": [
        {"id": "o", "source": {"kind": "ellipse", "width": 90, "height": 60, "color": "#c08030"}, "placement": {"x": 130, "y": 100}, "surface": {"roughness": 0.2, "metallic": 1}, "steps": [{"kind": "bevel", "width": 20, "rise": 12, "profile": "ogee"}]},
        {"id": "q", "source": {"kind": "rectangle", "width": 60, "height": 60, "color": "#3080c0"}, "placement": {"x": 200, "y": 100, "turn": 30}, "mix": {"blend": "multiply", "opacity": 0.7}, "steps": [{"kind": "bevel", "width": 9, "rise": -6, "profile": "step"}, {"kind": "soften", "radius": 1}]}]})";
}

Bundle relief_of(const Scene& scene, double scale) {
    Evaluator evaluator(0);
    return evaluator.relief(scene, canvas_region(scene.piece->canvas, scale), scale);
}

Plane height_of(const Scene& scene, double scale) {
    Bundle b = relief_of(scene, scale);
    return b.height.writable(b.region.width(), b.region.height());
}

double worst_difference(const Plane& a, const Plane& b) {
    double worst = a.width() == b.width() && a.height() == b.height() ? 0 : 1e30;
    for (int y = 0; y < std::min(a.height(), b.height()); ++y)
        for (int x = 0; x < std::min(a.width(), b.width()); ++x)
            worst = std::max(worst, std::abs(double(a(x, y)) - b(x, y)));
    return worst;
}

std::string trouble_of(const std::function<void()>& f) {
    try {
        f();
    } catch (const Error& e) {
        return e.what();
    }
    return {};
}

std::shared_ptr<const Picture> picture_of(int w, int h, const std::function<float(double, double)>& value) {
    auto p = std::make_shared<Picture>();
    p->width = w, p->height = h, p->channels = 1, p->format = Picture::Format::f32;
    p->samples.resize(4ull * w * h);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const float v = value(x + 0.5, y + 0.5);
            std::memcpy(&p->samples[4ull * (static_cast<std::size_t>(y) * w + x)], &v, 4);
        }
    p->seal();
    return p;
}

std::shared_ptr<const Asset> asset_for(const SourceKind& kind) {
    auto a = std::make_shared<Asset>();
    a->hash = 99, a->width = 120, a->height = 80;
    if (kind.id == "type" || kind.id == "svg") {
        OutlineBuilder letters;
        for (const double dx : {-42.0, 4.0, 46.0}) {
            letters.move_to({dx - 15, -35});
            letters.line_to({dx + 20, -30});
            letters.cubic_to({dx + 40, 0}, {dx - 10, 10}, {dx + 15, 40});
            letters.line_to({dx - 20, 30});
            letters.close();
        }
        a->layers.push_back({letters.finish(), {0.8f, 0.4f, 0.2f, 1}});
        return a;
    }
    auto p = std::make_shared<Picture>();
    p->width = 120, p->height = 80, p->channels = 4, p->format = Picture::Format::u8;
    p->samples.resize(4ull * 120 * 80);
    for (int y = 0; y < 80; ++y)
        for (int x = 0; x < 120; ++x) {
            const double r = std::hypot(x - 60.0, y - 40.0), hole = std::clamp((r - 14) / 3, 0.0, 1.0),
                         rim = std::clamp((50 - r) / 2, 0.0, 1.0);
            const double v[4] = {0.5 + 0.4 * std::sin(x / 7.0), 0.5 + 0.4 * std::cos(y / 9.0 + x / 31.0),
                                 double((x * 7 + y * 13) % 64) / 64, hole * rim};
            for (int c = 0; c < 4; ++c)
                p->samples[4ull * (120 * y + x) + c] = static_cast<std::byte>(std::lround(255 * v[c]));
        }
    p->seal();
    a->picture = p;
    if (kind.framed) a->frames.push_back({std::make_shared<const Asset>(*a), 0, 0});
    return a;
}

Boundary boundary_of(const TriangleMesh& m) {
    std::map<std::array<float, 3>, int> number;
    std::map<std::pair<int, int>, int> edges;
    Boundary out;
    for (const auto& t : m.triangles) {
        int n[3];
        Vec3 p[3];
        for (int k = 0; k < 3; ++k) {
            const auto& q = m.points[t[k]];
            n[k] = number.try_emplace(q, static_cast<int>(number.size())).first->second;
            p[k] = {q[0], q[1], q[2]};
        }
        for (int k = 0; k < 3; ++k) ++edges[{n[k], n[(k + 1) % 3]}], --edges[{n[(k + 1) % 3], n[k]}];
        out.volume += dot(p[0], cross(p[1], p[2])) / 6;
    }
    for (const auto& [edge, count] : edges) out.open += count != 0;
    return out;
}

std::vector<Value> other_values(const Parameter& p) {
    switch (p.type) {
    case Parameter::Type::number:
    case Parameter::Type::whole: {
        std::vector<Value> out;
        for (const double share : {0.04, 0.31}) {
            const double v = p.range.low + share * (p.range.high - p.range.low);
            out.emplace_back(p.type == Parameter::Type::whole ? std::round(v) : v);
        }
        return out;
    }
    case Parameter::Type::toggle: return {true, false};
    case Parameter::Type::choice: {
        std::vector<Value> out;
        for (const auto c : p.choices) out.emplace_back(std::string(c));
        return out;
    }
    case Parameter::Type::curve: return {Points{{0.0f, 0.1f}, {0.4f, 0.8f}, {1.0f, 0.9f}}};
    case Parameter::Type::stops:
        return {
            Stops{{0.1f, rgb(20, 60, 90)}, {0.4f, rgb(230, 190, 90)}, {0.9f, Color{0.2f, 0.1f, 0.3f, 0.5f}}}};
    case Parameter::Type::map: { // of the element itself
        std::vector<Value> out;
        for (const MapOf of : {MapOf::tone, MapOf::height, MapOf::red_green, MapOf::slopes})
            out.emplace_back(std::optional(MapRef{"", of, 0.1f, 0.8f}));
        return out;
    }
    case Parameter::Type::color: return {Color{0.5f, 0.45f, 0.4f, 1}};
    default: return {};
    }
}

std::vector<Value> other_values(const Described& what, const Parameter& p) {
    // Corners that fold are refused.
    if (what.is("perspective") && p.type == Parameter::Type::number) return {14.0, -9.0};
    return other_values(p);
}

} // namespace bathylux
