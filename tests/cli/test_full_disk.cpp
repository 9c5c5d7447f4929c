// A disk that fills while a file is written: whatever it is, it is told in one sentence, the old file is
// still there as it was, and nothing half-written lies beside it.
#include <sys/resource.h>

#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <csignal>

#include "run.h"
#include "support.h"

using namespace bathylux;

class TestFullDisk : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    struct Ran {
        int code;
        QString said;
    };
    /// Where no file may grow over `most` bytes.
    Ran run(const QStringList& args, std::optional<qint64> most = {}) const {
        QProcess p;
        p.setWorkingDirectory(dir_.path());
        p.setChildProcessModifier([most] {
            if (!most) return;
            std::signal(SIGXFSZ, SIG_IGN);
            const rlimit limit{static_cast<rlim_t>(*most), static_cast<rlim_t>(*most)};
            setrlimit(RLIMIT_FSIZE, &limit);
        });
        p.start(BATHYLUX_CLI, args);
        p.waitForFinished(120000);
        return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1,
                QString::fromUtf8(p.readAllStandardError())};
    }
    QByteArray content(const QString& name) const {
        QFile f(dir_.filePath("out/" + name));
        return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray("none");
    }
    QStringList there() const {
        return QDir(dir_.filePath("out")).entryList(QDir::Files | QDir::Hidden, QDir::Name);
    }

  private slots:
    void initTestCase() {
        QFile piece(dir_.filePath("p.json"));
        QVERIFY(piece.open(QIODevice::WriteOnly));
        piece.write(
            piece_json(120, 80,
                       R"({"id": "n", "source": {"kind": "noise", "size_u": 9, "size_v": 9}},
                   {"id": "a", "source": {"kind": "ellipse", "width": {"keys": [[0, 20], [3, 60]]}, "height": 40},
                    "steps": [{"kind": "bevel"}]})",
                       R"("lights": [{"id": "k", "kind": "directional", "angle": 120, "elevation": 40}])")
                .c_str());
        piece.close();
        QCOMPARE(run({"keep", "p.json", "--of", "a", "-o", "look.bathylux-recipe"}).code, 0);
    }

    void nothing_is_lost_data() {
        QTest::addColumn<QStringList>("args");
        const auto row = [](const char* name, const char* args) {
            QTest::newRow(name) << QString(args).split(' ');
        };
        row("PNG", "render p.json -o out/x.png");
        row("PNG of 16 bits", "render p.json -o out/x.png --bits 16 --view height");
        row("TIFF", "render p.json -o out/x.tif --bits 16");
        row("EXR", "render p.json -o out/x.exr");
        row("WebP", "render p.json -o out/x.webp");
        row("layers", "render p.json -o out/x.ora --parts");
        row("light's parts", "render p.json -o out/x.exr --parts");
        row("a sheet and its index", "render p.json -o out/x.png --sheet");
        row("a film", "render p.json -o out/x.webm --frames 0:3");
        row("a film for cutting", "render p.json -o out/x.mov --frames 0:3");
        row("a moving PNG", "render p.json -o out/x.apng --frames 0:3");
        row("a moving WebP", "render p.json -o out/x.webp --frames 0:3");
        row("a body", "render p.json -o out/x.exr --view solid,solid_depth --size 90x60 --samples 1");
        row("STL", "render p.json -o out/x.stl");
        row("OBJ", "render p.json -o out/x.obj");
        row("PLY", "render p.json -o out/x.ply");
        row("GLB", "render p.json -o out/x.glb");
        row("alternatives", "alternatives p.json --of a -o out/x.png --count 2");
        row("a recipe", "keep p.json --of a -o out/x.bathylux-recipe");
        row("a piece", "pour look.bathylux-recipe --on p.json -o out/x.bathylux");
    }
    void nothing_is_lost() {
        QFETCH(QStringList, args);
        QDir(dir_.filePath("out")).removeRecursively();
        QDir(dir_.path()).mkdir("out");
        const Ran whole = run(args);
        QVERIFY2(whole.code == 0, qPrintable(whole.said));
        const QStringList made = there();
        qint64 largest = 0;
        for (const QString& name : made) largest = std::max<qint64>(largest, content(name).size());
        QVERIFY(largest > 0);
        // From nothing at all to all but one byte.
        for (const qint64 most : {qint64{0}, largest / 7, largest / 2, largest - 1}) {
            QMap<QString, qint64> size;
            for (const QString& name : made) {
                size[name] = content(name).size();
                QFile old(dir_.filePath("out/" + name));
                QVERIFY(old.open(QIODevice::WriteOnly));
                old.write("what was there");
            }
            const Ran r = run(args, most);
            const auto why = [&](const QString& of) {
                return qPrintable(QString("%1 at %2 bytes: %3").arg(of).arg(most).arg(r.said));
            };
            QVERIFY2(r.code == 1, why(QString("ends with %1").arg(r.code)));
            QVERIFY2(r.said.count('\n') == 1 && r.said.contains("could not be"), why("one sentence"));
            QVERIFY2(there() == made, why(there().join(' ')));
            // Of several files, those that fit may be there whole.
            for (const QString& name : made)
                QVERIFY2(content(name) == "what was there" || content(name).size() == size[name], why(name));
            QVERIFY2(std::any_of(made.begin(), made.end(),
                                 [&](const QString& name) { return content(name) == "what was there"; }),
                     why("all replaced"));
        }
        QCOMPARE(run(args).code, 0); // and once there is room, it is made
        for (const QString& name : made) QVERIFY(content(name) != "what was there");
    }
};
BATHYLUX_TEST(TestFullDisk)
#include "test_full_disk.moc"
