#include <QClipboard>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QTemporaryDir>
#include <QToolButton>
#include <QtTest>

#include "app/controls/controls.h"
#include "app/controls/notice_bar.h"
#include "app/controls/profile_editor.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/step_row.h"
#include "app/controls/sum.h"
#include "app/controls/theme.h"
#include "app/controls/tone_window.h"
#include "app/desk/light_desk.h"
#include "app/desk/light_row.h"
#include "app/desk/sky_chart.h"
#include "app/drawer/drawer.h"
#include "app/makings/element_head.h"
#include "app/makings/makings.h"
#include "app/windows/aside.h"
#include "app/windows/export_dialog.h"
#include "app/windows/first_page.h"
#include "app/windows/window.h"
#include "core/piece/codec.h"
#include "core/piece/edit.h"
#include "core/piece/kinds.h"
#include "core/relief/bevel.h"
#include "core/relief/tones.h"
#include "files/type.h"

#include "driven_window.h"
#include "run.h"

using namespace bathylux;

/// The real window, driven by mouse and keys.
class TestWindow : public QObject, DrivenWindow {
    Q_OBJECT
  private slots:
    /// What is dragged stays under the hand: a notice comes when it has let go.
    void a_notice_waits_for_the_hand() {
        begin();
        const auto shown = [&] {
            const auto bars = window_->findChildren<NoticeBar*>();
            return std::any_of(bars.begin(), bars.end(), [](NoticeBar* b) { return b->isVisible(); });
        };
        for (NoticeBar* b : window_->findChildren<NoticeBar*>()) b->clear();
        QTest::qWait(50);
        const QSize was = table().size();
        const QPoint at = table().mapTo(window_.get(), table().rect().center());
        QTest::mousePress(window_->windowHandle(), Qt::LeftButton, {}, at);
        window_->tell("The disk is full.");
        QTest::mouseMove(window_->windowHandle(), at + QPoint(30, 10));
        QTest::qWait(250);
        QCOMPARE(table().size(), was);
        QTest::mouseRelease(window_->windowHandle(), Qt::LeftButton, {}, at + QPoint(30, 10));
        QTRY_VERIFY(shown() && table().height() < was.height());
    }

    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void a_newcomer_has_lit_letters_and_then_a_file() {
        begin({});
        auto* words = window_->findChild<QAbstractButton*>("make-type");
        QVERIFY(words && words->isVisible());
        QTest::mouseClick(words, Qt::LeftButton);
        QVERIFY(settled());
        // Letters are there, raised and lit.
        QVERIFY(window_->desk().frame->range.second > 5);
        auto* text = window_->makings().findChild<QPlainTextEdit*>();
        QVERIFY(text);
        text->setFocus();
        text->selectAll();
        QTest::keyClicks(text, "QUAY");
        QCOMPARE(piece().elements[0]->source.as<TypeSource>()->text, "QUAY");
        // What was typed in one go is one undo, also while the words have the focus.
        QTest::keyClick(text, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(piece().elements[0]->source.as<TypeSource>()->text, "Words");
        document().history().redo();
        QCOMPARE(piece().elements[0]->source.as<TypeSource>()->text, "QUAY");
        QVERIFY(settled());
        const QString path = dir_.filePath("quay.bathylux");
        QVERIFY(window_->saveTo(path));
        QVERIFY(document().isClean());
        const std::string before = text_of(piece());
        window_->exportTo(dir_.filePath("quay.png"), {});
        QVERIFY(QTest::qWaitFor([&] { return !window_->exporting(); }, 20000));
        const QImage out(dir_.filePath("quay.png"));
        QCOMPARE(out.size(), QSize(1600, 1000));
        // Reopened, it is the same piece.
        QVERIFY(window_->openPath(path));
        QCOMPARE(text_of(piece()), before);
    }

    void a_scale_is_dragged_typed_and_undone() {
        begin();
        auto* width = control<RuledScale>("Width");
        QVERIFY(width);
        const float before = piece().elements.back()->steps[0]->what.as<Bevel>()->width;
        const int undos = document().history().count();
        drag(width, QPointF(60, 10), QPointF(110, 10));
        const float dragged = piece().elements.back()->steps[0]->what.as<Bevel>()->width;
        QVERIFY(dragged > before + 5);
        QCOMPARE(document().history().count(), undos + 1); // one drag, one undo
        QCOMPARE(document().history().undoText(), QString("Change width"));
        document().history().undo();
        QCOMPARE(piece().elements.back()->steps[0]->what.as<Bevel>()->width, before);
        // A small sum with a unit: 12 px per mm.
        width = control<RuledScale>("Width");
        width->setFocus();
        QTest::keyClick(width, Qt::Key_Return);
        auto* edit = width->findChild<QLineEdit*>();
        QVERIFY(edit);
        edit->clear();
        QTest::keyClicks(edit, "2 mm + 3");
        QTest::keyClick(edit, Qt::Key_Return);
        QCOMPARE(piece().elements.back()->steps[0]->what.as<Bevel>()->width, 27.0f);
        // Double click: the default. Arrow keys step.
        width = control<RuledScale>("Width");
        QTest::mouseDClick(width, Qt::LeftButton, {}, QPoint(80, 26));
        QCOMPARE(piece().elements.back()->steps[0]->what.as<Bevel>()->width, 24.0f);
        QTest::keyClick(control<RuledScale>("Width"), Qt::Key_Right);
        QCOMPARE(piece().elements.back()->steps[0]->what.as<Bevel>()->width, 25.0f);
    }

    void what_was_being_typed_comes_after_what_took_its_place() {
        begin();
        const std::string before = text_of(piece());
        const QString letters = QString::fromStdString(piece().elements.back()->id);
        const auto type = [&](const char* figure) {
            auto* width = control<RuledScale>("Width");
            width->setFocus();
            QTest::keyClick(width, Qt::Key_Return);
            auto* edit = width->findChild<QLineEdit*>();
            edit->clear();
            QTest::keyClicks(edit, figure);
        };
        const auto width = [&] { return document().element(letters)->steps[0]->what.as<Bevel>()->width; };
        // An edit that has the controls made anew, while a figure is open.
        document().choose({letters});
        const std::size_t elements = piece().elements.size();
        type("31");
        QVERIFY(tookIn({demoFolder() + "/drawings/sign-frame.svg"}));
        QCOMPARE(piece().elements.size(), elements + 1);
        QCOMPARE(width(), 31.0f);
        const std::string both = text_of(piece());
        while (document().history().canUndo()) document().history().undo();
        QCOMPARE(text_of(piece()), before);
        while (document().history().canRedo()) document().history().redo();
        QCOMPARE(text_of(piece()), both);
        // Undo itself does the same: what was typed stands upon what undo left.
        document().choose({letters});
        type("9");
        document().history().undo();
        while (document().history().canUndo()) document().history().undo();
        QCOMPARE(text_of(piece()), before);
    }

    void sums_are_read() {
        QCOMPARE(evaluateSum("24/2", 1), 12.0);
        QCOMPARE(evaluateSum("3 mm", 12), 36.0);
        QCOMPARE(evaluateSum("down 4 px", 1), -4.0);
        QCOMPARE(evaluateSum("(1+2)*3 - 0,5", 1), 8.5);
        QCOMPARE(evaluateSum("50%", 1), 0.5);
        QVERIFY(!evaluateSum("twelve", 1) && !evaluateSum("1/0", 1) && !evaluateSum("", 1) &&
                !evaluateSum("2 3 4 +", 1));
    }

    void elements_are_placed_by_hand() {
        begin();
        document().choose({"home"});
        QVERIFY(settled());
        const auto home = [&] { return find_element(piece().elements, "home")->placement; };
        const Placement start = home();
        // Moved: 40 px on screen, whichever they are on the canvas.
        const QPointF at = table().toScreen({start.x + 60, start.y});
        drag(&table(), at, at + QPointF(40, -25), Qt::ControlModifier);
        QVERIFY(std::abs(home().x - start.x - 40 / table().zoom()) < 2 &&
                std::abs(home().y - start.y + 25 / table().zoom()) < 2);
        QCOMPARE(document().history().undoText(), QString("Move"));
        document().history().undo();
        QCOMPARE(home().x, start.x);
        QVERIFY(settled());
        // Scaled by a corner: proportion kept, the opposite corner stays.
        const Scene scene{document().state().piece, window_->desk().frame->assets};
        const Placing p = placing_of(scene, {"home"});
        const Vec2 fixed = p.handle(0, 0);
        const QPointF corner = table().toScreen(p.handle(4, 0));
        drag(&table(), corner, corner + QPointF(30, 6));
        QVERIFY(home().scale_u > 1.05 && std::abs(home().scale_u - home().scale_v) < 1e-4);
        QVERIFY(settled());
        const Placing q = placing_of({document().state().piece, window_->desk().frame->assets}, {"home"});
        QVERIFY(length(q.handle(0, 0) - fixed) < 0.5);
        // With Shift the side alone grows.
        const QPointF side = table().toScreen(q.handle(3, 0));
        const float v = home().scale_v;
        drag(&table(), side, side + QPointF(25, 0), Qt::ShiftModifier);
        QCOMPARE(home().scale_v, v);
        QVERIFY(home().scale_u > home().scale_v + 0.02);
        // Turned about the middle by the round handle.
        const Placing r = placing_of({document().state().piece, window_->desk().frame->assets}, {"home"});
        const Vec2 centre = r.centre(), top = r.handle(8, 22 / table().zoom());
        const Vec2 turned = centre + Affine::turning(30).direction(top - centre);
        drag(&table(), table().toScreen(top), table().toScreen(turned), Qt::ShiftModifier);
        QCOMPARE(home().turn, 30.0f);
        QVERIFY(std::abs(home().x - r.parts[0].placement.x) < 0.6);
        // Aligned by the menu, nudged by keys.
        window_->action("align-centre")->trigger();
        QVERIFY(settled());
        QVERIFY(std::abs(placing_of({document().state().piece, window_->desk().frame->assets}, {"home"})
                             .bounds()
                             .centre()
                             .x -
                         960) < 0.6);
        const float x = home().x;
        table().setFocus();
        QTest::keyClick(&table(), Qt::Key_Right, Qt::ShiftModifier);
        QCOMPARE(home().x, x + 10);
    }

    void moving_snaps_to_the_middle() {
        begin();
        document().choose({"home"});
        document().edit("aside",
                        [](Piece& p) { change(p, "home", [](Element& e) { e.placement.x = 1010; }); });
        QVERIFY(settled());
        const QPointF at = table().toScreen({1130, piece().elements[2]->placement.y});
        drag(&table(), at, at + QPointF(-50 * table().zoom() + 3, 0));
        QCOMPARE(find_element(piece().elements, "home")->placement.x, 960.0f);
    }

    void a_lamp_is_walked_and_raised_on_the_canvas() {
        begin();
        table().setTool(Table::Tool::light);
        document().chooseLight("lantern");
        const auto lamp = [&] { return *piece().lights[2]->what.as<PointLight>(); };
        const PointLight start = lamp();
        const QPointF foot = table().toScreen({start.x, start.y});
        drag(&table(), foot, foot + QPointF(-60, -20));
        QVERIFY(std::abs(lamp().x - (start.x - 60 / table().zoom())) < 2);
        QVERIFY(std::abs(lamp().y - (start.y - 20 / table().zoom())) < 2);
        QCOMPARE(lamp().z, start.z);
        const double rise = start.z * table().zoom();
        const QPointF head = table().toScreen({lamp().x, lamp().y}) + QPointF(0.24 * rise, -0.72 * rise);
        drag(&table(), head, head + QPointF(0, -36));
        QVERIFY(std::abs(lamp().z - (start.z + 36 / 0.72 / table().zoom())) < 3);
        QVERIFY(document().history().undoText().startsWith("Raise"));
    }

    void a_far_light_is_dragged_over_the_sky() {
        begin();
        auto* sky = window_->findChild<SkyChart*>();
        QVERIFY(sky);
        const QPointF at = sky->placeOf(piece().lights[0]);
        const QPointF middle(sky->width() / 2.0, sky->height() / 2.0);
        const double radius = std::min(sky->width() - 24, sky->height() - 12) / 2.0;
        const int undos = document().history().count();
        drag(sky, at, middle + QPointF(0, -radius / 2)); // half way to the horizon, from the top
        const auto* d = piece().lights[0]->what.as<DirectionalLight>();
        QVERIFY(std::abs(d->angle - 90) < 1 && std::abs(d->elevation - 45) < 1);
        QCOMPARE(document().history().count(), undos + 1);
        QVERIFY(settled());
    }

    void lights_are_added_arranged_switched_and_deleted() {
        begin();
        const std::size_t before = piece().lights.size();
        window_->action("add-light-point")->trigger();
        QCOMPARE(piece().lights.size(), before + 1);
        QCOMPARE(document().chosenLight().toStdString(), piece().lights.back()->id);
        auto* reach = control<RuledScale>("Reach");
        QVERIFY(reach);
        reach->setFocus();
        QTest::keyClick(reach, Qt::Key_3); // typing opens the figure
        auto* figure = reach->findChild<QLineEdit*>();
        QVERIFY(figure);
        QTest::keyClicks(figure, "21");
        QTest::keyClick(figure, Qt::Key_Return);
        QCOMPARE(piece().lights.back()->what.as<PointLight>()->distance, 321.0f);
        QVERIFY(!reach->findChild<QLineEdit*>() ||
                !reach->findChild<QLineEdit*>()->isVisible()); // closed, and stays so
        // Its row: the dot switches it, the scale is its intensity.
        const auto row = [&] {
            for (LightRow* r : window_->lights().findChildren<LightRow*>())
                if (r->id() == piece().lights.back()->id && r->isVisible()) return r;
            return static_cast<LightRow*>(nullptr);
        };
        QTest::mouseClick(row(), Qt::LeftButton, {}, QPoint(14, 17));
        QVERIFY(!piece().lights.back()->on);
        QTest::mouseClick(row(), Qt::LeftButton, {}, QPoint(14, 17));
        const double was = std::get<double>(piece().lights.back()->what.get("intensity"));
        drag(row(), QPointF(row()->width() - 75, 17), QPointF(row()->width() - 60, 17));
        QVERIFY(std::get<double>(piece().lights.back()->what.get("intensity")) > was + 0.3);
        // Delete on the row takes the light, not the chosen element.
        const std::size_t elements = piece().elements.size();
        row()->setFocus();
        QTest::keyClick(row(), Qt::Key_Delete);
        QCOMPARE(piece().lights.size(), before);
        QCOMPARE(piece().elements.size(), elements);
        window_->action("add-light-directional")->trigger();
        window_->action("delete-lights")->trigger();
        QCOMPARE(piece().lights.size(), before);
        window_->lights().arrange("window");
        QCOMPARE(piece().lights.size(), std::size_t{2});
        QVERIFY(settled());
        document().history().undo();
        QCOMPARE(piece().lights.size(), before);
        // Exposure at the foot, by key.
        auto* exposure = control<RuledScale>("Exposure");
        QVERIFY(exposure);
        const float stops = piece().exposure;
        QTest::keyClick(exposure, Qt::Key_Right);
        QVERIFY(piece().exposure > stops);
    }

    void an_export_says_what_it_will_be_and_is_it() {
        begin("line-tile");
        window_->action("export-normals")->trigger();
        auto* dialog = window_->findChild<ExportDialog*>();
        QVERIFY(dialog && dialog->isVisible());
        QVERIFY(dialog->findChild<QCheckBox*>("map-normals")->isChecked());
        auto* folder = dialog->findChild<QLineEdit*>("folder");
        folder->selectAll();
        QTest::keyClicks(folder, dir_.path());
        auto* scheme = dialog->findChild<QLineEdit*>("scheme");
        scheme->selectAll();
        QTest::keyClicks(scheme, "tile-n");
        auto* bits = dialog->findChild<QComboBox*>("map-normals-bits");
        bits->setCurrentIndex(bits->findData(16));
        QVERIFY(dialog->findChild<QLabel*>("names")->text().contains("tile-n.png"));
        QTest::mouseClick(dialog->findChild<QPushButton*>("exportNow"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor(
            [&] { return !window_->exporting() && QFile::exists(dir_.filePath("tile-n.png")); }, 30000));
        const QImage n(dir_.filePath("tile-n.png"));
        QCOMPARE(n.size(), QSize(1300, 1300));
        QVERIFY(n.depth() > 32);                      // 16 bits a channel
        QCOMPARE(n.pixelColor(650, 700).blue(), 255); // level ground faces the viewer
        QVERIFY(window_->notices().text().contains("tile-n.png"));
    }

    void many_maps_go_out_at_once() {
        begin("line-tile");
        window_->action("export-maps")->trigger();
        auto* dialog = window_->findChild<ExportDialog*>();
        QVERIFY(dialog && dialog->isVisible());
        auto* folder = dialog->findChild<QLineEdit*>("folder");
        folder->setText(dir_.path());
        auto* scheme = dialog->findChild<QLineEdit*>("scheme");
        scheme->setText("all");
        for (const char* map : {"map-normals", "map-occlusion", "map-roughness"})
            QTest::mouseClick(dialog->findChild<QCheckBox*>(map), Qt::LeftButton, {}, {8, 12});
        // Four maps of one name: it says so, and does nothing until the names differ.
        auto* now = dialog->findChild<QPushButton*>("exportNow");
        QVERIFY(!now->isEnabled() && dialog->findChild<QLabel*>("names")->text().contains("{map}"));
        scheme->setText("all-{map}-{scale}");
        QVERIFY(now->isEnabled());
        static_cast<QDoubleSpinBox*>(dialog->findChild<QDoubleSpinBox*>())->setValue(25);
        QTest::mouseClick(now, Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return !window_->exporting(); }, 60000));
        for (const char* file :
             {"all-height-25.png", "all-normals-25.png", "all-occlusion-25.png", "all-roughness-25.png"})
            QCOMPARE(QImage(dir_.filePath(file)).size(), QSize(325, 325));
        // As the layers of one file.
        window_->action("export-maps")->trigger();
        dialog = window_->findChildren<ExportDialog*>().back();
        dialog->findChild<QLineEdit*>("folder")->setText(dir_.path());
        dialog->findChild<QLineEdit*>("scheme")->setText("one-{map}");
        dialog->findChild<QCheckBox*>("map-lit")->setChecked(true);
        dialog->findChild<QCheckBox*>("asLayers")->setChecked(true);
        static_cast<QDoubleSpinBox*>(dialog->findChild<QDoubleSpinBox*>())->setValue(25);
        QTest::mouseClick(dialog->findChild<QPushButton*>("exportNow"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor(
            [&] { return !window_->exporting() && QFile::exists(dir_.filePath("one-layers.exr")); }, 60000));
    }

    void moving_a_light_leaves_the_relief_as_it_is() {
        begin();
        const auto relief = window_->desk().frame->relief;
        const QImage lit = window_->desk().frame->right;
        document().edit("light", [](Piece& p) {
            change_light(p, p.lights[0]->id, [](Light& l) { l.what = l.what.with("angle", 20.0); });
        });
        QVERIFY(settled());
        QCOMPARE(&window_->desk().frame->relief->height.plane(),
                 &relief->height.plane()); // the same, not equal ones
        QVERIFY(window_->desk().frame->right != lit);
    }

    void the_seam_is_dragged_and_thrown() {
        begin();
        document().choose({});
        const QPointF grip(table().width() / 2.0, table().height() - 12);
        const int undos = document().history().count();
        drag(&table(), grip, grip + QPointF(-120, 0));
        QCOMPARE(document().history().count(), undos); // looking is not editing
        auto* name = window_->findChild<QToolButton*>("rightView");
        QVERIFY(std::abs(name->x() - (grip.x() - 110)) < 4);
        QTest::keyClick(&table(), Qt::Key_1);
        QCOMPARE(table().layout(), Table::Layout::left);
        QTest::keyClick(&table(), Qt::Key_4);
        QCOMPARE(table().layout(), Table::Layout::beside);
        QTest::keyClick(&table(), Qt::Key_2);
        QTest::keyClick(&table(), Qt::Key_G);
        QVERIFY(table().grey());
        QVERIFY(settled());
    }

    void the_section_line_is_drawn_and_the_sounding_tells() {
        begin();
        QTest::keyClick(&table(), Qt::Key_S);
        QCOMPARE(table().tool(), Table::Tool::section);
        document().edit("clear", [](Piece& p) { p.section.reset(); });
        drag(&table(), table().toScreen({300, 300}), table().toScreen({1500, 900}));
        QVERIFY(piece().section);
        QVERIFY(length(piece().section->a - Vec2{300, 300}) < 6 &&
                length(piece().section->b - Vec2{1500, 900}) < 6);
        QVERIFY(settled());
        // Pointed at the plate: its height is told.
        QTest::mouseMove(&table(), table().toScreen({960, 900}).toPoint());
        QMouseEvent move(QEvent::MouseMove, table().toScreen({200, 700}), QPointF(), Qt::NoButton,
                         Qt::NoButton, {});
        QApplication::sendEvent(&table(), &move);
        bool told = false;
        for (const QLabel* l : window_->drawer().findChildren<QLabel*>())
            told = told ||
                   (l->text().contains("px") && l->text().contains("mm") && !l->text().startsWith("0.0"));
        QVERIFY(told);
    }

    void steps_are_added_switched_reordered_and_deleted() {
        begin();
        const auto& steps = [&]() -> const Steps& {
            return find_element(piece().elements, "lettering")->steps;
        };
        document().choose({"lettering"});
        QTest::mouseClick(window_->makings().findChild<QToolButton*>("addStep"), Qt::LeftButton);
        auto* edit = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        QWidget* popup = QApplication::activePopupWidget();
        QVERIFY(popup);
        edit = popup->findChild<QLineEdit*>();
        QTest::keyClicks(edit, "smooth");
        QTest::keyClick(edit, Qt::Key_Return);
        QTRY_COMPARE(steps().size(), std::size_t{2});
        QCOMPARE(steps()[1]->kind().id, "soften");
        QVERIFY(settled());
        const auto rows = [&] {
            QList<StepRow*> out;
            for (StepRow* r : window_->makings().findChildren<StepRow*>())
                if (r->onSwitch() && r->isVisible()) out << r;
            std::sort(out.begin(), out.end(), [](StepRow* a, StepRow* b) {
                return a->mapToGlobal(QPoint()).y() < b->mapToGlobal(QPoint()).y();
            });
            return out;
        };
        QCOMPARE(rows().size(), 2);
        QTest::mouseClick(rows()[1]->onSwitch(), Qt::LeftButton);
        QVERIFY(!steps()[1]->on);
        // The second dragged above the first.
        QTest::qWait(30);
        StepRow *first = rows()[0], *second = rows()[1];
        drag(second, QPointF(40, 14), second->mapFromGlobal(first->mapToGlobal(QPointF(40, 2))));
        QCOMPARE(steps()[0]->kind().id, "soften");
        document().history().undo();
        QCOMPARE(steps()[0]->kind().id, "bevel");
        rows()[1]->setFocus();
        QTest::keyClick(rows()[1], Qt::Key_Delete);
        QCOMPARE(steps().size(), std::size_t{1});
    }

    void no_step_stays_open_that_is_gone() {
        begin();
        document().choose({"lettering"});
        document().edit("Add soften", [](Piece& p) {
            change(p, "lettering", [](Element& e) {
                add_step(e, Step{.id = "soft", .what = Described(step_kind("soften"))});
            });
        });
        const auto open_and_there = [&] {
            const QString id = document().openStepId();
            return id.isEmpty() || (document().openStep() && document().openStep()->id == id.toStdString());
        };
        document().setOpenStep("soft");
        QCOMPARE(document().openStepId(), QString("soft"));
        document().history().undo();
        QVERIFY(document().openStepId() != "soft" && open_and_there());
        document().setOpenStep("soft"); // told of too late
        QVERIFY(document().openStepId() != "soft");
        document().history().redo();
        document().setOpenStep("soft");
        document().choose({"plate"});
        QVERIFY(document().openStepId() != "soft" && open_and_there());
        document().choose({"lettering"});
        document().setOpenStep("soft");
        document().edit("Delete", [](Piece& p) { remove(p, {"lettering"}); });
        QVERIFY(document().openStepId().isEmpty());
    }

    void elements_are_reordered_renamed_hidden_copied_and_undone() {
        begin();
        const std::string before = text_of(piece());
        const auto order = [&] {
            QStringList s;
            for (const Element& e : piece().elements) s << QString::fromStdString(e.id);
            return s.join(' ');
        };
        document().choose({});
        QTest::qWait(30);
        const auto head = [&](const QString& id) {
            for (ElementHead* h : window_->makings().findChildren<ElementHead*>())
                if (h->face().id == id && h->isVisible()) return h;
            return static_cast<ElementHead*>(nullptr);
        };
        QCOMPARE(order(), QString("plate frame home lettering"));
        drag(head("plate"), QPointF(60, 20),
             head("plate")->mapFromGlobal(head("home")->mapToGlobal(QPointF(60, 4))));
        QCOMPARE(order(), QString("frame home plate lettering"));
        QTest::qWait(30);
        QTest::mouseClick(head("frame"), Qt::LeftButton, {}, QPoint(head("frame")->width() - 14, 20));
        QVERIFY(!find_element(piece().elements, "frame")->mix.visible);
        QTest::mouseClick(head("home"), Qt::LeftButton, {}, QPoint(100, 20));
        QCOMPARE(document().chosen(), QStringList{"home"});
        QTest::qWait(30);
        window_->action("rename")->trigger();
        auto* edit = window_->makings().findChild<QLineEdit*>("renameEdit");
        QVERIFY(edit);
        edit->selectAll();
        QTest::keyClicks(edit, "Homewards");
        QTest::keyClick(edit, Qt::Key_Return);
        QCOMPARE(find_element(piece().elements, "home")->name, "Homewards");
        QVERIFY(window_->action("copy")->isEnabled());
        window_->action("copy")->trigger();
        window_->action("paste")->trigger();
        QCOMPARE(piece().elements.size(), std::size_t{5});
        window_->action("group")->trigger();
        QVERIFY(document().openElement()->is_group());
        window_->action("delete")->trigger();
        QCOMPARE(piece().elements.size(), std::size_t{4});
        while (document().history().canUndo()) document().history().undo();
        QCOMPARE(text_of(piece()), before);
        while (document().history().canRedo()) document().history().redo();
        QCOMPARE(order(), QString("frame home plate lettering"));
    }

    void several_chosen_are_changed_together() {
        begin();
        document().choose({"home", "lettering"});
        auto* width = control<RuledScale>("Width");
        QVERIFY(width);
        QVERIFY(!width->value()); // they differ
        QCOMPARE(width->figure(), QString("—"));
        width->setFocus();
        QTest::keyClicks(width, "9");
        auto* edit = width->findChild<QLineEdit*>();
        QVERIFY(edit);
        QTest::keyClick(edit, Qt::Key_Return);
        for (const char* id : {"home", "lettering"})
            QCOMPARE(find_element(piece().elements, id)->steps[0]->what.as<Bevel>()->width, 9.0f);
        QCOMPARE(find_element(piece().elements, "frame")->steps[0]->what.as<Bevel>()->width, 13.0f);
    }

    void an_own_profile_is_drawn() {
        begin();
        auto* strip = window_->makings().findChild<ProfileStrip*>();
        QVERIFY(strip);
        QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(strip->width() - 15, 15));
        const auto profile = [&] {
            return find_element(piece().elements, "lettering")->steps[0]->what.as<Bevel>()->profile;
        };
        QCOMPARE(profile().shape, Profile::Shape::own);
        QTest::qWait(30);
        auto* curve = window_->makings().findChild<CurveEditor*>();
        QVERIFY(curve && curve->isVisible());
        const std::size_t points = profile().points.size();
        const QRectF f = QRectF(curve->rect()).adjusted(8, 14, -8, -14);
        drag(curve, QPointF(f.left() + 0.7 * f.width(), f.top() + 0.5 * f.height()),
             QPointF(f.left() + 0.7 * f.width(), f.top() + 0.9 * f.height()));
        QCOMPARE(profile().points.size(), points + 1);
        QVERIFY(std::abs(profile().points[2].second - 0.1) < 0.03);
        QVERIFY(settled());
    }

    void dropped_pictures_arrive_with_a_stretched_tone_window() {
        begin({});
        QImage grey(300, 200, QImage::Format_Grayscale8);
        for (int y = 0; y < 200; ++y)
            for (int x = 0; x < 300; ++x) grey.scanLine(y)[x] = static_cast<uchar>(80 + 60 * x / 300);
        const QString path = dir_.filePath("scan.png");
        QVERIFY(grey.save(path));
        QVERIFY(tookIn({path}));
        const auto tones = [&] { return *piece().elements[0]->steps[0]->what.as<Tones>(); };
        QVERIFY(std::abs(tones().low - 80 / 256.0) < 0.02 && std::abs(tones().high - 140 / 256.0) < 0.02);
        QCOMPARE(piece().canvas.columns(), 300);
        auto* histogram = window_->makings().findChild<ToneWindow*>();
        QVERIFY(histogram);
        const double per = histogram->width() - 12.0, from = 6 + tones().high * per;
        drag(histogram, QPointF(from, 30), QPointF(from + 0.2 * per, 30));
        QVERIFY(std::abs(tones().high - (140 / 256.0 + 0.2)) < 0.03);
        // Changed on disk: read again, and said so.
        grey.fill(200);
        QTest::qWait(1100);
        QVERIFY(grey.save(path));
        QVERIFY(QTest::qWaitFor([&] { return window_->notices().text().contains("changed on disk"); }, 5000));
        QVERIFY(QTest::qWaitFor(
            [&] {
                return window_->desk().asset(piece().elements[0]->id) &&
                       window_->desk().asset(piece().elements[0]->id)->picture->stored(5, 5, 0) > 0.7f;
            },
            5000));
        // Kept inside, it no longer needs the file.
        auto* embed = window_->notices().findChild<QToolButton*>("offer");
        QVERIFY(embed);
        QTest::mouseClick(embed, Qt::LeftButton);
        QVERIFY(document().state().store.embedded.size() == 1);
        QFile::remove(path);
        QVERIFY(window_->saveTo(dir_.filePath("inside.bathylux")));
        QVERIFY(window_->openPath(dir_.filePath("inside.bathylux")));
        QVERIFY(settled());
        QVERIFY(window_->desk().asset(piece().elements[0]->id)->trouble.empty());
    }

    void linked_files_are_kept_inside_in_one_go() {
        begin({});
        QImage image(24, 24, QImage::Format_RGB32);
        for (const char* name : {"one.png", "two.png", "three.png"}) {
            image.fill(QColor(static_cast<int>(QString(name).size()) * 20, 90, 120));
            QVERIFY(image.save(dir_.filePath(name)));
            QVERIFY(tookIn({dir_.filePath(name)}));
        }
        QCOMPARE(piece().elements.size(), std::size_t{3});
        const int undos = document().history().count();
        window_->action("keep-inside")->trigger();
        QCOMPARE(document().state().store.embedded.size(), std::size_t{3});
        QCOMPARE(document().history().count(), undos + 1);
        document().history().undo();
        QCOMPARE(document().state().store.embedded.size(), std::size_t{0});
        // A drawing that cannot be read is refused, and nothing is added.
        QFile bad(dir_.filePath("bad.svg"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write("<svg");
        bad.close();
        QVERIFY(tookIn({bad.fileName()}));
        QVERIFY(window_->notices().text().contains("bad.svg"));
        QCOMPARE(piece().elements.size(), std::size_t{3});
    }

    void a_missing_file_keeps_its_place() {
        begin({});
        QFile f(dir_.filePath("lost.json"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(
            R"({"bathylux": 1, "canvas": {"width": 200, "height": 100}, "elements": [{"id": "r", "source": {"kind": "ellipse"}}, {"id": "p", "name": "Scan", "source": {"kind": "picture", "file": "gone.png"}}]})");
        f.close();
        QVERIFY(window_->openPath(f.fileName()));
        QVERIFY(settled());
        bool told = false;
        for (const ElementHead* h : window_->makings().findChildren<ElementHead*>())
            told = told || (h->face().trouble && h->face().about.contains("gone.png"));
        QVERIFY(told);
        QVERIFY(window_->saveTo(dir_.filePath("lost2.json")));
        QVERIFY(window_->openPath(dir_.filePath("lost2.json")));
        // In memory it is named in full, so that it does not matter where the piece is saved.
        QCOMPARE(std::get<std::string>(piece().elements[1]->source.get("file")),
                 dir_.filePath("gone.png").toStdString());
        QFile written(dir_.filePath("lost2.json"));
        QVERIFY(written.open(QIODevice::ReadOnly) && written.readAll().contains("\"gone.png\""));
    }

    void bad_files_leave_the_open_piece_alone() {
        begin();
        const std::string before = text_of(piece());
        QFile bad(dir_.filePath("bad.bathylux"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write("PK\x03\x04 nothing");
        bad.close();
        QVERIFY(!window_->openPath(bad.fileName()));
        QVERIFY(window_->notices().text().contains("bad.bathylux"));
        QVERIFY(tookIn({dir_.filePath("nowhere.png")}));
        QVERIFY(window_->notices().text().contains("nowhere.png"));
        QCOMPARE(text_of(piece()), before);
    }

    void newer_pieces_are_looked_at_only() {
        begin({});
        QFile f(dir_.filePath("newer.json"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(
            R"({"bathylux": 7, "canvas": {"width": 60, "height": 60}, "elements": [{"id": "r", "source": {"kind": "ellipse"}}]})");
        f.close();
        QVERIFY(window_->openPath(f.fileName()));
        document().choose({"r"});
        window_->action("delete")->trigger();
        QCOMPARE(piece().elements.size(), std::size_t{1});
        QVERIFY(window_->notices().text().contains("newer version"));
    }

    /// It stays on the screen: what a piece brings along is scrolled or folded.
    void no_piece_makes_the_window_larger_data() {
        QTest::addColumn<QString>("path");
        for (const QString& f : QDir(demoFolder()).entryList({"*.json"}))
            if (f != "shelf.json") QTest::addRow("%s", qPrintable(f)) << demoFolder() + "/" + f;
    }
    void no_piece_makes_the_window_larger() {
        QFETCH(QString, path);
        window_ = std::make_unique<Window>(nullptr, QPixmap());
        window_->resize(1280, 800);
        window_->show();
        QTimer::singleShot(0, window_.get(), [&] { window_->openDemo(path); });
        QVERIFY(settled());
        QCOMPARE(window_->size(), QSize(1280, 800));
    }

    void unsaved_work_is_offered_after_a_crash() {
        begin();
        document().edit("work", [](Piece& p) { p.exposure = 1.25f; });
        window_->keepAside();
        const QDir aside(qEnvironmentVariable("XDG_STATE_HOME") + "/bathylux/aside");
        QStringList kept;
        QVERIFY(QTest::qWaitFor([&] { return !(kept = aside.entryList({"*.bathylux"})).isEmpty(); }, 10000));
        QTest::qWait(50);
        // While its window lives nobody is offered it; a copy that nobody holds was left behind, whatever its
        // name.
        QVERIFY(Aside::lost().isEmpty());
        const QString left = aside.filePath("left.bathylux");
        QVERIFY(QFile::rename(aside.filePath(kept.front()), left));
        document().history().setClean();
        window_ = std::make_unique<Window>();
        window_->show();
        window_->offerRecovered();
        QVERIFY(window_->recovery().text().contains("kept aside"));
        // Other notices leave the offer alone.
        window_->tell("something else");
        QVERIFY(window_->recovery().isVisible());
        QTest::mouseClick(window_->recovery().findChild<QToolButton*>("offer"), Qt::LeftButton);
        QCOMPARE(piece().exposure, 1.25f);
        QVERIFY(!document().isClean());
        QVERIFY(!QFile::exists(left) && !window_->recovery().isVisible());
        QVERIFY(window_->saveTo(dir_.filePath("recovered.bathylux")));
        QVERIFY(aside.entryList({"*.bathylux"}).isEmpty());
    }

    void the_finder_runs_an_action_by_name() {
        begin();
        QTest::keyClick(window_.get(), Qt::Key_K, Qt::ControlModifier);
        QWidget* popup = QApplication::activePopupWidget();
        QVERIFY(popup);
        auto* edit = popup->findChild<QLineEdit*>();
        QTest::keyClicks(edit, "right alone");
        QTest::keyClick(edit, Qt::Key_Return);
        QTRY_COMPARE(table().layout(), Table::Layout::right);
    }

    void checks_point_at_their_place_and_are_mended() {
        begin();
        document().edit("cliff", [](Piece& p) {
            change_step(p, "lettering", p.elements.back()->steps[0]->id,
                        [](Step& s) { s.what = s.what.with("width", 0.0); });
        });
        QVERIFY(QTest::qWaitFor(
            [&] {
                return std::any_of(window_->drawer().findings().begin(), window_->drawer().findings().end(),
                                   [](const Finding& f) { return f.check == "cliff"; });
            },
            20000));
        QTest::qWait(30);
        const auto visible = [&](const char* name) {
            for (auto* b : window_->drawer().findChildren<QAbstractButton*>(name))
                if (b->isVisible()) return b;
            return static_cast<QAbstractButton*>(nullptr);
        };
        auto* mend = visible("mend");
        QVERIFY(mend);
        QTest::mouseClick(visible("finding"), Qt::LeftButton);
        const std::size_t steps = find_element(piece().elements, "lettering")->steps.size();
        QTest::mouseClick(mend, Qt::LeftButton);
        QCOMPARE(find_element(piece().elements, "lettering")->steps.size(), steps + 1);
        QVERIFY(QTest::qWaitFor(
            [&] {
                return std::none_of(window_->drawer().findings().begin(), window_->drawer().findings().end(),
                                    [](const Finding& f) { return f.check == "cliff"; });
            },
            20000));
    }

    void the_canvas_is_cropped() {
        begin();
        const float x = find_element(piece().elements, "home")->placement.x;
        QTest::keyClick(&table(), Qt::Key_C);
        window_->action("crop")->trigger();
        QCOMPARE(table().tool(), Table::Tool::crop);
        drag(&table(), table().toScreen({0, 0}), table().toScreen({100, 60}));
        QTest::keyClick(&table(), Qt::Key_Return);
        QVERIFY(std::abs(piece().canvas.width - 1820) < 6 && std::abs(piece().canvas.height - 1350) < 6);
        QVERIFY(std::abs(find_element(piece().elements, "home")->placement.x - (x - 100)) < 6);
        document().history().undo();
        QCOMPARE(piece().canvas.width, 1920.0f);
    }

    void every_control_can_be_reached_and_has_a_name() {
        begin();
        QTest::qWait(50);
        int reached = 0;
        QSet<QWidget*> seen;
        table().setFocus();
        QWidget* w = &table();
        for (int i = 0; i < 300; ++i) {
            QTest::keyClick(w, Qt::Key_Tab);
            w = QApplication::focusWidget();
            if (!w || seen.contains(w)) break;
            seen << w;
            const bool named =
                !w->accessibleName().isEmpty() ||
                (qobject_cast<QAbstractButton*>(w) && !static_cast<QAbstractButton*>(w)->text().isEmpty());
            QVERIFY2(named, w->metaObject()->className());
            ++reached;
        }
        QVERIFY2(reached > 30, qPrintable(QString::number(reached)));
    }
};
BATHYLUX_TEST(TestWindow)
#include "test_window.moc"
