// What shows on the table where something bends: streams, the net, a perspective's corners. See table.h.
#include <QPainter>
#include <QPainterPath>

#include "app/controls/theme.h"
#include "app/document/behind.h"
#include "app/document/corners.h"
#include "app/table/table.h"
#include "core/error.h"

namespace bathylux {

namespace {

constexpr double apart = 24; // from arrow to arrow and from line to line, px on screen

void drawArrow(QPainter& p, QPointF from, QPointF to) {
    const QPointF d = to - from;
    const double l = std::hypot(d.x(), d.y());
    p.drawLine(from, to);
    const QPointF u = d / l, n(-u.y(), u.x());
    const double head = std::min(4.0, 0.45 * l);
    p.drawLine(to, to - head * u + 0.7 * head * n);
    p.drawLine(to, to - head * u - 0.7 * head * n);
}

} // namespace

/// Which steps the streams are those of: the open one where it bends, all where the hand pushes or the net is
/// asked for; none otherwise.
std::optional<std::string> Table::streaming() const {
    const Element* e = desk_.document.openElement();
    if (!e || e->id == finish_id) return std::nullopt;
    const Step* open = find_step(e->steps, desk_.document.openStepId().toStdString());
    if (open && open->on && open->kind().looks_at) return open->id;
    if (net_ || (tool_ == Tool::paint && works_on_drift(painter_.brush.work))) return std::string();
    return std::nullopt;
}

/// Has something that is shown over the chart made behind the window where its name is another; `name` 0: it
/// is shown no longer.
template <class T>
void Table::askFor(Behind<T>& shown, std::uint64_t name, std::function<std::shared_ptr<const T>()> make) {
    if (name == shown.name || (name != 0 && newest_ && newest_->shot.coarse)) return;
    shown.name = name;
    if (name == 0) {
        shown.what.reset();
        return update();
    }
    behind(
        this,
        [make = std::move(make)]() -> std::shared_ptr<const T> {
            try {
                return make();
            } catch (const std::exception&) {
                return nullptr; // what cannot be done is told by the picture
            }
        },
        [this, &shown, name](std::shared_ptr<const T> made) {
            if (name != shown.name) return;
            shown.what = std::move(made);
            update();
        });
}

namespace {

constexpr std::size_t small_budget = std::size_t{32} << 20;

double smallScale(const Piece& piece, double side) {
    return std::min(1.0, side / std::max(piece.canvas.width, piece.canvas.height));
}
/// A name, or 0 where what is named cannot be had.
template <class Name> std::uint64_t nameOrNone(const Name& name) {
    try {
        return name();
    } catch (const Error&) {
        return 0;
    }
}

} // namespace

/// Has the streams, and what an open wear takes, made anew where they are others.
void Table::askStreams() {
    const Scene scene = desk_.scene();
    const Element* e = desk_.document.openElement();
    const std::string id = e ? e->id : std::string();
    const auto step = streaming();
    const double scale = smallScale(*scene.piece, 220);
    askFor<Streams>(streams_, step ? nameOrNone([&] { return streams_name(scene, id, *step, scale); }) : 0,
                    [scene, id, step, scale]() -> std::shared_ptr<const Streams> {
                        Evaluator evaluator(small_budget);
                        auto made = streams_of(evaluator, scene, id, *step, scale);
                        return made ? std::make_shared<const Streams>(std::move(*made)) : nullptr;
                    });
    const Step* open = e ? find_step(e->steps, desk_.document.openStepId().toStdString()) : nullptr;
    const bool wears = open && open->on && open->kind().group == "wear" && id != finish_id;
    const MapRef worn{id, MapOf::worn};
    wornScale_ = smallScale(*scene.piece, 500);
    askFor<Field>(worn_, wears ? nameOrNone([&] { return Graph(scene, wornScale_).map(worn)->hash; }) : 0,
                  [scene, worn, at = wornScale_] {
                      Evaluator evaluator(small_budget);
                      return std::make_shared<const Field>(
                          evaluator.map(scene, worn, canvas_region(scene.piece->canvas, at), at));
                  });
}

/// What goes is hatched, as a chart hatches ground that falls dry.
void Table::paintWorn(QPainter& p, bool left) {
    if (!worn_.what || worn_.what->is_constant()) return;
    const QRectF art = canvasOnScreen(left).intersected(QRectF(pane(left)));
    const Plane& worn = worn_.what->plane();
    const auto gone = [&](double x, double y) {
        const Vec2 c = toCanvas({x, y});
        const int i = static_cast<int>(std::floor(c.x * wornScale_)),
                  j = static_cast<int>(std::floor(c.y * wornScale_));
        return i >= 0 && j >= 0 && i < worn.width() && j < worn.height() && worn(i, j) > 0.5f;
    };
    p.save();
    p.setClipRect(art);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(QColor(15, 18, 20, 190), 1));
    // Along lines that rise to the right, a stroke for every stretch that is gone.
    constexpr double apart_lines = 6, step = 2;
    for (double from = art.left() - art.height(); from < art.right(); from += apart_lines) {
        std::optional<QPointF> begun;
        for (double t = 0; t <= art.height() + step; t += step) {
            const QPointF at(from + t, art.bottom() - t);
            const bool in = at.x() >= art.left() && at.x() <= art.right() && gone(at.x(), at.y());
            if (in && !begun) begun = at;
            if (!in && begun) {
                p.drawLine(*begun, at);
                begun.reset();
            }
        }
    }
    p.restore();
}

void Table::setNet(bool net) {
    net_ = net;
    askStreams();
    update();
}

/// Arrows along the drift, as tidal streams stand on a chart: as long as things were moved.
void Table::paintStreams(QPainter& p, bool left) {
    if (!streams() || streams()->longest * zoom_ < 1.5) return;
    const QRectF art = canvasOnScreen(left).intersected(QRectF(pane(left)));
    p.save();
    p.setClipRect(art);
    p.setRenderHint(QPainter::Antialiasing);
    // On dark water and on light ground alike.
    for (const bool under : {true, false}) {
        p.setPen(under ? QPen(QColor(10, 20, 24, 150), 2.4) : QPen(QColor(253, 250, 242, 225), 1));
        int row = 0;
        for (double y = art.top() + apart / 2; y < art.bottom(); y += apart, ++row)
            for (double x = art.left() + (row % 2 ? apart : apart / 2); x < art.right(); x += apart) {
                const Vec2 to = toCanvas({x, y}), d = streams()->at(to);
                const double l = std::hypot(d.x, d.y) * zoom_;
                if (l < 2.5 || l > 4000) continue;
                const QPointF end(x, y);
                drawArrow(p, end - QPointF(d.x, d.y) * zoom_, end);
            }
    }
    p.restore();
    paintStreamScale(p, left);
}

/// How long an arrow of a round length is.
void Table::paintStreamScale(QPainter& p, bool left) {
    const Theme& t = Theme::current();
    const QRect f = pane(left);
    const double most = std::min(streams()->longest, 60 / zoom_);
    double round = std::pow(10.0, std::floor(std::log10(std::max(1e-3, most))));
    for (const double k : {5.0, 2.0})
        if (k * round <= most) {
            round *= k;
            break;
        }
    const double l = round * zoom_;
    const QRectF box(f.left() + 12, f.bottom() - 176, std::max(72.0, l + 18), 52);
    QColor ground = t.well;
    ground.setAlpha(235);
    p.fillRect(box, ground);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(t.text, 1));
    if (l > 3) drawArrow(p, {box.left() + 9, box.top() + 13}, {box.left() + 9 + l, box.top() + 13});
    p.setFont(Theme::numbers(11));
    p.drawText(QRectF(box.left() + 9, box.top() + 19, box.width() - 12, 15), Qt::AlignLeft | Qt::AlignVCenter,
               qs(said(round)) + " px");
    p.setFont(Theme::words(11));
    p.setPen(t.second);
    p.drawText(QRectF(box.left() + 9, box.top() + 33, box.width() - 12, 15), Qt::AlignLeft | Qt::AlignVCenter,
               tr("streams"));
}

/// A net that lay square on the art before it was bent; `about`: only around a place of the screen.
void Table::drawNet(QPainter& p, bool left, const std::function<Vec2(Vec2)>& carried,
                    std::optional<QPointF> about, double radius) {
    const QRectF art = canvasOnScreen(left);
    p.save();
    QPainterPath clip;
    if (about)
        clip.addEllipse(*about, radius, radius);
    else
        clip.addRect(art);
    p.setClipPath(clip, Qt::IntersectClip);
    p.setRenderHint(QPainter::Antialiasing);
    // Around the hand seven meshes across, so that it shows how they bend.
    const double mesh = about ? std::max(2.0, 2 * radius / 7 / zoom_)
                              : std::max(4.0, std::round(1.2 * apart / zoom_)),
                 fine = mesh / 4;
    const Canvas& c = desk_.document.piece().canvas;
    Box over{0, 0, c.width, c.height};
    if (about) {
        const Vec2 m = toCanvas(*about);
        const double r = 1.6 * radius / zoom_;
        over = {m.x - r, m.y - r, m.x + r, m.y + r};
    }
    const auto line = [&](bool across, double at) {
        QPolygonF points;
        const double from = std::floor((across ? over.x0 : over.y0) / fine) * fine,
                     to = across ? over.x1 : over.y1;
        for (double s = from; s <= to + fine; s += fine) {
            const Vec2 q = carried(across ? Vec2{s, at} : Vec2{at, s});
            points << toScreen(q, left);
        }
        p.drawPolyline(points);
    };
    QColor warm = Theme::onArt();
    for (const bool under : {true, false}) {
        warm.setAlpha(about ? 210 : 170);
        p.setPen(under ? QPen(QColor(15, 18, 20, 90), 2.2) : QPen(warm, 1));
        for (double y = std::floor(over.y0 / mesh) * mesh; y <= over.y1; y += mesh) line(true, y);
        for (double x = std::floor(over.x0 / mesh) * mesh; x <= over.x1; x += mesh) line(false, x);
    }
    p.restore();
}

/// The net over all, while its key is held; and around the hand that pushes.
void Table::drawNets(QPainter& p, bool left) {
    if (net_)
        drawNet(
            p, left, [this](Vec2 q) { return streams() ? streams()->carried(q) : q; }, {}, 0);
    if (tool_ != Tool::paint || !works_on_drift(painter_.brush.work) || !pointer_ ||
        paneAt(*pointer_) != left)
        return;
    const auto drift = painter_.drift();
    drawNet(
        p, left, [&](Vec2 q) { return drift ? carried_by(drift, q, 1 / zoom_) : q; }, *pointer_,
        std::max(24.0, painter_.brush.size / 2 * zoom_ * 1.25));
}

// --- the corners of a perspective ---

void Table::paintCorners(QPainter& p, bool left) {
    const auto corners = cornersOf(desk_);
    if (!corners) return;
    QPolygonF frame;
    for (const Vec2 c : corners->at) frame << toScreen(c, left);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(15, 18, 20, 140), 2.6));
    p.drawPolygon(frame);
    p.setPen(QPen(QColor(253, 250, 242), 1));
    p.drawPolygon(frame);
    p.setBrush(QColor("#1b1f22"));
    for (const QPointF& c : frame) {
        p.setPen(QPen(Theme::onArt(), 1.4));
        QPolygonF diamond;
        diamond << c + QPointF(0, -6) << c + QPointF(6, 0) << c + QPointF(0, 6) << c + QPointF(-6, 0);
        p.drawPolygon(diamond);
    }
}

int Table::cornerAt(QPointF p) const {
    const auto corners = cornersOf(desk_);
    for (int i = 0; corners && i < 4; ++i) {
        const QPointF d = toScreen(corners->at[static_cast<std::size_t>(i)], paneAt(p)) - p;
        if (std::hypot(d.x(), d.y()) < 9) return i;
    }
    return -1;
}

void Table::dragCorner(QPointF p) {
    const auto corners = cornersOf(desk_);
    if (!corners) return;
    // A corner that would fold it over stays where it was.
    const auto now = corners->moved(handle_, toCanvas(p));
    if (!now) return;
    desk_.document.edit(tr("Move a corner"), [&](Piece& piece) {
        change_step(piece, corners->element, corners->step,
                    [&](Step& s) { s.what = Described(s.kind(), *now); });
    });
}

} // namespace bathylux
