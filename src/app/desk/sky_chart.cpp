#include "app/desk/sky_chart.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include "app/controls/theme.h"
#include "app/document/lights_edit.h"
#include "core/render/lighting.h"
#include "core/render/tied_lights.h"

namespace bathylux {

namespace {

/// Direction of a lamp as seen from a place on the art: angle and elevation in degrees, and its distance.
struct Bearing {
    double angle, elevation, distance;
};
/// None for skies: they come from all round.
std::optional<Bearing> bearingOf(const Described& what, Vec2 from) {
    if (const auto* d = what.as<DirectionalLight>()) return Bearing{d->angle, d->elevation, 0};
    const auto lamp = standing(what);
    if (!lamp) return std::nullopt;
    const double dx = lamp->x - from.x, dy = from.y - lamp->y, flat = std::hypot(dx, dy);
    return Bearing{std::atan2(dy, dx) / radians_per_degree,
                   std::atan2(double(lamp->z), flat) / radians_per_degree, std::hypot(flat, double(lamp->z))};
}

/// The same light seen from there; a lamp keeps its distance, a spot its aim.
Described turnedTo(const Described& what, Vec2 from, double angle, double elevation) {
    if (what.as<DirectionalLight>())
        return what.with("angle", std::remainder(angle, 360.0))
            .with("elevation", std::clamp(elevation, -90.0, 90.0));
    const auto b = bearingOf(what, from);
    if (!b) return what;
    const double e = std::clamp(elevation, 1.0, 90.0) * radians_per_degree, a = angle * radians_per_degree;
    return what.with("x", std::round(from.x + b->distance * std::cos(e) * std::cos(a)))
        .with("y", std::round(from.y - b->distance * std::cos(e) * std::sin(a)))
        .with("z", std::round(b->distance * std::sin(e)));
}

} // namespace

SkyChart::SkyChart(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Sky chart"));
    setToolTip(tr("Where light comes from: overhead in the middle, the horizon at the rim. Drag a light "
                  "(Shift-click chooses several); arrows turn and raise what is chosen"));
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

QPointF SkyChart::placeOf(const Light& light) const {
    const auto b = bearingOf(on_canvas(desk_.document.piece(), light).what, standpoint());
    return b ? at(b->angle, b->elevation) : QPointF(-1e6, -1e6);
}

std::vector<std::string> SkyChart::lightsAt(QPointF p) const {
    std::vector<std::string> out;
    for (const Light& l : desk_.document.piece().lights) {
        const QPointF d = placeOf(l) - p;
        if (std::hypot(d.x(), d.y()) < 16) out.push_back(l.id);
    }
    return out;
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
    const Piece& piece = desk_.document.piece();
    double ring = r + 4;
    const std::vector<Light> all(piece.lights.begin(), piece.lights.end());
    for (const Light& l : piece.lights) {
        const bool chosen = desk_.document.isLightChosen(l.id), on = shines(all, l);
        const Described what = on_canvas(piece, l).what;
        const Color color = colorOf(what);
        const QColor paint = on ? QColor::fromRgbF(color.r, color.g, color.b) : t.faint;
        if (what.as<SkyLight>()) {
            // A sky lies all round the horizon.
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(paint, chosen ? 3 : 2));
            p.drawEllipse(m, ring, ring);
            ring += 4;
            continue;
        }
        const QPointF c = placeOf(l);
        p.setPen(QPen(paint.darker(t.dark ? 150 : 120), 1));
        p.drawLine(m, c);
        p.setPen(QPen(t.dark ? t.well : t.text, 1.4));
        p.setBrush(on ? QBrush(paint) : QBrush(t.well));
        p.save();
        p.translate(c);
        if (const auto* strip = what.as<StripLight>()) {
            p.rotate(-strip->turn);
            p.drawRect(QRectF(-10, -3.5, 20, 7));
        } else if (standing(what)) {
            p.rotate(45);
            p.drawRect(QRectF(-5, -5, 10, 10));
        } else
            p.drawEllipse(QPointF(), 6, 6);
        p.restore();
        if (chosen) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(t.text, 1.4));
            p.drawEllipse(c, 11, 11);
        }
    }
}

void SkyChart::mousePressEvent(QMouseEvent* e) {
    held_.clear();
    Document& doc = desk_.document;
    // A chosen one is got at first where several coincide; a second click takes the next beneath.
    const auto near = lightsAt(e->position());
    if (near.empty()) return;
    if (e->modifiers() & Qt::ShiftModifier) return doc.chooseLightToo(QString::fromStdString(near.back()));
    const auto now =
        std::find_if(near.begin(), near.end(), [&](const auto& id) { return doc.isLightChosen(id); });
    held_ = now != near.end() ? *now : near.back();
    wasChosen_ = now != near.end();
    if (!wasChosen_) doc.chooseLight(QString::fromStdString(held_));
    from_ = Vec2{doc.piece().canvas.width / 2.0, doc.piece().canvas.height / 2.0};
    moved_ = false;
    grabbed_.clear();
    for (const Light& l : doc.piece().lights)
        if (doc.isLightChosen(l.id)) grabbed_[l.id] = on_canvas(doc.piece(), l).what;
    stroke_ = doc.stroke();
}

void SkyChart::mouseMoveEvent(QMouseEvent* e) {
    if (held_.empty()) return;
    moved_ = true;
    const QPointF d = e->position() - middle();
    const double distance = std::min(1.0, std::hypot(d.x(), d.y()) / radius());
    double angle = std::atan2(-d.y(), d.x()) / radians_per_degree;
    if (e->modifiers() & Qt::ShiftModifier) angle = std::round(angle / 15) * 15;
    const double elevation = std::round((90 - 90 * distance) * 10) / 10;
    const auto start = bearingOf(grabbed_[held_], from_);
    if (start) turnAll(std::round(angle * 10) / 10 - start->angle, elevation - start->elevation);
}

void SkyChart::mouseReleaseEvent(QMouseEvent* e) {
    if (held_.empty()) return;
    if (!moved_) {
        // A click where several lie on one another takes the next of them.
        const auto near = lightsAt(e->position());
        const auto now = std::find(near.begin(), near.end(), held_);
        if (wasChosen_ && near.size() > 1 && now != near.end())
            desk_.document.chooseLight(
                QString::fromStdString(now + 1 == near.end() ? near.front() : *(now + 1)));
        else if (now != near.end())
            desk_.document.chooseLight(QString::fromStdString(held_));
    }
    held_.clear();
    stroke_.end();
    update();
}

/// Turns and raises all that was grabbed by so many degrees from where it was.
void SkyChart::turnAll(double angle, double elevation) {
    const Vec2 from = standpoint();
    changeLights(desk_.document, tr("Turn light"), [&](const Light& l, const Described& here) {
        const auto was = grabbed_.find(l.id);
        if (was == grabbed_.end()) return here;
        const auto b = bearingOf(was->second, from);
        return b ? turnedTo(was->second, from, b->angle + angle, b->elevation + elevation) : here;
    });
}

void SkyChart::keyPressEvent(QKeyEvent* e) {
    const Light* l = desk_.document.light();
    if (!l || !bearingOf(l->what, standpoint())) return QWidget::keyPressEvent(e);
    double angle = 0, elevation = 0;
    const double by = e->modifiers() & Qt::ShiftModifier ? 1 : 5;
    switch (e->key()) {
    case Qt::Key_Left: angle = by; break;
    case Qt::Key_Right: angle = -by; break;
    case Qt::Key_Up: elevation = by; break;
    case Qt::Key_Down: elevation = -by; break;
    default: return QWidget::keyPressEvent(e);
    }
    grabbed_.clear();
    for (const Light& light : desk_.document.piece().lights)
        if (desk_.document.isLightChosen(light.id))
            grabbed_[light.id] = on_canvas(desk_.document.piece(), light).what;
    // Not below the horizon, not beyond overhead.
    const auto b = bearingOf(grabbed_[l->id], standpoint());
    elevation = std::clamp(b->elevation + elevation, 0.0, 90.0) - b->elevation;
    turnAll(angle, elevation);
}

} // namespace bathylux
