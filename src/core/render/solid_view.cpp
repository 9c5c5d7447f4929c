#include "core/render/solid_view.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/error.h"
#include "core/field/parallel.h"
#include "core/render/graph.h"
#include "core/render/lit.h"
#include "core/render/tied_lights.h"
#include "core/solid/triangle_mesh.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

std::shared_ptr<const TriangleMesh> mesh_of(const Scene& scene, const Body& body) {
    if (body.kind != BodyKind::mesh) return nullptr;
    const auto found = scene.assets->find(body_key);
    if (found == scene.assets->end()) throw Error("The solid's body has no mesh: choose a file for it.");
    if (!found->second->mesh) throw Error("The solid's body: " + found->second->trouble);
    return found->second->mesh;
}

/// A colour of the surface's own in place of the body's.
std::array<float, 3> bare_color(const Solid& solid) {
    const auto mixed = [&](float body, float own) {
        return srgb_decode(body) + solid.surface.own_color * (srgb_decode(own) - srgb_decode(body));
    };
    const Color &b = solid.body.color, &o = solid.surface.color;
    return {mixed(b.r, o.r), mixed(b.g, o.g), mixed(b.b, o.b)};
}

/// What lies on the canvas's plane, moved onto the skin where its canvas point comes to lie.
Lamp over_the_skin(const Lamp& lamp, const Laying& laying, double w, double h) {
    const auto at = [&](Vec2 p) { return laying.at(p); };
    const Vec2 foot = lamp.directional ? Vec2{w / 2, h / 2} : Vec2{lamp.x, lamp.y};
    const SurfacePoint s = at(foot);
    const Vec3 ahead = at({foot.x + 1, foot.y}).place - at({foot.x - 1, foot.y}).place;
    const Vec3 right = normalized(ahead - dot(ahead, s.normal) * s.normal), up = cross(s.normal, right);
    const auto turned = [&](Vec3 v) { return v.x * right + v.y * up + v.z * s.normal; };
    Lamp out = moved(
        lamp, [&](Vec3 p) { return s.place + p.z * s.normal; }, turned);
    if (lamp.cone && lamp.axis[2] < 0) {
        // What it is aimed at lies on the skin as well.
        const double k = lamp.z / -double(lamp.axis[2]);
        const Vec3 target = at({lamp.x + k * lamp.axis[0], lamp.y - k * lamp.axis[1]}).place;
        const Vec3 axis = normalized(target - Vec3{out.x, -out.y, out.z});
        out.axis = {static_cast<float>(axis.x), static_cast<float>(axis.y), static_cast<float>(axis.z)};
    }
    return out;
}

} // namespace

std::optional<Lamp> lamp_about(const Piece& piece, const Light& light, const Laying& laying,
                               const Camera& camera) {
    const auto lamp = lamp_of(on_canvas(piece, light).what);
    if (!lamp) return std::nullopt;
    const double w = piece.canvas.width, h = piece.canvas.height;
    if (light.stands == Stands::body) return over_the_skin(*lamp, laying, w, h);
    const Lamp there = lamp_in_space(*lamp, w, h);
    return light.stands == Stands::camera ? lamp_with_camera(there, camera) : there;
}

void put_about(const Piece& piece, Light& light, const Camera& camera, Vec3 p) {
    if (light.stands == Stands::camera) {
        const CameraAxes axes = axes_of(camera);
        const bool far = !light.kind().stands;
        const Vec3 from = far ? p : p - Vec3{camera.x, camera.y, camera.z};
        p = {dot(from, axes.right), dot(from, axes.up), dot(from, axes.towards)};
    }
    Described what = on_canvas(piece, light).what;
    if (light.kind().stands)
        what = what.with("x", std::round(p.x + piece.canvas.width / 2))
                   .with("y", std::round(piece.canvas.height / 2 - p.y))
                   .with("z", std::round(p.z));
    else if (what.kind().find("elevation")) {
        const Vec3 d = normalized(p);
        what = what.with("angle", std::round(std::atan2(d.y, d.x) / radians_per_degree))
                   .with("elevation", std::round(std::asin(std::clamp(d.z, -1.0, 1.0)) / radians_per_degree));
    }
    put_on_canvas(piece, light, what);
}

Lighting lighting_in_space(const Scene& scene, const Laying& laying, const Camera& camera) {
    Lighting out = lighting_of(scene);
    const std::vector<Light> lights = lights_on_canvas(*scene.piece);
    std::size_t i = 0;
    for (std::size_t n = 0; n < lights.size(); ++n)
        if (shines(lights, lights[n]))
            if (const auto lamp = lamp_about(*scene.piece, scene.piece->lights[n], laying, camera))
                out.lamps[i++] = *lamp;
    return out;
}

namespace {

/// What reaches over the join of a whole skin lies on its other side as well: once more, a canvas's width
/// away.
Scene gone_round(const Scene& scene) {
    const float w = scene.piece->canvas.width;
    Piece piece = *scene.piece;
    Assets assets = *scene.assets;
    Elements out;
    bool any = false;
    for (const auto& node : scene.piece->elements) {
        out.push_back(node);
        if (!node->mix.visible || node->kind().fills) continue;
        const Box box = element_box(scene, node->id);
        if (box.empty()) continue;
        for (const int way : {-1, 1}) {
            if (way < 0 ? box.x1 < w : box.x0 > 0) continue;
            Element again = *node;
            again.placement.x += static_cast<float>(way) * w;
            again.id += way < 0 ? " left of it" : " right of it";
            // Its parts find their files under names of their own.
            const std::function<void(Element&, const std::string&)> rename = [&](Element& e,
                                                                                 const std::string& tail) {
                for (auto& c : e.elements)
                    c = c.with([&](Element& child) {
                        const std::string was = child.id;
                        child.id += tail;
                        if (const auto found = assets.find(was); found != assets.end())
                            assets[child.id] = found->second;
                        rename(child, tail);
                    });
            };
            rename(again, way < 0 ? " left of it" : " right of it");
            if (const auto found = assets.find(node->id); found != assets.end())
                assets[again.id] = found->second;
            out.emplace_back(std::move(again));
            any = true;
        }
    }
    if (!any) return scene;
    piece.elements = std::move(out);
    return {std::make_shared<const Piece>(std::move(piece)),
            std::make_shared<const Assets>(std::move(assets)), scene.frame};
}

} // namespace

SkinParts skin_parts(Evaluator& evaluator, const Scene& given, bool in_sheets) {
    const Scene scene = given.piece->solid.value_or(Solid()).body.is_whole() ? gone_round(given) : given;
    const Piece& piece = *scene.piece;
    const Body body = piece.solid.value_or(Solid()).body.as_it_counts();
    const double scale =
        std::min(1.0, std::sqrt(most_skin_px / (double(piece.canvas.width) * piece.canvas.height)));
    const bool whole = body.is_whole(), around = whole || body.repeat || piece.canvas.edge == Edge::repeat,
               down = body.repeat || piece.canvas.edge == Edge::repeat;
    SkinParts out;
    out.mesh = mesh_of(scene, body);
    out.repeats = whole || body.repeat;
    const auto key = (Hash() << "texels" << relief_hash(scene, scale) << scale << around << down).value();
    out.texels = std::static_pointer_cast<const TexelMap>(evaluator.budget().kept(key, [&] {
        auto made = std::make_shared<const TexelMap>(std::make_shared<const Bundle>(evaluator.relief(
                                                         scene, canvas_region(piece.canvas, scale), scale)),
                                                     scale, around, down);
        const std::size_t bytes = made->bytes();
        return Kept{std::move(made), bytes};
    }));
    if (in_sheets) out.sheets = solid_sheets(evaluator, scene, scale, around, down);
    return out;
}

SolidScene solid_scene(Evaluator& evaluator, const Scene& scene, bool coarse) {
    const Piece& piece = *scene.piece;
    const Solid solid = piece.solid.value_or(Solid());
    const double w = piece.canvas.width, h = piece.canvas.height;
    const Body& body = solid.body;
    const SkinParts parts = skin_parts(evaluator, scene, true);
    // Built of heights alone: other colours lie on the same skin.
    const auto skin_of = [&](const TexelMap& texels) {
        Hash key;
        key << "skin" << texels.heights_hash() << w << h << (parts.mesh ? parts.mesh->hash : 0);
        for (const Parameter& p : Body::parameters)
            if (p.type != Parameter::Type::color) add_to(key, p.get(&body));
        std::uint64_t name = key.value();
        std::size_t points = most_skin_points;
        if (coarse && !evaluator.budget().has(name))
            points = most_coarse_points, name = (key << "coarse").value();
        return std::static_pointer_cast<const Skin>(evaluator.budget().kept(name, [&] {
            auto made = std::make_shared<const Skin>(body, texels, w, h, parts.mesh, points);
            const std::size_t bytes = made->bytes();
            return Kept{std::move(made), bytes};
        }));
    };
    SolidScene out;
    out.skin = skin_of(*parts.texels);
    out.sheets = parts.sheets.list;
    if (parts.sheets.solid) out.solid_skin = skin_of(*parts.sheets.solid);
    out.texels = parts.texels;
    set_surface(out.bare, solid.surface);
    const auto color = bare_color(solid);
    for (int c = 0; c < 3; ++c) out.bare.color[c] = color[c];
    out.bare.coverage = body.color.a;
    out.lighting = lighting_in_space(scene, out.skin->laying(), solid.camera);
    out.camera = solid.camera, out.ground = solid.ground;
    out.canvas_height = h;
    return out;
}

Piece turned_round(Piece piece, int step, int steps) {
    if (!piece.solid) piece.solid.emplace();
    piece.solid->camera.turn += 360.0f * static_cast<float>(step) / static_cast<float>(steps);
    return piece;
}

Bundle finished_solid(Evaluator& evaluator, const Scene& scene, const SolidScene& solid,
                      const SolidPicture& picture) {
    const int w = picture.width(), h = picture.height();
    Bundle lit, art;
    lit.region = art.region = {0, 0, w, h};
    const auto take = [&](std::array<Plane, 4> planes, Bundle& to) {
        // Before the backdrop, whose colour is straight and encoded.
        const Color b = scene.piece->solid.value_or(Solid()).body.backdrop;
        const std::array<float, 4> behind{b.a * srgb_decode(b.r), b.a * srgb_decode(b.g),
                                          b.a * srgb_decode(b.b), b.a};
        for (int c = 0; c < 4 && b.a > 0; ++c)
            parallel_rows(0, h, [&](int y) {
                const float* a = planes[3].row(y); // itself last
                for (int x = 0; x < w; ++x) planes[c](x, y) += (1 - std::min(1.0f, a[x])) * behind[c];
            });
        for (int c = 0; c < 3; ++c) to.color[c] = Field(std::move(planes[c]));
        to.coverage = Field(std::move(planes[3]));
    };
    take(picture.lit(), lit);
    take(picture.art(), art);
    if (!scene.piece->finish.empty()) {
        // The finish works on a canvas of the picture's proportions, as high as the piece's.
        Piece seen = *scene.piece;
        const double scale = h / double(seen.canvas.height);
        seen.canvas.width = static_cast<float>(w / scale);
        seen.canvas.edge = Edge::clamp;
        Scene as_seen = scene;
        as_seen.piece = std::make_shared<const Piece>(seen);
        Graph graph(as_seen, scale);
        auto given = std::make_shared<Operation>();
        static std::atomic<std::uint64_t> number = 0;
        given->hash = (Hash() << "solid" << ++number).value();
        given->called = "solid";
        given->gives = channel::color;
        given->extent = graph.canvas();
        given->run = [lit](const Work& work, const std::vector<Bundle>&) {
            return cropped(lit, work.region);
        };
        lit = evaluator.run(graph.finish(given), graph.canvas(), graph.canvas(), channel::color);
    }
    show_as_told(solid.lighting, art, lit);
    return lit;
}

} // namespace bathylux
