#include "app/controls/step_row.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QPainter>

#include "app/controls/controls.h"
#include "app/controls/theme.h"

namespace bathylux {

StepRow::StepRow(bool withSwitch, QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(28);
    setCursor(Qt::PointingHandCursor);
    if (!withSwitch) return;
    switch_ = new Switch(tr("Step on"), this);
    connect(switch_, &Switch::toggled, this, &StepRow::toggled);
}

void StepRow::setFace(const QString& name, const QString& says, bool on, bool open) {
    name_ = name, says_ = says, on_ = on, open_ = open;
    setAccessibleName(name);
    setAccessibleDescription(says);
    setToolTip(says);
    if (switch_) {
        switch_->setOn(on);
        switch_->setAccessibleName(tr("%1 on").arg(name));
    }
    update();
}

void StepRow::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    if (hovered_ && !open_) p.fillRect(rect(), t.raised);
    if (hasFocus()) {
        p.setPen(t.accent);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
    const int right = width() - (switch_ ? 36 : 24);
    p.setFont(Theme::words(13, QFont::Medium));
    p.setPen(on_ ? t.text : t.faint);
    p.drawText(QRect(6, 0, right, height()), Qt::AlignLeft | Qt::AlignVCenter, name_);
    const int x = 6 + p.fontMetrics().horizontalAdvance(name_) + 9;
    p.setFont(Theme::words(12));
    p.setPen(on_ ? t.second : t.faint);
    p.drawText(QRect(x, 0, right - x, height()), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(says_, Qt::ElideRight, right - x));
    if (!switch_)
        p.drawPixmap(width() - 22, 6,
                     iconPixmap(open_ ? "chevron-down" : "chevron-right", t.second, 16, devicePixelRatioF()));
}

void StepRow::resizeEvent(QResizeEvent*) {
    if (switch_) switch_->move(width() - 32, 2);
}

void StepRow::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton && rect().contains(e->pos())) emit clicked();
}

void StepRow::contextMenuEvent(QContextMenuEvent* e) { emit menuAsked(e->globalPos()); }

void StepRow::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
        emit clicked();
    else if (e->key() == Qt::Key_Space && switch_)
        emit toggled(!on_);
    else if (e->key() == Qt::Key_Delete && switch_)
        emit removeAsked();
    else
        QWidget::keyPressEvent(e);
}

} // namespace bathylux
