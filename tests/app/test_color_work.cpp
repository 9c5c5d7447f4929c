#include "app/controls/profile_editor.h"
#include "app/controls/ruled_scale.h"
#include "core/colour/tone_curve.h"

#include "driven_window.h"
#include "run.h"

using namespace bathylux;

/// Colour worked on in the window: curves, shares, maps of the element itself.
class TestColorWork : public QObject, DrivenWindow {
    Q_OBJECT
  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

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
