#include "app/windows/last_look.h"

#include <QPainter>
#include <utility>

#include "app/controls/theme.h"

namespace bathylux {

LastLook::LastLook(QPixmap picture, QWidget* parent) : QWidget(parent), picture_(std::move(picture)) {
    setObjectName("lastLook");
    setAttribute(Qt::WA_OpaquePaintEvent); // what is made behind it need not be painted
}

void LastLook::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), Theme::current().window);
    if (!empty()) {
        QRect where(QPoint(), picture_.size().scaled(size() * 0.6, Qt::KeepAspectRatio));
        where.moveCenter(rect().center());
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.drawPixmap(where, picture_);
    }
    seen_ = true;
}

} // namespace bathylux
