#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include "files/pictures.h"
#include "support.h"

using namespace bathylux;

/// The command line as a contract: what it writes, and how it ends.
class TestCommandLine : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    struct Ran {
        int code;
        QByteArray out, err;
    };
    Ran run(const QStringList& args) const {
        QProcess p;
        p.start(BATHYLUX_CLI, args);
        p.waitForFinished(120000);
        return {p.exitCode(), p.readAllStandardOutput(), p.readAllStandardError()};
    }
    QString piece(const QString& name, const std::string& json) const {
        QFile f(dir_.filePath(name));
        if (f.open(QIODevice::WriteOnly)) f.write(json.c_str());
        return f.fileName();
    }

  private slots:
    void describe_tells_every_kind() {
        const Ran r = run({"describe", "--json"});
        QCOMPARE(r.code, 0);
        const Json j = parse_json(r.out.toStdString());
        QStringList steps;
        for (const Json& s : j["steps"]) steps << QString::fromStdString(s["kind"].get<std::string>());
        for (const char* k : {"bevel", "tones", "soften", "raise", "fill"}) QVERIFY(steps.contains(k));
        QCOMPARE(j["sources"].size(), std::size_t{12});
        QCOMPARE(j["lights"].size(), std::size_t{2});
    }

    void render_follows_set_scale_and_view() {
        const QString p = piece(
            "p.json",
            piece_json(
                60, 40,
                R"({"id": "o", "source": {"kind": "rectangle", "width": 200, "height": 200}, "steps": [{"kind": "raise", "amount": 3}]})"));
        const QString out = dir_.filePath("h.exr");
        QCOMPARE(run({"render", p, "-o", out, "--view", "height", "--scale", "0.5", "--set",
                      "o.raise.amount=7.25"})
                     .code,
                 0);
        const Picture h = files::read_picture(files::read_file(out.toStdString()), "h.exr");
        QCOMPARE(h.width, 30);
        QVERIFY(std::abs(h.stored(10, 10, 0) - 7.25) < 1e-5);
        QCOMPARE(run({"render", p, "-o", dir_.filePath("l.png")}).code, 0);
        const Ran info = run({"info", dir_.filePath("l.png"), "--json"});
        QCOMPARE(parse_json(info.out.toStdString())["width"], 60);
    }

    void demo_pieces_are_pieces() {
        for (const char* name : {"last-tram-home", "depot-emblem", "line-tile", "token-medal"}) {
            const Ran r = run({"info", QString(BATHYLUX_DEMO "/%1.json").arg(name), "--json"});
            QCOMPARE(r.code, 0);
            const Json j = parse_json(r.out.toStdString());
            QCOMPARE(j["guess"], "piece");
            QVERIFY(j["range"][1].get<double>() - j["range"][0].get<double>() > 5);
            for (const Json& c : j["checks"])
                QVERIFY2(c["check"] != "cliff", name); // ours have no jagged edges
        }
    }

    void wrong_usage_ends_with_two() {
        for (const QStringList& args : {QStringList{},
                                        {"paint"},
                                        {"render", "a.json"},
                                        {"render", "a.json", "-o", "b.png", "--view", "x-ray"},
                                        {"describe"},
                                        {"info"},
                                        {"render", "a.json", "-o", "b.png", "--scale", "minus"},
                                        {"render", "a", "b", "-o", "c.png"}}) {
            const Ran r = run(args);
            QCOMPARE(r.code, 2);
            QVERIFY(r.err.contains("usage:"));
        }
    }

    void what_cannot_be_done_ends_with_one_line() {
        const auto fails = [&](const QStringList& args, const char* says) {
            const Ran r = run(args);
            QCOMPARE(r.code, 1);
            QCOMPARE(r.err.count('\n'), 1);
            QVERIFY2(r.err.contains(says), r.err.constData());
        };
        const QString out = dir_.filePath("o.png");
        fails({"render", dir_.filePath("none.json"), "-o", out}, "no such file");
        fails(
            {"render",
             piece("missing.json",
                   piece_json(9, 9, R"({"id": "photo", "source": {"kind": "picture", "file": "gone.png"}})")),
             "-o", out},
            "gone.png");
        fails({"render",
               piece("font.json",
                     piece_json(9, 9, R"({"id": "t", "source": {"kind": "type", "font": "Nowhere Sans"}})")),
               "-o", out},
              "Nowhere Sans");
        fails({"render", piece("newer.json", R"({"bathylux": 99, "canvas": {"width": 5, "height": 5}})"),
               "-o", out},
              "newer version");
        fails({"render", piece("kind.json", piece_json(9, 9, R"({"id": "t", "source": {"kind": "lava"}})")),
               "-o", out},
              "lava");
        fails({"render", piece("ok.json", piece_json(9, 9, "")), "-o", dir_.filePath("o.gif")}, "o.gif");
        fails({"render", piece("ok2.json", piece_json(9, 9, "")), "-o", "/no/such/folder/o.png"},
              "/no/such/folder/o.png");
        fails({"render", piece("set.json", piece_json(9, 9, "")), "-o", out, "--set", "a.b.c=1"}, "a.b.c");
        QVERIFY(!QFile::exists(out));
    }
};
QTEST_MAIN(TestCommandLine)
#include "test_command_line.moc"
