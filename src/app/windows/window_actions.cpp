// What a person can do: the table from which menus, keys and the finder are made. See actions.h.
#include <QDir>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <QMenuBar>
#include <QMessageBox>
#include <QSettings>

#include "app/controls/notice_bar.h"
#include "app/controls/theme.h"
#include "app/desk/light_desk.h"
#include "app/drawer/drawer.h"
#include "app/makings/makings.h"
#include "app/solid/solid_pane.h"
#include "app/table/brush_row.h"
#include "app/time/time_strip.h"
#include "app/windows/canvas_dialog.h"
#include "app/windows/first_page.h"
#include "app/windows/window.h"
#include "core/piece/kinds.h"

namespace bathylux {

void Window::makeMenus() {
    actions_ = new Actions(this);
    QAction* undo = desk_.document.history().createUndoAction(this, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    QAction* redo = desk_.document.history().createRedoAction(this, tr("Redo"));
    redo->setShortcuts(QKeySequence::keyBindings(QKeySequence::Redo));
    actions_->take("undo", undo, Needs::piece);
    actions_->take("redo", redo, Needs::piece);
    actions_->build(menuBar(), rows(), [this](const std::function<void()>& run) { guarded(run); });

    QMenu* recent = actions_->menu(tr("Piece") + "/" + tr("Open recent"));
    connect(recent, &QMenu::aboutToShow, this, [this, recent] {
        recent->clear();
        for (const QString& p : QSettings().value("recent").toStringList()) {
            QAction* a = recent->addAction(QFileInfo(p).fileName());
            a->setToolTip(p);
            on(a, &QAction::triggered, [this, p](bool) {
                if (mayLeave()) openPath(p);
            });
        }
        if (recent->isEmpty()) recent->addAction(tr("nothing yet"))->setEnabled(false);
    });
    recent->setToolTipsVisible(true);
}

QList<ActionRow> Window::rows() {
    return pieceRows() + editRows() + makeRows() + viewRows() + lightRows() +
           QList<ActionRow>{
               {tr("Export"), "export-maps", tr("Maps and pictures…"), QKeySequence("Ctrl+Shift+E"),
                Needs::piece, [this] { exportMaps(View::height); }},
               {tr("Export"),
                "export-section",
                tr("Section as a drawing…"),
                {},
                Needs::piece,
                [this] { exportSection(); }},
               {tr("Export"), {}, {}},
               {tr("Export"), "export-lit", tr("Lit picture…"), QKeySequence("Ctrl+E"), Needs::piece,
                [this] { exportMaps(View::lit); }},
               {tr("Export"), "export-art", tr("Art…"), {}, Needs::piece, [this] { exportMaps(View::art); }},
               {tr("Export"),
                "export-height",
                tr("Height map…"),
                {},
                Needs::piece,
                [this] { exportMaps(View::height); }},
               {tr("Export"),
                "export-normals",
                tr("Normal map…"),
                {},
                Needs::piece,
                [this] { exportMaps(View::normals); }},
               {tr("Export"), {}, {}},
               {tr("Export"),
                "export-solid",
                tr("Picture of the solid…"),
                {},
                Needs::piece,
                [this] { exportSolid(SolidExportDialog::What::picture); }},
               {tr("Export"),
                "export-turntable",
                tr("Turntable…"),
                {},
                Needs::piece,
                [this] { exportSolid(SolidExportDialog::What::turntable); }},
               {tr("Export"), "export-film", tr("Film…"), {}, Needs::piece, [this] { exportFilm(); }},
               {tr("Export"),
                "export-mesh",
                tr("Mesh…"),
                {},
                Needs::piece,
                [this] { exportSolid(SolidExportDialog::What::mesh); }},
               {tr("Help"), "keys", tr("Keys and actions…"), QKeySequence("F1"), Needs::nothing,
                [this] { findAction(); }},
               {tr("Help"), "about", tr("About Bathylux"), {}, Needs::nothing, [this] {
                    QMessageBox::about(
                        this, tr("About Bathylux"),
                        tr("<b>Bathylux %1</b><p>Depth and light for flat artwork.<p>GPL-3.0-or-later. Fonts "
                           "Cabin, Manrope, League Spartan and Dancing Script under the SIL Open Font "
                           "Licence; "
                           "icons by Lucide under the ISC licence.")
                            .arg(BATHYLUX_VERSION));
                }}};
}

QList<ActionRow> Window::pieceRows() {
    const QString m = tr("Piece");
    QList<ActionRow> out{
        {m, "new", tr("New…"), QKeySequence::New, Needs::nothing, [this] { newPiece(); }},
        {m, "open", tr("Open…"), QKeySequence::Open, Needs::nothing, [this] { ask(); }},
        {m + "/" + tr("Open recent"), {}, {}},
    };
    for (const QString& f : QDir(demoFolder()).entryList({"*.json"}))
        if (f != "shelf.json") {
            const QString name = QFileInfo(f).completeBaseName();
            out.push_back({m + "/" + tr("Demo pieces"),
                           "demo-" + name,
                           name.left(1).toUpper() + QString(name).replace('-', ' ').mid(1),
                           {},
                           Needs::nothing,
                           [this, f] {
                               if (mayLeave()) openDemo(demoFolder() + "/" + f);
                           }});
        }
    out += QList<ActionRow>{
        {m, {}, {}},
        {m, "save", tr("Save"), QKeySequence::Save, Needs::piece, [this] { save(); }},
        {m, "save-as", tr("Save as…"), QKeySequence::SaveAs, Needs::piece, [this] { saveAs(); }},
        {m, {}, {}},
        {m,
         "canvas",
         tr("Canvas and ground…"),
         {},
         Needs::piece,
         [this] {
             auto* d = new CanvasDialog(desk_, this);
             d->setAttribute(Qt::WA_DeleteOnClose);
             d->open();
         }},
        {m, "crop", tr("Crop…"), QKeySequence("C"), Needs::piece,
         [this] { table_->setTool(Table::Tool::crop); }},
        {m, {}, {}},
        {m, "quit", tr("Quit"), QKeySequence::Quit, Needs::nothing, [this] { close(); }},
    };
    return out;
}

QList<ActionRow> Window::editRows() {
    const QString m = tr("Edit");
    return {
        {m, "undo", {}},
        {m, "redo", {}},
        {m, {}, {}},
        {m, "cut", tr("Cut"), QKeySequence::Cut, Needs::elements, [this] { copy(), removeChosen(); }},
        {m, "copy", tr("Copy"), QKeySequence::Copy, Needs::elements, [this] { copy(); }},
        {m, "paste", tr("Paste"), QKeySequence::Paste, Needs::nothing, [this] { paste(); }},
        {m, "duplicate", tr("Duplicate"), QKeySequence("Ctrl+D"), Needs::elements,
         [this] {
             Ids made;
             desk_.document.edit(tr("Duplicate"),
                                 [&](Piece& p) { made = duplicate(p, toIds(desk_.document.chosen())); });
             desk_.document.choose(fromIds(made));
         }},
        {m, "delete", tr("Delete"), QKeySequence::Delete, Needs::elements, [this] { removeChosen(); }},
        {m, {}, {}},
        {m, "choose-all", tr("Choose all"), QKeySequence::SelectAll, Needs::piece,
         [this] {
             QStringList ids;
             for (const Element& e : desk_.document.piece().elements)
                 if (!e.locked) ids << QString::fromStdString(e.id);
             desk_.document.choose(ids);
         }},
        {m, "choose-nothing", tr("Choose nothing"), QKeySequence("Ctrl+Shift+A"), Needs::piece,
         [this] { desk_.document.choose({}); }},
        {m, {}, {}},
        {m, "find", tr("Find an action…"), QKeySequence("Ctrl+K"), Needs::nothing, [this] { findAction(); }},
    };
}

QList<ActionRow> Window::makeRows() {
    const QString m = tr("Make");
    QList<ActionRow> out;
    // Every kind there is; the commonest have a key.
    static const std::map<std::string_view, const char*> keys{
        {"type", "T"}, {"picture", "I"}, {"rectangle", "R"}, {"ellipse", "E"}};
    for (const SourceKind& k : source_kinds()) {
        const auto key = keys.find(k.id);
        out.push_back({m, "add-" + qs(k.id), tr("Add: %1").arg(qs(k.name).toLower()),
                       key == keys.end() ? QKeySequence() : QKeySequence(key->second), Needs::nothing,
                       [this, id = qs(k.id)] { addElement(id); }});
    }
    const auto each = [this](const QString& name, const std::function<void(Element&)>& work) {
        desk_.document.edit(name, [&](Piece& p) {
            for (const QString& id : desk_.document.chosen()) change(p, id.toStdString(), work);
        });
    };
    out += QList<ActionRow>{
        {m, {}, {}},
        {m, "add-step", tr("Add step…"), QKeySequence("A"), Needs::steps, [this] { makings_->askForStep(); }},
        {m, "rename", tr("Rename"), QKeySequence("F2"), Needs::elements, [this] { makings_->rename(); }},
        {m, "switch", tr("Switch on or off"), QKeySequence("H"), Needs::elements,
         [each] { each(tr("Switch on or off"), [](Element& e) { e.mix.visible = !e.mix.visible; }); }},
        {m, "lock", tr("Lock or unlock"), QKeySequence("Ctrl+L"), Needs::elements, [this] { lockChosen(); }},
        {m, {}, {}},
        {m, "group", tr("Group"), QKeySequence("Ctrl+G"), Needs::elements, [this] { groupChosen(); }},
        {m, "ungroup", tr("Ungroup"), QKeySequence("Ctrl+Shift+G"), Needs::group,
         [this] { ungroupChosen(); }},
        {m, "forward", tr("Bring forward"), QKeySequence("Ctrl+]"), Needs::elements,
         [this] { arrangeOrder(1); }},
        {m, "backward", tr("Send backward"), QKeySequence("Ctrl+["), Needs::elements,
         [this] { arrangeOrder(-1); }},
        {m, {}, {}},
        {m, "fit-to-canvas", tr("Fit to the canvas…"), {}, Needs::elements, [this] { fitToCanvas(); }},
        {m, "flip-across", tr("Flip across"), {}, Needs::elements, [this] { flip(true); }},
        {m, "flip-down", tr("Flip upside down"), {}, Needs::elements, [this] { flip(false); }},
    };
    out += setUpRows();
    const std::pair<const char*, QString> ways[] = {
        {"align-left", tr("Align left")},     {"align-centre", tr("Align centre")},
        {"align-right", tr("Align right")},   {"align-top", tr("Align top")},
        {"align-middle", tr("Align middle")}, {"align-bottom", tr("Align bottom")}};
    for (int i = 0; i < 6; ++i)
        out.push_back({m + "/" + tr("Align"), ways[i].first, ways[i].second, {}, Needs::elements, [this, i] {
                           align(i);
                       }});
    out.push_back({m, "keep-inside", tr("Keep linked files inside the piece"), {}, Needs::piece, [this] {
                       embedEverything();
                   }});
    return out;
}

QList<ActionRow> Window::viewRows() {
    const QString m = tr("View");
    const auto layout = [this](Table::Layout l) { return [this, l] { table_->setLayout(l); }; };
    const auto tool = [this](Table::Tool t) { return [this, t] { table_->setTool(t); }; };
    QList<ActionRow> out{{m, "left-alone", tr("Left view alone"), QKeySequence("1"), Needs::piece,
                          layout(Table::Layout::left)},
                         {m, "seam", tr("Seam between the views"), QKeySequence("2"), Needs::piece,
                          layout(Table::Layout::seam)},
                         {m, "right-alone", tr("Right view alone"), QKeySequence("3"), Needs::piece,
                          layout(Table::Layout::right)},
                         {m, "beside", tr("Views beside one another"), QKeySequence("4"), Needs::piece,
                          layout(Table::Layout::beside)}};
    for (const bool left : {true, false})
        for (std::size_t i = 0; i < view_names.size(); ++i) {
            const QString name = qs(view_names[i]), said = QString(name).replace("_", ", ");
            out.push_back({m + "/" + (left ? tr("Left side shows") : tr("Right side shows")),
                           (left ? "left-" : "right-") + name,
                           (left ? tr("Left: %1") : tr("Right: %1")).arg(said),
                           {},
                           Needs::piece,
                           [this, left, i] { table_->setView(left, static_cast<View>(i)); }});
        }
    out.push_back({m, "solid", tr("Show the solid"), QKeySequence("5"), Needs::piece,
                   [this] { table_->setSolid(false); }});
    const QString sides = m + "/" + tr("Look at the solid");
    const std::tuple<const char*, const char*, double, double> from[] = {
        {"solid-front", QT_TR_NOOP("From the front"), 0, 0},
        {"solid-right", QT_TR_NOOP("From the right"), 90, 0},
        {"solid-behind", QT_TR_NOOP("From behind"), 180, 0},
        {"solid-left", QT_TR_NOOP("From the left"), -90, 0},
        {"solid-above", QT_TR_NOOP("From above"), 0, 90},
        {"solid-below", QT_TR_NOOP("From below"), 0, -90}};
    for (const auto& [id, name, turn, tilt] : from)
        out.push_back({sides, id, tr(name), {}, Needs::piece, [this, turn = turn, tilt = tilt] {
                           solid_->lookFrom(turn, tilt);
                       }});
    out.push_back(
        {m, "solid-place", tr("Place the label on the body"), QKeySequence("Shift+5"), Needs::piece, [this] {
             if (table_->solidRect().isEmpty()) table_->setSolid(false);
             solid_->setPlacing(!solid_->placing());
         }});
    out += QList<ActionRow>{{m, "grey", tr("Heights in plain grey"), QKeySequence("G"), Needs::piece,
                             [this] { table_->setGrey(!table_->grey()); }},
                            {m, "clipped", tr("Show clipped light"), QKeySequence("K"), Needs::piece,
                             [this] { table_->setShowClipped(!table_->showClipped()); }},
                            {m, "join", tr("Show the join"), QKeySequence("J"), Needs::piece,
                             [this] { table_->setJoin(!table_->join()); }}};
    const QString contours = m + "/" + tr("Contour lines");
    out.push_back({contours, "contours-fit", tr("Contours: as fits"), {}, Needs::piece, [this] {
                       table_->setContourStep(0);
                   }});
    for (const double step : {0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0})
        out.push_back({contours,
                       "contours-" + QString::number(step),
                       tr("Contours: every %1 px").arg(step),
                       {},
                       Needs::piece,
                       [this, step] { table_->setContourStep(step); }});
    out.push_back({contours, "contours-own", tr("Contours: every…"), {}, Needs::piece, [this] {
                       bool good = false;
                       const double step = QInputDialog::getDouble(
                           this, tr("Contour lines"), tr("Height from line to line, px"),
                           table_->contourStep() > 0 ? table_->contourStep() : 1, 0.001, 10000, 3, &good);
                       if (good) table_->setContourStep(step);
                   }});
    out += QList<ActionRow>{
        {m, {}, {}},
        {m, "zoom-in", tr("Zoom in"), QKeySequence::ZoomIn, Needs::piece, [this] { table_->zoomBy(1.25); }},
        {m, "zoom-out", tr("Zoom out"), QKeySequence::ZoomOut, Needs::piece, [this] { table_->zoomBy(0.8); }},
        {m, "fit", tr("Fit"), QKeySequence("Ctrl+0"), Needs::piece, [this] { table_->fit(); }},
        {m, "full-size", tr("100 %"), QKeySequence("Ctrl+1"), Needs::piece, [this] { table_->setZoom(1); }},
        {m, {}, {}},
        {m, "tool-place", tr("Place elements"), QKeySequence("P"), Needs::piece, tool(Table::Tool::place)},
        {m, "tool-paint", tr("Paint on the relief"), QKeySequence("B"), Needs::piece,
         tool(Table::Tool::paint)},
        {m, "tool-light", tr("Walk the lights"), QKeySequence("L"), Needs::piece, tool(Table::Tool::light)},
        {m, "tool-section", tr("Draw the section line"), QKeySequence("S"), Needs::piece,
         tool(Table::Tool::section)}};
    for (std::size_t i = 0; i < brush_work_names.size(); ++i)
        out.push_back({m + "/" + tr("Brushes"),
                       "brush-" + qs(brush_work_names[i]),
                       tr("Brush: %1").arg(qs(brush_work_names[i])),
                       {},
                       Needs::piece,
                       [this, i] {
                           table_->painter().brush.work = static_cast<BrushWork>(i);
                           table_->setTool(Table::Tool::paint);
                           brushRow_->refresh();
                       }});
    out += QList<ActionRow>{
        {m,
         "clear-guides",
         tr("Clear guides"),
         {},
         Needs::piece,
         [this] {
             desk_.document.edit(tr("Clear guides"),
                                 [](Piece& p) { p.guides_x.clear(), p.guides_y.clear(); });
         }},
        {m, {}, {}},
        {m, "drawer", tr("Fold or open the drawer"), QKeySequence("D"), Needs::piece,
         [this] { drawer_->setFolded(!drawer_->folded()); }},
        {m, "play", tr("Play or pause"), QKeySequence("Shift+Space"), Needs::piece,
         [this] { time_->play(!time_->playing()); }},
        {m, "frame-back", tr("One frame back"), QKeySequence(","), Needs::piece, [this] { time_->step(-1); }},
        {m, "frame-on", tr("One frame on"), QKeySequence("."), Needs::piece, [this] { time_->step(1); }},
        {m, "key-back", tr("To the key before"), QKeySequence("Ctrl+,"), Needs::piece,
         [this] { time_->toKey(-1); }},
        {m, "key-on", tr("To the next key"), QKeySequence("Ctrl+."), Needs::piece,
         [this] { time_->toKey(1); }},
        {m, "time", tr("Show the time"), QKeySequence("Shift+D"), Needs::piece,
         [this] {
             if (!desk_.document.piece().time)
                 desk_.document.edit(tr("Give it a time"), [](Piece& p) { p.time.emplace(); });
             drawer_->showPage(Drawer::Page::time);
         }},
        {m, {}, {}},
        {m, "theme", tr("Day chart or night chart"), {}, Needs::nothing, [this] {
             setTheme(!Theme::current().dark);
         }}};
    return out;
}

QList<ActionRow> Window::lightRows() {
    const QString m = tr("Light");
    QList<ActionRow> out;
    for (const LightKind& k : light_kinds())
        out.push_back({m,
                       "add-light-" + qs(k.id),
                       tr("Add: %1").arg(qs(k.name).toLower()),
                       {},
                       Needs::piece,
                       [this, id = qs(k.id)] { lights_->addLight(id); }});
    out += QList<ActionRow>{
        {m,
         "delete-lights",
         tr("Delete the chosen lights"),
         {},
         Needs::lights,
         [this] { lights_->removeLight(); }},
        {m,
         "choose-lights",
         tr("Choose all lights"),
         {},
         Needs::piece,
         [this] {
             QStringList ids;
             for (const Light& l : desk_.document.piece().lights) ids << QString::fromStdString(l.id);
             desk_.document.chooseLights(ids);
         }},
        {m, "alone", tr("Chosen light alone, or not"), QKeySequence("Shift+L"), Needs::lights,
         [this] {
             const Light* now = desk_.document.light();
             if (!now) return;
             const bool alone = !now->alone;
             desk_.document.edit(tr("Light alone, or not"), [&](Piece& p) {
                 for (const QString& id : desk_.document.chosenLights())
                     change_light(p, id.toStdString(), [&](Light& l) { l.alone = alone; });
             });
         }},
        {m, {}, {}},
        {m,
         "keep-mood",
         tr("Keep this light as another mood"),
         {},
         Needs::piece,
         [this] { lights_->keepMood(); }},
        {m, "next-mood", tr("Next mood"), QKeySequence("N"), Needs::piece, [this] { lights_->nextMood(); }},
        {m, "delete-mood", tr("Delete this mood"), {}, Needs::piece, [this] { lights_->deleteMood(); }},
        {m, {}, {}}};
    for (const auto& [id, words] : LightDesk::situations())
        out.push_back({m,
                       "situation-" + id,
                       tr("Start from: %1").arg(words.left(1).toLower() + words.mid(1)),
                       {},
                       Needs::piece,
                       [this, id = id] { lights_->arrange(id); }});
    out += QList<ActionRow>{
        {m, {}, {}}, {m, "keep-flat", tr("Keep flat colour, or not"), {}, Needs::piece, [this] {
                          desk_.document.edit(tr("Keep flat colour"),
                                              [](Piece& p) { p.keep_flat_color = !p.keep_flat_color; });
                      }}};
    return out;
}

} // namespace bathylux
