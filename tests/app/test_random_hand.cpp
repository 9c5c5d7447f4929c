// A random hand on the real window: clicks, drags, wheel, keys, typing, drops, menus and dialogs, from a
// seed. After every action the document's promises hold; at the end undo leads back bit for bit. Two seeds a
// demo piece, and two of a piece drawn at random; for hours:
//     BATHYLUX_HAND_SEEDS=1-200 BATHYLUX_HAND_ACTIONS=2000 build/release/bin/test_random_hand
#include <QClipboard>
#include <QMimeData>
#include <QRandomGenerator>
#include <QStandardItemModel>
#include <set>

#include "app/windows/application.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "driven_window.h"
#include "random_piece.h"
#include "run.h"

using namespace bathylux;

namespace bathylux {

class Hand : public QObject {
  public:
    Hand(Window& window, quint32 seed, QString folder)
        : window_(window), random_(seed), folder_(std::move(folder)), document_(window.desk().document) {
        note();
    }
    /// So many actions; what is wrong, or "".
    QString work(int actions) {
        left_ = actions;
        next();
        QEventLoop loop;
        done_ = &loop;
        loop.exec();
        done_ = nullptr;
        return trouble_;
    }
    QStringList log() const { return log_; }
    const std::string& began() const { return began_; }
    /// What always holds; another piece may have come in.
    void look() {
        if (document_.pieceNumber() != piece_) note(), log_ << "another piece";
        const Piece& p = document_.piece();
        std::set<std::string> ids;
        const auto fresh = [&](const std::string& id, const char* what) {
            if (id.empty() || !ids.insert(id).second)
                trouble_ = QString("%1 \"%2\" twice").arg(what, id.c_str());
        };
        for_each_element(p.elements, [&](const Element& e) {
            fresh(e.id, "element");
            std::set<std::string> steps;
            for (const Step& s : e.steps)
                if (!steps.insert(s.id).second)
                    trouble_ = QString("step \"%1\" twice in %2").arg(s.id.c_str(), e.id.c_str());
        });
        for (const Light& l : p.lights) fresh(l.id, "light");
        for (const QString& id : document_.chosen())
            if (!document_.element(id)) trouble_ = "chosen, but not there: " + id;
        for (const QString& id : document_.chosenLights())
            if (!find_light(p, id.toStdString())) trouble_ = "chosen, but not there: light " + id;
        if (!document_.openStepId().isEmpty() && !document_.openStep())
            trouble_ = "open, but not there: step " + document_.openStepId();
        if (const std::string circle = cycle_in(p); !circle.empty())
            trouble_ = QString::fromStdString(circle);
    }

  private:
    // Posted before the hand does something, so that it goes on within menus and dialogs that wait for it.
    void next() {
        QTimer::singleShot(0, this, [this] { act(); });
    }

    void act() {
        look();
        if (!trouble_.isEmpty() || left_-- <= 0) return finish();
        next();
        if (!window_.isVisible()) window_.show();
        if (auto* picker = qobject_cast<QFileDialog*>(QApplication::activeModalWidget())) return pick(picker);
        QWidget* top = QApplication::activePopupWidget();
        if (!top) top = QApplication::activeModalWidget();
        if (!top) top = &window_;
        const int r = random_.bounded(100);
        if (r < 8 && top != &window_) return key(top, Qt::Key_Escape, {});
        const QPoint at(random_.bounded(std::max(1, top->width())),
                        random_.bounded(std::max(1, top->height())));
        QWidget* w = top->childAt(at);
        if (!w) w = top;
        const QPoint p = w->mapFrom(top, at);
        if (r < 38)
            say("click", w), click(w, Qt::LeftButton, modifiers(), p);
        else if (r < 43)
            say("right click", w), menu(w, p);
        else if (r < 47)
            say("double click", w), click(w, Qt::LeftButton, {}, p, true);
        else if (r < 62)
            drag(top, w, p);
        else if (r < 68)
            wheel(w, p);
        else if (r < 74)
            type();
        else if (r < 77)
            drop();
        else if (r < 80)
            trigger();
        else
            key(QApplication::focusWidget() ? QApplication::focusWidget() : top,
                keys[random_.bounded(int(std::size(keys)))], control(random_.bounded(4)));
    }

    static constexpr Qt::Key keys[] = {
        Qt::Key_A,           Qt::Key_B,    Qt::Key_C,      Qt::Key_D,    Qt::Key_G,      Qt::Key_H,
        Qt::Key_J,           Qt::Key_K,    Qt::Key_L,      Qt::Key_N,    Qt::Key_P,      Qt::Key_S,
        Qt::Key_V,           Qt::Key_X,    Qt::Key_Z,      Qt::Key_Z,    Qt::Key_1,      Qt::Key_2,
        Qt::Key_3,           Qt::Key_4,    Qt::Key_Delete, Qt::Key_F2,   Qt::Key_Escape, Qt::Key_Return,
        Qt::Key_Tab,         Qt::Key_Down, Qt::Key_Up,     Qt::Key_Left, Qt::Key_Right,  Qt::Key_Space,
        Qt::Key_BracketRight};

    Qt::KeyboardModifiers modifiers() {
        const int r = random_.bounded(10);
        return r == 0 ? Qt::ControlModifier : r == 1 ? Qt::ShiftModifier : Qt::NoModifier;
    }
    static Qt::KeyboardModifiers control(int r) {
        return r == 0   ? Qt::ControlModifier
               : r == 1 ? Qt::ControlModifier | Qt::ShiftModifier
                        : Qt::NoModifier;
    }
    void key(QWidget* w, Qt::Key k, Qt::KeyboardModifiers m) {
        if (k == Qt::Key_Q && m) return;
        say(QString("key %1 %2").arg(QKeySequence(k).toString()).arg(int(m)), w);
        QTest::keyClick(w, k, m);
    }
    /// What is pressed may be gone before it is let go.
    static void click(QPointer<QWidget> w, Qt::MouseButton b, Qt::KeyboardModifiers m, QPoint p,
                      bool twice = false) {
        QTest::mousePress(w, b, m, p);
        if (w) QTest::mouseRelease(w, b, m, p);
        if (!twice || !w) return;
        QMouseEvent e(QEvent::MouseButtonDblClick, p, w->mapToGlobal(p), b, b, m);
        QApplication::sendEvent(w, &e);
        if (w) QTest::mouseRelease(w, b, m, p);
    }
    void menu(QPointer<QWidget> w, QPoint p) {
        click(w, Qt::RightButton, {}, p);
        if (!w) return;
        QContextMenuEvent e(QContextMenuEvent::Mouse, p, w->mapToGlobal(p));
        QApplication::sendEvent(w, &e);
    }
    void drag(QWidget* top, QWidget* w, QPoint from) {
        say("drag", w);
        const QPointer<QWidget> held(w), above(top);
        const auto m = modifiers();
        QTest::mousePress(w, Qt::LeftButton, m, from);
        for (int i = 0; i < 4 && held && above; ++i) {
            const QPoint to(random_.bounded(std::max(1, top->width())),
                            random_.bounded(std::max(1, top->height())));
            const QPointF global = top->mapToGlobal(to);
            QMouseEvent e(QEvent::MouseMove, held->mapFromGlobal(global), global, Qt::NoButton,
                          Qt::LeftButton, m);
            QApplication::sendEvent(held, &e);
            if (random_.bounded(6) == 0)
                QCoreApplication::processEvents(QEventLoop::ExcludeUserInputEvents, 5);
        }
        if (held)
            QTest::mouseRelease(held, Qt::LeftButton, m,
                                from + QPoint(random_.bounded(80), random_.bounded(60)));
    }
    void wheel(QWidget* w, QPoint p) {
        say("wheel", w);
        QWheelEvent e(p, w->mapToGlobal(p), {}, {0, random_.bounded(2) ? 120 : -120}, Qt::NoButton,
                      modifiers(), Qt::NoScrollPhase, false);
        QApplication::sendEvent(w, &e);
    }
    void type() {
        static const char* words[] = {"12", "3 mm", "-5", "24/2", "abc", "0", "1e9", "NaN", "[[", "ÿ"};
        QWidget* w = QApplication::focusWidget();
        if (!w) return;
        const char* word = words[random_.bounded(int(std::size(words)))];
        say(QString("type ") + word, w);
        const QPointer<QWidget> held(w);
        for (const QChar c : QString::fromUtf8(word))
            if (held) QTest::keyClick(held, c.toLatin1());
        if (held && random_.bounded(2)) QTest::keyClick(held, Qt::Key_Return);
    }
    void drop() {
        QMimeData mime;
        switch (random_.bounded(6)) {
        case 0: mime.setText("Quay"); break;
        case 1: {
            QImage image(20, 12, QImage::Format_RGB32);
            image.fill(QColor(random_.bounded(255), 90, 40));
            mime.setImageData(image);
            break;
        }
        case 2: mime.setData("application/x-bathylux-parts+json", "{\"parts\": \"{]\"}"); break;
        case 3: mime.setData("application/x-bathylux-parts+json", "\xff\x00odd"); break;
        default: mime.setUrls({QUrl::fromLocalFile(someFile())});
        }
        say("drop", &window_.table());
        QWidget* w = &window_.table();
        const QPointF p(random_.bounded(std::max(1, w->width())), random_.bounded(std::max(1, w->height())));
        QDragEnterEvent enter(p.toPoint(), Qt::CopyAction, &mime, Qt::LeftButton, {});
        QApplication::sendEvent(w, &enter);
        QDropEvent e(p, Qt::CopyAction, &mime, Qt::LeftButton, {});
        QApplication::sendEvent(w, &e);
    }
    void trigger() {
        QList<QAction*> all;
        for (QAction* a : window_.findChildren<QAction*>())
            if (!a->objectName().isEmpty() && a->isEnabled() && a->objectName() != "quit") all << a;
        if (all.isEmpty()) return;
        QAction* a = all[random_.bounded(int(all.size()))];
        say("action " + a->objectName(), &window_);
        a->trigger();
    }
    QString someFile() {
        static const char* names[] = {"picture.png",  "text.png",   "odd.svg", "good.svg",
                                      "odd.bathylux", "piece.json", "none.png"};
        return folder_ + "/" + names[random_.bounded(int(std::size(names)))];
    }
    void pick(QFileDialog* picker) {
        say("pick", picker);
        if (random_.bounded(3) == 0) return picker->reject();
        const bool save = picker->acceptMode() == QFileDialog::AcceptSave;
        picker->selectFile(save ? folder_ + QString("/saved-%1.bathylux").arg(random_.bounded(3))
                                : someFile());
        QMetaObject::invokeMethod(picker, "accept");
    }

    void note() {
        piece_ = document_.pieceNumber();
        began_ = text_of(document_.piece());
    }
    void finish() {
        if (!done_) return;
        // What waits for an answer is let go first, and what asks only then too: whoever waits in there keeps
        // the loop outside from ending.
        QTimer::singleShot(5, this, [this] { finish(); });
        QWidget* waiting = QApplication::activePopupWidget();
        if (!waiting) waiting = QApplication::activeModalWidget();
        for (QWidget* w : QApplication::topLevelWidgets())
            if (!waiting && w != &window_ && w->isVisible() && qobject_cast<QDialog*>(w)) waiting = w;
        if (waiting)
            waiting->close();
        else
            done_->quit();
    }
    void say(const QString& what, const QWidget* w) {
        log_ << what + " on " + w->metaObject()->className() + " " + w->objectName();
    }

    Window& window_;
    QRandomGenerator random_;
    QString folder_, trouble_;
    QStringList log_;
    Document& document_;
    quint64 piece_ = 0;
    std::string began_;
    int left_ = 0;
    QEventLoop* done_ = nullptr;
};

void write(const QString& path, const QByteArray& bytes) {
    QFile f(path);
    if (f.open(QIODevice::WriteOnly)) f.write(bytes);
}

} // namespace bathylux

class TestRandomHand : public QObject, DrivenWindow {
    Q_OBJECT
  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void holds_its_promises_data() {
        QTest::addColumn<QString>("demo");
        QTest::addColumn<quint32>("seed");
        const QStringList range =
            qEnvironmentVariable("BATHYLUX_HAND_SEEDS", patience > 1 ? "1-1" : "1-2").split('-');
        // Under the sanitizers some pieces take minutes a picture.
        static const QStringList slow{"quay-end.json",         "rope-walk.json", "salt-pier.json",
                                      "the-basin.json",        "hail.json",      "makers-plate.json",
                                      "destination-blind.json"};
        for (const QString& f : QDir(demoFolder()).entryList({"*.json"}))
            if (f != "shelf.json" && !(patience > 1 && slow.contains(f)))
                for (quint32 seed = range.first().toUInt(); seed <= range.last().toUInt(); ++seed)
                    QTest::addRow("%s %u", qPrintable(f), seed) << QFileInfo(f).completeBaseName() << seed;
        // And pieces nobody would make.
        for (quint32 seed = range.first().toUInt(); seed <= range.last().toUInt(); ++seed)
            QTest::addRow("drawn %u", seed) << QString() << seed;
    }
    void holds_its_promises() {
        QFETCH(QString, demo);
        QFETCH(quint32, seed);
        QImage picture(60, 40, QImage::Format_Grayscale8);
        picture.fill(120);
        picture.save(dir_.filePath("picture.png"));
        write(dir_.filePath("text.png"), "no picture at all");
        write(dir_.filePath("odd.svg"), "<svg");
        write(dir_.filePath("good.svg"), "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"40\" "
                                         "height=\"30\"><path d=\"M5 5h30v20h-30z\"/></svg>");
        write(dir_.filePath("odd.bathylux"), "PK\x03\x04 nothing");
        write(dir_.filePath("piece.json"),
              "{\"bathylux\": 1, \"canvas\": {\"width\": 90, \"height\": 60}, \"elements\": [{\"id\": \"r\", "
              "\"source\": {\"kind\": \"ellipse\"}}]}");
        if (demo.isEmpty()) {
            RandomPiece any(seed);
            Piece drawn = any.piece();
            if (seed % 2 == 0) drawn.solid = any.solid();
            write(dir_.filePath("drawn.json"), QByteArray::fromStdString(text_of(drawn)));
            begin();
            QVERIFY(window_->openPath(dir_.filePath("drawn.json")));
            QVERIFY(settled());
        } else
            begin(demo);
        QApplication::clipboard()->setMimeData(new QMimeData); // nothing was copied yet
        auto* app = static_cast<Application*>(qApp);
        app->tell = [&](const QString& t) { window_->tell(t); };
        Hand hand(*window_, seed, dir_.path());
        const QString trouble = hand.work(qEnvironmentVariableIntValue("BATHYLUX_HAND_ACTIONS") > 0
                                              ? qEnvironmentVariableIntValue("BATHYLUX_HAND_ACTIONS")
                                              : 140 / patience);
        const auto last = [&] { return trouble + "\n" + hand.log().mid(hand.log().size() - 20).join('\n'); };
        QVERIFY2(trouble.isEmpty(), qPrintable(last()));
        // What it left at work is stopped: a film may take minutes, and what plays never rests.
        if (window_->exporting()) window_->findChild<QToolButton*>("stopWork")->click();
        QVERIFY2(QTest::qWaitFor([&] { return !window_->readingFiles() && !window_->exporting(); }, 60000),
                 qPrintable(last()));
        hand.look(); // what was dropped last may have come in as another piece
        if (window_->desk().playing) window_->findChild<QAction*>("play")->trigger();
        if (QWidget* typing = QApplication::focusWidget()) typing->clearFocus();
        while (document().history().canUndo()) document().history().undo();
        QVERIFY2(text_of(piece()) == hand.began(), qPrintable(last()));
        // Whoever was being typed into lets go with the focus, and with that no stroke is left.
        // While a menu stands open, what was typed into keeps it.
        while (QWidget* menu = QApplication::activePopupWidget()) menu->close();
        if (QWidget* typing = QApplication::focusWidget()) typing->clearFocus();
        QVERIFY2(QTest::qWaitFor([&] { return !document().inStroke(); }), qPrintable(last()));
        QVERIFY2(settled() || !table().isVisible(), qPrintable(last()));
    }
};

BATHYLUX_TEST(TestRandomHand)
#include "test_random_hand.moc"
