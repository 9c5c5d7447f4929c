#include "app/sky_chart.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include "app/theme.h"
#include "core/piece/lights.h"

namespace bathylux {

namespace {

/// Direction of a lamp as seen from a place on the art: angle and elevation in degrees, and its distance.
struct Bearing {
    double angle, elevation, distance;
};
Bearing bearing(const PointLight& lamp, Vec2 from) {
    const double dx = lamp.x - from.x, dy = from.y - lamp.y, flat = std::hypot(dx, dy);
    return {std::atan2(dy, dx) / radians_per_degree, std::atan2(double(lamp.z), flat) / radians_per_degree,
            std::hypot(flat, double(lamp.z))};
}

} // namespace

SkyChart::SkyChart(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Sky chart"));
    setToolTip(tr("Where light comes from: overhead in the middle, the horizon at the rim. Drag a light; "
                  "arrows turn and raise the chosen one"));
    setMinimumHeight(160);
    setFixedHeight(184);
    connect(&desk_.document, &Document::changed, this, qOverload<>(&QWidget::update));
    connect(&desk_.document, &Document::choiceChanged, this, qOverload<>(&QWidget::update));
}

double SkyChart::radius() const { return std::min(width() - 24, height() - 12) / 2.0; }
QPointF SkyChart::middle() const { return {width() / 2.0, height() / 2.0}; }

QPointF SkyChart::at(double angle, double elevation) const {
    const double r = radius() * (90 - std::clamp(elevation, 0.0, 90.0)) / 90;
    return middle() +
           QPointF(r * std::cos(angle * radians_per_degree), -r * std::sin(angle * radians_per_degree));
}

Vec2 SkyChart::standpoint() const {
    const Canvas& c = desk_.document.piece().canvas;
    if (!held_.empty()) return from_;
    return {c.width / 2.0, c.height / 2.0};
}

QPointF SkyChart::placeOf(const Light& l) const {
    if (const auto* d = l.what.as<DirectionalLight>()) return at(d->angle, d->elevation);
    if (const auto lamp = lamp_of(l.what)) {
        const Bearing b = bearing(*lamp, standpoint());
        return at(b.angle, b.elevation);
    }
    return middle();
}

void SkyChart::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QPointF m = middle();
    const double r = radius();
    p.setPen(QPen(hasFocus() ? t.accent : t.second, 1));
    p.setBrush(t.well);
    p.drawEllipse(m, r, r);
    p.setBrush(Qt::NoBrush);
    for (int i = 0; i < 72; ++i) {
        const double a = i * 5 * radians_per_degree, len = i % 18 == 0 ? 8 : i % 6 == 0 ? 6 : 3;
        p.setPen(QPen(i % 6 == 0 ? t.second : t.faint, 1));
        p.drawLine(m + QPointF(std::cos(a), std::sin(a)) * (r - 1),
                   m + QPointF(std::cos(a), std::sin(a)) * (r - 1 - len));
    }
    p.setPen(QPen(t.line, 1, Qt::DashLine));
    p.drawEllipse(m, r * 2 / 3, r * 2 / 3);
    p.drawEllipse(m, r / 3, r / 3);
    p.setPen(QPen(t.line, 1));
    p.drawLine(m - QPointF(r, 0), m + QPointF(r, 0));
    p.drawLine(m - QPointF(0, r), m + QPointF(0, r));
    p.setFont(Theme::numbers(10));
    p.setPen(t.second);
    p.drawText(QPointF(m.x() + 4, m.y() - r * 2 / 3 + 4), QString::fromUtf8("30°"));
    p.drawText(QPointF(m.x() + 4, m.y() - r / 3 + 4), QString::fromUtf8("60°"));
    for (const Light& l : desk_.document.piece().lights) {
        const bool chosen = desk_.document.chosenLight().toStdString() == l.id;
        const QPointF c = placeOf(l);
        Color color{1, 1, 1, 1};
        if (const auto* d = l.what.as<DirectionalLight>()) color = d->color;
        if (const auto lamp = lamp_of(l.what)) color = lamp->color;
        const QColor paint = l.on ? QColor::fromRgbF(color.r, color.g, color.b) : t.faint;
        p.setPen(QPen(paint.darker(t.dark ? 150 : 120), 1));
        p.drawLine(m, c);
        p.setPen(QPen(t.dark ? t.well : t.text, 1.4));
        p.setBrush(l.on ? QBrush(paint) : QBrush(t.well));
        if (lamp_of(l.what)) {
            QPainterPath diamond;
            diamond.moveTo(c + QPointF(0, -7));
            diamond.lineTo(c + QPointF(7, 0));
            diamond.lineTo(c + QPointF(0, 7));
            diamond.lineTo(c + QPointF(-7, 0));
            diamond.closeSubpath();
            p.drawPath(diamond);
        } else
            p.drawEllipse(c, 6, 6);
        if (chosen) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(t.text, 1.4));
            p.drawEllipse(c, 11, 11);
        }
    }
}

void SkyChart::mousePressEvent(QMouseEvent* e) {
    held_.clear();
    double best = 16;
    // The chosen one is got at first where several coincide; a second click takes the next beneath.
    std::vector<std::string> near;
    for (const Light& l : desk_.document.piece().lights) {
        const QPointF d = placeOf(l) - e->position();
        if (std::hypot(d.x(), d.y()) < best) near.push_back(l.id);
    }
    if (near.empty()) return;
    const std::string chosen = desk_.document.chosenLight().toStdString();
    const auto now = std::find(near.begin(), near.end(), chosen);
    held_ = now != near.end() ? *now : near.back();
    from_ = Vec2{desk_.document.piece().canvas.width / 2.0, desk_.document.piece().canvas.height / 2.0};
    moved_ = false;
    wasChosen_ = held_ == chosen;
    desk_.document.chooseLight(QString::fromStdString(held_));
    desk_.document.beginStroke();
}

void SkyChart::mouseMoveEvent(QMouseEvent* e) {
    if (held_.empty()) return;
    moved_ = true;
    const QPointF d = e->position() - middle();
    const double distance = std::min(1.0, std::hypot(d.x(), d.y()) / radius());
    double angle = std::atan2(-d.y(), d.x()) / radians_per_degree;
    if (e->modifiers() & Qt::ShiftModifier) angle = std::round(angle / 15) * 15;
    put(held_, std::round(angle * 10) / 10, std::round((90 - 90 * distance) * 10) / 10);
}

void SkyChart::mouseReleaseEvent(QMouseEvent* e) {
    if (held_.empty()) return;
    if (!moved_) {
        // A click where several lie on one another takes the next of them.
        std::vector<std::string> near;
        for (const Light& l : desk_.document.piece().lights) {
            const QPointF d = placeOf(l) - e->position();
            if (std::hypot(d.x(), d.y()) < 16) near.push_back(l.id);
        }
        const auto now = std::find(near.begin(), near.end(), held_);
        if (wasChosen_ && near.size() > 1 && now != near.end())
            desk_.document.chooseLight(
                QString::fromStdString(now + 1 == near.end() ? near.front() : *(now + 1)));
    }
    held_.clear();
    desk_.document.endStroke();
    update();
}

void SkyChart::put(const std::string& id, double angle, double elevation) {
    const Vec2 from = standpoint();
    desk_.document.edit(tr("Turn light"), [&](Piece& piece) {
        for (Light& l : piece.lights) {
            if (l.id != id) continue;
            if (l.what.is("directional"))
                l.what = l.what.with("angle", angle).with("elevation", elevation);
            else if (const auto lamp = lamp_of(l.what)) {
                // It keeps its distance from where it is seen.
                const double d = bearing(*lamp, from).distance,
                             e = std::max(elevation, 1.0) * radians_per_degree,
                             a = angle * radians_per_degree;
                l.what = l.what.with("x", std::round(from.x + d * std::cos(e) * std::cos(a)))
                             .with("y", std::round(from.y - d * std::cos(e) * std::sin(a)))
                             .with("z", std::round(d * std::sin(e)));
            }
        }
    });
}

void SkyChart::keyPressEvent(QKeyEvent* e) {
    const Light* l = desk_.document.light();
    if (!l) return QWidget::keyPressEvent(e);
    double angle = 0, elevation = 0;
    if (const auto* d = l->what.as<DirectionalLight>())
        angle = d->angle, elevation = d->elevation;
    else if (const auto lamp = lamp_of(l->what)) {
        const Bearing b = bearing(*lamp, standpoint());
        angle = b.angle, elevation = b.elevation;
    }
    const double by = e->modifiers() & Qt::ShiftModifier ? 1 : 5;
    switch (e->key()) {
    case Qt::Key_Left: angle += by; break;
    case Qt::Key_Right: angle -= by; break;
    case Qt::Key_Up: elevation = std::min(90.0, elevation + by); break;
    case Qt::Key_Down: elevation = std::max(0.0, elevation - by); break;
    default: return QWidget::keyPressEvent(e);
    }
    if (angle > 180) angle -= 360;
    if (angle < -180) angle += 360;
    put(l->id, angle, elevation);
}

} // namespace bathylux
