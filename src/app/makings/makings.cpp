#include "app/makings/makings.h"

#include <QLabel>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/column_area.h"
#include "app/controls/theme.h"
#include "core/piece/kinds.h"

namespace bathylux {

Makings::Makings(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setMinimumWidth(308); // what the cards hold, in full
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    auto* top = new QHBoxLayout;
    top->setContentsMargins(14, 4, 8, 4);
    top->addWidget(headLabel(tr("Makings"), this));
    top->addStretch(1);
    auto* add = linkButton(tr("+ Add"), this);
    add->setObjectName("addElement");
    add->setToolTip(tr("Add words, a picture, a shape"));
    connect(add, &QToolButton::clicked, this, &Makings::askForElement);
    addButton_ = add;
    top->addWidget(add);
    box->addLayout(top);
    scroll_ = columnArea(this);
    scroll_->viewport()->setAutoFillBackground(false);
    box->addWidget(scroll_, 1);
    footer_ = new QLabel(this);
    footer_->setFont(Theme::words(11));
    footer_->setContentsMargins(14, 4, 8, 6);
    box->addWidget(footer_);

    sticky_ = new ElementHead(scroll_->viewport());
    sticky_->hide();
    connect(sticky_, &ElementHead::clicked, this, [this] {
        scroll_->verticalScrollBar()->setValue(0);
        if (list_ && list_->card()) scroll_->ensureWidgetVisible(list_->card(), 0, 0);
    });
    connect(scroll_->verticalScrollBar(), &QScrollBar::valueChanged, this, &Makings::placeSticky);
    connect(&desk_.document, &Document::changed, this, &Makings::refresh);
    connect(&desk_.document, &Document::choiceChanged, this, &Makings::refresh);
    connect(&desk_.renderer, &Renderer::pictured, this, [this](const QString& id, const QImage& picture) {
        desk_.pictures[id] = picture;
        refresh();
    });
    connect(&desk_.renderer, &Renderer::framed, this, [this] {
        if (desk_.frame && !desk_.frame->shot.coarse) refresh();
    });
}

void Makings::setFooter(const QString& text) {
    footer_->setStyleSheet("color: " + Theme::current().second.name());
    footer_->setText(text);
}

void Makings::refresh() {
    if (rebuilding_ || !desk_.open) return;
    if (ElementList::signature(desk_, folds_) != signature_) return rebuild();
    list_->refresh();
    placeSticky();
}

void Makings::rebuild() {
    rebuilding_ = true;
    signature_ = ElementList::signature(desk_, folds_);
    // Where the keyboard was stays where it was, by name.
    const QWidget* focused = list_ && list_->isAncestorOf(focusWidget()) ? focusWidget() : nullptr;
    const QString focusName = focused ? focused->accessibleName() : QString();
    const QString focusClass = focused ? focused->metaObject()->className() : QString();
    const int scrolled = scroll_->verticalScrollBar()->value();

    auto* fresh = new ElementList(desk_, folds_, scroll_->viewport());
    connect(fresh, &ElementList::stepAsked, this, &Makings::askForStep);
    connect(fresh, &ElementList::elementMenu, this, &Makings::elementMenu);
    connect(fresh, &ElementList::stepMenu, this, &Makings::stepMenu);
    connect(fresh, &ElementList::embedAsked, this, &Makings::embedAsked);
    connect(fresh, &ElementList::relinkAsked, this, &Makings::relinkAsked);
    connect(fresh, &ElementList::canvasAsked, this, &Makings::canvasAsked);
    connect(fresh, &ElementList::foldAsked, this, [this](const QString& key) {
        folds_[key] = !folds_.value(key);
        refresh();
    });
    // The old one may be in the middle of an event of its own: it goes when that is over, and hears no more.
    QWidget* old = scroll_->takeWidget();
    list_ = fresh;
    scroll_->setWidget(fresh);
    if (old) {
        old->disconnect(this);
        old->hide();
        old->deleteLater();
    }
    fresh->setAutoFillBackground(false);
    fresh->show();
    if (!focusName.isEmpty())
        for (QWidget* w : fresh->findChildren<QWidget*>())
            if (w->accessibleName() == focusName && w->metaObject()->className() == focusClass) {
                w->setFocus();
                break;
            }
    fresh->layout()->activate();
    scroll_->verticalScrollBar()->setValue(scrolled);
    sticky_->raise();
    rebuilding_ = false;
    placeSticky();
}

PickList* Makings::ask(const QString& prompt, const QList<PickList::Entry>& entries) {
    auto* list = new PickList(prompt, entries, this);
    // What was picked for one piece is not added to another that came in meanwhile.
    connect(&desk_.document, &Document::replaced, list, [list] { delete list; });
    return list;
}

void Makings::askForElement() {
    QList<PickList::Entry> entries;
    static const std::map<std::string_view, const char*> icons{
        {"type", "type"},        {"picture", "image"},    {"svg", "pen-tool"}, {"rectangle", "square"},
        {"ellipse", "circle"},   {"group", "group"},      {"form", "cone"},    {"noise", "waves"},
        {"pattern", "grid-3x3"}, {"normals", "mountain"}, {"sprites", "film"}, {"paint", "brush"},
        {"gradient", "palette"}, {"twin", "copy"}};
    for (const SourceKind& k : source_kinds()) {
        const auto icon = icons.find(k.id);
        entries.push_back(
            {qs(k.id), qs(k.name), qs(k.help), {}, {}, icon == icons.end() ? "square" : icon->second, true});
    }
    PickList* list = ask(tr("Add what?"), entries);
    connect(list, &PickList::picked, this, &Makings::addElement);
    list->openAt(addButton_->mapToGlobal(QPoint(-220, addButton_->height() + 2)), 280);
}

void Makings::askForStep() {
    if (!desk_.document.openElement()) return;
    QList<PickList::Entry> entries;
    const bool finish = desk_.document.openElement()->id == finish_id;
    for (const StepKind& k : finish ? finish_kinds() : step_kinds())
        entries.push_back({qs(k.id), qs(k.name), qs(k.help), qs(k.group), {}, {}, true});
    std::stable_sort(entries.begin(), entries.end(), [](const auto& a, const auto& b) {
        static const QStringList order{"give depth", "shape depth", "shape", "colour",
                                       "wear",       "bend",        "finish"};
        return order.indexOf(a.group) < order.indexOf(b.group);
    });
    PickList* list = ask(tr("Add which step?"), entries);
    connect(list, &PickList::picked, this, &Makings::addStep);
    QWidget* by =
        list_ && list_->stepButton() && list_->stepButton()->isVisible() ? list_->stepButton() : addButton_;
    list->openAt(by->mapToGlobal(QPoint(-220, by->height() + 2)), 300);
}

void Makings::rename() {
    if (list_ && list_->openHead()) list_->openHead()->rename();
}

void Makings::placeSticky() {
    // While a list is being set in, the bar moves and nothing has its place yet.
    if (rebuilding_ || !list_) return;
    const ElementHead* head = list_->openHead();
    const QWidget* card = list_->card();
    if (!head || !card) {
        sticky_->hide();
        return;
    }
    const int top = head->mapTo(scroll_->viewport(), QPoint()).y(),
              bottom = card->mapTo(scroll_->viewport(), QPoint(0, card->height())).y();
    const bool show = top < 0 && bottom > head->height() + 30;
    sticky_->setVisible(show);
    if (!show) return;
    sticky_->setFace(head->face());
    sticky_->setGeometry(head->mapTo(scroll_->viewport(), QPoint()).x(), 0, head->width(), head->height());
}

void Makings::resizeEvent(QResizeEvent*) { placeSticky(); }

} // namespace bathylux
