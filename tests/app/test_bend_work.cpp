#include <QCheckBox>
#include <QLineEdit>
#include <QPushButton>

#include "app/controls/picture_tiles.h"
#include "app/document/corners.h"
#include "app/table/brush_row.h"
#include "app/windows/alternatives_sheet.h"
#include "app/windows/recipe_shelf.h"
#include "core/bend/pushed.h"
#include "core/paint/push.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "files/recipe_file.h"

#include "driven_window.h"
#include "run.h"

using namespace bathylux;

/// What wears, bends and is pushed, recipes and alternatives, in the window by hand.
class TestBendWork : public QObject, DrivenWindow {
    Q_OBJECT

    QPointF at(double x, double y) { return table().toScreen({x, y}, true); }
    const Element& element(const std::string& id) { return *find_element(piece().elements, id); }
    /// The id of the first element of a kind.
    QString ofKind(std::string_view kind) {
        QString out;
        for_each_element(piece().elements, [&](const Element& e) {
            if (out.isEmpty() && e.source.is(kind)) out = QString::fromStdString(e.id);
        });
        return out;
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void letters_are_pushed_undone_saved_and_stay_letters() {
        begin();
        const QString id = ofKind("type");
        document().choose({id});
        const Element before = element(id.toStdString());
        window_->action("brush-push")->trigger();
        QVERIFY(settled());
        const Vec2 c{before.placement.x, before.placement.y};
        const int edits = document().history().index();
        drag(&table(), at(c.x, c.y), at(c.x, c.y + 60));
        QVERIFY(settled());
        QCOMPARE(document().history().index(), edits + 1); // one stroke, one undo
        const auto pushed = [&] {
            const Step* s = find_step(element(id.toStdString()).steps, "pushed");
            return s ? s->what.as<Pushed>() : nullptr;
        };
        QVERIFY(pushed() && !pushed()->file.empty());
        // It goes before what moulds the edge, and does not fold.
        QCOMPARE(index_of_step(element(id.toStdString()).steps, "pushed"), 0);
        const auto painting = document().state().store.paintings.at(pushed()->file);
        QVERIFY(least_jacobian(*painting, painting->bounds()) > 0);
        QVERIFY(QTest::qWaitFor([&] { return table().streams() && table().streams()->longest > 5; }, 10000));
        // Swell its end, thin its middle: strokes on the same step.
        window_->action("brush-swell")->trigger();
        drag(&table(), at(c.x, c.y + 40), at(c.x + 2, c.y + 42));
        window_->action("brush-thin")->trigger();
        drag(&table(), at(c.x, c.y + 15), at(c.x + 2, c.y + 17));
        QVERIFY(settled());
        QCOMPARE(document().history().index(), edits + 3);
        // Still words.
        document().edit("Write", [&](Piece& p) {
            change(p, id.toStdString(),
                   [](Element& e) { e.source = e.source.with("text", std::string("OTHER")); });
        });
        QVERIFY(settled() && pushed());
        const QString path = dir_.filePath("pushed.bathylux");
        QVERIFY(window_->saveTo(path));
        const std::string saved = text_of(piece());
        const QImage shown = window_->desk().frame->right;
        QVERIFY(window_->openPath(path) && settled());
        QCOMPARE(text_of(piece()), saved);
        QVERIFY(window_->desk().frame->right.size() == shown.size());
        QTest::keyPress(&table(), Qt::Key_W);
        QVERIFY(QTest::qWaitFor([&] { return table().grab().toImage().size().isValid(); }, 100));
        QTest::keyRelease(&table(), Qt::Key_W);
    }

    void a_push_with_nothing_chosen_says_what_to_do() {
        begin();
        document().choose({});
        window_->action("brush-push")->trigger();
        const std::string was = text_of(piece());
        QSignalSpy refused(&table(), &Table::refused);
        drag(&table(), at(300, 200), at(320, 220));
        QVERIFY(!refused.isEmpty() && refused.first().first().toString().contains("Choose"));
        QCOMPARE(text_of(piece()), was);
    }

    void the_corners_of_a_perspective_are_dragged_but_never_folded() {
        begin();
        document().choose({"plate"});
        emit window_->makings().addStep("perspective");
        window_->action("tool-place")->trigger();
        QVERIFY(settled());
        const auto corners = cornersOf(window_->desk());
        QVERIFY(corners);
        const Vec2 c = corners->at[0];
        const int edits = document().history().index();
        drag(&table(), at(c.x, c.y), at(c.x + 60, c.y + 40));
        QVERIFY(settled());
        QCOMPARE(document().history().index(), edits + 1);
        const auto now = [&] {
            return *find_step(element("plate").steps, "perspective")->what.as<Perspective>();
        };
        QVERIFY(std::abs(now().tl_x - 60) < 3 && std::abs(now().tl_y - 40) < 3);
        // Far over the opposite side it would fold: it stays where it last stood.
        drag(&table(), at(c.x + 60, c.y + 40), at(corners->at[2].x + 50, corners->at[2].y + 50));
        QVERIFY(settled());
        QVERIFY(now().stands(cornersOf(window_->desk())->context));
        document().history().undo();
        document().history().undo();
        QCOMPARE(now().tl_x, 0.0f);
    }

    void wear_and_displacement_go_by_another_element() {
        begin();
        window_->addElement("noise");
        const QString grain = document().chosen().front();
        document().choose({"plate"});
        emit window_->makings().addStep("wear");
        QVERIFY(settled());
        auto* gone = control<QWidget>("Gone");
        QVERIFY(gone);
        // Its grain is taken from the card's own menu.
        QToolButton* take = nullptr;
        for (auto* b : window_->makings().findChildren<QToolButton*>("takeMap"))
            if (b->accessibleName() == "Grain" && b->isVisible()) take = b;
        QVERIFY(take && take->menu());
        emit take->menu()->aboutToShow();
        for (QAction* a : take->menu()->actions())
            if (a->text() == nameOf(element(grain.toStdString()))) a->trigger();
        const auto by = [&] {
            return map_in(find_step(element("plate").steps, "wear")->what, *step_kind("wear").find("by"));
        };
        QVERIFY(by() && by()->element == grain.toStdString());
        QVERIFY(settled());
        QVERIFY(users_of(piece(), grain.toStdString()) == std::vector<std::string>{"plate"});
        while (document().history().canUndo()) document().history().undo();
        QVERIFY(settled());
    }

    void a_look_is_kept_poured_over_another_and_undone() {
        begin();
        QDir(RecipeShelf::ownFolder()).removeRecursively();
        const QString words = ofKind("type");
        document().choose({"plate"});
        window_->action("recipes")->trigger();
        auto* shelf = window_->findChild<RecipeShelf*>("recipeShelf");
        QVERIFY(shelf && shelf->isVisible());
        const int shipped = shelf->tiles().count();
        shelf->findChild<QPushButton*>("keepRecipe")->click();
        auto* ask = shelf->findChild<QDialog*>("keepDialog");
        QVERIFY(ask);
        auto* name = ask->findChild<QLineEdit*>("recipeName");
        name->selectAll();
        QTest::keyClicks(name, "Plate of the yard");
        QTest::keyClick(name, Qt::Key_Return);
        QVERIFY(QTest::qWaitFor([&] { return shelf->tiles().count() == shipped + 1; }, 5000));
        QVERIFY(shelf->tiles().currentItem() && shelf->tiles().currentItem()->text() == "Plate of the yard");
        shelf->reject();
        // Poured over the words: its steps and surface, one undo, and the words' own text.
        document().choose({words});
        const std::string before = text_of(piece());
        window_->action("recipes")->trigger();
        shelf = nullptr;
        for (auto* s : window_->findChildren<RecipeShelf*>("recipeShelf"))
            if (s->isVisible()) shelf = s;
        QVERIFY(shelf);
        QVERIFY(QTest::qWaitFor([&] { return shelf->ready(); }, 60000 * patience));
        for (int i = 0; i < shelf->tiles().count(); ++i)
            if (shelf->tiles().item(i)->text() == "Plate of the yard") shelf->tiles().setCurrentRow(i);
        shelf->findChild<QPushButton*>("pour")->click();
        QVERIFY(settled());
        QCOMPARE(element(words.toStdString()).steps.size(), element("plate").steps.size());
        QVERIFY(element(words.toStdString()).surface.has_value());
        document().history().undo();
        QCOMPARE(text_of(piece()), before);
        // The file that was kept can be dropped on another window's piece.
        const QString file =
            QDir(RecipeShelf::ownFolder()).entryInfoList(QDir::Files).front().absoluteFilePath();
        window_->addFiles({file});
        QVERIFY(QTest::qWaitFor(
            [&] {
                for (auto* s : window_->findChildren<RecipeShelf*>("recipeShelf"))
                    if (s->isVisible()) return true;
                return false;
            },
            5000));
        QDir(RecipeShelf::ownFolder()).removeRecursively();
    }

    void alternatives_are_shown_and_one_is_taken() {
        begin();
        document().choose({"plate"});
        emit window_->makings().addStep("wear");
        QVERIFY(settled());
        window_->action("alternatives")->trigger();
        auto* sheet = window_->findChild<AlternativesSheet*>("alternativesSheet");
        QVERIFY(sheet && sheet->isVisible());
        QCOMPARE(sheet->tiles().count(), 12);
        QVERIFY(QTest::qWaitFor([&] { return sheet->ready(); }, 120000 * patience));
        const std::string before = text_of(piece());
        sheet->tiles().setCurrentRow(3);
        sheet->findChild<QPushButton*>("takeAlternative")->click();
        QVERIFY(settled());
        QVERIFY(text_of(piece()) != before);
        document().history().undo();
        QCOMPARE(text_of(piece()), before);
    }

    void what_is_set_up_at_once_is_made_of_ordinary_parts() {
        begin();
        const QString words = ofKind("type");
        const std::string before = text_of(piece());
        for (const char* action :
             {"reflect", "water", "roughen", "roughen-rim", "roughen-in-proportion", "outline-element",
              "inner-edge-element", "shadow-band", "words-to-drawing"}) {
            document().choose({words});
            const int edits = document().history().index();
            window_->action(action)->trigger();
            QVERIFY2(settled(), action);
            QVERIFY2(document().history().index() == edits + 1, action);
            QVERIFY2(cycle_in(piece()).empty(), action);
            QVERIFY2(text_of(piece_from_text(text_of(piece()))) == text_of(piece()), action);
            document().history().undo();
            QVERIFY2(text_of(piece()) == before, action);
        }
        // Words along an ellipse that is chosen with them.
        window_->addElement("ellipse");
        const QString ellipse = document().chosen().front();
        document().choose({words, ellipse});
        window_->action("words-along")->trigger();
        QVERIFY(settled());
        QCOMPARE(std::get<std::string>(element(words.toStdString()).source.get("path")),
                 ellipse.toStdString());
        QVERIFY(window_->desk().asset(words.toStdString()) &&
                window_->desk().asset(words.toStdString())->trouble.empty());
    }
};

BATHYLUX_TEST(TestBendWork)
#include "test_bend_work.moc"
