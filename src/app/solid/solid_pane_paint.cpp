// What is drawn over the picture of the solid: the label's net, lamps with their masts, the globe, the brush.
#include <QPainter>
#include <QToolButton>
#include <cmath>
#include <numbers>

#include "app/controls/controls.h"
#include "app/controls/theme.h"
#include "app/solid/solid_pane.h"
#include "core/piece/edit.h"
#include "core/render/tied_lights.h"
#include "core/solid/angles.h"

namespace bathylux {

void SolidPane::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.fillRect(rect(), t.well);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (frame_) p.drawImage(QRectF(rect()), frame_->image);
    if (frame_ && !frame_->faults.isNull() && !fault_.isEmpty()) paintFault(p);
    p.setRenderHint(QPainter::Antialiasing);
    if (placing_) drawLabelNet(p);
    if (table_.tool() == Table::Tool::light) paintLamps(p);
    if (table_.tool() == Table::Tool::paint) paintBrush(p);
    if (way_) paintMeasure(p);
    if (hold_ == Hold::element) paintAngles(p);
    paintRing(p);
    paintGlobe(p);
    p.setFont(Theme::words(12));
    if (!trouble_.isEmpty()) {
        p.fillRect(rect(), t.well);
        p.setPen(t.text);
        p.drawText(rect().adjusted(32, 32, -32, -32), Qt::AlignCenter | Qt::TextWordWrap, trouble_);
    } else if (frame_ && !frame_->ask.coarse && frame_->samples < SolidFrame::most) {
        const QRect bar(12, height() - 34, 148, 22);
        p.fillRect(bar, t.well);
        p.setPen(t.second);
        p.drawText(bar.adjusted(8, 0, -8, 0), Qt::AlignVCenter | Qt::AlignLeft, tr("ever finer"));
        p.setFont(Theme::numbers(12));
        p.drawText(bar.adjusted(8, 0, -8, 0), Qt::AlignVCenter | Qt::AlignRight,
                   tr("%1 of %2").arg(frame_->samples).arg(SolidFrame::most));
        p.fillRect(
            QRectF(bar.left(), bar.bottom(), bar.width() * double(frame_->samples) / SolidFrame::most, 2),
            t.accent);
    }
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

void SolidPane::drawLabelNet(QPainter& p) {
    const Solid s = solid();
    if (s.body.kind == BodyKind::mesh || s.body.wrap != Wrap::placed) return;
    const Canvas& c = desk_.document.piece().canvas;
    const Laying laying(s.body, c.width, c.height);
    const Sight view = sight();
    const auto line = [&](Vec2 from, Vec2 to) {
        constexpr int pieces = 48;
        std::optional<QPointF> before;
        for (int i = 0; i <= pieces; ++i) {
            const SurfacePoint at = laying.at(from + (double(i) / pieces) * (to - from));
            const Vec3 place = at.place + (s.body.shift + 1.0) * at.normal;
            const Vec3 way = view.parallel() ? view.towards() : view.eye() - place;
            if (dot(way, at.normal) <= 0) {
                before.reset();
                continue;
            }
            const Vec3 seen = view.seen_at(place);
            const QPointF now(seen.x, seen.y);
            if (before) p.drawLine(*before, now);
            before = now;
        }
    };
    constexpr int meshes = 6;
    for (int i = 0; i <= meshes; ++i) {
        const bool rim = i == 0 || i == meshes;
        QColor color = Theme::current().depth;
        color.setAlpha(rim ? 235 : 120);
        p.setPen(QPen(color, rim ? 1.4 : 1));
        line({c.width * double(i) / meshes, 0}, {c.width * double(i) / meshes, c.height});
        line({0, c.height * double(i) / meshes}, {c.width, c.height * double(i) / meshes});
    }
    if (const auto corners = labelCorners()) {
        p.setPen(QPen(QColor(20, 20, 20), 1));
        p.setBrush(Theme::onArt());
        for (const QPointF& q : *corners) p.drawRect(QRectF(q.x() - 4, q.y() - 4, 8, 8));
        if (const auto ring = turnHandle()) {
            p.setPen(QPen(Theme::onArt(), 1.4));
            p.drawLine(((*corners)[0] + (*corners)[1]) / 2, *ring);
            p.setBrush(Theme::current().well);
            p.drawEllipse(*ring, 6, 6);
        }
    }
}

void SolidPane::paintLamps(QPainter& p) {
    if (!frame_ || !frame_->scene.skin) return;
    const Piece& piece = desk_.document.piece();
    const auto [low, high] = frame_->scene.skin->bounds();
    const Vec3 middle = 0.5 * (low + high);
    for (const Light& l : piece.lights) {
        const auto head = headOf(l);
        if (!head) continue;
        const bool chosen = desk_.document.isLightChosen(l.id);
        Color color{1, 1, 1, 1};
        if (const Parameter* c = l.what.kind().find("color")) color = std::get<Color>(l.what.get(*c));
        Vec3 foot = middle;
        if (l.stands == Stands::body && l.kind().stands) {
            const Described here = on_canvas(piece, l).what;
            foot = frame_->scene.skin->laying()
                       .at({std::get<double>(here.get("x")), std::get<double>(here.get("y"))})
                       .place;
        }
        const QPointF a = toScreen(foot), b = toScreen(*head);
        p.setPen(QPen(QColor(0, 0, 0, 120), 3));
        p.drawLine(a, b);
        p.setPen(QPen(toQt(color), 1.2, l.kind().stands ? Qt::SolidLine : Qt::DashLine));
        p.drawLine(a, b);
        p.setPen(QPen(QColor(20, 20, 20), 1.5));
        p.setBrush(toQt(l.on ? color : Color{0.4f, 0.4f, 0.4f, 1}));
        p.drawEllipse(b, 7, 7);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(Qt::white, chosen ? 2 : 1));
        p.drawEllipse(b, chosen ? 11 : 9, chosen ? 11 : 9);
        if (!chosen) continue;
        const Canvas& c = piece.canvas;
        const double mm = length(*head - foot) / c.px_per_mm;
        const QString says = l.kind().stands ? tr("%1  %2 mm").arg(nameOf(l)).arg(qRound(mm)) : nameOf(l);
        p.setFont(Theme::words(12));
        const int w = p.fontMetrics().horizontalAdvance(says) + 14;
        QRectF tag(b.x() + 16, b.y() - 22, w, 20);
        if (tag.right() > width() - 4) tag.moveRight(b.x() - 16);
        p.fillRect(tag, Theme::current().well);
        p.setPen(Theme::current().text);
        p.drawText(tag, Qt::AlignCenter, says);
    }
}

/// The way between two points, straight and over the relief.
void SolidPane::paintMeasure(QPainter& p) {
    const QPointF a = toScreen(way_->first), b = toScreen(way_->second);
    for (const auto& [color, wide] : {std::pair{QColor(0, 0, 0, 150), 3.5}, {Theme::onArt(), 1.5}}) {
        p.setPen(QPen(color, wide));
        p.drawLine(a, b);
        for (const QPointF& q : {a, b}) {
            p.drawLine(q - QPointF(6, 0), q + QPointF(6, 0));
            p.drawLine(q - QPointF(0, 6), q + QPointF(0, 6));
        }
    }
    const double mm = 1 / double(desk_.document.piece().canvas.px_per_mm);
    const double straight = length(way_->second - way_->first) * mm,
                 over = frame_ && frame_->scene.skin
                            ? frame_->scene.skin->way_over(*frame_->scene.texels, heldAt_, measuredTo_) * mm
                            : 0;
    if (straight <= 0) return;
    QString says = tr("%1 mm").arg(straight, 0, 'f', 1);
    if (over > straight * 1.005 && over < straight * 20)
        says += tr(", %1 mm over the relief").arg(over, 0, 'f', 1);
    p.setFont(Theme::numbers(12));
    QRectF tag((a + b) / 2 + QPointF(10, -28), QSizeF(p.fontMetrics().horizontalAdvance(says) + 14, 20));
    if (tag.right() > width() - 4) tag.moveRight(width() - 4);
    p.fillRect(tag, Theme::current().well);
    p.setPen(Theme::current().text);
    p.drawText(tag, Qt::AlignCenter, says);
}

/// Where on the body the hand has what it holds.
void SolidPane::paintAngles(QPainter& p) {
    const Body body = solid().body;
    if (elements_.parts.empty() || !has_angles(body)) return;
    const Element* e = find_element(desk_.document.piece().elements, elements_.parts.front().id);
    if (!e || !frame_ || !frame_->scene.skin) return;
    const Canvas& c = desk_.document.piece().canvas;
    const Vec2 canvas{e->placement.x, e->placement.y};
    const auto at = frame_->scene.skin->place_at(*frame_->scene.texels, canvas);
    if (!at) return;
    const BodyAngles a = angles_of(body, canvas, c.width, c.height);
    const QString says = body.kind == BodyKind::sphere
                             ? QString::fromUtf8("%1° round, %2° up").arg(qRound(a.round)).arg(qRound(a.up))
                             : QString::fromUtf8("%1° round").arg(qRound(a.round));
    const QPointF middle = toScreen(*at);
    for (const auto& [color, wide] : {std::pair{QColor(0, 0, 0, 150), 3.5}, {Theme::onArt(), 1.5}}) {
        p.setPen(QPen(color, wide));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(middle, 9, 9);
        p.drawLine(middle - QPointF(14, 0), middle + QPointF(14, 0));
        p.drawLine(middle - QPointF(0, 14), middle + QPointF(0, 14));
    }
    p.setFont(Theme::numbers(12));
    QRectF tag(middle + QPointF(18, -30), QSizeF(p.fontMetrics().horizontalAdvance(says) + 14, 20));
    if (tag.right() > width() - 4) tag.moveRight(middle.x() - 18);
    p.fillRect(tag, Theme::current().well);
    p.setPen(Theme::current().text);
    p.drawText(tag, Qt::AlignCenter, says);
}

/// What is at fault, and what that is.
void SolidPane::paintFault(QPainter& p) {
    const Theme& t = Theme::current();
    p.drawImage(QRectF(rect()), frame_->faults);
    const QString says = fault_ == "die_wall"          ? tr("too steep for the die")
                         : fault_ == "finer_than_mesh" ? tr("finer than the mesh")
                                                       : tr("finer than the solid's mesh");
    p.setFont(Theme::words(12));
    const QRect tag(12, height() - 62, p.fontMetrics().horizontalAdvance(says) + 36, 22);
    p.fillRect(tag, t.well);
    const QRect swatch(tag.left() + 8, tag.top() + 6, 12, 10);
    p.fillRect(swatch, t.signal);
    p.setPen(t.text);
    p.drawText(tag.adjusted(26, 0, -8, 0), Qt::AlignVCenter | Qt::AlignLeft, says);
}

void SolidPane::paintRing(QPainter& p) {
    if (!ring_.at() || !frame_ || !frame_->scene.skin) return;
    if (const auto at = frame_->scene.skin->place_at(*frame_->scene.texels, *ring_.at()))
        PlaceRing::paint(p, toScreen(*at));
}

/// How the body lies: a small globe turned as it is; a click takes it back to straight.
void SolidPane::paintGlobe(QPainter& p) {
    const Theme& t = Theme::current();
    const CameraAxes axes = axes_of(solid().camera);
    const QPointF middle = globe();
    const double r = globeRadius;
    p.setPen(Qt::NoPen);
    QColor ground = t.well;
    ground.setAlpha(215);
    p.setBrush(ground);
    p.drawEllipse(middle, r + 5, r + 5);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.second, 1.2));
    p.drawEllipse(middle, r, r);
    const auto at = [&](Vec3 v) { return middle + QPointF(r * dot(v, axes.right), -r * dot(v, axes.up)); };
    const auto ring = [&](auto&& point) {
        std::optional<QPointF> before;
        for (int i = 0; i <= 48; ++i) {
            const Vec3 v = point(i * 2 * 3.14159265358979 / 48);
            if (dot(v, axes.towards) < 0) {
                before.reset();
                continue;
            }
            const QPointF now = at(v);
            if (before) p.drawLine(*before, now);
            before = now;
        }
    };
    p.setPen(QPen(t.second, 0.9));
    for (const double lon : {0.0, 1.0471975512, 2.0943951024})
        ring([&](double a) {
            return Vec3{std::sin(lon) * std::cos(a), std::sin(a), std::cos(lon) * std::cos(a)};
        });
    for (const double lat : {-0.6, 0.0, 0.6})
        ring([&](double a) {
            return Vec3{std::cos(lat) * std::sin(a), std::sin(lat), std::cos(lat) * std::cos(a)};
        });
    if (axes.towards.z > 0) { // the place that faces straight ahead
        p.setPen(Qt::NoPen);
        p.setBrush(t.accent);
        p.drawEllipse(at({0, 0, 1}), 3, 3);
    }
    const Camera c = solid().camera;
    p.setFont(Theme::soundings(12));
    const QString says = QString::fromUtf8("%1° %2°").arg(qRound(c.turn)).arg(qRound(c.tilt));
    const int w = p.fontMetrics().horizontalAdvance(says) + 10;
    const QRectF tag(middle.x() - r - 10 - w, middle.y() - 10, w, 20);
    p.fillRect(tag, ground);
    p.setPen(t.text);
    p.drawText(tag, Qt::AlignCenter, says);
}

void SolidPane::paintBrush(QPainter& p) {
    if (!pointer_) return;
    const auto spot = spotAt(*pointer_);
    if (!spot || !spot->covered) return;
    // The brush's rim where it lies on the skin.
    const Piece& piece = desk_.document.piece();
    const Laying laying(solid().body, piece.canvas.width, piece.canvas.height);
    const double r = table_.painter().brush.size / 2.0;
    if (solid().body.kind == BodyKind::mesh) {
        p.setPen(QPen(Qt::white, 1.2));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(*pointer_, 6, 6);
        return;
    }
    for (const auto& [color, wide] : {std::pair{QColor(0, 0, 0, 140), 3.0}, {QColor(255, 255, 255), 1.2}}) {
        p.setPen(QPen(color, wide));
        std::optional<QPointF> before;
        for (int i = 0; i <= 40; ++i) {
            const double a = i * 2 * 3.14159265358979 / 40;
            const SurfacePoint s = laying.at(spot->canvas + Vec2{r * std::cos(a), r * std::sin(a)});
            const QPointF now = toScreen(
                s.place + dot(spot->place - laying.at(spot->canvas).place, spot->base_normal) * s.normal);
            if (before) p.drawLine(*before, now);
            before = now;
        }
    }
}

} // namespace bathylux
