#include "app/controls/color_field.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>
#include <numbers>
#include <utility>

#include "app/controls/controls.h"
#include "app/controls/theme.h"
#include "core/field/oklab.h"

namespace bathylux {

namespace {

Lab labOf(const Lch& c) {
    const double turn = c.hue * std::numbers::pi / 180;
    return {static_cast<float>(c.lightness), static_cast<float>(c.chroma * std::cos(turn)),
            static_cast<float>(c.chroma * std::sin(turn))};
}

QRgb pixelOf(const Lch& c) {
    const Color s = fromLch(c);
    return toQt({std::clamp(s.r, 0.0f, 1.0f), std::clamp(s.g, 0.0f, 1.0f), std::clamp(s.b, 0.0f, 1.0f), 1})
        .rgb();
}

} // namespace

Lch toLch(const Color& c) {
    const Lab lab = to_oklab(srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b));
    double hue = std::atan2(lab.b, lab.a) * 180 / std::numbers::pi;
    if (hue < 0) hue += 360;
    return {lab.lightness, std::hypot(lab.a, lab.b), hue};
}

Color fromLch(const Lch& c, float alpha) {
    const auto v = shown(labOf(c));
    const auto byte = [](float linear) { return srgb_encode(std::clamp(linear, 0.0f, 1.0f)); };
    return in_bytes({byte(v[0]), byte(v[1]), byte(v[2]), alpha});
}

bool canBeShown(const Lch& c) {
    const auto v = from_oklab(labOf(c));
    return std::min({v[0], v[1], v[2]}) >= -1e-4f && std::max({v[0], v[1], v[2]}) <= 1.0001f;
}

LchControl::LchControl(const QString& name, int height, QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(height);
    setAccessibleName(name);
}

void LchControl::setLch(const Lch& lch) {
    lch_ = lch;
    setAccessibleDescription(says());
    update();
}

void LchControl::take(const Lch& lch) {
    setLch(lch);
    emit changed(lch_);
}

void LchControl::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    pulling_ = true;
    emit strokeBegan();
    pull(e->position());
}
void LchControl::mouseMoveEvent(QMouseEvent* e) {
    if (pulling_) pull(e->position());
}
void LchControl::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton && std::exchange(pulling_, false)) emit strokeEnded();
}

// --- lightness and chroma ---

ChromaField::ChromaField(QWidget* parent) : LchControl(tr("Lightness and strength"), 116, parent) {
    setToolTip(tr("Across: strength of the colour. Up: lightness. What is hatched cannot be shown."));
}

QString ChromaField::says() const {
    return tr("lightness %1 %, chroma %2").arg(qRound(100 * lch_.lightness)).arg(lch_.chroma, 0, 'f', 2);
}

void ChromaField::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    const QRect f = field();
    if (drawn_.size() != f.size() || std::abs(drawnHue_ - lch_.hue) > 0.2) {
        drawn_ = QImage(f.size(), QImage::Format_RGB32);
        drawnHue_ = lch_.hue;
        const QRgb ground = t.well.rgb(), line = t.line.rgb();
        for (int y = 0; y < f.height(); ++y) {
            auto* to = reinterpret_cast<QRgb*>(drawn_.scanLine(y));
            for (int x = 0; x < f.width(); ++x) {
                const Lch c{1 - y / (f.height() - 1.0), most_chroma * x / (f.width() - 1.0), lch_.hue};
                to[x] = canBeShown(c) ? pixelOf(c) : ((x + y) % 6 == 0 ? line : ground);
            }
        }
    }
    p.drawImage(f.topLeft(), drawn_);
    p.setPen(hasFocus() ? t.accent : t.line);
    p.drawRect(f);
    // The mark is a sounding: a cross with its place kept open.
    const QPointF at(f.left() + lch_.chroma / most_chroma * (f.width() - 1),
                     f.top() + (1 - lch_.lightness) * (f.height() - 1));
    p.setRenderHint(QPainter::Antialiasing);
    for (const auto& [color, wide] : {std::pair{QColor(0, 0, 0, 150), 3.0}, {QColor(255, 255, 255), 1.3}}) {
        p.setPen(QPen(color, wide));
        for (const QPointF d : {QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)})
            p.drawLine(at + 4 * d, at + 9 * d);
    }
}

void ChromaField::put(double chroma, double lightness) {
    Lch lch{std::clamp(lightness, 0.0, 1.0), std::clamp(chroma, 0.0, most_chroma), lch_.hue};
    // Into what can be shown, straight towards grey.
    if (!canBeShown(lch)) lch.chroma = std::min(lch.chroma, toLch(fromLch(lch)).chroma);
    take(lch);
}

void ChromaField::pull(QPointF at) {
    const QRect f = field();
    put(most_chroma * (at.x() - f.left()) / (f.width() - 1.0), 1 - (at.y() - f.top()) / (f.height() - 1.0));
}

void ChromaField::keyPressEvent(QKeyEvent* e) {
    const double step = e->modifiers() & Qt::ShiftModifier ? 0.002 : 0.01;
    if (e->key() == Qt::Key_Left)
        put(lch_.chroma - step / 2, lch_.lightness);
    else if (e->key() == Qt::Key_Right)
        put(lch_.chroma + step / 2, lch_.lightness);
    else if (e->key() == Qt::Key_Up)
        put(lch_.chroma, lch_.lightness + step);
    else if (e->key() == Qt::Key_Down)
        put(lch_.chroma, lch_.lightness - step);
    else
        QWidget::keyPressEvent(e);
}

// --- hue ---

HueRule::HueRule(QWidget* parent) : LchControl(tr("Hue"), 28, parent) {}

QString HueRule::says() const { return tr("%1°").arg(qRound(lch_.hue)); }

void HueRule::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    const int w = width() - 1;
    for (int x = 0; x <= w; ++x) {
        p.setPen(QColor(pixelOf({0.72, 0.12, 360.0 * x / w})));
        p.drawLine(x, 4, x, 13);
    }
    p.setPen(t.faint);
    for (int k = 0; k <= 12; ++k) {
        const int x = qRound(k / 12.0 * w);
        p.drawLine(x, 16, x, k % 3 == 0 ? 22 : 19);
    }
    const int at = qRound(lch_.hue / 360 * w);
    p.setRenderHint(QPainter::Antialiasing);
    p.setBrush(hasFocus() ? t.accent : t.text);
    p.setPen(QPen(t.panel, 1));
    p.drawPolygon(QPolygonF{QPointF(at, 13), QPointF(at - 5, 23), QPointF(at + 5, 23)});
}

void HueRule::put(double hue) { take({lch_.lightness, lch_.chroma, std::clamp(hue, 0.0, 360.0)}); }
void HueRule::pull(QPointF at) { put(360 * at.x() / std::max(1, width() - 1)); }

void HueRule::keyPressEvent(QKeyEvent* e) {
    const double step = e->modifiers() & Qt::ShiftModifier ? 1 : 5;
    if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Down)
        put(lch_.hue - step);
    else if (e->key() == Qt::Key_Right || e->key() == Qt::Key_Up)
        put(lch_.hue + step);
    else
        QWidget::keyPressEvent(e);
}

// --- colours to take from ---

Swatches::Swatches(const QString& name, QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(name);
    setCursor(Qt::PointingHandCursor);
    QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Preferred);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
}

void Swatches::setColors(std::vector<Color> colors) {
    if (colors == colors_) return;
    colors_ = std::move(colors);
    chosen_ = std::clamp(chosen_, 0, std::max(0, static_cast<int>(colors_.size()) - 1));
    setMinimumHeight(heightForWidth(width()));
    updateGeometry();
    update();
}

QSize Swatches::sizeHint() const { return {8 * side, heightForWidth(width())}; }
int Swatches::heightForWidth(int width) const {
    const int n = static_cast<int>(colors_.size());
    return n == 0 ? 0 : (n + columns(width) - 1) / columns(width) * side;
}
QRect Swatches::cell(int i) const {
    const int n = columns(width());
    return {i % n * side, i / n * side, side - 3, side - 3};
}
int Swatches::at(QPoint p) const {
    for (int i = 0; i < static_cast<int>(colors_.size()); ++i)
        if (cell(i).contains(p)) return i;
    return -1;
}

void Swatches::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    for (int i = 0; i < static_cast<int>(colors_.size()); ++i) {
        p.fillRect(cell(i), toQt(colors_[i]));
        p.setPen(hasFocus() && i == chosen_ ? t.accent : t.line);
        p.drawRect(cell(i).adjusted(0, 0, -1, -1));
    }
}

void Swatches::mouseReleaseEvent(QMouseEvent* e) {
    const int i = at(e->pos());
    if (i < 0) return;
    chosen_ = i;
    if (e->button() == Qt::RightButton)
        emit menuAsked(i, e->globalPosition().toPoint());
    else
        emit picked(colors_[i]);
}

void Swatches::keyPressEvent(QKeyEvent* e) {
    const int n = static_cast<int>(colors_.size());
    if (n == 0) return QWidget::keyPressEvent(e);
    if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Right)
        chosen_ = std::clamp(chosen_ + (e->key() == Qt::Key_Left ? -1 : 1), 0, n - 1), update();
    else if (e->key() == Qt::Key_Space || e->key() == Qt::Key_Return)
        emit picked(colors_[chosen_]);
    else
        QWidget::keyPressEvent(e);
}

bool Swatches::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        const int i = at(help->pos());
        if (i >= 0)
            QToolTip::showText(help->globalPos(), QString::fromStdString(to_string(colors_[i])), this);
        return true;
    }
    if (e->type() == QEvent::Resize) setMinimumHeight(heightForWidth(width()));
    return QWidget::event(e);
}

} // namespace bathylux
