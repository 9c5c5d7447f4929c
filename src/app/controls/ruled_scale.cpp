#include "app/controls/ruled_scale.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <cmath>

#include "app/controls/controls.h"
#include "app/controls/sum.h"
#include "app/controls/theme.h"

namespace bathylux {

namespace {
constexpr int lineY = 24; // of the hairline
constexpr int inset = 1;
constexpr auto figureStyle = "QLineEdit { padding: 0 4px; }";
} // namespace

RuledScale::RuledScale(Look look, QWidget* parent) : QWidget(parent), look_(std::move(look)) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(look_.name);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setMouseTracking(true);
}

void RuledScale::setValue(std::optional<double> value) {
    if (value == value_) return;
    value_ = value;
    setAccessibleDescription(figure());
    update();
}

QString RuledScale::figure() const {
    if (!value_) return "—";
    double v = look_.percent ? *value_ * 100 : *value_;
    const QString sign = look_.upDown ? (v < 0 ? "down " : v > 0 ? "up " : "") : "";
    if (look_.upDown) v = std::abs(v);
    QString text = QString::number(v, 'f', look_.whole ? 0 : look_.percent ? 0 : look_.decimals);
    if (text.contains('.')) {
        while (text.endsWith('0')) text.chop(1);
        if (text.endsWith('.')) text.chop(1);
    }
    if (text == "-0") text = "0";
    text.replace('-', QChar(0x2212));
    const QString unit = look_.percent ? "%" : look_.unit;
    return sign + text + (unit.isEmpty() ? "" : unit == QString::fromUtf8("°") ? unit : " " + unit);
}

double RuledScale::position(double value) const {
    return std::clamp((value - look_.low) / std::max(1e-9, look_.high - look_.low), 0.0, 1.0);
}

double RuledScale::step() const {
    if (look_.whole) return 1;
    const double span = look_.high - look_.low;
    return span > 50 ? 1 : span > 5 ? 0.1 : 0.01;
}

void RuledScale::put(double value) {
    value = std::clamp(value, look_.floor, look_.ceiling);
    if (look_.whole) value = std::round(value);
    if (value_ && value == *value_) return;
    setValue(value);
    emit valueChanged(value);
}

void RuledScale::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool hot = hasFocus() || dragging_;
    if (!edit_) {
        p.setFont(Theme::numbers());
        p.setPen(hot ? t.accent : t.text);
        p.drawText(QRect(0, 0, width() - 1, 18), Qt::AlignRight | Qt::AlignVCenter, figure());
    }
    const int figureWidth =
        edit_ ? edit_->width() : QFontMetrics(Theme::numbers()).horizontalAdvance(figure());
    p.setFont(Theme::words());
    p.setPen(t.text);
    p.drawText(QRect(0, 0, width() - figureWidth - 8, 18), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(look_.name, Qt::ElideRight, width() - figureWidth - 8));

    const double w = width() - 2 * inset;
    const auto x = [&](double share) { return std::round(inset + share * (w - 1)) + 0.5; };
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setPen(QPen(hovered_ ? t.second : t.faint, 1));
    p.drawLine(QPointF(x(0), lineY), QPointF(x(1), lineY));
    for (int i = 0; i <= 20; ++i) {
        const double at = x(i / 20.0);
        p.drawLine(QPointF(at, lineY), QPointF(at, lineY - (i % 10 == 0 ? 5 : i % 5 == 0 ? 4 : 2)));
    }
    if (!value_) return;
    p.setRenderHint(QPainter::Antialiasing);
    const double from = look_.low < 0 && look_.high > 0 ? position(0) : 0, to = position(*value_);
    const QColor mark = hot ? t.accent : t.text;
    p.setPen(QPen(hot ? t.accent : t.second, 2, Qt::SolidLine, Qt::FlatCap));
    p.drawLine(QPointF(x(std::min(from, to)), lineY), QPointF(x(std::max(from, to)), lineY));
    const double tip = std::clamp(x(to), 4.5, width() - 4.5);
    QPainterPath pointer;
    pointer.moveTo(tip, lineY + 1);
    pointer.lineTo(tip + 4, lineY + 8);
    pointer.lineTo(tip - 4, lineY + 8);
    pointer.closeSubpath();
    p.fillPath(pointer, mark);
    // Beyond the ticks: a small arrow says so.
    if (*value_ > look_.high || *value_ < look_.low) {
        p.setPen(QPen(t.accent, 1.4));
        const double d = *value_ > look_.high ? 1 : -1;
        const double at = tip - 8 * d; // inwards, where there is room
        p.drawPolyline(QPolygonF(
            {{at + d * 0.5, lineY + 2.0}, {at + d * 3.5, lineY + 5.0}, {at + d * 0.5, lineY + 8.0}}));
    }
}

void RuledScale::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return e->ignore();
    last_ = e->position();
    dragging_ = true;
    moved_ = false;
    exact_ = value_.value_or(look_.standard);
    update();
}

void RuledScale::mouseMoveEvent(QMouseEvent* e) {
    if (!dragging_) {
        setCursor(e->position().y() < 18 && e->position().x() > width() - 60 ? Qt::IBeamCursor
                                                                             : Qt::SizeHorCursor);
        return;
    }
    const double dx = e->position().x() - last_.x();
    if (!moved_) {
        if (std::abs(dx) < 2) return;
        moved_ = true;
        emit strokeBegan();
        // On the ruler itself the pointer comes to the hand.
        if (last_.y() > 18)
            exact_ =
                look_.low + (last_.x() - inset) / std::max(1, width() - 2 * inset) * (look_.high - look_.low);
    }
    last_ = e->position();
    const double fine = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1;
    exact_ += dx * fine * (look_.high - look_.low) / std::max(40, width() - 2 * inset);
    exact_ = std::clamp(exact_, std::max(look_.floor, std::min(look_.low, value_.value_or(look_.low))),
                        std::min(look_.ceiling, std::max(look_.high, value_.value_or(look_.high))));
    const double grain = look_.whole ? 1 : step() * (fine < 1 ? 0.1 : 1);
    put(std::round(exact_ / grain) * grain);
}

void RuledScale::mouseReleaseEvent(QMouseEvent* e) {
    if (!dragging_ || e->button() != Qt::LeftButton) return;
    dragging_ = false;
    update();
    if (moved_) {
        emit strokeEnded();
        return;
    }
    if (e->position().y() < 18 &&
        e->position().x() >
            width() - std::max(48, QFontMetrics(Theme::numbers()).horizontalAdvance(figure()) + 8))
        openFigure();
    else if (e->position().y() >= 18) {
        // A click on the ruler puts the pointer there.
        const double v = look_.low + (e->position().x() - inset) / std::max(1, width() - 2 * inset) *
                                         (look_.high - look_.low);
        put(std::round(v / step()) * step());
    }
}

void RuledScale::mouseDoubleClickEvent(QMouseEvent*) {
    if (edit_) closeFigure(false);
    put(look_.standard);
}

void RuledScale::keyPressEvent(QKeyEvent* e) {
    const double fine = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1, now = value_.value_or(look_.standard);
    const auto by = [&](double steps) {
        put(std::round((now + steps * step() * (look_.whole ? 1 : fine)) * 1e4) / 1e4);
    };
    switch (e->key()) {
    case Qt::Key_Right:
    case Qt::Key_Up: return by(1);
    case Qt::Key_Left:
    case Qt::Key_Down: return by(-1);
    case Qt::Key_PageUp: return by(10);
    case Qt::Key_PageDown: return by(-10);
    case Qt::Key_Home: return put(look_.low);
    case Qt::Key_End: return put(look_.high);
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_F2: return openFigure();
    case Qt::Key_Backspace:
    case Qt::Key_Delete: return put(look_.standard);
    default: break;
    }
    if (opensFigure(e)) return openFigure(e->text());
    QWidget::keyPressEvent(e);
}

bool RuledScale::opensFigure(const QKeyEvent* e) {
    const QString text = e->text();
    return !text.isEmpty() && (text[0].isDigit() || text[0] == '-' || text[0] == '.') &&
           !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier));
}

bool RuledScale::event(QEvent* e) {
    // Here a digit begins a number, whatever it does elsewhere in the window.
    if (e->type() == QEvent::ShortcutOverride && opensFigure(static_cast<QKeyEvent*>(e))) {
        e->accept();
        return true;
    }
    return keepsKey(e) || QWidget::event(e);
}

void RuledScale::openFigure(const QString& start) {
    if (edit_) return;
    edit_ = new QLineEdit(this);
    edit_->setFont(Theme::numbers());
    edit_->setAlignment(Qt::AlignRight);
    edit_->setAccessibleName(look_.name);
    edit_->setStyleSheet(figureStyle);
    connect(edit_, &QLineEdit::textEdited, edit_, [edit = edit_] { edit->setStyleSheet(figureStyle); });
    edit_->setGeometry(width() - 86, 0, 86, 20);
    edit_->setText(start.isEmpty() ? figure() : start);
    if (start.isEmpty()) edit_->selectAll();
    edit_->installEventFilter(this);
    edit_->show();
    edit_->setFocus();
    update();
}

std::optional<double> RuledScale::read(const QString& text) const {
    const auto v = evaluateSum(text, look_.pxPerMm);
    return v && look_.percent && !text.contains('%') ? *v / 100 : v;
}

bool RuledScale::typed() const { return edit_->text() == figure() || read(edit_->text()); }

void RuledScale::sayUnread() {
    const QString says = tr("“%1” is no number. Type one, like 12, 3 mm or 24/2.").arg(edit_->text());
    edit_->setStyleSheet(figureStyle +
                         QString("QLineEdit { color: %1; }").arg(Theme::current().signal.name()));
    edit_->setAccessibleDescription(says);
    edit_->selectAll();
    QToolTip::showText(edit_->mapToGlobal(QPoint(0, edit_->height())), says, edit_);
}

void RuledScale::closeFigure(bool take) {
    if (!edit_) return;
    QLineEdit* edit = std::exchange(edit_, nullptr);
    edit->removeEventFilter(this);
    const auto value = take && edit->text() != figure() ? read(edit->text()) : std::nullopt;
    edit->hide();
    edit->deleteLater();
    if (value) put(*value);
    if (take) setFocus();
    update();
}

bool RuledScale::eventFilter(QObject* o, QEvent* e) {
    if (o == edit_ && e->type() == QEvent::KeyPress) {
        // Taken here, so that the key does not go on to the scale and open the figure again.
        const int key = static_cast<QKeyEvent*>(e)->key();
        if (key == Qt::Key_Escape || key == Qt::Key_Return || key == Qt::Key_Enter) {
            if (key != Qt::Key_Escape && !typed()) {
                sayUnread();
                return true;
            }
            closeFigure(key != Qt::Key_Escape);
            setFocus();
            return true;
        }
    }
    if (o == edit_ && e->type() == QEvent::FocusOut) closeFigure(true);
    return QWidget::eventFilter(o, e);
}

void RuledScale::focusInEvent(QFocusEvent*) { update(); }
void RuledScale::focusOutEvent(QFocusEvent*) { update(); }
void RuledScale::enterEvent(QEnterEvent*) { hovered_ = true, update(); }
void RuledScale::leaveEvent(QEvent*) { hovered_ = false, update(); }
void RuledScale::resizeEvent(QResizeEvent*) {
    if (edit_) edit_->setGeometry(width() - 86, 0, 86, 20);
}

} // namespace bathylux
