#include <QColorSpace>
#include <QTemporaryDir>
#include <QtTest>
#include <csignal>
#include <fstream>
#include <sys/resource.h>
#include <zip.h>

#include "core/error.h"
#include "core/field/srgb.h"
#include "core/paint/brush.h"
#include "files/export.h"
#include "files/info.h"
#include "files/painting_file.h"
#include "files/resolve.h"
#include "files/svg.h"
#include "files/type.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

std::span<const std::byte> bytes(const std::string& s) { return std::as_bytes(std::span(s)); }

void write_zip(const QString& path, const std::vector<std::pair<std::string, std::string>>& entries) {
    zip_t* z = zip_open(path.toUtf8().constData(), ZIP_CREATE | ZIP_TRUNCATE, nullptr);
    for (const auto& [name, text] : entries)
        zip_file_add(z, name.c_str(), zip_source_buffer(z, text.data(), text.size(), 0), ZIP_FL_ENC_UTF_8);
    zip_close(z);
}

} // namespace

class TestFiles : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString at(const QString& name) const { return dir_.filePath(name); }

  private slots:
    void strokes_come_back_as_they_were() {
        Painting p(1.5);
        Brush b;
        b.size = 70, b.flow = 1, b.height = 3.25f;
        dab(p, b, {-40, 25}, 1, {}, 0);
        b.work = BrushWork::hide;
        dab(p, b, {150, -90}, 1, {}, 0);
        const Painting back = files::read_painting(files::painting_file(p), "p", 1.5, false);
        for (int y = -160; y < 80; ++y)
            for (int x = -100; x < 220; ++x) {
                QCOMPARE(back.height(x, y), p.height(x, y));
                QCOMPARE(back.hidden(x, y), p.hidden(x, y));
            }
        QVERIFY(back.hides());
        QVERIFY(back.tiles() <= p.tiles()); // a tile with nothing on it is not kept
        Painting inked(1.5);
        b.work = BrushWork::ink, b.flow = 0.7f, b.color = rgb(200, 90, 30);
        dab(inked, b, {-40, 25}, 1, {}, 0);
        const Painting dry = files::read_painting(files::painting_file(inked), "ink", 1.5, true);
        QVERIFY(dry.inked());
        for (int y = -20; y < 70; ++y)
            for (int x = -80; x < 0; ++x)
                for (std::size_t c = 0; c < 4; ++c)
                    QVERIFY(std::abs(dry.ink(x, y)[c] - inked.ink(x, y)[c]) < 1e-6f);
        // A picture that is none is told so.
        QVERIFY(trouble_of([&] {
                    files::read_painting(files::read_file(BATHYLUX_DEMO "/pictures/cobbles.jpg"), "c.jpg", 1,
                                         false);
                }).find("no strokes") != std::string::npos);
    }

    void a_piece_keeps_its_strokes_wherever_it_is_saved() {
        auto piece =
            *scene_of(
                 piece_json(
                     64, 64,
                     R"({"id": "r", "source": {"kind": "rectangle", "width": 40, "height": 40}, "steps": [{"kind": "by_hand", "file": "strokes/r.exr"}]})"))
                 .piece;
        Painting p;
        Brush b;
        b.size = 12, b.flow = 1, b.hardness = 1, b.height = 7;
        dab(p, b, {0, 0}, 1, {}, 0);
        files::Store store;
        store.paintings["strokes/r.exr"] = std::make_shared<const Painting>(p);
        const auto height = [&](const files::Opened& o) {
            files::Resolver resolver;
            const Scene scene{std::make_shared<const Piece>(o.piece), resolver.resolve(o.piece, o.store)};
            files::Resolver::refuse_trouble(o.piece, *scene.assets);
            return height_of(scene)(32, 32);
        };
        const std::string package = at("p.bathylux").toStdString(), bare = at("p.json").toStdString();
        files::save_piece(piece, store, package);
        QCOMPARE(height(files::open_piece(package)), 7.0f);
        files::save_piece(piece, store, bare);
        QCOMPARE(height(files::open_piece(bare)), 7.0f);
        QVERIFY(QFile::exists(at("strokes/r.exr")));
        // Opened bare and saved elsewhere as a package, it takes them along.
        const files::Opened opened = files::open_piece(bare);
        QDir(dir_.path()).mkdir("far");
        files::save_piece(opened.piece, opened.store, at("far/p.bathylux").toStdString());
        QFile::remove(at("strokes/r.exr"));
        QCOMPARE(height(files::open_piece(at("far/p.bathylux").toStdString())), 7.0f);
        QVERIFY(trouble_of([&] { height(files::open_piece(bare)); }).find("strokes/r.exr") !=
                std::string::npos);
    }

    void a_demo_piece_is_seen_the_same_wherever_it_is_saved_data() {
        QTest::addColumn<QString>("name");
        for (const QString& name : QDir(BATHYLUX_DEMO).entryList({"*.json"}))
            if (name != "shelf.json") QTest::newRow(qPrintable(name)) << name;
    }
    /// As a package, bare with what was in the package beside it, bare with links to where its files are, and
    /// that taken into a package: bit for bit.
    void a_demo_piece_is_seen_the_same_wherever_it_is_saved() {
        QFETCH(QString, name);
        const auto seen = [](const files::Opened& o) {
            files::Resolver resolver;
            const auto piece = std::make_shared<const Piece>(o.piece);
            const Scene scene{piece, resolver.resolve(o.piece, o.store, 7), 7};
            files::Resolver::refuse_trouble(o.piece, *scene.assets);
            const double scale = std::min(1.0, 240 / double(piece->canvas.width));
            Evaluator evaluator;
            return look(evaluator, scene, View::lit, canvas_region(piece->canvas, scale), scale);
        };
        const files::Opened whole = files::open_piece(std::string(BATHYLUX_DEMO "/") + name.toStdString());
        const Strip before = seen(whole);
        const auto saved = [&](const files::Opened& o, const QString& to) {
            QDir(dir_.path()).mkpath(QFileInfo(to).path());
            const std::string path = at(to).toStdString();
            files::save_piece(o.piece, o.store, path);
            const files::Opened again = files::open_piece(path);
            const Strip after = seen(again);
            for (std::size_t c = 0; c < after.channels.size(); ++c)
                if (before.channels[c].is_constant())
                    QCOMPARE(after.channels[c].constant(), before.channels[c].constant());
                else
                    QCOMPARE(worst_difference(after.channels[c].plane(), before.channels[c].plane()), 0.0);
        };
        const QString stem = QFileInfo(name).baseName();
        files::Opened taken = whole;
        files::embed_all(taken);
        saved(taken, stem + "/a/packed.bathylux");
        saved(files::open_piece(at(stem + "/a/packed.bathylux").toStdString()), stem + "/b/bare.json");
        saved(whole, stem + "/c/deeper/linked.json");
        files::Opened late = files::open_piece(at(stem + "/c/deeper/linked.json").toStdString());
        files::embed_all(late);
        saved(late, stem + "/d/packed.bathylux");
    }

    void names_follow_their_scheme() {
        const auto name = [](const char* scheme, int frame, int frames) {
            return QString::fromStdString(
                files::file_name(scheme, "Basin/Quay", View::normals, frame, frames, 0.5, ".png"));
        };
        QCOMPARE(name("{piece}-{map}", 0, 1), QString("Basin-Quay-normals.png"));
        QCOMPARE(name("{map}@{scale}_{frame}", 7, 8), QString("normals@50_0007.png"));
        QCOMPARE(name("{piece}", 3, 8), QString("Basin-Quay-0003.png"));
        QCOMPARE(name("a:b?", 0, 1), QString("a-b-.png"));
    }

    void pictures_keep_their_values_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("bits");
        QTest::addColumn<double>("tolerance");
        QTest::newRow("png 8") << "a.png" << 8 << 0.5 / 255;
        QTest::newRow("png 16") << "b.png" << 16 << 0.5 / 65535;
        QTest::newRow("tiff 8") << "c.tif" << 8 << 0.5 / 255;
        QTest::newRow("tiff 16") << "d.tiff" << 16 << 0.5 / 65535;
        QTest::newRow("webp") << "e.webp" << 8 << 0.5 / 255;
        QTest::newRow("tiff float") << "f.tif" << 32 << 1e-6;
        QTest::newRow("exr") << "g.exr" << 32 << 1e-6;
    }
    void pictures_keep_their_values() {
        QFETCH(QString, name);
        QFETCH(int, bits);
        QFETCH(double, tolerance);
        constexpr int w = 37, h = 21;
        const auto value = [](int x, int y, int c) {
            return c == 3 ? (y < 4 ? 0.5 : 1.0) : std::fmod(x * 0.027 + y * 0.013 + c * 0.2, 1.0);
        };
        files::PictureSpec spec{w, h, 4, bits, bits == 32, "what it is"};
        auto writer = files::write_picture(at(name).toStdString(), spec);
        QVERIFY(!QFile::exists(at(name))); // nothing appears before it is whole
        for (int y = 0; y < h; ++y) {
            std::vector<std::uint8_t> b8;
            std::vector<std::uint16_t> b16;
            std::vector<float> f;
            for (int x = 0; x < w; ++x)
                for (int c = 0; c < 4; ++c) {
                    const double v = value(x, y, c);
                    b8.push_back(static_cast<std::uint8_t>(std::lround(v * 255)));
                    b16.push_back(static_cast<std::uint16_t>(std::lround(v * 65535)));
                    f.push_back(static_cast<float>(c < 3 ? v * value(x, y, 3) : v)); // premultiplied
                }
            writer->write(1, bits == 8    ? static_cast<const void*>(b8.data())
                             : bits == 16 ? static_cast<const void*>(b16.data())
                                          : f.data());
        }
        writer->finish();
        const Picture p = files::read_picture(files::read_file(at(name).toStdString()), name.toStdString());
        QCOMPARE(p.width, w);
        QCOMPARE(p.height, h);
        QCOMPARE(p.channels, 4);
        QCOMPARE(p.bits(), bits);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x)
                for (int c = 0; c < 4; ++c)
                    QVERIFY2(std::abs(p.stored(x, y, c) - value(x, y, c)) <= tolerance + 1e-7,
                             qPrintable(QString("%1 %2 %3: %4 vs %5")
                                            .arg(x)
                                            .arg(y)
                                            .arg(c)
                                            .arg(p.stored(x, y, c))
                                            .arg(value(x, y, c))));
        if (!name.endsWith("webp"))
            QCOMPARE(QString::fromStdString(files::picture_description(at(name).toStdString())),
                     QString("what it is"));
    }

    void an_embedded_profile_changes_colour_but_not_what_is_stored() {
        QImage image(8, 8, QImage::Format_RGB888);
        image.fill(QColor(200, 60, 60));
        image.setColorSpace(QColorSpace(QColorSpace::DisplayP3));
        image.save(at("wide.png"));
        const Picture p = files::read_picture(files::read_file(at("wide.png").toStdString()), "wide.png");
        QVERIFY(std::abs(p.stored(2, 2, 0) - 200 / 255.0f) < 1e-6);
        QVERIFY(!p.color_samples.empty());
        // A wide red is a redder sRGB: compare with Qt's own conversion.
        const QColor expected = image.convertedToColorSpace(QColorSpace(QColorSpace::SRgb)).pixelColor(2, 2);
        const auto level = p.texels(Picture::Reading::color, 0, {2, 2, 3, 3}, Edge::clamp);
        QVERIFY(std::abs(srgb_encode(level.rgba(0, 0)) - expected.redF()) < 0.02);
        QVERIFY(std::abs(srgb_encode(level.rgba(1, 0)) - expected.greenF()) < 0.02);
    }

    void damaged_pictures_are_told_of() {
        QImage(64, 64, QImage::Format_RGB32).save(at("whole.png"));
        QFile f(at("whole.png"));
        QVERIFY(f.open(QIODevice::ReadOnly));
        const std::string whole = f.readAll().toStdString();
        for (const std::string& bad :
             {whole.substr(0, 60), std::string("\x89PNG nonsense"), std::string("II*\0 nonsense", 13),
              std::string("just words"), std::string()}) {
            const std::string says = trouble_of([&] { files::read_picture(bytes(bad), "scan.png"); });
            QVERIFY2(says.starts_with("scan.png is"), says.c_str());
        }
        // A JPEG called .png is a picture all the same.
        QImage(16, 16, QImage::Format_RGB32).save(at("really.jpg"));
        const Picture p = files::read_picture(files::read_file(at("really.jpg").toStdString()), "really.png");
        QCOMPARE(p.width, 16);
    }

    void drawings_become_exact_shapes();

    void hostile_drawings_are_refused_data();

    void hostile_drawings_are_refused() {
        QFETCH(QString, svg);
        QFETCH(QString, says);
        const std::string trouble =
            trouble_of([&] { files::svg_asset(bytes(svg.toStdString()), "evil.svg"); });
        QVERIFY2(QString::fromStdString(trouble).contains(says) && trouble.starts_with("evil.svg"),
                 trouble.c_str());
    }

    void type_is_centred_by_its_boxes() {
        TypeSource t;
        t.text = "HOME", t.size = 100, t.leading = 1;
        const Asset one = files::type_asset(t);
        QVERIFY(one.trouble.empty());
        QCOMPARE(one.height, 100.0);
        const Box ink = one.layers[0].outline.bounds();
        QVERIFY(ink.x0 >= -one.width / 2 - 1 && ink.x1 <= one.width / 2 + 1);
        QVERIFY(ink.height() > 55 && ink.height() < 85); // capitals
        // Letter spacing widens by the gaps between letters only; a second line adds one leading.
        t.spacing = 10;
        QVERIFY(std::abs(files::type_asset(t).width - (one.width + 30)) < 0.2);
        t.text = "HOME\nH", t.leading = 1.5f;
        QCOMPARE(files::type_asset(t).height, 300.0);
        t.font = "No Such Face";
        const Asset missing = files::type_asset(t);
        QVERIFY(missing.trouble.find("No Such Face") != std::string::npos);
        QVERIFY(!missing.layers.empty()); // stood in for
    }

    /// Between its masters a variable font is what another library makes of it (fontTools 4.38, instances at
    /// weight 650, width 130 % and weight 250, width 60 %): advance and box of an R, in ems.
    void variable_fonts_stand_anywhere_on_their_axes() {
        const auto letter = [](const std::string& text, float weight, float stretch) {
            TypeSource t;
            t.font = "Anybody", t.text = text, t.size = 1000, t.weight = weight, t.stretch = stretch;
            return files::type_asset(t);
        };
        const auto stands = [&](float weight, float stretch, double advance, Box ink) {
            const Asset r = letter("R", weight, stretch);
            const Box b = r.layers[0].outline.bounds();
            return r.trouble.empty() && std::abs(r.width - 1000 * advance) < 1.5 &&
                   std::abs(b.x0 + r.width / 2 - 1000 * ink.x0) < 1.5 &&
                   std::abs(b.width() - 1000 * ink.width()) < 1.5 &&
                   std::abs(b.height() - 1000 * ink.height()) < 1.5;
        };
        QVERIFY(stands(650, 1.3f, 0.869, {0.05906, 0, 0.81275, 0.675}));
        QVERIFY(stands(250, 0.6f, 0.2205, {0.01864, 0, 0.19929, 0.675}));
        // Past an axis's end it stands at the end; letters that it lacks come from another font as ever.
        QCOMPARE(letter("R", 1000, 4).width, letter("R", 900, 1.5f).width);
        QVERIFY(!letter("Ω", 400, 1).layers.empty());
        TypeSource plain;
        plain.font = "Cabin", plain.stretch = 0.7f;
        QVERIFY(files::type_asset(plain).about.find("no axis") != std::string::npos);
    }

    void packages_round_trip_and_save_whole_or_not_at_all() {
        files::Opened piece{
            *scene_of(piece_json(32, 32,
                                 R"({"id": "p", "source": {"kind": "picture", "file": "pictures/a.png"}})"))
                 .piece,
            {}};
        QImage(8, 8, QImage::Format_RGB32).save(at("a.png"));
        piece.store.embedded["pictures/a.png"] =
            std::make_shared<const files::Bytes>(files::read_file(at("a.png").toStdString()));
        piece.store.embedded["pictures/unused.png"] = piece.store.embedded["pictures/a.png"];
        const auto path = at("kept.bathylux").toStdString();
        files::save_piece(piece.piece, piece.store, path);
        const files::Opened again = files::open_piece(path);
        QCOMPARE(to_json(again.piece), to_json(piece.piece));
        QCOMPARE(again.store.embedded.size(), std::size_t{1}); // what nobody names stays behind
        QVERIFY(*again.store.embedded.at("pictures/a.png") == *piece.store.embedded.at("pictures/a.png"));

        // Bare JSON puts the pictures beside it.
        files::save_piece(piece.piece, piece.store, at("bare/piece.json").toStdString() + "");
    }

    void a_failed_save_leaves_the_old_file() {
        QDir().mkpath(at("locked"));
        const auto path = at("locked/a.bathylux").toStdString();
        const Piece piece = *scene_of(piece_json(32, 32, "")).piece;
        files::save_piece(piece, {}, path);
        const auto before = files::read_file(path);
        // The disk fills: a limit on the size of files stands for it.
        Piece larger = piece;
        std::string noise;
        std::uint32_t state = 1;
        for (int i = 0; i < 400000; ++i)
            state = state * 1664525u + 1013904223u, noise += static_cast<char>('a' + (state >> 24) % 26);
        larger.rest = "{\"ballast\": \"" + noise + "\"}";
        rlimit old{};
        getrlimit(RLIMIT_FSIZE, &old);
        signal(SIGXFSZ, SIG_IGN);
        const rlimit small{16384, old.rlim_max};
        setrlimit(RLIMIT_FSIZE, &small);
        const std::string trouble = trouble_of([&] { files::save_piece(larger, {}, path); });
        setrlimit(RLIMIT_FSIZE, &old);
        QVERIFY2(trouble.find("could not be saved") != std::string::npos &&
                     trouble.find("untouched") != std::string::npos,
                 trouble.c_str());
        QVERIFY(files::read_file(path) == before);
        QCOMPARE(QDir(at("locked")).entryList(QDir::Files | QDir::Hidden).size(),
                 1); // nothing half-written is left
    }

    void hostile_packages_are_refused() {
        const std::string json = piece_json(8, 8, "");
        const auto says = [&](const QString& name) {
            return trouble_of([&] { files::open_piece(at(name).toStdString()); });
        };
        write_zip(at("climb.bathylux"), {{"piece.json", json}, {"../../evil", "x"}});
        QVERIFY(says("climb.bathylux").find("leads out of it") != std::string::npos);
        write_zip(at("bomb.bathylux"), {{"piece.json", json}, {"zeros", std::string(60u << 20, '\0')}});
        const std::string bomb = says("bomb.bathylux");
        QVERIFY2(bomb.find("packed beyond belief") != std::string::npos || bomb.empty(), bomb.c_str());
        write_zip(at("none.bathylux"), {{"readme", "hello"}});
        QVERIFY(says("none.bathylux").find("no piece.json") != std::string::npos);
        std::ofstream(at("cut.bathylux").toStdString(), std::ios::binary) << "PK\x03\x04 cut short";
        QVERIFY(says("cut.bathylux").find("damaged") != std::string::npos);
        QVERIFY(says("nowhere.bathylux").find("no such file") != std::string::npos);
        for (const char* n : {"climb", "bomb", "none", "cut"})
            QVERIFY(says(QString(n) + ".bathylux").find(n) != std::string::npos ||
                    QString(n) == "bomb"); // each names its file
    }

    /// What is written in tiles of 64 px is byte for byte what is written in one go. Shadows and open sky,
    /// which see what is far from a tile in a pyramid, look the same.
    void a_map_written_in_tiles_is_the_map() {
        const auto scene = [](const std::string& shadow) {
            return scene_of(piece_json(
                200, 130,
                "{\"id\": \"n\", \"source\": {\"kind\": \"noise\", \"size_u\": 30, \"size_v\": 20}, "
                "\"steps\": "
                "[{\"kind\": \"tones\", \"rise\": 9}, {\"kind\": \"soften\", \"radius\": 3}]},"
                "{\"id\": \"o\", \"source\": {\"kind\": \"ellipse\", \"width\": 150, \"height\": 90}, "
                "\"steps\": "
                "[{\"kind\": \"bevel\", \"width\": 20, \"rise\": 12}]}",
                "\"lights\": [{\"id\": \"l\", \"kind\": \"directional\", \"angle\": 200, \"elevation\": 20, "
                "\"size\": 2, "
                "\"shadow\": " +
                    shadow +
                    "}, {\"id\": \"p\", \"kind\": \"point\", \"x\": 40, \"y\": 60, \"z\": 30, "
                    "\"shadow\": " +
                    shadow + "}], \"ambient\": {\"intensity\": 0.3, \"occlusion\": " + shadow + "}"));
        };
        const auto written = [&](const Scene& s, View view, Cut cut) {
            Evaluator evaluator(0, cut);
            files::export_map(evaluator, s, at("map.exr").toStdString(), {view});
            return files::read_picture(files::read_file(at("map.exr").toStdString()), "map.exr");
        };
        for (View view : {View::lit, View::height, View::normals}) {
            const Picture whole = written(scene("false"), view, {}),
                          tiled = written(scene("false"), view, {0, 64});
            QCOMPARE(whole.width, 200);
            QVERIFY(whole.samples == tiled.samples);
        }
        for (View view : {View::lit, View::occlusion}) {
            const Picture whole = written(scene("true"), view, {}),
                          tiled = written(scene("true"), view, {0, 64});
            double squares = 0;
            for (int y = 0; y < 130; ++y)
                for (int x = 0; x < 200; ++x)
                    squares += std::pow(whole.stored(x, y, 0) - tiled.stored(x, y, 0), 2);
            QVERIFY2(squares / (130 * 200) < 1e-4, qPrintable(QString::number(squares / (130 * 200))));
        }
    }

    void exported_maps_say_what_they_are() {
        const Scene s = scene_of(piece_json(
            64, 48,
            R"({"id": "o", "source": {"kind": "ellipse", "width": 50, "height": 40}, "steps": [{"kind": "bevel", "width": 10, "rise": 6.5, "profile": "round"}, {"kind": "raise", "amount": -2}]})",
            R"("lights": [{"id": "l", "kind": "directional"}])"));
        Evaluator evaluator(0);
        const Plane h = height_of(s);
        const auto [low, high] = range_of(Field(h));
        files::export_map(evaluator, s, at("h.png").toStdString(), {View::height});
        const Picture png = files::read_picture(files::read_file(at("h.png").toStdString()), "h.png");
        QCOMPARE(png.bits(), 16);
        QCOMPARE(png.channels, 1);
        const Json about = parse_json(files::picture_description(at("h.png").toStdString()));
        QVERIFY(std::abs(about["height_range"][0].get<double>() - low) < 1e-5 &&
                std::abs(about["height_range"][1].get<double>() - high) < 1e-5);
        for (int y = 0; y < 48; y += 5)
            for (int x = 0; x < 64; x += 5)
                QVERIFY(std::abs(low + png.stored(x, y, 0) * (high - low) - h(x, y)) < (high - low) / 65535);
        files::export_map(evaluator, s, at("h.exr").toStdString(), {View::height});
        const Picture exr = files::read_picture(files::read_file(at("h.exr").toStdString()), "h.exr");
        QVERIFY(std::abs(exr.stored(20, 20, 0) - h(20, 20)) < 1e-6);

        files::Export down{View::normals, 1, 8, false};
        files::export_map(evaluator, s, at("n-up.png").toStdString(), {View::normals});
        files::export_map(evaluator, s, at("n-down.png").toStdString(), down);
        const Picture up = files::read_picture(files::read_file(at("n-up.png").toStdString()), "u"),
                      flipped = files::read_picture(files::read_file(at("n-down.png").toStdString()), "d");
        for (int y = 0; y < 48; y += 3)
            for (int x = 0; x < 64; x += 3)
                QVERIFY(std::abs(up.stored(x, y, 1) + flipped.stored(x, y, 1) - 1) < 1.1 / 255);
        QVERIFY(files::file_info(at("n-down.png").toStdString()).find("\"green\": \"down\"") !=
                std::string::npos);
        QVERIFY(files::file_info(at("h.png").toStdString()).find("\"guess\": \"height\"") !=
                std::string::npos);
        const std::string wrong =
            trouble_of([&] { files::export_map(evaluator, s, at("x.bmp").toStdString(), {}); });
        QVERIFY(wrong.find("x.bmp") != std::string::npos);
    }
};

// Qt's moc loses its way in these literals; after the class it no longer matters.

void TestFiles::drawings_become_exact_shapes() {
    const Asset a = files::svg_asset(
        bytes(R"(<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 100" width="200" height="100">
        <circle cx="50" cy="50" r="30" fill="red"/><path d="M120 20h40v60h-40z" fill="lime" stroke="blue" stroke-width="4"/></svg>)"),
        "d.svg");
    QCOMPARE(a.width, 200.0);
    QCOMPARE(a.layers.size(), std::size_t{3});
    QCOMPARE(a.layers[0].outline.contours[0][0].kind, Curve::Kind::arc); // a circle stays a circle
    QVERIFY(std::abs(a.layers[0].color.r - 1) < 1e-3);
    const Box stroke = a.layers[2].outline.bounds();
    QVERIFY(std::abs(stroke.x0 - (118 - 100)) < 0.01 && std::abs(stroke.y1 - (82 - 50)) < 0.01);
}

void TestFiles::hostile_drawings_are_refused_data() {
    QTest::addColumn<QString>("svg");
    QTest::addColumn<QString>("says");
    const QString head =
        R"(<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="10" height="10">)";
    QTest::newRow("entities") << R"(<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]>)" + head +
                                     "<text>&b;</text></svg>"
                              << "entities of its own";
    QTest::newRow("outside file")
        << head + R"(<image xlink:href="file:///etc/passwd" width="5" height="5"/></svg>)"
        << "outside itself";
    QTest::newRow("web") << head + R"(<image href="http://example.com/a.png" width="5" height="5"/></svg>)"
                         << "outside itself";
    QTest::newRow("circle of uses")
        << head + R"(<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g></svg>)"
        << "in a circle";
    QString bomb = head + R"(<g id="u0"><rect width="1" height="1"/></g>)";
    for (int i = 1; i < 12; ++i)
        bomb += QString("<g id=\"u%1\">").arg(i) + QString("<use href=\"#u%1\"/>").arg(i - 1).repeated(10) +
                "</g>";
    QTest::newRow("explosion of uses") << bomb + "</svg>"
                                       << "unfolds to more than";
    QTest::newRow("not svg") << "<html><body/></html>"
                             << "not an SVG drawing";
    QTest::newRow("cut") << head + "<path d='M0"
                         << "line 1";
    QTest::newRow("empty") << head + "</svg>"
                           << "no filled or stroked shape";
    QTest::newRow("deep") << head + QString("<g>").repeated(400) + QString("</g>").repeated(400) + "</svg>"
                          << "nested more than";
}

BATHYLUX_TEST(TestFiles)
#include "test_files.moc"
