// Time in the window, by hand: keys from the scale and by moving, tracks dragged and bent, links pointed at,
// played, clips trimmed, films written.
#include <QAction>
#include <QMenu>
#include <QTemporaryDir>
#include <QToolButton>

#include "app/controls/movement.h"
#include "app/controls/ruled_scale.h"
#include "app/desk/light_desk.h"
#include "app/desk/light_row.h"
#include "app/drawer/drawer.h"
#include "app/time/time_strip.h"
#include "app/time/time_view.h"
#include "app/windows/film_export_dialog.h"
#include "core/make/clip_source.h"
#include "core/piece/pose.h"
#include "files/films.h"

#include "driven_window.h"
#include "run.h"

using namespace bathylux;

class TestTimeWork : public QObject, DrivenWindow {
    Q_OBJECT
    QTemporaryDir dir_;

    TimeView& view() { return window_->tracks(); }
    TimeStrip& strip() { return window_->time(); }
    int track(const std::string& path) {
        for (std::size_t i = 0; i < view().tracks().size(); ++i)
            if (view().tracks()[i].path == path) return static_cast<int>(i);
        return -1;
    }
    const Keys& keys(const std::string& path) { return std::get<Keys>(*motion_of(piece(), path)); }
    double number(const std::string& path) { return std::get<double>(number_there(piece(), path).value); }
    QPointF at(const std::string& path, std::size_t key) {
        return view().pointOf(track(path), keys(path).list[key]);
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void keys_come_from_the_scale_and_by_moving() {
        begin();
        document().choose({"lettering"});
        QVERIFY(settled());
        const std::uint64_t before = content_hash(piece());
        auto* width = control<RuledScale>("Width");
        QVERIFY(width);
        // K on the scale sets a first key, and the time is there to be seen.
        QTest::keyClick(width, Qt::Key_K);
        QCOMPARE(piece().time->frames, 96);
        QVERIFY(window_->drawer().page() == Drawer::Page::time && view().isVisible());
        const Motion* first = nullptr;
        std::string path;
        for_each_part(piece(), [&](const MovingPart& part) {
            for (const auto& [name, motion] : *part.motions) first = &motion, path = part.path + name;
        });
        QCOMPARE(QString::fromStdString(path), QString("lettering.bevel.width"));
        QVERIFY(first);
        const double was = number(path);
        // Elsewhere, moving the value sets another.
        strip().go(24);
        QTest::keyClick(control<RuledScale>("Width"), Qt::Key_Right);
        QCOMPARE(keys(path).list.size(), std::size_t{2});
        QVERIFY(number(path) != was);
        strip().go(12);
        QVERIFY(std::abs(number(path) - (was + std::get<double>(keys(path).list[1].value)) / 2) < 1e-6);
        strip().go(0);
        QCOMPARE(number(path), was);
        QVERIFY(settled());
        // The ring takes the key on its frame away.
        for (MotionMark* m : window_->findChildren<MotionMark*>())
            if (m->path() == path && m->isVisible()) {
                QTest::mouseClick(m, Qt::LeftButton);
                break;
            }
        QCOMPARE(keys(path).list.size(), std::size_t{1});
        QTest::keyClick(&view(), Qt::Key_Right, Qt::ControlModifier);
        QCOMPARE(document().frame(), 24);
        // Undone to the last, whichever frame is open, it is what it was.
        while (document().history().canUndo()) document().history().undo();
        QCOMPARE(content_hash(piece()), before);
        QVERIFY(!motion_of(piece(), path));
    }

    void tracks_are_dragged_bent_reversed_and_copied() {
        begin();
        document().edit("Keys", [](Piece& p) {
            p.time = Timing{};
            set_motion(p, "plate.placement.x",
                       Keys{{{0, 100.0, {}}, {24, 500.0, {}}, {60, 300.0, {}}}, After::hold});
            set_motion(p, "frame.placement.x", Link{"plate.placement.x", 1, 0});
            set_motion(p, "plate.placement.y", Keys{{{10, 100.0, {}}, {40, 200.0, {}}}, After::hold});
        });
        window_->drawer().showPage(Drawer::Page::time);
        QVERIFY(settled());
        const std::string x = "plate.placement.x", y = "plate.placement.y";
        QCOMPARE(view().tracks().size(), std::size_t{3});
        // Along and, with Shift, along only; one drag is one undo.
        const int edits = document().history().index();
        drag(&view(), at(x, 1), {view().xOf(36), at(x, 1).y() + 30}, Qt::ShiftModifier);
        QCOMPARE(document().history().index(), edits + 1);
        QCOMPARE(keys(x).list[1].frame, 36.0);
        QCOMPARE(std::get<double>(keys(x).list[1].value), 500.0);
        // What follows goes along, and follows as before.
        QCOMPARE(std::get<Link>(*motion_of(piece(), "frame.placement.x")).offset, 0.0);
        strip().go(36);
        QCOMPARE(number("frame.placement.x"), 500.0);
        strip().go(0);
        document().history().undo();
        QCOMPARE(keys(x).list[1].frame, 24.0);
        // A frame around several; they move together, Alt stretches them.
        QTest::keyClick(&view(), Qt::Key_Escape);
        drag(&view(), {view().xOf(3), view().rowOf(track(y)).bottom() - 2},
             {view().xOf(90), view().rowOf(track(y)).top() + 1});
        QCOMPARE(view().chosen().size(), std::size_t{2});
        drag(&view(), at(y, 1), {view().xOf(70), at(y, 1).y()}, Qt::AltModifier | Qt::ShiftModifier);
        QCOMPARE(keys(y).list[0].frame, 10.0);
        QCOMPARE(keys(y).list[1].frame, 70.0);
        QTest::keyClick(&view(), Qt::Key_R);
        QCOMPARE(std::get<double>(keys(y).list[0].value), 200.0);
        QCOMPARE(std::get<double>(keys(y).list[1].value), 100.0);
        // A stretch is bent by its ends.
        QTest::mouseClick(&view(), Qt::LeftButton, {}, at(x, 0).toPoint());
        QCOMPARE(view().chosen().size(), std::size_t{1});
        const QPointF from = at(x, 0), to = at(x, 1);
        drag(&view(), from + 0.25 * (to - from), {from.x() + 0.6 * (to.x() - from.x()), from.y()});
        QVERIFY(keys(x).list[0].easing.kind == Easing::Kind::bezier &&
                std::abs(keys(x).list[0].easing.x1 - 0.6) < 0.03 &&
                std::abs(keys(x).list[0].easing.y1) < 0.06);
        // Copied to where it stands; taken away.
        QTest::keyClick(&view(), Qt::Key_C, Qt::ControlModifier);
        strip().go(80);
        QTest::keyClick(&view(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(keys(x).list.size(), std::size_t{4});
        QCOMPARE(std::get<double>(keys(x).list[3].value), 100.0);
        QTest::keyClick(&view(), Qt::Key_Delete);
        QCOMPARE(keys(x).list.size(), std::size_t{3});
        // Saved and opened it is the same.
        const QString file = dir_.filePath("keys.json");
        QVERIFY(window_->saveTo(file));
        const auto opened = files::open_piece(file.toStdString());
        for (const std::string& path : {x, y})
            QVERIFY(*motion_of(opened.piece, path) == *motion_of(piece(), path));
        QVERIFY(opened.piece.time == piece().time);
    }

    void a_number_follows_another_that_is_pointed_at() {
        begin();
        document().choose({"lettering"});
        QVERIFY(settled());
        document().chooseLight("window");
        auto* turn = control<RuledScale>("Elevation");
        auto* width = control<RuledScale>("Width");
        QVERIFY(turn && width);
        std::string path;
        for (MotionMark* m : window_->findChildren<MotionMark*>())
            if (m->isVisible() && width->parent() == m->parent()) path = m->path();
        QVERIFY(!path.empty());
        const double before = number(path);
        document().askForNumber(this, [&](const std::string& to) { follow(document(), path, {to, 2, 0}); });
        QTest::mouseClick(turn, Qt::LeftButton);
        QVERIFY(!document().numberAsked());
        const Link link = std::get<Link>(*motion_of(piece(), path));
        QVERIFY(link.to.ends_with(".elevation"));
        QVERIFY(std::abs(number(path) - 2 * number(link.to)) < 1e-6);
        QVERIFY(follows(piece(), path).contains("elevation"));
        // What would be a circle is refused, with names.
        QSignalSpy refused(&document(), &Document::refused);
        follow(document(), link.to, {path, 1, 0});
        QCOMPARE(refused.count(), 1);
        QVERIFY(refused[0][0].toString().contains("in a circle"));
        document().history().undo();
        QCOMPARE(number(path), before);
    }

    void a_light_moves_from_its_row() {
        begin();
        auto* row = window_->findChild<LightRow*>();
        QVERIFY(row);
        const std::string path = row->id() + ".intensity";
        QTest::keyClick(row, Qt::Key_K);
        QCOMPARE(keys(path).list.size(), std::size_t{1});
        strip().go(10);
        const double was = number(path);
        QTest::keyClick(row, Qt::Key_Right);
        QCOMPARE(keys(path).list.size(), std::size_t{2});
        QVERIFY(number(path) > was);
        // The ring takes the key on its frame away.
        auto* mark = row->findChild<MotionMark*>();
        QVERIFY(mark && mark->isVisible() && mark->moves());
        QTest::mouseClick(mark, Qt::LeftButton, {}, {mark->width() - 1, 9}); // where the scale is near
        QCOMPARE(keys(path).list.size(), std::size_t{1});
        QVERIFY(!document().inStroke());
        document().history().undo();
        QCOMPARE(keys(path).list.size(), std::size_t{2});
        // The window may go while a scale is held.
        QTest::mousePress(row, Qt::LeftButton, {}, {row->width() - 60, 17});
        QVERIFY(document().inStroke());
        end();
    }

    void it_plays_and_keeps_frames_ready() {
        begin();
        document().edit("Keys", [](Piece& p) {
            p.time = Timing{{12, 1}, 8, true};
            set_motion(p, "plate.placement.x", Keys{{{0, 100.0, {}}, {7, 500.0, {}}}, After::hold});
        });
        QVERIFY(settled());
        strip().play(true);
        QVERIFY(strip().playing());
        std::set<int> seen;
        QVERIFY(QTest::qWaitFor(
            [&] {
                seen.insert(document().frame());
                int ready = 0;
                for (int f = 0; f < 8; ++f) ready += window_->desk().ready.has(f);
                return ready == 8 && seen.size() == 8;
            },
            30000 * patience));
        // Played on, nothing is made any more.
        const auto made = [&] { return window_->desk().renderer.budget()->counts().first; };
        const long long before = made();
        seen.clear();
        QVERIFY(QTest::qWaitFor([&] { return seen.insert(document().frame()), seen.size() == 8; },
                                30000 * patience));
        QCOMPARE(made(), before);
        strip().play(false);
        QVERIFY(!strip().playing());
        QVERIFY(settled());
        // A change makes what was kept worthless.
        document().edit("Light", [](Piece& p) { p.exposure = 1; });
        QVERIFY(settled());
        int ready = 0;
        for (int f = 0; f < 8; ++f) ready += window_->desk().ready.has(f);
        QCOMPARE(ready, 1);
    }

    /// However much the drawer's head holds, makings and light desk keep the room for what is in them.
    void nothing_is_cut_off_beside_a_piece_that_runs() {
        for (const char* demo : {"ticket-beetle", "quay-lights"}) {
            begin(demo);
            window_->resize(1280, 800);
            // Nor for a name that is longer than there is room.
            document().edit("Name", [](Piece& p) {
                if (p.elements.front()->kind().framed)
                    change(p, p.elements.front()->id, [](Element& e) {
                        e.source = e.source.with("file", std::string(120, 'w') + ".png");
                    });
            });
            QVERIFY(settled());
            for (const auto page : {Drawer::Page::section, Drawer::Page::time}) {
                window_->drawer().showPage(page);
                QTest::qWait(50);
                QCOMPARE(window_->size(), QSize(1280, 800));
                for (QWidget* side : {static_cast<QWidget*>(&window_->makings()),
                                      static_cast<QWidget*>(&window_->lights())}) {
                    QVERIFY(side->width() >= side->minimumSizeHint().width());
                    for (const QScrollArea* a : side->findChildren<QScrollArea*>())
                        QVERIFY2(!a->widget() ||
                                     a->widget()->minimumSizeHint().width() <= a->viewport()->width(),
                                 demo);
                }
                for (const QToolButton* b : window_->drawer().findChildren<QToolButton*>())
                    QVERIFY(b->text().isEmpty() || !b->isVisible() ||
                            b->width() >= b->minimumSizeHint().width());
            }
        }
    }

    void clips_are_taken_in_trimmed_and_written_out() {
        // A film of ours.
        const auto film = dir_.filePath("grey.webm").toStdString();
        {
            const auto writer = files::write_film(film, {64, 48, {24, 1}, true});
            for (int i = 0; i < 24; ++i)
                writer->write(
                    std::vector<std::uint16_t>(4 * 64 * 48, static_cast<std::uint16_t>(2570 * i + 4000))
                        .data());
            writer->finish();
        }
        begin();
        QVERIFY(tookIn({qs(film)}));
        const std::string id = document().openElement()->id;
        const auto clip = [&] { return *find_element(piece().elements, id)->source.as<ClipSource>(); };
        QCOMPARE(piece().time->frames, 24);
        window_->drawer().showPage(Drawer::Page::time);
        QVERIFY(settled());
        const int t = track(id);
        QVERIFY(t >= 0);
        const double middle = view().rowOf(t).center().y();
        drag(&view(), {view().xOf(24), middle}, {view().xOf(12), middle});
        QVERIFY(std::abs(clip().last - 0.5) < 0.03);
        drag(&view(), {view().xOf(0) + 1, middle}, {view().xOf(4), middle});
        QVERIFY(std::abs(clip().first - 4 / 24.0) < 0.03 && clip().start == 4);
        drag(&view(), {view().xOf(8), middle}, {view().xOf(12), middle});
        QCOMPARE(clip().start, 8.0f);
        QVERIFY(settled());
        // And out again, its light taken apart: what would be replaced is asked about, and kept on a no.
        const QString one = dir_.filePath("out-diffuse.webm");
        const auto answer = [&](const QString& button) {
            window_->action("export-film")->trigger();
            auto* dialog = window_->findChild<FilmExportDialog*>();
            files::FilmOrder order = dialog->order();
            QVERIFY(order.first == 0 && order.last == 23 && dialog->as() == FilmExportDialog::As::film);
            order.parts = true, order.last = 2, order.scale = 0.25;
            emit dialog->asked(dir_.filePath("out.webm"), order, dialog->as(), false);
            dialog->close();
            auto* box = window_->findChild<QMessageBox*>();
            QVERIFY(box && box->text().contains("out-diffuse.webm"));
            for (QAbstractButton* b : box->buttons())
                if (b->text().contains(button)) return b->click();
            QFAIL("no such button");
        };
        QFile old(one);
        QVERIFY(old.open(QIODevice::WriteOnly) && old.write("dear to somebody") > 0);
        old.close();
        answer("Cancel");
        QCOMPARE(old.size(), 16);
        answer("Replace");
        QVERIFY(
            QTest::qWaitFor([&] { return window_->notices().text().contains("5 files"); }, 60000 * patience));
        QVERIFY(old.size() > 16 && QFile::exists(dir_.filePath("out-ambient.webm")));
        QVERIFY(!QFile::exists(dir_.filePath("out.webm")));
        // A film that is none is told, and nothing changes.
        QFile none(dir_.filePath("none.webm"));
        QVERIFY(none.open(QIODevice::WriteOnly) && none.write("nothing") > 0);
        none.close();
        const int edits = document().history().index();
        window_->addFiles({none.fileName()});
        QVERIFY(QTest::qWaitFor([&] { return !window_->readingFiles(); }, 15000 * patience));
        QCOMPARE(document().history().index(), edits);
    }
};

BATHYLUX_TEST(TestTimeWork)
#include "test_time_work.moc"
