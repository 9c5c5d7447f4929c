// What the table shows. See table.cpp for where things are, table_tools.cpp for what the hand does.
#include <QPainter>
#include <QPainterPath>

#include "app/controls/theme.h"
#include "app/table/table.h"
#include "core/light/lamp.h"
#include "core/light/lights.h"
#include "core/render/develop.h"
#include "core/render/sounding.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// A round distance between ruler ticks that are at least `least` px apart on screen.
double tickStep(double zoom, double least) {
    const double rough = least / zoom, power = std::pow(10.0, std::floor(std::log10(rough)));
    for (double k : {1.0, 2.0, 5.0, 10.0})
        if (k * power >= rough) return k * power;
    return 10 * power;
}

QRectF screenRect(const Table& t, const Frame& f, bool left) {
    const double k = 1 / f.shot.scale;
    return {t.toScreen({f.shot.region.x0 * k, f.shot.region.y0 * k}, left),
            t.toScreen({f.shot.region.x1 * k, f.shot.region.y1 * k}, left)};
}

} // namespace

void Table::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.fillRect(rect(), t.window);
    if (layout_ == Layout::beside) {
        for (const bool left : {true, false}) {
            p.save();
            p.setClipRect(pane(left));
            paintPane(p, left);
            p.restore();
        }
        p.setPen(t.line);
        const QRect r = pane(false);
        if (r.left() > pane(true).left())
            p.drawLine(r.topLeft(), r.bottomLeft());
        else
            p.drawLine(r.topLeft(), r.topRight());
    } else {
        const double seam = seamX();
        p.save();
        p.setClipRect(QRectF(0, 0, seam, height()));
        paintPane(p, true);
        p.restore();
        p.save();
        p.setClipRect(QRectF(seam, 0, width() - seam, height()));
        paintPane(p, false);
        p.restore();
    }
    paintLegend(p);
    for (const bool left : {true, false}) paintKeyBall(p, left);
    if (layout_ == Layout::seam) paintSeam(p);
    paintChosenFrame(p);
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.drawLine(0, namesHeight_, width(), namesHeight_);
    }
}

void Table::paintPane(QPainter& p, bool left) {
    const Theme& t = Theme::current();
    const QRectF art = canvasOnScreen(left);
    p.fillRect(art.adjusted(-12, -12, 12, 12), t.well);
    // See-through ground shows as a fine check.
    if (desk_.document.piece().canvas.background.a < 1) {
        p.save();
        p.setClipRect(art, Qt::IntersectClip);
        p.fillRect(art, t.dark ? QColor("#2b3135") : QColor("#dcd8cd"));
        const QColor other = t.dark ? QColor("#23282b") : QColor("#e8e4da");
        for (int y = 0; y * 8 < art.height(); ++y)
            for (int x = y % 2; x * 8 < art.width(); x += 2)
                p.fillRect(QRectF(art.left() + x * 8, art.top() + y * 8, 8, 8), other);
        p.restore();
    }
    p.save();
    p.setClipRect(art, Qt::IntersectClip);
    // A picture of the whole beneath, so that nothing is bare while what is in sight is made.
    for (const Frame* f : {whole_ == newest_ ? nullptr : whole_.get(), newest_.get()}) {
        if (!f) continue;
        const QImage& image = left ? f->left : f->right;
        const double shown = zoom_ / f->shot.scale * devicePixelRatioF();
        // Beyond twice its size a pixel is shown as the square it is.
        p.setRenderHint(QPainter::SmoothPixmapTransform, shown < 1.999 && std::abs(shown - 1) > 1e-3);
        p.drawImage(screenRect(*this, *f, left), image);
    }
    p.restore();
    paintRulers(p, left);
    const View view = left ? left_ : right_;
    if (view == View::height && !grey_) paintSoundings(p);
    if (view == View::height) paintStreams(p, left), paintWorn(p, left);
    drawNets(p, left);
    const SectionLine* line = desk_.document.piece().section ? &*desk_.document.piece().section : nullptr;
    if (line || tool_ == Tool::section) paintSection(p, left);
    p.setRenderHint(QPainter::Antialiasing);
    const Piece& piece = desk_.document.piece();
    p.setPen(QPen(t.depth, 1, Qt::DashLine));
    for (float g : piece.guides_x)
        p.drawLine(QPointF(toScreen({g, 0}, left).x(), 0), QPointF(toScreen({g, 0}, left).x(), height()));
    for (float g : piece.guides_y)
        p.drawLine(QPointF(0, toScreen({0, g}, left).y()), QPointF(width(), toScreen({0, g}, left).y()));
    paintMissing(p, left);
    if (tool_ == Tool::place) paintFrame(p, left), paintCorners(p, left);
    if (tool_ == Tool::light || (view == View::lit && tool_ == Tool::place)) paintLamps(p);
    if (tool_ == Tool::crop) paintCrop(p);
    if (tool_ == Tool::paint) paintBrush(p, left);
    if (join_) {
        // The join itself, drawn where it now lies.
        p.setPen(QPen(t.signal, 1, Qt::DotLine));
        p.drawLine(QPointF(art.center().x(), art.top()), QPointF(art.center().x(), art.bottom()));
        p.drawLine(QPointF(art.left(), art.center().y()), QPointF(art.right(), art.center().y()));
    }
    if (ring_.at()) PlaceRing::paint(p, toScreen(*ring_.at(), left));
}

void Table::paintRulers(QPainter& p, bool left) {
    const Theme& t = Theme::current();
    const QRectF art = canvasOnScreen(left);
    const double step = tickStep(zoom_, 50);
    const Canvas& c = desk_.document.piece().canvas;
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setFont(Theme::numbers(10));
    const int fine = 5;
    for (int i = 0; i * step / fine <= c.width + 1e-6; ++i) {
        const double x = std::round(toScreen({i * step / fine, 0}, left).x()) + 0.5;
        if (x < 0 || x > width()) continue;
        const bool major = i % fine == 0;
        p.setPen(major ? t.second : t.line);
        p.drawLine(QPointF(x, art.top() - 13), QPointF(x, art.top() - (major ? 19 : 16)));
    }
    for (int i = 0; i * step / fine <= c.height + 1e-6; ++i) {
        const double y = std::round(toScreen({0, i * step / fine}, left).y()) + 0.5;
        if (y < field().top() || y > height()) continue;
        const bool major = i % fine == 0;
        p.setPen(major ? t.second : t.line);
        p.drawLine(QPointF(art.left() - 13, y), QPointF(art.left() - (major ? 19 : 16), y));
    }
}

void Table::paintSoundings(QPainter& p) {
    const auto& f = newest_;
    if (!f || !f->relief) return;
    // Where the ground is level, about a hand apart on screen; found anew when the picture is.
    if (marks_.empty() && !f->shot.coarse) {
        const Canvas& c = desk_.document.piece().canvas;
        const double apart = 132 / zoom_;
        int row = 0;
        for (double y = apart * 0.5; y < c.height; y += apart, ++row)
            for (double x = apart * (row % 2 ? 0.75 : 0.35); x < c.width; x += apart) {
                double best = 90;
                Vec2 at;
                float height = 0;
                for (const Vec2 o : {Vec2{0, 0}, {0.22, 0.1}, {-0.2, 0.16}, {0.1, -0.22}, {-0.14, -0.18}}) {
                    const Vec2 q{x + o.x * apart, y + o.y * apart};
                    if (q.x < 0 || q.y < 0 || q.x >= c.width || q.y >= c.height) continue;
                    const auto s = sound(*f->relief, f->shot.scale, c.edge, q);
                    if (s && s->slope < best) best = s->slope, at = q, height = s->height;
                }
                if (best < 12)
                    marks_.push_back(
                        {at,
                         QString::number(height, 'f', std::abs(f->range.second - f->range.first) > 40 ? 0 : 1)
                             .replace('-', QChar(0x2212))});
            }
        if (marks_.empty()) marks_.push_back({{-1e6, -1e6}, {}});
    }
    p.setFont(Theme::soundings(12));
    for (const Mark& m : marks_) {
        const QPointF s = toScreen(m.at, true);
        if (layout_ == Layout::seam && std::abs(s.x() + 2 - seamX()) < 20) continue; // it would be cut in two
        if (legend().adjusted(-16, -8, 12, 8).contains(s.toPoint())) continue;
        const auto sounding =
            m.text.isEmpty() ? std::nullopt : sound(*f->relief, f->shot.scale, Edge::clamp, m.at);
        if (!sounding) continue;
        const float share =
            (sounding->height - f->range.first) / std::max(1e-6f, f->range.second - f->range.first);
        p.setPen(share < 0.42f ? QColor(255, 250, 235, 190) : QColor(20, 34, 36, 205));
        p.drawText(s + QPointF(-10, 4), m.text);
    }
}

QRect Table::legend() const {
    const bool onLeft = left_ == View::height && layout_ != Layout::right,
               onRight = right_ == View::height && layout_ != Layout::left;
    if (!newest_ || (!onLeft && !onRight) || newest_->range.second - newest_->range.first < 1e-4f) return {};
    const QRect f = pane(onLeft);
    return onLeft ? QRect(f.left() + 12, f.bottom() - 112, 58, 100)
                  : QRect(f.right() - 70, f.bottom() - 112, 58, 100);
}

void Table::paintLegend(QPainter& p) {
    const Theme& t = Theme::current();
    const QRect box = legend();
    if (box.isEmpty()) return;
    const auto [low, high] = newest_->range;
    p.setRenderHint(QPainter::Antialiasing, false);
    QColor ground = t.well;
    ground.setAlpha(235);
    p.fillRect(box, ground);
    const QRect bar(box.left() + 9, box.top() + 10, 9, box.height() - 20);
    for (int y = 0; y < bar.height(); ++y) {
        const float v = 1 - (y + 0.5f) / bar.height();
        const int grey = qRound(255 * v);
        p.fillRect(bar.left(), bar.top() + y, bar.width(), 1,
                   grey_ ? QColor(grey, grey, grey) : QColor::fromRgb(depth_tint(v)));
    }
    p.setFont(Theme::numbers(11));
    const double step = 2 * newest_->contourStep;
    for (double h = std::ceil(low / step) * step; h <= high + 1e-6; h += step) {
        const double y = bar.bottom() - (h - low) / (high - low) * (bar.height() - 1);
        p.setPen(t.second);
        p.drawLine(QPointF(bar.right() + 2, y), QPointF(bar.right() + 5, y));
        p.setPen(t.text);
        p.drawText(QRectF(bar.right() + 8, y - 7, 34, 14), Qt::AlignLeft | Qt::AlignVCenter,
                   QString::fromStdString(said(h)).replace('-', QChar(0x2212)));
    }
}

void Table::paintMissing(QPainter& p, bool left) {
    // What cannot be shown keeps its place, with its name.
    if (!newest_ || !newest_->assets) return;
    const Theme& t = Theme::current();
    for (const auto& [id, asset] : *newest_->assets) {
        const Element* e = find_element(desk_.document.piece().elements, id);
        const auto parent = e ? parent_placed(desk_.document.piece(), id) : std::nullopt;
        if (!parent || asset->trouble.empty() || asset->picture || !asset->layers.empty() || !e->mix.visible)
            continue;
        const Affine m = parent->to_device * e->placement.matrix();
        QPolygonF box;
        for (const Vec2 q : {Vec2{-120, -80}, {120, -80}, {120, 80}, {-120, 80}}) box << toScreen(m(q), left);
        p.setBrush(QColor(27, 31, 34, 150));
        p.setPen(QPen(t.signal, 1.4, Qt::DashLine));
        p.drawPolygon(box);
        p.setPen(QColor("#eae4d6"));
        p.setFont(Theme::words(12));
        const QRectF r = box.boundingRect();
        p.drawText(r.adjusted(-60, 0, 60, 0), Qt::AlignCenter, nameOf(*e) + "\n" + tr("its file is missing"));
    }
}

void Table::paintKeyBall(QPainter& p, bool left) {
    // A ball whose every place has the colour of a surface that leans that way.
    if ((left ? left_ : right_) != View::normals || layout_ == (left ? Layout::right : Layout::left)) return;
    const Theme& t = Theme::current();
    constexpr int side = 58;
    static const QImage ball = [] {
        constexpr int n = 2 * (side - 14);
        QImage image(n, n, QImage::Format_ARGB32_Premultiplied);
        image.fill(Qt::transparent);
        for (int j = 0; j < n; ++j)
            for (int i = 0; i < n; ++i) {
                const double x = (i + 0.5) / n * 2 - 1, y = 1 - (j + 0.5) / n * 2, d = x * x + y * y;
                if (d >= 1) continue;
                const auto byte = [](double v) { return static_cast<int>(std::lround(127.5 + 127.5 * v)); };
                image.setPixelColor(i, j, QColor(byte(x), byte(y), byte(std::sqrt(1 - d))));
            }
        return image;
    }();
    const QRect f = layout_ == Layout::beside ? pane(left) : field();
    const QRect box = left ? QRect(f.left() + 12, f.bottom() - side - 12, side, side)
                           : QRect(f.right() - side - 12, f.bottom() - side - 12, side, side);
    QColor ground = t.well;
    ground.setAlpha(235);
    p.fillRect(box, ground);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.drawImage(QRectF(box).adjusted(7, 7, -7, -7), ball);
}

void Table::paintSection(QPainter& p, bool left) {
    const Theme& t = Theme::current();
    if (!desk_.document.piece().section) return;
    const auto& s = *desk_.document.piece().section;
    const QPointF a = toScreen(s.a, left), b = toScreen(s.b, left);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(QColor(20, 24, 26, 150), 3));
    p.drawLine(a, b);
    p.setPen(QPen(Theme::onArt(), 1.2, Qt::DashLine));
    p.drawLine(a, b);
    const QPointF d = b - a;
    const double len = std::max(1.0, std::hypot(d.x(), d.y()));
    p.setFont(Theme::words(13, QFont::DemiBold));
    for (const auto& [at, name, side] : {std::tuple{a, "A", -1.0}, {b, "B", 1.0}}) {
        p.setBrush(t.well);
        p.setPen(QPen(Theme::onArt(), 1.8));
        p.drawEllipse(at, 4, 4);
        const QPointF label = at + QPointF(d.x() / len * side * 15, d.y() / len * side * 15);
        p.drawText(QRectF(label.x() - 10, label.y() - 10, 20, 20), Qt::AlignCenter, name);
    }
}

/// What one press would cover, as light over the art with a dark rim, so that it is seen on any ground.
void Table::paintTip(QPainter& p, QPointF at, double radius) {
    const auto& tip = painter_.brush.tip;
    const int side = std::clamp(static_cast<int>(std::lround(2 * radius)), 2, 512);
    if (tip_.of != tip || tip_.side != side) {
        tip_ = {tip, side, QImage(side, side, QImage::Format_ARGB32_Premultiplied)};
        const auto cover = [&](double x, double y) {
            const auto s = static_cast<float>(side);
            return tip->at(static_cast<float>(2 * x) / s - 1, static_cast<float>(2 * y) / s - 1, s);
        };
        for (int y = 0; y < side; ++y) {
            auto* row = reinterpret_cast<QRgb*>(tip_.picture.scanLine(y));
            for (int x = 0; x < side; ++x) {
                const float c = cover(x + 0.5, y + 0.5);
                const float slope = std::abs(cover(x + 1.5, y + 0.5) - cover(x - 0.5, y + 0.5)) +
                                    std::abs(cover(x + 0.5, y + 1.5) - cover(x + 0.5, y - 0.5));
                const int dark = qRound(120 * std::min(1.0f, slope)), light = qRound(90 * c);
                row[x] = qRgba(light * 253 / 255, light * 250 / 255, light * 242 / 255,
                               std::min(255, light + dark));
            }
        }
    }
    p.drawImage(QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius), tip_.picture);
}

void Table::paintBrush(QPainter& p, bool left) {
    if (painter_.mirrorAcross || painter_.mirrorDown)
        if (const auto axes = painter_.axes()) {
            const QPointF at = toScreen(*axes, left);
            p.setPen(QPen(Theme::onArt(), 1, Qt::DashDotLine));
            if (painter_.mirrorAcross) p.drawLine(QPointF(at.x(), field().top()), QPointF(at.x(), height()));
            if (painter_.mirrorDown) p.drawLine(QPointF(0, at.y()), QPointF(width(), at.y()));
        }
    if (!pointer_ || paneAt(*pointer_) != left) return;
    p.setBrush(Qt::NoBrush);
    const double r = std::max(1.0, painter_.brush.size / 2 * zoom_);
    if (painter_.brush.tip) paintTip(p, *pointer_, r);
    // Its rim, and within it how far it is full.
    for (const auto& [radius, alpha] : {std::pair{r, 255}, {r * painter_.brush.hardness, 110}}) {
        if (radius < 1 || (painter_.brush.tip && radius < r)) continue;
        p.setPen(QPen(QColor(15, 18, 20, alpha * 3 / 4), 2.6));
        p.drawEllipse(*pointer_, radius, radius);
        QColor light(253, 250, 242, alpha);
        p.setPen(QPen(light, 1.1));
        p.drawEllipse(*pointer_, radius, radius);
    }
    p.setPen(QPen(QColor(253, 250, 242), 1));
    p.drawPoint(*pointer_);
}

void Table::paintFrame(QPainter& p, bool left) {
    const Theme& t = Theme::current();
    const QStringList& chosen = desk_.document.chosen();
    if (chosen.isEmpty() || !newest_) return;
    const Placing placing = placing_of(desk_.scene(), toIds(chosen));
    if (placing.empty()) return;
    const bool held = !movable().empty(); // what is locked has a frame and no handles
    QPolygonF outline;
    for (int i = 0; i < 8; i += 2) outline << toScreen(placing.handle(i, 0), left);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(15, 18, 20, 140), 2.6));
    p.drawPolygon(outline);
    p.setPen(QPen(Theme::onArt(), 1));
    p.drawPolygon(outline);
    if (!held) return;
    const QPointF turn = toScreen(placing.handle(8, 22 / zoom_), left),
                  top = toScreen(placing.handle(1, 0), left);
    p.drawLine(top, turn);
    p.setBrush(QColor("#1b1f22"));
    // On a small frame the sides' handles would hide what is in it.
    const QRectF extent = outline.boundingRect();
    const bool small = std::min(extent.width(), extent.height()) < 44;
    for (int i = 0; i < 8; i += small ? 2 : 1) {
        const QPointF h = toScreen(placing.handle(i, 0), left);
        p.drawRect(QRectF(h.x() - 3.5, h.y() - 3.5, 7, 7));
    }
    p.drawEllipse(turn, 4.5, 4.5);
    p.setPen(QPen(t.depth, 1.4));
    for (const QLineF& l : snapped_)
        p.drawLine(toScreen({l.x1(), l.y1()}, left), toScreen({l.x2(), l.y2()}, left));
    if (small && !pivot_) return;
    p.setPen(QPen(Theme::onArt(), 1));
    const QPointF pivot = toScreen(pivot_.value_or(placing.centre()), left);
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(pivot, 4, 4);
    p.drawLine(pivot - QPointF(7, 0), pivot + QPointF(7, 0));
    p.drawLine(pivot - QPointF(0, 7), pivot + QPointF(0, 7));
}

/// The frame that is drawn round several on empty ground.
void Table::paintChosenFrame(QPainter& p) {
    if (hold_ != Hold::frame || !moved_) return;
    const QRectF r = QRectF(pressed_, last_).normalized();
    QColor wash = Theme::current().accent;
    wash.setAlpha(36);
    p.setBrush(wash);
    p.setPen(QPen(Theme::current().accent, 1));
    p.drawRect(r);
}

void Table::paintCrop(QPainter& p) {
    const Theme& t = Theme::current();
    const QRectF inner(toScreen({double(crop_.x0), double(crop_.y0)}),
                       toScreen({double(crop_.x1), double(crop_.y1)}));
    QPainterPath shade;
    shade.addRect(field());
    shade.addRect(inner);
    p.fillPath(shade, QColor(12, 15, 17, 150));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(Theme::onArt(), 1.4));
    p.drawRect(inner);
    p.setBrush(t.well);
    for (const QPointF h :
         {inner.topLeft(), inner.topRight(), inner.bottomLeft(), inner.bottomRight(),
          QPointF(inner.center().x(), inner.top()), QPointF(inner.center().x(), inner.bottom()),
          QPointF(inner.left(), inner.center().y()), QPointF(inner.right(), inner.center().y())})
        p.drawRect(QRectF(h.x() - 4, h.y() - 4, 8, 8));
    const Canvas& c = desk_.document.piece().canvas;
    const QString text = tr("%1 × %2 px · %3 × %4 mm    Return crops, Esc leaves it")
                             .arg(crop_.width())
                             .arg(crop_.height())
                             .arg(said(crop_.width() / c.px_per_mm).c_str())
                             .arg(said(crop_.height() / c.px_per_mm).c_str());
    p.setFont(Theme::words(12));
    const QRectF box(inner.left(), std::max(inner.top() - 26.0, field().top() + 4.0),
                     p.fontMetrics().horizontalAdvance(text) + 16, 22);
    p.fillRect(box, QColor(23, 27, 30, 230));
    p.setPen(QColor("#eae4d6"));
    p.drawText(box, Qt::AlignCenter, text);
}

void Table::paintSeam(QPainter& p) {
    const Theme& t = Theme::current();
    const double x = std::round(seamX()) + 0.5;
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(QColor(15, 18, 20, 140), 3));
    p.drawLine(QPointF(x, 4), QPointF(x, height() - 10));
    p.setPen(QPen(t.dark ? t.text : QColor("#f6f3ec"), 1.2));
    p.drawLine(QPointF(x, 4), QPointF(x, height() - 10));
    QPainterPath grip;
    grip.moveTo(x - 7, height() - 18);
    grip.lineTo(x + 7, height() - 18);
    grip.lineTo(x, height() - 8);
    grip.closeSubpath();
    p.setPen(QPen(QColor(15, 18, 20, 160), 1));
    p.setBrush(t.dark ? t.text : QColor("#23282b"));
    p.drawPath(grip);
}

} // namespace bathylux
