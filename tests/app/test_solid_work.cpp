#include <QSpinBox>
#include <QToolButton>

#include "app/desk/camera_controls.h"
#include "app/makings/body_card.h"
#include "app/solid/solid_pane.h"
#include "app/windows/solid_export_dialog.h"
#include "core/piece/edit.h"
#include "core/render/tied_lights.h"
#include "core/solid/angles.h"
#include "files/pictures.h"

#include "driven_window.h"
#include "run.h"

using namespace bathylux;

/// The solid in the window, by hand: turned, the label laid, lights walked, painted on, written out.
class TestSolidWork : public QObject, DrivenWindow {
    Q_OBJECT

    SolidPane& pane() { return window_->solid(); }
    bool shown() {
        return settled() && QTest::qWaitFor([&] { return pane().settled(); }, 60000 * patience);
    }
    const Solid& solid() { return *piece().solid; }
    /// Where a point of the canvas, as it lies on the body, is seen.
    QPointF seen(double x, double y) { return seen(x, y, solid().body); }
    QPointF seen(double x, double y, const Body& body) {
        const Laying laying(body, piece().canvas.width, piece().canvas.height);
        return pane().toScreen(laying.at({x, y}).place);
    }
    QColor colorAt(QPointF p) {
        const QImage& image = pane().frame()->image;
        return image.pixelColor(
            std::clamp(int(p.x() * image.width() / pane().width()), 0, image.width() - 1),
            std::clamp(int(p.y() * image.height() / pane().height()), 0, image.height() - 1));
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    /// The hand goes before the sharp picture: what that has come to so far is left as it is.
    void a_sharp_picture_makes_way_for_the_hand() {
        begin("rubber-badge");
        QVERIFY(shown());
        QStringList seen_so_far;
        SolidRenderer renderer(window_->desk().renderer);
        const auto ask = [&](bool coarse) {
            renderer.request({document().state(), 0, QSize(900, 700), coarse});
        };
        connect(&renderer, &SolidRenderer::pictured, this, [&](const std::shared_ptr<SolidFrame>& f) {
            seen_so_far << (f->ask.coarse ? QString("coarse") : QString::number(f->samples));
            // While the next samples of the sharp one are taken, the hand begins to move.
            if (seen_so_far.size() == 1) ask(true);
            if (f->ask.coarse) ask(false);
        });
        ask(false);
        QVERIFY(QTest::qWaitFor([&] { return seen_so_far.endsWith("16"); }, 60000 * patience));
        QVERIFY(seen_so_far.contains("coarse") && seen_so_far.indexOf("coarse") < seen_so_far.indexOf("16"));
        QCOMPARE(seen_so_far.count("16"), 1);
        QTRY_VERIFY(renderer.idle());
    }

    /// The badge is red where the canvas says so; turned, it is seen elsewhere; one drag is one undo.
    void it_is_turned_by_the_hand() {
        begin("rubber-badge");
        QVERIFY(shown());
        QVERIFY(table().showsSolid(false) && pane().isVisible());
        const QPointF red = seen(450, 190);
        const QColor c = colorAt(red);
        QVERIFY2(c.red() > 2 * c.green() && c.red() > 90, qPrintable(c.name()));
        const Camera before = solid().camera;
        const int edits = document().history().index();
        // What is flat knows nothing of the camera: no picture of it is made.
        int flat = 0;
        const auto counts =
            connect(&window_->desk().renderer, &Renderer::framed, this, [&](auto) { ++flat; });
        drag(&pane(), {40, 60}, {140, 90});
        QCOMPARE(document().history().index(), edits + 1);
        QVERIFY(std::abs(solid().camera.turn - (before.turn - 40)) < 0.01 &&
                solid().camera.tilt > before.tilt);
        QVERIFY(shown());
        QCOMPARE(flat, 0);
        disconnect(counts);
        const QPointF now = seen(450, 190);
        QVERIFY(std::hypot(now.x() - red.x(), now.y() - red.y()) > 20);
        const QColor there = colorAt(now);
        QVERIFY(there.red() > 2 * there.green() && there.red() > 60);
        document().history().undo();
        QCOMPARE(solid().camera.turn, before.turn);
        // The globe takes it back to straight; keys and actions look from the sides.
        QTest::mouseClick(&pane(), Qt::LeftButton, {}, QPoint(pane().width() - 36, pane().height() - 36));
        QVERIFY(solid().camera.turn == 0 && solid().camera.tilt == 0);
        QTest::keyClick(&pane(), Qt::Key_Right, Qt::ControlModifier);
        QCOMPARE(solid().camera.turn, 90.0f);
        window_->action("solid-above")->trigger();
        QVERIFY(solid().camera.turn == 0 && solid().camera.tilt == 90);
        pane().keepCamera("From the loft");
        pane().lookFrom(10, 5);
        pane().useCamera(static_cast<int>(solid().cameras.size()) - 1);
        QCOMPARE(solid().camera.tilt, 90.0f);
        // The seam parts it from the chart.
        QVERIFY(table().solidRect().left() > table().width() / 3);
        window_->action("right-alone")->trigger();
        QVERIFY(table().solidRect().width() > table().width() - 20);
    }

    void the_label_is_laid_by_hand() {
        begin("rubber-badge");
        QVERIFY(shown());
        const auto place = [&](double u, double v) { return solid().body.u == u && solid().body.v == v; };
        const Body before = solid().body;
        // Without the net a drag turns.
        QTest::mouseClick(pane().findChild<QToolButton*>("placeLabel"), Qt::LeftButton);
        QVERIFY(pane().placing());
        const int edits = document().history().index();
        const QPointF held = seen(600, 500);
        drag(&pane(), held, held + QPointF(30, -45));
        QCOMPARE(document().history().index(), edits + 1);
        QVERIFY(solid().body.u > before.u + 10 && solid().body.v < before.v - 10);
        // What the hand held is where the hand is. A notice that comes or goes meanwhile moves both.
        const QPointF way = seen(600, 500) - seen(600, 500, before);
        QVERIFY2(std::hypot(way.x() - 30, way.y() + 45) < 8,
                 qPrintable(QString("%1 %2").arg(way.x()).arg(way.y())));
        document().history().undo();
        QVERIFY(place(before.u, before.v));
        // A corner sizes it.
        QVERIFY(shown());
        const QPointF corner = seen(900, 700), middle = (seen(0, 0) + corner) / 2;
        drag(&pane(), corner, middle + 0.6 * (corner - middle));
        QVERIFY2(std::abs(solid().body.scale / before.scale - 0.6) < 0.05,
                 qPrintable(QString::number(solid().body.scale)));
        QTest::keyClick(&pane(), Qt::Key_Escape);
        QVERIFY(!pane().placing());
    }

    void on_a_plane_the_canvas_is_a_label_and_as_a_skin_it_is_none() {
        begin("rubber-badge");
        auto* place = pane().findChild<QToolButton*>("placeLabel");
        QTest::mouseClick(place, Qt::LeftButton);
        QVERIFY(pane().placing());
        document().edit("skin", [](Piece& p) { p.solid->body.wrap = Wrap::whole; });
        QVERIFY(shown());
        QVERIFY(!pane().placing() && !place->isVisible());
        document().edit("plane", [](Piece& p) { p.solid->body.kind = BodyKind::plane; });
        QVERIFY(shown() && place->isVisible());
        pane().lookFrom(0, 0);
        QVERIFY(shown());
        QTest::mouseClick(place, Qt::LeftButton);
        const Body before = solid().body;
        const QPointF held = seen(450, 350);
        drag(&pane(), held, held + QPointF(24, 0));
        QVERIFY(shown());
        QVERIFY(solid().body.u > before.u + 10);
        const QPointF way = seen(450, 350) - seen(450, 350, before);
        QVERIFY2(std::hypot(way.x() - 24, way.y()) < 8,
                 qPrintable(QString("%1 %2").arg(way.x()).arg(way.y())));
        document().history().undo();
        QCOMPARE(solid().body.u, before.u);
    }

    /// Seen from the side, over tall relief: what was under the hand when it took hold is under it when it
    /// lets go, of the label and of an element, however many steps the way has.
    void what_is_held_keeps_its_height() {
        begin("rubber-badge");
        document().edit("tall", [](Piece& p) {
            p.solid->body.relief *= 4, p.solid->camera.turn = 35, p.solid->camera.tilt = 50;
            p.solid->camera.field = 0;
        });
        QVERIFY(shown());
        // The tallest place that is seen.
        const SolidScene scene = pane().frame()->scene;
        // A notice that comes or goes makes the pane another size: looked at as when the hand last moved.
        const auto now = [&] {
            return Sight{solid().camera, piece().canvas.height, pane().width(), pane().height()};
        };
        Sight sight = now();
        Vec2 tall;
        double height = 0;
        for (double y = 105; y < 600; y += 10)
            for (double x = 105; x < 800; x += 10) {
                const double h = scene.texels->height_at(static_cast<float>(x), static_cast<float>(y));
                const QPointF p = pane().toScreen(*scene.skin->place_at(*scene.texels, {x, y}));
                const auto spot = spot_at(scene, sight, p.x(), p.y());
                if (h > height && spot && spot->covered && length(spot->canvas - Vec2{x, y}) < 2)
                    height = h, tall = {x, y};
            }
        QVERIFY2(height * solid().body.relief > 20, qPrintable(QString::number(height)));
        const auto under = [&](QPointF p) {
            const auto spot = spot_at(pane().frame()->scene, sight, p.x(), p.y());
            return spot && spot->covered ? spot->canvas : Vec2{-1, -1};
        };
        const auto drag_slowly = [&](QPointF from, QPointF by) {
            const auto send = [&](QEvent::Type type, QPointF p, Qt::MouseButtons held) {
                QMouseEvent e(type, p, pane().mapToGlobal(p), Qt::LeftButton, held, {});
                QApplication::sendEvent(&pane(), &e);
            };
            send(QEvent::MouseButtonPress, from, Qt::LeftButton);
            for (int i = 1; i <= 4; ++i) {
                sight = now();
                send(QEvent::MouseMove, from + 0.25 * i * by, Qt::LeftButton);
                QVERIFY(shown());
            }
            send(QEvent::MouseButtonRelease, from + by, {});
            QVERIFY(shown());
        };
        const QPointF by(36, -24);
        sight = now();
        QPointF held = pane().toScreen(*scene.skin->place_at(*scene.texels, tall));
        const Vec2 was = under(held);
        QVERIFY2(length(was - tall) < 3, qPrintable(QString("%1 %2").arg(was.x).arg(was.y)));

        pane().setPlacing(true);
        drag_slowly(held, by);
        const Vec2 label = under(held + by);
        QVERIFY2(length(label - was) < 3,
                 qPrintable(QString("%1 %2, was %3 %4").arg(label.x).arg(label.y).arg(was.x).arg(was.y)));
        document().history().undo();
        pane().setPlacing(false);
        QVERIFY(shown());

        document().choose({"badge"});
        window_->action("tool-place")->trigger();
        const auto place_of_it = [&] {
            const Element& e = *find_element(piece().elements, "badge");
            return Vec2{e.placement.x, e.placement.y};
        };
        const Vec2 placed = place_of_it();
        held = pane().toScreen(*scene.skin->place_at(*scene.texels, was));
        drag_slowly(held, by);
        // So far has it gone as the place on it that was held.
        const Vec2 way = place_of_it() - placed, there = under(held + by) - was - way;
        QVERIFY2(length(way) > 10 && length(there) < 3,
                 qPrintable(QString("%1 %2, off %3 %4").arg(way.x).arg(way.y).arg(there.x).arg(there.y)));
    }

    void lights_are_walked_about_it() {
        begin("rubber-badge");
        QVERIFY(shown());
        window_->action("tool-light")->trigger();
        const Light lantern = *find_light(piece(), "lantern");
        const auto lamp = [&] {
            return *lamp_about(piece(), *find_light(piece(), "lantern"), pane().frame()->scene.skin->laying(),
                               solid().camera);
        };
        const auto head = [&] {
            const Lamp l = lamp();
            return Vec3{l.x, -l.y, l.z};
        };
        const Vec3 before = head();
        const auto [low, high] = pane().frame()->scene.skin->bounds();
        const Vec3 middle = 0.5 * (low + high);
        drag(&pane(), pane().toScreen(before), pane().toScreen(before) + QPointF(-60, 20));
        const Vec3 after = head();
        QVERIFY(length(after - before) > 50);
        // It keeps its distance from what it goes round.
        QVERIFY(std::abs(length(after - middle) / length(before - middle) - 1) < 0.01);
        QCOMPARE(document().chosenLight(), QString("lantern"));
        document().history().undo();
        QVERIFY(length(head() - before) < 1e-3);
    }

    /// A dent has two angles, typed or dragged over the join; its spot goes along. What is too steep for a
    /// die is hatched where it lies.
    void a_dent_has_two_angles_and_faults_are_hatched() {
        begin("hail");
        QVERIFY(shown());
        document().choose({"dent-1"});
        document().setFrame(6); // as the flash strikes, the dent is deepest
        const auto dent = [&] { return find_element(piece().elements, "dent-1")->placement; };
        const auto spot = [&] {
            const Lamp l = *lamp_about(piece(), *find_light(piece(), "flash-1"),
                                       pane().frame()->scene.skin->laying(), solid().camera);
            return normalized(Vec3{l.x, -l.y, l.z});
        };
        document().edit("Place", [&](Piece& p) {
            bathylux::change(p, "dent-1", [&](Element& e) {
                const Vec2 at = place_of(p.solid->body, {178, 20}, {}, p.canvas.width, p.canvas.height);
                e.placement.x = static_cast<float>(at.x), e.placement.y = static_cast<float>(at.y);
            });
        });
        const BodyAngles a = angles_of(solid().body, {dent().x, dent().y}, 2000, 1000);
        QVERIFY(std::abs(a.round - 178) < 1e-3 && std::abs(a.up - 20) < 1e-3);
        // Where an independent formula has it: longitude and latitude.
        const double lon = 178 * radians_per_degree, lat = 20 * radians_per_degree;
        const Vec3 there{std::sin(lon) * std::cos(lat), std::sin(lat), std::cos(lon) * std::cos(lat)};
        QVERIFY(length(spot() - there) < 1e-3);
        // By hand, over the join of the map.
        pane().lookFrom(180, 20);
        QVERIFY(shown());
        const QPointF from = seen(dent().x, dent().y);
        drag(&pane(), from, from + QPointF(60, 0));
        const BodyAngles b = angles_of(solid().body, {dent().x, dent().y}, 2000, 1000);
        QVERIFY2(b.round < -150 && b.round > -179, qPrintable(QString::number(b.round)));
        document().history().undo();
        QVERIFY(std::abs(angles_of(solid().body, {dent().x, dent().y}, 2000, 1000).round - 178) < 1e-3);

        document().edit("Draft", [](Piece& p) { p.canvas.draft = 70; });
        QVERIFY(shown());
        QVERIFY(pane().frame()->faults.isNull());
        pane().showFault("die_wall");
        QVERIFY(
            QTest::qWaitFor([&] { return shown() && !pane().frame()->faults.isNull(); }, 20000 * patience));
        // At the dent's flank, not beside it.
        const QImage& hatched = pane().frame()->faults;
        const auto inked = [&](double x, double y) {
            const QPointF p = seen(x, y);
            int n = 0;
            for (int i = -2; i <= 2; ++i)
                for (int j = -2; j <= 2; ++j)
                    n += qAlpha(hatched.pixel(int(p.x() * hatched.width() / pane().width()) + i,
                                              int(p.y() * hatched.height() / pane().height()) + j)) > 0;
            return n;
        };
        int flank = 0;
        for (int r = 20; r < 95; r += 5) flank += inked(dent().x - r, dent().y);
        QVERIFY(flank > 0);
        QCOMPARE(inked(dent().x - 160, dent().y), 0);
        QTest::keyClick(&pane(), Qt::Key_Escape);
        QVERIFY(pane().shownFault().isEmpty());
    }

    /// A flat piece gets a body on its card; the brush works on it; saved and opened again it is the same.
    void a_flat_piece_gets_a_body_is_painted_on_and_kept() {
        begin();
        QVERIFY(!piece().solid && !pane().isVisible());
        auto* card = window_->findChild<BodyCard*>();
        QVERIFY(card);
        emit card->foldAsked("body");
        card = window_->findChild<BodyCard*>();
        QToolButton* cylinder = control<QToolButton>("Cylinder");
        QVERIFY(cylinder);
        QTest::mouseClick(cylinder, Qt::LeftButton);
        QVERIFY(piece().solid && solid().body.kind == BodyKind::cylinder);
        QVERIFY(shown());
        QVERIFY(window_->findChild<CameraControls*>()->isVisible());
        pane().lookFrom(0, 0);
        QVERIFY(shown());
        document().choose({});
        window_->action("tool-paint")->trigger();
        const int edits = document().history().index();
        const QPointF from = seen(piece().canvas.width / 2 - 60, piece().canvas.height / 2),
                      to = seen(piece().canvas.width / 2 + 60, piece().canvas.height / 2);
        drag(&pane(), from, to);
        QCOMPARE(document().history().index(), edits + 1);
        QVERIFY(!document().state().store.paintings.empty());
        QVERIFY(shown());
        const QString path = dir_.filePath("on-a-body.bathylux");
        QVERIFY(window_->saveTo(path));
        const std::uint64_t was = content_hash(solid());
        QVERIFY(window_->openPath(path));
        QVERIFY(piece().solid && content_hash(solid()) == was);
        QVERIFY(shown());
        // Flat again: the light comes back.
        emit window_->findChild<BodyCard*>()->foldAsked("body");
        document().edit("flat", [](Piece& p) { p.solid.reset(); });
        QVERIFY(!pane().isVisible() && table().view(false) == View::lit);
        document().history().undo();
        QVERIFY(pane().isVisible());
    }

    void it_is_written_out() {
        begin("rubber-badge");
        QVERIFY(shown());
        const QString picture = dir_.filePath("badge.png"), mesh = dir_.filePath("badge.glb");
        SolidExportDialog ask(window_->desk(), SolidExportDialog::What::picture, window_.get());
        ask.findChild<QSpinBox*>("width")->setValue(320);
        ask.findChild<QSpinBox*>("height")->setValue(240);
        ask.findChild<QSpinBox*>("samples")->setValue(4);
        window_->exportSolidTo(picture, ask.picture());
        QVERIFY(QTest::qWaitFor([&] { return !window_->exporting(); }, 60000 * patience));
        const QImage written(picture);
        QCOMPARE(written.size(), QSize(320, 240));
        SolidExportDialog asked(window_->desk(), SolidExportDialog::What::mesh, window_.get());
        files::MeshExport how = asked.mesh();
        QVERIFY(how.base_mm && std::abs(how.fineness - solid().body.fineness) < 0.1);
        how.fineness = 12, how.texture = 256;
        window_->exportMeshTo(mesh, how);
        QVERIFY(QTest::qWaitFor([&] { return !window_->exporting(); }, 60000 * patience));
        const files::Bytes bytes = files::read_file(mesh.toStdString());
        QVERIFY(bytes.size() > 10000 && std::memcmp(bytes.data(), "glTF", 4) == 0);
        // A mesh that is deeper than its base is told, and nothing lies there.
        document().edit("deep", [](Piece& p) { p.solid->body.relief = -3; });
        how.base_mm = 0.5;
        window_->exportMeshTo(dir_.filePath("deep.stl"), how);
        QVERIFY(QTest::qWaitFor([&] { return !window_->exporting(); }, 60000 * patience));
        QVERIFY(!QFile::exists(dir_.filePath("deep.stl")));
    }
};

BATHYLUX_TEST(TestSolidWork)
#include "test_solid_work.moc"
