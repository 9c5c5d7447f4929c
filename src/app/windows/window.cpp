#include "app/windows/window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDeadlineTimer>
#include <QDragEnterEvent>
#include <QLabel>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QSettings>
#include <QShortcut>
#include <QSplitter>
#include <QStackedWidget>
#include <QThread>
#include <QThreadPool>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/controls.h"
#include "app/controls/notice_bar.h"
#include "app/controls/pick_list.h"
#include "app/controls/theme.h"
#include "app/desk/light_desk.h"
#include "app/drawer/drawer.h"
#include "app/makings/makings.h"
#include "app/solid/solid_pane.h"
#include "app/table/brush_row.h"
#include "app/time/time_strip.h"
#include "app/time/time_view.h"
#include "app/windows/first_page.h"
#include "app/windows/last_look.h"
#include "core/error.h"
#include "files/type.h"

namespace bathylux {

Piece freshPiece(int width, int height, double perMm) {
    Piece p;
    p.canvas.width = static_cast<float>(width);
    p.canvas.height = static_cast<float>(height);
    p.canvas.px_per_mm = static_cast<float>(perMm);
    p.canvas.background = rgb(58, 68, 74);
    DirectionalLight d;
    d.angle = 128, d.elevation = 40, d.intensity = 1.2f;
    p.lights.emplace_back(Light{"window", "Window", true, Described(light_kind("directional"), d)});
    p.ambient.intensity = 0.14f;
    p.section = SectionLine{{width * 0.0625, height / 2.0}, {width * 0.9375, height / 2.0}};
    return p;
}

Window::Window(std::shared_ptr<files::Resolver> resolver, const std::optional<QPixmap>& awaited)
    : desk_(std::move(resolver)) {
    setWindowTitle("Bathylux");
    resize(QSize(1280, 800).boundedTo(screen()->availableSize()));
    if (awaited) awaitPiece(*awaited);
    files::load_shipped_fonts(); // nothing was written so far
    desk_.window = this;
    desk_.document.replace({std::make_shared<const Piece>(freshPiece()), {}}, {});

    // First of all who listen: whoever is told of a frame finds it on the desk.
    connect(&desk_.document, &Document::replaced, this, [this] { desk_.open = true; });
    connect(&desk_.renderer, &Renderer::framed, this,
            [this](const std::shared_ptr<Frame>& f) { desk_.frame = f; });
    // Whoever comes to live in another house is dressed anew: all are made where they stay.
    middle_ = new QStackedWidget(this);
    split_ = new QSplitter(Qt::Horizontal, middle_);
    split_->setHandleWidth(1);
    split_->setChildrenCollapsible(false);
    makings_ = new Makings(desk_, split_);
    auto* centre = new QWidget(split_);
    auto* column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    table_ = new Table(desk_, centre);
    column->addWidget(makeToolRow());
    recovery_ = new NoticeBar(centre, true);
    column->addWidget(recovery_);
    notices_ = new NoticeBar(centre);
    column->addWidget(notices_);
    brushRow_ = new BrushRow(desk_, table_->painter(), centre);
    brushRow_->hide();
    column->addWidget(brushRow_);
    column->addWidget(table_, 1);
    solid_ = new SolidPane(desk_, *table_);
    drawer_ = new Drawer(desk_, centre);
    time_ = new TimeStrip(desk_, drawer_);
    tracks_ = new TimeView(desk_, *time_, drawer_);
    drawer_->setTime(time_, time_->details(), tracks_);
    column->addWidget(drawer_);
    lights_ = new LightDesk(desk_, split_);
    split_->addWidget(makings_);
    split_->addWidget(centre);
    split_->addWidget(lights_);
    split_->setStretchFactor(0, 0);
    split_->setStretchFactor(1, 1);
    split_->setStretchFactor(2, 0);
    split_->setSizes({326, 702, 252});
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
    connectRooms();

    asideTimer_.setInterval(60'000);
    connect(&asideTimer_, &QTimer::timeout, this, &Window::keepAside);
    asideTimer_.start();
    pulse_.setInterval(100);
    connect(&pulse_, &QTimer::timeout, this, [this] {
        const auto [done, ms] = desk_.renderer.progress();
        const bool reading = !incoming_.isEmpty();
        const bool show = ms > 500 || exporting_ || reading;
        working_->setVisible(show);
        cancel_->setVisible(show && (exporting_ || ms > 500));
        if (exporting_)
            working_->setText(tr("exporting %1 %").arg(qRound(100 * exported_)));
        else if (reading)
            working_->setText(tr("reading %1").arg(incoming_.front().paths.front().section('/', -1)));
        else if (show)
            working_->setText(tr("working %1 %").arg(qRound(100 * done)));
    });
    pulse_.start();
    refreshActions();
    refreshTitle();
    middle_->setCurrentWidget(lastLook_ ? static_cast<QWidget*>(split_) : first_);
    if (lastLook_) lastLook_->raise();
    setAcceptDrops(true);
}

Window::~Window() {
    // The rooms go first: what loses the focus or holds a stroke still speaks to the document. Nobody hears
    // of it any more, neither the window nor a room that has gone by half.
    desk_.document.history().blockSignals(true);
    desk_.document.blockSignals(true);
    desk_.renderer.disconnect(this);
    delete takeCentralWidget();
    // What works behind the window uses what is in it.
    stopExport_.request_stop();
    QThreadPool::globalInstance()->waitForDone();
    if (closed_) aside_.forget(); // a copy may have been under way
}

void Window::tell(const QString& trouble) { notices_->say(trouble, {}, true); }

void Window::guarded(const std::function<void()>& work) {
    try {
        work();
    } catch (const Cancelled&) {
        // One asked for it.
    } catch (const Error& e) {
        tell(QString::fromUtf8(e.what()));
    } catch (const std::exception& e) {
        tell(tr("That could not be done (%1); the piece is as it was.").arg(QString::fromUtf8(e.what())));
    }
}

void Window::connectRooms() {
    Document& doc = desk_.document;
    on(&doc, &Document::titleChanged, [this] { refreshTitle(); });
    on(&doc, &Document::changed, [this] {
        refreshActions();
        refreshTitle();
        if (!desk_.document.inStroke()) watchFiles();
        if (!desk_.open && !desk_.document.piece().elements.empty()) showPiece();
    });
    // Not by `changed`, which is told while the history still has the edit before on top.
    on(&doc.history(), &QUndoStack::indexChanged, [this] { notices_->editOnTop(desk_.document.topEdit()); });
    on(&doc, &Document::choiceChanged, [this] { refreshActions(); });
    for (auto refused : {&Document::refused}) connect(&doc, refused, this, &Window::tell);
    connect(&desk_.renderer, &Renderer::failed, this, &Window::tell);
    connect(lights_, &LightDesk::refused, this, &Window::tell);
    connect(table_, &Table::refused, this, &Window::tell);
    connect(solid_, &SolidPane::refused, this, &Window::tell);
    // What comes to lie on a solid is shown on it, and flat again when it does not any more.
    on(&desk_.document, &Document::changed, [this] {
        const bool now = desk_.document.piece().solid.has_value();
        if (std::exchange(onSolid_, now) == now) return;
        if (now)
            table_->setSolid(false);
        else
            for (const bool left : {true, false})
                if (table_->showsSolid(left)) table_->setView(left, table_->view(left));
    });
    on(&desk_.renderer, &Renderer::framed, [this](const std::shared_ptr<Frame>& f) {
        if (!f->shot.coarse) makings_->setFooter(tr("sharp in %1 ms").arg(qRound(f->milliseconds)));
        endLastLook();
    });
    on(makings_, &Makings::addElement, [this](const QString& kind) { addElement(kind); });
    on(makings_, &Makings::addStep, [this](const QString& kind) { addStep(kind); });
    on(makings_, &Makings::embedAsked, [this](const QString& id) { embed(id); });
    on(makings_, &Makings::relinkAsked, [this](const QString& id) { relink(id); });
    on(makings_, &Makings::canvasAsked, [this] { action("canvas")->trigger(); });
    const auto element_menu = [this](const QPoint& at) {
        showMenu({"cut", "copy", "paste", "duplicate", "delete", "", "rename", "switch", "lock", "",
                  "forward", "backward", "group", "ungroup", "", "flip-across", "flip-down", "", "add-step"},
                 at);
    };
    on(makings_, &Makings::elementMenu, element_menu);
    on(table_, &Table::menuAsked, element_menu);
    on(makings_, &Makings::stepMenu, [this](const QString& step, const QPoint& at) {
        auto* menu = passingMenu(this);
        for (const auto& [name, what] : {std::pair{tr("Copy step"), "copy"},
                                         {tr("Duplicate step"), "duplicate"},
                                         {tr("Delete step"), "delete"},
                                         {tr("Move up"), "up"},
                                         {tr("Move down"), "down"}})
            on(menu->addAction(name), &QAction::triggered,
               [this, what = QString(what), step](bool) { stepAction(what, step); });
        menu->addSeparator();
        on(menu->addAction(tr("Alternatives…")), &QAction::triggered,
           [this, step](bool) { openAlternatives(step); });
        menu->popup(at);
    });
    on(first_, &FirstPage::makeAsked, [this](const QString& kind) { addElement(kind); });
    on(first_, &FirstPage::openAsked, [this] { ask(); });
    on(first_, &FirstPage::demoAsked, [this](const QString& path) { openDemo(path); });
    const auto dropped = [this](const QList<QUrl>& urls, std::optional<Vec2> at) {
        QStringList paths;
        for (const QUrl& u : urls)
            if (u.isLocalFile()) paths << u.toLocalFile();
        addFiles(paths, at);
    };
    on(first_, &FirstPage::filesDropped, [dropped](const QList<QUrl>& urls) { dropped(urls, {}); });
    on(table_, &Table::filesDropped, [dropped](const QList<QUrl>& urls, Vec2 at) { dropped(urls, at); });
    on(table_, &Table::dataDropped,
       [this](const QMimeData* dropped_data, Vec2 at) { pasteData(dropped_data, at); });
    on(table_, &Table::soundingMoved, [this] { drawer_->showSounding(); });
    on(table_, &Table::zoomChanged,
       [this](double z) { zoomLabel_->setText(QString::number(z * 100, 'f', z < 0.1 ? 1 : 0) + " %"); });
    on(table_, &Table::toolChanged, [this] {
        for (auto t = tools_.begin(); t != tools_.end(); ++t)
            t.value()->setChecked(t.key() == static_cast<int>(table_->tool()));
        brushRow_->setVisible(table_->tool() == Table::Tool::paint);
        brushRow_->refresh();
        refreshActions();
    });
    connect(table_, &Table::brushChanged, brushRow_, &BrushRow::refresh);
    connect(brushRow_, &BrushRow::changed, table_, qOverload<>(&QWidget::update));
    on(table_, &Table::viewChanged, [this] { refreshActions(); });
    connect(drawer_, &Drawer::placeAsked, table_, &Table::showPlace);
    connect(drawer_, &Drawer::placeAsked, solid_, &SolidPane::showPlace);
    connect(drawer_, &Drawer::faultAsked, solid_, &SolidPane::showFault);
    on(drawer_, &Drawer::drawingAsked, [this] { exportSection(); });
    connect(time_, &TimeStrip::moved, table_, &Table::requestFrame);
    connect(tracks_, &TimeView::refused, this, &Window::tell);
    on(&desk_.document, &Document::numberAskBegan,
       [this] { tell(tr("Point at the number that it is to follow. Escape: at none.")); });
    auto* none = new QShortcut(QKeySequence(Qt::Key_Escape), this);
    none->setEnabled(false);
    connect(none, &QShortcut::activated, this, [this] { desk_.document.askForNumber(nullptr, {}); });
    connect(&desk_.document, &Document::numberAskBegan, none, [none] { none->setEnabled(true); });
    connect(&desk_.document, &Document::numberAskEnded, none, [none] { none->setEnabled(false); });
    on(&watcher_, &QFileSystemWatcher::fileChanged, [this](const QString& path) { fileChanged(path); });
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
        on(b, &QToolButton::clicked, [this, t = tool] {
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
    cancel_->setObjectName("stopWork");
    cancel_->setText(tr("stop"));
    cancel_->setProperty("link", true);
    cancel_->hide();
    connect(cancel_, &QToolButton::clicked, this, [this] {
        if (exporting_)
            stopExport_.request_stop();
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

void Window::showMenu(const QStringList& ids, const QPoint& at) {
    auto* menu = passingMenu(this);
    for (const QString& id : ids)
        if (id.isEmpty())
            menu->addSeparator();
        else if (QAction* a = action(id))
            menu->addAction(a);
    menu->popup(at);
}

void Window::refreshActions() { actions_->refresh(desk_.document, desk_.open); }

void Window::refreshTitle() {
    const Document& doc = desk_.document;
    const Theme& t = Theme::current();
    const bool dirty = desk_.open && !doc.isClean();
    title_->setText(desk_.open
                        ? doc.title() + (doc.readOnly() ? tr(" (to look at)") : QString()) +
                              (dirty ? " <span style='color:" + t.accent.name() + "'>●</span>" : QString())
                        : "Bathylux");
    title_->setTextFormat(Qt::RichText);
    title_->setStyleSheet("color: " + t.second.name());
    const Canvas& c = doc.piece().canvas;
    size_->setText(desk_.open ? tr("%1 × %2 px · %3 px/mm").arg(c.width).arg(c.height).arg(c.px_per_mm)
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
    setWindowTitle((dirty ? "*" : "") + (desk_.open ? doc.title() + " – " : QString()) + "Bathylux");
    setWindowModified(false);
}

void Window::resizeEvent(QResizeEvent*) {
    if (lastLook_) lastLook_->setGeometry(rect());
    if (!middle_) return;
    refreshTitle();
    QTimer::singleShot(0, this, &Window::refreshTitle); // once the menu bar knows its height
}

void Window::showPiece() {
    if (lastLook_ && lastLook_->empty()) endLastLook();
    // What a fresh piece has on it is shown with the first of them; of others the document tells.
    if (!std::exchange(desk_.open, true)) makings_->refresh(), lights_->refresh();
    middle_->setCurrentWidget(split_);
    refreshActions();
    refreshTitle();
    table_->fit();
}

/// The window before there is anything in it.
void Window::awaitPiece(const QPixmap& picture) {
    restorePlace();
    lastLook_ = new LastLook(picture, this);
    lastLook_->setGeometry(rect());
    show();
    // As long as it takes to be seen; what one does meanwhile waits until there is something to do it with.
    for (const QDeadlineTimer soon(30); !lastLook_->wasSeen() && !soon.hasExpired(); QThread::usleep(300))
        QCoreApplication::processEvents(QEventLoop::ExcludeUserInputEvents);
}

void Window::awaited() {
    if (desk_.open) return;
    endLastLook();
    middle_->setCurrentWidget(first_);
}

void Window::endLastLook() {
    if (lastLook_) lastLook_->deleteLater();
    lastLook_ = nullptr;
}

void Window::restorePlace() {
    if (const QByteArray geometry = QSettings().value("geometry").toByteArray(); !geometry.isEmpty())
        restoreGeometry(geometry);
}

void Window::restoreLook() {
    if (!isVisible()) restorePlace();
    const QSettings s;
    if (const QByteArray widths = s.value("widths").toByteArray(); !widths.isEmpty())
        split_->restoreState(widths);
    drawer_->setFolded(s.value("drawerFolded", false).toBool());
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
    for (QAction* a : actions_->all())
        entries.push_back({a->objectName(),
                           a->text(),
                           {},
                           {},
                           a->shortcut().toString(QKeySequence::NativeText),
                           {},
                           a->isEnabled()});
    auto* list = new PickList(tr("Find an action"), entries, this);
    on(list, &PickList::picked, [this](const QString& id) {
        if (QAction* a = action(id)) a->trigger();
    });
    list->openAt(mapToGlobal(QPoint(width() / 2 - 210, 60)), 420);
}

void Window::closeEvent(QCloseEvent* e) {
    if (!middle_) return e->ignore(); // asked for before there is a window to close
    bool may = false;
    guarded([&] { may = mayLeave(); });
    if (!may) return e->ignore();
    QSettings s;
    s.setValue("geometry", saveGeometry());
    s.setValue("widths", split_->saveState());
    s.setValue("drawerFolded", drawer_->folded());
    aside_.forget();
    closed_ = true;
    e->accept();
}

void Window::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void Window::dropEvent(QDropEvent* e) {
    guarded([&] { pasteData(e->mimeData()); });
    e->acceptProposedAction();
}

} // namespace bathylux
