#include <QtTest>

#include "command.h"
#include "files/pictures.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

/// The command line as a contract: what it writes, and how it ends.
class TestCommandLine : public QObject, Command {
    Q_OBJECT

  private slots:
    void describe_tells_every_kind() {
        const Ran r = run({"describe", "--json"});
        QCOMPARE(r.code, 0);
        const Json j = parse_json(r.out.toStdString());
        QStringList steps;
        for (const Json& s : j["steps"]) steps << QString::fromStdString(s["kind"].get<std::string>());
        for (const char* k : {"bevel", "tones", "soften", "raise", "fill"}) QVERIFY(steps.contains(k));
        QCOMPARE(j["sources"].size(), std::size_t{15});
        QCOMPARE(j["lights"].size(), std::size_t{5});
    }

    void the_solid_is_seen_and_written_as_a_mesh() {
        const QString p = piece(
            "s.json",
            piece_json(
                60, 40,
                R"({"id": "o", "source": {"kind": "rectangle", "width": 30, "height": 20}, "steps": [{"kind": "raise", "amount": 3}]})",
                R"("solid": {"kind": "sphere", "radius": 50, "relief": 0, "camera": {"turn": 0, "tilt": 0, "distance": 300, "field": 30}})"));
        const QString out = dir_.filePath("d.exr");
        QCOMPARE(run({"render", p, "-o", out, "--view", "solid_depth", "--size", "90x60"}).code, 0);
        const Picture d = files::read_picture(files::read_file(out.toStdString()), "d.exr");
        QVERIFY(d.width == 90 && d.height == 60 && d.channels == 1);
        QVERIFY(std::abs(d.stored(45, 30, 0) - 250) < 0.1 && std::isinf(d.stored(1, 1, 0)));
        QCOMPARE(run({"render", p, "-o", dir_.filePath("all.exr"), "--view",
                      "solid,solid_depth,solid_normals", "--samples", "2"})
                     .code,
                 0);
        QCOMPARE(run({"render", p, "-o", dir_.filePath("t.png"), "--view", "solid", "--samples", "1",
                      "--turntable", "3"})
                     .code,
                 0);
        QVERIFY(QFile::exists(dir_.filePath("t-0002.png")) && !QFile::exists(dir_.filePath("t-0003.png")));
        // Turned, it is another picture.
        QVERIFY(files::read_file(dir_.filePath("t-0000.png").toStdString()) !=
                files::read_file(dir_.filePath("t-0001.png").toStdString()));
        // In mm: 60 × 40 px at 12 px a mm, the plate 3 px high on a base of 2 mm.
        QCOMPARE(run({"render", p, "-o", dir_.filePath("m.stl"), "--set", "solid.kind=plane", "--set",
                      "solid.relief=1", "--fineness", "1", "--base", "2"})
                     .code,
                 0);
        const files::Bytes stl = files::read_file(dir_.filePath("m.stl").toStdString());
        std::array<float, 3> low{1e9f, 1e9f, 1e9f}, high{-1e9f, -1e9f, -1e9f};
        for (std::size_t t = 84; t + 50 <= stl.size(); t += 50)
            for (int k = 0; k < 9; ++k) {
                float v;
                std::memcpy(&v, &stl[t + 12 + 4 * static_cast<std::size_t>(k)], 4);
                low[k % 3] = std::min(low[k % 3], v), high[k % 3] = std::max(high[k % 3], v);
            }
        const float size[3] = {5, 40 / 12.0f, 2.25f};
        for (int c = 0; c < 3; ++c) QVERIFY(std::abs(high[c] - low[c] - size[c]) < 1e-3);
        for (const char* name : {"m.glb", "m.obj", "m.ply"})
            QVERIFY2(run({"render", p, "-o", dir_.filePath(name), "--texture", "64"}).code == 0 &&
                         QFileInfo(dir_.filePath(name)).size() > 500,
                     name);
        QCOMPARE(run({"render", p, "-o", out, "--view", "solid,lit"}).code, 2);
        QCOMPARE(run({"render", p, "-o", out, "--view", "solid", "--size", "9"}).code, 2);
        QCOMPARE(run({"render", p, "-o", dir_.filePath("m.stl"), "--fineness", "0"}).code, 2);
        const Ran missing = run({"render", p, "-o", out, "--view", "solid", "--set", "solid.kind=mesh",
                                 "--set", "solid.file=nowhere.glb"});
        QVERIFY(missing.code == 1 && missing.err.contains("nowhere.glb") && missing.err.count('\n') == 1);
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
        for (const char* name :
             {"last-tram-home", "night-service", "quay-end", "rope-walk", "salt-pier", "quay-lights",
              "tide-table", "depot-emblem", "line-tile", "token-medal", "cobbles", "ticket-beetle"}) {
            const Ran r = run({"info", QString(BATHYLUX_DEMO "/%1.json").arg(name), "--json"});
            QCOMPARE(r.code, 0);
            const Json j = parse_json(r.out.toStdString());
            QCOMPARE(j["guess"], "piece");
            QVERIFY(j["range"][1].get<double>() - j["range"][0].get<double>() > 5);
            for (const Json& c : j["checks"])
                QVERIFY2(c["check"] != "cliff", name); // ours have no jagged edges
        }
    }

    void every_view_is_what_it_says() {
        // A ramp of 45° on a canvas of its own: slope ½ of 90°, open sky, no curvature, full mask.
        const QString p = piece(
            "ramp.json",
            piece_json(
                64, 64,
                R"({"id": "o", "source": {"kind": "form", "shape": "ramp", "width": 64, "height": 64, "rise": 64}, "surface": {"roughness": 0.25, "metallic": 1}})"));
        const std::map<const char*, double> middle{{"slope", 0.5},      {"occlusion", 1}, {"curvature", 0.5},
                                                   {"roughness", 0.25}, {"metallic", 1},  {"mask", 1}};
        for (const auto& [view, value] : middle) {
            const QString out = dir_.filePath(QString(view) + ".png");
            const Ran r = run({"render", p, "-o", out, "--view", view, "--bits", "16"});
            QVERIFY2(r.code == 0, r.err.constData());
            const Picture v = files::read_picture(files::read_file(out.toStdString()), view);
            QCOMPARE(v.channels, 1);
            QVERIFY2(std::abs(v.stored(32, 32, 0) - value) < 0.005,
                     qPrintable(QString("%1: %2").arg(view).arg(v.stored(32, 32, 0))));
        }
        // Several at once are the layers of one EXR.
        const QString layers = dir_.filePath("layers.exr");
        QCOMPARE(run({"render", p, "-o", layers, "--view", "height,normals,lit"}).code, 0);
        QFile f(layers);
        QVERIFY(f.open(QIODevice::ReadOnly));
        const QByteArray head = f.read(4096);
        for (const char* channel : {"height.Y", "normals.X", "normals.Z", "lit.R", "lit.A"})
            QVERIFY2(head.contains(channel), channel);
        QCOMPARE(run({"render", p, "-o", dir_.filePath("layers.png"), "--view", "height,normals"}).code, 1);
    }

    void frames_go_out_one_by_one_and_as_a_sheet() {
        const QString beetle = BATHYLUX_DEMO "/ticket-beetle.json";
        QCOMPARE(run({"render", beetle, "-o", dir_.filePath("b.png"), "--frames", "2:4"}).code, 0);
        for (const char* name : {"b-0002.png", "b-0003.png", "b-0004.png"})
            QVERIFY2(QFile::exists(dir_.filePath(name)), name);
        QVERIFY(!QFile::exists(dir_.filePath("b.png")));
        QCOMPARE(run({"render", beetle, "-o", dir_.filePath("one.png"), "--frame", "3"}).code, 0);
        const auto bytes = [&](const char* name) {
            return files::read_file(dir_.filePath(name).toStdString());
        };
        QVERIFY(bytes("one.png") == bytes("b-0003.png"));
        QVERIFY(bytes("one.png") != bytes("b-0004.png"));
        QCOMPARE(
            run({"render", beetle, "-o", dir_.filePath("sheet.png"), "--sheet", "--view", "normals"}).code,
            0);
        const Picture sheet = files::read_picture(bytes("sheet.png"), "sheet");
        const Picture third = files::read_picture(bytes("b-0003.png"), "third");
        QCOMPARE(sheet.width, 4 * third.width);
        const Json index =
            parse_json(QString::fromUtf8(QByteArray(reinterpret_cast<const char*>(bytes("sheet.json").data()),
                                                    static_cast<qsizetype>(bytes("sheet.json").size())))
                           .toStdString());
        QCOMPARE(index["frames"].size(), std::size_t{8});
        QCOMPARE(index["frames"][5]["x"].get<int>(), 96);
        QCOMPARE(index["frames"][5]["y"].get<int>(), 96);
        QCOMPARE(run({"render", beetle, "-o", dir_.filePath("b.png"), "--frames", "4"}).code, 2);
    }

    void a_look_is_kept_poured_and_varied() {
        const QString sign = piece(
            "sign.json", piece_json(200, 120, R"({"id": "grain", "mix": {"visible": false}, "source": {"kind":
            "noise", "size_u": 20, "size_v": 20}}, {"id": "s", "source": {"kind": "rectangle", "width": 100, "height": 60},
            "steps": [{"kind": "bevel", "width": 6, "rise": 5}, {"kind": "wear", "gone": 0.4, "by": "grain"}]})"));
        const QString look = dir_.filePath("look.bathylux-recipe");
        QCOMPARE(run({"keep", sign, "--of", "s", "-o", look, "--name", "Worn"}).code, 0);
        // Over two pieces, twice as large: lengths are, too; shares are not.
        for (const char* name : {"a.json", "b.json"})
            piece(name,
                  piece_json(300, 200,
                             R"({"id": "w", "source": {"kind": "rectangle", "width": 200, "height": 120}})"));
        const QString folder = dir_.filePath("poured");
        const Ran r = run({"pour", look, "--on", dir_.filePath("a.json"), dir_.filePath("b.json"), "--scale",
                           "-o", folder});
        QVERIFY2(r.code == 0, r.err.constData());
        for (const char* name : {"a", "b"}) {
            const QString made = folder + "/" + name + ".bathylux",
                          art = dir_.filePath(QString(name) + ".exr");
            QCOMPARE(run({"render", made, "-o", art, "--view", "art"}).code, 0);
            const Picture p = files::read_picture(files::read_file(art.toStdString()), "art");
            double sum = 0;
            for (int y = 0; y < p.height; ++y)
                for (int x = 0; x < p.width; ++x) sum += p.stored(x, y, 3);
            QVERIFY2(std::abs(sum / (200 * 120) - 0.6) < 0.02, qPrintable(QString::number(sum / 24000)));
        }
        QCOMPARE(run({"pour", look, "--on", dir_.filePath("a.json"), "-o", dir_.filePath("lit.png")}).code,
                 0);
        QVERIFY(QFile::exists(dir_.filePath("lit.png")));
        // A picture becomes a piece of its size.
        QCOMPARE(run({"pour", look, "--on", dir_.filePath("lit.png"), "-o", dir_.filePath("own.json")}).code,
                 0);
        QCOMPARE(parse_json(run({"info", dir_.filePath("own.json"), "--json"}).out.toStdString())["width"],
                 300);
        QCOMPARE(run({"alternatives", sign, "--of", "s.wear", "-o", dir_.filePath("sheet.png"), "--count",
                      "5", "--columns", "3", "--size", "100"})
                     .code,
                 0);
        QCOMPARE(parse_json(run({"info", dir_.filePath("sheet.png"), "--json"}).out.toStdString())["width"],
                 3 * 112 + 12);
    }

    void what_bends_or_wears_wrongly_is_told() {
        const auto refuses = [&](const std::string& elements, const char* says) {
            const QString p = piece("wrong.json", piece_json(80, 60, elements));
            const Ran r = run({"render", p, "-o", dir_.filePath("wrong.png")});
            QVERIFY2(r.code == 1 && r.err.contains(says), r.err.constData());
            QCOMPARE(r.err.trimmed().count('\n'), 0);
        };
        refuses(
            R"({"id": "e", "source": {"kind": "ellipse", "width": 40, "height": 40}, "steps": [{"kind": "perspective", "tl_x": 90}]})",
            "fold");
        refuses(
            R"({"id": "e", "source": {"kind": "ellipse"}, "steps": [{"kind": "wear", "by": {"element": "e"}}]})",
            "leads back");
        refuses(
            R"({"id": "w", "source": {"kind": "type", "text": "A", "path": "r"}}, {"id": "r", "source": {"kind": "rectangle",
            "width": 0, "height": 0}})",
            "no length");
        refuses(
            R"({"id": "w", "source": {"kind": "type", "text": "A", "path": "n"}}, {"id": "n", "source": {"kind": "noise"}})",
            "run along");
        const QString newer = piece("newer.bathylux-recipe", R"({"bathylux_recipe": 9})"),
                      missing = piece("missing.bathylux-recipe",
                                      R"({"bathylux_recipe": 1, "steps": [{"kind": "wear", "by": "p"}],
            "elements": [{"id": "p", "source": {"kind": "picture", "file": "gone.png"}}]})"),
                      plain = piece("plain.json",
                                    piece_json(40, 30, R"({"id": "e", "source": {"kind": "ellipse"}})"));
        for (const auto& [recipe, says] : {std::pair{newer, "newer"}, {missing, "gone.png"}}) {
            const Ran r = run({"pour", recipe, "--on", plain, "-o", dir_.filePath("none.json")});
            QVERIFY2(r.code == 1 && r.err.contains(says), r.err.constData());
            QVERIFY(!QFile::exists(dir_.filePath("none.json")));
        }
    }

    void letters_run_along_a_path() {
        // On an ellipse, from its top: as far from its middle all along, and nothing within.
        const QString p = piece(
            "path.json", piece_json(300, 300, R"({"id": "ring", "mix": {"visible": false}, "source": {"kind":
            "ellipse", "width": 200, "height": 200}}, {"id": "w", "source": {"kind": "type", "text": "HARBOUR LINE", "size": 30,
            "path": "ring", "start": 0.75}})"));
        const QString out = dir_.filePath("path.exr");
        const Ran r = run({"render", p, "-o", out, "--view", "art"});
        QVERIFY2(r.code == 0, r.err.constData());
        const Picture art = files::read_picture(files::read_file(out.toStdString()), "path");
        double least = 1e9, most = 0, left = 0, right = 0;
        for (int y = 0; y < 300; ++y)
            for (int x = 0; x < 300; ++x) {
                if (art.stored(x, y, 3) < 0.5f) continue;
                const double d = std::hypot(x + 0.5 - 150, y + 0.5 - 150);
                least = std::min(least, d), most = std::max(most, d);
                (x < 150 ? left : right) += 1;
                QVERIFY(y < 150); // all of it about the top
            }
        QVERIFY2(least > 97 && most < 130, qPrintable(QString("%1 %2").arg(least).arg(most)));
        QVERIFY(std::abs(left - right) < 0.25 * (left + right));
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
BATHYLUX_TEST(TestCommandLine)
#include "test_command_line.moc"
