#include "app/controls/color_picker.h"
#include "app/controls/profile_editor.h"
#include "app/controls/ruled_scale.h"
#include "core/colour/tone_curve.h"
#include "core/field/srgb.h"

#include "driven_window.h"
#include "run.h"

using namespace bathylux;

/// Colour worked on in the window: curves, shares, maps of the element itself.
class TestColorWork : public QObject, DrivenWindow {
    Q_OBJECT
  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    /// Figures that are typed are those of OKLCh (Ottosson 2020), whatever is typed is a colour afterwards,
    /// and what is none changes nothing.
    void a_colour_is_typed() {
        begin();
        ColorPicker picker("Colour", document(), window_.get());
        picker.setColor(parse_color("#336699"));
        picker.setVisible(true);
        std::optional<Color> picked;
        connect(&picker, &ColorPicker::picked, &picker, [&](const Color& c) { picked = c; });
        const auto type = [&](const char* field, const QString& text) {
            for (auto* f : picker.findChildren<QLineEdit*>())
                if (f->accessibleName().startsWith(field)) {
                    picked.reset();
                    f->setFocus();
                    f->selectAll();
                    QTest::keyClicks(f, text);
                    QTest::keyClick(f, Qt::Key_Return);
                    return f;
                }
            return static_cast<QLineEdit*>(nullptr);
        };
        const auto lab = [](const Color& c) {
            const double r = srgb_decode(c.r), g = srgb_decode(c.g), b = srgb_decode(c.b);
            const double l = std::cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b),
                         m = std::cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b),
                         s = std::cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
            return std::array{0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s,
                              1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
                              0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s};
        };
        const auto hue = [&](const Color& c) {
            return std::atan2(lab(c)[2], lab(c)[1]) / radians_per_degree;
        };
        QVERIFY(type("Code", "ff8000"));
        QVERIFY(picked && *picked == parse_color("#ff8000"));
        const Color orange = *picked;
        const auto figure = [&](const char* field) {
            for (auto* f : picker.findChildren<QLineEdit*>())
                if (f->accessibleName().startsWith(field)) return QLocale().toDouble(f->text());
            return -1.0;
        };
        QVERIFY(std::abs(figure("Lightness") - 100 * lab(orange)[0]) < 0.6);
        QVERIFY(std::abs(figure("Chroma") - std::hypot(lab(orange)[1], lab(orange)[2])) < 0.006);
        QVERIFY(std::abs(figure("Hue") - hue(orange)) < 0.6);
        // Darker, it keeps its hue; chroma gives way where there is no such colour.
        type("Lightness", "45");
        QVERIFY(picked && std::abs(lab(*picked)[0] - 0.45) < 0.01 &&
                std::abs(hue(*picked) - hue(orange)) < 4);
        type("Hue", "-1000");
        QVERIFY(picked && std::abs(hue(*picked) - 80) < 4);
        type("Lightness", "250");
        QVERIFY(picked && picked->r > 0.99f && picked->g > 0.99f && picked->b > 0.99f);
        for (const char* field : {"Code", "Lightness", "Hue"}) {
            QLineEdit* f = type(field, "mauve");
            QVERIFY2(f && !picked && f->text() != "mauve", field);
        }
        // What is see-through stays so, whichever colour is taken.
        emit picker.findChild<RuledScale*>()->valueChanged(0.5);
        QVERIFY(picked && picked->a == 0.5f);
        type("Lightness", "30");
        QVERIFY(picked && std::abs(picked->a - 0.5f) < 0.003f); // colours are in bytes
    }

    void a_curve_is_pulled_shared_saved_and_undone() {
        begin();
        document().choose({"plate"});
        const QImage flat = window_->desk().frame->right;
        document().edit("Add tone curve", [](Piece& p) {
            change(p, "plate",
                   [](Element& e) { add_step(e, Step{.what = Described(step_kind("tone_curve"))}); });
        });
        document().setOpenStep("tone_curve");
        QVERIFY(settled());
        QVERIFY(window_->desk().frame->right == flat); // a straight curve changes nothing
        const auto curve = [&] {
            const Element* e = find_element(piece().elements, "plate");
            return *find_step(e->steps, "tone_curve")->what.as<ToneCurve>();
        };
        // A press between the ends makes a point, and the same drag pulls it up: one undo.
        auto* editor = control<CurveEditor>("Curve");
        QVERIFY(editor);
        const int edits = document().history().index();
        drag(editor, editor->rect().center(), editor->rect().center() - QPointF(0, 30));
        QVERIFY(settled());
        QCOMPARE(curve().points.size(), 3u);
        QVERIFY(curve().points[1].second > 0.7f && std::abs(curve().points[1].first - 0.5f) < 0.02f);
        QCOMPARE(document().history().index(), edits + 1);
        const QImage bright = window_->desk().frame->right;
        QVERIFY(bright != flat);
        // What goes in is counted behind the curve, anew when it changes, and not when the curve does.
        const QVariant counted = editor->property("counted");
        QVERIFY(!counted.toString().isEmpty());
        document().edit("Sink the tones", [](Piece& p) {
            change(p, "plate", [](Element& e) {
                e.steps.insert(e.steps.begin(), Step{.id = "first", .what = Described(step_kind("invert"))});
            });
        });
        QVERIFY(settled());
        editor = control<CurveEditor>("Curve");
        QVERIFY(editor && editor->property("counted") != counted);
        document().history().undo();
        QVERIFY(settled());
        // Half of it is between.
        auto* share = control<RuledScale>("Share");
        QVERIFY(share);
        share->setFocus();
        QTest::keyClick(share, Qt::Key_Home);
        QVERIFY(settled());
        QCOMPARE(find_element(piece().elements, "plate")->steps.back()->share, 0.0f);
        QVERIFY(window_->desk().frame->right == flat);
        document().history().undo();
        QVERIFY(settled());
        QVERIFY(window_->desk().frame->right == bright);
        // Saved and opened again it is the same picture.
        const QString path = dir_.filePath("curve.bathylux");
        QVERIFY(window_->saveTo(path));
        const auto points = curve().points;
        QVERIFY(window_->openPath(path) && settled());
        QCOMPARE(curve().points, points);
        QVERIFY(window_->desk().frame->right == bright);
    }

    void a_step_works_where_the_element_itself_says() {
        begin();
        document().choose({"plate"});
        document().edit("Add contrast", [](Piece& p) {
            change(p, "plate",
                   [](Element& e) { add_step(e, Step{.what = Described(step_kind("contrast"))}); });
        });
        document().setOpenStep("contrast");
        QVERIFY(settled());
        const QImage everywhere = window_->desk().frame->right;
        QToolButton* take = nullptr;
        for (auto* b : window_->makings().findChildren<QToolButton*>("takeMap"))
            if (b->accessibleName() == "Works where" && b->isVisible()) take = b;
        QVERIFY(take);
        emit take->menu()->aboutToShow();
        for (QAction* a : take->menu()->actions())
            if (a->text() == "itself") a->trigger();
        QVERIFY(settled());
        const auto map = [&] { return find_element(piece().elements, "plate")->steps.back()->map; };
        QVERIFY(map() && map()->element.empty());
        const QImage where_bright = window_->desk().frame->right;
        QVERIFY(where_bright != everywhere);
        document().edit("Read red", [](Piece& p) {
            change(p, "plate", [](Element& e) {
                e.steps.back() = e.steps.back().with([](Step& s) { s.map->sink = true; });
            });
        });
        QVERIFY(settled());
        QVERIFY(window_->desk().frame->right != where_bright);
        // Copies read themselves.
        const Ids copies = [&] {
            Piece p = piece();
            return duplicate(p, {"plate"});
        }();
        QCOMPARE(copies.size(), 1u);
        document().history().undo(), document().history().undo();
        QVERIFY(!map());
    }
};

BATHYLUX_TEST(TestColorWork)
#include "test_color_work.moc"
