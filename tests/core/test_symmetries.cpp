// Whatever a scene is, some things hold: moved it is the same moved, mirrored mirrored, turned turned; lights
// add up; what is not seen counts for nothing. No other program and no formula is needed to know what is
// right.
#include <QtTest>

#include "core/piece/edit.h"
#include "run.h"
#include "support.h"

// Compiled together with other tests, whose helpers have the same names.
namespace bathylux::symmetries {

namespace {

constexpr int side = 160;

/// Something with edges, softness and colours that looks the same nowhere twice, in a group that is placed
/// so.
std::string lump(const std::string& placement) {
    return R"({"id": "all", "source": {"kind": "group"}, "placement": {)" + placement + R"(}, "elements": [
        {"id": "plate", "source": {"kind": "rectangle", "width": 84, "height": 60, "corner": 9, "color": "#7a8a64"},
         "placement": {"x": 80, "y": 80}, "steps": [{"kind": "bevel", "width": 7, "rise": 6, "profile": "round"}]},
        {"id": "eye", "source": {"kind": "ellipse", "width": 40, "height": 22, "color": "#c4823c"},
         "placement": {"x": 66, "y": 72, "turn": 20}, "surface": {"roughness": 0.3, "metallic": 0.8},
         "steps": [{"kind": "bevel", "width": 9, "rise": 7, "profile": "ogee"}, {"kind": "soften", "radius": 1.5}]},
        {"id": "bar", "source": {"kind": "rectangle", "width": 9, "height": 50, "color": "#3c64a0"},
         "placement": {"x": 104, "y": 84, "turn": -30}, "mix": {"opacity": 0.8, "blend": "multiply"},
         "steps": [{"kind": "bevel", "width": 4, "rise": -5}]}]})";
}

std::string far_light(double angle, const std::string& more = "") {
    return R"({"id": "far", "kind": "directional", "angle": )" + std::to_string(angle) +
           R"(, "elevation": 35, "color": "#ffe0c0", "intensity": 0.9)" + more + "}";
}

Scene piece_with(const std::string& elements, const std::string& lights, const std::string& more = "") {
    return scene_of(piece_json(side, side, elements,
                               R"("ambient": {"intensity": 0.1}, "lights": [)" + lights + "]" +
                                   (more.empty() ? "" : ", " + more)));
}

using Picture4 = std::array<Plane, 4>;

Picture4 lit(const Scene& scene) {
    Evaluator evaluator(0);
    Strip s = look(evaluator, scene, View::lit, canvas_region(scene.piece->canvas, 1), 1);
    Picture4 out;
    for (std::size_t c = 0; c < 4; ++c) out[c] = s.channels[c].writable(s.region.width(), s.region.height());
    return out;
}

/// The largest difference between a px and the one that `from` says is its like; `from` outside: not
/// compared.
template <class From> double worst_against(const Picture4& a, const Picture4& b, const From& from) {
    double worst = 0;
    for (std::size_t c = 0; c < 4; ++c)
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) {
                const auto [u, v] = from(x, y);
                if (u >= 0 && v >= 0 && u < side && v < side)
                    worst = std::max(worst, std::abs(double(a[c](x, y)) - b[c](u, v)));
            }
    return worst;
}
double worst_against(const Picture4& a, const Picture4& b) {
    return worst_against(a, b, [](int x, int y) { return std::pair{x, y}; });
}

/// How much there is to be seen: so that nothing is not found to be like nothing.
double contrast(const Picture4& a) {
    float low = 1e9f, high = -1e9f;
    for (int y = 0; y < side; ++y)
        for (int x = 0; x < side; ++x) low = std::min(low, a[0](x, y)), high = std::max(high, a[0](x, y));
    return high - low;
}

const char* const soft_shadow = R"(, "shadow": true, "size": 3)";

} // namespace

class TestSymmetries : public QObject {
    Q_OBJECT
  private slots:
    void moved_by_whole_px_it_is_the_same_data() {
        QTest::addColumn<QString>("more");
        QTest::newRow("hard light") << "";
        QTest::newRow("soft shadow") << soft_shadow;
    }
    void moved_by_whole_px_it_is_the_same() {
        QFETCH(QString, more);
        const std::string light = far_light(130, more.toStdString());
        const Picture4 here = lit(piece_with(lump(""), light)),
                       there = lit(piece_with(lump(R"("x": 91, "y": 73)"), light));
        QVERIFY(contrast(here) > 0.3 && worst_against(here, there) > 0.2);
        // Shadows are swept in rows that begin at the canvas's edge: they may differ by what rows differ.
        const double worst = worst_against(there, here, [](int x, int y) {
            return std::pair{x - 11, y + 7};
        });
        QVERIFY2(worst <= (more.isEmpty() ? 2e-6 : 0.02), qPrintable(QString::number(worst)));
    }

    void mirrored_it_is_mirrored_data() {
        QTest::addColumn<QString>("flipped");
        QTest::addColumn<double>("angle");
        QTest::addColumn<bool>("across");
        QTest::newRow("across") << R"("scale_u": -1)" << 180 - 130.0 << true;
        QTest::newRow("upside down") << R"("scale_v": -1)" << -130.0 << false;
    }
    void mirrored_it_is_mirrored() {
        QFETCH(QString, flipped);
        QFETCH(double, angle);
        QFETCH(bool, across);
        const Picture4 straight = lit(piece_with(lump(""), far_light(130))),
                       mirror = lit(piece_with(lump(flipped.toStdString()), far_light(angle)));
        QVERIFY(worst_against(straight, mirror) > 0.2);
        const double worst = worst_against(mirror, straight, [&](int x, int y) {
            return across ? std::pair{side - 1 - x, y} : std::pair{x, side - 1 - y};
        });
        QVERIFY2(worst < 2e-4, qPrintable(QString::number(worst)));
    }

    void turned_by_a_quarter_it_is_turned() {
        const Picture4 straight = lit(piece_with(lump(""), far_light(130))),
                       turned = lit(piece_with(lump(R"("turn": 90)"), far_light(220)));
        QVERIFY(worst_against(straight, turned) > 0.2);
        const double worst = worst_against(turned, straight, [](int x, int y) {
            return std::pair{side - 1 - y, x};
        });
        QVERIFY2(worst < 2e-4, qPrintable(QString::number(worst)));
    }

    void shadows_turn_with_their_light() {
        // The march is made of rows and levels of the canvas: alike, not the same.
        const auto with = [&](const char* placement, double angle) {
            return lit(piece_with(lump(placement), far_light(angle, soft_shadow)));
        };
        const Picture4 straight = with("", 130), turned = with(R"("turn": 90)", 220);
        double sum = 0;
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) {
                const double d = turned[1](x, y) - straight[1](side - 1 - y, x);
                sum += d * d;
            }
        const double decibels = -10 * std::log10(sum / (side * side));
        QVERIFY2(decibels > 40, qPrintable(QString::number(decibels)));
    }

    void lights_add_up() {
        const std::string
            lamp =
                R"({"id": "lamp", "kind": "point", "x": 30, "y": 40, "z": 60, "distance": 70, "intensity": 0.7})",
            spot =
                R"({"id": "spot", "kind": "spot", "x": 140, "y": 20, "z": 90, "target_x": 90, "target_y": 90, "distance": 90, "inner_cone": 10, "outer_cone": 30, "shadow": true})",
            dark = R"("ambient": {"intensity": 0})";
        const auto by = [&](const std::string& lights) {
            return lit(scene_of(piece_json(side, side, lump(""), dark + ", \"lights\": [" + lights + "]")));
        };
        const Picture4 all = by(far_light(130) + "," + lamp + "," + spot), one = by(far_light(130)),
                       two = by(lamp), three = by(spot);
        QVERIFY(contrast(one) > 0.1 && contrast(two) > 0.05 && contrast(three) > 0.05);
        double worst = 0;
        for (std::size_t c = 0; c < 3; ++c)
            for (int y = 0; y < side; ++y)
                for (int x = 0; x < side; ++x)
                    worst = std::max(
                        worst, std::abs(double(all[c](x, y)) - one[c](x, y) - two[c](x, y) - three[c](x, y)));
        QVERIFY2(worst < 2e-5, qPrintable(QString::number(worst)));
        QCOMPARE(worst_difference(all[3], one[3]), 0.0); // alpha is nobody's
    }

    void a_stop_of_exposure_is_twice_the_lights() {
        // Not the ambient light, which is a colour of the piece: see the format.
        const auto at = [](const char* exposure, const char* ambient) {
            return lit(scene_of(piece_json(side, side, lump(""),
                                           std::string(R"("ambient": {"intensity": )") + ambient +
                                               R"(}, "exposure": )" + exposure + R"(, "lights": [)" +
                                               far_light(130) + "]")));
        };
        const Picture4 plain = at("0", "0"), brighter = at("1", "0"), with = at("1", "0.1"),
                       base = at("0", "0.1");
        double worst = 0, worst_with = 0;
        for (std::size_t c = 0; c < 3; ++c)
            for (int y = 0; y < side; ++y)
                for (int x = 0; x < side; ++x) {
                    const double p = plain[c](x, y), ambient = base[c](x, y) - p;
                    worst = std::max(worst, std::abs(brighter[c](x, y) - 2 * p));
                    worst_with = std::max(worst_with, std::abs(with[c](x, y) - (2 * p + ambient)));
                }
        QVERIFY2(worst < 1e-5 && worst_with < 1e-5,
                 qPrintable(QString("%1, with ambient light %2").arg(worst).arg(worst_with)));
    }

    void what_is_not_seen_counts_for_nothing_data() {
        QTest::addColumn<QString>("with");
        const QString blot =
            R"({"id": "blot", "source": {"kind": "rectangle", "width": 70, "height": 70, "color": "#ff0000"},
                "placement": {"x": 70, "y": 90}%1})";
        const QString bevel = R"("steps": [{"kind": "bevel", "width": 10, "rise": 20}])";
        QTest::newRow("hidden") << "," + blot.arg(R"(, "mix": {"visible": false}, )" + bevel);
        QTest::newRow("in a hidden group")
            << R"(, {"id": "h", "source": {"kind": "group"}, "mix": {"visible": false}, "elements": [)" +
                   blot.arg(", " + bevel) + "]}";
        QTest::newRow("of no opacity, without relief") << "," + blot.arg(R"(, "mix": {"opacity": 0})");
        QTest::newRow("outside the canvas")
            << R"(, {"id": "blot", "source": {"kind": "ellipse", "width": 50, "height": 50, "color": "#ff0000"},
                 "placement": {"x": -90, "y": 300}, )" +
                   bevel + "}";
        QTest::newRow("masked by what is not there")
            << ", " + blot.arg(R"(, "mix": {"mask": {"element": "void", "of": "alpha"}}, )" + bevel) +
                   R"(, {"id": "void", "mix": {"visible": false}, "placement": {"x": 900, "y": 900},
                        "source": {"kind": "ellipse", "width": 4, "height": 4}})";
        QTest::newRow("steps switched off, and no colour")
            << "," + blot.arg(R"(, "mix": {"opacity": 0}, "steps": [
                    {"kind": "bevel", "on": false, "width": 10, "rise": 20},
                    {"kind": "raise", "on": false, "amount": 9}])");
    }
    void what_is_not_seen_counts_for_nothing() {
        QFETCH(QString, with);
        const Picture4 without = lit(piece_with(lump(""), far_light(130, soft_shadow))),
                       there = lit(piece_with(lump("") + with.toStdString(), far_light(130, soft_shadow)));
        QCOMPARE(worst_against(there, without), 0.0);
    }

    void what_does_nothing_does_nothing_data() {
        QTest::addColumn<QString>("step");
        for (const char* step : {R"("soften", "radius": 0)",
                                 R"("smooth", "radius": 0)",
                                 R"("raise", "amount": 0)",
                                 R"("bevel", "rise": 0)",
                                 R"("sharpen", "strength": 0)",
                                 R"("bands")",
                                 R"("pushed")",
                                 R"("inset", "amount": 0)",
                                 R"("round_corners", "radius": 0)",
                                 R"("wear", "gone": 0)",
                                 R"("displace", "across": 0, "down": 0, "by": {"element": "w"})",
                                 R"("perspective")",
                                 R"("trim")",
                                 R"("melt", "radius": 0)",
                                 R"("drips", "count": 0)",
                                 R"("extrude", "length": 0)",
                                 R"("fill", "amount": 0)",
                                 R"("tone_curve")",
                                 R"("tone_window")",
                                 R"("contrast", "contrast": 1)",
                                 R"("hue")",
                                 R"("liven", "strength": 0)",
                                 R"("gain")",
                                 R"("blur", "radius": 0)",
                                 R"("crisp", "strength": 0)"})
            QTest::newRow(step) << step;
    }
    void what_does_nothing_does_nothing() {
        QFETCH(QString, step);
        const std::string waves = R"(, {"id": "w", "source": {"kind": "noise"}, "mix": {"visible": false}})";
        const std::string head =
            R"({"id": "e", "source": {"kind": "ellipse", "width": 90, "height": 60, "color": "#b0804a"},
                "placement": {"x": 80, "y": 80}, "steps": [{"kind": "bevel", "width": 14, "rise": 9})";
        const Picture4 plain = lit(piece_with(head + "]}", far_light(130))),
                       more = lit(piece_with(head + ", {\"kind\": " + step.toStdString() + "}]}" + waves,
                                             far_light(130)));
        const double worst = worst_against(plain, more);
        QVERIFY2(worst < 1e-6, qPrintable(QString::number(worst)));
    }

    void order_matters_only_where_things_meet() {
        const std::string
            one =
                R"({"id": "one", "source": {"kind": "ellipse", "width": 50, "height": 60, "color": "#a06050"},
                "placement": {"x": 40, "y": 60}, "steps": [{"kind": "bevel", "width": 9, "rise": 8}]})",
            two =
                R"({"id": "two", "source": {"kind": "rectangle", "width": 60, "height": 40, "color": "#4a6a9a"},
                "placement": {"x": 120, "y": 110}, "steps": [{"kind": "bevel", "width": 5, "rise": 3}]})";
        const auto both = [&](const std::string& a, const std::string& b) {
            return lit(piece_with(a + "," + b, far_light(130, soft_shadow)));
        };
        QCOMPARE(worst_against(both(one, two), both(two, one)), 0.0);
    }

    void a_group_that_does_nothing_is_not_there() {
        const std::string inside =
            R"({"id": "a", "source": {"kind": "ellipse", "width": 90, "height": 60, "color": "#a06050"},
                "placement": {"x": 70, "y": 60}, "steps": [{"kind": "bevel", "width": 19, "rise": 8}]},
               {"id": "b", "source": {"kind": "rectangle", "width": 60, "height": 40, "color": "#4a6a9a"},
                "placement": {"x": 90, "y": 90, "turn": 12}, "steps": [{"kind": "bevel", "width": 5, "rise": 3}]})";
        const Picture4 bare = lit(piece_with(inside, far_light(130, soft_shadow))),
                       grouped = lit(piece_with(R"({"id": "g", "source": {"kind": "group"}, "elements": [)" +
                                                    inside + "]}",
                                                far_light(130, soft_shadow)));
        const double worst = worst_against(bare, grouped);
        QVERIFY2(worst < 1e-5, qPrintable(QString::number(worst)));
    }

    void the_light_keeps_its_side_of_the_relief() {
        // Sunk instead of raised, lit from the other side: the same slopes towards the light.
        const auto of = [&](double rise, double angle) {
            return lit(piece_with(
                R"({"id": "e", "source": {"kind": "ellipse", "width": 100, "height": 70, "color": "#b0804a"},
                    "placement": {"x": 80, "y": 80}, "steps": [{"kind": "bevel", "width": 20, "profile": "round",
                    "rise": )" +
                    std::to_string(rise) + "}]}",
                far_light(angle)));
        };
        QVERIFY(worst_against(of(8, 130), of(-8, 130)) > 0.1);
        const double worst = worst_against(of(8, 130), of(-8, 310));
        QVERIFY2(worst < 2e-5, qPrintable(QString::number(worst)));
    }
};
BATHYLUX_TEST(TestSymmetries)

} // namespace bathylux::symmetries
#include "test_symmetries.moc"
