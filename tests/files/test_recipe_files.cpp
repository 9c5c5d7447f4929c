// Recipes as files, words as drawings, small pictures: what leaves the piece and comes back.
#include <QTemporaryDir>
#include <QtTest>

#include "core/make/type_source.h"
#include "core/paint/push.h"
#include "core/piece/recipe.h"
#include "core/render/evaluate.h"
#include "core/render/streams.h"
#include "files/contact_sheet.h"
#include "files/package.h"
#include "files/painting_file.h"
#include "files/recipe_file.h"
#include "files/resolve.h"
#include "files/svg.h"
#include "files/type.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

class TestRecipeFiles : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    std::filesystem::path in(const char* name) const { return dir_.filePath(name).toStdString(); }
    void write(const char* name, const std::string& text) const {
        files::write_atomically(in(name), std::as_bytes(std::span(text)));
    }

  private slots:
    void a_recipe_carries_its_files_and_hands_them_over();
    void a_look_poured_back_is_what_it_was_data();
    void a_look_poured_back_is_what_it_was();
    void words_as_a_drawing_are_the_same_shape();
    void what_was_pushed_comes_back_and_shows_as_streams();
    void small_pictures_show_the_part_that_is_asked_for();
};

void TestRecipeFiles::a_recipe_carries_its_files_and_hands_them_over() {
    std::filesystem::copy_file(BATHYLUX_DEMO "/pictures/strokes.png", in("grain.png"));
    write("look.bathylux-recipe",
          R"({"bathylux_recipe": 1, "name": "Look", "steps": [{"kind": "wear", "by": "g"}],
        "elements": [{"id": "g", "source": {"kind": "picture", "file": "grain.png"}}]})");
    Recipe r = files::open_recipe(in("look.bathylux-recipe"));
    QVERIFY(r.files.empty());
    files::carry_files(r, files::Store{});
    // It names nothing of this machine now, and stands alone.
    const std::string text = text_of(r);
    QVERIFY(text.find(dir_.path().toStdString()) == std::string::npos && r.files.size() == 1);
    std::filesystem::create_directory(in("elsewhere"));
    files::save_recipe(r, in("elsewhere/look.bathylux-recipe"));
    Recipe back = files::open_recipe(in("elsewhere/look.bathylux-recipe"));
    QCOMPARE(text_of(back), text);
    // A name that is taken by another file gets a second one; the same file none.
    files::Store store;
    store.embedded["grain.png"] = std::make_shared<const files::Bytes>(files::Bytes(3));
    for (int i = 0; i < 2; ++i) {
        Recipe taken = back;
        files::take_files(taken, store);
        QVERIFY(taken.files.empty());
        QCOMPARE(store.embedded.size(), 2u);
        const auto file = std::get<std::string>(taken.elements[0].source.get("file"));
        QVERIFY(file != "grain.png" && *store.embedded.at(file) == files::read_file(in("grain.png")));
    }
}

void TestRecipeFiles::a_look_poured_back_is_what_it_was_data() {
    QTest::addColumn<QString>("piece");
#ifdef __SANITIZE_ADDRESS__
    QTest::newRow("salt-pier") << QString(BATHYLUX_DEMO "/salt-pier.json"); // one takes as long as all there
    return;
#endif
    for (const auto& f : std::filesystem::directory_iterator(BATHYLUX_DEMO))
        if (f.path().extension() == ".json" && f.path().stem() != "shelf")
            QTest::newRow(f.path().stem().c_str()) << QString::fromStdString(f.path().string());
}

/// The look of every element of every demo piece, taken off and poured over it again.
void TestRecipeFiles::a_look_poured_back_is_what_it_was() {
    QFETCH(QString, piece);
    const auto opened = files::open_piece(piece.toStdString());
    files::Resolver resolver;
    const Region all = canvas_region(opened.piece.canvas, 0.25);
    const auto relief = [&](const Piece& p) {
        return Evaluator(64u << 20).relief(
            {std::make_shared<const Piece>(p), resolver.resolve(p, opened.store)}, all, 0.25);
    };
    const Bundle before = relief(opened.piece);
    QStringList found;
    for_each_element(opened.piece.elements, [&](const Element& e) {
        if (e.steps.empty()) return;
        Piece p = opened.piece;
        // Without a surface of its own the piece's is kept, which may not be what lies below.
        const Recipe look = kept_recipe(p, e.id, {.surface = e.surface.has_value()});
        change(p, e.id, [](Element& bare) {
            const bool visible = bare.mix.visible;
            bare.steps.clear(), bare.surface.reset(), bare.mix = {}, bare.mix.visible = visible;
        });
        pour(p, e.id, look, {});
        const Bundle after = relief(p);
        double worst = 0;
        for (const auto& [a, b] : {std::pair{&before.color[1], &after.color[1]},
                                   {&before.coverage, &after.coverage},
                                   {&before.height, &after.height},
                                   {&before.roughness, &after.roughness}})
            for (int y = 0; y < all.height(); ++y)
                for (int x = 0; x < all.width(); ++x)
                    worst = std::max(worst, std::abs(double(a->at(x, y)) - b->at(x, y)));
        if (!(worst < 1e-4)) found << QString("%1: off by %2").arg(e.id.c_str()).arg(worst);
    });
    for (const QString& f : found) qWarning().noquote() << f;
    QVERIFY(found.isEmpty());
}

void TestRecipeFiles::words_as_a_drawing_are_the_same_shape() {
    TypeSource words;
    words.text = "QUAY & Co\n8%", words.size = 60;
    const Asset type = files::type_asset(words),
                drawing = files::svg_asset(files::drawing_of(type), "words.svg");
    QVERIFY(drawing.width >= type.width && drawing.width < type.width + 1);
    const Region r{-220, -90, 220, 90};
    const auto covered = [&](const Asset& a) {
        Plane all(r.width(), r.height(), 0.0f);
        for (const Layer& l : a.layers) {
            const Plane one = coverage(flatten(l.outline, 0.01), r);
            for (int y = 0; y < r.height(); ++y)
                for (int x = 0; x < r.width(); ++x) all(x, y) = std::max(all(x, y), one(x, y));
        }
        return all;
    };
    QVERIFY(worst_difference(covered(type), covered(drawing)) < 2e-3);
    // Arcs as well.
    Asset round;
    round.width = 120, round.height = 80;
    round.layers.push_back({ellipse_outline(110, 70), rgb(20, 40, 60)});
    QVERIFY(worst_difference(covered(round),
                             covered(files::svg_asset(files::drawing_of(round), "round.svg"))) < 0.02);
}

void TestRecipeFiles::what_was_pushed_comes_back_and_shows_as_streams() {
    Brush b;
    b.work = BrushWork::push, b.size = 80, b.flow = 1;
    BrushStroke s(Painting(2), b, {});
    s.to({-20, -10}, 1), s.to({30, 25}, 1);
    std::filesystem::create_directory(in("strokes"));
    files::write_atomically(in("strokes/push.exr"), files::painting_file(s.painting()));
    write("pushed.json",
          piece_json(200, 160, R"({"id": "e", "source": {"kind": "ellipse", "width": 80, "height": 60},
        "steps": [{"kind": "pushed", "file": "strokes/push.exr", "density": 2}]})"));
    const files::Opened opened = files::open_piece(in("pushed.json"));
    files::Resolver resolver;
    const Scene scene{std::make_shared<const Piece>(opened.piece),
                      resolver.resolve(opened.piece, opened.store)};
    files::Resolver::refuse_trouble(opened.piece, *scene.assets);
    Evaluator evaluator;
    const auto streams = streams_of(evaluator, scene, "e", "", 1);
    QVERIFY(streams && streams->longest > 5);
    // Down is negative where the hand went up, and a px of the element is two of the painting.
    double worst = 0;
    for (int y = -30; y < 30; ++y)
        for (int x = -40; x < 40; ++x) {
            const Vec2 d = streams->at({100 + x + 0.5, 80 + y + 0.5});
            const auto mean = [&](float (Painting::*of)(int, int) const) {
                const Painting& p = s.painting();
                return ((p.*of)(2 * x, 2 * y) + (p.*of)(2 * x + 1, 2 * y) + (p.*of)(2 * x, 2 * y + 1) +
                        (p.*of)(2 * x + 1, 2 * y + 1)) /
                       4.0;
            };
            worst = std::max(
                {worst, std::abs(d.x - mean(&Painting::height)), std::abs(d.y - mean(&Painting::hidden))});
        }
    QVERIFY2(worst < 0.02, qPrintable(QString::number(worst)));
    // Another stroke, another name; nothing that bends, none.
    QVERIFY(streams_name(scene, "e", "", 1) == streams_name(scene, "e", "pushed", 1));
    QVERIFY(!streams_of(evaluator, scene, "e", "none", 1));
    for (const Vec2 from : {Vec2{100, 80}, {85, 74}, {118, 96}, {40, 40}}) {
        const Vec2 to = streams->carried(from), by = streams->at(to);
        QVERIFY2(length(to - by - from) < 0.1, qPrintable(QString::number(length(to - by - from))));
    }
}

void TestRecipeFiles::small_pictures_show_the_part_that_is_asked_for() {
    const Scene s =
        scene_of(piece_json(400, 200, R"({"id": "e", "placement": {"x": 300, "y": 100}, "source": {"kind":
        "rectangle", "width": 100, "height": 100, "color": "#ff0000"}})"));
    Evaluator evaluator;
    const auto whole = files::small_picture(evaluator, s, View::art, 100);
    QVERIFY(whole.width == 100 && whole.height == 50);
    const auto part = files::small_picture(evaluator, s, View::art, 100, {250, 50, 350, 150});
    QVERIFY(part.width == 100 && part.height == 100);
    for (std::size_t i = 0; i < part.rgba.size(); i += 4)
        QVERIFY(part.rgba[i] == 255 && part.rgba[i + 3] == 255);
}

BATHYLUX_TEST(TestRecipeFiles)
#include "test_recipe_files.moc"
