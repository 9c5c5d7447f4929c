#include <QtTest>

#include "command.h"
#include "files/export.h"
#include "files/pictures.h"
#include "files/recipe_file.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

/// Every option of the command line does what it says, and what would have no say is refused.
class TestOptions : public QObject, Command {
    Q_OBJECT
    /// What a run of `render` writes.
    files::Bytes bytes(const QString& name, QStringList args) const {
        const QString out = dir_.filePath(name);
        QFile::remove(out);
        args.prepend("render");
        const Ran r = run(args << "-o" << out);
        if (r.code != 0) qWarning("%s", r.err.constData());
        return r.code == 0 ? files::read_file(out.toStdString()) : files::Bytes{};
    }
    Picture rendered(const QString& name, const QStringList& args) const {
        const files::Bytes made = bytes(name, args);
        return made.empty() ? Picture{} : files::read_picture(made, name.toStdString());
    }
    /// A tent over an opaque sheet, a lamp that a mood puts out, and a slide from left to right in four
    /// frames.
    QString moving() const {
        return piece("moving.json", piece_json(64, 48, R"(
            {"id": "sheet", "source": {"kind": "rectangle", "width": 64, "height": 48},
             "steps": [{"kind": "fill", "color": "#808080"}]},
            {"id": "tent", "source": {"kind": "form", "shape": "cone", "width": 30, "height": 30, "rise": 12},
             "placement": {"x": {"keys": [[0, 16, "linear"], [3, 48, "linear"]]}, "y": 24}})",
                                               R"("time": {"rate": "10/1", "frames": 4}, "mood": "day",
            "lights": [{"id": "sun", "kind": "directional", "angle": 90, "elevation": 30}],
            "moods": [{"id": "day", "name": "Day"},
                      {"id": "night", "name": "Night", "lights": [], "ambient": {"intensity": 0.1}}])"));
    }

  private slots:
    void bits_and_endings_hold_the_same_heights() {
        const QString p = moving();
        const Picture exact = rendered("h.exr", {p, "--view", "height"});
        QCOMPARE(exact.format, Picture::Format::f32);
        float low = 1e9f, high = -1e9f;
        for (int y = 0; y < 48; ++y)
            for (int x = 0; x < 64; ++x)
                low = std::min(low, exact.stored(x, y, 0)), high = std::max(high, exact.stored(x, y, 0));
        QVERIFY(high - low > 11);
        for (const auto& [name, bits, steps] :
             {std::tuple{"h8.png", "8", 255.0}, {"h16.png", "16", 65535.0}, {"h16.tif", "16", 65535.0}}) {
            const Picture whole = rendered(name, {p, "--view", "height", "--bits", bits});
            QCOMPARE(whole.format, *bits == '8' ? Picture::Format::u8 : Picture::Format::u16);
            // What is stored lies between the ends that the description names.
            const Json says = parse_json(run({"info", dir_.filePath(name), "--json"}).out.toStdString());
            QCOMPARE(says["guess"], "height");
            const double from = says["height_range"][0].get<double>(),
                         to = says["height_range"][1].get<double>();
            QVERIFY2(from <= low + 1e-3 && to >= high - 1e-3, name);
            for (int y = 0; y < 48; ++y)
                for (int x = 0; x < 64; ++x)
                    QVERIFY2(std::abs(from + (to - from) * whole.stored(x, y, 0) - exact.stored(x, y, 0)) <=
                                 0.51 * (to - from) / steps,
                             name);
        }
        // Without --bits: heights in 16, what is seen in 8.
        QCOMPARE(rendered("plain.png", {p, "--view", "height"}).format, Picture::Format::u16);
        QCOMPARE(rendered("plain.png", {p}).format, Picture::Format::u8);
        QCOMPARE(run({"render", p, "-o", dir_.filePath("x.png"), "--bits", "12"}).code, 2);
    }

    void green_turns_over_and_nothing_else() {
        const QString p = moving();
        const Picture up = rendered("up.exr", {p, "--view", "normals", "--green", "up"}),
                      down = rendered("down.exr", {p, "--view", "normals", "--green", "down"}),
                      plain = rendered("normals.exr", {p, "--view", "normals"});
        bool some = false;
        for (int y = 0; y < 48; ++y)
            for (int x = 0; x < 64; ++x)
                for (int c = 0; c < 3; ++c) {
                    QCOMPARE(up.stored(x, y, c), plain.stored(x, y, c));
                    QCOMPARE(down.stored(x, y, c), (c == 1 ? -1 : 1) * up.stored(x, y, c));
                    some = some || (c == 1 && std::abs(up.stored(x, y, c)) > 0.3f);
                }
        QVERIFY(some);
        // In y-up normals what faces the canvas's upper edge is green.
        QVERIFY(up.stored(16, 14, 1) > 0.3f && up.stored(16, 33, 1) < -0.3f);
        for (const char* green : {"up", "down"}) {
            const QString name = QString(green) + ".png";
            QVERIFY(!bytes(name, {p, "--view", "normals", "--green", green}).empty());
            QCOMPARE(parse_json(run({"info", dir_.filePath(name), "--json"}).out.toStdString())["green"],
                     green);
        }
    }

    void a_set_value_is_the_value_in_the_file() {
        const std::string as_is =
            piece_json(64, 48, R"({"id": "o", "source": {"kind": "ellipse", "width": 30, "height": 30},
            "steps": [{"id": "edge", "kind": "bevel", "width": 6, "rise": 5}]})",
                       R"("lights": [{"id": "key", "kind": "directional", "angle": 135}])");
        const QString p = piece("set.json", as_is);
        const auto instead = [&](const char* what, const char* with) {
            std::string text = as_is;
            text.replace(text.find(what), std::strlen(what), with);
            return bytes("file.png", {piece("changed.json", text)});
        };
        const files::Bytes before = bytes("set.png", {p});
        for (const auto& [set, what, with] :
             std::initializer_list<std::tuple<const char*, const char*, const char*>>{
                 {"o.bevel.rise=9", R"("rise": 5)", R"("rise": 9)"},
                 {"o.edge.width=3", R"("width": 6,)", R"("width": 3,)"},
                 {"o.edge.profile=cove", R"("rise": 5)", R"("rise": 5, "profile": "cove")"},
                 {"o.source.height=20", R"("height": 30)", R"("height": 20)"},
                 {"o.placement.turn=30", R"("id": "o",)",
                  R"("id": "o", "placement": {"x": 32, "y": 24, "turn": 30},)"},
                 {"o.surface.metallic=1", R"("id": "o",)", R"("id": "o", "surface": {"metallic": 1},)"},
                 {"o.mix.opacity=0.5", R"("id": "o",)", R"("id": "o", "mix": {"opacity": 0.5},)"},
                 {"key.angle=-20", R"("angle": 135)", R"("angle": -20)"},
                 {"exposure=1.5", R"("lights")", R"("exposure": 1.5, "lights")"},
                 {"ambient.intensity=0.9", R"("lights")", R"("ambient": {"intensity": 0.9}, "lights")"}}) {
            const files::Bytes there = bytes("set.png", {p, "--set", set});
            QVERIFY2(!there.empty() && there == instead(what, with), set);
            if (!QByteArray(set).startsWith("o.placement")) QVERIFY2(there != before, set);
        }
        // Several, the later ones over the former.
        QVERIFY(bytes("set.png",
                      {p, "--set", "o.edge.rise=2", "--set", "exposure=1.5", "--set", "o.edge.rise=5"}) ==
                instead(R"("lights")", R"("exposure": 1.5, "lights")"));
    }

    void a_mood_is_the_piece_lit_by_it() {
        const QString p = moving();
        QVERIFY(bytes("mood.png", {p, "--mood", "day"}) == bytes("plain.png", {p}));
        const Picture night = rendered("night.png", {p, "--mood", "night"}), day = rendered("day.png", {p});
        QVERIFY(night.stored(50, 8, 0) < 0.5f * day.stored(50, 8, 0) && night.stored(50, 8, 0) > 0);
        const Ran none = run({"render", p, "-o", dir_.filePath("x.png"), "--mood", "noon"});
        QVERIFY(none.code == 1 && none.err.contains("noon"));
    }

    void frames_are_the_same_however_they_are_asked_for() {
        const QString p = moving();
        const auto all = [&](const QString& stem, const QStringList& more) {
            const Ran r = run(QStringList{"render", p, "-o", dir_.filePath(stem + ".png")} + more);
            QCOMPARE(r.code, 0);
        };
        all("whole", {"--frames", "0:3"});
        all("cut", {"--frames", "2:3"});
        all("cut", {"--frames", "0:1"});
        const auto frame = [&](const QString& stem, int i) {
            return files::read_file(at(QString("%1-000%2.png").arg(stem).arg(i)));
        };
        for (int i = 0; i < 4; ++i) {
            QVERIFY(frame("whole", i) == frame("cut", i));
            QVERIFY(frame("whole", i) == bytes("one.png", {p, "--frame", QString::number(i)}));
            // The same as with what moves set to where it is then.
            QVERIFY(frame("whole", i) ==
                    bytes("set.png",
                          {p, "--set", QString("tent.placement.x=%1").arg(16 + 32 * i / 3.0, 0, 'g', 17)}));
        }
        // What is there already stays as it is when it is gone on with; what is missing is made.
        QFile kept(dir_.filePath("cut-0001.png"));
        QVERIFY(kept.open(QIODevice::WriteOnly) && kept.write("mine") == 4);
        kept.close();
        QVERIFY(QFile::remove(dir_.filePath("cut-0002.png")));
        all("cut", {"--frames", "0:3", "--resume"});
        QVERIFY(frame("cut", 1).size() == 4 && frame("cut", 2) == frame("whole", 2));
        all("cut", {"--frames", "0:3"});
        QVERIFY(frame("cut", 1) == frame("whole", 1));
    }

    void a_turn_begins_where_the_piece_stands() {
        // A key moves what is on the body: the turn shows the frame that is asked for.
        const QString p = piece(
            "round.json", piece_json(64, 48, R"({"id": "o", "source": {"kind": "rectangle", "width": 20,
            "height": 20}, "steps": [{"kind": "fill", "color": "#ff2000"}], "placement": {"y": 24,
            "x": {"keys": [[0, 12, "linear"], [3, 52, "linear"]]}}})",
                                     R"("time": {"rate": "10/1", "frames": 4}, "solid": {"kind": "plane"})"));
        const QStringList few{p, "--view", "solid", "--samples", "1", "--frame", "3"};
        const Ran r = run(QStringList{"render"} + few +
                          QStringList{"-o", dir_.filePath("turn.png"), "--turntable", "4"});
        QCOMPARE(r.code, 0);
        QVERIFY(files::read_file(at("turn-0000.png")) == bytes("still.png", few));
        QVERIFY(files::read_file(at("turn-0000.png")) != files::read_file(at("turn-0001.png")));
        // A quarter of a turn on.
        QVERIFY(files::read_file(at("turn-0001.png")) == bytes("set.png", QStringList(few)
                                                                              << "--set"
                                                                              << "solid.camera.turn=90"));
    }

    void a_contact_sheet_has_as_many_as_asked() {
        const QString p = moving();
        const Picture four = rendered("four.png", {p, "--frames", "0:3", "--contact", "4"}),
                      two = rendered("two.png", {p, "--frames", "0:3", "--contact", "2"});
        QVERIFY(four.width == two.width && four.height > 1.7 * two.height);
        // Of the solid it shows what a picture of the solid does, as wide as that is high.
        const Picture round = rendered("round.png", {p, "--view", "solid", "--samples", "1", "--size",
                                                     "48x96", "--frames", "0:3", "--contact", "1"});
        QVERIFY(round.width > 160 && round.width < 200 && round.height > 320 && round.height < 380);
        const Ran film = run({"render", p, "-o", dir_.filePath("film.webp"), "--frames", "0:3", "--counts"});
        QVERIFY2(film.code == 0 && film.err.contains("4 frames: "), film.err.constData());
        QVERIFY(run({"render", p, "-o", dir_.filePath("film.webp"), "--frames", "0:3"}).err.isEmpty());
    }

    void only_what_is_named_is_kept_of_a_look() {
        const QString p = piece(
            "look.json",
            piece_json(64, 48, R"({"id": "o", "source": {"kind": "ellipse", "width": 30, "height": 30},
            "surface": {"metallic": 1}, "mix": {"opacity": 0.5}, "steps": [{"id": "edge", "kind": "bevel", "width": 6, "rise": 5},
            {"id": "paint", "kind": "fill", "color": "#ff2000"}]})",
                       R"("finish": [{"kind": "gleam"}], "lights": [{"id": "key", "kind": "directional"}])"));
        const auto kept = [&](const QStringList& more) {
            const QString out = dir_.filePath("kept.bathylux-recipe");
            const Ran r = run(QStringList{"keep", p, "--of", "o", "-o", out} + more);
            if (r.code != 0) qWarning("%s", r.err.constData());
            return files::open_recipe(out.toStdString());
        };
        const Recipe plain = kept({});
        QVERIFY(plain.steps && plain.steps->size() == 2 && plain.surface && !plain.mix && !plain.lights &&
                !plain.finish);
        const Recipe bare = kept({"--with", "mix,finish", "--steps", "paint", "--name", "Paint only"});
        QVERIFY(bare.steps && bare.steps->size() == 1 &&
                bare.steps->front()->kind().id == std::string_view("fill"));
        QVERIFY(!bare.surface && bare.mix && !bare.lights && bare.finish && bare.finish->size() == 1);
        QCOMPARE(bare.name, std::string("Paint only"));
        QCOMPARE(kept({"--with", "lights"}).lights.value().size(), std::size_t{1});
        const Ran none =
            run({"keep", p, "--of", "o", "-o", dir_.filePath("no.bathylux-recipe"), "--steps", "rust"});
        QVERIFY(none.code == 1 && none.err.contains("rust"));

        // Poured with the steps that are there, or instead of them.
        const QString look = dir_.filePath("kept.bathylux-recipe"),
                      other = piece(
                          "other.json",
                          piece_json(64, 48,
                                     R"({"id": "w", "source": {"kind": "ellipse", "width": 20, "height": 20},
            "steps": [{"kind": "raise", "amount": 7}]})"));
        for (const auto& [more, height] : {std::pair{QStringList{}, 5.0}, {QStringList{"--add"}, 12.0}}) {
            const QString out = dir_.filePath("poured.json");
            QCOMPARE(run(QStringList{"pour", look, "--on", other, "-o", out} + more).code, 0);
            QCOMPARE(rendered("p.exr", {out, "--view", "height"}).stored(32, 24, 0),
                     static_cast<float>(height));
        }
    }

    void alternatives_are_drawn_from_a_number() {
        const QString p =
            piece("vary.json",
                  piece_json(64, 48, R"({"id": "n", "source": {"kind": "noise", "size_u": 9, "size_v": 9},
            "steps": [{"kind": "raise", "by": "n", "amount": 3}]})"));
        const auto sheet = [&](const QStringList& more) {
            const QString out = dir_.filePath("sheet.png");
            QFile::remove(out);
            const Ran r = run(QStringList{"alternatives", p, "--of", "n", "--count", "4", "--columns", "2",
                                          "--size", "64", "-o", out} +
                              more);
            return r.code == 0 ? files::read_file(out.toStdString()) : files::Bytes{};
        };
        const files::Bytes first = sheet({});
        QVERIFY(!first.empty() && first == sheet({"--seed", "1"}) && first != sheet({"--seed", "2"}));
        // The first is the piece as it is, whatever is drawn for the others.
        const auto corner = [](const files::Bytes& made, int x, int y) {
            const Picture seen = files::read_picture(made, "sheet.png");
            std::vector<float> out;
            for (int j = 0; j < 48; ++j)
                for (int i = 0; i < 64; ++i) out.push_back(seen.stored(x + i, y + j, 0));
            return out;
        };
        const files::Bytes second = sheet({"--seed", "2"});
        const int width = files::read_picture(first, "sheet.png").width, step = (width - 12) / 2;
        QVERIFY(corner(first, 12, 12) == corner(second, 12, 12));
        QVERIFY(corner(first, 12 + step, 12) != corner(second, 12 + step, 12));
        QVERIFY(corner(first, 12 + step, 12) != corner(first, 12, 12));
        QCOMPARE(run({"alternatives", p, "--of", "n", "-o", dir_.filePath("s.png"), "--vary", "tastes"}).code,
                 2);
    }

    void what_would_have_no_say_is_refused_data() {
        QTest::addColumn<QStringList>("more");
        QTest::newRow("few frames of none") << QStringList{"--contact", "4"};
        QTest::newRow("a turn of the canvas") << QStringList{"--turntable", "4"};
        QTest::newRow("a turn of a film")
            << QStringList{"--view", "solid", "--turntable", "4", "--frames", "0:2"};
        QTest::newRow("heights taken apart") << QStringList{"--parts", "--view", "height"};
        QTest::newRow("a solid taken apart") << QStringList{"--parts", "--view", "solid"};
        QTest::newRow("a sheet of layers") << QStringList{"--sheet", "--view", "height,normals"};
        QTest::newRow("a sheet of a solid") << QStringList{"--sheet", "--view", "solid"};
        QTest::newRow("a frame and several") << QStringList{"--frame", "2", "--frames", "0:2"};
        QTest::newRow("the size of the canvas") << QStringList{"--size", "20x20"};
        QTest::newRow("points of a picture") << QStringList{"--fineness", "2"};
        QTest::newRow("the solid and the canvas") << QStringList{"--view", "solid,height"};
        QTest::newRow("no view") << QStringList{"--view", ""};
        QTest::newRow("a scale of nothing") << QStringList{"--scale", "0"};
        QTest::newRow("a scale with a comma") << QStringList{"--scale", "0,5"};
        QTest::newRow("no number of frames") << QStringList{"--frames", "0:two"};
        QTest::newRow("too many") << QStringList{"--frames", "0:1000000"};
    }
    void what_would_have_no_say_is_refused() {
        QFETCH(QStringList, more);
        const QString out = dir_.filePath("never.png");
        const Ran r = run(QStringList{"render", moving(), "-o", out} + more);
        QVERIFY2(r.code == 2 && r.err.contains("usage:"), r.err.constData());
        QVERIFY(!QFile::exists(out));
    }
};
BATHYLUX_TEST(TestOptions)
#include "test_options.moc"
