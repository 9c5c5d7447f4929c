#include "app/window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDir>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/brush_row.h"
#include "app/canvas_dialog.h"
#include "app/drawer.h"
#include "app/first_page.h"
#include "app/light_desk.h"
#include "app/makings.h"
#include "app/notice_bar.h"
#include "app/pick_list.h"
#include "app/theme.h"
#include "core/error.h"
#include "core/piece/sources.h"

namespace bathylux {

namespace {

QString qs(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size())); }

} // namespace

Piece freshPiece() {
    Piece p;
    p.canvas.width = 1600;
    p.canvas.height = 1000;
    p.canvas.background = {0.227f, 0.267f, 0.29f, 1};
    DirectionalLight d;
    d.angle = 128, d.elevation = 40, d.intensity = 1.2f;
    p.lights.push_back({"window", "Window", true, Described(light_kind("directional"), d), {}});
    p.ambient.intensity = 0.14f;
    p.section = SectionLine{{100, 500}, {1500, 500}};
    return p;
}

Window::Window(std::shared_ptr<files::Resolver> resolver) : desk_(std::move(resolver)) {
    setWindowTitle("Bathylux");
    setAcceptDrops(true);
    Document& doc = desk_.document;
    doc.replace({std::make_shared<const Piece>(freshPiece()), {}}, {});

    // First of all who listen: whoever is told of a frame finds it on the desk.
    connect(&desk_.renderer, &Renderer::framed, this,
            [this](const std::shared_ptr<Frame>& f) { desk_.frame = f; });
    split_ = new QSplitter(Qt::Horizontal, this);
    split_->setHandleWidth(1);
    split_->setChildrenCollapsible(false);
    makings_ = new Makings(desk_, split_);
    auto* centre = new QWidget(split_);
    auto* column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    table_ = new Table(desk_, centre);
    column->addWidget(makeToolRow());
    notices_ = new NoticeBar(centre);
    column->addWidget(notices_);
    brushRow_ = new BrushRow(desk_, table_->painter(), centre);
    brushRow_->hide();
    column->addWidget(brushRow_);
    column->addWidget(table_, 1);
    drawer_ = new Drawer(desk_, centre);
    column->addWidget(drawer_);
    lights_ = new LightDesk(desk_, split_);
    split_->addWidget(makings_);
    split_->addWidget(centre);
    split_->addWidget(lights_);
    split_->setStretchFactor(0, 0);
    split_->setStretchFactor(1, 1);
    split_->setStretchFactor(2, 0);
    split_->setSizes({326, 702, 252});
    middle_ = new QStackedWidget(this);
    first_ = new FirstPage(middle_);
    middle_->addWidget(first_);
    middle_->addWidget(split_);
    setCentralWidget(middle_);

    makeMenus();
    title_ = new QLabel(menuBar());
    title_->setAttribute(Qt::WA_TransparentForMouseEvents);
    size_ = new QLabel(menuBar());
    size_->setContentsMargins(0, 0, 14, 0);
    size_->setAttribute(Qt::WA_TransparentForMouseEvents);

    connect(&doc, &Document::titleChanged, this, &Window::refreshTitle);
    connect(&doc, &Document::changed, this, [this] {
        refreshActions();
        refreshTitle();
        watchFiles();
        if (!started_ && !desk_.document.piece().elements.empty()) showPiece();
    });
    connect(&doc, &Document::choiceChanged, this, &Window::refreshActions);
    connect(&doc, &Document::refused, this, [this](const QString& why) { notices_->say(why, {}, true); });
    connect(&desk_.renderer, &Renderer::failed, this,
            [this](const QString& why) { notices_->say(why, {}, true); });
    connect(&desk_.renderer, &Renderer::framed, this, [this](const std::shared_ptr<Frame>& f) {
        if (!f->shot.coarse) makings_->setFooter(tr("sharp in %1 ms").arg(qRound(f->milliseconds)));
    });
    connect(makings_, &Makings::addElement, this, &Window::addElement);
    connect(makings_, &Makings::addStep, this, &Window::addStep);
    connect(makings_, &Makings::embedAsked, this, &Window::embed);
    connect(makings_, &Makings::relinkAsked, this, &Window::relink);
    const auto element_menu = [this](const QPoint& at) {
        QMenu menu;
        for (const char* name : {"Cut", "Copy", "Paste", "Duplicate", "Delete", "", "Rename",
                                 "Switch on or off", "", "Bring forward", "Send backward", "Group", "Ungroup",
                                 "", "Flip across", "Flip upside down", "", "Add step…"}) {
            if (!*name)
                menu.addSeparator();
            else if (QAction* a = action(tr(name)))
                menu.addAction(a);
        }
        menu.exec(at);
    };
    connect(makings_, &Makings::elementMenu, this, element_menu);
    connect(table_, &Table::menuAsked, this, element_menu);
    connect(makings_, &Makings::stepMenu, this, [this](int index, const QPoint& at) {
        QMenu menu;
        for (const auto& [name, what] : {std::pair{tr("Copy step"), "copy"},
                                         {tr("Duplicate step"), "duplicate"},
                                         {tr("Delete step"), "delete"},
                                         {tr("Move up"), "up"},
                                         {tr("Move down"), "down"}})
            menu.addAction(name, this, [this, what = QString(what), index] { stepAction(what, index); });
        menu.exec(at);
    });
    connect(first_, &FirstPage::makeAsked, this, &Window::addElement);
    connect(first_, &FirstPage::openAsked, this, &Window::ask);
    connect(first_, &FirstPage::demoAsked, this, &Window::openDemo);
    const auto dropped = [this](const QList<QUrl>& urls, std::optional<Vec2> at) {
        QStringList paths;
        for (const QUrl& u : urls)
            if (u.isLocalFile()) paths << u.toLocalFile();
        addFiles(paths, at);
    };
    connect(first_, &FirstPage::filesDropped, this,
            [dropped](const QList<QUrl>& urls) { dropped(urls, {}); });
    connect(table_, &Table::filesDropped, this,
            [dropped](const QList<QUrl>& urls, Vec2 at) { dropped(urls, at); });
    connect(table_, &Table::dataDropped, this,
            [this](const QMimeData* dropped_data, Vec2 at) { pasteData(dropped_data, at); });
    connect(table_, &Table::soundingMoved, drawer_, &Drawer::showSounding);
    connect(table_, &Table::zoomChanged, this,
            [this](double z) { zoomLabel_->setText(QString::number(z * 100, 'f', z < 0.1 ? 1 : 0) + " %"); });
    connect(table_, &Table::toolChanged, this, [this] {
        for (auto t = tools_.begin(); t != tools_.end(); ++t)
            t.value()->setChecked(t.key() == static_cast<int>(table_->tool()));
        brushRow_->setVisible(table_->tool() == Table::Tool::paint);
        brushRow_->refresh();
        refreshActions();
    });
    connect(lights_, &LightDesk::refused, this, [this](const QString& why) { notices_->say(why, {}, true); });
    connect(table_, &Table::refused, this, [this](const QString& why) { notices_->say(why, {}, true); });
    connect(table_, &Table::brushChanged, brushRow_, &BrushRow::refresh);
    connect(brushRow_, &BrushRow::changed, table_, qOverload<>(&QWidget::update));
    connect(table_, &Table::viewChanged, this, &Window::refreshActions);
    connect(drawer_, &Drawer::placeAsked, table_, &Table::showPlace);
    connect(drawer_, &Drawer::drawingAsked, this, &Window::deliverSection);
    connect(&drawer_->time(), &TimeStrip::moved, table_, &Table::requestFrame);
    connect(&watcher_, &QFileSystemWatcher::fileChanged, this, &Window::fileChanged);

    aside_.setInterval(60'000);
    connect(&aside_, &QTimer::timeout, this, &Window::keepAside);
    aside_.start();
    pulse_.setInterval(100);
    connect(&pulse_, &QTimer::timeout, this, [this] {
        const auto [done, ms] = desk_.renderer.progress();
        const bool show = ms > 500 || delivering_;
        working_->setVisible(show);
        cancel_->setVisible(show);
        if (show)
            working_->setText(delivering_ ? tr("delivering %1 %").arg(qRound(100 * delivered_))
                                          : tr("working %1 %").arg(qRound(100 * done)));
    });
    pulse_.start();
    refreshActions();
    refreshTitle();
    middle_->setCurrentWidget(first_);
    resize(QSize(1280, 800).boundedTo(screen()->availableSize()));
}

Window::~Window() {
    // The rooms go first: what loses the focus still speaks to the document.
    delete takeCentralWidget();
    delivery_.request_stop();
    if (delivery_.joinable()) delivery_.join();
}

QWidget* Window::makeToolRow() {
    auto* row = new QWidget(this);
    row->setObjectName("toolRow");
    row->setAttribute(Qt::WA_StyledBackground);
    row->setStyleSheet("#toolRow { border-bottom: 1px solid " + Theme::current().line.name() + "; }");
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(12, 3, 12, 3);
    box->setSpacing(4);
    const std::tuple<Table::Tool, const char*, QString, const char*> tools[] = {
        {Table::Tool::place, "move", tr("Place elements"), "P"},
        {Table::Tool::paint, "brush", tr("Paint on the relief"), "B"},
        {Table::Tool::light, "lamp", tr("Walk the lights"), "L"},
        {Table::Tool::section, "spline", tr("Draw the section line"), "S"},
        {Table::Tool::crop, "crop", tr("Crop the canvas"), "C"}};
    for (const auto& [tool, name, words, key] : tools) {
        auto* b = new QToolButton(row);
        b->setIcon(icon(name));
        b->setIconSize({18, 18});
        b->setFixedSize(28, 26);
        b->setCheckable(true);
        b->setChecked(tool == Table::Tool::place);
        b->setToolTip(words + "  (" + key + ")");
        b->setAccessibleName(words);
        b->setObjectName(QString("tool-") + name);
        connect(b, &QToolButton::clicked, this, [this, t = tool] {
            table_->setTool(t);
            for (auto i = tools_.begin(); i != tools_.end(); ++i)
                i.value()->setChecked(i.key() == static_cast<int>(table_->tool()));
        });
        tools_[static_cast<int>(tool)] = b;
        box->addWidget(b);
    }
    box->addStretch(1);
    working_ = new QLabel(row);
    working_->setStyleSheet("color: " + Theme::current().second.name());
    working_->hide();
    cancel_ = new QToolButton(row);
    cancel_->setText(tr("stop"));
    cancel_->setProperty("link", true);
    cancel_->hide();
    connect(cancel_, &QToolButton::clicked, this, [this] {
        if (delivering_)
            delivery_.request_stop();
        else
            desk_.renderer.cancel();
    });
    box->addWidget(working_);
    box->addWidget(cancel_);
    const auto small = [&](const char* name, const QString& words, double factor) {
        auto* b = new QToolButton(row);
        b->setIcon(icon(name));
        b->setAccessibleName(words);
        b->setToolTip(words);
        b->setFixedSize(26, 24);
        connect(b, &QToolButton::clicked, this, [this, factor] { table_->zoomBy(factor); });
        box->addWidget(b);
    };
    small("minus", tr("Zoom out"), 1 / 1.25);
    small("plus", tr("Zoom in"), 1.25);
    zoomLabel_ = new QToolButton(row);
    zoomLabel_->setFont(Theme::numbers());
    zoomLabel_->setMinimumWidth(52);
    zoomLabel_->setToolTip(tr("Fit, or 100 %"));
    zoomLabel_->setAccessibleName(tr("Zoom"));
    zoomLabel_->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(zoomLabel_);
    menu->addAction(tr("Fit"), this, [this] { table_->fit(); });
    for (int z : {25, 50, 100, 200, 400})
        menu->addAction(QString::number(z) + " %", this, [this, z] { table_->setZoom(z / 100.0); });
    zoomLabel_->setMenu(menu);
    box->addWidget(zoomLabel_);
    return row;
}

QAction* Window::add(QMenu* menu, const QString& name, const QKeySequence& key, std::function<void()> run,
                     bool needsPiece) {
    auto* a = new QAction(name, this);
    if (!key.isEmpty()) a->setShortcut(key);
    // A single letter is a key of the table; where one types, it is a letter.
    a->setShortcutContext(Qt::WindowShortcut);
    connect(a, &QAction::triggered, this, [this, run = std::move(run)] {
        try {
            run();
        } catch (const Error& e) {
            notices_->say(QString::fromUtf8(e.what()), {}, true);
        }
    });
    menu->addAction(a);
    addAction(a);
    all_ << a;
    if (needsPiece) needPiece_ << a;
    return a;
}

void Window::makeMenus() {
    Document& doc = desk_.document;
    QMenu* piece = menuBar()->addMenu(tr("Piece"));
    add(
        piece, tr("New"), QKeySequence::New, [this] { newPiece(); }, false);
    add(
        piece, tr("Open…"), QKeySequence::Open, [this] { ask(); }, false);
    recent_ = piece->addMenu(tr("Open again"));
    connect(recent_, &QMenu::aboutToShow, this, [this] {
        recent_->clear();
        for (const QString& p : QSettings().value("recent").toStringList())
            recent_
                ->addAction(QFileInfo(p).fileName(), this,
                            [this, p] {
                                if (mayLeave()) openPath(p);
                            })
                ->setToolTip(p);
        if (recent_->isEmpty()) recent_->addAction(tr("nothing yet"))->setEnabled(false);
    });
    QMenu* shelf = piece->addMenu(tr("Demo pieces"));
    for (const QString& f : QDir(demoFolder()).entryList({"*.json"}))
        if (f != "shelf.json")
            shelf->addAction(
                QFileInfo(f).completeBaseName().replace('-', ' ').replace(0, 1, f.left(1).toUpper()), this,
                [this, f] {
                    if (mayLeave()) openDemo(demoFolder() + "/" + f);
                });
    piece->addSeparator();
    add(piece, tr("Save"), QKeySequence::Save, [this] { save(); });
    add(piece, tr("Save as…"), QKeySequence::SaveAs, [this] { saveAs(); });
    piece->addSeparator();
    add(piece, tr("Canvas and ground…"), {}, [this] {
        auto* d = new CanvasDialog(desk_, this);
        d->setAttribute(Qt::WA_DeleteOnClose);
        d->open();
    });
    add(piece, tr("Crop…"), {}, [this] { table_->setTool(Table::Tool::crop); });
    piece->addSeparator();
    add(
        piece, tr("Quit"), QKeySequence::Quit, [this] { close(); }, false);

    QMenu* edit = menuBar()->addMenu(tr("Edit"));
    QAction* undo = doc.history().createUndoAction(this, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    QAction* redo = doc.history().createRedoAction(this, tr("Redo"));
    redo->setShortcuts(QKeySequence::keyBindings(QKeySequence::Redo));
    edit->addAction(undo);
    edit->addAction(redo);
    all_ << undo << redo;
    edit->addSeparator();
    add(edit, tr("Cut"), QKeySequence::Cut, [this] { copy(), removeChosen(); });
    add(edit, tr("Copy"), QKeySequence::Copy, [this] { copy(); });
    add(
        edit, tr("Paste"), QKeySequence::Paste, [this] { paste(); }, false);
    add(edit, tr("Duplicate"), QKeySequence("Ctrl+D"), [this] {
        Ids made;
        desk_.document.edit(tr("Duplicate"),
                            [&](Piece& p) { made = duplicate(p, toIds(desk_.document.chosen())); });
        desk_.document.choose(fromIds(made));
    });
    add(edit, tr("Delete"), QKeySequence::Delete, [this] { removeChosen(); });
    edit->addSeparator();
    add(edit, tr("Choose all"), QKeySequence::SelectAll, [this] {
        QStringList ids;
        for (const Element& e : desk_.document.piece().elements) ids << QString::fromStdString(e.id);
        desk_.document.choose(ids);
    });
    add(edit, tr("Choose nothing"), QKeySequence("Ctrl+Shift+A"), [this] { desk_.document.choose({}); });
    edit->addSeparator();
    add(
        edit, tr("Find an action…"), QKeySequence("Ctrl+K"), [this] { findAction(); }, false);

    QMenu* make = menuBar()->addMenu(tr("Make"));
    static const std::map<std::string_view, std::pair<QString, const char*>> sources{
        {"type", {tr("Add words"), "T"}},
        {"picture", {tr("Add a picture…"), "I"}},
        {"svg", {tr("Add a drawing…"), ""}},
        {"rectangle", {tr("Add a rectangle"), "R"}},
        {"ellipse", {tr("Add an ellipse"), "E"}}};
    for (const Kind& k : source_kinds())
        if (const auto s = sources.find(k.id); s != sources.end())
            add(
                make, s->second.first, QKeySequence(s->second.second),
                [this, id = qs(k.id)] { addElement(id); }, false);
    make->addSeparator();
    add(make, tr("Add step…"), QKeySequence("A"), [this] { makings_->askForStep(); });
    add(make, tr("Rename"), QKeySequence("F2"), [this] { makings_->rename(); });
    add(make, tr("Switch on or off"), QKeySequence("H"), [this] {
        desk_.document.edit(tr("Switch on or off"), [&](Piece& p) {
            for (const QString& id : desk_.document.chosen())
                if (Element* e = find_element(p.elements, id.toStdString())) e->mix.visible = !e->mix.visible;
        });
    });
    make->addSeparator();
    add(make, tr("Group"), QKeySequence("Ctrl+G"), [this] {
        std::string id;
        desk_.document.edit(tr("Group"), [&](Piece& p) { id = group(p, toIds(desk_.document.chosen())); });
        desk_.document.choose({QString::fromStdString(id)});
    });
    add(make, tr("Ungroup"), QKeySequence("Ctrl+Shift+G"), [this] {
        Piece trial = desk_.document.piece();
        const std::string id = desk_.document.chosen().back().toStdString();
        const Ids out = ungroup(trial, id); // throws before anything is changed
        if (out.empty()) return;
        desk_.document.edit(tr("Ungroup"), [&](Piece& p) { p = trial; });
        desk_.document.choose(fromIds(out));
    });
    add(make, tr("Bring forward"), QKeySequence("Ctrl+]"), [this] { arrangeOrder(1); });
    add(make, tr("Send backward"), QKeySequence("Ctrl+["), [this] { arrangeOrder(-1); });
    make->addSeparator();
    add(make, tr("Fit to the canvas…"), {}, [this] { fitToCanvas(); });
    add(make, tr("Flip across"), {}, [this] { flip(true); });
    add(make, tr("Flip upside down"), {}, [this] { flip(false); });
    QMenu* align_menu = make->addMenu(tr("Align"));
    const QString ways[] = {tr("Align left"), tr("Align centre"), tr("Align right"),
                            tr("Align top"),  tr("Align middle"), tr("Align bottom")};
    for (int i = 0; i < 6; ++i) add(align_menu, ways[i], {}, [this, i] { align(i); });
    add(make, tr("Keep linked files inside the piece"), {}, [this] {
        QStringList ids;
        for_each_element(desk_.document.piece().elements,
                         [&](const Element& e) { ids << QString::fromStdString(e.id); });
        desk_.document.beginStroke(); // all of them are one undo
        for (const QString& id : ids) embed(id);
        embedPanoramas();
        desk_.document.endStroke();
    });

    QMenu* view = menuBar()->addMenu(tr("View"));
    add(view, tr("Left view alone"), QKeySequence("1"), [this] { table_->setLayout(Table::Layout::left); });
    add(view, tr("Seam between the views"), QKeySequence("2"),
        [this] { table_->setLayout(Table::Layout::seam); });
    add(view, tr("Right view alone"), QKeySequence("3"), [this] { table_->setLayout(Table::Layout::right); });
    add(view, tr("Views beside one another"), QKeySequence("4"),
        [this] { table_->setLayout(Table::Layout::beside); });
    for (const bool left : {true, false}) {
        QMenu* side = view->addMenu(left ? tr("Left side shows") : tr("Right side shows"));
        for (const auto& [v, name] : {std::pair{View::art, tr("art")},
                                      {View::height, tr("height")},
                                      {View::normals, tr("normals")},
                                      {View::lit, tr("lit")},
                                      {View::occlusion, tr("occlusion")},
                                      {View::slope, tr("slope")},
                                      {View::curvature, tr("curvature")},
                                      {View::roughness, tr("roughness")},
                                      {View::metallic, tr("metallic")},
                                      {View::mask, tr("mask")}})
            add(side, (left ? tr("Left: %1") : tr("Right: %1")).arg(name), {},
                [this, left, v = v] { table_->setView(left, v); });
    }
    add(view, tr("Heights in plain grey"), QKeySequence("G"), [this] { table_->setGrey(!table_->grey()); });
    add(view, tr("Show clipped light"), QKeySequence("K"),
        [this] { table_->setShowClipped(!table_->showClipped()); });
    add(view, tr("Show the join"), QKeySequence("J"), [this] { table_->setJoin(!table_->join()); });
    QMenu* contours = view->addMenu(tr("Contour lines"));
    add(contours, tr("Contours: as fits"), {}, [this] { table_->setContourStep(0); });
    for (const double step : {0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0})
        add(contours, tr("Contours: every %1 px").arg(step), {},
            [this, step] { table_->setContourStep(step); });
    add(contours, tr("Contours: every…"), {}, [this] {
        bool good = false;
        const double step = QInputDialog::getDouble(
            this, tr("Contour lines"), tr("Height from line to line, px"),
            table_->contourStep() > 0 ? table_->contourStep() : 1, 0.001, 10000, 3, &good);
        if (good) table_->setContourStep(step);
    });
    view->addSeparator();
    add(view, tr("Zoom in"), QKeySequence::ZoomIn, [this] { table_->zoomBy(1.25); });
    add(view, tr("Zoom out"), QKeySequence::ZoomOut, [this] { table_->zoomBy(0.8); });
    add(view, tr("Fit"), QKeySequence("Ctrl+0"), [this] { table_->fit(); });
    add(view, tr("100 %"), QKeySequence("Ctrl+1"), [this] { table_->setZoom(1); });
    view->addSeparator();
    add(view, tr("Place elements"), QKeySequence("P"), [this] { table_->setTool(Table::Tool::place); });
    QMenu* brushes = view->addMenu(tr("Brushes"));
    add(view, tr("Paint on the relief"), QKeySequence("B"), [this] { table_->setTool(Table::Tool::paint); });
    for (std::size_t i = 0; i < brush_work_names.size(); ++i) {
        const QString name =
            QString::fromUtf8(brush_work_names[i].data(), static_cast<qsizetype>(brush_work_names[i].size()));
        add(brushes, tr("Brush: %1").arg(name), {}, [this, i] {
            table_->painter().brush.work = static_cast<BrushWork>(i);
            table_->setTool(Table::Tool::paint);
            brushRow_->refresh();
        });
    }
    add(view, tr("Walk the lights"), QKeySequence("L"), [this] { table_->setTool(Table::Tool::light); });
    add(view, tr("Draw the section line"), QKeySequence("S"),
        [this] { table_->setTool(Table::Tool::section); });
    add(view, tr("Clear guides"), {}, [this] {
        desk_.document.edit(tr("Clear guides"), [](Piece& p) { p.guides_x.clear(), p.guides_y.clear(); });
    });
    view->addSeparator();
    add(view, tr("Fold or open the drawer"), QKeySequence("D"),
        [this] { drawer_->setFolded(!drawer_->folded()); });
    add(
        view, tr("Day chart or night chart"), {}, [this] { setTheme(!Theme::current().dark); }, false);

    QMenu* light = menuBar()->addMenu(tr("Light"));
    add(light, tr("Add a far light"), {}, [this] { lights_->addLight("directional"); });
    add(light, tr("Add a lamp"), {}, [this] { lights_->addLight("point"); });
    add(light, tr("Add a spot"), {}, [this] { lights_->addLight("spot"); });
    add(light, tr("Add a strip"), {}, [this] { lights_->addLight("strip"); });
    add(light, tr("Add a sky"), {}, [this] { lights_->addLight("sky"); });
    add(light, tr("Delete the chosen lights"), {}, [this] { lights_->removeLight(); });
    add(light, tr("Choose all lights"), {}, [this] {
        QStringList ids;
        for (const Light& l : desk_.document.piece().lights) ids << QString::fromStdString(l.id);
        desk_.document.chooseLights(ids);
    });
    add(light, tr("Chosen light alone, or not"), QKeySequence("Shift+L"), [this] {
        const Light* now = desk_.document.light();
        if (!now) return;
        const bool alone = !now->alone;
        desk_.document.edit(tr("Light alone, or not"), [&](Piece& p) {
            for (Light& l : p.lights)
                if (desk_.document.isLightChosen(l.id)) l.alone = alone;
        });
    });
    light->addSeparator();
    add(light, tr("Keep this light as another take"), {}, [this] { lights_->keepTake(); });
    add(light, tr("Next take"), QKeySequence("N"), [this] { lights_->nextTake(); });
    add(light, tr("Delete this take"), {}, [this] { lights_->deleteTake(); });
    light->addSeparator();
    for (const auto& [id, words] : LightDesk::situations())
        add(light, tr("Start from: %1").arg(words.left(1).toLower() + words.mid(1)), {},
            [this, id = id] { lights_->arrange(id); });
    light->addSeparator();
    add(light, tr("Keep flat colour, or not"), {}, [this] {
        desk_.document.edit(tr("Keep flat colour"), [](Piece& p) { p.keep_flat_color = !p.keep_flat_color; });
    });

    QMenu* out = menuBar()->addMenu(tr("Deliver"));
    add(out, tr("Maps and pictures…"), QKeySequence("Ctrl+Shift+E"), [this] { deliver(View::height); });
    add(out, tr("Section as a drawing…"), {}, [this] { deliverSection(); });
    out->addSeparator();
    add(out, tr("Lit picture…"), QKeySequence("Ctrl+E"), [this] { deliver(View::lit); });
    add(out, tr("Art…"), {}, [this] { deliver(View::art); });
    add(out, tr("Height map…"), {}, [this] { deliver(View::height); });
    add(out, tr("Normal map…"), {}, [this] { deliver(View::normals); });

    QMenu* help = menuBar()->addMenu(tr("Help"));
    add(
        help, tr("Keys and actions…"), QKeySequence("F1"), [this] { findAction(); }, false);
    add(
        help, tr("About Bathylux"), {},
        [this] {
            QMessageBox::about(
                this, tr("About Bathylux"),
                tr("<b>Bathylux %1</b><p>Depth and light for flat artwork.<p>GPL-3.0-or-later. Fonts Cabin, "
                   "Manrope, League Spartan and Dancing Script under the SIL Open Font Licence; icons by "
                   "Lucide under the ISC licence.")
                    .arg(BATHYLUX_VERSION));
        },
        false);
}

QAction* Window::action(const QString& name) const {
    for (QAction* a : all_)
        if (a->text() == name) return a;
    return nullptr;
}

void Window::refreshActions() {
    const Document& doc = desk_.document;
    const bool piece = started_, some = piece && !doc.chosen().isEmpty();
    for (QAction* a : needPiece_) a->setEnabled(piece);
    for (const char* name :
         {"Cut", "Copy", "Duplicate", "Delete", "Add step…", "Rename", "Switch on or off", "Group",
          "Bring forward", "Send backward", "Fit to the canvas…", "Flip across", "Flip upside down",
          "Align left", "Align centre", "Align right", "Align top", "Align middle", "Align bottom"})
        if (QAction* a = action(tr(name))) a->setEnabled(some);
    if (QAction* a = action(tr("Ungroup")))
        a->setEnabled(some && doc.openElement() && doc.openElement()->is_group());
    if (QAction* a = action(tr("Delete the chosen light"))) a->setEnabled(piece && doc.light());
    // Edits of a piece that may only be looked at do nothing; saving under another name stays.
    if (doc.readOnly())
        for (const char* name : {"Save"})
            if (QAction* a = action(tr(name))) a->setEnabled(false);
}

void Window::refreshTitle() {
    const Document& doc = desk_.document;
    const Theme& t = Theme::current();
    const bool dirty = started_ && !doc.isClean();
    title_->setText(started_
                        ? doc.title() + (doc.readOnly() ? tr(" (to look at)") : QString()) +
                              (dirty ? " <span style='color:" + t.accent.name() + "'>●</span>" : QString())
                        : "Bathylux");
    title_->setTextFormat(Qt::RichText);
    title_->setStyleSheet("color: " + t.second.name());
    const Canvas& c = doc.piece().canvas;
    size_->setText(started_ ? tr("%1 × %2 px · %3 px/mm").arg(c.width).arg(c.height).arg(c.px_per_mm)
                            : QString());
    size_->setStyleSheet("color: " + t.second.name());
    title_->adjustSize();
    size_->adjustSize();
    int menus = 0;
    for (QAction* a : menuBar()->actions()) menus = std::max(menus, menuBar()->actionGeometry(a).right());
    const int h = menuBar()->height();
    title_->move(std::max((width() - title_->width()) / 2, menus + 16), (h - title_->height()) / 2);
    size_->move(width() - size_->width(), (h - size_->height()) / 2);
    size_->setVisible(size_->x() > title_->geometry().right() + 8);
    setWindowTitle((dirty ? "*" : "") + (started_ ? doc.title() + " – " : QString()) + "Bathylux");
    setWindowModified(false);
}

void Window::resizeEvent(QResizeEvent*) {
    refreshTitle();
    QTimer::singleShot(0, this, &Window::refreshTitle); // once the menu bar knows its height
}

void Window::showPiece() {
    started_ = true;
    middle_->setCurrentWidget(split_);
    refreshActions();
    refreshTitle();
    table_->fit();
}

void Window::setTheme(bool dark) {
    QSettings().setValue("dark", dark);
    Theme::apply(*qApp, dark);
    // Style sheets of single widgets hold colours of the theme they were made in.
    notices_->say(dark ? tr("Night chart.") : tr("Day chart."));
    const auto repaint = [](QWidget* w, auto&& self) -> void {
        w->update();
        for (QObject* c : w->children())
            if (auto* child = qobject_cast<QWidget*>(c)) self(child, self);
    };
    findChild<QWidget*>("toolRow")->setStyleSheet("#toolRow { border-bottom: 1px solid " +
                                                  Theme::current().line.name() + "; }");
    drawer_->setStyleSheet("#drawer { border-top: 1px solid " + Theme::current().line.name() + "; }");
    if (auto* foot = findChild<QWidget*>("lightFoot"))
        foot->setStyleSheet("#lightFoot { border-top: 1px solid " + Theme::current().line.name() + "; }");
    for (QLabel* l : findChildren<QLabel*>())
        if (l->font().capitalization() == QFont::AllUppercase)
            l->setStyleSheet("color: " + Theme::current().second.name() +
                             "; font-size: 11px; font-weight: 600;");
    for (auto t = tools_.begin(); t != tools_.end(); ++t)
        t.value()->setIcon(icon(t.value()->objectName().mid(5)));
    emit desk_.document.changed();
    repaint(this, repaint);
}

void Window::findAction() {
    QList<PickList::Entry> entries;
    for (QAction* a : all_)
        entries.push_back({a->text(),
                           a->text(),
                           {},
                           {},
                           a->shortcut().toString(QKeySequence::NativeText),
                           {},
                           a->isEnabled()});
    auto* list = new PickList(tr("Find an action"), entries, this);
    connect(list, &PickList::picked, this, [this](const QString& name) {
        if (QAction* a = action(name)) a->trigger();
    });
    list->openAt(mapToGlobal(QPoint(width() / 2 - 210, 60)), 420);
}

void Window::closeEvent(QCloseEvent* e) {
    if (!mayLeave()) return e->ignore();
    forgetAside();
    e->accept();
}

void Window::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void Window::dropEvent(QDropEvent* e) {
    QStringList paths;
    for (const QUrl& u : e->mimeData()->urls())
        if (u.isLocalFile()) paths << u.toLocalFile();
    addFiles(paths);
    e->acceptProposedAction();
}

} // namespace bathylux
