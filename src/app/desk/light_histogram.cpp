#include "app/desk/light_histogram.h"

#include <QPainter>

#include "app/controls/theme.h"

namespace bathylux {

LightHistogram::LightHistogram(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setFixedHeight(44);
    setObjectName("lightHistogram");
    setAccessibleName(tr("Brightness of the lit picture"));
    setToolTip(tr(
        "How often each brightness occurs in the lit picture, from black to white. K shows where it clips"));
    connect(&desk_.renderer, &Renderer::framed, this, [this](const std::shared_ptr<Frame>& frame) {
        if (frame->light.empty) return;
        shown_ = frame->light;
        update();
    });
}

void LightHistogram::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    const QRectF box(0, 4, width(), height() - 18);
    const int most = *std::max_element(shown_.counts.begin(), shown_.counts.end());
    const auto bins = static_cast<double>(shown_.counts.size());
    if (!shown_.empty && most > 0)
        for (std::size_t i = 0; i < shown_.counts.size(); ++i) {
            // The square root keeps what is rare in sight.
            const double h = box.height() * std::sqrt(static_cast<double>(shown_.counts[i]) / most);
            p.fillRect(QRectF(box.left() + box.width() * static_cast<double>(i) / bins, box.bottom() - h,
                              box.width() / bins + 0.5, h),
                       i + 1 == shown_.counts.size() && shown_.clipped > 0.0005 ? t.signal : t.second);
        }
    p.setPen(t.line);
    p.drawLine(QPointF(box.left(), box.bottom() + 0.5), QPointF(box.right(), box.bottom() + 0.5));
    p.setFont(Theme::numbers(10));
    const QRectF under(0, box.bottom(), width(), 14);
    p.setPen(t.second);
    p.drawText(under, Qt::AlignLeft | Qt::AlignVCenter, tr("black"));
    const bool clips = shown_.clipped > 0.0005;
    p.setPen(clips ? t.signal : t.second);
    p.drawText(under, Qt::AlignRight | Qt::AlignVCenter,
               clips ? tr("%1 % clips").arg(100 * shown_.clipped, 0, 'f', 1) : tr("white"));
}

} // namespace bathylux
