#include <QBuffer>
#include <QTemporaryDir>
#include <QtTest>
#include <random>

#include "core/error.h"
#include "files/export_mesh.h"
#include "files/meshes.h"
#include "files/package.h"
#include "files/pictures.h"
#include "files/svg.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

/// Flips, cuts and repeats some bytes.
files::Bytes mutated(const files::Bytes& good, std::mt19937& random) {
    files::Bytes out = good;
    for (int k = 1 + static_cast<int>(random() % 6); k > 0; --k) {
        const std::size_t at = random() % out.size();
        switch (random() % 5) {
        case 0: out.resize(std::max<std::size_t>(1, at)); break;
        case 1:
            out.insert(out.begin() + static_cast<long>(at), out.begin(),
                       out.begin() + static_cast<long>(random() % std::min<std::size_t>(64, out.size())));
            break;
        default: out[at] = static_cast<std::byte>(random()); break;
        }
    }
    return out;
}

template <class F> std::pair<int, int> tried(const files::Bytes& good, int rounds, F&& read) {
    std::mt19937 random(23);
    int fine = 0, refused = 0;
    for (int i = 0; i < rounds; ++i) try {
            read(mutated(good, random));
            ++fine;
        } catch (const Error& e) {
            ++refused;
            if (std::string_view(e.what()).find("hurt") == std::string_view::npos)
                return {-1, -1}; // it names its file
        }
    return {fine, refused};
}

files::Bytes encoded(const char* format) {
    QImage image(40, 30, QImage::Format_ARGB32);
    for (int y = 0; y < 30; ++y)
        for (int x = 0; x < 40; ++x) image.setPixelColor(x, y, QColor(x * 6, y * 8, x * y % 255, 255 - x));
    QByteArray data;
    QBuffer buffer(&data);
    buffer.open(QIODevice::WriteOnly);
    image.save(&buffer, format);
    const auto* p = reinterpret_cast<const std::byte*>(data.constData());
    return {p, p + data.size()};
}

} // namespace

/// Damaged files end in a picture or a sentence, never otherwise.
class TestHostileFiles : public QObject {
    Q_OBJECT
  private slots:
    void pictures() {
        for (const char* format : {"PNG", "JPG"}) {
            const auto [fine, refused] = tried(
                encoded(format), 400, [](const files::Bytes& b) { files::read_picture(b, "hurt.png"); });
            QVERIFY2(fine + refused == 400 && refused > 20, format);
        }
    }

    void pictures_of_the_other_formats() {
        QTemporaryDir dir;
        for (const char* name : {"a.tif", "b.webp", "c.exr"}) {
            const std::string path = dir.filePath(name).toStdString();
            const int bits = name[0] == 'c' ? 32 : 8;
            auto writer = files::write_picture(path, {16, 16, 3, bits, bits == 32, ""});
            const std::vector<std::uint8_t> rows(16 * 16 * 3 * 4, 64);
            writer->write(16, rows.data());
            writer->finish();
            const auto [fine, refused] = tried(files::read_file(path), 80, [&](const files::Bytes& b) {
                files::read_picture(b, std::string("hurt") + (name + 1));
            });
            QVERIFY2(fine + refused == 80, name);
        }
    }

    void drawings() {
        QFile f(BATHYLUX_DEMO "/drawings/sign-frame.svg");
        QVERIFY(f.open(QIODevice::ReadOnly));
        const QByteArray data = f.readAll();
        const auto* p = reinterpret_cast<const std::byte*>(data.constData());
        const auto [fine, refused] =
            tried({p, p + data.size()}, 400, [](const files::Bytes& b) { files::svg_asset(b, "hurt.svg"); });
        QVERIFY(fine + refused == 400 && refused > 20);
    }

    void meshes() {
        QTemporaryDir dir;
        const Scene scene = scene_of(piece_json(64, 64, busy_elements()));
        Evaluator evaluator;
        for (const char* name : {"a.stl", "b.ply", "c.obj", "d.glb"}) {
            const std::string path = dir.filePath(name).toStdString();
            files::export_mesh(evaluator, scene, path,
                               {.fineness = 8, .base_mm = 2, .error_mm = 0, .texture = 16});
            const files::Bytes good = files::read_file(path);
            const auto [fine, refused] = tried(good, 300, [&](const files::Bytes& b) {
                const auto mesh = files::read_mesh(b, std::string("hurt") + (name + 1));
                for (const auto& t : mesh->triangles)
                    for (const std::uint32_t i : t)
                        if (i >= mesh->points.size()) throw std::runtime_error("past the end");
            });
            QVERIFY2(fine + refused == 300 && refused > 10,
                     qPrintable(QString("%1 %2 %3").arg(name).arg(fine).arg(refused)));
        }
        // Nothing but what we say we read is tried.
        const files::Bytes picture = encoded("PNG");
        QVERIFY(trouble_of([&] { files::read_mesh(picture, "hurt.png"); }).find("no mesh") !=
                std::string::npos);
        QVERIFY(!trouble_of([&] { files::read_mesh(picture, "hurt.stl"); }).empty());
        const std::string nan =
            "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n"
            "element face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 nan\n1 0 0\n0 1 0\n3 0 "
            "1 2\n";
        const auto* p = reinterpret_cast<const std::byte*>(nan.data());
        QVERIFY(!trouble_of([&] { files::read_mesh({p, nan.size()}, "hurt.ply"); }).empty());
        const std::string far =
            "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n"
            "element face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 "
            "977\n";
        const auto* q = reinterpret_cast<const std::byte*>(far.data());
        QVERIFY(!trouble_of([&] { files::read_mesh({q, far.size()}, "hurt.ply"); }).empty());
    }

    void packages() {
        QTemporaryDir dir;
        files::Opened piece{*scene_of(piece_json(32, 32, busy_elements())).piece, {}};
        const std::string path = dir.filePath("hurt.bathylux").toStdString();
        files::save_piece(piece.piece, piece.store, path);
        const files::Bytes good = files::read_file(path);
        const auto [fine, refused] = tried(good, 300, [&](const files::Bytes& b) {
            files::write_atomically(path, b);
            files::open_piece(path);
        });
        QVERIFY(fine + refused == 300 && refused > 60);
    }
};
BATHYLUX_TEST(TestHostileFiles)
#include "test_hostile_files.moc"
