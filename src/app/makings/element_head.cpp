#include "app/makings/element_head.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>

#include "app/controls/theme.h"

namespace bathylux {

ElementHead::ElementHead(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void ElementHead::setFace(const Face& face) {
    if (face == face_) return;
    const bool grown = face.open != face_.open;
    face_ = face;
    setFixedHeight(sizeHint().height());
    setAccessibleName(face_.name);
    setAccessibleDescription(face_.about + (face_.visible ? QString() : tr(", switched off")) +
                             (face_.locked ? tr(", locked") : QString()));
    setToolTip(face_.trouble ? face_.about : QString());
    if (grown) updateGeometry();
    update();
}

QRect ElementHead::eye() const { return {width() - 30, 0, 28, height()}; }
QRect ElementHead::nameRect() const {
    const int left = 8 + face_.depth * 14 + (face_.plain ? 2 : face_.open ? 72 : 44);
    return face_.open ? QRect(left, 8, width() - left - 96 - (face_.locked ? 18 : 0), 20)
                      : QRect(left, 0, width() - left - 92 - (face_.locked ? 16 : 0), height());
}

void ElementHead::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (face_.open) {
        p.fillRect(rect(), t.selection);
    } else {
        p.fillRect(rect().adjusted(0, 2, 0, -2), face_.chosen ? t.selection : hovered_ ? t.raised : t.panel);
        p.setPen(face_.chosen ? t.accent : t.line);
        p.drawRect(rect().adjusted(0, 2, -1, -3));
    }
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.drawRect(rect().adjusted(face_.open ? 3 : 0, 2, -1, -3));
    }
    const qreal fade = face_.visible ? 1 : 0.35;
    const int left = 8 + face_.depth * 14;
    const QRect frame = face_.open ? QRect(left, 8, 62, 40) : QRect(left - 3, 6, 42, height() - 12);
    if (!face_.plain) p.fillRect(frame, t.well);
    if (!face_.picture.isNull()) {
        p.setOpacity(fade);
        QRectF from = face_.picture.rect();
        const double want = double(frame.width()) / frame.height();
        if (from.width() / from.height() > want) {
            const double w = from.height() * want;
            from.adjust((from.width() - w) / 2, 0, -(from.width() - w) / 2, 0);
        } else {
            const double h = from.width() / want;
            from.adjust(0, (from.height() - h) / 2, 0, -(from.height() - h) / 2);
        }
        p.drawImage(frame, face_.picture, from);
        p.setOpacity(1);
    }
    if (!edit_) {
        QRect r = nameRect();
        p.setFont(Theme::words(13, face_.open ? QFont::DemiBold : QFont::Medium));
        p.setPen(face_.visible ? t.text : t.faint);
        const QString name = p.fontMetrics().elidedText(face_.name, Qt::ElideRight, r.width());
        p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, name);
        const int after = r.left() + p.fontMetrics().horizontalAdvance(name) + 8;
        p.setFont(Theme::words(12));
        p.setPen(face_.trouble ? t.signal : face_.visible ? t.second : t.faint);
        if (face_.open)
            r = QRect(r.left(), 28, width() - r.left() - 12, 20);
        else
            r = QRect(after, 0, r.right() - after, height());
        if (r.width() > 30)
            p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter,
                       p.fontMetrics().elidedText(face_.about, Qt::ElideRight, r.width()));
    }
    const double middle = face_.open ? 18 : height() / 2.0;
    const auto drawEye = [&] {
        if (hovered_ || !face_.visible || hasFocus() || face_.open)
            p.drawPixmap(eye().left() + 6, static_cast<int>(middle) - 8,
                         iconPixmap(face_.visible ? "eye" : "eye-off", face_.visible ? t.second : t.accent,
                                    16, devicePixelRatioF()));
    };
    if (face_.fixed) return;
    if (face_.plain) return drawEye();
    // What it gives: colour a full dot, height three nested rings, surface a half-shaded disc.
    p.setRenderHint(QPainter::Antialiasing);
    const double cy = middle;
    double x = width() - 84;
    const auto tint = [&](bool on, const QColor& c) { return on && face_.visible ? c : t.line; };
    p.setPen(Qt::NoPen);
    p.setBrush(tint(face_.color, t.text));
    p.drawEllipse(QPointF(x, cy), 4.5, 4.5);
    x += 20;
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(tint(face_.height, t.depth), 1.1));
    for (double r : {6.5, 4.2, 1.8}) p.drawEllipse(QPointF(x, cy), r, r * 0.68);
    x += 20;
    p.setPen(QPen(tint(face_.surface, t.text), 1.2));
    p.drawEllipse(QPointF(x, cy), 4.5, 4.5);
    p.setPen(Qt::NoPen);
    p.setBrush(tint(face_.surface, t.text));
    p.drawPie(QRectF(x - 4.5, cy - 4.5, 9, 9), -90 * 16, 180 * 16);
    if (face_.locked)
        p.drawPixmap(width() - 104 - (face_.open ? 4 : 0), static_cast<int>(cy) - 6,
                     iconPixmap("lock", t.second, 12, devicePixelRatioF()));
    drawEye();
}

void ElementHead::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !rect().contains(e->pos())) return;
    if (eye().contains(e->pos()))
        emit visibleToggled(face_.id, !face_.visible);
    else
        emit clicked(face_.id, e->modifiers());
}

void ElementHead::mouseDoubleClickEvent(QMouseEvent* e) {
    if (nameRect().contains(e->pos())) rename();
}

void ElementHead::contextMenuEvent(QContextMenuEvent* e) { emit menuAsked(face_.id, e->globalPos()); }

void ElementHead::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
        emit clicked(face_.id, e->modifiers());
    else if (e->key() == Qt::Key_Space)
        emit visibleToggled(face_.id, !face_.visible);
    else if (e->key() == Qt::Key_F2)
        rename();
    else if (e->key() == Qt::Key_Down)
        focusNextChild();
    else if (e->key() == Qt::Key_Up)
        focusPreviousChild();
    else
        QWidget::keyPressEvent(e);
}

bool ElementHead::eventFilter(QObject* o, QEvent* e) {
    if (o != edit_ || e->type() != QEvent::KeyPress) return false;
    const int key = static_cast<QKeyEvent*>(e)->key();
    if (key == Qt::Key_Escape) edit_->setText(face_.name);
    if (key != Qt::Key_Escape && key != Qt::Key_Return && key != Qt::Key_Enter) return false;
    setFocus(); // which ends the editing; the key goes no further
    return true;
}

void ElementHead::rename() {
    if (face_.plain) return;
    if (edit_) return;
    edit_ = new QLineEdit(face_.name, this);
    edit_->setObjectName("renameEdit");
    edit_->setAccessibleName(tr("Name"));
    edit_->setGeometry(nameRect().adjusted(-6, face_.open ? -3 : 6, 0, face_.open ? 3 : -6));
    edit_->installEventFilter(this);
    edit_->selectAll();
    edit_->show();
    edit_->setFocus();
    connect(edit_, &QLineEdit::editingFinished, this, [this] {
        QLineEdit* edit = std::exchange(edit_, nullptr);
        if (!edit) return;
        const QString text = edit->text().trimmed();
        edit->deleteLater();
        update();
        if (!text.isEmpty() && text != face_.name) emit renamed(face_.id, text);
    });
}

} // namespace bathylux
