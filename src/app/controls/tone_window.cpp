#include "app/controls/tone_window.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <utility>

#include "app/controls/theme.h"

namespace bathylux {

namespace {
constexpr int margin = 6, foot = 18;
constexpr double lowest = -1, highest = 2; // tones that an end may reach
constexpr double narrowest = 0.004;
} // namespace

QPainterPath histogramShape(const std::vector<int>& counts, const QRectF& field) {
    double most = 1;
    for (int c : counts) most = std::max(most, std::sqrt(double(c)));
    QPainterPath shape;
    shape.moveTo(field.bottomLeft());
    for (std::size_t i = 0; i < counts.size(); ++i)
        shape.lineTo(field.left() + (double(i) + 0.5) / double(counts.size()) * field.width(),
                     field.bottom() - std::sqrt(double(counts[i])) / most * field.height());
    shape.lineTo(field.bottomRight());
    return shape;
}

ToneWindow::ToneWindow(QWidget* parent) : QWidget(parent) {
    setFixedHeight(92);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Tone window"));
    setToolTip(tr("Which tones become height. Drag the ends, or the middle to slide both; double-click "
                  "stretches it to the picture's own range"));
}

void ToneWindow::setCounts(std::vector<int> counts) {
    counts_ = std::move(counts);
    update();
}

void ToneWindow::setWindow(double low, double high) {
    low_ = low, high_ = high;
    setAccessibleDescription(tr("%1 to %2").arg(low, 0, 'f', 2).arg(high, 0, 'f', 2));
    update();
}

double ToneWindow::x(double tone) const { return margin + tone * (width() - 2 * margin); }
double ToneWindow::tone(double px) const { return (px - margin) / std::max(1, width() - 2 * margin); }

void ToneWindow::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    const QRectF field(0, 0, width(), height() - foot);
    p.fillRect(field, t.well);
    if (hasFocus()) {
        p.setPen(t.accent);
        p.drawRect(field.adjusted(0, 0, -1, -1));
    }
    p.setRenderHint(QPainter::Antialiasing);
    const QPainterPath shape = histogramShape(counts_, {x(0), 10, x(1) - x(0), field.bottom() - 10});
    p.fillPath(shape, t.faint);
    p.save();
    p.setClipRect(QRectF(x(std::min(low_, high_)), 0, std::abs(x(high_) - x(low_)), field.height()));
    p.fillPath(shape, t.depth);
    p.restore();
    // The ramp: from no height to the full rise.
    p.setPen(QPen(t.text, 1.2));
    p.drawPolyline(QPolygonF({{x(std::min(0.0, low_)), field.bottom() - 1},
                              {x(low_), field.bottom() - 1},
                              {x(high_), 5},
                              {x(std::max(1.0, high_)), 5}}));
    p.setFont(Theme::numbers(11));
    for (const auto& [v, left] : {std::pair{low_, true}, {high_, false}}) {
        const double at = std::clamp(x(v), 4.0, width() - 4.0);
        QPainterPath mark;
        mark.moveTo(at, field.bottom() + 1);
        mark.lineTo(at + 4, field.bottom() + 8);
        mark.lineTo(at - 4, field.bottom() + 8);
        mark.closeSubpath();
        p.fillPath(mark, hasFocus() ? t.accent : t.text);
        p.setPen(t.second);
        const QRectF box(left ? at + 7 : at - 47, field.bottom() + 2, 40, 14);
        p.drawText(box, (left ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter,
                   QString::number(v, 'f', 2));
    }
}

void ToneWindow::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    const double at = e->position().x();
    const double dl = std::abs(at - x(low_)), dh = std::abs(at - x(high_));
    const bool inside = at > x(low_) + 10 && at < x(high_) - 10;
    hold_ = inside ? Hold::both : dl < dh ? Hold::low : Hold::high;
    grabbed_ = tone(at), grabbedLow_ = low_, grabbedHigh_ = high_;
    emit strokeBegan();
    if (hold_ != Hold::both && std::min(dl, dh) > 8) mouseMoveEvent(e);
}

void ToneWindow::mouseMoveEvent(QMouseEvent* e) {
    if (hold_ == Hold::none) return;
    const double fine = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1;
    double by = (tone(e->position().x()) - grabbed_) * fine;
    if (hold_ == Hold::both) by = std::clamp(by, lowest - grabbedLow_, highest - grabbedHigh_); // as a whole
    const auto rounded = [](double v) { return std::round(v * 1000) / 1000; };
    double low = grabbedLow_, high = grabbedHigh_;
    if (hold_ != Hold::high) low = rounded(std::clamp(grabbedLow_ + by, lowest, highest));
    if (hold_ != Hold::low) high = rounded(std::clamp(grabbedHigh_ + by, lowest, highest));
    if (high - low < narrowest) (hold_ == Hold::low ? low = high - narrowest : high = low + narrowest);
    setWindow(low, high);
    emit windowChanged(low, high);
}

void ToneWindow::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton && std::exchange(hold_, Hold::none) != Hold::none) emit strokeEnded();
}

void ToneWindow::mouseDoubleClickEvent(QMouseEvent*) { emit stretchAsked(); }

void ToneWindow::keyPressEvent(QKeyEvent* e) {
    // Arrows move the lower end, with Control the upper one.
    const bool upper = e->modifiers() & Qt::ControlModifier;
    const double by = e->key() == Qt::Key_Right ? 0.01 : e->key() == Qt::Key_Left ? -0.01 : 0;
    if (by == 0) return QWidget::keyPressEvent(e);
    emit windowChanged(upper ? low_ : std::clamp(low_ + by, lowest, high_ - narrowest),
                       upper ? std::clamp(high_ + by, low_ + narrowest, highest) : high_);
}

} // namespace bathylux
