#include <QtTest>
#include <numbers>
#include <random>

#include "core/step/height.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace nests {

constexpr double sheet = 160; // a canvas of so many px a side

/// A rectangle or an ellipse with a chamfered edge, turned and stretched, in groups that are turned, mirrored
/// and scaled as a whole: what it is in plain words, and as JSON.
struct Nested {
    struct Lies {
        double x, y, turn, scale_u, scale_v;
        QString json() const {
            return QString(R"("placement": {"x": %1, "y": %2, "turn": %3, "scale_u": %4, "scale_v": %5})")
                .arg(x, 0, 'g', 12)
                .arg(y, 0, 'g', 12)
                .arg(turn)
                .arg(scale_u)
                .arg(scale_v);
        }
        /// A place about it, told about what it lies in.
        Vec2 out(Vec2 p) const {
            const double t = turn * std::numbers::pi / 180, u = p.x * scale_u, v = p.y * scale_v;
            return {x + u * std::cos(t) + v * std::sin(t), y - u * std::sin(t) + v * std::cos(t)};
        }
        Vec2 in(Vec2 p) const {
            const double t = turn * std::numbers::pi / 180, dx = p.x - x, dy = p.y - y;
            return {(dx * std::cos(t) - dy * std::sin(t)) / scale_u,
                    (dx * std::sin(t) + dy * std::cos(t)) / scale_v};
        }
    };
    std::vector<Lies> groups; // from the outermost
    Lies own;
    bool round = false;
    double width, height, edge, rise, lift;

    explicit Nested(unsigned seed) {
        std::mt19937 random(seed);
        const auto upto = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
        const int deep = upto(4);
        for (int i = 0; i < deep; ++i) {
            const double k = 0.7 + 0.1 * upto(8);
            groups.push_back({sheet / 2 + upto(21) - 10, sheet / 2 + upto(21) - 10, 15.0 * upto(24),
                              upto(3) ? k : -k, upto(3) ? k : -k});
        }
        round = upto(3) == 0;
        width = 40 + upto(40), height = round ? width : 30 + upto(40);
        const double k = 0.8 + 0.1 * upto(5);
        own = {sheet / 2 + upto(21) - 10, sheet / 2 + upto(21) - 10, 10.0 * upto(36), upto(2) ? k : -k,
               round ? k : 0.8 + 0.1 * upto(5)};
        edge = 4 + upto(12), rise = 3 + upto(9), lift = upto(7) - 3;
    }

    std::string json() const {
        QString inside =
            QString(
                R"({"id": "e", "source": {"kind": "%1", "width": %2, "height": %3}, %4, "steps": [)"
                R"({"kind": "bevel", "width": %5, "rise": %6, "profile": "chamfer"}, {"kind": "raise", "amount": %7}]})")
                .arg(round ? "ellipse" : "rectangle")
                .arg(width)
                .arg(height)
                .arg(own.json())
                .arg(edge)
                .arg(rise)
                .arg(lift);
        for (std::size_t i = groups.size(); i-- > 0;)
            inside = QString(R"({"id": "g%1", "source": {"kind": "group"}, %2, "elements": [%3]})")
                         .arg(i)
                         .arg(groups[i].json(), inside);
        return piece_json(static_cast<int>(sheet), static_cast<int>(sheet), inside.toStdString());
    }
    /// How much larger the groups make it.
    double grown() const {
        double out = 1;
        for (const Lies& g : groups) out *= std::abs(g.scale_u);
        return out;
    }
    /// A place on the canvas in the element's own px. A group's origin is the middle of the canvas.
    Vec2 inward(Vec2 p) const {
        for (const Lies& g : groups) {
            p = g.in(p);
            p = {p.x + sheet / 2, p.y + sheet / 2};
        }
        return own.in(p);
    }
    /// How far within its outline a place lies, canvas px; negative outside.
    double within(Vec2 on_canvas) const {
        const Vec2 p = inward(on_canvas);
        const double u = grown() * std::abs(own.scale_u), v = grown() * std::abs(own.scale_v);
        if (round) return u * (width / 2 - std::hypot(p.x, p.y));
        return std::min(u * (width / 2 - std::abs(p.x)), v * (height / 2 - std::abs(p.y)));
    }
    /// A bevel's edge is as wide and as high as it says, times what the groups make of it.
    double height_at(Vec2 p) const {
        return grown() * (rise * std::clamp(within(p) / (edge * grown()), 0.0, 1.0) + lift);
    }
    double covered(int x, int y) const {
        constexpr int fine = 12;
        int in = 0;
        for (int j = 0; j < fine; ++j)
            for (int i = 0; i < fine; ++i) in += within({x + (i + 0.5) / fine, y + (j + 0.5) / fine}) > 0;
        return in / double(fine * fine);
    }
};

} // namespace nests

/// What lies in groups within groups is where, as large and as high as plain geometry says, at any scale.
class TestNests : public QObject {
    Q_OBJECT
  private slots:
    void shapes_lie_where_their_groups_put_them() {
        int inside = 0, edges = 0;
        for (unsigned seed = 0; seed < 60; ++seed) {
            const nests::Nested nested(seed);
            const Scene scene = scene_of(nested.json());
            for (const double scale : {1.0, 0.5, 1.7}) {
                const Region canvas = canvas_region(scene.piece->canvas, scale);
                const Bundle is = extended_with_nothing(
                    Evaluator().element(scene, nested.groups.empty() ? "e" : "g0", canvas, scale), canvas);
                const int side = canvas.width();
                for (int y = 0; y < side; ++y)
                    for (int x = 0; x < side; ++x) {
                        const Vec2 p{(x + 0.5) / scale, (y + 0.5) / scale};
                        const double d = nested.within(p);
                        const auto told = [&](double got, double want) {
                            return QString("seed %1 × %2 at %3, %4: %5 instead of %6\n%7")
                                .arg(seed)
                                .arg(scale)
                                .arg(x)
                                .arg(y)
                                .arg(got)
                                .arg(want)
                                .arg(QString::fromStdString(nested.json()))
                                .toUtf8();
                        };
                        const double cover = is.coverage.at(x, y);
                        if (d > 1 / scale) {
                            ++inside;
                            if (!(cover > 0.999)) QFAIL(told(cover, 1));
                            const double got = is.height.at(x, y), want = nested.height_at(p);
                            if (!(std::abs(got - want) < 0.05)) QFAIL(told(got, want));
                        } else if (d < -1 / scale) {
                            if (!(cover < 0.001)) QFAIL(told(cover, 0));
                        } else if (scale == 1 && (x + y) % 5 == 0) {
                            ++edges;
                            const double want = nested.covered(x, y);
                            if (!(std::abs(cover - want) < 0.07)) QFAIL(told(cover, want));
                        }
                    }
            }
        }
        QVERIFY(inside > 100000 && edges > 1000);
    }
};
BATHYLUX_TEST(TestNests)
#include "test_nests.moc"
