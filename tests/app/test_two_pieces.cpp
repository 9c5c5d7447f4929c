// What goes from one piece to another, and from one number to another.
#include "app/controls/controls.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/tone_window.h"
#include "core/field/srgb.h"
#include "core/make/shapes.h"
#include "core/piece/pose.h"
#include "driven_window.h"
#include "files/pictures.h"
#include "run.h"

using namespace bathylux;

class TestTwoPieces : public QObject, DrivenWindow {
    Q_OBJECT

    QString picture(const QString& name, const QColor& color) const {
        QImage image(40, 30, QImage::Format_RGB32);
        image.fill(color);
        image.save(dir_.filePath(name));
        return dir_.filePath(name);
    }
    /// The colour a piece shows in the middle of an element.
    std::array<float, 3> seen(Window& window, const std::string& id) const {
        const Scene scene = window.desk().scene();
        const Element& e = *find_element(scene.piece->elements, id);
        const int x = static_cast<int>(e.placement.x), y = static_cast<int>(e.placement.y);
        const Bundle b = Evaluator().element(scene, id, {x, y, x + 1, y + 1}, 1);
        return {srgb_encode(b.color[0].at(0, 0)), srgb_encode(b.color[1].at(0, 0)),
                srgb_encode(b.color[2].at(0, 0))};
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    /// Two pieces carry different pictures under one name: what is pasted shows its own, and the other stays.
    void a_carried_picture_goes_along() {
        begin("");
        QVERIFY(tookIn({picture("tile.png", QColor(200, 40, 30))}));
        const QString first = dir_.filePath("first.bathylux");
        document().editState("Embed", [&](Piece& p, files::Store& store) {
            const auto bytes = std::make_shared<const files::Bytes>(
                files::read_file(dir_.filePath("tile.png").toStdString()));
            store.embedded["tile.png"] = bytes;
            change(p, p.elements.front()->id,
                   [](Element& e) { e.source = e.source.with("file", std::string("tile.png")); });
        });
        QVERIFY(settled());
        const std::string id = piece().elements.front()->id;
        document().choose({QString::fromStdString(id)});
        window_->action("copy")->trigger();
        QVERIFY(window_->saveTo(first));

        end();
        begin("");
        QVERIFY(tookIn({picture("tile.png", QColor(20, 60, 220))}));
        document().editState("Embed", [&](Piece& p, files::Store& store) {
            store.embedded["tile.png"] = std::make_shared<const files::Bytes>(
                files::read_file(dir_.filePath("tile.png").toStdString()));
            change(p, p.elements.front()->id,
                   [](Element& e) { e.source = e.source.with("file", std::string("tile.png")); });
        });
        QVERIFY(settled());
        QFile::remove(dir_.filePath("tile.png"));
        const std::string mine = piece().elements.front()->id;
        const std::uint64_t before = content_hash(piece());
        document().choose({});
        window_->action("paste")->trigger();
        QVERIFY(settled());
        QCOMPARE(piece().elements.size(), std::size_t{2});
        const std::string pasted =
            piece().elements.back()->id == mine ? piece().elements.front()->id : piece().elements.back()->id;
        QVERIFY(pasted != mine);
        QVERIFY(std::abs(seen(*window_, pasted)[0] - 200 / 255.0f) < 0.01f &&
                seen(*window_, pasted)[2] < 0.2f);
        QVERIFY(std::abs(seen(*window_, mine)[2] - 220 / 255.0f) < 0.01f && seen(*window_, mine)[0] < 0.2f);
        // Saved, both are in the package.
        const QString path = dir_.filePath("both.bathylux");
        QVERIFY(window_->saveTo(path));
        QCOMPARE(files::open_piece(path.toStdString()).store.embedded.size(), std::size_t{2});
        document().history().undo();
        QCOMPARE(content_hash(piece()), before);
    }

    void a_number_follows_another_times_and_plus() {
        begin();
        document().choose({"plate"});
        const std::string bevel = [&] {
            for (const Step& s : find_element(piece().elements, "plate")->steps)
                if (s.what.is("bevel")) return s.id;
            return std::string();
        }();
        document().setOpenStep(QString::fromStdString(bevel));
        QVERIFY(settled());
        const std::uint64_t before = content_hash(piece());
        const std::string path = "plate." + bevel + ".width";
        MotionMark* mark = nullptr;
        for (auto* m : window_->findChildren<MotionMark*>())
            if (m->isVisible() && m->path() == path) mark = m;
        QVERIFY(mark);
        document().edit("Follow", [&](Piece& p) { set_motion(p, path, Motion(Link{"lantern.z", 1, -100})); });
        QVERIFY(settled());
        const auto width = [&] { return std::get<double>(number_there(posed(piece(), 0), path).value); };
        const double z = std::get<double>(number_there(piece(), "lantern.z").value);
        QVERIFY(std::abs(width() - (z - 100)) < 1e-3);
        const auto menu = [&](const std::function<void(QMenu*)>& work) {
            QContextMenuEvent ask(QContextMenuEvent::Mouse, {4, 4}, mark->mapToGlobal(QPoint(4, 4)));
            QApplication::sendEvent(mark, &ask);
            auto* m = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            QVERIFY(m);
            work(m);
            m->close();
        };
        menu([&](QMenu* m) {
            for (auto* scale : m->findChildren<RuledScale*>()) {
                if (scale->accessibleName() == "Times") emit scale->valueChanged(0.5);
                if (scale->accessibleName() == "Plus") emit scale->valueChanged(-40);
            }
        });
        QVERIFY2(std::abs(width() - (z / 2 - 40)) < 1e-3,
                 qPrintable(QString("%1 of %2").arg(width()).arg(z)));
        // It follows: the lamp higher, the edge wider by half.
        document().edit("Raise", [](Piece& p) {
            for (auto& l : p.lights)
                if (l->id == "lantern")
                    l = l.with([](Light& lamp) { lamp.what = lamp.what.with("z", 240.0); });
        });
        QVERIFY(std::abs(width() - 80) < 1e-3);
        menu([](QMenu* m) {
            for (QAction* a : m->actions())
                if (a->text() == "Follow no more") a->trigger();
        });
        QVERIFY(!motion_of(piece(), path));
        while (content_hash(piece()) != before && document().history().canUndo()) document().history().undo();
        QCOMPARE(content_hash(piece()), before);
    }

    /// The tones under a map's window are those of what is read now, also where that was changed elsewhere.
    void a_window_shows_the_tones_that_are_read() {
        const QString path = dir_.filePath("read.json");
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(R"({"bathylux": 1, "canvas": {"width": 120, "height": 80}, "elements": [
            {"id": "read", "source": {"kind": "noise", "seed": 3}, "mix": {"visible": false}},
            {"id": "plate", "source": {"kind": "rectangle", "width": 90, "height": 60},
             "steps": [{"id": "s", "kind": "soften", "map": {"element": "read"}}]}]})");
        file.close();
        begin("");
        QVERIFY(window_->openPath(path) && settled());
        document().choose({"plate"});
        document().setOpenStep("s");
        const auto face = [&]() -> QImage {
            if (!settled()) return {};
            QThreadPool::globalInstance()->waitForDone(); // they are counted behind the window
            QCoreApplication::processEvents();
            auto* window = control<ToneWindow>("Tone window of the map");
            return window ? window->grab().toImage() : QImage();
        };
        const QImage first = face();
        QVERIFY(!first.isNull() && face() == first);
        document().edit("Change what is read", [](Piece& p) {
            change(p, "read", [](Element& e) {
                e.source = Described(source_kind("rectangle"), RectangleSource{.width = 60, .height = 80});
            });
        });
        QVERIFY(face() != first);
        window_->action("undo")->trigger();
        QVERIFY(face() == first);
    }
};
BATHYLUX_TEST(TestTwoPieces)
#include "test_two_pieces.moc"
