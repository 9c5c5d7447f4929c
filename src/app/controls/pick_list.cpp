#include "app/controls/pick_list.h"

#include <QApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPointer>
#include <QScreen>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include "app/controls/theme.h"

namespace bathylux {

namespace {

constexpr int idRole = Qt::UserRole, helpRole = Qt::UserRole + 1, shortcutRole = Qt::UserRole + 2,
              iconRole = Qt::UserRole + 3;

/// Section heads in small capitals, entries with their help beneath in the second rank.
class Delegate : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& i) const override {
        if (i.data(idRole).toString().isEmpty()) return {100, 26};
        return {100, i.data(helpRole).toString().isEmpty() ? 28 : 42};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& o, const QModelIndex& i) const override {
        const Theme& t = Theme::current();
        const QRect r = o.rect;
        if (i.data(idRole).toString().isEmpty()) {
            p->setFont(Theme::heads());
            p->setPen(t.second);
            p->drawText(r.adjusted(10, 6, -10, 0), Qt::AlignLeft | Qt::AlignVCenter, i.data().toString());
            return;
        }
        const bool chosen = o.state & QStyle::State_Selected, enabled = i.flags() & Qt::ItemIsEnabled;
        if (chosen) p->fillRect(r, t.accent);
        const QColor ink = chosen ? t.onAccent : enabled ? t.text : t.faint;
        int x = r.left() + 10;
        if (const QString icon = i.data(iconRole).toString(); !icon.isEmpty()) {
            p->drawPixmap(x, r.center().y() - 7, iconPixmap(icon, ink, 16, p->device()->devicePixelRatio()));
            x += 26;
        }
        const QString help = i.data(helpRole).toString();
        p->setFont(Theme::words());
        p->setPen(ink);
        p->drawText(
            QRect(x, r.top() + (help.isEmpty() ? 0 : 3), r.width() - 20, help.isEmpty() ? r.height() : 20),
            Qt::AlignLeft | Qt::AlignVCenter, i.data().toString());
        if (!help.isEmpty()) {
            p->setFont(Theme::words(12));
            p->setPen(chosen ? t.onAccent : t.second);
            p->drawText(QRect(x, r.top() + 20, r.right() - x - 8, 18), Qt::AlignLeft | Qt::AlignVCenter,
                        p->fontMetrics().elidedText(help, Qt::ElideRight, r.right() - x - 8));
        }
        p->setFont(Theme::numbers(11));
        p->setPen(chosen ? t.onAccent : t.second);
        p->drawText(r.adjusted(0, 0, -10, 0), Qt::AlignRight | Qt::AlignVCenter,
                    i.data(shortcutRole).toString());
    }
};

} // namespace

PickList::PickList(const QString& prompt, QList<Entry> entries, QWidget* parent)
    : QFrame(parent, Qt::Popup), entries_(std::move(entries)) {
    setAttribute(Qt::WA_DeleteOnClose);
    const Theme& t = Theme::current();
    setObjectName("pickList");
    setStyleSheet(
        QString("#pickList { background: %1; border: 1px solid %2; }").arg(t.panel.name(), t.line.name()));
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(6, 6, 6, 6);
    box->setSpacing(4);
    edit_ = new QLineEdit(this);
    edit_->setPlaceholderText(prompt);
    edit_->setAccessibleName(prompt);
    edit_->installEventFilter(this);
    list_ = new QListWidget(this);
    list_->setItemDelegate(new Delegate(list_));
    list_->setFocusPolicy(Qt::NoFocus);
    list_->setMouseTracking(true);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setStyleSheet("QListWidget { background: transparent; }");
    box->addWidget(edit_);
    box->addWidget(list_);
    connect(edit_, &QLineEdit::textChanged, this, &PickList::fill);
    connect(list_, &QListWidget::itemClicked, this, &PickList::take);
    connect(list_, &QListWidget::itemEntered, this, [this](QListWidgetItem* i) {
        if (i->flags() & Qt::ItemIsSelectable) list_->setCurrentItem(i);
    });
    fill();
}

void PickList::fill() {
    list_->clear();
    const QStringList words = edit_->text().toLower().split(' ', Qt::SkipEmptyParts);
    QString group;
    QListWidgetItem* first = nullptr;
    for (const Entry& e : entries_) {
        const QString all = (e.name + " " + e.help + " " + e.group).toLower();
        if (!std::all_of(words.begin(), words.end(), [&](const QString& w) { return all.contains(w); }))
            continue;
        if (e.group != group && !e.group.isEmpty()) {
            auto* head = new QListWidgetItem(e.group, list_);
            head->setFlags(Qt::NoItemFlags);
        }
        group = e.group;
        auto* item = new QListWidgetItem(e.name, list_);
        item->setData(idRole, e.id);
        item->setData(helpRole, e.help);
        item->setData(shortcutRole, e.shortcut);
        item->setData(iconRole, e.icon);
        if (!e.enabled)
            item->setFlags(Qt::NoItemFlags);
        else if (!first)
            first = item;
    }
    if (first) list_->setCurrentItem(first);
    if (isVisible()) fitHeight();
}

/// As high as what it lists, so that it ends where the list does.
void PickList::fitHeight() {
    int height = edit_->sizeHint().height() + 20;
    for (int i = 0; i < list_->count(); ++i) height += list_->sizeHintForRow(i);
    resize(width(), std::min(height, 460));
}

void PickList::openAt(const QPoint& global, int width) {
    resize(width, 100);
    fitHeight();
    QRect place(global, size());
    if (const QScreen* s = QApplication::screenAt(global)) {
        const QRect r = s->availableGeometry();
        place.moveLeft(std::clamp(place.left(), r.left(), std::max(r.left(), r.right() - place.width())));
        place.moveTop(std::clamp(place.top(), r.top(), std::max(r.top(), r.bottom() - place.height())));
    }
    move(place.topLeft());
    show();
    edit_->setFocus();
}

void PickList::take() {
    // Hidden, it has been taken from: a second click that waited already is none.
    const auto* item = isVisible() ? list_->currentItem() : nullptr;
    if (!item || item->data(idRole).toString().isEmpty() || !(item->flags() & Qt::ItemIsEnabled)) return;
    hide();
    // What is picked may open a dialog, or take away all there is: nothing of this list may be under way by
    // then.
    const auto picks = [this, id = item->data(idRole).toString()] {
        const QPointer<PickList> self(this);
        emit picked(id);
        if (self) self->close();
    };
    QMetaObject::invokeMethod(this, picks, Qt::QueuedConnection);
}

bool PickList::eventFilter(QObject* o, QEvent* e) {
    if (o != edit_ || e->type() != QEvent::KeyPress) return QFrame::eventFilter(o, e);
    const auto* key = static_cast<QKeyEvent*>(e);
    const auto step = [&](int by) {
        for (int i = list_->currentRow() + by; i >= 0 && i < list_->count(); i += by)
            if (list_->item(i)->flags() & Qt::ItemIsSelectable) {
                list_->setCurrentRow(i);
                break;
            }
        return true;
    };
    switch (key->key()) {
    case Qt::Key_Down: return step(1);
    case Qt::Key_Up: return step(-1);
    case Qt::Key_Return:
    case Qt::Key_Enter: take(); return true;
    case Qt::Key_Escape: close(); return true;
    default: return false;
    }
}

} // namespace bathylux
