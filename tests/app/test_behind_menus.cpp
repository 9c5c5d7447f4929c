// What stands behind menus, keys and small dialogs, done by hand in the real window.
#include "app/controls/ruled_scale.h"
#include "app/controls/step_row.h"
#include "app/desk/light_row.h"
#include "app/document/kept.h"
#include "app/document/placing.h"
#include "app/solid/solid_pane.h"
#include "core/light/lights.h"
#include "core/piece/pose.h"
#include "driven_window.h"
#include "run.h"

using namespace bathylux;

class TestBehindMenus : public QObject, DrivenWindow {
    Q_OBJECT

    QStringList order() const {
        QStringList out;
        for (const Element& e : piece().elements) out << QString::fromStdString(e.id);
        return out;
    }
    QStringList stepsOf(const std::string& id) const {
        QStringList out;
        for (const Step& s : find_element(piece().elements, id)->steps)
            out << QString::fromStdString(std::string(s.kind().id));
        return out;
    }
    void act(const char* id) const { window_->action(id)->trigger(); }
    /// Answers the next dialog that waits for an answer.
    void answering(const std::function<void(QWidget*)>& work) {
        auto* timer = new QTimer(window_.get());
        connect(timer, &QTimer::timeout, timer, [timer, work] {
            if (QWidget* dialog = QApplication::activeModalWidget())
                timer->deleteLater(), timer->stop(), work(dialog);
        });
        timer->start(10);
    }
    /// Types into it and says yes.
    void answeringWith(const QString& text) {
        answering([text](QWidget* dialog) {
            auto* field = dialog->findChild<QLineEdit*>();
            field->selectAll();
            QTest::keyClicks(field, text);
            QTest::keyClick(field, Qt::Key_Return);
        });
    }
    QMenu* menuOf(const char* button) const {
        for (auto* b : window_->findChildren<QToolButton*>(button))
            if (b->isVisible() && b->menu()) return b->menu();
        return nullptr;
    }
    void pick(QMenu* menu, const QString& name) const {
        QVERIFY(menu);
        emit menu->aboutToShow();
        for (QAction* a : menu->actions())
            if (a->text() == name) return a->trigger();
        QFAIL(qPrintable("no " + name));
    }
    /// Right of a widget's middle, the way a hand asks for its menu; the menu goes when something is picked.
    void pickFrom(QWidget* w, const QString& name) const {
        QContextMenuEvent ask(QContextMenuEvent::Mouse, w->rect().center(),
                              w->mapToGlobal(w->rect().center()));
        QApplication::sendEvent(w, &ask);
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        QVERIFY(menu);
        for (QAction* a : menu->actions())
            if (a->text() == name) a->trigger();
        menu->close();
    }
    /// Undo leads back to the piece as it was, bit for bit.
    void undoneTo(std::uint64_t hash, int undos = 1) const {
        for (int i = 0; i < undos; ++i) document().history().undo();
        QCOMPARE(content_hash(piece()), hash);
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void elements_go_over_and_under_one_another() {
        begin();
        QCOMPARE(order(), (QStringList{"plate", "frame", "home", "lettering"}));
        const std::uint64_t before = content_hash(piece());
        document().choose({"frame"});
        act("forward");
        QCOMPARE(order(), (QStringList{"plate", "home", "frame", "lettering"}));
        act("backward");
        QCOMPARE(content_hash(piece()), before);
        // Several keep their order among themselves, whichever was chosen first, and stop at the end.
        document().choose({"home", "plate"});
        act("forward");
        QCOMPARE(order(), (QStringList{"frame", "plate", "lettering", "home"}));
        act("forward");
        QCOMPARE(order(), (QStringList{"frame", "lettering", "plate", "home"}));
        act("forward");
        QCOMPARE(order(), (QStringList{"frame", "lettering", "plate", "home"}));
        for (int i = 0; i < 3; ++i) act("backward");
        QCOMPARE(order(), (QStringList{"plate", "home", "frame", "lettering"}));
        while (document().history().canUndo()) document().history().undo();
        QCOMPARE(content_hash(piece()), before);
    }

    void what_is_locked_stays_where_it_is() {
        begin();
        const std::uint64_t before = content_hash(piece());
        document().choose({"home", "lettering"});
        act("lock");
        for (const char* id : {"home", "lettering"}) QVERIFY(find_element(piece().elements, id)->locked);
        // A drag over the words takes hold of nothing that is locked.
        const Placement was = find_element(piece().elements, "lettering")->placement;
        document().choose({});
        table().setTool(Table::Tool::place);
        drag(&table(), table().toScreen({960, 590}), table().toScreen({900, 500}));
        QVERIFY(find_element(piece().elements, "lettering")->placement.x == was.x &&
                !document().chosen().contains("lettering"));
        while (content_hash(piece()) != before && document().history().canUndo()) document().history().undo();
        QCOMPARE(content_hash(piece()), before);
    }

    void all_sorts_fit_the_canvas() {
        begin();
        document().choose({"frame", "home"});
        act("group");
        const std::string group = document().chosen().front().toStdString();
        document().edit("Turn", [&](Piece& p) {
            change(p, "plate", [](Element& e) { e.placement.turn = 20; });
            change(p, group, [](Element& e) { e.placement.x += 130, e.placement.turn = -15; });
        });
        act("add-rectangle");
        const std::string plain = document().chosen().front().toStdString();
        const double margin = 40, w = piece().canvas.width, h = piece().canvas.height;
        for (const std::string& id :
             {std::string("plate"), std::string("lettering"), group, plain, std::string("home")}) {
            QVERIFY(settled());
            const std::uint64_t before = content_hash(piece());
            document().choose({QString::fromStdString(id)});
            answeringWith("40");
            act("fit-to-canvas");
            const Box box = placing_of(window_->desk().scene(), {id}).bounds();
            const QByteArray says = QString("%1: %2…%3, %4…%5")
                                        .arg(QString::fromStdString(id))
                                        .arg(box.x0)
                                        .arg(box.x1)
                                        .arg(box.y0)
                                        .arg(box.y1)
                                        .toUtf8();
            QVERIFY2(std::abs(box.x0 + box.x1 - w) < 0.5 && std::abs(box.y0 + box.y1 - h) < 0.5, says);
            const double across = w - 2 * margin - box.width(), down = h - 2 * margin - box.height();
            QVERIFY2(across > -0.5 && down > -0.5 && std::min(across, down) < 0.5, says);
            if (id == plain) QVERIFY2(std::max(across, down) < 0.5, says); // its sides are its own
            undoneTo(before);
        }
        // Not answered, nothing is done.
        const std::uint64_t before = content_hash(piece());
        answering([](QWidget* dialog) { QTest::keyClick(dialog, Qt::Key_Escape); });
        act("fit-to-canvas");
        QCOMPARE(content_hash(piece()), before);
    }

    void steps_are_doubled_moved_and_taken_out() {
        begin();
        document().choose({"plate"});
        QVERIFY(settled());
        const QStringList steps = stepsOf("plate");
        QCOMPARE(steps, (QStringList{"tones", "soften", "bevel"}));
        const std::uint64_t before = content_hash(piece());
        const auto row = [&](int i) -> QWidget* {
            QList<StepRow*> rows;
            for (StepRow* r : window_->findChildren<StepRow*>())
                if (r->isVisible() && r->onSwitch() && r->parentWidget()->objectName() == "stepHolder")
                    rows << r;
            return i < rows.size() ? rows[i] : nullptr;
        };
        QVERIFY(row(2));
        pickFrom(row(1), "Move up");
        QCOMPARE(stepsOf("plate"), (QStringList{"soften", "tones", "bevel"}));
        undoneTo(before);
        QVERIFY(settled());
        pickFrom(row(1), "Duplicate step");
        QCOMPARE(stepsOf("plate"), (QStringList{"tones", "soften", "soften", "bevel"}));
        const Steps& twice = find_element(piece().elements, "plate")->steps;
        QVERIFY(twice[1]->id != twice[2]->id && twice[1]->what.hash() == twice[2]->what.hash());
        undoneTo(before);
        QVERIFY(settled());
        pickFrom(row(0), "Delete step");
        QCOMPARE(stepsOf("plate"), (QStringList{"soften", "bevel"}));
        undoneTo(before);
        QVERIFY(settled());
        // At the end there is no further down.
        pickFrom(row(2), "Move down");
        QCOMPARE(content_hash(piece()), before);
        // Copied, it is pasted behind the steps of whatever is chosen.
        pickFrom(row(2), "Copy step");
        document().choose({"home", "frame"});
        act("paste");
        for (const char* id : {"home", "frame"}) QCOMPARE(stepsOf(id), (QStringList{"bevel", "bevel"}));
        undoneTo(before);
    }

    void moods_are_kept_named_and_dropped() {
        begin();
        const std::uint64_t before = content_hash(piece());
        pick(menuOf("moods"), "Keep this light as another mood");
        QCOMPARE(piece().moods.size(), std::size_t{3});
        const std::string third = piece().mood;
        answeringWith("Early shift");
        pick(menuOf("moods"), "Rename this mood…");
        QVERIFY(std::ranges::any_of(piece().moods,
                                    [&](const Mood& m) { return m.id == third && m.name == "Early shift"; }));
        pick(menuOf("moods"), "Dusk");
        QCOMPARE(piece().mood, std::string("dusk"));
        pick(menuOf("moods"), "Early shift");
        QCOMPARE(piece().mood, third);
        pick(menuOf("moods"), "Delete this mood");
        QVERIFY(piece().moods.size() == 2 && piece().mood != third);
        pick(menuOf("moods"), "Delete this mood");
        QVERIFY(piece().moods.empty() && piece().mood.empty() && !piece().lights.empty());
        while (document().history().canUndo()) document().history().undo();
        QCOMPARE(content_hash(piece()), before);
    }

    void an_arrangement_of_light_fits_another_canvas() {
        begin();
        answeringWith("Two lamps");
        pick(menuOf("situations"), "Keep this arrangement…");
        const Piece kept = piece();
        QVERIFY(KeptByName("arrangements").names().contains("Two lamps"));
        document().edit("Half the canvas",
                        [](Piece& p) { p.canvas.width /= 2, p.canvas.height /= 2, p.lights.clear(); });
        QVERIFY(settled());
        pick(menuOf("situations"), "Two lamps");
        QCOMPARE(piece().lights.size(), kept.lights.size());
        for (std::size_t i = 0; i < kept.lights.size(); ++i) {
            const auto was = standing(kept.lights[i]->what), is = standing(piece().lights[i]->what);
            QCOMPARE(was.has_value(), is.has_value());
            if (was)
                QVERIFY(std::abs(is->x - was->x / 2) < 0.01 && std::abs(is->y - was->y / 2) < 0.01 &&
                        std::abs(is->z - was->z / 2) < 0.01);
        }
        document().history().undo();
        QVERIFY(piece().lights.empty());
        emit menuOf("situations")->aboutToShow();
        for (QMenu* m : menuOf("situations")->findChildren<QMenu*>())
            if (m->title() == "Forget") pick(m, "Two lamps");
        QVERIFY(!KeptByName("arrangements").names().contains("Two lamps"));
    }

    void ramps_turn_round_and_are_kept() {
        begin("last-tram-home");
        document().choose({"patina"});
        const auto stops = [&] {
            const Step& s = find_element(piece().elements, "patina")->steps.front();
            return std::get<Stops>(s.what.get(*s.kind().find("stops")));
        };
        document().setOpenStep(
            QString::fromStdString(find_element(piece().elements, "patina")->steps.front()->id));
        QVERIFY(settled() && menuOf("keptRamps"));
        const Stops before = stops();
        const std::uint64_t hash = content_hash(piece());
        answeringWith("Amber");
        pick(menuOf("keptRamps"), "Keep this ramp…");
        pick(menuOf("keptRamps"), "Turn it round");
        const Stops round = stops();
        for (std::size_t i = 0; i < before.size(); ++i) {
            QVERIFY(std::abs(round[i].at - (1 - before[before.size() - 1 - i].at)) < 1e-6f);
            QVERIFY(round[i].color == before[before.size() - 1 - i].color);
        }
        pick(menuOf("keptRamps"), "Space evenly");
        for (std::size_t i = 0; i < before.size(); ++i)
            QVERIFY(std::abs(stops()[i].at - static_cast<float>(i) / static_cast<float>(before.size() - 1)) <
                    1e-6f);
        pick(menuOf("keptRamps"), "Amber");
        QVERIFY(stops() == before);
        undoneTo(hash, 3);
        for (QMenu* m : menuOf("keptRamps")->findChildren<QMenu*>())
            if (m->title() == "Forget") pick(m, "Amber");
        QVERIFY(!KeptByName("ramps").names().contains("Amber"));
    }

    void a_rate_is_a_number_or_a_fraction() {
        begin("depot-ident");
        auto* timing = window_->findChild<QToolButton*>("timing");
        QVERIFY(timing);
        const std::uint64_t before = content_hash(piece());
        bool told = false;
        answering([&](QWidget* dialog) {
            auto* rate = dialog->findChild<QLineEdit*>();
            rate->setText("often");
            QTest::keyClick(rate, Qt::Key_Return);
            for (QLabel* l : dialog->findChildren<QLabel*>())
                told = told || (l->isVisible() && l->text().contains("fraction"));
            rate->setText("30000/1001");
            dialog->findChild<QSpinBox*>()->setValue(48);
            QTest::keyClick(rate, Qt::Key_Return);
        });
        timing->click();
        QVERIFY(told);
        QVERIFY(piece().time && piece().time->frames == 48);
        QVERIFY(piece().time->rate.frames == 30000 && piece().time->rate.seconds == 1001);
        QVERIFY(piece().time->loop); // as it was
        undoneTo(before);
    }

    void a_light_is_named_and_set_from_its_row() {
        begin();
        const auto row = [&](const std::string& id) -> LightRow* {
            for (auto* r : window_->findChildren<LightRow*>())
                if (r->id() == id && r->isVisible()) return r;
            return nullptr;
        };
        QVERIFY(row("basin"));
        const std::uint64_t before = content_hash(piece());
        QTest::mouseDClick(row("basin"), Qt::LeftButton, {}, {50, 17});
        auto* field = row("basin")->findChild<QLineEdit*>();
        QVERIFY(field);
        field->selectAll();
        QTest::keyClicks(field, "From the water");
        QTest::keyClick(field, Qt::Key_Return);
        const auto light = [&]() -> const Light& {
            for (const Light& l : piece().lights)
                if (l.id == "basin") return l;
            return *piece().lights.front();
        };
        QCOMPARE(light().name, std::string("From the water"));
        const auto intensity = [&] { return std::get<double>(light().what.get("intensity")); };
        const double was = intensity();
        row("basin")->setFocus();
        QTest::keyClick(row("basin"), Qt::Key_Right);
        QVERIFY(std::abs(intensity() - was - 0.1) < 1e-6);
        QTest::keyClick(row("basin"), Qt::Key_Left, Qt::ShiftModifier);
        QVERIFY(std::abs(intensity() - was - 0.09) < 1e-6);
        QTest::keyClick(row("basin"), Qt::Key_Space);
        QVERIFY(!light().on);
        QTest::keyClick(row("basin"), Qt::Key_Delete);
        QCOMPARE(piece().lights.size(), std::size_t{2});
        while (document().history().canUndo()) document().history().undo();
        QCOMPARE(content_hash(piece()), before);
    }

    void the_solid_is_looked_at_by_keys() {
        begin("rubber-badge");
        SolidPane& pane = window_->solid();
        QVERIFY(pane.isVisible());
        pane.setFocus();
        const auto camera = [&] { return piece().solid->camera; };
        QTest::keyClick(&pane, Qt::Key_Home);
        QVERIFY(camera().turn == 0 && camera().tilt == 0);
        QTest::keyClick(&pane, Qt::Key_Right);
        QTest::keyClick(&pane, Qt::Key_Up, Qt::ShiftModifier);
        QVERIFY(camera().turn == 10 && camera().tilt == 1);
        QTest::keyClick(&pane, Qt::Key_Up, Qt::ControlModifier);
        QVERIFY(camera().turn == 0 && camera().tilt == 90);
        QTest::keyClick(&pane, Qt::Key_Up);
        QCOMPARE(camera().tilt, 90.0f); // no farther than from above
        QTest::keyClick(&pane, Qt::Key_End);
        QVERIFY(std::abs(camera().turn) == 180 && camera().tilt == 0);
        const float distance = camera().distance;
        QTest::keyClick(&pane, Qt::Key_Plus);
        QVERIFY(camera().distance < distance);
        for (int i = 0; i < 120; ++i) QTest::keyClick(&pane, Qt::Key_Minus);
        QVERIFY(camera().distance <= 1e5f);
        for (int i = 0; i < 120; ++i) QTest::keyClick(&pane, Qt::Key_Plus);
        QVERIFY(camera().distance >= 10);
    }
};
BATHYLUX_TEST(TestBehindMenus)
#include "test_behind_menus.moc"
