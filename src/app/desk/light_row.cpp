#include "app/desk/light_row.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include "app/controls/movement.h"
#include "app/controls/theme.h"
#include "app/document/lights_edit.h"
#include "core/render/lighting.h"

namespace bathylux {

namespace {
double intensityOf(const Light& l) { return std::get<double>(l.what.get("intensity")); }
} // namespace

LightRow::LightRow(Desk& desk, const std::string& id, QWidget* parent)
    : QWidget(parent), desk_(desk), id_(id) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(34);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    if (const Light* l = light()) setAccessibleName(nameOf(*l));
    setToolTip(tr("Click to choose (Shift: several), the mark switches it (Shift: alone), drag the scale for "
                  "its intensity, "
                  "double-click to rename"));
    mark_ = new MotionMark(
        desk.document, [id] { return id + ".intensity"; }, this);
    connect(&desk.document, &Document::changed, mark_, &MotionMark::refresh);
}

void LightRow::resizeEvent(QResizeEvent*) {
    mark_->move(static_cast<int>(scale().left()) - 18, (height() - mark_->height()) / 2);
}

const Light* LightRow::light() const { return find_light(desk_.document.piece(), id_); }

QRectF LightRow::scale() const {
    const double w = width() < 235 ? 38 : 66; // names come first where room is scarce
    return {width() - 52 - w, 0, w, double(height())};
}

void LightRow::paintEvent(QPaintEvent*) {
    const Light* l = light();
    if (!l) return;
    const Theme& t = Theme::current();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool chosen = desk_.document.isLightChosen(id_);
    const Lights& all = desk_.document.piece().lights;
    const bool shining = shines({all.begin(), all.end()}, *l);
    if (chosen || hasFocus()) {
        p.setBrush(chosen ? t.selection : Qt::NoBrush);
        p.setPen(QPen(t.accent, 1));
        p.drawRect(QRectF(rect()).adjusted(0.5, 1.5, -0.5, -1.5));
    }
    const double cy = height() / 2.0;
    const QColor color = toQt(colorOf(l->what));
    p.setPen(QPen(shining ? (t.dark ? color.darker(140) : t.text) : t.faint, 1.4));
    p.setBrush(shining ? QBrush(color) : Qt::NoBrush);
    switch (l->kind().mark) {
    case LightMark::diamond: {
        QPainterPath d;
        d.moveTo(15, cy - 6.5), d.lineTo(21.5, cy), d.lineTo(15, cy + 6.5), d.lineTo(8.5, cy),
            d.closeSubpath();
        p.drawPath(d);
        break;
    }
    case LightMark::bar: p.drawRect(QRectF(7.5, cy - 3, 15, 6)); break;
    case LightMark::arch: {
        QPainterPath arch;
        arch.moveTo(8, cy + 4), arch.arcTo(QRectF(8, cy - 5, 14, 18), 180, -180), arch.closeSubpath();
        p.drawPath(arch);
        break;
    }
    case LightMark::dot: p.drawEllipse(QPointF(15, cy), 5.5, 5.5);
    }
    if (l->alone) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(t.accent, 1.4));
        p.drawEllipse(QPointF(15, cy), 10, 10);
    }
    p.setFont(Theme::words());
    p.setPen(shining ? t.text : t.faint);
    const QRectF s = scale();
    if (!edit_)
        p.drawText(QRectF(30, 0, s.left() - 50, height()), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(nameOf(*l), Qt::ElideRight, static_cast<int>(s.left() - 50)));
    const double v = intensityOf(*l), share = std::clamp(v / 4, 0.0, 1.0);
    const double y = std::round(cy) + 2.5;
    p.setPen(QPen(t.line, 1.6));
    p.drawLine(QPointF(s.left(), y), QPointF(s.right(), y));
    p.setPen(QPen(!shining ? t.faint : !t.dark && color.lightnessF() > 0.7 ? color.darker(170) : color, 2));
    p.drawLine(QPointF(s.left(), y), QPointF(s.left() + share * s.width(), y));
    QPainterPath pointer;
    const double x = s.left() + share * s.width();
    pointer.moveTo(x, y + 1), pointer.lineTo(x + 3.5, y + 7), pointer.lineTo(x - 3.5, y + 7),
        pointer.closeSubpath();
    p.fillPath(pointer, dragging_ ? t.accent : t.text);
    p.setFont(Theme::numbers());
    p.setPen(shining ? t.text : t.faint);
    p.drawText(QRectF(width() - 48, 0, 40, height()), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(v, 'f', 2));
}

void LightRow::setIntensity(double v) {
    if (!light()) return;
    const double to = std::max(0.0, std::round(v * 100) / 100), from = intensityOf(*light());
    // One of several chosen takes the others along, in proportion.
    const bool together = desk_.document.isLightChosen(id_) && from > 0;
    desk_.document.edit(tr("Change intensity"), [&](Piece& p) {
        for (auto& node : p.lights)
            node = node.with([&](Light& l) {
                if (l.id == id_)
                    l.what = l.what.with("intensity", to);
                else if (together && desk_.document.isLightChosen(l.id))
                    l.what = l.what.with("intensity", intensityOf(l) * to / from);
            });
    });
}

void LightRow::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !light()) return;
    if (e->position().x() < 26 && e->modifiers() & Qt::ShiftModifier) {
        desk_.document.edit(tr("Light alone, or not"),
                            [&](Piece& p) { change_light(p, id_, [&](Light& l) { l.alone = !l.alone; }); });
        return;
    }
    if (e->position().x() < 26) {
        desk_.document.edit(light()->on ? tr("Switch light off") : tr("Switch light on"),
                            [&](Piece& p) { change_light(p, id_, [&](Light& l) { l.on = !l.on; }); });
        return;
    }
    if (scale().adjusted(-6, 0, 6, 0).contains(e->position())) {
        dragging_ = true;
        last_ = e->position();
        exact_ = intensityOf(*light());
        stroke_ = desk_.document.stroke();
        update();
    }
}

void LightRow::mouseMoveEvent(QMouseEvent* e) {
    if (!dragging_) return;
    const double fine = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1;
    exact_ = std::clamp(exact_ + (e->position().x() - last_.x()) / scale().width() * 4 * fine, 0.0,
                        std::max(4.0, intensityOf(*light())));
    last_ = e->position();
    setIntensity(exact_);
}

void LightRow::mouseReleaseEvent(QMouseEvent* e) {
    if (dragging_) {
        dragging_ = false;
        stroke_.end();
        update();
    } else if (e->position().x() >= 26 && rect().contains(e->pos())) {
        if (e->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier))
            desk_.document.chooseLightToo(QString::fromStdString(id_));
        else
            desk_.document.chooseLight(QString::fromStdString(id_));
    }
}

void LightRow::mouseDoubleClickEvent(QMouseEvent* e) {
    if (e->position().x() < 26 || e->position().x() > scale().left() - 8 || edit_ || !light()) return;
    edit_ = new QLineEdit(nameOf(*light()), this);
    edit_->setAccessibleName(tr("Name"));
    edit_->setGeometry(26, 5, static_cast<int>(scale().left()) - 46, 24);
    edit_->selectAll();
    edit_->show();
    edit_->setFocus();
    connect(edit_, &QLineEdit::editingFinished, this, [this] {
        QLineEdit* edit = std::exchange(edit_, nullptr);
        if (!edit) return;
        const std::string name = edit->text().trimmed().toStdString();
        edit->deleteLater();
        if (!name.empty())
            desk_.document.edit(tr("Rename light"),
                                [&](Piece& p) { change_light(p, id_, [&](Light& l) { l.name = name; }); });
        update();
    });
}

void LightRow::keyPressEvent(QKeyEvent* e) {
    if (!light()) return;
    const double by = e->modifiers() & Qt::ShiftModifier ? 0.01 : 0.1;
    switch (e->key()) {
    case Qt::Key_K: toggle_key(desk_.document, mark_->path()); break;
    case Qt::Key_Return:
    case Qt::Key_Enter: desk_.document.chooseLight(QString::fromStdString(id_)); break;
    case Qt::Key_Right: setIntensity(intensityOf(*light()) + by); break;
    case Qt::Key_Left: setIntensity(intensityOf(*light()) - by); break;
    case Qt::Key_Down: focusNextChild(); break;
    case Qt::Key_Up: focusPreviousChild(); break;
    case Qt::Key_Space:
        desk_.document.edit(light()->on ? tr("Switch light off") : tr("Switch light on"),
                            [&](Piece& p) { change_light(p, id_, [&](Light& l) { l.on = !l.on; }); });
        break;
    case Qt::Key_Delete:
        desk_.document.edit(tr("Delete light"), [&](Piece& p) {
            std::erase_if(p.lights, [&](const Light& l) { return l.id == id_; });
        });
        break;
    default: QWidget::keyPressEvent(e);
    }
}

} // namespace bathylux
