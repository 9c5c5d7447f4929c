// The windows that ask: for a canvas, and for a new piece.
#include "core/piece/edit.h"
#include "driven_window.h"
#include "run.h"

using namespace bathylux;

class TestDialogs : public QObject, DrivenWindow {
    Q_OBJECT

    static QPushButton* button(const QWidget* dialog, QDialogButtonBox::StandardButton which) {
        return dialog->findChild<QDialogButtonBox*>()->button(which);
    }
    template <class T> static T* named(const QWidget* dialog, const QString& name) {
        for (T* w : dialog->findChildren<T*>())
            if (w->accessibleName() == name) return w;
        return nullptr;
    }
    QWidget* canvasDialog() {
        window_->action("canvas")->trigger();
        const auto* width = window_->findChild<QSpinBox*>("canvasWidth");
        return width ? width->window() : nullptr;
    }
    void press(const QWidget* dialog, QDialogButtonBox::StandardButton which) {
        QTest::mouseClick(button(dialog, which), Qt::LeftButton);
        QTest::qWait(1); // it goes when it is closed
    }
    /// Does something while the window waits for an answer.
    void answering(const std::function<void(QWidget*)>& work, const QString& action) {
        bool answered = false;
        QTimer::singleShot(0, [&] {
            if (QWidget* dialog = QApplication::activeModalWidget()) answered = true, work(dialog);
        });
        window_->action(action)->trigger();
        QVERIFY(answered);
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    /// A stray F2 in the picker, typing and Enter: no file or folder has another name, or is gone.
    void what_is_picked_from_keeps_its_name() {
        begin();
        const auto before = document().state().piece;
        QVERIFY(QDir(dir_.path()).mkdir("pictures"));
        const QStringList was = QDir(dir_.path()).entryList(QDir::AllEntries | QDir::NoDotAndDotDot);
        const QVariant folder = QSettings().value("folder");
        QSettings().setValue("folder", dir_.path());
        for (const QString action : {"open", "save-as"})
            answering(
                [&](QWidget* dialog) {
                    auto* picker = qobject_cast<QFileDialog*>(dialog);
                    QVERIFY2(picker, qPrintable(action));
                    picker->setDirectory(dir_.path());
                    auto* list = picker->findChild<QListView*>("listView");
                    const auto filled = [&] { return list->model()->rowCount(list->rootIndex()) == 1; };
                    QVERIFY(QTest::qWaitFor(filled, 5000 * patience));
                    list->setCurrentIndex(list->model()->index(0, 0, list->rootIndex()));
                    list->setFocus();
                    QTest::keyClick(list, Qt::Key_F2);
                    if (auto* name = list->findChild<QLineEdit*>()) { // where a new name would be typed
                        QTest::keyClicks(name, "12");
                        QTest::keyClick(name, Qt::Key_Return);
                    }
                    picker->reject();
                },
                action);
        QSettings().setValue("folder", folder);
        QCOMPARE(QDir(dir_.path()).entryList(QDir::AllEntries | QDir::NoDotAndDotDot), was);
        QCOMPARE(document().state().piece, before);
    }

    /// A box shows fewer digits than a number may have: looking at it and leaving with OK changes nothing.
    void a_canvas_that_was_only_looked_at_is_as_it_was() {
        begin();
        document().edit("exact", [](Piece& p) {
            p.canvas.px_per_mm = 300 / 25.4f, p.canvas.height_range = {-1.23456f, 7.654321f};
            p.surface.roughness = 1 / 3.0f;
        });
        const auto before = document().state().piece;
        const int edits = document().history().index();
        QWidget* dialog = canvasDialog();
        QVERIFY(dialog);
        press(dialog, QDialogButtonBox::Ok);
        QCOMPARE(document().history().index(), edits);
        QCOMPARE(document().state().piece, before);
        // One thing changed changes that alone.
        dialog = canvasDialog();
        named<QDoubleSpinBox>(dialog, "Ground roughness")->setValue(0.75);
        press(dialog, QDialogButtonBox::Ok);
        QCOMPARE(document().history().index(), edits + 1);
        Piece wanted = *before;
        wanted.surface.roughness = 0.75f;
        QCOMPARE(content_hash(piece()), content_hash(wanted));
        document().history().undo();
        QCOMPARE(document().state().piece, before);
    }

    /// Twice as large with all that is on it: as many mm, and the stated heights twice as far apart.
    void a_canvas_is_scaled_along_or_widened() {
        begin();
        document().edit("stated", [](Piece& p) { p.canvas.height_range = {-2.0f, 20.0f}; });
        const auto before = document().state().piece;
        const float px = before->canvas.px_per_mm, x = before->elements.back()->placement.x;
        QWidget* dialog = canvasDialog();
        dialog->findChild<QSpinBox*>("canvasWidth")->setValue(2 * before->canvas.columns());
        dialog->findChild<QSpinBox*>("canvasHeight")->setValue(2 * before->canvas.rows());
        dialog->findChild<QRadioButton*>("scaleAlong")->setChecked(true);
        press(dialog, QDialogButtonBox::Ok);
        QCOMPARE(piece().canvas.width, 2 * before->canvas.width);
        QCOMPARE(piece().canvas.px_per_mm, 2 * px);
        QVERIFY(piece().canvas.height_range == std::pair(-4.0f, 40.0f));
        QCOMPARE(piece().elements.back()->placement.x, 2 * x);
        document().history().undo();
        QCOMPARE(document().state().piece, before);

        dialog = canvasDialog();
        dialog->findChild<QSpinBox*>("canvasWidth")->setValue(before->canvas.columns() + 200);
        press(dialog, QDialogButtonBox::Ok);
        QCOMPARE(piece().canvas.width, before->canvas.width + 200);
        QCOMPARE(piece().elements.back()->placement.x, x + 100);
        QVERIFY(piece().canvas.height_range == before->canvas.height_range);
        QVERIFY(settled());
    }

    void heights_that_are_the_wrong_way_round_are_not_taken() {
        begin();
        QWidget* dialog = canvasDialog();
        auto* stated = dialog->findChild<QCheckBox*>();
        QVERIFY(stated && stated->text().contains("range of heights"));
        const auto* trouble = dialog->findChild<QLabel*>("trouble");
        QVERIFY(!trouble->isVisible() && button(dialog, QDialogButtonBox::Ok)->isEnabled());
        stated->setChecked(true);
        named<QDoubleSpinBox>(dialog, "Lowest height")->setValue(9);
        named<QDoubleSpinBox>(dialog, "Highest height")->setValue(9);
        QVERIFY(trouble->isVisible() && !button(dialog, QDialogButtonBox::Ok)->isEnabled());
        named<QDoubleSpinBox>(dialog, "Highest height")->setValue(12);
        QVERIFY(!trouble->isVisible());
        press(dialog, QDialogButtonBox::Ok);
        QVERIFY(piece().canvas.height_range == std::pair(9.0f, 12.0f));
    }

    void a_new_piece_has_the_size_that_was_asked_for() {
        begin({});
        answering(
            [&](QWidget* dialog) {
                auto* sizes = named<QComboBox>(dialog, "Size");
                const int a4 = sizes->findText("A4, upright");
                sizes->setCurrentIndex(a4);
                emit sizes->activated(a4);
                auto* mm = named<QDoubleSpinBox>(dialog, "Width in mm");
                QVERIFY(std::abs(mm->value() - 210) < 0.1);
                // A length in mm is as many px as the scale says; the other way round as well.
                mm->setFocus();
                mm->setValue(100);
                QCOMPARE(dialog->findChild<QSpinBox*>("newWidth")->value(), 1181);
                dialog->findChild<QSpinBox*>("newHeight")->setValue(600);
                QVERIFY(std::abs(named<QDoubleSpinBox>(dialog, "Height in mm")->value() - 50.8) < 0.01);
                press(dialog, QDialogButtonBox::Ok);
            },
            "new");
        QCOMPARE(piece().canvas.columns(), 1181);
        QCOMPARE(piece().canvas.rows(), 600);
        QVERIFY(std::abs(piece().canvas.px_per_mm - 300 / 25.4) < 1e-3);
        QVERIFY(settled());
        // The next one begins with it; who leaves it keeps what is open, unsaved work as well.
        document().edit("more", [](Piece& p) { p.exposure = 0.5f; });
        const auto before = document().state().piece;
        answering(
            [&](QWidget* dialog) {
                QCOMPARE(dialog->findChild<QSpinBox*>("newWidth")->value(), 1181);
                press(dialog, QDialogButtonBox::Cancel);
            },
            "new");
        QCOMPARE(document().state().piece, before);
        document().history().setClean();
    }
};

BATHYLUX_TEST(TestDialogs)
#include "test_dialogs.moc"
