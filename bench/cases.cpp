#include "cases.h"

#include <memory>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include "core/bend/displace.h"
#include "core/bend/extrude.h"
#include "core/bend/melt.h"
#include "core/bend/perspective.h"
#include "core/colour/blur.h"
#include "core/colour/ramp.h"
#include "core/colour/tone_curve.h"
#include "core/colour/wash.h"
#include "core/field/gaussian.h"
#include "core/field/median.h"
#include "core/finish/gleam.h"
#include "core/light/normals.h"
#include "core/light/occlusion.h"
#include "core/light/shadow.h"
#include "core/make/integrate.h"
#include "core/make/noise.h"
#include "core/make/pattern.h"
#include "core/make/type_source.h"
#include "core/paint/brush.h"
#include "core/paint/push.h"
#include "core/piece/codec.h"
#include "core/relief/bands.h"
#include "core/relief/deterrace.h"
#include "core/render/budget.h"
#include "core/render/develop.h"
#include "core/render/see_through.h"
#include "core/render/solid_view.h"
#include "core/render/views.h"
#include "core/shape/distance.h"
#include "core/step/height.h"
#include "core/wear/wear.h"
#include "files/resolve.h"
#include "files/type.h"

namespace bathylux {

namespace {

constexpr int w = 1920, h = 1080;
constexpr Region all{0, 0, w, h};

Plane waves(float low, float high) {
    Plane p(w, h);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const float t =
                0.5f + 0.25f * std::sin(0.031f * static_cast<float>(x) + 0.011f * static_cast<float>(y)) +
                0.25f * std::sin(0.017f * static_cast<float>(y) - 0.023f * static_cast<float>(x));
            p(x, y) = low + t * (high - low);
        }
    return p;
}

Scene demo_scene(const std::string& name) {
    const auto opened = files::open_piece(std::string(BATHYLUX_DEMO_DIR) + "/" + name + ".json");
    files::Resolver resolver;
    return {std::make_shared<const Piece>(opened.piece), resolver.resolve(opened.piece, opened.store)};
}

/// The demo title at the size the table shows it in a window of 1280 × 800.
struct Table {
    Scene scene = demo_scene("last-tram-home");
    double scale = 0.33;
    Region region = canvas_region(scene.piece->canvas, scale);
    Evaluator evaluator;

    void show() {
        const auto strips = look(evaluator, scene, {View::lit, View::height}, region, scale);
        const Strip& lit = strips[0];
        const Field& heights = strips[1].channels[0];
        const Pixels pixels = develop_color({lit.channels[0], lit.channels[1], lit.channels[2]},
                                            lit.channels[3], region.width(), region.height());
        const auto range = range_of(heights);
        const Pixels chart =
            develop_height(heights, region.width(), region.height(),
                           {range.first, range.second, round_contour_step(range.first, range.second), false});
        if (pixels.argb.empty() || chart.argb.empty()) std::abort();
    }
};

} // namespace

std::function<void()> yardstick() {
    auto in = std::make_shared<cv::Mat>(h, w, CV_32F), out = std::make_shared<cv::Mat>();
    cv::randu(*in, 0.0f, 1.0f);
    cv::setNumThreads(1);
    return [in, out] { cv::GaussianBlur(*in, *out, cv::Size(), 5); };
}

std::vector<Case> core_cases() {
    std::vector<Case> out;
    {
        auto relief = std::make_shared<Bundle>();
        relief->region = all;
        for (Field& c : relief->color) c = Field(waves(0.1f, 0.9f));
        relief->coverage = 1.0f;
        relief->height = Field(waves(0, 20));
        relief->roughness = Field(waves(0.2f, 0.8f));
        relief->metallic = Field(waves(0, 1));
        Piece piece;
        for (int i = 0; i < 4; ++i) {
            PointLight p;
            p.x = 300.0f + 400.0f * static_cast<float>(i), p.y = 200.0f + 200.0f * static_cast<float>(i),
            p.z = 180;
            piece.lights.push_back(
                Light{"l" + std::to_string(i), "", true, Described(light_kind("point"), p), {}});
        }
        // The lights alone: heights' normals are a case of their own, and cheap beside them.
        out.push_back({"shade", 0.7, [relief, lighting = lighting_of(piece)] {
                           shade(*relief, all, 1, Edge::clamp, lighting);
                       }});
    }
    {
        auto height = std::make_shared<Field>(waves(0, 20));
        out.push_back({"normals", 0.3, [height] { normals(*height, all, all, 1, Edge::clamp); }});
        out.push_back({"gaussian", 0.3, [height] { gaussian(height->plane(), all, all, 60, Edge::clamp); }});
        for (double sigma : {1.0, 3.9, 4.0, 8.0, 20.0})
            out.push_back({"gaussian_" + std::to_string(sigma).substr(0, 3), 1.0,
                           [height, sigma] { gaussian(height->plane(), all, all, sigma, Edge::clamp); }});
    }
    {
        TypeSource t;
        t.text = "LAST TRAM\nHOME", t.size = 330;
        const Asset asset = files::type_asset(t);
        auto fill = std::make_shared<Polyline>(
            flatten(asset.layers[0].outline.transformed(Affine::translation(w / 2.0, h / 2.0)), 0.02));
        out.push_back(
            {"bevel", 2.0, [fill] { distance_inside(boundary_of(*fill), inside_spans(*fill, all), all); }});
        auto cover = std::make_shared<Field>(coverage(*fill, all));
        auto letters = std::make_shared<Bundle>();
        letters->region = all, letters->coverage = *cover, letters->color = {*cover, *cover, *cover};
        Context over{};
        over.region = over.canvas = all;
        over.box = {-960, -540, 960, 540}, over.box_to_device = Affine::translation(960, 540);
        out.push_back({"melt", 2.0, [letters, over] { Melt{10}.apply(*letters, over); }});
        over.below = [letters](Region r) { return cropped(*letters, intersect(r, all)); };
        over.below_extent = all;
        Extrude extrude;
        extrude.length = 80, extrude.taper = 0.9f, extrude.rise = 10;
        out.push_back({"extrude", 3.0, [extrude, over] { extrude.apply({}, over); }});
        out.push_back({"bevel_of_picture", 2.0, [cover] {
                           distance_inside(edge_of_coverage(*cover, all), inside_spans(*cover, all), all, 40);
                       }});
    }
    {
        // Heights with grain, as a scan has them: a median's worst food.
        auto grain = std::make_shared<Plane>(waves(0, 20));
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) (*grain)(x, y) += 2 * lattice_value(x, y, 1);
        out.push_back({"median", 2.0, [grain] { median(*grain, all, all, 12, Edge::clamp); }});
        auto slopes = std::make_shared<Slopes>(Slopes{waves(-1, 1), waves(-1, 1)});
        out.push_back({"integrate", 0.9, [slopes] { integrated(*slopes, false); }});
        out.push_back({"integrate_tile", 0.9, [slopes] { integrated(*slopes, true); }});
        auto whole = std::make_shared<Bundle>();
        whole->region = all, whole->gives_height = true, whole->weight = 1.0f, whole->height = Field(*grain);
        Context context{};
        context.region = context.canvas = all;
        // Steps on the colour of an opaque picture.
        auto art = std::make_shared<Bundle>(*whole);
        art->coverage = 1.0f;
        for (int c = 0; c < 3; ++c) {
            art->color[static_cast<std::size_t>(c)] = Field(waves(0.1f * static_cast<float>(c), 1));
        }
        Context over = context;
        over.box = {-960, -540, 960, 540}, over.box_to_device = Affine::translation(960, 540);
        ToneCurve curve;
        curve.points = {{0, 0}, {0.3f, 0.2f}, {0.7f, 0.85f}, {1, 1}};
        out.push_back({"tone_curve", 0.5, [art, over, curve] { curve.apply(*art, over); }});
        Ramp ramp;
        ramp.repeats = 7;
        out.push_back({"ramp", 0.5, [art, over, ramp] { ramp.apply(*art, over); }});
        out.push_back({"wash", 0.5, [art, over] { Wash{}.apply(*art, over); }});
        auto shaped = std::make_shared<Bundle>(*art);
        shaped->coverage = Field(waves(0.4f, 1));
        Blur blur;
        blur.radius = 20;
        out.push_back({"blur", 1.5, [shaped, over, blur] { blur.apply(*shaped, over); }});
        Gleam gleam;
        gleam.radius = 40, gleam.above = 0.6f;
        out.push_back({"gleam", 1.0, [art, over, gleam] { gleam.apply(*art, over); }});
        // A pane with waves, over a lit picture that is at hand.
        auto pane = std::make_shared<Bundle>(*art);
        pane->transmission = 1.0f, pane->thickness = 20.0f, pane->roughness = 0.0f;
        pane->height = Field(waves(0, 24)), pane->gives_height = true;
        out.push_back({"see_through", 1.0, [pane, art] {
                           seen_below(*pane, all, all, 1, Edge::clamp, [&](Region) {
                               return LitRegion{all, {art->color[0], art->color[1], art->color[2], 1.0f}};
                           });
                       }});
        // Steps that bend, on colour, coverage and height; what they look at is at hand.
        auto full = std::make_shared<Bundle>(*art);
        full->gives_height = true, full->height = Field(*grain),
        full->weight = full->coverage = Field(waves(0.4f, 1));
        full->coverage_hash = 1;
        Context bends = over;
        bends.below = [full](Region r) { return cropped(*full, intersect(r, all)); };
        bends.below_extent = all, bends.reads_hash = 1;
        auto by = std::make_shared<Field>(waves(0, 1));
        bends.maps = {[by](Region r) {
            MapField f{r, Field(extended(by->plane(), all, r, Edge::clamp))};
            f.y = f.x, f.cover = 1.0f;
            return f;
        }};
        Displace displace;
        displace.by = MapRef{"by"}, displace.across = 40, displace.down = 25;
        out.push_back({"displace", 2.0, [bends, displace] { displace.apply({}, bends); }});
        Perspective away;
        away.tl_x = 300, away.tr_x = -300, away.tl_y = away.tr_y = 120;
        out.push_back({"perspective", 2.0, [bends, away] { away.apply({}, bends); }});
        auto memo = std::make_shared<Budget>(std::size_t{512} << 20);
        bends.memo = memo.get();
        Wear{}.apply({}, bends); // its first time
        out.push_back({"wear", 2.0, [bends, memo, turn = 0]() mutable {
                           Wear wear;
                           wear.gone = 0.2f + 0.01f * static_cast<float>(++turn % 40), wear.of = WearOf::both;
                           wear.apply({}, bends);
                       }});
        // Two Gaussians and one pass over them.
        out.push_back({"bands", 1.0, [whole, context] { Bands{}.apply(*whole, context); }});
        auto ladder = std::make_shared<Bundle>(*whole);
        Plane rungs = waves(0, 60);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) rungs(x, y) = std::round(rungs(x, y) / 0.5f) * 0.5f;
        ladder->height = Field(std::move(rungs));
        out.push_back({"deterrace", 6.0, [ladder, context] { Deterrace{}.apply(*ladder, context); }});
        out.push_back({"occlusion", 6.0, [whole] { occlusion(whole->height, all, 1, Edge::clamp); }});
        Lamp sun;
        sun.x = -0.64f, sun.y = 0.5f, sun.z = 0.58f, sun.size = 2;
        out.push_back({"shadow", 1.1, [whole, sun] { shadow(whole->height, all, 1, Edge::clamp, sun); }});
        Lamp lantern;
        lantern.directional = false, lantern.x = 700, lantern.y = 420, lantern.z = 260, lantern.size = 30;
        out.push_back({"shadow_of_lamp", 2.5,
                       [whole, lantern] { shadow(whole->height, all, 1, Edge::clamp, lantern); }});
        NoiseSource n;
        out.push_back({"noise_4_octaves", 12.0, [n] { noise(n, {all, Affine(), 1, {}}); }});
        PatternSource p;
        out.push_back({"pattern_scales", 4.0, [p] { pattern(p, {all, Affine(), 1, {}}); }});
    }
    {
        // The silhouette of a sprite of 2048 px: the gears of a watch, as anti-aliased alpha.
        constexpr int side = 2048;
        const Region square{0, 0, side, side};
        Plane alpha(side, side);
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) {
                const double dx = x + 0.5 - side / 2.0, dy = y + 0.5 - side / 2.0, r = std::hypot(dx, dy);
                const double edge = 880 + 60 * std::sin(24 * std::atan2(dy, dx)),
                             hole = 300 + 30 * std::sin(9 * std::atan2(dy, dx));
                alpha(x, y) =
                    static_cast<float>(std::clamp(edge - r, 0.0, 1.0) * std::clamp(r - hole, 0.0, 1.0));
            }
        auto cover = std::make_shared<Field>(std::move(alpha));
        out.push_back({"bevel_of_sprite_2048", 4.0, [cover, square] {
                           distance_inside(edge_of_coverage(*cover, square), inside_spans(*cover, square),
                                           square, 60);
                       }});
        // A dab of 200 px on a layer already painted all over, 4096 × 4096: what it costs depends on the dab.
        auto layer = std::make_shared<Painting>();
        layer->change({-2048, -2048, 2048, 2048}, [](Painting::Tile& t, int, int) { t.height.fill(1); });
        Brush b;
        b.size = 200;
        out.push_back({"dab_200_px", 0.2, [layer, b] {
                           Painting now = *layer;
                           dab(now, b, {17, 33}, 1, {}, 0);
                       }});
    }
    {
        // A press that pushes on what was pushed all over, 4096 × 4096.
        auto drift = std::make_shared<Painting>();
        drift->change({-2048, -2048, 2048, 2048},
                      [](Painting::Tile& t, int, int) { t.height.fill(3), t.hides = true; });
        Brush b;
        b.size = 200, b.work = BrushWork::push;
        out.push_back({"dab_push", 0.4, [drift, b] {
                           Painting now = *drift;
                           push_dab(now, b, {17, 33}, 1, {8, 5});
                       }});
    }
    {
        // A drip pulled out of letters of a piece of 4096 × 4096: every press, and the table's coarse picture
        // of it.
        auto table = std::make_shared<Table>();
        const Piece piece = piece_from_text(R"({"bathylux": 1, "canvas": {"width": 4096, "height": 4096},
            "elements": [{"id": "word", "placement": {"x": 2048, "y": 2048}, "source": {"kind": "type", "text": "DRIP", "size": 1500},
                          "steps": [{"id": "pushed", "kind": "pushed", "file": "strokes.exr", "density": 0.5},
                                    {"kind": "bevel", "width": 60, "rise": 30, "profile": "round"}]}],
            "lights": [{"id": "a", "kind": "directional", "angle": 130}, {"id": "b", "kind": "point", "x": 3000, "y": 1000, "z": 900, "distance": 3000}]})");
        files::Resolver resolver;
        const auto assets = resolver.resolve(piece, {});
        table->scene = {std::make_shared<const Piece>(piece), assets};
        table->scale = 0.19 / 2, table->region = canvas_region(piece.canvas, table->scale);
        Brush brush;
        brush.size = 120, brush.work = BrushWork::push;
        auto strokes = std::make_shared<Painting>(0.5);
        out.push_back(
            {"drip_stroke", 1.8, [table, assets, strokes, brush, turn = 0]() mutable {
                 const int press = ++turn % 60;
                 push_dab(*strokes, brush, {-500.0 + 40 * (turn / 60 % 20), 5.0 * press}, 1, {0, 5});
                 auto asset = std::make_shared<Asset>();
                 asset->painting = std::make_shared<const Painting>(*strokes), asset->hash = 1000 + turn;
                 auto now = std::make_shared<Assets>(*assets);
                 (*now)[painting_key("strokes.exr")] = asset;
                 table->scene.assets = now;
                 look(table->evaluator, table->scene, {View::lit}, table->region, table->scale);
             }});
    }
    {
        // What the window does: it asks for what it shows, and what rests is kept.
        const auto turning = [](Piece& p, const std::string& id, int turn) {
            change_light(p, id, [&](Light& l) { l.what = l.what.with("angle", double(turn % 180)); });
        };
        auto table = std::make_shared<Table>();
        table->show();
        out.push_back({"move_light", 2.0, [table, turning, turn = 0]() mutable {
                           Piece p = *table->scene.piece;
                           turning(p, p.lights[0]->id, ++turn);
                           table->scene.piece = std::make_shared<const Piece>(p);
                           table->show();
                       }});
        // The same by dusk, every light with shadow: coarse while the hand moves, then sharp.
        for (const bool coarse : {true, false}) {
            auto dusk = std::make_shared<Table>();
            Piece lit = *dusk->scene.piece;
            use_mood(lit, "dusk");
            change_all_lights(lit, [](Light& l) {
                if (l.kind().find("shadow")) l.what = l.what.with("shadow", true);
            });
            dusk->scene.piece = std::make_shared<const Piece>(lit);
            dusk->scale *= coarse ? 0.5 : 1;
            dusk->region = canvas_region(lit.canvas, dusk->scale);
            dusk->show();
            out.push_back({coarse ? "move_light_shadows" : "move_light_shadows_sharp", coarse ? 6.0 : 24.0,
                           [dusk, turning, turn = 0]() mutable {
                               Piece p = *dusk->scene.piece;
                               turning(p, "sun", ++turn);
                               dusk->scene.piece = std::make_shared<const Piece>(p);
                               dusk->show();
                           }});
        }
        // A curve over the lit picture, a point of it dragged.
        auto finished = std::make_shared<Table>();
        Piece curved = *finished->scene.piece;
        curved.finish.clear();
        curved.finish.emplace_back(Step{.id = "curve", .what = Described(step_kind("tone_curve"))});
        finished->scene.piece = std::make_shared<const Piece>(curved);
        finished->show();
        out.push_back({"change_finish", 2.0, [finished, turn = 0]() mutable {
                           Piece p = *finished->scene.piece;
                           const float y = 0.3f + 0.01f * static_cast<float>(++turn % 40);
                           change_step(p, finish_id, "curve", [&](Step& s) {
                               s.what = s.what.with("points", Points{{0, 0}, {0.5f, y}, {1, 1}});
                           });
                           finished->scene.piece = std::make_shared<const Piece>(p);
                           finished->show();
                       }});
        auto bevelled = std::make_shared<Table>();
        bevelled->show();
        out.push_back({"change_bevel", 4.0, [bevelled, turn = 0]() mutable {
                           Piece p = *bevelled->scene.piece;
                           change_step(p, "lettering", find_element(p.elements, "lettering")->steps[0]->id,
                                       [&](Step& s) { s.what = s.what.with("width", 30.0 + ++turn % 30); });
                           bevelled->scene.piece = std::make_shared<const Piece>(p);
                           bevelled->show();
                       }});
    }
    {
        // A cylinder with waves on it: its geometry (about 4 million points), and 16 samples of
        // 960 × 640 px.
        auto relief = std::make_shared<Bundle>();
        relief->region = all, relief->gives_height = true, relief->weight = 1.0f, relief->coverage = 1.0f;
        relief->height = Field(waves(0, 24));
        for (int c = 0; c < 3; ++c) relief->color[static_cast<std::size_t>(c)] = Field(waves(0.2f, 1));
        const auto texels = std::make_shared<const TexelMap>(relief, 1, true, false);
        Body body;
        body.kind = BodyKind::cylinder, body.wrap = Wrap::whole;
        body.radius = 306, body.height = 1080;
        Body fine = body;
        fine.fineness = 0.96f;
        out.push_back({"solid_geometry", 40.0, [texels, fine] { const Skin skin(fine, *texels, w, h); }});
        auto scene = std::make_shared<SolidScene>();
        scene->skin = std::make_shared<const Skin>(body, *texels, w, h);
        scene->texels = texels;
        scene->bare.coverage = 1.0f;
        for (Field& f : scene->bare.color) f = 0.4f;
        scene->camera.turn = 20, scene->camera.tilt = 12, scene->camera.distance = 2600;
        scene->canvas_height = h;
        Lamp sun;
        sun.directional = true, sun.x = 0.5f, sun.y = 0.5f, sun.z = 0.7f, sun.shadow = true, sun.size = 3;
        scene->lighting.lamps = {sun};
        scene->lighting.ambient = {0.2f, 0.2f, 0.2f};
        scene->lighting.occlusion = true;
        // A bevel's rise changed on a relief of 2048 × 2048, until the first coarse picture of it in the
        // round.
        auto round = std::make_shared<Table>();
        round->scene = {std::make_shared<const Piece>(piece_from_text(R"({"bathylux": 1,
            "canvas": {"width": 2048, "height": 2048}, "elements": [{"id": "plate", "placement": {"x": 1024, "y": 1024},
            "source": {"kind": "rectangle", "width": 1800, "height": 1700, "corner": 200},
            "steps": [{"id": "bevel", "kind": "bevel", "width": 160, "rise": 40, "profile": "round"}]}],
            "lights": [{"id": "sun", "kind": "directional", "shadow": true}],
            "solid": {"kind": "cylinder", "wrap": "whole", "radius": 326, "height": 2048, "fineness": 1,
                      "camera": {"turn": 20, "tilt": 12, "distance": 4200}}})")),
                        std::make_shared<const Assets>()};
        out.push_back({"solid_change", 13.5, [round, turn = 0]() mutable {
                           Piece p = *round->scene.piece;
                           change_step(p, "plate", "bevel",
                                       [&](Step& s) { s.what = s.what.with("rise", 8.0 + ++turn % 40); });
                           round->scene.piece = std::make_shared<const Piece>(p);
                           const SolidScene now = solid_scene(round->evaluator, round->scene, true);
                           SolidPicture(480, 320).add(now, 1);
                       }});
        out.push_back({"solid_picture", 54.0, [scene] { SolidPicture(960, 640).add(*scene, 16); }});
        // A demo piece turned a little, until it is sharp.
        auto badge = std::make_shared<Table>();
        badge->scene = demo_scene("rubber-badge");
        out.push_back({"solid_badge", 54.0, [badge, there = false]() mutable {
                           Piece p = *badge->scene.piece;
                           p.solid->camera.turn += (there = !there) ? 3 : -3; // the badge stays in sight
                           badge->scene.piece = std::make_shared<const Piece>(p);
                           const SolidScene now = solid_scene(badge->evaluator, badge->scene);
                           SolidPicture picture(960, 640);
                           picture.add(now, 16);
                           (void)finished_solid(badge->evaluator, badge->scene, now, picture);
                       }});
    }
    return out;
}

} // namespace bathylux
