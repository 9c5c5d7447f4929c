#include <QtTest>
#include <numeric>

#include "core/light/lights.h"
#include "core/piece/codec.h"
#include "core/piece/edit.h"
#include "core/piece/pose.h"
#include "core/relief/bevel.h"
#include "core/relief/tones.h"
#include "core/step/resample.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

/// A scene with one picture element named p.
Scene with_picture(const std::string& json, std::shared_ptr<const Picture> picture) {
    Scene s = scene_of(json);
    Asset a;
    a.picture = picture, a.width = picture->width, a.height = picture->height, a.hash = picture->hash;
    s.assets = std::make_shared<const Assets>(Assets{{"p", std::make_shared<const Asset>(a)}});
    return s;
}

std::shared_ptr<const Picture> disc_with_alpha(int n, double radius) {
    auto p = std::make_shared<Picture>();
    p->width = p->height = n, p->channels = 4;
    p->samples.resize(4ull * n * n);
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            // Coverage of a pixel by 16 × 16 samples.
            int inside = 0;
            for (int k = 0; k < 256; ++k)
                inside +=
                    std::hypot(x + (k % 16 + 0.5) / 16 - n / 2.0, y + (k / 16 + 0.5) / 16 - n / 2.0) < radius;
            for (int c = 0; c < 3; ++c) p->samples[4 * (y * n + x) + c] = std::byte{200};
            p->samples[4 * (y * n + x) + 3] = static_cast<std::byte>(std::lround(inside / 256.0 * 255));
        }
    p->seal();
    return p;
}

/// Keys and links of every sort that cropping or resizing has to do with.
std::string moving_piece() {
    return piece_json(
        340, 220,
        R"({"id": "ball", "source": {"kind": "ellipse", "width": {"keys": [[0, 40], [20, 60]]}, "height": 30},
            "placement": {"x": {"keys": [[0, 50, "ease-in-out"], [8, 260], [30, 90]], "after": "bounce"},
                          "y": {"link": "ball.placement.x", "gain": 0.5, "offset": 30},
                          "scale_u": {"keys": [[0, 1], [20, 1.5]]}, "scale_v": {"link": "ball.placement.scale_u"}},
            "steps": [{"kind": "bevel", "id": "edge", "width": {"keys": [[0, 4], [20, 14]]},
                       "rise": {"link": "ball.bevel.width", "gain": -0.5, "offset": 9}},
                      {"kind": "ramp", "id": "bands", "of": "height", "low": 1, "high": {"keys": [[0, 6], [9, 12]]}}]},
           {"id": "group", "source": {"kind": "group"},
            "placement": {"x": {"link": "ball.placement.x", "offset": -20}, "y": 110},
            "elements": [{"id": "child", "source": {"kind": "rectangle", "width": 30, "height": 20},
                          "placement": {"x": {"keys": [[0, 170], [20, 200]]}, "y": {"link": "lamp.y"},
                                        "turn": {"keys": [[0, 100], [20, 290]]}},
                          "steps": [{"kind": "soften", "radius": {"keys": [[0, 1], [20, 3]]}}]}]})",
        R"("lights": [{"id": "lamp", "kind": "point", "x": {"keys": [[0, 30], [20, 300]]}, "y": 80,
                       "z": {"keys": [[0, 40], [20, 90]]}, "distance": {"link": "lamp.z", "gain": 2}},
                      {"id": "tied", "kind": "point", "tied": "ball", "x": {"keys": [[0, -20], [20, 20]]}, "y": 0, "z": 40},
                      {"id": "sun", "kind": "directional", "angle": {"keys": [[0, 20], [20, 200]]}}],
           "ambient": {"occlusion": true, "radius": {"keys": [[0, 20], [20, 60]]}},
           "mood": "day", "moods": [{"id": "day", "name": "Day"}, {"id": "dusk", "name": "Dusk",
                "lights": [{"id": "moon", "kind": "point", "x": {"keys": [[0, 10], [20, 90]]}, "y": {"link": "ball.placement.x"}, "z": 50}],
                "ambient": {"radius": {"keys": [[0, 5], [20, 25]]}}}],
           "exposure": {"keys": [[0, 0], [20, 1]]},
           "finish": [{"kind": "gleam", "id": "glow", "radius": {"keys": [[0, 3], [20, 8]]}}])");
}

} // namespace

class TestEdit : public QObject {
    Q_OBJECT
  private slots:
    /// What is copied together reads the copies; what was left behind goes on being read.
    void copies_read_the_copies() {
        Piece p = *scene_of(piece_json(60, 40,
                                       "{\"id\": \"far\", \"source\": {\"kind\": \"noise\"}},"
                                       "{\"id\": \"g\", \"source\": {\"kind\": \"group\"}, \"elements\": ["
                                       "{\"id\": \"grain\", \"source\": {\"kind\": \"noise\"}},"
                                       "{\"id\": \"face\", \"source\": {\"kind\": \"ellipse\"}, \"mix\": "
                                       "{\"mask\": {\"element\": \"grain\"}}, "
                                       "\"steps\": [{\"kind\": \"soften\", \"map\": {\"element\": \"far\", "
                                       "\"of\": \"tone\"}}]}]}"))
                       .piece;
        const auto face_of = [](const Piece& piece, const std::string& group) {
            return *find_element(piece.elements, group)->elements[1];
        };
        const auto reads_its_own = [&](const Piece& piece, const std::string& group) {
            const Element& face = face_of(piece, group);
            return face.mix.mask &&
                   face.mix.mask->element == find_element(piece.elements, group)->elements[0]->id &&
                   face.steps[0]->map && face.steps[0]->map->element == "far";
        };
        QVERIFY(reads_its_own(p, "g"));
        const Ids copies = duplicate(p, {"g"});
        QCOMPARE(copies.size(), 1u);
        QVERIFY(find_element(p.elements, copies[0])->elements[0]->id != "grain");
        QVERIFY(reads_its_own(p, copies[0]) && reads_its_own(p, "g"));
        // The same through the clipboard's way, and once more among the pasted.
        const Ids pasted =
            add_elements(p, {*find_element(p.elements, "g"), *find_element(p.elements, copies[0])});
        for (const std::string& id : pasted) QVERIFY(reads_its_own(p, id));
        QVERIFY(pasted[0] != pasted[1]);
        // A copy of the reader alone reads what the original reads.
        const Ids alone = duplicate(p, {"face"});
        QCOMPARE(find_element(p.elements, alone[0])->mix.mask->element, std::string("grain"));
    }

    void bad_values_are_told_with_their_path() {
        Piece p = *scene_of(piece_json(
                                60, 40,
                                "{\"id\": \"o\", \"source\": {\"kind\": \"ellipse\"}, \"steps\": [{\"kind\": "
                                "\"bevel\", \"width\": 20}]}"))
                       .piece;
        const std::pair<std::string, std::string> bad[] = {{"o.bevel.width", "wide"},
                                                           {"o.bevel.profile", "wavy"},
                                                           {"o.bevel.breadth", "3"},
                                                           {"o.placement.turn", ""},
                                                           {"nobody.bevel.width", "3"}};
        for (const auto& [path, text] : bad) {
            const std::string says = trouble_of([&] { set_parameter(p, path, text); });
            QVERIFY2(says.find(path) != std::string::npos, says.c_str());
        }
        set_parameter(p, "o.bevel.width", "33");
        QCOMPARE(find_element(p.elements, "o")->steps[0]->what.as<Bevel>()->width, 33.f);
    }

    void resizing_scales_the_relief_with_the_canvas() {
        Piece p =
            *scene_of(
                 piece_json(
                     340, 220, busy_elements(),
                     R"("lights": [{"id": "l", "kind": "point", "x": 100, "y": 80, "z": 60, "distance": 90}], "guides": {"x": [50], "y": []}, "section": [10, 20, 30, 40])"))
                 .piece;
        const Plane before =
            height_of({std::make_shared<const Piece>(p), std::make_shared<const Assets>()}, 2);
        resize(p, 2);
        QCOMPARE(p.canvas.columns(), 680);
        QCOMPARE(p.lights[0]->what.as<PointLight>()->distance, 180.0f);
        QCOMPARE(p.guides_x[0], 100.0f);
        QCOMPARE(p.section->b.y, 80.0);
        // Twice as large: heights too, so the slopes are the same.
        const Plane after = height_of({std::make_shared<const Piece>(p), std::make_shared<const Assets>()});
        double worst = 0;
        for (int y = 0; y < after.height(); ++y)
            for (int x = 0; x < after.width(); ++x)
                worst = std::max(worst, std::abs(double(after(x, y)) - 2 * before(x, y)));
        QVERIFY2(worst < 0.02, qPrintable(QString::number(worst)));
    }

    void resizing_scales_colour_glass_and_finish_with_the_canvas() {
        // Lengths in every place they stand in: a gradient of the canvas's size, a ramp by height, a blur, a
        // see-through surface, gleam and grain. Twice as large and looked at half as large it is the same
        // picture.
        const Scene before = scene_of(piece_json(
            160, 100,
            "{\"id\": \"sky\", \"source\": {\"kind\": \"gradient\", \"angle\": 40}},"
            "{\"id\": \"hill\", \"source\": {\"kind\": \"ellipse\", \"width\": 110, \"height\": 70, "
            "\"color\": \"#808080\"},"
            " \"steps\": [{\"kind\": \"bevel\", \"width\": 24, \"rise\": 14}, {\"kind\": \"soften\", "
            "\"radius\": 2},"
            "  {\"kind\": \"ramp\", \"of\": \"height\", \"low\": 2, \"high\": 12}]},"
            "{\"id\": \"haze\", \"source\": {\"kind\": \"rectangle\", \"width\": 40, \"height\": 20}, "
            "\"placement\":"
            " {\"x\": 120, \"y\": 30}, \"steps\": [{\"kind\": \"blur\", \"radius\": 4, \"length\": 12}]},"
            "{\"id\": \"glass\", \"source\": {\"kind\": \"rectangle\", \"width\": 70, \"height\": 40, "
            "\"color\": \"#ffffff\"},"
            " \"surface\": {\"transmission\": 0.9, \"thickness\": 14, \"roughness\": 0.3, "
            "\"attenuation_color\":"
            " \"#80c0c0\", \"attenuation_distance\": 20}, \"steps\": [{\"kind\": \"bevel\", \"width\": 10, "
            "\"rise\": 5},"
            " {\"kind\": \"soften\", \"radius\": 2}]}",
            "\"lights\": [{\"id\": \"sun\", \"kind\": \"directional\", \"angle\": 130, \"elevation\": 40}],"
            "\"finish\": [{\"kind\": \"gleam\", \"above\": 0.4, \"radius\": 7}, {\"kind\": \"vignette\"},"
            " {\"kind\": \"grain\", \"size\": 12}]"));
        Piece larger = *before.piece;
        resize(larger, 2);
        Scene after = before;
        after.piece = std::make_shared<const Piece>(larger);
        QCOMPARE(larger.canvas.width, 320.0f);
        Evaluator evaluator;
        const Region all{0, 0, 160, 100};
        const Strip a = look(evaluator, before, View::lit, all, 1),
                    b = look(evaluator, after, View::lit, all, 0.5);
        double sum = 0;
        for (std::size_t c = 0; c < 3; ++c)
            for (int y = 0; y < 100; ++y)
                for (int x = 0; x < 160; ++x) {
                    const double d =
                        srgb_encode(a.channels[c].at(x, y)) - srgb_encode(b.channels[c].at(x, y));
                    sum += d * d;
                }
        const double psnr = -10 * std::log10(std::max(1e-20, sum / (3 * 160 * 100)));
        QVERIFY2(psnr > 50, qPrintable(QString::number(psnr)));
    }

    /// What moves is cropped and resized in all its frames: it makes no difference whether a frame is taken
    /// before or after.
    void cropping_and_resizing_reach_every_key_data() {
        QTest::addColumn<QString>("text");
        QTest::addRow("all that can move") << QString::fromStdString(moving_piece());
        for (const char* name : {"depot-ident", "hail"}) {
            QFile file(QString(BATHYLUX_DEMO "/%1.json").arg(name));
            QVERIFY(file.open(QIODevice::ReadOnly));
            QTest::addRow("%s", name) << QString(file.readAll());
        }
    }
    void cropping_and_resizing_reach_every_key() {
        QFETCH(QString, text);
        const Piece piece = piece_from_text(text.toStdString());
        QVERIFY(moves(piece));
        // The moods that wait are looked at as well.
        std::vector<std::string> moods{piece.mood};
        for (const Mood& m : piece.moods)
            if (m.id != piece.mood) moods.push_back(m.id);
        const std::pair<const char*, std::function<void(Piece&)>> changes[] = {
            {"cropped",
             [](Piece& p) {
                 crop(p, {25, 10, 300, 205});
             }},
            {"widened",
             [](Piece& p) {
                 crop(p, {-60, -15, 1500, 900});
             }},
            {"larger", [](Piece& p) { resize(p, 2); }},
            {"smaller", [](Piece& p) { resize(p, 0.5); }}};
        for (const auto& [name, change] : changes) {
            Piece changed = piece;
            change(changed);
            for (int i = 0; i < 4 * static_cast<int>(moods.size()); ++i) {
                const double frame = std::array{0.0, 3.5, 12.0, 40.0}[static_cast<std::size_t>(i % 4)];
                const auto lit = [&](Piece p) {
                    use_mood(p, moods[static_cast<std::size_t>(i / 4)]);
                    return posed(p, frame);
                };
                Piece still = lit(piece);
                change(still);
                const Piece shown = lit(changed);
                std::map<std::string, double> wanted;
                for_each_part(still, [&](const MovingPart& part) {
                    for (const Parameter& p : part.parameters)
                        if (const Value v = part.get(p); std::holds_alternative<double>(v))
                            wanted[part.path + std::string(p.id)] = std::get<double>(v);
                });
                std::size_t met = 0;
                for_each_part(shown, [&](const MovingPart& part) {
                    for (const Parameter& p : part.parameters)
                        if (const Value v = part.get(p); std::holds_alternative<double>(v)) {
                            const std::string path = part.path + std::string(p.id);
                            const double is = std::get<double>(v), was = wanted.at(path);
                            QVERIFY2(std::abs(is - was) <= 2e-4 * std::max(1.0, std::abs(was)),
                                     qPrintable(QString("%1, %2 at %3: %4, not %5")
                                                    .arg(name, QString::fromStdString(path))
                                                    .arg(frame)
                                                    .arg(is)
                                                    .arg(was)));
                            ++met;
                        }
                });
                QCOMPARE(met, wanted.size());
            }
        }
        // What is stated of heights and of how far grooves are looked into grows along.
        Piece stated = piece;
        stated.canvas.height_range = {-4.0f, 10.0f}, stated.ambient.radius = 30;
        resize(stated, 2);
        QVERIFY(stated.canvas.height_range->first == -8 && stated.canvas.height_range->second == 20);
        QCOMPARE(stated.ambient.radius, 60.0f);
    }

    /// The same of a group taken apart, and of an element made larger by itself.
    void what_moves_goes_on_moving_when_taken_apart_or_made_larger() {
        const auto child = [](const Piece& p, double frame) {
            const Piece shown = posed(p, frame);
            return *find_element(shown.elements, "child");
        };
        const auto same = [](const Element& a, const Element& b) {
            const auto near = [](double u, double v) { return std::abs(u - v) < 1e-3; };
            return near(a.placement.x, b.placement.x) && near(a.placement.y, b.placement.y) &&
                   near(a.placement.scale_u, b.placement.scale_u) &&
                   near(std::remainder(a.placement.turn - b.placement.turn, 360.0), 0) &&
                   near(std::get<double>(a.steps[0]->what.get(*a.steps[0]->kind().find("radius"))),
                        std::get<double>(b.steps[0]->what.get(*b.steps[0]->kind().find("radius"))));
        };
        Piece piece = piece_from_text(moving_piece());
        QVERIFY_THROWS_EXCEPTION(Error, ungroup(piece, "group")); // it moves itself: that would be lost
        change(piece.elements, "group", [](Element& g) {
            g.placement.motions.clear();
            g.placement.x = 200, g.placement.y = 90, g.placement.scale_u = g.placement.scale_v = 1.5f;
        });
        Piece apart = piece;
        QCOMPARE(ungroup(apart, "group"), Ids{"child"});
        for (const double frame : {0.0, 7.0, 20.0}) {
            Piece still = posed(piece, frame);
            ungroup(still, "group");
            QVERIFY(same(child(apart, frame), *find_element(still.elements, "child")));
        }
        QCOMPARE(child(apart, 20).placement.turn, child(piece, 20).placement.turn);
        // Turned, its ways across and down would mix: that is told, and nothing is changed.
        change(piece.elements, "group", [](Element& g) { g.placement.turn = 30; });
        QVERIFY_THROWS_EXCEPTION(Error, ungroup(piece, "group"));
        QVERIFY(find_element(piece.elements, "group"));

        Element larger = child(piece, 0), late = child(piece, 20);
        scale_element(larger, 2), scale_element(late, 2);
        Piece with_larger = piece;
        change(with_larger.elements, "child", [](Element& e) { scale_element(e, 2); });
        QVERIFY(same(child(with_larger, 0), larger) && same(child(with_larger, 20), late));
    }

    void cropping_cuts_and_moves_nothing() {
        Piece p = *scene_of(piece_json(340, 220, busy_elements())).piece;
        const Plane before = height_of({std::make_shared<const Piece>(p), std::make_shared<const Assets>()});
        crop(p, {40, 30, 300, 200});
        const Plane after = height_of({std::make_shared<const Piece>(p), std::make_shared<const Assets>()});
        QCOMPARE(after.width(), 260);
        double worst = 0; // away from the new edge, where softening holds what is outside
        for (int y = 12; y < 158; ++y)
            for (int x = 12; x < 248; ++x)
                worst = std::max(worst, std::abs(double(after(x, y)) - before(x + 40, y + 30)));
        QVERIFY2(worst < 2e-3, qPrintable(QString::number(worst)));
    }

    /// A gradient over the whole canvas is that of the whole canvas on what stays of it, and fills a wider
    /// one.
    void cropping_keeps_what_fills_the_canvas() {
        const Piece whole = piece_from_text(
            piece_json(340, 220, R"({"id": "sky", "source": {"kind": "gradient", "angle": 30, "repeats": 3}},
            {"id": "g", "source": {"kind": "group"}, "placement": {"angle": 20, "x": 150}, "elements": [
                {"id": "glow", "source": {"kind": "gradient", "shape": "radial", "height": 90}}]})"));
        const auto colors_of = [](const Piece& p) {
            Evaluator evaluator;
            const Scene s{std::make_shared<const Piece>(p), std::make_shared<const Assets>()};
            return evaluator.relief(s, canvas_region(p.canvas, 1), 1).color;
        };
        Piece part = whole, wider = whole;
        crop(part, {40, 30, 300, 200}), crop(wider, {-40, 0, 340, 220});
        const auto before = colors_of(whole), after = colors_of(part);
        for (std::size_t c = 0; c < 3; ++c) {
            const Plane cut = extended(before[c].plane(), {0, 0, 340, 220}, {40, 30, 300, 200}, Edge::clamp);
            QVERIFY(worst_difference(cut, after[c].plane()) < 2e-3);
            QVERIFY(colors_of(wider)[c].at(3, 100) > 0); // of the sky
        }
    }

    void a_bevel_follows_a_picture_s_alpha() {
        const Scene s = with_picture(
            piece_json(
                140, 140,
                R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "steps": [{"kind": "bevel", "width": 16, "rise": 16, "profile": "chamfer"}]})"),
            disc_with_alpha(140, 52));
        const Plane h = height_of(s);
        double sum = 0, worst = 0;
        int n = 0;
        for (int y = 0; y < 140; ++y)
            for (int x = 0; x < 140; ++x) {
                const double in = 52 - std::hypot(x + 0.5 - 70, y + 0.5 - 70);
                if (in < 1.5) continue;
                const double e = h(x, y) - std::min(in, 16.0);
                sum += e * e, ++n, worst = std::max(worst, std::abs(e));
            }
        QVERIFY2(std::sqrt(sum / n) < 0.15, qPrintable(QString::number(std::sqrt(sum / n))));
        QVERIFY2(worst < 0.4, qPrintable(QString::number(worst)));
    }

    void an_opaque_picture_s_rim_is_an_outline() {
        auto grey = picture_of(60, 40, [](double, double) { return 0.5f; });
        const Plane h = height_of(with_picture(
            piece_json(
                200, 200,
                R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "placement": {"turn": 25, "scale_u": 2, "scale_v": 2}, "steps": [{"kind": "bevel", "width": 10, "rise": 5, "profile": "chamfer"}]})"),
            grey));
        const Affine back = (Affine::translation(100, 100) * Affine::turning(25)).inverse();
        for (int y = 0; y < 200; y += 3)
            for (int x = 0; x < 200; x += 3) {
                const Vec2 q = back({x + 0.5, y + 0.5});
                const double in = std::min(60 - std::abs(q.x), 40 - std::abs(q.y));
                if (std::abs(in) > 1) QVERIFY(std::abs(h(x, y) - 0.5 * std::clamp(in, 0.0, 10.0)) < 0.01);
            }
    }

    void pictures_repeat_and_mirror_past_their_rim() {
        const auto ramp = picture_of(20, 20, [](double x, double) { return static_cast<float>(x); });
        const auto at = [&](const char* edge, int x) {
            const QString element =
                QString(
                    R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "placement": {"x": 50, "y": 10, "edge": "%1"}, "steps": [{"kind": "tones", "rise": 1}]})")
                    .arg(edge);
            const Plane h = height_of(with_picture(piece_json(100, 20, element.toStdString()), ramp));
            return h(x, 10);
        };
        // The picture covers 40 … 60; pixel 40 holds 0.5.
        QCOMPARE(at("none", 45), 5.5f);
        QCOMPARE(at("none", 65), 0.0f);
        QCOMPARE(at("clamp", 65), 19.5f);
        QCOMPARE(at("repeat", 65), 5.5f);
        QCOMPARE(at("repeat", 35), 15.5f);
        QCOMPARE(at("mirrored_repeat", 65), 14.5f);
        QCOMPARE(at("mirrored_repeat", 35), 4.5f);
    }

    void softening_a_tile_goes_round_its_edges() {
        // A ridge at the left edge of a tile: softened, it comes back at the right.
        const std::string json =
            R"({"bathylux": 1, "canvas": {"width": 80, "height": 40, "edge": "%"}, "elements": [
            {"id": "r", "source": {"kind": "rectangle", "width": 8, "height": 400}, "placement": {"x": 4, "y": 20}, "steps": [{"kind": "raise", "amount": 10}, {"kind": "soften", "radius": 3}]}]})";
        const auto with = [&](const char* edge) {
            return height_of(scene_of(QString::fromStdString(json).replace("%", edge).toStdString()));
        };
        const Plane tile = with("repeat"), plain = with("clamp");
        QVERIFY(tile(79, 20) > 3);
        QVERIFY(plain(79, 20) < 1e-3);
        // Symmetric about the ridge's middle at x = 4, across the join.
        for (int i = 1; i < 12; ++i)
            QVERIFY(std::abs(tile(3 + i + 1, 20) - tile((4 - i - 1 + 80) % 80, 20)) < 0.02);
    }

    void tone_ranges_leave_out_the_rare_ends() {
        auto p = std::make_shared<Picture>();
        p->width = 100, p->height = 100, p->channels = 1;
        p->samples.assign(10000, std::byte{120});
        for (int i = 0; i < 5000; ++i) p->samples[i] = std::byte{60};
        p->samples[3] = std::byte{0}, p->samples[4] = std::byte{255}; // two specks
        const auto [low, high] = tone_range(*p, Channel::luma);
        QVERIFY(std::abs(low - 60 / 256.0) < 1e-6 && std::abs(high - 121 / 256.0) < 1e-6);
        const auto counts = tone_histogram(*p, Channel::luma, 256);
        QCOMPARE(std::accumulate(counts.begin(), counts.end(), 0), 10000);
        QCOMPARE(counts[60], 4998);
    }

    void reducing_a_picture_takes_the_mean() {
        const auto p = picture_of(64, 64, [](double x, double y) {
            return (static_cast<int>(x) + static_cast<int>(y)) % 2 ? 1.0f : 0.0f;
        });
        const PictureSampler sampler(*p, Affine::scaling(4, 4), Edge::clamp, Picture::Reading::stored,
                                     {0, 0, 16, 16});
        for (int y = 2; y < 14; ++y)
            for (int x = 2; x < 14; ++x) QVERIFY(std::abs(sampler.at(x + 0.5, y + 0.5)[0] - 0.5f) < 1e-6f);
        // One to one, whole pixels: the very values.
        const PictureSampler exact(*p, Affine::translation(7, 3), Edge::clamp, Picture::Reading::stored,
                                   {0, 0, 40, 40});
        QCOMPARE(exact.at(10.5, 20.5)[0], p->stored(17, 23, 0));
    }

    void groups_that_would_shear_are_not_taken_apart() {
        Piece p =
            *scene_of(
                 piece_json(
                     100, 100,
                     R"({"id": "g", "name": "Pair", "source": {"kind": "group"}, "placement": {"scale_u": 2, "scale_v": 1}, "elements": [{"id": "o", "source": {"kind": "ellipse"}, "placement": {"turn": 30}}]})"))
                 .piece;
        const Json before = to_json(p);
        const std::string trouble = trouble_of([&] { ungroup(p, "g"); });
        QVERIFY(trouble.find("Pair") != std::string::npos);
        QCOMPARE(to_json(p), before);
    }
};
BATHYLUX_TEST(TestEdit)
#include "test_edit.moc"
