// The shadows of the demo pieces against a slow march along every ray.
#include <QtTest>

#include "core/check/checks.h"
#include "core/light/shadow.h"
#include "core/piece/pose.h"
#include "files/resolve.h"
#include "marched.h"
#include "run.h"
#include "strips.h"
#include "support.h"

using namespace bathylux;

class TestDemoLight : public QObject {
    Q_OBJECT
  private slots:
    void shadows_are_those_of_a_slow_march_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<double>("scale");
        QTest::addColumn<bool>("far");
        for (const auto& [name, scale] : {std::pair{"last-tram-home", 0.16},
                                          {"depot-emblem", 0.18},
                                          {"line-tile", 0.18},
                                          {"token-medal", 0.2},
                                          {"ticket-beetle", 1.0}})
            for (const bool far : {true, false})
                QTest::addRow("%s, %s", name, far ? "sun" : "lamp") << name << scale << far;
    }
    void shadows_are_those_of_a_slow_march() {
        QFETCH(QString, name);
        QFETCH(double, scale);
        QFETCH(bool, far);
        const auto opened =
            files::open_piece((QStringLiteral(BATHYLUX_DEMO "/") + name + ".json").toStdString());
        files::Resolver resolver;
        const Scene scene{std::make_shared<const Piece>(opened.piece),
                          resolver.resolve(opened.piece, opened.store)};
        const Region all = canvas_region(scene.piece->canvas, scale);
        Evaluator evaluator(0);
        const Bundle relief = evaluator.relief(scene, all, scale);
        Plane h = relief.height.plane();
        for (int y = 0; y < h.height(); ++y)
            for (int x = 0; x < h.width(); ++x) h(x, y) *= static_cast<float>(scale);
        Lamp lamp;
        lamp.directional = far;
        if (far) {
            const double a = 140 * radians_per_degree, e = 22 * radians_per_degree;
            lamp.x = float(std::cos(a) * std::cos(e)), lamp.y = float(std::sin(a) * std::cos(e)),
            lamp.z = float(std::sin(e));
            lamp.size = 4;
        } else {
            lamp.x = 0.3f * float(h.width()), lamp.y = 0.25f * float(h.height()),
            lamp.z = 0.3f * float(h.width());
            lamp.size = 0.06f * float(h.width());
        }
        const Plane s = shadow(Field(h), all, 1, Edge::clamp, lamp);
        double sum = 0;
        int count = 0, dark = 0;
        const int step = std::max(1, h.width() / 50);
        for (int y = 3; y < h.height() - 3; y += step)
            for (int x = 3; x < h.width() - 3; x += step) {
                if (!far && std::hypot(x + 0.5 - lamp.x, y + 0.5 - lamp.y) < 3) continue;
                const double expected = marched(h, x, y, lamp);
                sum += std::pow(s(x, y) - expected, 2), ++count, dark += expected < 0.7;
            }
        const double psnr = -10 * std::log10(sum / count + 1e-12);
        // The beetle's px are its features: between them its lines see a little more than one another.
        QVERIFY2(psnr > (name == "ticket-beetle" && !far ? 37 : 40), qPrintable(QString::number(psnr)));
        if (far) QVERIFY(dark > 5);
    }

    /// Cut into tiles, as a large canvas is, a piece is what it is in one go; its light but for what lies far
    /// away.
    void in_tiles_a_piece_is_what_it_is_in_one_go() {
        constexpr std::array views{View::lit, View::height, View::normals, View::roughness, View::mask};
        for (const QFileInfo& f : QDir(BATHYLUX_DEMO).entryInfoList({"*.json"})) {
            if (f.baseName() == "shelf") continue;
            const auto opened = files::open_piece(f.filePath().toStdString());
            files::Resolver resolver;
            const Piece piece = posed(opened.piece, 0);
            const auto assets = resolver.resolve(piece, opened.store);
            const double scale = 260.0 / std::max(piece.canvas.width, piece.canvas.height);
            const Region all = canvas_region(piece.canvas, scale);
            const auto seen = [&](Piece p, Cut cut) {
                Evaluator evaluator(std::size_t{128} << 20, cut);
                return look(evaluator, {std::make_shared<const Piece>(std::move(p)), assets},
                            {views.begin(), views.end()}, all, scale);
            };
            const Cut tiles{0, 96};
            const std::string bad =
                differs(views, seen(without_shadows(piece), {}), seen(without_shadows(piece), tiles));
            QVERIFY2(bad.empty(), (f.baseName().toStdString() + ": " + bad).c_str());
            const auto whole = seen(piece, {}), cut = seen(piece, tiles);
            const double apart = share_apart(whole[0].channels[1], cut[0].channels[1], all, 1);
            QVERIFY2(apart < 0.02, qPrintable(f.baseName() + QString(": %1").arg(apart)));
        }
    }

    /// What is shipped to be looked at has nothing that ought to be mended.
    void no_piece_has_an_open_check() {
        int pieces = 0;
        for (const QFileInfo& f : QDir(BATHYLUX_DEMO).entryInfoList({"*.json"})) {
            if (f.baseName() == "shelf") continue;
            const auto opened = files::open_piece(f.filePath().toStdString());
            files::Resolver resolver;
            Evaluator evaluator;
            const auto found = check_piece(evaluator, {std::make_shared<const Piece>(opened.piece),
                                                       resolver.resolve(opened.piece, opened.store)});
            QVERIFY2(found.empty(),
                     found.empty() ? "" : (f.baseName().toStdString() + ": " + found[0].says).c_str());
            ++pieces;
        }
        QVERIFY(pieces >= 6);
    }
};
BATHYLUX_TEST(TestDemoLight)
#include "test_demo_light.moc"
