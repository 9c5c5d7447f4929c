// The solid: rays, places and light against closed forms in double; a plane against the flat lit picture;
// meshes against what a solid body has to be.
#include <QtTest>
#include <map>
#include <numbers>

#include "core/error.h"
#include "core/field/srgb.h"
#include "core/render/solid_view.h"
#include "core/solid/mesh_body.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

constexpr double turn_once = 2 * std::numbers::pi;
constexpr double degree = std::numbers::pi / 180;

std::string with_quotes(std::string json) {
    std::replace(json.begin(), json.end(), '\'', '"');
    return json;
}

/// A piece of 400 × 300 px with a solid.
Scene solid_piece(const std::string& elements, const std::string& solid, const std::string& more = "") {
    return scene_of(piece_json(400, 300, with_quotes(elements), with_quotes("'solid': " + solid + more)));
}

SolidPicture seen(const Scene& scene, int w, int h, int samples = 1) {
    Evaluator evaluator;
    SolidPicture out(w, h);
    out.add(solid_scene(evaluator, scene), samples);
    return out;
}

/// How alike two pictures of 400 × 300 px are as they are shown: PSNR, dB.
double likeness(const Strip& flat, const std::array<Plane, 4>& lit) {
    double sum = 0;
    for (int c = 0; c < 3; ++c)
        for (int y = 0; y < 300; ++y)
            for (int x = 0; x < 400; ++x) {
                const auto encoded = [](float v) { return srgb_encode(std::clamp(v, 0.0f, 1.0f)); };
                sum += std::pow(encoded(flat.channels[c].at(x, y)) - encoded(lit[c](x, y)), 2);
            }
    return -10 * std::log10(sum / (3 * 400 * 300));
}

/// The ray through a point of the picture, told as NEXT tells of the camera: eye at `distance` from the
/// origin, `turn` round to the right, `tilt` up.
struct Eye {
    double turn, tilt, distance, field;
    Vec3 towards() const {
        return {std::sin(turn * degree) * std::cos(tilt * degree), std::sin(tilt * degree),
                std::cos(turn * degree) * std::cos(tilt * degree)};
    }
    Vec3 right() const { return {std::cos(turn * degree), 0, -std::sin(turn * degree)}; }
    Vec3 at() const { return distance * towards(); }
    Vec3 way(double x, double y, int w, int h) const {
        const double k = std::tan(field / 2 * degree) / (h / 2.0);
        return normalized((x - w / 2.0) * k * right() + (h / 2.0 - y) * k * cross(towards(), right()) -
                          towards());
    }
    Vec3 on_picture(Vec3 p, int w, int h) const {
        const Vec3 d = p - at();
        const double depth = -dot(d, towards()), k = (h / 2.0) / std::tan(field / 2 * degree) / depth;
        return {w / 2.0 + k * dot(d, right()), h / 2.0 - k * dot(d, cross(towards(), right())), depth};
    }
};
constexpr const char* eye_json = "'camera': {'turn': 25, 'tilt': 18, 'distance': 1500, 'field': 24}";
constexpr Eye eye{25, 18, 1500, 24};

/// Where a ray meets a sphere about the origin; infinite: nowhere.
double meets_sphere(Vec3 from, Vec3 way, double r) {
    const double b = dot(from, way), c = dot(from, from) - r * r, d = b * b - c;
    return d < 0 ? INFINITY : -b - std::sqrt(d);
}
/// The side of a cylinder about the y axis.
double meets_cylinder(Vec3 from, Vec3 way, double r, double half) {
    const double a = way.x * way.x + way.z * way.z, b = from.x * way.x + from.z * way.z,
                 c = from.x * from.x + from.z * from.z - r * r, d = b * b - a * c;
    if (d < 0) return INFINITY;
    const double t = (-b - std::sqrt(d)) / a;
    return std::abs(from.y + t * way.y) < half ? t : INFINITY;
}

/// Middle of what is redder than it is green in the flat picture of a solid.
std::optional<Vec2> red_middle(const SolidPicture& p) {
    const auto art = p.art();
    double sum = 0, x = 0, y = 0;
    for (int j = 0; j < p.height(); ++j)
        for (int i = 0; i < p.width(); ++i) {
            const double w = std::max(0.0f, art[0](i, j) - art[1](i, j));
            sum += w, x += w * (i + 0.5), y += w * (j + 0.5);
        }
    return sum > 0 ? std::optional(Vec2{x / sum, y / sum}) : std::nullopt;
}

ReliefMesh mesh_of(const Scene& scene, const MeshOrder& order) {
    Evaluator evaluator;
    const Canvas& c = scene.piece->canvas;
    const SkinParts parts = skin_parts(evaluator, scene);
    return relief_mesh(scene.piece->solid->body, *parts.texels, c.width, c.height, order, parts.mesh.get());
}

constexpr const char* dome =
    "{'id': 'dome', 'source': {'kind': 'ellipse', 'width': 220, 'height': 220, 'color': '#c08040'},"
    " 'steps': [{'kind': 'bevel', 'width': 60, 'rise': 24, 'profile': 'round'}]}";

} // namespace

class TestSolid : public QObject {
    Q_OBJECT

  private slots:
    void spheres_and_cylinders_lie_where_they_should() {
        const int w = 320, h = 240;
        const std::pair<const char*, std::function<double(Vec3, Vec3)>> bodies[] = {
            {"{'kind': 'sphere', 'radius': 200, ", [](Vec3 o, Vec3 d) { return meets_sphere(o, d, 200); }},
            {"{'kind': 'cylinder', 'radius': 150, 'height': 500, ",
             [](Vec3 o, Vec3 d) { return meets_cylinder(o, d, 150, 250); }}};
        for (const auto& [json, meets] : bodies) {
            const SolidPicture p = seen(solid_piece("", std::string(json) + eye_json + "}"), w, h);
            const Plane depths = p.depth();
            const auto normals = p.normals();
            int looked = 0;
            for (int y = 0; y < h; y += 3)
                for (int x = 0; x < w; x += 3) {
                    const Vec3 way = eye.way(x + 0.5, y + 0.5, w, h);
                    const double t = meets(eye.at(), way);
                    if (!std::isfinite(t)) continue;
                    const Vec3 at = eye.at() + t * way;
                    const Vec3 n = normalized(json[10] == 's' ? at : Vec3{at.x, 0, at.z});
                    if (dot(n, way) > -0.25) continue; // the limb, where a facet tells
                    ++looked;
                    const double depth = t * dot(way, -eye.towards());
                    QVERIFY2(std::abs(depths(x, y) - depth) < 0.5,
                             qPrintable(QString::number(depths(x, y) - depth)));
                    const Vec3 is{normals[0](x, y), normals[1](x, y), normals[2](x, y)};
                    QVERIFY(std::acos(std::min(1.0, dot(is, n))) < 0.5 * degree);
                }
            QVERIFY(looked > 1000);
            QVERIFY(std::isinf(depths(2, 2)));
        }
    }

    /// A mark on the label lies where the label's place, turn and size put it.
    void marks_lie_where_the_label_puts_them() {
        const int w = 480, h = 360;
        const std::string mark =
            "{'id': 'm', 'source': {'kind': 'ellipse', 'width': 16, 'height': 16, 'color': '#ff0000'},"
            " 'placement': {'x': 290, 'y': 110}}";
        const double u = 60, v = -25, turn = 20, scale = 1.3, R = 220;
        const std::string laid =
            "'u': 60, 'v': -25, 'turn': 20, 'scale': 1.3, 'radius': 220, 'height': 700, 'color': '#204040', ";
        // Own u axis along (cos, −sin), y down.
        const double c = std::cos(turn * degree), s = std::sin(turn * degree);
        const double lx = scale * (290 - 200), ly = scale * (110 - 150);
        const Vec2 at{c * lx + s * ly, -s * lx + c * ly};
        const auto check = [&](const std::string& json, Vec3 place) {
            const auto is = red_middle(seen(solid_piece(mark, json), w, h, 16));
            QVERIFY(is);
            const Vec3 should = eye.on_picture(place, w, h);
            QVERIFY2(
                std::hypot(is->x - should.x, is->y - should.y) < 1,
                qPrintable(QString("%1, %2, not %3, %4").arg(is->x).arg(is->y).arg(should.x).arg(should.y)));
        };
        const double angle = (u + at.x) / R;
        check("{'kind': 'cylinder', " + laid + eye_json + "}",
              {R * std::sin(angle), -(v + at.y), R * std::cos(angle)});
        // Azimuthal-equidistant about the label's middle.
        const double lon = u / R, lat = -v / R, far = std::hypot(at.x, at.y) / R;
        const Vec3 middle{std::sin(lon) * std::cos(lat), std::sin(lat), std::cos(lon) * std::cos(lat)},
            right{std::cos(lon), 0, -std::sin(lon)}, down = cross(right, middle);
        const Vec3 along = normalized(at.x * right + at.y * down);
        check("{'kind': 'sphere', " + laid + eye_json + "}",
              R * (std::cos(far) * middle + std::sin(far) * along));
        // The whole canvas as the skin: longitude and latitude.
        const double wl = (290 / 400.0 - 0.5) * turn_once, wb = -(110 / 300.0 - 0.5) * turn_once / 2;
        const std::string whole = "{'kind': 'sphere', 'wrap': 'whole', 'radius': 220, 'color': '#204040', "
                                  "'camera': {'turn': 60, 'tilt': 30, 'distance': 1500, 'field': 24}}";
        const auto is = red_middle(seen(solid_piece(mark, whole), w, h, 16));
        const Vec3 should = Eye{60, 30, 1500, 24}.on_picture(
            R * Vec3{std::sin(wl) * std::cos(wb), std::sin(wb), std::cos(wl) * std::cos(wb)}, w, h);
        QVERIFY(is && std::hypot(is->x - should.x, is->y - should.y) < 1);
        // On a box it goes round the corner: as far along the side as is left of the way.
        check("{'kind': 'box', 'width': 300, 'height': 500, 'depth': 400, 'u': 200, 'color': '#204040', " +
                  std::string(eye_json) + "}",
              {150, 150 - 110.0, 200 - (200 + (290 - 200) - 150.0)});
    }

    /// Matte and glossy, from an eye that is near: the light of the glTF formulas in double.
    void light_follows_the_formulas() {
        const int w = 240, h = 180;
        const double R = 200;
        const std::string body = "{'kind': 'sphere', 'radius': 200, 'fineness': 2, 'color': '#b4785a', ";
        const std::string lights = ", 'ambient': {'intensity': 0}, 'lights': ["
                                   "{'id': 'far', 'kind': 'directional', 'angle': 30, 'elevation': 40, "
                                   "'color': '#ffffff', 'intensity': 0.8},"
                                   "{'id': 'lamp', 'kind': 'point', 'x': 450, 'y': -50, 'z': 500, 'color': "
                                   "'#ffffff', 'intensity': 0.7, "
                                   "'falloff': 'square', 'distance': 500}]";
        const Vec3 far{std::cos(40 * degree) * std::cos(30 * degree),
                       std::cos(40 * degree) * std::sin(30 * degree), std::sin(40 * degree)},
            lamp{450 - 200, 150 + 50, 500};
        for (const double roughness : {1.0, 0.35}) {
            const double metallic = roughness < 0.5 ? 0.3 : 0;
            const std::string surface = "'surface': {'roughness': " + std::to_string(roughness) +
                                        ", 'metallic': " + std::to_string(metallic) + "}, ";
            const SolidPicture p = seen(solid_piece("", body + surface + eye_json + "}", lights), w, h);
            const auto lit = p.lit();
            const float base = srgb_decode(0xb4 / 255.0f);
            int looked = 0;
            for (int y = 0; y < h; y += 2)
                for (int x = 0; x < w; x += 2) {
                    const Vec3 way = eye.way(x + 0.5, y + 0.5, w, h);
                    const double t = meets_sphere(eye.at(), way, R);
                    if (!std::isfinite(t)) continue;
                    const Vec3 at = eye.at() + t * way, n = normalized(at), view = -way;
                    if (dot(n, view) < 0.2) continue;
                    double sum = 0;
                    for (const bool near : {false, true}) {
                        const Vec3 l = near ? normalized(lamp - at) : far;
                        const double ndl = dot(n, l), ndv = dot(n, view);
                        if (ndl <= 0) continue;
                        const Vec3 half = normalized(l + view);
                        const double a2 = std::pow(roughness, 4), ndh = dot(n, half);
                        const double d = a2 / (std::numbers::pi * std::pow(ndh * ndh * (a2 - 1) + 1, 2));
                        const double vis = 0.5 / (ndl * std::sqrt(ndv * ndv * (1 - a2) + a2) +
                                                  ndv * std::sqrt(ndl * ndl * (1 - a2) + a2));
                        const double f0 = 0.04 * (1 - metallic) + base * metallic,
                                     f = f0 + (1 - f0) * std::pow(1 - dot(half, view), 5);
                        const double brdf = (1 - f) * (1 - metallic) * base / std::numbers::pi + f * d * vis;
                        const double power = near ? 0.7 * std::pow(500 / length(lamp - at), 2) : 0.8;
                        sum += std::numbers::pi * power * brdf * ndl;
                    }
                    ++looked;
                    QVERIFY2(std::abs(lit[0](x, y) - sum) < 1e-3,
                             qPrintable(QString::number(lit[0](x, y) - sum)));
                }
            QVERIFY(looked > 500);
        }
    }

    /// A straight, parallel look at a plane is the flat lit picture, soft shadows and all.
    void a_plane_looked_at_straight_is_the_lit_picture() {
        const std::string scene_json =
            std::string(dome) +
            ", {'id': 'bar', 'source': {'kind': 'rectangle', 'width': 60, 'height': 200, 'color': '#4060a0'},"
            " 'placement': {'x': 90, 'y': 150, 'turn': 17}, 'steps': [{'kind': 'bevel', 'width': 12, 'rise': "
            "30}]}";
        const std::string more = ", 'lights': [{'id': 'sun', 'kind': 'directional', 'angle': 150, "
                                 "'elevation': 32, 'intensity': 1, "
                                 "'shadow': true, 'size': 3},"
                                 "{'id': 'lamp', 'kind': 'point', 'x': 330, 'y': 60, 'z': 120, 'intensity': "
                                 "0.8, 'falloff': 'linear', "
                                 "'distance': 200, 'shadow': true, 'size': 20}]";
        Scene scene = solid_piece(scene_json, "{'camera': {'turn': 0, 'tilt': 0, 'field': 0}}", more);
        auto piece = std::make_shared<Piece>(*scene.piece);
        piece->canvas.background = rgb(140, 150, 130);
        scene.piece = piece;
        Evaluator evaluator;
        const Strip flat = look(evaluator, scene, View::lit, {0, 0, 400, 300}, 1);
        const auto lit = seen(scene, 400, 300, 16).lit();
        const double psnr = likeness(flat, lit);
        QVERIFY2(psnr > 38, qPrintable(QString::number(psnr)));
        // And again, bit for bit.
        const auto again = seen(scene, 400, 300, 16).lit();
        QCOMPARE(worst_difference(lit[1], again[1]), 0.0);
    }

    /// So is one on which something is seen through something, a group is lit by itself and blended over,
    /// and words lie on top.
    void sheets_on_a_plane_are_the_lit_picture() {
        const std::string elements =
            "[{'id': 'ground', 'source': {'kind': 'pattern', 'pattern': 'checks', 'scale': 40, 'color_a': "
            "'#206080', 'color_b': '#e0c080'}},"
            "{'id': 'glow', 'source': {'kind': 'group', 'lit': true}, 'mix': {'blend': 'screen', 'opacity': "
            "0.8}, 'elements': [{'id': 'ring', 'source': {'kind': 'ellipse', 'width': 130, 'height': 130, "
            "'color': '#a05030'}, 'placement': {'x': 280, 'y': 160}, 'steps': [{'kind': 'bevel', 'width': "
            "20, "
            "'rise': 12}]}]},"
            "{'id': 'lens', 'source': {'kind': 'ellipse', 'width': 200, 'height': 180, 'color': '#d0ffe0'}, "
            "'placement': {'x': 170, 'y': 150}, 'surface': {'roughness': 0.15, 'transmission': 0.9, 'ior': "
            "1.5, 'thickness': 24, 'attenuation_color': '#80c0ff', 'attenuation_distance': 60}, 'steps': "
            "[{'kind': 'bevel', 'width': 60, 'rise': 30}]},"
            "{'id': 'bar', 'source': {'kind': 'rectangle', 'width': 60, 'height': 150, 'color': '#903020'},"
            " 'placement': {'x': 220, 'y': 150, 'turn': 17}, 'mix': {'opacity': 0.7}, 'steps': [{'kind': "
            "'bevel', 'width': 12, 'rise': 10}]}]";
        const std::string lights = ", 'lights': [{'id': 'sun', 'kind': 'directional', 'angle': 150, "
                                   "'elevation': 40, 'intensity': 0.9, 'shadow': true, 'size': 3}], "
                                   "'ambient': {'intensity': 0.2, 'occlusion': false}";
        // Mixed otherwise, the lens bends nothing: on a body it is mixed with what is seen through it.
        std::string mixed = elements;
        const std::string bent = "'ior': 1.5, ", closed = "[{'kind': 'bevel', 'width': 60, 'rise': 30}]";
        mixed.replace(mixed.find(closed), closed.size(), closed + ", 'mix': {'blend': 'multiply'}");
        mixed.replace(mixed.find(bent), bent.size(), "'ior': 1.0, ");
        for (const std::string& all : {elements, mixed}) {
            const Scene scene = solid_piece(all.substr(1, all.size() - 2),
                                            "{'camera': {'turn': 0, 'tilt': 0, 'field': 0}}", lights);
            Evaluator evaluator;
            QCOMPARE(solid_scene(evaluator, scene).sheets.size(), std::size_t{4});
            const Strip flat = look(evaluator, scene, View::lit, {0, 0, 400, 300}, 1);
            const double psnr = likeness(flat, seen(scene, 400, 300, 32).lit());
            QVERIFY2(psnr > 38, qPrintable(QString::number(psnr)));
        }
    }

    /// What lies under plane glass is seen shifted by thickness × tan of the refracted angle (Snell).
    void glass_shifts_what_lies_under_it() {
        const double turn = 40, thick = 30, ior = 1.5;
        const Scene scene =
            solid_piece("{'id': 'mark', 'source': {'kind': 'rectangle', 'width': 200, 'height': 300, "
                        "'color': '#ffffff'}, "
                        "'placement': {'x': 100, 'y': 150}},"
                        "{'id': 'pane', 'source': {'kind': 'rectangle', 'width': 380, 'height': 280, "
                        "'color': '#ffffff'}, "
                        "'surface': {'transmission': 1, 'ior': 1.5, 'thickness': 30, 'roughness': 0}}",
                        "{'color': '#000000', 'camera': {'turn': 40, 'tilt': 0, 'field': 0}}",
                        ", 'lights': [], 'ambient': {'intensity': 1, 'occlusion': false}");
        const auto lit = seen(scene, 400, 300, 16).lit();
        const float bright = lit[1](190, 150);
        QVERIFY(bright > 0.5f && lit[1](260, 150) < 0.05f * bright);
        double edge = 150; // where the mark ends: as much light as that many px all lit would give
        for (int x = 150; x < 300; ++x) edge += std::clamp(lit[1](x, 150) / bright, 0.0f, 1.0f);
        const double inside = std::asin(std::sin(turn * degree) / ior),
                     seen_at = 200 + thick * std::tan(inside) * std::cos(turn * degree);
        QVERIFY2(std::abs(edge - seen_at) < 0.7, qPrintable(QString("%1 %2").arg(edge).arg(seen_at)));
    }

    /// Raised and sunk heights are geometry: they are nearer and farther, and seen from the side stand out.
    void relief_is_geometry() {
        for (const double factor : {1.0, -1.0}) {
            const std::string relief = "'relief': " + std::to_string(factor);
            const std::string straight = "'camera': {'turn': 0, 'tilt': 0, 'distance': 1500, 'field': 24}";
            const SolidPicture p =
                seen(solid_piece(dome, "{'kind': 'cylinder', 'radius': 300, 'height': 600, " + relief + ", " +
                                           straight + "}"),
                     200, 150);
            QVERIFY(std::abs(p.depth()(100, 75) - (1500 - 300 - factor * 24)) < 0.5);
        }
        // From the right the dome stands over the outline of the bare cylinder.
        const std::string from_right = "'camera': {'turn': 90, 'tilt': 0, 'distance': 3000, 'field': 0}";
        const auto edge = [&](const std::string& relief) {
            const SolidPicture p = seen(
                solid_piece(dome,
                            "{'kind': 'cylinder', 'radius': 100, 'height': 600, 'fineness': 2, 'relief': " +
                                relief + ", " + from_right + "}"),
                400, 300);
            const Plane depths = p.depth();
            int x = 0;
            while (std::isinf(depths(x, 150))) ++x;
            return x; // the front lies to the left
        };
        const int bare = edge("0"), raised = edge("1");
        QVERIFY2(std::abs(bare - 100) <= 1 && std::abs(bare - raised - 24) <= 1,
                 qPrintable(QString("%1 %2").arg(bare).arg(raised)));
    }

    void other_colors_lie_on_the_same_skin() {
        const std::string cylinder =
            std::string("{'kind': 'cylinder', 'radius': 300, 'height': 600, ") + eye_json + "}";
        Evaluator evaluator;
        const auto of = [&](const std::string& color, const std::string& rise) {
            std::string element = dome;
            element.replace(element.find("#c08040"), 7, color);
            element.replace(element.find("'rise': 24"), 10, "'rise': " + rise);
            return solid_scene(evaluator, solid_piece(element, cylinder));
        };
        const auto colors = [](const SolidScene& scene) {
            SolidPicture p(60, 45);
            p.add(scene, 1);
            std::array<double, 2> sum{}; // of red and blue
            for (int y = 0; y < 45; ++y)
                for (int x = 0; x < 60; ++x) sum[0] += p.art()[0](x, y), sum[1] += p.art()[2](x, y);
            return sum;
        };
        const SolidScene orange = of("#c08040", "24"), blue = of("#4080c0", "24"),
                         higher = of("#4080c0", "25");
        QCOMPARE(orange.skin, blue.skin);
        QVERIFY(higher.skin != blue.skin);
        const auto warm = colors(orange), cool = colors(blue);
        QVERIFY(warm[0] > cool[0] + 1 && warm[1] < cool[1] - 1);
    }

    /// An edge that only some samples meet is lit as what lies beside it.
    void edges_are_lit_as_what_lies_beside_them() {
        const Scene scene = solid_piece(
            "",
            "{'kind': 'plane', 'color': '#ffffff', 'surface': {'roughness': 1}, "
            "'camera': {'turn': 0, 'tilt': 0, 'roll': 7, 'field': 0}}",
            ", 'ambient': {'intensity': 0}, 'lights': [{'id': 'l', 'kind': 'directional', 'angle': 90, "
            "'elevation': 90, 'intensity': 1, 'shadow': true}]");
        const auto lit = seen(scene, 500, 360, 64).lit();
        int edges = 0;
        for (int y = 0; y < 360; ++y)
            for (int x = 0; x < 500; ++x)
                if (const float a = lit[3](x, y); a > 0.02f && a < 0.98f) {
                    ++edges;
                    QVERIFY(std::abs(lit[1](x, y) / a - lit[1](250, 180)) < 0.02);
                }
        QVERIFY(edges > 100);
    }

    void px_that_have_settled_take_no_more() {
        const Scene scene = solid_piece(
            "{'id': 'a', 'source': {'kind': 'ellipse', 'width': 160, 'height': 160}, 'placement': {'x': 200, "
            "'y': 150}, 'steps': [{'kind': 'bevel', 'width': 30, 'rise': 12}]}",
            std::string("{'kind': 'cylinder', 'radius': 150, 'height': 300, ") + eye_json + "}",
            ", 'lights': [{'id': 'l', 'kind': 'directional', 'angle': 130, 'shadow': true, 'size': 8}], "
            "'ambient': {'occlusion': true}");
        Evaluator evaluator;
        const SolidScene solid = solid_scene(evaluator, scene);
        const int w = 160, h = 120;
        SolidPicture at_once(w, h), one_by_one(w, h), many(w, h);
        at_once.add(solid, 16), many.add(solid, 96);
        for (int i = 0; i < 16; ++i) one_by_one.add(solid);
        const auto lit = at_once.lit(), again = one_by_one.lit(), full = many.lit();
        const Plane taken = at_once.taken();
        int settled = 0, edges = 0, between = 0;
        double off = 0;
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                const float n = taken(x, y);
                QVERIFY(n >= 2 && n <= 16);
                settled += n <= 3;
                // What is partly covered is an edge, and edges take all.
                const bool edge = lit[3](x, y) > 0 && lit[3](x, y) < 1;
                edges += edge;
                QVERIFY(!edge || n == 16);
                // So do those beside which one is quite different: the edge lies in one of them, even if no
                // sample met it yet. (Tiles do not look at each other: they are 32 px wide.)
                if (x % 32 > 0 && std::abs(lit[3](x, y) - lit[3](x - 1, y)) > 0.9f) {
                    ++between;
                    QVERIFY(n == 16 && taken(x - 1, y) == 16);
                }
                for (int c = 0; c < 4; ++c) {
                    QCOMPARE(lit[c](x, y), again[c](x, y));
                    off += std::pow(srgb_encode(lit[c](x, y)) - srgb_encode(full[c](x, y)), 2);
                }
            }
        QVERIFY2(settled > w * h / 2, qPrintable(QString::number(settled)));
        QVERIFY(edges > 100 && between > 20);
        const double db = 10 * std::log10(4.0 * w * h / off);
        QVERIFY2(db > 42, qPrintable(QString::number(db)));
    }

    /// The ground catches a shadow as wide as its body, where the light puts it; with a see-through ground
    /// that is all there is of it.
    void the_ground_catches_shadow() {
        const std::string body =
            "{'kind': 'sphere', 'radius': 100, 'ground': {'on': true, 'height': -160, 'color': '#80808000'}, "
            "'camera': {'turn': 0, 'tilt': 90, 'distance': 2000, 'field': 0}}";
        const std::string light =
            ", 'ambient': {'intensity': 0}, 'lights': [{'id': 'l', 'kind': 'directional', 'angle': 90, "
            "'elevation': 0, 'intensity': 1, 'shadow': true}]";
        // Straight down onto it: the shadow is the sphere's circle, all of it under the sphere.
        Scene scene = solid_piece("", body, light);
        auto p = seen(scene, 400, 300);
        QVERIFY(p.lit()[3](200, 150) == 1 && p.lit()[3](200, 20) == 0);
        // From 45° behind: moved by 160 px towards the viewer.
        scene = solid_piece(
            "", body,
            ", 'ambient': {'intensity': 0}, 'lights': [{'id': 'l', 'kind': 'directional', 'angle': 90, "
            "'elevation': -45, 'intensity': 1, 'shadow': true}]");
        p = seen(scene, 400, 500);
        const auto lit = p.lit();
        const double per_px = 300.0 / 500;
        const auto covered = [&](double x, double z) { // of the ground's plane, px
            return lit[3](static_cast<int>(200 + x / per_px), static_cast<int>(250 + z / per_px));
        };
        QVERIFY(covered(0, 130) == 1 && covered(0, 128) == 1 && covered(90, 130) == 1 &&
                covered(-110, 130) == 0);
    }

    void meshes_are_closed_and_of_their_volume() {
        const Scene flat = solid_piece(dome, "{'kind': 'plane'}");
        const Plane height = height_of(flat);
        double sum = 0;
        for (int y = 0; y < 300; ++y)
            for (int x = 0; x < 400; ++x) sum += height(x, y);
        MeshOrder order{.fineness = 2, .base = 30};
        ReliefMesh m = mesh_of(flat, order);
        Boundary b = boundary_of(m.mesh);
        QCOMPARE(b.open, 0);
        const double volume = sum + 30.0 * 400 * 300;
        QVERIFY(std::abs(b.volume / volume - 1) < 0.01);
        // Left out where it is flat: fewer triangles, as closed.
        const std::size_t before = m.mesh.triangles.size();
        order.error = 0.2;
        m = mesh_of(flat, order);
        b = boundary_of(m.mesh);
        QCOMPARE(b.open, 0);
        QVERIFY(std::abs(b.volume / volume - 1) < 0.01 && m.mesh.triangles.size() < before / 3);
        // Without a base it is open; deeper than its base it is refused.
        QVERIFY(boundary_of(mesh_of(flat, {.fineness = 4}).mesh).open > 0);
        const Scene sunk = solid_piece(dome, "{'kind': 'plane', 'relief': -1}");
        QVERIFY(trouble_of([&] { mesh_of(sunk, {.fineness = 4, .base = 10}); }).find("thicker base") !=
                std::string::npos);
        // Whole bodies close by themselves.
        const double R = 120, H = 300;
        const std::pair<const char*, double> bodies[] = {
            {"{'kind': 'sphere', 'wrap': 'whole', 'radius': 120, 'relief': 0}",
             4 * std::numbers::pi * R * R * R / 3},
            {"{'kind': 'cylinder', 'wrap': 'whole', 'radius': 120, 'height': 300, 'relief': 0}",
             std::numbers::pi * R * R * H},
            {"{'kind': 'box', 'wrap': 'whole', 'width': 200, 'height': 300, 'depth': 100, 'relief': 0}",
             200.0 * 300 * 100}};
        for (const auto& [json, should] : bodies) {
            const Boundary closed = boundary_of(mesh_of(solid_piece(dome, json), {.fineness = 4}).mesh);
            QCOMPARE(closed.open, 0);
            QVERIFY(std::abs(closed.volume / should - 1) < 0.01);
        }
    }

    /// A mesh of one's own: fitted, cut and raised without tearing; its skin follows its texture coordinates.
    void own_meshes_carry_the_relief() {
        // A cube without texture coordinates.
        auto cube = std::make_shared<TriangleMesh>();
        for (int i = 0; i < 8; ++i)
            cube->points.push_back({i & 1 ? 3.0f : 1.0f, i & 2 ? 1.0f : -1.0f, i & 4 ? 1.0f : -1.0f});
        const int faces[6][4] = {{4, 5, 7, 6}, {1, 0, 2, 3}, {5, 1, 3, 7},
                                 {0, 4, 6, 2}, {6, 7, 3, 2}, {0, 1, 5, 4}};
        for (const auto& f : faces) {
            cube->triangles.push_back({std::uint32_t(f[0]), std::uint32_t(f[1]), std::uint32_t(f[2])});
            cube->triangles.push_back({std::uint32_t(f[0]), std::uint32_t(f[2]), std::uint32_t(f[3])});
        }
        auto asset = std::make_shared<Asset>();
        asset->mesh = cube;
        const auto scene_with = [&](const std::string& json) {
            Scene scene = solid_piece(dome, json);
            auto assets = std::make_shared<Assets>(*scene.assets);
            (*assets)[std::string(body_key)] = asset;
            scene.assets = assets;
            return scene;
        };
        const double side = 2 * 200 / std::sqrt(3.0);
        Boundary b = boundary_of(
            mesh_of(scene_with("{'kind': 'mesh', 'radius': 200, 'relief': 0}"), {.fineness = 8}).mesh);
        QCOMPARE(b.open, 0);
        QVERIFY(std::abs(b.volume / (side * side * side) - 1) < 1e-4);
        b = boundary_of(
            mesh_of(scene_with("{'kind': 'mesh', 'radius': 200, 'wrap': 'whole'}"), {.fineness = 8}).mesh);
        QCOMPARE(b.open, 0);
        // Placed in front: the dome's top is as much nearer as it is high, in the middle of the face.
        const std::string straight =
            "'fineness': 3, 'camera': {'turn': 0, 'tilt': 0, 'distance': 1500, 'field': 24}}";
        const SolidPicture p =
            seen(scene_with("{'kind': 'mesh', 'radius': 200, 'scale': 0.5, " + straight), 200, 150);
        QVERIFY2(std::abs(p.depth()(100, 75) - (1500 - side / 2 - 24)) < 0.5,
                 qPrintable(QString::number(p.depth()(100, 75))));
        // What the label does not reach is bare, and has texture coordinates that are numbers all the same.
        const ReliefMesh label =
            mesh_of(scene_with("{'kind': 'mesh', 'radius': 200, 'scale': 0.3}"), {.fineness = 8});
        QVERIFY(label.skin_triangles > 0 && label.skin_triangles < label.mesh.triangles.size() / 2);
        for (const auto& t : label.mesh.texture)
            for (const auto& uv : t) QVERIFY(std::isfinite(uv[0]) && std::isfinite(uv[1]));
        QVERIFY(trouble_of([&] {
                    seen(solid_piece(dome, "{'kind': 'mesh'}"), 8, 8);
                }).find("choose a file") != std::string::npos);
    }

    /// Lights over the skin and before the camera go with what they stand on.
    void lights_go_with_body_and_camera() {
        const std::string solid = "{'kind': 'sphere', 'radius': 200, 'u': 100, 'v': 50, 'camera': {'turn': "
                                  "40, 'tilt': 10, 'distance': 900}}";
        const Scene scene = solid_piece(
            "", solid,
            ", 'lights': [{'id': 'a', 'kind': 'point', 'x': 200, 'y': 150, 'z': 80, 'stands': 'body'},"
            "{'id': 'b', 'kind': 'point', 'x': 200, 'y': 150, 'z': 900, 'stands': 'camera'}]");
        const Laying laying(scene.piece->solid->body, 400, 300);
        const auto lamp = [&](int i) {
            return *lamp_about(*scene.piece, scene.piece->lights[static_cast<std::size_t>(i)], laying,
                               scene.piece->solid->camera);
        };
        const Vec3 over{lamp(0).x, -lamp(0).y, lamp(0).z};
        const Vec3 middle{std::sin(0.5) * std::cos(-0.25), std::sin(-0.25), std::cos(0.5) * std::cos(-0.25)};
        QVERIFY(length(over - 280.0 * middle) < 0.01);
        const Eye from{40, 10, 900, 30};
        QVERIFY(length(Vec3{lamp(1).x, -lamp(1).y, lamp(1).z} - from.at()) < 0.01);
        // Moved by the hand, it comes to lie where it was put.
        Piece piece = *scene.piece;
        change_light(piece, "b", [&](Light& l) {
            put_about(piece, l, piece.solid->camera, {300, 200, 100});
        });
        const Lamp put = *lamp_about(piece, *find_light(piece, "b"), laying, piece.solid->camera);
        QVERIFY(length(Vec3{put.x, -put.y, put.z} - Vec3{300, 200, 100}) < 1.5);
    }

    void the_file_keeps_it_all() {
        const std::string solid =
            "{'kind': 'box', 'width': 321, 'depth': 123, 'wrap': 'whole', 'u': 7, 'relief': -0.5, "
            "'surface': {'roughness': 0.25}, 'camera': {'turn': 33, 'lens': 12, 'mine': 1}, "
            "'cameras': [{'name': 'Close', 'distance': 700}], 'ground': {'on': true}, 'own': [2]}";
        const Scene scene = solid_piece("", solid);
        const Piece again = piece_from_text(text_of(*scene.piece));
        QCOMPARE(content_hash(again), content_hash(*scene.piece));
        QVERIFY(again.solid->body.kind == BodyKind::box && again.solid->camera.turn == 33 &&
                again.solid->cameras.at(0).camera.distance == 700);
        QVERIFY(text_of(again).find("\"mine\": 1") != std::string::npos &&
                text_of(again).find("\"own\"") != std::string::npos);
        Piece set = again;
        set_parameter(set, "solid.camera.tilt", "-12");
        set_parameter(set, "solid.kind", "sphere");
        QVERIFY(set.solid->camera.tilt == -12 && set.solid->body.kind == BodyKind::sphere);
        QVERIFY(!trouble_of([&] { set_parameter(set, "solid.camera.zoom", "1"); }).empty());
        QVERIFY(trouble_of([&] { solid_piece("", "{'kind': 'torus'}"); }).find("kind") != std::string::npos);
    }
};

BATHYLUX_TEST(TestSolid)
#include "test_solid.moc"
