// Masks, maps, clipping, circles.
#include <QtTest>

#include "core/piece/edit.h"
#include "core/piece/references.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

/// A plate raised by 10 all over, and a disc of 40 px in the middle as its map, switched off.
std::string masked(const std::string& mix, const std::string& step_map = {});
std::string map_of_disc(bool of_alpha);
/// Fifty elements, each of which reads all those behind it.
std::string each_reads_all_behind();

} // namespace

class TestCombining : public QObject {
    Q_OBJECT
  private slots:
    void a_mask_scales_height_and_colour() {
        const auto scene = scene_of(masked(R"({"mask": {"element": "disc", "of": "alpha"}})"));
        const Bundle b = relief_of(scene);
        QCOMPARE(b.height.at(50, 50), 10.0f);
        QCOMPARE(b.height.at(10, 10), 0.0f);
        QCOMPARE(b.coverage.at(50, 50), 1.0f);
        QCOMPARE(b.coverage.at(10, 10), 0.0f);
        // On the disc's edge, where it covers a pixel in part, height counts in part.
        for (int x = 25; x < 35; ++x)
            QVERIFY(std::abs(b.height.at(x, 50) - 10 * b.coverage.at(x, 50)) < 1e-4);
        const Bundle swapped =
            relief_of(scene_of(masked(R"({"mask": {"element": "disc", "of": "alpha", "sink": true}})")));
        QCOMPARE(swapped.height.at(50, 50), 0.0f);
        QCOMPARE(swapped.height.at(10, 10), 10.0f);
    }

    void a_mask_may_be_a_tone_or_a_height() {
        // The disc's colour is #808080: its tone is 128 ÷ 255.
        const Plane tone = height_of(scene_of(masked(R"({"mask": {"element": "disc", "of": "tone"}})")));
        QVERIFY(std::abs(tone(50, 50) - 10 * 128 / 255.0) < 1e-3);
        // Its cone is 20 px high: half way up at 10 px from the middle; heights count from lowest to highest.
        const Plane height = height_of(scene_of(masked(R"({"mask": {"element": "disc", "of": "height"}})")));
        QVERIFY2(std::abs(height(60, 50) - 5) < 0.4, qPrintable(QString::number(height(60, 50))));
        QVERIFY(std::abs(height(50, 50) - 10) < 0.5);
        // With a tone window: 0.5 and more counts in full.
        const Plane window =
            height_of(scene_of(masked(R"({"mask": {"element": "disc", "of": "height", "high": 0.5}})")));
        QVERIFY(std::abs(window(57, 50) - 10) < 1e-3);
        // A cone of 20 px over 20 px leans by 45° everywhere: half of upright.
        const Plane slope = height_of(scene_of(masked(R"({"mask": {"element": "disc", "of": "slope"}})")));
        QVERIFY2(std::abs(slope(60, 50) - 5) < 0.05, qPrintable(QString::number(slope(60, 50))));
    }

    void a_step_works_where_its_map_says() {
        const Plane h = height_of(scene_of(masked("{}", map_of_disc(true))));
        QCOMPARE(h(50, 50), 10.0f); // raised there
        QCOMPARE(h(10, 10), 0.0f);  // and nowhere else
    }

    void a_step_that_leaves_a_tone_is_limited_by_its_map() {
        // Noise evened out only under the disc: what tones read is unchanged elsewhere.
        const auto height = [](const char* even) {
            return height_of(scene_of(piece_json(
                100, 100,
                QString(
                    R"({"id": "disc", "source": {"kind": "ellipse", "width": 40, "height": 40}, "mix": {"visible": false}},
                           {"id": "n", "source": {"kind": "noise", "size_u": 60, "size_v": 60}, "steps": [%1 {"kind": "tones", "low": 0, "high": 1, "rise": 10}]})")
                    .arg(even)
                    .toStdString())));
        };
        const Plane plain = height(""), all = height(R"({"kind": "even_light", "size": 20},)"),
                    part = height(
                        R"({"kind": "even_light", "size": 20, "map": {"element": "disc", "of": "alpha"}},)");
        QVERIFY(std::abs(part(10, 10) - plain(10, 10)) < 1e-5 &&
                std::abs(part(90, 50) - plain(90, 50)) < 1e-5);
        QVERIFY(std::abs(part(50, 50) - all(50, 50)) < 1e-5);
        QVERIFY(worst_difference(plain, all) > 0.5);
    }

    void clipping_keeps_to_the_shape_below() {
        const auto scene = scene_of(
            piece_json(100, 100,
                       QString(R"({"id": "o", "source": {"kind": "ellipse", "width": 40, "height": 40}},
               {"id": "r", "source": {"kind": "rectangle", "width": 90, "height": 20, "color": "%1"}, "mix": {"clip": true}, "steps": [{"kind": "raise", "amount": 3}]},
               {"id": "s", "source": {"kind": "rectangle", "width": 4, "height": 90, "color": "%2"}, "mix": {"clip": true}})")
                           .arg("#ff0000", "#00ff00")
                           .toStdString()));
        const Bundle b = relief_of(scene);
        QCOMPARE(b.coverage.at(10, 50), 0.0f);
        QCOMPARE(b.height.at(50, 50), 3.0f);
        QCOMPARE(b.height.at(10, 50), 0.0f);
        QCOMPARE(b.color[1].at(50, 35), 1.0f); // the second is clipped to the same shape
        QCOMPARE(b.coverage.at(50, 10), 0.0f);
    }

    /// On nothing, edges are those of what is clipped to, and nothing of its colour is left under what covers
    /// it; so are they where its mask lets half of it be seen.
    void what_is_clipped_leaves_edges_as_they_are() {
        const auto made = [](const char* mix, bool clothed) {
            const QString disc =
                R"({"id": "o", "source": {"kind": "ellipse", "width": 61, "height": 47, "color": "#ff0000"}, "mix": %1})";
            const char* const cloth =
                R"({"id": "r", "source": {"kind": "rectangle", "width": 100, "height": 100, "color": "#00ff00"}, "mix": {"clip": true}})";
            const char* const ramp =
                R"({"id": "ramp", "source": {"kind": "gradient"}, "mix": {"visible": false}})";
            QStringList all{ramp, disc.arg(mix)};
            if (clothed) all << cloth;
            return relief_of(scene_of(piece_json(100, 100, all.join(",").toStdString())));
        };
        for (const char* mix : {R"({})", R"({"mask": {"element": "ramp", "of": "tone"}})"}) {
            const Bundle disc = made(mix, false), both = made(mix, true);
            double partly = 0;
            for (int y = 0; y < 100; ++y)
                for (int x = 0; x < 100; ++x) {
                    const float f = disc.coverage.at(x, y);
                    partly += f > 0 && f < 1;
                    QVERIFY(std::abs(both.coverage.at(x, y) - f) < 1e-6f);
                    QVERIFY(std::abs(both.color[1].at(x, y) - f) < 1e-6f && both.color[0].at(x, y) < 1e-6f);
                }
            QVERIFY(partly > 100);
        }
    }

    void a_group_moulds_all_that_is_in_it() {
        // A plate of no height with a button on it: an edge about both is that of the plate, the button on
        // top; by itself, as a twin, and however the button comes to its height.
        const auto piece = [](const std::string& group_steps, const std::string& button,
                              const std::string& twin) {
            return scene_of(piece_json(120, 60,
                                       R"({"id": "g", "source": {"kind": "group"}, "mix": {"visible": )" +
                                           std::string(twin.empty() ? "true" : "false") + R"(}, "steps": [)" +
                                           group_steps + R"(], "elements": [
                    {"id": "plate", "source": {"kind": "rectangle", "width": 100, "height": 40}},
                    {"id": "inner", "source": {"kind": "group"}, "elements": [
                        {"id": "button", "source": {"kind": "rectangle", "width": 10, "height": 10}, "steps": [)" +
                                           button + R"(]}]}]})" + twin));
        };
        const std::string edge = R"({"kind": "bevel", "width": 8, "rise": 6, "profile": "chamfer"})",
                          raised = R"({"kind": "raise", "amount": 3})";
        const Plane bare = height_of(piece(edge, "", "")), with = height_of(piece(edge, raised, "")),
                    twin = height_of(piece(
                        "", raised,
                        R"(, {"id": "t", "source": {"kind": "twin", "of": "g"}, "steps": [)" + edge + "]}"));
        QVERIFY(std::abs(bare(14, 30) - 6 * 4.5f / 8) < 0.05f && bare(30, 30) == 6);
        for (const Plane* p : {&with, &twin})
            for (int y = 0; y < 60; ++y)
                for (int x = 0; x < 120; ++x) {
                    const bool on = std::abs(x - 59.5) < 5 && std::abs(y - 29.5) < 5;
                    QVERIFY2(std::abs((*p)(x, y) - bare(x, y) - (on ? 3 : 0)) < 1e-4f,
                             qPrintable(QString("%1, %2: %3").arg(x).arg(y).arg((*p)(x, y))));
                }
        // Where the group gives none, what has none of its own leaves the height below as it is.
        const Plane none = height_of(piece("", raised, ""));
        QVERIFY(none(20, 30) == 0 && none(60, 30) == 3);
    }

    void strips_and_regions_see_the_same_masks() {
        const auto scene = scene_of(masked(R"({"mask": {"element": "disc", "of": "height"}})"));
        Evaluator evaluator;
        const Plane whole = height_of(scene);
        const Bundle part = evaluator.relief(scene, {30, 40, 70, 55}, 1);
        for (int y = 40; y < 55; ++y)
            for (int x = 30; x < 70; ++x)
                QVERIFY(std::abs(part.height.at(x - 30, y - 40) - whole(x, y)) < 1e-5);
    }

    void circles_are_refused_in_edits_and_opened_in_files() {
        Piece p = piece_from_text(piece_json(
            10, 10,
            R"({"id": "a", "name": "Plate", "source": {"kind": "rectangle"}, "mix": {"mask": {"element": "b"}}},
               {"id": "b", "name": "Moss", "source": {"kind": "rectangle"}, "steps": [{"kind": "raise", "map": {"element": "a"}}]})"));
        QCOMPARE(
            trouble_of([&] { refuse_cycles(p); }),
            std::string(
                R"(Elements read one another in a circle: "Plate" reads "Moss" reads "Plate". Take one of these maps or masks away.)"));
        // One map is switched off, told with its element's name, and the rest goes on being read.
        const auto told = open_circles(p);
        QCOMPARE(told.size(), std::size_t{1});
        QVERIFY(told[0].find("Plate") != std::string::npos && told[0].find("Moss") != std::string::npos);
        QCOMPARE(cycle_in(p), std::string());
        QVERIFY(p.elements[0]->mix.mask->on != p.elements[1]->steps[0]->map->on);
        // Into a group that it reads an element cannot be moved: it would read itself.
        Piece q = piece_from_text(piece_json(
            10, 10,
            R"({"id": "g", "source": {"kind": "group"}, "elements": [{"id": "c", "source": {"kind": "rectangle"}}]},
               {"id": "m", "source": {"kind": "rectangle"}, "mix": {"mask": {"element": "g"}}})"));
        QVERIFY(!move(q, {"m"}, "g", 0));
        QCOMPARE(group_of(q, "m"), std::string());
        QVERIFY(move(q, {"c"}, "", 0));
        // Fifty elements that each read all those behind them: looked through once, not along every way.
        QCOMPARE(cycle_in(piece_from_text(piece_json(10, 10, each_reads_all_behind()))), std::string());
    }

    void a_map_reads_its_own_child_but_not_what_reads_it() {
        // A group may read its own child.
        const auto fine = scene_of(piece_json(
            10, 10,
            R"({"id": "g", "source": {"kind": "group"}, "mix": {"mask": {"element": "c"}}, "elements": [{"id": "c", "source": {"kind": "rectangle"}}]})"));
        QVERIFY(may_read(*fine.piece, "g", "c"));
        QVERIFY(!may_read(*fine.piece, "c", "g"));
        QVERIFY(!may_read(*fine.piece, "c", "c"));
    }

    void masks_are_written_and_read_back_and_go_with_their_element() {
        Piece p = *scene_of(masked(R"({"mask": {"element": "disc", "of": "height", "low": 0.2, "glow": 1}})",
                                   map_of_disc(false)))
                       .piece;
        const Json once = to_json(p);
        QCOMPARE(to_json(piece_from_json(once)), once);
        QCOMPARE(once["elements"][1]["mix"]["mask"]["glow"], Json(1)); // what it does not know it keeps
        set_parameter(p, "plate.mix.mask.of", "tone");
        set_parameter(p, "plate.raise.map.sink", "true");
        QVERIFY(p.elements[1]->mix.mask->of == MapOf::tone && p.elements[1]->steps[0]->map->sink);
        QCOMPARE(users_of(p, "disc"), std::vector<std::string>{"plate"});
        remove(p, {"disc"});
        QVERIFY(!p.elements[0]->mix.mask && !p.elements[0]->steps[0]->map);
    }
};

namespace {

std::string each_reads_all_behind() {
    std::string many;
    for (int i = 0; i < 50; ++i) {
        many += (i ? ", " : "") + std::string(R"({"id": "e)") + std::to_string(i) +
                R"(", "source": {"kind": "rectangle"}, "steps": [)";
        for (int k = 0; k < i; ++k)
            many += (k ? ", " : "") + std::string(R"({"kind": "raise", "map": {"element": "e)") +
                    std::to_string(k) + "\"}}";
        many += "]}";
    }
    return many;
}

std::string map_of_disc(bool of_alpha) {
    return of_alpha ? R"("map": {"element": "disc", "of": "alpha"})" : R"("map": {"element": "disc"})";
}

std::string masked(const std::string& mix, const std::string& step_map) {
    const QString map = step_map.empty() ? QString() : ", " + QString::fromStdString(step_map);
    return piece_json(
        100, 100,
        QString(
            R"({"id": "disc", "source": {"kind": "form", "shape": "cone", "width": 40, "height": 40, "rise": 20, "color": "%3"}, "mix": {"visible": false}},
                   {"id": "plate", "source": {"kind": "rectangle", "width": 100, "height": 100}, "mix": %1, "steps": [{"kind": "raise", "amount": 10%2}]})")
            .arg(QString::fromStdString(mix), map, "#808080")
            .toStdString());
}

} // namespace

BATHYLUX_TEST(TestCombining)
#include "test_combining.moc"
