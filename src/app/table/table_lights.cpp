// Lights on the art: how they are drawn, and what the hand does with them.
#include <QKeyEvent>
#include <QPainter>

#include "app/controls/theme.h"
#include "app/document/lights_edit.h"
#include "app/table/picking.h"
#include "app/table/table.h"
#include "core/light/lamp.h"
#include "core/render/lighting.h"
#include "core/render/tied_lights.h"

namespace bathylux {

namespace {

constexpr double mastLean = 0.24; // of a lamp's mast, so that it is seen from the side
constexpr double mastRise = 0.72;

} // namespace

QPointF Table::lampFoot(const Described& light) const {
    const auto lamp = standing(light);
    return toScreen({lamp->x, lamp->y}, layout_ != Layout::beside);
}

QPointF Table::lampHead(const Described& light) const {
    const double rise = std::max(16.0, standing(light)->z * zoom_);
    return lampFoot(light) + QPointF(mastLean * rise, -mastRise * rise);
}

QPointF Table::lampAim(const Described& light) const {
    const auto* s = light.as<SpotLight>();
    return s ? toScreen({s->target_x, s->target_y}, layout_ != Layout::beside) : QPointF(-1e6, -1e6);
}

QPointF Table::stripEnd(const Described& light, bool far) const {
    const auto* s = light.as<StripLight>();
    if (!s) return {-1e6, -1e6};
    const double half = (far ? 0.5 : -0.5) * s->length, a = s->turn * radians_per_degree;
    return toScreen({s->x + half * std::cos(a), s->y - half * std::sin(a)}, layout_ != Layout::beside);
}

std::string Table::lampAt(QPointF p, Hold& part) {
    const Document& doc = desk_.document;
    // The chosen ones first, where several lie on one another.
    std::vector<const Light*> order;
    for (const Light& l : doc.piece().lights)
        if (standing(l.what)) order.push_back(&l);
    std::stable_partition(order.begin(), order.end(),
                          [&](const Light* l) { return doc.isLightChosen(l->id); });
    for (const Light* l : order) {
        if (tool_ != Tool::light && !doc.isLightChosen(l->id)) continue;
        const Described here = on_canvas(doc.piece(), *l).what;
        if (distance(p, lampHead(here)) < 13) return part = Hold::lampHead, l->id;
        if (distance(p, lampAim(here)) < 11) return part = Hold::lampAim, l->id;
        for (const bool far : {false, true})
            if (distance(p, stripEnd(here, far)) < 10) return farEnd_ = far, part = Hold::lampEnd, l->id;
        if (distance(p, lampFoot(here)) < 10) return part = Hold::lampFoot, l->id;
    }
    return {};
}

void Table::takeLamp(QPointF p, Qt::KeyboardModifiers m) {
    Document& doc = desk_.document;
    // One of several chosen takes the others along; with Shift it joins them or leaves them.
    if (m & Qt::ShiftModifier)
        doc.chooseLightToo(QString::fromStdString(lamp_));
    else if (!doc.isLightChosen(lamp_))
        doc.chooseLight(QString::fromStdString(lamp_));
    grabbedLights_.clear();
    for (const Light& l : doc.piece().lights)
        if (doc.isLightChosen(l.id)) grabbedLights_[l.id] = on_canvas(doc.piece(), l).what;
    const Light* held = find_light(doc.piece(), lamp_);
    if (!held) return;
    const Described here = on_canvas(doc.piece(), *held).what;
    const QPointF at = hold_ == Hold::lampFoot  ? lampFoot(here)
                       : hold_ == Hold::lampAim ? lampAim(here)
                       : hold_ == Hold::lampEnd ? stripEnd(here, farEnd_)
                                                : lampHead(here);
    grip_ = at - p;
}

void Table::dragLamp(QPointF p, Qt::KeyboardModifiers m) {
    const auto grabbed = grabbedLights_.find(lamp_);
    const Light* l = find_light(desk_.document.piece(), lamp_);
    if (!l || grabbed == grabbedLights_.end()) return;
    const Described& start = grabbed->second;
    const auto lamp = standing(start);
    const Vec2 at = toCanvas(p + grip_);
    // Every one from where it was when the drag began.
    const auto all = [&](const QString& name, const std::function<Described(const Described&)>& change) {
        changeLights(desk_.document, name, [&](const Light& light, const Described& here) {
            const auto was = grabbedLights_.find(light.id);
            return was == grabbedLights_.end() || !standing(was->second) ? here : change(was->second);
        });
    };
    const auto number = [](const Described& d, const char* id) { return std::get<double>(d.get(id)); };
    switch (hold_) {
    case Hold::lampAim: {
        const auto* spot = start.as<SpotLight>();
        const double dx = std::round(at.x) - spot->target_x, dy = std::round(at.y) - spot->target_y;
        all(tr("Aim %1").arg(nameOf(*l)), [&](const Described& was) {
            return light_kind_of(was).aimed ? was.with("target_x", number(was, "target_x") + dx)
                                                  .with("target_y", number(was, "target_y") + dy)
                                            : was;
        });
        break;
    }
    case Hold::lampEnd: {
        // The other end turns about the middle, and with Shift stops at every fifteenth degree.
        const double dx = at.x - lamp->x, dy = lamp->y - at.y, way = farEnd_ ? 1 : -1;
        double turn = std::atan2(way * dy, way * dx) / radians_per_degree;
        turn = m & Qt::ShiftModifier ? std::round(turn / 15) * 15 : std::round(turn * 10) / 10;
        const double length = std::max(1.0, std::round(2 * std::hypot(dx, dy)));
        all(tr("Stretch %1").arg(nameOf(*l)), [&](const Described& was) {
            return was.as<StripLight>() ? was.with("turn", turn).with("length", length) : was;
        });
        break;
    }
    case Hold::lampFoot: {
        const double dx = std::round(at.x) - lamp->x, dy = std::round(at.y) - lamp->y;
        all(tr("Move %1").arg(nameOf(*l)), [&](const Described& was) {
            return was.with("x", number(was, "x") + dx).with("y", number(was, "y") + dy);
        });
        break;
    }
    default: {
        const double z =
            std::clamp((lampFoot(start).y() - (p + grip_).y()) / mastRise / zoom_, 1.0, 100000.0);
        const double by = std::round(z) - lamp->z;
        all(tr("Raise %1").arg(nameOf(*l)), [&](const Described& was) {
            return was.with("z", std::clamp(number(was, "z") + by, 1.0, 100000.0));
        });
    }
    }
}

void Table::setFollowing(bool follow) {
    if (follow == following_ || (follow && !desk_.document.light())) return;
    following_ = follow;
    if (follow) {
        followStroke_ = desk_.document.stroke();
        setMouseTracking(true);
    } else
        followStroke_.end();
    update();
}

void Table::followHand(QPointF p) {
    const Light* l = desk_.document.light();
    if (!l) return;
    const Vec2 at = toCanvas(p);
    const Canvas& c = desk_.document.piece().canvas;
    changeLights(
        desk_.document, tr("Lead %1").arg(nameOf(*l)), [&](const Light& light, const Described& here) {
            if (light.id != l->id) return here;
            if (standing(here)) return here.with("x", std::round(at.x)).with("y", std::round(at.y));
            // A far light stands over the art as on the sky chart: overhead in the middle, the horizon at the
            // rim.
            const double dx = at.x - c.width / 2.0, dy = c.height / 2.0 - at.y;
            const double angle = std::round(std::atan2(dy, dx) / radians_per_degree * 10) / 10;
            if (here.as<SkyLight>()) return here.with("turn", angle);
            const double share = std::min(1.0, std::hypot(dx, dy) / (std::min(c.width, c.height) / 2.0));
            return here.with("angle", angle).with("elevation", std::round(900 * (1 - share)) / 10);
        });
}

void Table::raiseLight(double factor) {
    const Light* l = desk_.document.light();
    if (!l || !standing(l->what)) return;
    changeLights(
        desk_.document, tr("Lead %1").arg(nameOf(*l)), [&](const Light& light, const Described& here) {
            const auto lamp = standing(here);
            return light.id == l->id && lamp ? here.with("z", std::clamp(lamp->z * factor, 1.0, 100000.0))
                                             : here;
        });
}

void Table::paintLamps(QPainter& p) {
    const Theme& t = Theme::current();
    const Document& doc = desk_.document;
    const Canvas& c = doc.piece().canvas;
    const std::vector<Light> all(doc.piece().lights.begin(), doc.piece().lights.end());
    for (const Light& l : all) {
        const Described here = on_canvas(doc.piece(), l).what;
        const auto lamp = standing(here);
        if (!lamp) continue;
        const bool chosen = doc.isLightChosen(l.id);
        if (!chosen && tool_ != Tool::light) continue;
        const QPointF foot = lampFoot(here), head = lampHead(here);
        QColor color = QColor::fromRgbF(lamp->color.r, lamp->color.g, lamp->color.b);
        if (!shines(all, l)) color = t.faint;
        // A spot's pool on the art, and the mark it is aimed at.
        if (const auto* spot = here.as<SpotLight>()) {
            for (const auto& [angle, alpha] : {std::pair{spot->outer_cone, 255}, {spot->inner_cone, 120}}) {
                QPolygonF pool;
                for (const Vec2 q : pool_of(*spot, angle, 72, 2.0 * std::max(c.width, c.height)))
                    pool << toScreen(q, layout_ != Layout::beside);
                for (const bool under : {true, false}) {
                    QColor ink = under ? QColor(15, 18, 20) : color;
                    ink.setAlpha(under ? alpha / 2 : alpha);
                    p.setPen(QPen(ink, under ? 3 : 1.2, Qt::DashLine));
                    p.setBrush(Qt::NoBrush);
                    p.drawPolygon(pool);
                }
            }
            const QPointF aim = lampAim(here);
            for (const bool under : {true, false}) {
                p.setPen(under ? QPen(QColor(15, 18, 20, 190), 3.4) : QPen(color, 1.4));
                p.drawEllipse(aim, 6, 6);
                p.drawPoint(aim);
            }
        }
        // A strip lies as a bar under its head; its ends are taken hold of.
        if (const auto* strip = here.as<StripLight>()) {
            const QPointF a = stripEnd(here, false), b = stripEnd(here, true), d = b - a;
            const double length = std::max(1e-6, std::hypot(d.x(), d.y()));
            const QPointF side = QPointF(-d.y(), d.x()) / length * std::max(2.5, strip->width / 2.0 * zoom_);
            const QPolygonF bar{{a + side, b + side, b - side, a - side}};
            p.setBrush(Qt::NoBrush);
            for (const bool under : {true, false}) {
                p.setPen(under ? QPen(QColor(15, 18, 20, 190), 3.4) : QPen(color, 1.3));
                p.drawPolygon(bar);
            }
            for (const QPointF end : {a, b}) {
                p.setPen(QPen(QColor(15, 18, 20), 1.6));
                p.setBrush(color);
                p.drawRect(QRectF(end.x() - 4, end.y() - 4, 8, 8));
            }
        }
        // Drawn twice: a dark edge keeps it legible on any picture.
        for (const bool under : {true, false}) {
            p.setPen(under ? QPen(QColor(15, 18, 20, 190), 3.4) : QPen(color, 1.3));
            p.drawLine(foot, head);
            p.drawLine(foot - QPointF(8, 0), foot + QPointF(8, 0));
            p.drawLine(foot - QPointF(0, 5), foot + QPointF(0, 5));
        }
        p.setPen(QPen(QColor(15, 18, 20), 2));
        p.setBrush(color);
        p.drawEllipse(head, 8, 8);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(chosen ? QColor("#fdfaf2") : QColor(253, 250, 242, 110), chosen ? 2 : 1.2));
        p.drawEllipse(head, 10.5, 10.5);
        if (doc.chosenLight().toStdString() != l.id) continue;
        if (p.hasClipping() && !p.clipBoundingRect().contains(head)) continue; // behind the seam
        const QString text = nameOf(l) + "  " + QString::number(qRound(lamp->z)) + " px";
        p.setFont(Theme::words(12));
        QRectF box(head.x() + 16, head.y() - 10, p.fontMetrics().horizontalAdvance(text) + 14, 20);
        if (box.right() > width() - 4) box.moveRight(head.x() - 16);
        p.fillRect(box, QColor(23, 27, 30, 225));
        p.setPen(QColor("#eae4d6"));
        p.drawText(box, Qt::AlignCenter, text);
    }
}

} // namespace bathylux
