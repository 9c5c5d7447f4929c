// Nothing is lost: links, undo after everything, offers, strokes, odd data, thumbnails; and what the hand
// takes.
#include <QClipboard>
#include <QEventLoop>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QMouseEvent>
#include <QPlainTextEdit>
#include <QTimer>

#include "app/controls/pick_list.h"
#include "app/makings/element_head.h"
#include "app/windows/actions.h"
#include "app/windows/first_page.h"
#include "app/windows/last_look.h"
#include "core/make/type_source.h"
#include "core/piece/codec.h"
#include "core/piece/edit.h"
#include "core/piece/references.h"
#include "driven_window.h"
#include "run.h"

using namespace bathylux;

class TestKeeping : public QObject, DrivenWindow {
    Q_OBJECT

    QString picture(const QString& name, QColor color = QColor(180, 90, 40)) const {
        QImage image(40, 30, QImage::Format_RGB32);
        image.fill(color);
        image.setPixelColor(3, 3, Qt::white);
        const QString path = dir_.filePath(name);
        return image.save(path) ? path : QString();
    }
    QPointF onTable(Vec2 canvas) const { return table().toScreen(canvas); }
    QToolButton* offer() const {
        for (auto* b : window_->notices().findChildren<QToolButton*>("offer"))
            if (b->isVisible()) return b;
        return nullptr;
    }
    /// Two rectangles one over the other, the upper one in a group.
    void stacked(bool locked) {
        document().replace({std::make_shared<const Piece>(freshPiece(400, 300, 10)), {}}, {});
        document().edit("stack", [&](Piece& p) {
            Element below{.id = "below", .name = "Below", .source = Described(source_kind("rectangle"))};
            below.source = below.source.with("width", 300.0).with("height", 200.0);
            below.placement.x = 200, below.placement.y = 150;
            Element above = below;
            above.id = "above", above.source = above.source.with("width", 120.0).with("height", 80.0);
            above.locked = locked;
            add_element(p, below);
            add_element(p, above);
        });
        QVERIFY(settled());
    }
    void click(Vec2 canvas) const {
        QTest::mouseClick(&table(), Qt::LeftButton, {}, onTable(canvas).toPoint());
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void links_hold_after_saving_elsewhere_and_undoing() {
        begin({});
        QVERIFY(tookIn({picture("linked.png")}));
        QDir(dir_.path()).mkpath("a/deep");
        QVERIFY(window_->saveTo(dir_.filePath("a/piece.bathylux")));
        document().edit("exposure", [](Piece& p) { p.exposure = 1; });
        QVERIFY(window_->saveTo(dir_.filePath("a/deep/piece.bathylux")));
        document().history().undo();
        QVERIFY(settled());
        QCOMPARE(window_->desk().asset(piece().elements[0]->id)->trouble, std::string());
        // Written relative to where it lies, and found from there.
        for (const char* name : {"a/piece.bathylux", "a/deep/piece.bathylux"}) {
            QVERIFY(window_->openPath(dir_.filePath(name)));
            QVERIFY(settled());
            QCOMPARE(window_->desk().asset(piece().elements[0]->id)->trouble, std::string());
        }
    }

    void everything_the_menus_do_is_undone() {
        begin();
        const QString linked = picture("linked.png");
        QVERIFY(tookIn({linked}));
        document().history().clear();
        const std::string began = text_of(piece());
        // Those that only look, or ask in a dialog, change nothing by themselves.
        static const QRegularExpression asks(
            "^(undo|redo|new|open|save|save-as|canvas|quit|find|keys|about|theme|export-.*|demo-.*|contours-"
            "own|"
            "fit-to-canvas|rename|add-step|add-picture|add-svg|add-normals|add-sprites|add-clip|play)$");
        int edits = 0;
        for (QAction* a : window_->findChildren<QAction*>()) {
            if (a->objectName().isEmpty() || asks.match(a->objectName()).hasMatch()) continue;
            document().choose({"lettering", "home"});
            document().chooseLights({"lantern"});
            if (!a->isEnabled()) continue;
            const int before = document().history().count();
            a->trigger();
            edits += document().history().count() > before;
            QVERIFY2(cycle_in(piece()).empty(), qPrintable(a->objectName()));
        }
        QVERIFY2(edits > 30, qPrintable(QString::number(edits)));
        while (document().history().canUndo()) document().history().undo();
        QCOMPARE(text_of(piece()), began);
        QVERIFY(settled());
        QCOMPARE(window_->desk().asset(piece().elements.back()->id)->trouble, std::string());
    }

    void an_offer_goes_with_its_edit() {
        begin({});
        QImage sheet(96, 32, QImage::Format_ARGB32);
        sheet.fill(Qt::transparent);
        for (int k = 0; k < 3; ++k)
            for (int y = 6; y < 26; ++y)
                for (int x = 6; x < 26; ++x) sheet.setPixelColor(32 * k + x, y, QColor(60, 90 + 40 * k, 200));
        QVERIFY(sheet.save(dir_.filePath("sheet.png")));
        QVERIFY(tookIn({dir_.filePath("sheet.png")}));
        QVERIFY(offer());
        // Something else was done since: the offer would undo that instead.
        document().edit("exposure", [](Piece& p) { p.exposure = 0.5f; });
        QVERIFY(!offer());
        QVERIFY(piece().elements[0]->source.is("picture") && piece().exposure == 0.5f);
    }

    /// Nothing is open that is gone: neither after undoing, nor by a row that tells of it too late.
    void a_step_that_goes_is_open_no_longer() {
        begin();
        const QString id = QString::fromStdString(piece().elements.back()->id);
        document().choose({id});
        document().setOpenStep({});
        emit window_->makings().addStep("bands");
        const QString added = document().openStepId();
        QVERIFY(!added.isEmpty() && document().openStep());
        document().history().undo();
        QVERIFY(document().chosen() == QStringList{id} && document().openStepId().isEmpty());
        document().setOpenStep(added);
        QVERIFY(document().openStepId().isEmpty());
        document().history().redo();
        document().setOpenStep(added);
        QVERIFY(document().openStep() && document().openStep()->kind().id == "bands");
    }

    void a_piece_that_does_not_come_leaves_the_first_page() {
        begin({});
        const auto* page = window_->findChild<FirstPage*>();
        const auto way_in = [&] { return page->isVisible() && page->findChild<QWidget*>("make-type"); };
        QVERIFY(way_in());
        // While one is awaited there is its last look, and no first page nor a picture of nothing.
        QImage look(64, 48, QImage::Format_RGB32);
        look.fill(Qt::darkGreen);
        window_ = std::make_unique<Window>(nullptr, QPixmap::fromImage(look));
        const auto* shown = window_->findChild<LastLook*>();
        QVERIFY(shown && shown->isVisible() && shown->wasSeen()); // before there were rooms
        window_->show();
        page = window_->findChild<FirstPage*>();
        QVERIFY(shown->isVisible() && !page->isVisible());
        QTest::qWait(50);
        QCOMPARE(window_->grab(QRect(window_->rect().center(), QSize(1, 1))).toImage().pixelColor(0, 0),
                 QColor(Qt::darkGreen));
        QCOMPARE(shown->geometry(), window_->rect());
        QVERIFY(!window_->desk().frame && !page->findChild<QWidget*>("make-type"));
        // It is told what is wrong, and one can begin with something else.
        QFile bad(dir_.filePath("cut.json"));
        QVERIFY(bad.open(QIODevice::WriteOnly) && bad.write("{\"bathylux\": 1, ") > 0);
        bad.close();
        QTimer::singleShot(50, [] {
            if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget())) box->accept();
        });
        QVERIFY(!window_->openPath(bad.fileName()));
        window_->awaited();
        QVERIFY(way_in());
        QTest::qWait(1);
        QVERIFY(!window_->findChild<LastLook*>());
        QTest::mouseClick(page->findChild<QWidget*>("make-rectangle"), Qt::LeftButton);
        QVERIFY(settled() && !page->isVisible());
        QCOMPARE(piece().elements.size(), std::size_t{1});
    }

    void what_is_being_made_is_not_begun_anew() {
        begin();
        Renderer& renderer = window_->desk().renderer;
        QSignalSpy framed(&renderer, &Renderer::framed);
        document().edit("brighter", [](Piece& p) { p.exposure = 0.5f; });
        for (int i = 0; i < 5; ++i) table().requestFrame();
        QVERIFY(settled());
        QCOMPARE(framed.size(), 1);
        // A request is to be answered until it is, or is given up, or another is made.
        Shot shot = window_->desk().frame->shot;
        shot.grey = true;
        const quint64 first = renderer.request(shot);
        QVERIFY(renderer.making(first));
        renderer.cancel();
        QVERIFY(!renderer.making(first));
        const quint64 second = renderer.request(shot), third = renderer.request(shot);
        QVERIFY(!renderer.making(second) && renderer.making(third));
        QVERIFY(QTest::qWaitFor([&] { return !renderer.making(third); }, 15000 * patience));
        QVERIFY(QTest::qWaitFor([&] { return framed.size() >= 2; }, 15000 * patience));
        // What was given up is asked for again, and comes.
        document().edit("darker", [](Piece& p) { p.exposure = -0.5f; });
        renderer.cancel();
        table().requestFrame();
        QVERIFY(settled());
    }

    void what_is_picked_may_open_a_dialog_while_a_second_click_waits() {
        begin();
        QPointer<PickList> list =
            new PickList("Which?", {{"first", "First", {}, {}, {}, {}}, {"second", "Second", {}, {}, {}, {}}},
                         window_.get());
        QStringList picked;
        QObject::connect(list, &PickList::picked, window_.get(), [&](const QString& id) {
            picked << id;
            QEventLoop dialog;
            QTimer::singleShot(30, &dialog, &QEventLoop::quit);
            dialog.exec();
        });
        list->openAt(window_->mapToGlobal(QPoint(200, 200)));
        auto* rows = list->findChild<QListWidget*>();
        const QPoint second = rows->visualItemRect(rows->item(1)).center();
        const auto press = [view = QPointer<QWidget>(rows->viewport()), second] {
            if (!view) return;
            for (const auto type : {QEvent::MouseMove, QEvent::MouseButtonPress, QEvent::MouseButtonRelease})
                QApplication::postEvent(
                    view,
                    new QMouseEvent(type, second, view->mapToGlobal(second), Qt::LeftButton,
                                    type == QEvent::MouseButtonPress ? Qt::LeftButton : Qt::NoButton, {}));
        };
        press(), press();
        QTRY_VERIFY(!list);
        QCOMPARE(picked, QStringList{"second"});
        // Nor does it matter when all that the list belonged to goes meanwhile.
        auto* owner = new QWidget(window_.get());
        list = new PickList("Which?", {{"only", "Only", {}, {}, {}, {}}}, owner);
        QObject::connect(list, &PickList::picked, owner, [owner] { delete owner; });
        list->openAt(window_->mapToGlobal(QPoint(200, 200)));
        QTest::keyClick(list->findChild<QLineEdit*>(), Qt::Key_Return);
        QTRY_VERIFY(!list);
    }

    void a_menu_outlives_what_it_was_opened_over() {
        begin();
        const QString id = QString::fromStdString(piece().elements.back()->id);
        document().choose({id});
        ElementHead* head = nullptr;
        for (auto* h : window_->makings().findChildren<ElementHead*>())
            if (h->isVisible() && h->face().id == id) head = h;
        QVERIFY(head);
        const auto open = [&](QWidget* over) {
            QContextMenuEvent e(QContextMenuEvent::Mouse, over->rect().center(),
                                over->mapToGlobal(over->rect().center()));
            QApplication::sendEvent(over, &e);
            return qobject_cast<QMenu*>(QApplication::activePopupWidget());
        };
        QPointer<QMenu> menu = open(head);
        QVERIFY(menu);
        // The list is made anew meanwhile, and whoever asked for the menu is gone.
        const QPointer<QWidget> asked = head;
        document().edit("another", [](Piece& p) { p.elements.erase(p.elements.begin()); });
        QTest::qWait(20);
        QVERIFY(!asked && menu && menu->isVisible());
        for (QAction* a : menu->actions())
            if (a == window_->action("duplicate")) a->trigger();
        menu->close();
        QTest::qWait(1);
        QVERIFY(!menu);
        QVERIFY(settled());
        document().history().undo();
        document().history().undo();
        QVERIFY(settled());
    }

    void a_stroke_ends_its_own() {
        Document doc;
        Stroke picker = doc.stroke();
        {
            const Stroke drag = doc.stroke();
            doc.edit("drag", [](Piece& p) { p.exposure = 1; });
            doc.edit("drag", [](Piece& p) { p.exposure = 2; });
        }
        QVERIFY(doc.inStroke()); // the picker is still open
        QCOMPARE(doc.history().count(), 1);
        doc.edit("colour", [](Piece& p) { p.exposure = 3; });
        doc.edit("colour", [](Piece& p) { p.exposure = 4; });
        QCOMPARE(doc.history().count(), 2);
        picker.end();
        QVERIFY(!doc.inStroke());
        doc.edit("colour", [](Piece& p) { p.exposure = 5; });
        QCOMPARE(doc.history().count(), 3);
    }

    void odd_files_and_odd_data_leave_the_piece_as_it_was() {
        begin();
        const std::string before = text_of(piece());
        QFile text(dir_.filePath("words.png"));
        QVERIFY(text.open(QIODevice::WriteOnly) && text.write("no picture") > 0);
        text.close();
        window_->addFiles({text.fileName()});
        QVERIFY(QTest::qWaitFor([&] { return !window_->readingFiles(); }, 10000));
        QVERIFY2(window_->notices().text().contains("words.png"), qPrintable(window_->notices().text()));
        QCOMPARE(text_of(piece()), before);
        for (const char* clip :
             {"", "[]", "{\"parts\": 3}", "{\"parts\": \"{\\\"elements\\\": 7}\", \"files\": []}"}) {
            auto* mime = new QMimeData;
            mime->setData("application/x-bathylux-parts+json", clip);
            QApplication::clipboard()->setMimeData(mime);
            window_->action("paste")->trigger();
            QCOMPARE(text_of(piece()), before);
        }
        // As a sheet of sprites, what is no picture is told of on its card and keeps its place.
        document().edit("sheet", [&](Piece& p) {
            SpritesSource s;
            s.file = text.fileName().toStdString();
            add_element(
                p, Element{.id = "sheet", .name = "Sheet", .source = Described(source_kind("sprites"), s)});
        });
        QVERIFY(settled());
        QVERIFY(window_->desk().asset("sheet")->trouble.find("words.png") != std::string::npos);
    }

    void a_picture_is_pasted() {
        begin();
        QImage image(50, 20, QImage::Format_RGB32);
        image.fill(QColor(10, 200, 90));
        QApplication::clipboard()->setImage(image);
        const auto before = piece().elements.size();
        window_->action("paste")->trigger();
        QVERIFY(QTest::qWaitFor([&] { return piece().elements.size() == before + 1; }, 10000));
        QVERIFY(settled());
        const Asset* asset = window_->desk().asset(piece().elements.back()->id);
        QVERIFY(asset && asset->picture && asset->picture->width == 50);
        QVERIFY(document().isChosen(QString::fromStdString(piece().elements.back()->id)));
        document().history().undo();
        QCOMPARE(piece().elements.size(), before);
    }

    /// Ctrl+V into the words when nothing was copied yet; then with text, as one types it.
    void words_take_what_is_pasted_and_stand_when_that_is_nothing() {
        begin("line-tile");
        document().choose({"line"});
        QVERIFY(settled());
        auto* words = window_->makings().findChild<QPlainTextEdit*>();
        QVERIFY(words);
        words->setFocus();
        words->selectAll();
        const QString before = words->toPlainText();
        QApplication::clipboard()->setMimeData(new QMimeData);
        QTest::keyClick(words, Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(words->toPlainText(), before);
        auto* html = new QMimeData;
        html->setHtml("<b>LINE</b> 7");
        html->setText("LINE 7");
        QApplication::clipboard()->setMimeData(html);
        QTest::keyClick(words, Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(words->toPlainText(), QString("LINE 7"));
        QCOMPARE(find_element(piece().elements, "line")->source.as<TypeSource>()->text, "LINE 7");
        document().history().undo();
        QCOMPARE(
            QString::fromStdString(find_element(piece().elements, "line")->source.as<TypeSource>()->text),
            before);
    }

    void a_saved_piece_shows_its_last_look_and_small_pictures_come_again() {
        begin("depot-emblem");
        const QString path = dir_.filePath("emblem.bathylux");
        QVERIFY(window_->saveTo(path));
        QImage look;
        const files::Bytes png = files::thumbnail_of(path.toStdString());
        QVERIFY(look.loadFromData(reinterpret_cast<const uchar*>(png.data()), int(png.size())));
        QCOMPARE(std::max(look.width(), look.height()), 320);
        for (int round = 0; round < 2; ++round) {
            QVERIFY(window_->openPath(path));
            QVERIFY(QTest::qWaitFor([&] { return window_->desk().pictures.size() >= 3; }, 10000));
        }
    }

    void what_is_seen_is_taken_and_again_what_lies_below() {
        begin();
        stacked(false);
        click({165, 140});
        QCOMPARE(document().chosen(), QStringList{"above"});
        click({165, 140});
        QCOMPARE(document().chosen(), QStringList{"below"});
        click({80, 80}); // where only the lower one covers
        QCOMPARE(document().chosen(), QStringList{"below"});
        click({5, 5});
        QVERIFY(document().chosen().isEmpty());
    }

    void what_is_locked_is_not_taken() {
        begin();
        stacked(true);
        click({165, 140});
        QCOMPARE(document().chosen(), QStringList{"below"});
        document().choose({"above"});
        QVERIFY(settled());
        const float x = document().element("above")->placement.x;
        drag(&table(), onTable({165, 140}), onTable({260, 150}));
        QCOMPARE(document().element("above")->placement.x, x);
    }

    /// What a group does itself cannot go on without it: that is told, and undone in one click.
    void a_group_taken_apart_tells_what_is_gone() {
        begin("line-tile");
        document().choose({"slab"});
        window_->action("group")->trigger();
        const std::string plain = document().openElement()->id;
        window_->action("ungroup")->trigger();
        QVERIFY(!window_->notices().text().contains("Taken apart"));
        QVERIFY(!find_element(piece().elements, plain));
        window_->action("group")->trigger();
        const std::string g = document().openElement()->id;
        document().edit("Change", [&](Piece& p) {
            change(p, g, [](Element& e) {
                add_step(e, Step{.what = Described(step_kind("soften"))});
                e.mix.opacity = 0.5f, e.mix.visible = false;
            });
        });
        window_->action("ungroup")->trigger();
        QVERIFY2(window_->notices().text().contains("a step, its mixing"),
                 qPrintable(window_->notices().text()));
        QVERIFY(!find_element(piece().elements, "slab")->mix.visible);
        for (auto* b : window_->notices().findChildren<QAbstractButton*>())
            if (b->text() == "Undo") {
                b->click();
                break;
            }
        QVERIFY(find_element(piece().elements, g) && !find_element(piece().elements, g)->steps.empty());
        QVERIFY(window_->notices().text().isEmpty());
    }

    void a_double_click_goes_into_a_group() {
        begin();
        stacked(false);
        document().choose({"above"});
        window_->action("group")->trigger();
        const QString group = document().chosen().value(0);
        QVERIFY(document().element(group)->is_group());
        document().choose({});
        click({165, 140});
        QCOMPARE(document().chosen(), QStringList{group});
        QTest::mouseDClick(&table(), Qt::LeftButton, {}, onTable({165, 140}).toPoint());
        QCOMPARE(document().chosen(), QStringList{"above"});
    }

    void actions_are_known_by_ids_that_no_two_share() {
        begin({});
        QStringList ids;
        for (const QAction* a : window_->findChildren<QAction*>())
            if (!a->objectName().isEmpty() && window_->action(a->objectName())) ids << a->objectName();
        QVERIFY(ids.size() > 80);
        QCOMPARE(QSet<QString>(ids.begin(), ids.end()).size(), ids.size());
        // Without a piece there is nothing to paste into groups, export or align.
        for (const char* id : {"export-maps", "group", "align-left", "save"})
            QVERIFY2(!window_->action(id)->isEnabled(), id);
    }

    void the_canvas_says_what_it_will_be_made_with() {
        begin("line-tile");
        window_->action("canvas")->trigger();
        auto* draft = window_->findChild<QDoubleSpinBox*>("canvasDraft");
        auto* mesh = window_->findChild<QDoubleSpinBox*>("canvasMesh");
        QVERIFY(draft && mesh);
        draft->setValue(6), mesh->setValue(0.2);
        auto* dialog = qobject_cast<QDialog*>(draft->window());
        QTest::mouseClick(dialog->findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok),
                          Qt::LeftButton);
        QCOMPARE(piece().canvas.draft, 6.0f);
        QCOMPARE(piece().canvas.mesh, 0.2f);
        const QString path = dir_.filePath("die.bathylux");
        QVERIFY(window_->saveTo(path) && window_->openPath(path));
        QCOMPARE(piece().canvas.draft, 6.0f);
    }
};
BATHYLUX_TEST(TestKeeping)
#include "test_keeping.moc"
