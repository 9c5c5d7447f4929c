#include <QtTest>
#include <numbers>

#include "core/shape/offset.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

Bundle with_steps(const QString& source, const QString& steps, int side = 200) {
    return relief_of(scene_of(
        piece_json(side, side,
                   QString(R"({"id": "e", "source": %1, "steps": [%2]})").arg(source, steps).toStdString())));
}
double area(const Field& coverage, int side) {
    double sum = 0;
    for (int y = 0; y < side; ++y)
        for (int x = 0; x < side; ++x) sum += coverage.at(x, y);
    return sum;
}
const QString square = R"({"kind": "rectangle", "width": 100, "height": 60})";

} // namespace

class TestShapeSteps : public QObject {
    Q_OBJECT
  private slots:
    void areas_are_those_of_geometry_data() {
        QTest::addColumn<QString>("steps");
        QTest::addColumn<double>("expected");
        constexpr double pi = std::numbers::pi;
        QTest::newRow("in, sharp") << R"({"kind": "inset", "amount": 10, "join": "miter"})" << 80.0 * 40;
        QTest::newRow("out, sharp") << R"({"kind": "inset", "amount": -10, "join": "miter"})" << 120.0 * 80;
        QTest::newRow("out, round") << R"({"kind": "inset", "amount": -10, "join": "round"})"
                                    << 120.0 * 80 - (400 - pi * 100);
        QTest::newRow("border inside") << R"({"kind": "border", "width": 5})" << 100.0 * 60 - 90 * 50;
        QTest::newRow("border outside")
            << R"({"kind": "border", "width": 5, "side": "outside", "join": "miter"})"
            << 110.0 * 70 - 100 * 60;
        QTest::newRow("border astride")
            << R"({"kind": "border", "width": 6, "side": "both", "join": "miter"})" << 106.0 * 66 - 94 * 54;
        QTest::newRow("rounded") << R"({"kind": "round_corners", "radius": 20})"
                                 << 100.0 * 60 - (1600 - pi * 400);
        QTest::newRow("gone") << R"({"kind": "inset", "amount": 40})" << 0.0;
    }
    void areas_are_those_of_geometry() {
        QFETCH(QString, steps);
        QFETCH(double, expected);
        const double found = area(with_steps(square, steps).coverage, 200);
        QVERIFY2(std::abs(found - expected) < 1.0,
                 qPrintable(QString("%1, not %2").arg(found).arg(expected)));
    }

    void an_edge_moved_in_carries_its_bevel_along() {
        // A ring's bevel begins at the new edge: 30 px about the middle of a disc of 50.
        const Bundle b = with_steps(
            R"({"kind": "ellipse", "width": 100, "height": 100})",
            R"({"kind": "inset", "amount": 20}, {"kind": "bevel", "width": 10, "rise": 10, "profile": "chamfer"})");
        for (int x = 101; x < 129; ++x) {
            const double d = 30 - std::hypot(x + 0.5 - 100, 0.5), expected = std::clamp(d, 0.0, 10.0);
            QVERIFY2(std::abs(b.height.at(x, 100) - expected) < 0.05,
                     qPrintable(QString("%1: %2, not %3").arg(x).arg(b.height.at(x, 100)).arg(expected)));
        }
    }

    void coverage_alone_gives_the_same_edge() {
        // Traced from pixels, a disc's contour has its area and length within a hundredth.
        const Bundle b = with_steps(R"({"kind": "ellipse", "width": 120, "height": 120})", "");
        const Contours c = contours_of(b.coverage, b.region);
        QCOMPARE(c.size(), std::size_t{1});
        double twice = 0, way = 0;
        for (std::size_t i = 0; i < c[0].size(); ++i) {
            const Vec2 p = c[0][i], q = c[0][(i + 1) % c[0].size()];
            twice += cross(p, q), way += length(q - p);
        }
        QVERIFY(std::abs(std::abs(twice) / 2 / (std::numbers::pi * 3600) - 1) < 0.005);
        QVERIFY(std::abs(way / (std::numbers::pi * 120) - 1) < 0.01);
    }

    void what_is_added_has_the_colour_of_what_was_there() {
        const Bundle b = with_steps(
            QString(R"({"kind": "rectangle", "width": 60, "height": 60, "color": "%1"})").arg("#4080c0"),
            R"({"kind": "inset", "amount": -15})");
        for (int x = 56; x < 144; ++x)
            QVERIFY(std::abs(b.color[2].at(x, 100) - srgb_decode(192 / 255.0f) * b.coverage.at(x, 100)) <
                    2e-3);
    }

    void bevels_lie_on_both_sides_when_asked() {
        const Bundle b = with_steps(
            square, R"({"kind": "bevel", "width": 10, "rise": 8, "profile": "chamfer", "side": "both"})");
        // The outline at x = 50: half way up; 10 px outside 0, 10 px inside all.
        QVERIFY(std::abs((b.height.at(49, 100) + b.height.at(50, 100)) / 2 - 4) < 0.05);
        QVERIFY(std::abs(b.height.at(44, 100) - 8 * 4.5 / 20) < 0.05);
        QCOMPARE(b.height.at(38, 100), 0.0f);
        QVERIFY(std::abs(b.height.at(61, 100) - 8) < 0.05);
    }

    void corners_that_go_in_are_mitred_when_sharp() {
        // A frame: its hole's corners go in. Free, contours run round them; sharp, they keep the corner.
        const auto frame = [](const QString& corner) {
            return with_steps(
                square,
                QString(
                    R"({"kind": "inset", "amount": -20, "join": "miter"}, {"kind": "border", "width": 20, "join": "miter"},
                                         {"kind": "bevel", "width": 20, "rise": 20, "profile": "chamfer", "corner": "%1"})")
                    .arg(corner));
        };
        const Bundle free = frame("free"), sharp = frame("sharp");
        // The hole's corner is at (50, 70); 6 px outwards both ways.
        const double d = std::hypot(6.5 - 1, 6.5 - 1);
        QVERIFY2(std::abs(free.height.at(44, 64) - d) < 0.1,
                 qPrintable(QString::number(free.height.at(44, 64))));
        QVERIFY2(std::abs(sharp.height.at(44, 64) - 5.5) < 0.1,
                 qPrintable(QString::number(sharp.height.at(44, 64))));
        // Away from corners nothing differs.
        QCOMPARE(sharp.height.at(100, 62), free.height.at(100, 62));
    }

    void a_background_is_knocked_out_by_colour() {
        // White ground, a red ring on it, white in its hole.
        auto scene = [](const char* step) {
            auto s = scene_of(piece_json(
                80, 80,
                QString(R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "steps": [%1]})")
                    .arg(QString(step).arg("#ffffff"))
                    .toStdString()));
            auto p = std::make_shared<Picture>();
            p->width = p->height = 80, p->channels = 3;
            p->samples.assign(80 * 80 * 3, std::byte{255});
            for (int y = 0; y < 80; ++y)
                for (int x = 0; x < 80; ++x) {
                    // Anti-aliased in encoded values, as pictures are.
                    const double r = std::hypot(x - 39.5, y - 39.5);
                    const double in = std::clamp(30.5 - r, 0.0, 1.0) * std::clamp(r - 14.5, 0.0, 1.0);
                    for (int c = 1; c < 3; ++c)
                        p->samples[3 * (y * 80 + x) + c] =
                            static_cast<std::byte>(std::lround(255 * (1 - in)));
                }
            p->seal();
            Asset a;
            a.picture = p, a.width = a.height = 80, a.hash = p->hash;
            s.assets = std::make_shared<const Assets>(Assets{{"p", std::make_shared<const Asset>(a)}});
            return relief_of(s);
        };
        const Bundle all = scene(R"({"kind": "knock_out", "color": "%1"})");
        QCOMPARE(all.coverage.at(2, 2), 0.0f);
        QCOMPARE(all.coverage.at(40, 40), 0.0f); // the hole too
        QCOMPARE(all.coverage.at(62, 40), 1.0f);
        const Bundle rim = scene(R"({"kind": "knock_out", "color": "%1", "connected": true})");
        QCOMPARE(rim.coverage.at(2, 2), 0.0f);
        QCOMPARE(rim.coverage.at(40, 40), 1.0f); // the hole stays
        // The fringe keeps no white: wherever something is, it is red.
        for (int x = 0; x < 80; ++x)
            if (const float a = all.coverage.at(x, 40); a > 0.05f) {
                QVERIFY(all.color[0].at(x, 40) / a > 0.9f);
                QVERIFY2(all.color[1].at(x, 40) / a < 0.35f,
                         qPrintable(QString("%1: %2").arg(x).arg(all.color[1].at(x, 40) / a)));
            }
        const Bundle shrunk = scene(R"({"kind": "knock_out", "color": "%1", "grow": -3})");
        const double full = area(all.coverage, 80), less = area(shrunk.coverage, 80);
        QVERIFY2(std::abs((full - less) - 2 * std::numbers::pi * (30 + 15) * 3) < 60,
                 qPrintable(QString::number(full - less)));
    }
};
BATHYLUX_TEST(TestShapeSteps)
#include "test_shape_steps.moc"
