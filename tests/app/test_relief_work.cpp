// Painting, masks, sprites, normal maps and checks, by mouse and keys in the real window.
#include "app/controls/controls.h"
#include "app/document/painter.h"
#include "core/light/lights.h"
#include "core/light/normals.h"
#include "core/piece/edit.h"
#include "core/piece/kinds.h"
#include "core/piece/references.h"
#include "core/relief/by_hand.h"
#include "core/render/sounding.h"
#include "driven_window.h"
#include "run.h"

using namespace bathylux;

class TestReliefWork : public QObject, DrivenWindow {
    Q_OBJECT

    /// The height the table shows at a place.
    float heightAt(Vec2 at) const {
        const auto& f = window_->desk().frame;
        const auto s = sound(*f->relief, f->shot.scale, piece().canvas.edge, at);
        return s ? s->height : 1e9f;
    }
    QPointF onTable(Vec2 canvas) const { return table().toScreen(canvas); }
    void paintLine(Vec2 from, Vec2 to, Qt::KeyboardModifiers m = {}) {
        drag(&table(), onTable(from), onTable(to), m);
        QVERIFY(settled());
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void a_stroke_is_kept_undone_saved_and_reopened() {
        begin("line-tile");
        document().choose({"slab"});
        table().setTool(Table::Tool::paint);
        table().painter().brush.size = 60;
        table().painter().brush.hardness = 1;
        table().painter().brush.flow = 1;
        table().painter().brush.height = 5;
        table().painter().brush.ceiling = 5;
        const Vec2 at{650, 300}; // level ground on the slab
        const float before = heightAt(at);
        const int undos = document().history().count();
        const quint64 said = document().saying();
        paintLine({560, 300}, {740, 300});
        QVERIFY2(std::abs(heightAt(at) - before - 5) < 0.05,
                 qPrintable(QString::number(heightAt(at) - before)));
        QCOMPARE(document().history().count(), undos + 1);
        QVERIFY(document().saying() != said); // frames kept ready are no more
        QCOMPARE(document().history().undoText(), QString("Raise by hand"));
        // Smooth it down again, which looks at what is there.
        table().painter().brush.work = BrushWork::level;
        paintLine({650, 420}, {650, 280}); // level to the ground first touched
        QVERIFY2(std::abs(heightAt(at) - before) < 0.3, qPrintable(QString::number(heightAt(at) - before)));
        document().history().undo();
        QVERIFY(settled());
        QVERIFY(std::abs(heightAt(at) - before - 5) < 0.05);
        const QString path = dir_.filePath("painted.bathylux");
        QVERIFY(window_->saveTo(path));
        document().history().setClean();
        window_ = std::make_unique<Window>();
        window_->show();
        QVERIFY(window_->openPath(path));
        QVERIFY(settled());
        QVERIFY2(std::abs(heightAt(at) - before - 5) < 0.05,
                 qPrintable(QString::number(heightAt(at) - before)));
        // And painted on again after that.
        document().choose({"slab"});
        table().setTool(Table::Tool::paint);
        table().painter().brush = {};
        table().painter().brush.work = BrushWork::lower;
        table().painter().brush.size = 60;
        table().painter().brush.hardness = table().painter().brush.flow = 1;
        table().painter().brush.height = 3;
        drag(&table(), onTable(at), onTable(at));
        QVERIFY(settled());
        QVERIFY(heightAt(at) < before + 3);
        document().history().undo();
        QVERIFY(settled());
        QVERIFY(std::abs(heightAt(at) - before - 5) < 0.05);
    }

    /// A brush raises by what it says, however large the group is it paints in, and after a resize.
    void a_brush_raises_by_what_it_says() {
        begin("line-tile");
        document().edit("Group", [](Piece& p) {
            const std::string g = group(p, {"slab"});
            change(p, g, [](Element& e) { e.placement.scale_u = e.placement.scale_v = 2; });
        });
        document().choose({"slab"});
        table().setTool(Table::Tool::paint);
        Brush& b = table().painter().brush;
        b.size = 60, b.hardness = b.flow = 1, b.height = b.ceiling = 5;
        QVERIFY(settled());
        const Vec2 at{650, 300};
        const float before = heightAt(at);
        paintLine({600, 300}, {700, 300});
        QVERIFY2(std::abs(heightAt(at) - before - 5) < 0.05,
                 qPrintable(QString::number(heightAt(at) - before)));
        // What was painted is looked at as high as it lies.
        b.work = BrushWork::level, b.ceiling = 0;
        paintLine({650, 420}, {650, 280});
        QVERIFY2(std::abs(heightAt(at) - before) < 0.3, qPrintable(QString::number(heightAt(at) - before)));
        document().history().undo();
        document().edit("Scale", [](Piece& p) { resize(p, 0.5); });
        QVERIFY(settled());
        QVERIFY(std::abs(heightAt({325, 150}) - (before + 5) / 2) < 0.1);
        b.work = BrushWork::raise, b.ceiling = 7.5f; // 2.5 are there
        paintLine({300, 150}, {350, 150});
        QVERIFY2(std::abs(heightAt({325, 150}) - (before + 5) / 2 - 5) < 0.1,
                 qPrintable(QString::number(heightAt({325, 150}))));
    }

    void with_nothing_chosen_a_layer_is_made_and_shift_draws_straight() {
        begin("line-tile");
        document().choose({});
        table().setTool(Table::Tool::paint);
        Brush& b = table().painter().brush;
        b.size = 40, b.hardness = 1, b.flow = 1, b.height = 4, b.ceiling = 4;
        const Vec2 first{300, 250}, second{1000, 250};
        QVERIFY(settled()); // the brush's row made the table smaller
        const float before = heightAt({650, 250});
        drag(&table(), onTable(first), onTable(first));
        QCOMPARE(piece().elements.back()->source.kind().id, std::string_view("paint"));
        drag(&table(), onTable(second), onTable(second), Qt::ShiftModifier);
        QVERIFY(settled());
        QVERIFY2(std::abs(heightAt({650, 250}) - before - 4) < 0.05,
                 qPrintable(QString::number(heightAt({650, 250}) - before)));
        // Hiding needs something to hide.
        document().choose({});
        b.work = BrushWork::hide;
        drag(&table(), onTable(first), onTable(first));
        QVERIFY(window_->notices().text().contains("Choose the element"));
    }

    void copies_part_their_strokes_when_one_is_painted_on() {
        begin("line-tile");
        document().choose({"upper"});
        table().setTool(Table::Tool::paint);
        drag(&table(), onTable({650, 672}), onTable({700, 672}));
        QVERIFY(settled());
        window_->action("duplicate")->trigger();
        QVERIFY(settled());
        const std::string copy = document().chosen().back().toStdString();
        const auto shared = strokes_of(*find_element(piece().elements, "upper"));
        QCOMPARE(strokes_of(*find_element(piece().elements, copy)), shared);
        drag(&table(), onTable({600, 672}), onTable({640, 672}));
        QVERIFY(strokes_of(*find_element(piece().elements, copy)) != shared);
        QCOMPARE(strokes_of(*find_element(piece().elements, "upper")), shared);
    }

    void what_is_painted_goes_along_with_a_copy_into_another_piece() {
        begin("line-tile");
        document().choose({"upper"});
        table().setTool(Table::Tool::paint);
        Brush& b = table().painter().brush;
        b.size = 80, b.hardness = b.flow = 1, b.height = 6;
        const float before = heightAt({650, 700});
        drag(&table(), onTable({650, 700}), onTable({650, 700}));
        QVERIFY(settled());
        const float rise = heightAt({650, 700}) - before;
        QVERIFY(rise > 5);
        window_->action("copy")->trigger();
        document().history().setClean();
        QVERIFY(window_->openDemo(demoFolder() + "/line-tile.json"));
        QVERIFY(settled());
        document().edit("bare", [](Piece& p) {
            std::erase_if(p.elements, [](const Element& e) { return e.id == "upper"; });
        });
        window_->action("paste")->trigger();
        QVERIFY(settled());
        const QString path = dir_.filePath("pasted.bathylux");
        QVERIFY(window_->saveTo(path));
        QVERIFY(window_->openPath(path));
        QVERIFY(settled());
        const float painted = heightAt({650, 700});
        document().edit("off", [](Piece& p) {
            change_all(p.elements, [](Element& e) {
                for (Node<Step>& s : e.steps)
                    if (s->what.is("by_hand")) s = s.with([](Step& off) { off.on = false; });
            });
        });
        QVERIFY(settled());
        QVERIFY2(std::abs(painted - heightAt({650, 700}) - rise) < 0.1,
                 qPrintable(QString("%1").arg(painted)));
    }

    void a_mask_is_set_by_menu_opened_and_taken_away() {
        begin("cobbles");
        document().choose({"mark"});
        QVERIFY(settled());
        document().edit("bare", [](Piece& p) { change(p, "mark", [](Element& e) { e.mix.mask.reset(); }); });
        // Open the fold, then the menu of the mask's line.
        for (auto* row : window_->makings().findChildren<QWidget*>())
            if (row->accessibleName() == "Mixing") QTest::mouseClick(row, Qt::LeftButton);
        QToolButton* take = nullptr;
        for (auto* b : window_->makings().findChildren<QToolButton*>("takeMap"))
            if (b->accessibleName() == "Mask" && b->isVisible()) take = b;
        QVERIFY(take);
        emit take->menu()->aboutToShow();
        QAction* worn = nullptr;
        for (QAction* a : take->menu()->actions())
            if (a->text() == "Worn paint") worn = a;
        QVERIFY(worn && worn->isEnabled());
        worn->trigger();
        QVERIFY(settled());
        const auto mask = find_element(piece().elements, "mark")->mix.mask;
        QVERIFY(mask && mask->element == "worn" && mask->of == MapOf::tone);
        QVERIFY(mask->low > 0.05f && mask->high < 0.95f); // stretched to the map's own range
        // The line leads to the map, and the map's card leads back.
        QTest::mouseClick(window_->makings().findChild<QToolButton*>("openMap"), Qt::LeftButton);
        QCOMPARE(document().chosen(), QStringList{"worn"});
        QTest::mouseClick(window_->makings().findChild<QToolButton*>("readBy"), Qt::LeftButton);
        QCOMPARE(document().chosen(), QStringList{"mark"});
        // What reads it cannot be read by it.
        QVERIFY(!may_read(piece(), "worn", "mark"));
        document().history().undo();
        QVERIFY(!find_element(piece().elements, "mark")->mix.mask);
    }

    void frames_play_are_painted_one_by_one_and_go_out_as_a_sheet() {
        begin("ticket-beetle");
        QCOMPARE(window_->findChild<TimeStrip*>()->frames(), 8);
        const QImage first = window_->desk().frame->right;
        QTest::mouseClick(window_->drawer().findChild<QToolButton*>("frameOn"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor(
            [&] { return window_->desk().frame->shot.frame == 1 && window_->desk().renderer.idle(); }, 5000));
        QVERIFY(window_->desk().frame->right != first);
        // Painted on the second frame: the first stays as it was.
        document().choose({"beetle"});
        table().setTool(Table::Tool::paint);
        Brush& b = table().painter().brush;
        b.size = 10, b.hardness = b.flow = 1, b.height = 6;
        drag(&table(), onTable({46, 44}), onTable({46, 44}));
        QVERIFY(settled());
        const QImage painted = window_->desk().frame->right;
        QTest::mouseClick(window_->drawer().findChild<QToolButton*>("frameBack"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor(
            [&] { return window_->desk().frame->shot.frame == 0 && window_->desk().renderer.idle(); }, 5000));
        QCOMPARE(window_->desk().frame->right, first);
        // The onion shows what lies before and after.
        QTest::mouseClick(window_->drawer().findChild<QToolButton*>("frameOnion"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor(
            [&] { return window_->desk().frame->shot.onion && window_->desk().renderer.idle(); }, 5000));
        QVERIFY(window_->desk().frame->right != first);
        QTest::mouseClick(window_->drawer().findChild<QToolButton*>("framePlay"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return window_->desk().document.frame() >= 2; }, 5000));
        QTest::mouseClick(window_->drawer().findChild<QToolButton*>("framePlay"), Qt::LeftButton);

        std::vector<files::Order> orders;
        for (const auto& [view, file] : {std::pair{View::lit, "lit.png"},
                                         {View::height, "height.png"},
                                         {View::normals, "normals.png"}}) {
            files::Order o;
            o.how.view = view;
            o.path = dir_.filePath(file).toStdString();
            o.sheet = true;
            orders.push_back(o);
        }
        window_->exportAll(orders);
        QVERIFY(QTest::qWaitFor([&] { return !window_->exporting(); }, 30000));
        const QImage sheet(dir_.filePath("lit.png"));
        QCOMPARE(sheet.size(), QSize(384, 192)); // the packing it came in
        QCOMPARE(QImage(dir_.filePath("height.png")).size(), QSize(384, 192));
        // Colours go on beneath the alpha: no black to bleed into a filtered edge.
        int bare = 0;
        for (int y = 0; y < 96; ++y)
            for (int x = 0; x < 96; ++x)
                if (const QColor c = sheet.pixelColor(x, y);
                    c.alpha() == 0 && c.red() + c.green() + c.blue() == 0)
                    ++bare;
        QVERIFY2(bare < 50, qPrintable(QString::number(bare)));
        QFile index(dir_.filePath("lit.json"));
        QVERIFY(index.open(QIODevice::ReadOnly));
        const auto json = QJsonDocument::fromJson(index.readAll()).object();
        QCOMPARE(json["frames"].toArray().size(), 8);
        QCOMPARE(json["frames"].toArray()[5].toObject()["x"].toInt(), 96);
        // Frames of one piece share a range of heights: the same grey is the same height.
        QVERIFY(painted.size() == first.size());
        const QString path = dir_.filePath("beetle.bathylux");
        QVERIFY(window_->saveTo(path));
        QVERIFY(window_->openPath(path));
        QVERIFY(settled());
        QVERIFY(window_->desk().frame->assets->contains(painting_key("strokes/beetle-1.exr")));
        QVERIFY(!window_->desk().frame->assets->contains(painting_key("strokes/beetle-0.exr")));
    }

    void a_dropped_normal_map_becomes_height_and_can_be_a_picture_instead() {
        Plane truth(160, 120);
        for (int y = 0; y < 120; ++y)
            for (int x = 0; x < 160; ++x)
                truth(x, y) = static_cast<float>(7 * std::sin(x / 11.0) * std::cos(y / 9.0));
        const Region all{0, 0, 160, 120};
        const auto n = normals(Field(truth), all, all, 1, Edge::clamp);
        QImage map(160, 120, QImage::Format_RGB888);
        for (int y = 0; y < 120; ++y)
            for (int x = 0; x < 160; ++x) {
                const auto byte = [](float v) { return static_cast<int>(std::lround(127.5 + 127.5 * v)); };
                map.setPixelColor(
                    x, y, QColor(byte(n[0](x, y)), byte(-n[1](x, y)), byte(n[2](x, y)))); // green down
            }
        QVERIFY(map.save(dir_.filePath("wall.png")));
        begin({});
        QVERIFY(tookIn({dir_.filePath("wall.png")}));
        QVERIFY(piece().elements.front()->source.is("normals"));
        QVERIFY2(window_->notices().text().contains("green points down"),
                 qPrintable(window_->notices().text()));
        for (const Vec2 at : {Vec2{40, 30}, {90, 70}, {120, 50}})
            QVERIFY2(std::abs(heightAt(at) - heightAt({80.5, 60.5}) -
                              (truth(int(at.x), int(at.y)) - truth(80, 60))) < 0.6,
                     qPrintable(QString("%1").arg(heightAt(at))));
        auto* instead = [&]() -> QToolButton* {
            for (auto* b : window_->notices().findChildren<QToolButton*>())
                if (b->text() == "take it as a picture") return b;
            return nullptr;
        }();
        QVERIFY(instead);
        QTest::mouseClick(instead, Qt::LeftButton);
        QVERIFY(piece().elements.front()->source.is("picture"));
        QCOMPARE(piece().elements.size(), std::size_t{1});
    }

    void numbered_files_and_sheets_become_sprites() {
        for (int i = 1; i <= 3; ++i) {
            QImage f(24, 20, QImage::Format_ARGB32);
            f.fill(Qt::transparent);
            for (int y = 4; y < 16; ++y)
                for (int x = 2 * i; x < 2 * i + 10; ++x) f.setPixelColor(x, y, QColor(200, 120, 40));
            f.save(dir_.filePath(QString("walk-%1.png").arg(i + 8)));
        }
        begin({});
        QVERIFY(tookIn(
            {dir_.filePath("walk-11.png"), dir_.filePath("walk-9.png"), dir_.filePath("walk-10.png")}));
        const auto* s = piece().elements.front()->source.as<SpritesSource>();
        QVERIFY(s && s->files.size() == 3 && s->files[0].ends_with("walk-9.png") &&
                s->files[2].ends_with("walk-11.png"));
        QCOMPARE(piece().canvas.columns(), 24);
        QCOMPARE(window_->findChild<TimeStrip*>()->frames(), 3);
        // A sheet is offered its grid.
        QImage sheet(96, 32, QImage::Format_ARGB32);
        sheet.fill(Qt::transparent);
        for (int k = 0; k < 3; ++k)
            for (int y = 6; y < 26; ++y)
                for (int x = 6; x < 26; ++x) sheet.setPixelColor(32 * k + x, y, QColor(60, 90 + 40 * k, 200));
        sheet.save(dir_.filePath("sheet.png"));
        end();
        begin({});
        QVERIFY(tookIn({dir_.filePath("sheet.png")}));
        QToolButton* cut = nullptr;
        for (auto* b : window_->notices().findChildren<QToolButton*>())
            if (b->text() == "cut it into frames") cut = b;
        QVERIFY(cut);
        QTest::mouseClick(cut, Qt::LeftButton);
        QVERIFY(settled());
        s = piece().elements.front()->source.as<SpritesSource>();
        QVERIFY(s && s->columns == 3 && s->rows == 1);
        QCOMPARE(piece().canvas.columns(), 32);
    }

    void a_height_map_of_ours_comes_back_at_its_own_height() {
        begin("line-tile");
        files::Export how;
        how.view = View::height, how.scale = 0.25;
        window_->exportTo(dir_.filePath("tile-height.png"), how);
        QVERIFY(QTest::qWaitFor([&] { return !window_->exporting(); }, 30000));
        const float middle = heightAt({650, 730}), rim = heightAt({120, 650});
        end();
        begin({});
        QVERIFY(tookIn({dir_.filePath("tile-height.png")}));
        QCOMPARE(piece().canvas.px_per_mm, 13.0f); // read back from the file
        QVERIFY2(
            std::abs((heightAt({162.5, 182.5}) - heightAt({30, 162.5})) - (middle - rim)) < 0.25,
            qPrintable(
                QString("%1 vs %2").arg(heightAt({162.5, 182.5}) - heightAt({30, 162.5})).arg(middle - rim)));
    }

    void the_join_the_contours_and_the_drawing_of_a_section() {
        begin("line-tile");
        const QImage before = window_->desk().frame->right;
        window_->action("join")->trigger();
        QVERIFY(QTest::qWaitFor(
            [&] { return window_->desk().frame->shot.join && window_->desk().renderer.idle(); }, 5000));
        const QImage joined = window_->desk().frame->right;
        QCOMPARE(joined.pixelColor(joined.width() / 2, joined.height() / 2), before.pixelColor(0, 0));
        window_->action("join")->trigger();
        window_->action("contours-5")->trigger();
        QVERIFY(QTest::qWaitFor(
            [&] { return window_->desk().frame->contourStep == 5 && window_->desk().renderer.idle(); },
            5000));
        const std::string drawing = sectionDrawing(window_->desk().scene(), "tile");
        QXmlStreamReader xml(QString::fromStdString(drawing));
        QStringList texts;
        while (!xml.atEnd())
            if (xml.readNext() == QXmlStreamReader::StartElement && xml.name() == QLatin1String("text"))
                texts << xml.readElementText();
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
        // The line is 1180 px long at 13 px a mm.
        QVERIFY2(texts.contains("90.77 mm (1180 px)"), qPrintable(texts.join('|')));
    }

    void a_spot_is_aimed_by_hand_and_throws_shadow() {
        begin("line-tile");
        window_->action("add-light-spot")->trigger();
        QVERIFY(settled());
        const auto spot = [&] { return *piece().lights.back()->what.as<SpotLight>(); };
        table().setTool(Table::Tool::light);
        const Vec2 aim{spot().target_x, spot().target_y};
        const int undos = document().history().count();
        drag(&table(), onTable(aim), onTable(aim + Vec2{-120, 90}));
        QVERIFY(settled());
        QVERIFY2(std::abs(spot().target_x - (aim.x - 120)) < 3 &&
                     std::abs(spot().target_y - (aim.y + 90)) < 3,
                 qPrintable(QString("%1, %2").arg(spot().target_x).arg(spot().target_y)));
        QCOMPARE(document().history().count(), undos + 1);
        // Its shadow is one switch: the lit picture darkens somewhere and brightens nowhere.
        document().edit("alone", [](Piece& p) {
            p.keep_flat_color = false;
            for (Node<Light>& l : p.lights) l = l.with([](Light& x) { x.on = x.what.is("spot"); });
            change_light(p, p.lights.back()->id, [](Light& l) { l.what = l.what.with("z", 60.0); });
        });
        QVERIFY(settled());
        const QImage before = window_->desk().frame->right;
        auto* shadow = control<Switch>("Casts shadow");
        QVERIFY(shadow);
        QTest::mouseClick(shadow, Qt::LeftButton);
        QVERIFY(settled());
        const QImage after = window_->desk().frame->right;
        int darker = 0, brighter = 0;
        for (int y = 0; y < after.height(); ++y)
            for (int x = 0; x < after.width(); ++x) {
                const int d = after.pixelColor(x, y).lightness() - before.pixelColor(x, y).lightness();
                darker += d<-8, brighter += d> 1;
            }
        QVERIFY2(darker > 60 && brighter == 0,
                 qPrintable(QString("%1 darker, %2 brighter").arg(darker).arg(brighter)));
    }

    void a_light_follows_the_hand_and_clipped_light_shows() {
        begin();
        document().chooseLight("lantern");
        const auto lantern = [&]() -> PointLight {
            for (const Light& l : piece().lights)
                if (l.id == "lantern") return *l.what.as<PointLight>();
            return {};
        };
        const float z = lantern().z;
        const int undos = document().history().count();
        table().setFocus();
        QTest::keyPress(&table(), Qt::Key_F);
        QVERIFY(table().following());
        for (const Vec2 at : {Vec2{500, 400}, {600, 500}, {700, 650}})
            QTest::mouseMove(&table(), onTable(at).toPoint());
        QWheelEvent wheel(onTable({700, 650}), table().mapToGlobal(onTable({700, 650})), {}, {0, 240},
                          Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(&table(), &wheel);
        QTest::keyRelease(&table(), Qt::Key_F);
        QVERIFY(settled());
        QVERIFY2(std::abs(lantern().x - 700) < 4 && std::abs(lantern().y - 650) < 4,
                 qPrintable(QString::number(lantern().x)));
        QVERIFY(lantern().z > 1.2f * z);
        QCOMPARE(document().history().count(), undos + 1); // all of it one undo
        QTest::mouseMove(&table(), onTable({900, 300}).toPoint());
        QVERIFY(std::abs(lantern().x - 700) < 4); // let go

        const auto coral = [&] {
            int n = 0;
            const QImage& image = window_->desk().frame->right;
            for (int y = 0; y < image.height(); ++y)
                for (int x = 0; x < image.width(); ++x) n += image.pixel(x, y) == qRgb(228, 102, 76);
            return n;
        };
        document().edit("bright", [](Piece& p) { p.exposure = 2, p.roll_off = RollOff::none; });
        QVERIFY(settled());
        QVERIFY(coral() < 20);
        window_->action("clipped")->trigger();
        QVERIFY(QTest::qWaitFor(
            [&] { return window_->desk().frame->shot.showClipped && window_->desk().renderer.idle(); },
            5000));
        QVERIFY(coral() > 2000);
    }

    void every_kind_can_be_added_and_gives_something() {
        begin("line-tile");
        for (const char* kind : {"form", "noise", "pattern", "paint", "rectangle"}) {
            const auto before = piece().elements.size();
            window_->addElement(kind);
            QCOMPARE(piece().elements.size(), before + 1);
            QVERIFY(settled());
        }
        // Every step there is can be put on the chosen element, shown, and taken back.
        document().choose({"slab"});
        const auto steps = find_element(piece().elements, "slab")->steps.size();
        for (const char* kind : {"even_light", "median", "smooth", "deterrace", "terrace", "total_rise",
                                 "inset", "border", "round_corners", "knock_out", "meet_edges", "by_hand"}) {
            window_->addStep(kind);
            QVERIFY(settled());
            QCOMPARE(find_element(piece().elements, "slab")->steps.size(), steps + 1);
            document().history().undo();
        }
    }
};
BATHYLUX_TEST(TestReliefWork)
#include "test_relief_work.moc"
