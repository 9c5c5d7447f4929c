// One body written out in every format and read again: the same points in the same units, closed, of the
// volume that the height map says, with and without points left out.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <algorithm>

#include "files/meshes.h"
#include "files/pictures.h"
#include "run.h"
#include "support.h"

namespace bathylux::mesh_files {

namespace {

constexpr double per_mm = 8;

constexpr const char* dome_piece =
    R"({"bathylux": 1, "canvas": {"width": 96, "height": 64, "px_per_mm": 8}, "elements": [
            {"id": "dome", "source": {"kind": "ellipse", "width": 70, "height": 44, "color": "#c08040"},
             "steps": [{"kind": "bevel", "width": 20, "rise": 12, "profile": "round"}]},
            {"id": "dent", "source": {"kind": "rectangle", "width": 12, "height": 12}, "placement": {"x": 12, "y": 12},
             "steps": [{"kind": "bevel", "width": 3, "rise": -4}]}],
            "solid": {"kind": "plane"}})";

constexpr const char* taken_in =
    R"({"bathylux": 1, "canvas": {"width": 240, "height": 240}, "elements": [],
            "solid": {"kind": "mesh", "file": "m.glb", "radius": 100, "relief": 0,
                      "camera": {"turn": 0, "tilt": 0, "field": 0, "distance": 900}}})";

/// What is measured of a mesh whose unit is so many mm.
struct Measured {
    std::size_t triangles = 0;
    int open = 0; // edges that are not passed once each way
    double volume = 0;
    std::array<double, 3> extent{}; // mm, smallest first: formats differ in which way is up
};

Measured measured(const TriangleMesh& mesh, double mm) {
    const Boundary boundary = boundary_of(mesh);
    Measured out{mesh.triangles.size(), boundary.open, boundary.volume * mm * mm * mm, {}};
    for (std::size_t i = 0; i < 3; ++i) {
        const auto [low, high] =
            std::ranges::minmax(mesh.points, {}, [i](const TriangleMesh::Point& p) { return p[i]; });
        out.extent[i] = mm * (high[i] - low[i]);
    }
    std::sort(out.extent.begin(), out.extent.end());
    return out;
}

} // namespace

class TestMeshFiles : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    double volume_ = 0, rise_ = 0; // mm³ over the base, mm

    std::string at(const QString& name) const { return dir_.filePath(name).toStdString(); }
    int run(const QStringList& args) const {
        QProcess p;
        p.setWorkingDirectory(dir_.path());
        p.start(BATHYLUX_CLI, args);
        p.waitForFinished(120000);
        return p.exitCode();
    }
    Measured written(const QString& ending, const QStringList& more) const {
        const QString name = "m." + ending;
        QFile::remove(dir_.filePath(name));
        if (run(QStringList{"render", "p.json", "-o", name, "--fineness", "1", "--base", "2"} + more) != 0)
            return {};
        const files::Bytes bytes = files::read_file(at(name));
        return measured(*files::read_mesh(bytes, name.toStdString()), ending == "glb" ? 1000 : 1);
    }

  private slots:
    void initTestCase() {
        QFile piece(dir_.filePath("p.json"));
        QVERIFY(piece.open(QIODevice::WriteOnly));
        piece.write(dome_piece);
        piece.close();
        // What the body should be, from the height map.
        QCOMPARE(run({"render", "p.json", "-o", "h.exr", "--view", "height", "--bits", "32"}), 0);
        const Picture h = files::read_picture(files::read_file(at("h.exr")), "h.exr");
        for (int y = 0; y < 64; ++y)
            for (int x = 0; x < 96; ++x) {
                const double height = h.stored(x, y, 0) / per_mm;
                volume_ += height / (per_mm * per_mm), rise_ = std::max(rise_, height);
            }
        QVERIFY(volume_ > 10 && rise_ > 1.4);
    }

    void all_formats_hold_the_same_body_data() {
        QTest::addColumn<QString>("ending");
        for (const char* ending : {"stl", "obj", "ply", "glb"}) QTest::newRow(ending) << ending;
    }
    void all_formats_hold_the_same_body() {
        QFETCH(QString, ending);
        const Measured whole = written(ending, {});
        const double should = volume_ + 12 * 8 * 2;
        QVERIFY(whole.triangles > 10000);
        QCOMPARE(whole.open, 0);
        QVERIFY2(std::abs(whole.volume / should - 1) < 0.01, qPrintable(QString::number(whole.volume)));
        QVERIFY(std::abs(whole.extent[0] - (2 + rise_)) < 0.02);
        QVERIFY(std::abs(whole.extent[1] - 8) < 1e-3 && std::abs(whole.extent[2] - 12) < 1e-3);
        // Points left out within a hundredth of a mm: far fewer, as closed, as large.
        const Measured fewer = written(ending, {"--error", "0.01"});
        QVERIFY2(fewer.triangles > 100 && fewer.triangles < whole.triangles / 2,
                 qPrintable(QString::number(fewer.triangles)));
        QCOMPARE(fewer.open, 0);
        QVERIFY2(std::abs(fewer.volume / whole.volume - 1) < 0.005,
                 qPrintable(QString::number(fewer.volume)));
        for (int i = 0; i < 3; ++i) QVERIFY(std::abs(fewer.extent[i] - whole.extent[i]) < 0.02);
    }

    void a_mesh_becomes_a_body_again() {
        // Written out and taken in as a body of its own, it is seen as what it was: as high, as wide.
        QVERIFY(written("glb", {"--error", "0.01"}).triangles > 0);
        QFile piece(dir_.filePath("again.json"));
        QVERIFY(piece.open(QIODevice::WriteOnly));
        piece.write(taken_in);
        piece.close();
        QCOMPARE(run({"render", "again.json", "-o", "d.exr", "--view", "solid_depth", "--size", "240x240"}),
                 0);
        const Picture d = files::read_picture(files::read_file(at("d.exr")), "d.exr");
        int x0 = 240, x1 = 0, y0 = 240, y1 = 0;
        for (int y = 0; y < 240; ++y)
            for (int x = 0; x < 240; ++x)
                if (std::isfinite(d.stored(x, y, 0)))
                    x0 = std::min(x0, x), x1 = std::max(x1, x), y0 = std::min(y0, y), y1 = std::max(y1, y);
        QVERIFY(x1 > x0 && y1 > y0);
        QVERIFY2(std::abs(double(x1 - x0 + 1) / (y1 - y0 + 1) - 1.5) < 0.03,
                 qPrintable(QString("%1 x %2").arg(x1 - x0 + 1).arg(y1 - y0 + 1)));
    }
};
BATHYLUX_TEST(TestMeshFiles)

} // namespace bathylux::mesh_files
#include "test_mesh_files.moc"
