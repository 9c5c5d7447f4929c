// Strips, several lights at once, moods, surfaces and the light's parts, by mouse and keys in the real
// window.
#include <zip.h>

#include "app/controls/ruled_scale.h"
#include "app/desk/light_desk.h"
#include "app/desk/sky_chart.h"
#include "app/document/kept.h"
#include "app/windows/export_dialog.h"
#include "core/field/srgb.h"
#include "core/light/lights.h"
#include "core/piece/codec.h"
#include "core/render/lit_parts.h"
#include "core/render/tied_lights.h"
#include "driven_window.h"
#include "files/export_parts.h"
#include "files/pictures.h"
#include "run.h"

using namespace bathylux;

class TestLightWork : public QObject, DrivenWindow {
    Q_OBJECT

    template <class T> T light(const std::string& id) const {
        for (const Light& l : piece().lights)
            if (l.id == id) return *l.what.as<T>();
        return {};
    }
    QPointF onTable(Vec2 canvas) const { return table().toScreen(canvas); }
    void trigger(QMenu* menu, const QString& name) {
        emit menu->aboutToShow();
        for (QAction* a : menu->findChildren<QAction*>())
            if (a->text() == name) return a->trigger();
        QFAIL(qPrintable("no " + name));
    }
    QMenu* menuOf(const char* button) const {
        for (auto* b : window_->findChildren<QToolButton*>(button))
            if (b->isVisible()) return b->menu();
        return nullptr;
    }

  private slots:
    void initTestCase() { prepare(); }
    void cleanup() { end(); }

    void a_strip_is_turned_and_stretched_by_its_ends() {
        begin();
        window_->action("add-light-strip")->trigger();
        QVERIFY(settled());
        table().setTool(Table::Tool::light);
        const std::string id = piece().lights.back()->id;
        const StripLight start = light<StripLight>(id);
        const double a = start.turn * radians_per_degree, half = start.length / 2;
        const Vec2 end{start.x + half * std::cos(a), start.y - half * std::sin(a)};
        const int undos = document().history().count();
        // To straight above the foot: the bar stands upright, as long as the hand is away.
        drag(&table(), onTable(end), onTable({start.x, start.y - 300.0}));
        QVERIFY(std::abs(light<StripLight>(id).turn - 90) < 1);
        QVERIFY(std::abs(light<StripLight>(id).length - 600) < 4 / table().zoom());
        QCOMPARE(document().history().count(), undos + 1);
        document().history().undo();
        QCOMPARE(light<StripLight>(id).length, start.length);
    }

    void several_lights_are_moved_and_changed_together() {
        begin();
        window_->action("add-light-point")->trigger();
        table().setTool(Table::Tool::light);
        const std::string id = piece().lights.back()->id;
        document().chooseLights({"lantern", QString::fromStdString(id)});
        QVERIFY(settled());
        const PointLight one = light<PointLight>("lantern"), two = light<PointLight>(id);
        drag(&table(), onTable({two.x, two.y}), onTable({two.x - 100.0, two.y + 60.0}));
        QVERIFY(std::abs((light<PointLight>("lantern").x - one.x) - (light<PointLight>(id).x - two.x)) <
                0.01);
        QVERIFY(light<PointLight>("lantern").x < one.x - 90);
        // One scale for both; where they differ there is a dash.
        auto* reach = control<RuledScale>("Reach");
        QVERIFY(reach && !reach->value());
        reach->setFocus();
        QTest::keyClick(reach, Qt::Key_5);
        auto* figure = reach->findChild<QLineEdit*>();
        QTest::keyClicks(figure, "00");
        QTest::keyClick(figure, Qt::Key_Return);
        QCOMPARE(light<PointLight>("lantern").distance, 500.0f);
        QCOMPARE(light<PointLight>(id).distance, 500.0f);
        // The temperature colours both; the figure comes back out of the colour.
        auto* kelvin = control<RuledScale>("Temperature");
        QVERIFY(kelvin);
        emit kelvin->valueChanged(3000);
        QCOMPARE(light<PointLight>("lantern").color, light<PointLight>(id).color);
        QVERIFY(light<PointLight>(id).color.r > light<PointLight>(id).color.b + 0.3f);
        QVERIFY(settled());
        QVERIFY(std::abs(*control<RuledScale>("Temperature")->value() - 3000) < 200);
        window_->action("alone")->trigger();
        QCOMPARE(std::size_t(std::count_if(piece().lights.begin(), piece().lights.end(),
                                           [](const Light& l) { return l.alone; })),
                 std::size_t{2});
        window_->action("delete-lights")->trigger();
        QCOMPARE(piece().lights.size(), std::size_t{2});
    }

    void a_light_goes_with_an_element_until_that_is_deleted() {
        begin();
        document().chooseLight("lantern");
        auto* with = control<QComboBox>("Goes with");
        QVERIFY(with);
        const PointLight before = light<PointLight>("lantern");
        with->setCurrentIndex(with->findData("home"));
        emit with->activated(with->currentIndex());
        QVERIFY(piece().lights[2]->tied == "home");
        document().choose({"home"});
        table().setFocus();
        QVERIFY(settled());
        QTest::keyClick(&table(), Qt::Key_Right, Qt::ShiftModifier);
        const auto here = *on_canvas(piece(), piece().lights[2]).what.as<PointLight>();
        QVERIFY(std::abs(here.x - before.x - 10) < 1e-2 && std::abs(here.y - before.y) < 1e-2);
        // Saved and opened again it still goes with it.
        const QString path = dir_.filePath("tied.bathylux");
        QVERIFY(window_->saveTo(path));
        QVERIFY(files::open_piece(path.toStdString()).piece.lights[2]->tied == "home");
        window_->action("delete")->trigger();
        QVERIFY(piece().lights[2]->tied.empty());
        QVERIFY(std::abs(light<PointLight>("lantern").x - here.x) < 1e-2);
        document().history().undo();
        QVERIFY(piece().lights[2]->tied == "home");
    }

    void moods_are_flipped_by_key_and_compared_across_the_seam() {
        begin();
        const float day = piece().exposure;
        table().setFocus();
        QTest::keyClick(&table(), Qt::Key_N);
        QVERIFY(piece().mood == "dusk" && piece().exposure != day && piece().lights[0]->id == "dusk-sky");
        QTest::keyClick(&table(), Qt::Key_N);
        QVERIFY(piece().mood == "day");
        // The left side by dusk, the right as it is.
        table().setMood(true, "dusk");
        QVERIFY(settled());
        const auto f = window_->desk().frame;
        const auto mean = [](const QImage& i) {
            double sum = 0;
            for (int y = 0; y < i.height(); y += 4)
                for (int x = 0; x < i.width(); x += 4) sum += qRed(i.pixel(x, y)) - qBlue(i.pixel(x, y));
            return sum;
        };
        QVERIFY(f->left.size() == f->right.size() && std::abs(mean(f->left) - mean(f->right)) > 1000);
        QVERIFY(!f->light.empty);
        // A third, kept and deleted.
        window_->action("keep-mood")->trigger();
        QVERIFY(piece().moods.size() == 3 && piece().mood == piece().moods.back().id);
        window_->action("delete-mood")->trigger();
        QVERIFY(piece().moods.size() == 2 && piece().mood == "dusk");
    }

    void a_surface_is_started_from_driven_by_a_map_and_kept() {
        begin();
        document().choose({"home"});
        QVERIFY(settled());
        for (QWidget* w : window_->findChildren<QWidget*>())
            if (w->isVisible() && w->accessibleName().startsWith("Surface")) {
                QTest::mouseClick(w, Qt::LeftButton, {}, QPoint(40, 12));
                break;
            }
        QVERIFY(menuOf("surfaceStarts"));
        trigger(menuOf("surfaceStarts"), "Felt");
        const auto surface = [&] { return *find_element(piece().elements, "home")->surface; };
        QVERIFY(surface().sheen > 0.5f && surface().metallic == 0);
        QMenu* drive = menuOf("driveByMap");
        QVERIFY(drive);
        emit drive->aboutToShow();
        QMenu* sheen = nullptr;
        for (QMenu* m : drive->findChildren<QMenu*>())
            if (m->title() == "Sheen") sheen = m;
        QVERIFY(sheen && !sheen->actions().isEmpty());
        sheen->actions().front()->trigger();
        QVERIFY(surface().maps.size() == 1 && surface().maps[0].parameter == "sheen");
        QVERIFY(settled());
        const auto& sheens = window_->desk().frame->relief->sheen;
        QVERIFY(!sheens.is_constant());
        // What one keeps is there again, without the maps of this piece.
        QVERIFY(KeptByName("surfaces").put("My felt", text_of(surface())));
        document().choose({"lettering"});
        QVERIFY(settled());
        trigger(menuOf("surfaceStarts"), "My felt");
        QVERIFY(find_element(piece().elements, "lettering")->surface->sheen > 0.5f);
        QVERIFY(KeptByName("surfaces").remove("My felt"));
    }

    void the_lights_parts_are_exported_as_layers_that_add_up() {
        begin("depot-emblem");
        const Scene scene{document().state().piece, window_->desk().frame->assets};
        std::vector<files::Order> orders;
        ExportDialog dialog(window_->desk(), View::lit, window_.get());
        dialog.findChild<QCheckBox*>("map-lit")->setChecked(false);
        dialog.findChild<QCheckBox*>("lightParts")->setChecked(true);
        dialog.findChild<QLineEdit*>("folder")->setText(dir_.path());
        dialog.findChild<QLineEdit*>("scheme")->setText("{piece}-{map}");
        dialog.findChild<QDoubleSpinBox*>()->setValue(20);
        orders = dialog.orders();
        QCOMPARE(orders.size(), std::size_t{1});
        QVERIFY(orders[0].path.filename() == "Depot emblem-light.ora");
        window_->exportAll(orders);
        QVERIFY(QTest::qWaitFor([&] { return !window_->exporting(); }, 30000));
        // As a viewer would lay them: from below, each by its own mode, in 8 bits.
        int bad = 0;
        zip_t* zip = zip_open(orders[0].path.c_str(), ZIP_RDONLY, &bad);
        QVERIFY(zip);
        const auto entry = [&](const char* name) {
            zip_stat_t stat;
            if (zip_stat(zip, name, 0, &stat) != 0) return QByteArray();
            QByteArray bytes(static_cast<qsizetype>(stat.size), 0);
            zip_file_t* f = zip_fopen(zip, name, 0);
            zip_fread(f, bytes.data(), stat.size);
            zip_fclose(f);
            return bytes;
        };
        const auto image = [&](const char* name) {
            return QImage::fromData(entry(name)).convertToFormat(QImage::Format_ARGB32);
        };
        QCOMPARE(entry("mimetype"), QByteArray("image/openraster"));
        const QByteArray stack = entry("stack.xml");
        QVERIFY(stack.indexOf("shadow") < stack.indexOf("ambient") && stack.contains("svg:multiply"));
        const QImage ambient = image("data/ambient.png"), occlusion = image("data/occlusion.png"),
                     diffuse = image("data/diffuse.png"), highlights = image("data/highlights.png"),
                     shadow = image("data/shadow.png"), merged = image("mergedimage.png");
        QVERIFY(merged.width() == 280 && shadow.size() == merged.size());
        int worst = 0;
        double darkened = 0;
        for (int y = 0; y < merged.height(); ++y)
            for (int x = 0; x < merged.width(); ++x) {
                const auto sum = [&](int (*channel)(QRgb)) {
                    const auto at = [&](const QImage& i) { return channel(i.pixel(x, y)) / 255.0; };
                    const double v =
                        std::min(1.0, at(ambient) * at(occlusion) + at(diffuse) + at(highlights));
                    return std::abs(int(std::lround(255 * v * at(shadow))) - channel(merged.pixel(x, y)));
                };
                worst = std::max({worst, sum(qRed), sum(qGreen), sum(qBlue)});
                darkened += 255 - qRed(shadow.pixel(x, y));
            }
        zip_discard(zip);
        QVERIFY2(worst <= 1, qPrintable(QString::number(worst)));
        QVERIFY(darkened > 1000);
        // EXR: a plain sum, to the last bits.
        const std::filesystem::path exr = dir_.filePath("parts.exr").toStdString();
        Evaluator evaluator;
        files::export_parts(evaluator, scene, exr, 0.1);
        QVERIFY(std::filesystem::file_size(exr) > 10000);
        QVERIFY(!trouble([&] {
                     files::export_parts(evaluator, scene, dir_.filePath("parts.png").toStdString(), 0.1);
                 }).isEmpty());
    }

    /// Finished, with something seen through: what it was before lies under the finished picture.
    void the_finish_is_a_layer_over_the_light() {
        begin("quay-lights");
        Evaluator on;
        const Scene finished =
            window_->desk().renderer.resolver().scene(piece(), document().state().store, document().frame());
        const auto layers = files::part_layers(on, finished, 0.25);
        QVERIFY(layers.size() == 6 && layers.back().name == "finish");
        Scene bare = without_bodies(finished);
        const Region all = canvas_region(piece().canvas, 0.25);
        const auto seen = look(on, bare, {View::unfinished, View::lit}, all, 0.25);
        int most = 0, least_alike = 0;
        for (int y = 0; y < all.height(); ++y)
            for (int x = 0; x < all.width(); ++x) {
                const auto at = [&](int i) {
                    return qRed(layers[static_cast<std::size_t>(i)].image.pixel(x, y)) / 255.0;
                };
                const double sum = std::min(1.0, at(0) * at(1) + at(2) + at(3)) * at(4);
                const auto shown = [&](int i) {
                    return fast_srgb_encode(
                        std::clamp(seen[static_cast<std::size_t>(i)].channels[0].at(x, y), 0.0f, 1.0f));
                };
                most = std::max(most, static_cast<int>(std::lround(255 * std::abs(sum - double(shown(0))))));
                least_alike = std::max(
                    least_alike, static_cast<int>(std::lround(255 * std::abs(at(5) - double(shown(1))))));
            }
        QVERIFY2(most <= 2 && least_alike <= 1, qPrintable(QString("%1 %2").arg(most).arg(least_alike)));
    }

    void a_panorama_lights_the_art_and_travels_inside_the_piece() {
        begin("depot-emblem");
        QImage pano(64, 32, QImage::Format_RGB888);
        pano.fill(QColor(255, 0, 0));
        const QString file = dir_.filePath("red.png");
        QVERIFY(pano.save(file));
        document().edit("sky", [&](Piece& p) {
            p.ambient.intensity = 0;
            SkyLight sky;
            sky.scene = SkyScene::file, sky.file = file.toStdString(), sky.intensity = 1;
            p.lights = {Light{"sky", "", true, Described(light_kind("sky"), sky), {}}};
        });
        QVERIFY(settled());
        const auto red = [](const QImage& i) {
            const QRgb p = i.pixel(i.width() / 2, i.height() / 8);
            return qRed(p) > 30 && qBlue(p) < 10 && qGreen(p) < 10;
        };
        QVERIFY(red(window_->desk().frame->right));
        window_->action("keep-inside")->trigger();
        QVERIFY(light<SkyLight>("sky").file != file.toStdString());
        const QString path = dir_.filePath("inside.bathylux");
        QVERIFY(window_->saveTo(path) && QFile::remove(file));
        const auto opened = files::open_piece(path.toStdString());
        files::Resolver resolver;
        const auto assets = resolver.resolve(opened.piece, opened.store);
        QVERIFY(assets->at(panorama_key("sky"))->picture && assets->at(panorama_key("sky"))->trouble.empty());
        // One that is gone is told on its light's card.
        document().edit("gone", [&](Piece& p) {
            p.lights[0] =
                p.lights[0].with([&](Light& l) { l.what = l.what.with("file", file.toStdString()); });
        });
        document().chooseLight("sky");
        QVERIFY(settled());
        QVERIFY(QTest::qWaitFor([&] {
            for (QLabel* l : window_->lights().findChildren<QLabel*>())
                if (l->isVisible() && l->text().contains("red.png")) return true;
            return false;
        }));
    }

    void the_histogram_tells_of_clipped_light() {
        begin();
        document().edit("bright", [](Piece& p) { p.exposure = 3, p.roll_off = RollOff::none; });
        QVERIFY(settled());
        QVERIFY(window_->desk().frame->light.clipped > 0.1);
        document().edit("held back", [](Piece& p) { p.roll_off = RollOff::gentle; });
        QVERIFY(settled());
        QVERIFY(window_->desk().frame->light.clipped < 0.001);
    }

  private:
    QString trouble(const std::function<void()>& f) {
        try {
            f();
        } catch (const std::exception& e) {
            return QString::fromUtf8(e.what());
        }
        return {};
    }
};
BATHYLUX_TEST(TestLightWork)
#include "test_light_work.moc"
