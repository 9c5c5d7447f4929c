#include <QtTest>
#include <numbers>

#include "core/shape/coverage.h"
#include "core/shape/distance.h"
#include "run.h"

using namespace bathylux;

namespace {

/// Distance from a point inside an ellipse to its edge, by bisection over the angle in double.
double ellipse_distance(double a, double b, double x, double y) {
    double best = 1e30;
    for (int start = 0; start < 720; ++start) {
        const double t = start * std::numbers::pi / 360;
        best = std::min(best, std::hypot(a * std::cos(t) - x, b * std::sin(t) - y));
    }
    double step = std::numbers::pi / 360, at = 0;
    for (int i = 0; i < 720; ++i)
        if (const double t = i * std::numbers::pi / 360;
            std::hypot(a * std::cos(t) - x, b * std::sin(t) - y) <= best + 1e-12)
            at = t;
    for (int i = 0; i < 60; ++i, step *= 0.6)
        for (double t : {at - step, at + step})
            if (const double d = std::hypot(a * std::cos(t) - x, b * std::sin(t) - y); d < best)
                best = d, at = t;
    return best;
}

} // namespace

class TestShape : public QObject {
    Q_OBJECT
  private slots:
    void distance_to_an_ellipse_is_exact() {
        const double a = 90, b = 41;
        const Region r{0, 0, 220, 120};
        const Polyline p =
            flatten(ellipse_outline(2 * a, 2 * b).transformed(Affine::translation(110.3, 60.7)), 0.02);
        const Plane d = distance_inside(boundary_of(p), inside_spans(p, r), r);
        double worst = 0;
        int inside = 0;
        for (int y = 0; y < 120; y += 3)
            for (int x = 0; x < 220; x += 3) {
                const double px = x + 0.5 - 110.3, py = y + 0.5 - 60.7;
                if (px * px / (a * a) + py * py / (b * b) >= 1) {
                    QCOMPARE(d(x, y), 0.0f);
                    continue;
                }
                ++inside;
                worst = std::max(worst, std::abs(ellipse_distance(a, b, px, py) - d(x, y)));
            }
        QVERIFY(inside > 500);
        QVERIFY2(worst < 0.05, qPrintable(QString::number(worst)));
    }

    void distance_in_a_turned_rectangle_is_exact() {
        const Region r{0, 0, 200, 200};
        const Affine m = Affine::translation(100, 100) * Affine::turning(27);
        const Polyline p = flatten(rectangle_outline(120, 70, 0).transformed(m), 0.02);
        const Plane d = distance_inside(boundary_of(p), inside_spans(p, r), r);
        const Affine back = m.inverse();
        for (int y = 0; y < 200; y += 2)
            for (int x = 0; x < 200; x += 2) {
                const Vec2 q = back({x + 0.5, y + 0.5});
                const double expected = std::max(0.0, std::min(60 - std::abs(q.x), 35 - std::abs(q.y)));
                QVERIFY(std::abs(expected - d(x, y)) < 1e-3);
            }
    }

    void distance_of_an_antialiased_disc_picture_keeps_to_the_promise() {
        const Region r{0, 0, 160, 160};
        const Polyline p =
            flatten(ellipse_outline(130, 130).transformed(Affine::translation(80.37, 79.81)), 0.005);
        const Field cover(coverage(p, r));
        const Plane d = distance_inside(edge_of_coverage(cover, r), inside_spans(cover, r), r);
        double sum = 0;
        int n = 0;
        for (int y = 0; y < 160; ++y)
            for (int x = 0; x < 160; ++x) {
                const double expected = 65 - std::hypot(x + 0.5 - 80.37, y + 0.5 - 79.81);
                if (expected < 1) continue;
                sum += (expected - d(x, y)) * (expected - d(x, y)), ++n;
            }
        const double rms = std::sqrt(sum / n);
        QVERIFY2(rms < 0.15, qPrintable(QString::number(rms)));
    }

    void coverage_is_the_area() {
        // A slanted square far from the pixel grid: sums of coverage are its area, and no pixel leaves 0…1.
        const Region r{0, 0, 64, 48};
        const Polyline p = flatten(rectangle_outline(21.7, 13.3, 0)
                                       .transformed(Affine::translation(31.2, 22.9) * Affine::turning(33)),
                                   0.01);
        const Plane c = coverage(p, r);
        double sum = 0;
        for (int y = 0; y < 48; ++y)
            for (int x = 0; x < 64; ++x) {
                QVERIFY(c(x, y) >= 0 && c(x, y) <= 1);
                sum += c(x, y);
            }
        QVERIFY(std::abs(sum - 21.7 * 13.3) < 1e-3);
        // An axis-parallel one: the share of the pixel, to the last digit.
        const Plane exact = coverage(
            flatten(rectangle_outline(10.5, 8, 0).transformed(Affine::translation(20, 20)), 0.01), r);
        QVERIFY(std::abs(exact(14, 20) - 0.25f) < 1e-6f);
        QCOMPARE(exact(20, 20), 1.0f);
        QCOMPARE(exact(26, 20), 0.0f);
    }

    void contours_close_to_the_last_bit() {
        for (const Outline& o : {ellipse_outline(417, 417), rectangle_outline(120, 80, 13)}) {
            const Polyline p = flatten(o.transformed(Affine::translation(700, 700)), 0.02);
            for (std::size_t i = 0; i < p.segments.size(); ++i)
                QVERIFY(p.segments[i].b == p.segments[(i + 1) % p.segments.size()].a);
        }
    }

    void touching_shapes_join_without_a_seam_or_a_gap() {
        // A post stands on a base with its foot on the base's upper edge; a ring lies round both, its start
        // at the very height of a row of pixels.
        OutlineBuilder b;
        const auto box = [&](double x0, double y0, double x1, double y1) {
            b.move_to({x0, y0}), b.line_to({x1, y0}), b.line_to({x1, y1}), b.line_to({x0, y1}), b.close();
        };
        box(40, 60.5, 88, 80);
        box(58, 30, 70, 60.5);
        b.arc({64, 64.5}, {60, 0}, {0, 60}, 0, 2 * std::numbers::pi), b.close();
        b.arc({64, 64.5}, {54, 0}, {0, -54}, 0, 2 * std::numbers::pi),
            b.close(); // the other way round: a hole
        const Region r{0, 0, 128, 128};
        const Polyline edge = boundary_of(flatten(b.finish(FillRule::nonzero), 0.02));
        const Plane c = coverage(edge, r), d = distance_inside(edge, inside_spans(edge, r), r);
        QCOMPARE(c(20, 64), 0.0f); // between ring and base
        QCOMPARE(c(100, 64), 0.0f);
        QCOMPARE(c(64, 60), 1.0f); // where post and base meet
        QCOMPARE(c(50, 59), 0.0f);
        QVERIFY(std::abs(c(50, 60) - 0.5f) < 1e-5f);
        QVERIFY(std::abs(d(44, 62) - 2.0f) < 0.01f); // to the base's upper edge, beside the post
        QVERIFY(std::abs(d(64, 62) - std::hypot(5.5, 2.0)) < 0.02f); // to the corner post and base make
    }

    void overlapping_contours_count_once() {
        OutlineBuilder b;
        for (double x : {0.0, 10.0})
            b.move_to({x, 0}), b.line_to({x + 20, 0}), b.line_to({x + 20, 20}), b.line_to({x, 20}), b.close();
        const Polyline p = flatten(b.finish(FillRule::nonzero).transformed(Affine::translation(5, 5)), 0.01);
        const Region r{0, 0, 40, 30};
        const Plane d = distance_inside(boundary_of(p), inside_spans(p, r), r);
        QVERIFY(std::abs(d(19, 14) - 9.5f) < 0.01f); // no inner edge at x = 15 or 25
        QVERIFY(std::abs(d(14, 14) - 9.5f) < 0.01f);
        const Plane c = coverage(p, r);
        QCOMPARE(c(19, 14), 1.0f);
    }
};
BATHYLUX_TEST(TestShape)
#include "test_shape.moc"
