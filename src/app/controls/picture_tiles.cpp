#include "app/controls/picture_tiles.h"

#include <QPainter>
#include <QStyledItemDelegate>

#include "app/controls/theme.h"

namespace bathylux {

namespace {

constexpr int aboutRole = Qt::UserRole + 1, troubleRole = Qt::UserRole + 2, tileMargin = 8, lines = 38;

class TileDelegate : public QStyledItemDelegate {
  public:
    TileDelegate(QSize picture, QObject* parent) : QStyledItemDelegate(parent), picture_(picture) {}
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {picture_.width() + 2 * tileMargin, picture_.height() + 2 * tileMargin + lines};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& o, const QModelIndex& index) const override {
        const Theme& t = Theme::current();
        p->save();
        p->setRenderHint(QPainter::SmoothPixmapTransform);
        const QRect all = o.rect.adjusted(2, 2, -2, -2);
        const bool chosen = o.state & QStyle::State_Selected, over = o.state & QStyle::State_MouseOver;
        if (chosen || over) p->fillRect(all, t.raised);
        const QRect box(o.rect.left() + tileMargin, o.rect.top() + tileMargin, picture_.width(),
                        picture_.height());
        p->fillRect(box, t.well);
        const auto image = index.data(Qt::DecorationRole).value<QImage>();
        const QString trouble = index.data(troubleRole).toString();
        p->setFont(Theme::words(12));
        p->setPen(t.second);
        if (!image.isNull()) {
            const QSize s = image.deviceIndependentSize().toSize().scaled(box.size(), Qt::KeepAspectRatio);
            p->drawImage(QRect(box.left() + (box.width() - s.width()) / 2,
                               box.top() + (box.height() - s.height()) / 2, s.width(), s.height()),
                         image);
        } else
            p->drawText(box.adjusted(8, 8, -8, -8), Qt::AlignCenter | Qt::TextWordWrap,
                        trouble.isEmpty() ? QObject::tr("being made…") : trouble);
        p->setPen(QPen(chosen ? t.accent : t.line, 1));
        p->drawRect(chosen ? all.adjusted(0, 0, -1, -1) : box.adjusted(0, 0, -1, -1));
        const QRect name(box.left(), box.bottom() + 3, box.width(), 18);
        p->setFont(Theme::words(13, QFont::DemiBold));
        p->setPen(t.text);
        p->drawText(name, Qt::AlignLeft | Qt::AlignVCenter,
                    p->fontMetrics().elidedText(index.data(Qt::DisplayRole).toString(), Qt::ElideRight,
                                                name.width()));
        p->setFont(Theme::words(12));
        p->setPen(t.second);
        p->drawText(
            name.translated(0, 17), Qt::AlignLeft | Qt::AlignVCenter,
            p->fontMetrics().elidedText(index.data(aboutRole).toString(), Qt::ElideRight, name.width()));
        p->restore();
    }

  private:
    QSize picture_;
};

} // namespace

PictureTiles::PictureTiles(QSize picture, QWidget* parent) : QListWidget(parent), picture_(picture) {
    setViewMode(QListView::IconMode);
    setResizeMode(QListView::Adjust);
    setMovement(QListView::Static);
    setUniformItemSizes(true);
    setSpacing(2);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    setMouseTracking(true);
    setItemDelegate(new TileDelegate(picture, this));
}

void PictureTiles::addTile(const QString& name, const QString& about, const QVariant& kept) {
    auto* item = new QListWidgetItem(name, this);
    item->setData(Qt::UserRole, kept);
    item->setData(aboutRole, about);
    item->setToolTip(about.isEmpty() ? name : name + "\n" + about);
    item->setData(Qt::AccessibleDescriptionRole, about);
}

void PictureTiles::setPicture(int row, const QImage& image) {
    if (QListWidgetItem* i = item(row)) i->setData(Qt::DecorationRole, image);
}

void PictureTiles::setTrouble(int row, const QString& why) {
    if (QListWidgetItem* i = item(row)) i->setData(troubleRole, why), i->setToolTip(why);
}

} // namespace bathylux
