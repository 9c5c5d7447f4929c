#include <QJsonArray>
#include <QJsonDocument>
#include <QLineEdit>
#include <QMenu>

#include "app/controls/color_field.h"
#include "app/controls/color_picker.h"
#include "app/controls/profile_editor.h"
#include "app/controls/step_row.h"
#include "app/controls/stops_editor.h"
#include "app/makings/element_head.h"
#include "app/table/brush_row.h"
#include "core/colour/ramp.h"
#include "core/paint/paint_source.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "core/piece/twin.h"

#include "driven_window.h"
#include "run.h"

using namespace bathylux;

/// What lies over the light, colours picked, ramps edited, ink and twins, in the window by hand.
class TestFinishWork : public QObject, DrivenWindow {
    Q_OBJECT

    ElementHead* head(const QString& id) {
        for (auto* h : window_->makings().findChildren<ElementHead*>())
            if (h->face().id == id && h->isVisible()) return h;
        return nullptr;
    }
    QImage lit() { return window_->desk().frame->right; }
    /// The same but for a step of eight bits, as what went through a file may be.
    static bool alike(const QImage& a, const QImage& b) {
        if (a.size() != b.size()) return false;
        for (int y = 0; y < a.height(); ++y)
            for (int x = 0; x < a.width(); ++x) {
                const QRgb p = a.pixel(x, y), q = b.pixel(x, y);
                if (std::abs(qRed(p) - qRed(q)) > 1 || std::abs(qGreen(p) - qGreen(q)) > 1 ||
                    std::abs(qBlue(p) - qBlue(q)) > 1)
                    return false;
            }
        return true;
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void the_finish_is_opened_filled_switched_and_undone() {
        begin();
        const QImage plain = lit();
        QTest::mouseClick(head("finish"), Qt::LeftButton, {}, QPoint(40, 16));
        QCOMPARE(document().chosen(), QStringList{"finish"});
        // Commands of elements leave it alone.
        QVERIFY(!window_->action("delete")->isEnabled());
        QVERIFY(window_->action("add-step")->isEnabled());
        emit window_->makings().addStep("tone_curve");
        emit window_->makings().addStep("gleam");
        QVERIFY(settled());
        QCOMPARE(piece().finish.size(), 2u);
        document().setOpenStep("tone_curve");
        QVERIFY(settled());
        auto* editor = control<CurveEditor>("Curve");
        QVERIFY(editor);
        const int edits = document().history().index();
        drag(editor, editor->rect().center(), editor->rect().center() - QPointF(0, 26));
        QVERIFY(settled());
        QCOMPARE(document().history().index(), edits + 1);
        const QImage finished = lit();
        QVERIFY(finished != plain);
        // Before and after: by its eye, and across the seam.
        QTest::mouseClick(head("finish"), Qt::LeftButton, {}, QPoint(head("finish")->width() - 16, 16));
        QVERIFY(settled());
        QVERIFY(lit() == plain);
        document().history().undo();
        window_->action("left-lit_unfinished")->trigger();
        QVERIFY(settled());
        QVERIFY(lit() == finished);
        QVERIFY(window_->desk().frame->left == plain);
        const QString path = dir_.filePath("finish.bathylux");
        QVERIFY(window_->saveTo(path));
        const std::string before = text_of(piece());
        QVERIFY(window_->openPath(path) && settled());
        QCOMPARE(text_of(piece()), before);
    }

    void ramps_are_dragged_added_to_pulled_off_and_kept() {
        begin();
        document().choose({"plate"});
        emit window_->makings().addStep("ramp");
        QVERIFY(settled());
        const auto ramp = [&] {
            return *find_step(find_element(piece().elements, "plate")->steps, "ramp")->what.as<Ramp>();
        };
        auto* strip = control<StopsStrip>("Colours");
        QVERIFY(strip);
        const double w = strip->width() - 15;
        drag(strip, QPointF(7 + 0.6 * w, 36), QPointF(7 + 0.3 * w, 36));
        QVERIFY(std::abs(ramp().stops[1].at - 0.3f) < 0.02f);
        QTest::mouseDClick(strip, Qt::LeftButton, {}, QPoint(7 + int(0.7 * w), 12));
        QCOMPARE(ramp().stops.size(), 4u);
        QVERIFY(std::abs(ramp().stops[2].at - 0.7f) < 0.02f);
        drag(strip, QPointF(7 + 0.3 * w, 36), QPointF(7 + 0.3 * w, 120));
        QCOMPARE(ramp().stops.size(), 3u);
        QTest::keyClick(strip, Qt::Key_Delete);
        QCOMPARE(ramp().stops.size(), 2u);
        for (int i = 0; i < 4; ++i) document().history().undo();
        QCOMPARE(ramp().stops.size(), 3u);
        QCOMPARE(ramp().stops[1].at, 0.6f);
        // Fitted to what comes in, it has other ends.
        auto* fit = window_->makings().findChild<QToolButton*>("fitRamp");
        QVERIFY(fit);
        fit->click();
        QVERIFY(QTest::qWaitFor([&] { return ramp().low != 0 || ramp().high != 1; }, 10000));
        QVERIFY(ramp().low < ramp().high);
    }

    void a_colour_is_picked_typed_taken_off_the_table_and_kept() {
        begin();
        document().choose({"plate"});
        emit window_->makings().addStep("fill");
        QVERIFY(settled());
        const auto color = [&] {
            const Element* e = find_element(piece().elements, "plate");
            return std::get<Color>(find_step(e->steps, "fill")->what.get("color"));
        };
        ColorPatch* patch = nullptr; // lamps have one too
        for (auto* p : window_->makings().findChildren<ColorPatch*>())
            if (p->accessibleName() == "Colour" && p->isVisible()) patch = p;
        QVERIFY(patch);
        QTest::mouseClick(patch, Qt::LeftButton, {}, patch->rect().center());
        auto* picker = window_->findChild<ColorPicker*>("colorPicker");
        QVERIFY(picker && picker->isVisible() && window_->makings().isAncestorOf(picker));
        auto* code = picker->findChild<QLineEdit*>("colorCode");
        code->selectAll();
        QTest::keyClicks(code, "#58b3a4");
        QTest::keyClick(code, Qt::Key_Return);
        QCOMPARE(to_string(color()), std::string("#58b3a4"));
        // Pulled in the field it is one undo, keeps its hue and can be shown.
        const double hue = toLch(color()).hue;
        const int edits = document().history().index();
        auto* field = picker->findChild<ChromaField*>();
        drag(field, QPointF(40, 60), QPointF(60, 30));
        QCOMPARE(document().history().index(), edits + 1);
        QVERIFY(std::abs(toLch(color()).hue - hue) < 4);
        QVERIFY(toLch(color()).lightness > 0.7);
        // What the table shows is taken by a click on it.
        picker->findChild<QToolButton*>("dropper")->click();
        QVERIFY(document().colorAsked());
        const Color before = color();
        QTest::mouseClick(&window_->table(), Qt::LeftButton, {},
                          window_->table().rect().center() + QPoint(90, 60));
        QVERIFY(!document().colorAsked());
        QVERIFY(!(color() == before));
        QCOMPARE(document().chosen(), QStringList{"plate"}); // and chooses nothing
        picker->findChild<QToolButton*>("keepColor")->click();
        Color opaque = color();
        opaque.a = 1;
        QVERIFY(!keptColors().empty() && keptColors().front() == opaque);
        keepColors({});
        QTest::mouseClick(patch, Qt::LeftButton, {}, patch->rect().center());
        QTRY_VERIFY(!window_->findChild<ColorPicker*>("colorPicker"));
    }

    void ink_is_painted_with_a_tip_on_a_layer_that_multiplies() {
        begin();
        document().choose({"lettering"});
        const QImage bare = lit();
        auto& painter = window_->table().painter();
        painter.brush.work = BrushWork::ink;
        painter.brush.color = rgb(200, 30, 30);
        painter.brush.flow = 1;
        painter.brush.size = 200;
        QString why;
        QVERIFY(painter.begin({960, 700}, 1, false, why));
        painter.move({1200, 720}, 1);
        painter.end();
        QVERIFY(settled());
        const Element* layer = find_element(piece().elements, document().chosen().front().toStdString());
        QVERIFY(layer && layer->source.is("paint") && layer->mix.blend == BlendMode::multiply);
        const auto ink = layer->source.as<PaintSource>()->ink;
        QVERIFY(!ink.empty() && layer->source.as<PaintSource>()->file.empty());
        const QImage inked = lit();
        QVERIFY(inked != bare);
        // The same layer takes relief too, in a file of its own.
        painter.brush.work = BrushWork::raise;
        QVERIFY(painter.begin({960, 700}, 1, false, why));
        painter.end();
        QVERIFY(settled());
        layer = find_element(piece().elements, document().chosen().front().toStdString());
        QVERIFY(layer->source.as<PaintSource>()->file != ink && layer->source.as<PaintSource>()->ink == ink);
        document().history().undo();
        QVERIFY(settled());
        QVERIFY(lit() == inked);
        const QString path = dir_.filePath("ink.bathylux");
        QVERIFY(window_->saveTo(path));
        QVERIFY(window_->openPath(path) && settled());
        QVERIFY(alike(lit(), inked));
        // Lifted where there is none, it says so.
        painter.brush.work = BrushWork::lift;
        document().choose({"plate"});
        QVERIFY(!painter.begin({300, 300}, 1, false, why));
        QVERIFY(why.contains("ink"));
    }

    void tips_come_from_pictures_and_say_what_is_wrong() {
        begin();
        auto* row = window_->findChild<BrushRow*>("brushRow");
        QVERIFY(row);
        auto& brush = window_->table().painter().brush;
        const auto drawn = [&](const QString& folder, QColor ink) {
            QDir(dir_.path()).mkpath(folder);
            QImage dot(40, 40, QImage::Format_RGB32);
            dot.fill(Qt::white);
            for (int i = 10; i < 30; ++i)
                for (int j = 10; j < 30; ++j) dot.setPixelColor(i, j, ink);
            const QString path = dir_.filePath(folder + "/dot.png");
            dot.save(path);
            return path;
        };
        row->useTip(drawn("one", Qt::black));
        QVERIFY(QTest::qWaitFor([&] { return brush.tip != nullptr; }, 10000));
        QVERIFY(brush.tip->at(0, 0, 40) > 0.9f && brush.tip->at(0.9f, 0.9f, 40) < 0.1f);
        auto* list = row->findChild<QComboBox*>("brushTip");
        QCOMPARE(list->currentText(), QString("dot"));
        // Another picture of that name stands beside it, and neither is mistaken for the other.
        const auto first = brush.tip;
        row->useTip(drawn("two", QColor(128, 128, 128)));
        QVERIFY(QTest::qWaitFor([&] { return brush.tip != first; }, 10000));
        QVERIFY(std::abs(brush.tip->at(0, 0, 40) - 0.5f) < 0.05f);
        QCOMPARE(list->currentText(), QString("dot-2"));
        // What is no picture is told by its name, and the tip in the hand stays.
        QFile bad(dir_.filePath("torn.png"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write("no picture");
        bad.close();
        const auto second = brush.tip;
        row->useTip(bad.fileName());
        QVERIFY(QTest::qWaitFor([&] { return window_->notices().text().contains("torn.png"); }, 10000));
        QVERIFY(brush.tip == second);
        row->useTip({});
        QVERIFY(!brush.tip);
    }

    void a_material_is_taken_and_a_group_lit_by_itself() {
        begin();
        document().choose({"lettering"});
        const QImage gold = lit();
        window_->action("group")->trigger();
        QVERIFY(settled());
        auto* by_itself = control<Switch>("Lit by itself");
        QVERIFY(by_itself);
        QTest::mouseClick(by_itself, Qt::LeftButton, {}, by_itself->rect().center());
        QVERIFY(settled());
        const QString group = document().chosen().front();
        QVERIFY(head(group)->face().about.contains("lit by itself"));
        QVERIFY(!head(group)->face().height);
        document().history().undo();
        document().history().undo();
        QVERIFY(settled());
        QVERIFY(lit() == gold);

        document().choose({"lettering"});
        for (auto* row : window_->makings().findChildren<StepRow*>())
            if (row->accessibleName() == "Surface")
                QTest::mouseClick(row, Qt::LeftButton, {}, QPoint(20, 12));
        QVERIFY(settled());
        auto* starts = window_->makings().findChild<QToolButton*>("surfaceStarts");
        QVERIFY(starts);
        emit starts->menu()->aboutToShow();
        for (QAction* a : starts->menu()->actions())
            if (a->text() == "Clear glass") a->trigger();
        QVERIFY(settled());
        QVERIFY(find_element(piece().elements, "lettering")->surface->transmission > 0.9f);
        QVERIFY(head("lettering")->face().about.contains("seen through"));
        const QImage glass = lit();
        QVERIFY(glass != gold);
        const QString path = dir_.filePath("glass.bathylux");
        QVERIFY(window_->saveTo(path));
        QVERIFY(window_->openPath(path) && settled());
        QVERIFY(lit() == glass);
    }

    void the_shelf_shows_every_demo_piece() {
        begin({});
        QFile shelf(demoFolder() + "/shelf.json");
        QVERIFY(shelf.open(QIODevice::ReadOnly));
        for (const QJsonValue& entry : QJsonDocument::fromJson(shelf.readAll()).array()) {
            const QString name = "demo-" + entry["piece"].toString();
            auto* b = window_->findChild<QAbstractButton*>(name);
            QVERIFY2(b && b->isVisible(), qPrintable(name));
            QVERIFY2(window_->rect().contains(QRect(b->mapTo(window_.get(), QPoint()), b->size())),
                     qPrintable(name));
        }
    }

    void a_twin_is_added_follows_and_is_told() {
        begin();
        document().choose({"home"});
        window_->action("add-twin")->trigger();
        QVERIFY(settled());
        const Element* twin = document().openElement();
        QVERIFY(twin && twin->source.is("twin"));
        QCOMPARE(twin->source.as<TwinSource>()->of, std::string("home"));
        const QString id = QString::fromStdString(twin->id);
        QVERIFY(head(id)->face().about.contains("follows"));
        const QImage before = lit();
        document().edit("Recolour", [](Piece& p) {
            change(p, "home", [](Element& e) { add_step(e, Step{.what = Described(step_kind("invert"))}); });
        });
        QVERIFY(settled());
        QVERIFY(lit() != before);
        // What it follows cannot come to read it.
        QVERIFY(!may_read(piece(), "home", id.toStdString()));
        document().edit("Delete", [](Piece& p) { remove(p, {"home"}); });
        QVERIFY(settled());
        QVERIFY(head(id)->face().about.contains("nothing"));
    }
};
BATHYLUX_TEST(TestFinishWork)
#include "test_finish_work.moc"
