// How tracks are drawn: as sections through time.
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/controls/controls.h"
#include "app/controls/movement.h"
#include "app/controls/theme.h"
#include "app/time/time_strip.h"
#include "app/time/time_view.h"

namespace bathylux {

void TimeView::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.save();
    p.setClipRect(QRectF(0, rulerHeightOf(), width(), height() - rulerHeightOf()));
    for (int i = 0; i < static_cast<int>(tracks_.size()); ++i)
        if (rowOf(i).bottom() > rulerHeightOf() && rowOf(i).top() < height()) paintTrack(p, i);
    if (hold_ == Hold::frame && dragged_) {
        QColor fill = t.accent;
        fill.setAlpha(40);
        p.fillRect(QRectF(pressed_, at_), fill);
        p.setPen(QPen(t.accent, 1));
        p.drawRect(QRectF(pressed_, at_).normalized());
    }
    p.restore();
    // How much of them is in sight.
    const double whole = rowHeightOf() * double(tracks_.size()), room = height() - rulerHeightOf();
    if (whole > room) {
        QColor bar = t.second;
        bar.setAlpha(150);
        p.fillRect(
            QRectF(width() - 5, rulerHeightOf() + scroll_ / whole * room + 1, 3, room / whole * room - 2),
            bar);
    }
    if (tracks_.empty()) {
        p.setFont(Theme::words(12));
        p.setPen(t.second);
        p.drawText(plot().adjusted(0, 0, 0, -8), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("Nothing moves yet: press the ring beside a number, or K on it, to set a key."));
    }
    paintRuler(p);
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

int TimeView::rulerHeightOf() { return 26; }
int TimeView::rowHeightOf() { return 46; }

void TimeView::paintRuler(QPainter& p) {
    const Theme& t = Theme::current();
    const QRectF r = plot();
    const int n = std::max(1, strip_.frames());
    p.setFont(Theme::words());
    p.setPen(t.accent);
    p.drawText(QRectF(14, 0, r.left() - 14, rulerHeightOf()), Qt::AlignVCenter | Qt::AlignLeft,
               tr("+ Track"));
    // The baseline fills where frames are ready.
    const double base = rulerHeightOf() - 3.5;
    const auto [first, last] = strip_.range();
    p.setPen(QPen(t.line, 2));
    p.drawLine(QPointF(r.left(), base), QPointF(r.right(), base));
    p.setPen(QPen(t.depth, 3, Qt::SolidLine, Qt::FlatCap));
    for (int f = 0; f < n; ++f)
        if (desk_.ready.has(f)) p.drawLine(QPointF(xOf(f), base), QPointF(xOf(f + 1), base));
    if (first > 0 || last < n - 1) {
        QColor away = t.window;
        away.setAlpha(170);
        p.fillRect(QRectF(r.left(), 0, xOf(first) - r.left(), rulerHeightOf()), away);
        p.fillRect(QRectF(xOf(last + 1), 0, r.right() - xOf(last + 1), rulerHeightOf()), away);
        p.setPen(QPen(t.accent, 1));
        for (const int f : {first, last + 1}) p.drawLine(QPointF(xOf(f), 14), QPointF(xOf(f), base));
    }
    p.setFont(Theme::numbers(10));
    double step = 1;
    const double px = r.width() / n;
    for (const double s :
         {1.0, 2.0, 6.0, 12.0, 24.0, 48.0, 120.0, 240.0, 480.0, 1200.0, 2400.0, 12000.0, 120000.0})
        if (s * px >= 44 || s == 120000.0) {
            step = s;
            break;
        }
    p.setPen(QPen(t.second, 1));
    for (double f = 0; f <= n; f += step) {
        p.drawLine(QPointF(xOf(f), 14), QPointF(xOf(f), 19));
        if (f + step > n && f != n && n - f < step * 0.6) continue;
        p.drawText(QRectF(xOf(f) - 24, 0, 48, 13), Qt::AlignCenter, strip_.told(f));
    }
    // Where it stands.
    const double x = xOf(desk_.document.frame());
    p.setPen(QPen(t.accent, 1.5));
    p.drawLine(QPointF(x, 14), QPointF(x, height()));
    QPainterPath head;
    head.moveTo(x - 5, 13);
    head.lineTo(x + 5, 13);
    head.lineTo(x, 21);
    head.closeSubpath();
    p.fillPath(head, t.accent);
}

void TimeView::paintTrack(QPainter& p, int i) {
    const Theme& t = Theme::current();
    const Track& track = tracks_[static_cast<std::size_t>(i)];
    const QRectF row = rowOf(i);
    const QRectF r = QRectF(plot().left(), row.top(), plot().width(), row.height());
    const bool open = track.path == open_;
    if (open) p.fillRect(row.adjusted(0, 1, 0, -1), t.selection);
    p.setPen(QPen(t.line, 1));
    p.drawLine(row.bottomLeft(), row.bottomRight());
    // Its name, what of it, and how much now.
    const Piece& piece = desk_.document.piece();
    p.setFont(Theme::words());
    p.setPen(t.text);
    const QString now = track.kind == Track::Kind::clip ? QString()
                        : track.color                   ? QString()
                                                        : figure(i, [&] {
                                            const NumberThere v = number_there(piece, track.path);
                                            return v.parameter ? std::get<double>(v.value) : 0.0;
                                        }());
    p.setFont(Theme::numbers(12));
    const int wide = p.fontMetrics().horizontalAdvance(now);
    p.setPen(open ? t.accent : t.text);
    p.drawText(QRectF(r.left() - wide - 16, row.top() + 5, wide + 4, 18), Qt::AlignRight | Qt::AlignVCenter,
               now);
    p.setFont(Theme::words());
    p.setPen(t.text);
    const double room = r.left() - 14 - wide - 22;
    p.drawText(QRectF(14, row.top() + 5, room, 18), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(track.name, Qt::ElideRight, static_cast<int>(room)));
    p.setFont(Theme::words(11));
    const QString follows_what = follows(piece, track.path);
    p.setPen(follows_what.isEmpty() ? t.second : t.accent);
    const QString under = follows_what.isEmpty() ? track.what : follows_what;
    p.drawText(QRectF(14, row.top() + 22, r.left() - 26, 16), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(under, Qt::ElideRight, static_cast<int>(r.left() - 26)));

    if (track.kind == Track::Kind::clip) return paintClip(p, i);
    const Keys* keys = keysOf(i);
    if (track.color && keys) {
        // Colours as they run.
        const QRectF band(r.left(), row.top() + 20, r.width(), 12);
        const int steps = std::max(2, static_cast<int>(band.width() / 3));
        for (int k = 0; k < steps; ++k) {
            const double f = frameAt(band.left() + (k + 0.5) * band.width() / steps);
            p.fillRect(QRectF(band.left() + k * band.width() / steps, band.top(), band.width() / steps + 1,
                              band.height()),
                       toQt(std::get<Color>(keys->at(f))));
        }
    } else {
        const Reach reach = reachOf(i);
        const QRectF body = row.adjusted(0, 14, 0, -6);
        const auto y = [&](double v) {
            return body.bottom() - (v - reach.low) / (reach.high - reach.low) * body.height();
        };
        QPainterPath top;
        const int steps = track.kind == Track::Kind::link ? std::clamp(strip_.frames(), 2, 96)
                                                          : std::max(2, static_cast<int>(r.width() / 2));
        for (int k = 0; k <= steps; ++k) {
            const double x = r.left() + r.width() * k / steps;
            const QPointF q(x, y(valueAt(i, frameAt(x))));
            k == 0 ? top.moveTo(q) : top.lineTo(q);
        }
        QPainterPath area = top;
        area.lineTo(r.right(), row.bottom() - 2), area.lineTo(r.left(), row.bottom() - 2);
        area.closeSubpath();
        QColor fill = t.depth;
        fill.setAlpha(56);
        p.fillPath(area, fill);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(t.depth, 1.5, track.kind == Track::Kind::link ? Qt::DashLine : Qt::SolidLine));
        p.drawPath(top);
    }
    if (!keys) return;
    if (const auto stretch = bent(); stretch && stretch->first == i) {
        const auto ends = bendPoints(i, stretch->second);
        const QPointF from = pointOf(i, keys->list[stretch->second]),
                      to = pointOf(i, keys->list[stretch->second + 1]);
        p.setPen(QPen(t.accent, 1));
        p.drawLine(from, ends[0]), p.drawLine(to, ends[1]);
        p.setBrush(t.accent);
        for (const QPointF& q : ends) p.drawEllipse(q, 3.2, 3.2);
        p.setFont(Theme::words(11));
        p.setPen(t.second);
        const QString says =
            QString::fromStdString(to_string(keys->list[stretch->second].easing)).replace("-", " ");
        const double middle = (from.x() + to.x()) / 2;
        p.drawText(QRectF(middle - 90, row.bottom() - 18, 180, 14), Qt::AlignCenter, says);
    }
    p.setFont(Theme::soundings(12));
    double written = -1e9; // where the last figure ended
    for (const Key& k : keys->list) {
        const QPointF q = pointOf(i, k);
        const bool chosen = chosen_.contains({track.path, k.frame});
        p.setPen(QPen(chosen ? t.accent : t.text, 1.5));
        p.setBrush(chosen ? t.accent : t.well);
        p.drawEllipse(q, 4, 4);
        if (track.color) continue;
        const QString says = figure(i, std::get<double>(k.value));
        const double w = p.fontMetrics().horizontalAdvance(says);
        double x = q.x() + 7;
        if (x + w > r.right() + 18) x = q.x() - 7 - w;
        if (x < written + 6) continue; // no room: its place says enough
        written = x + w;
        p.setPen(chosen ? t.accent : t.text);
        p.drawText(QPointF(x, std::clamp(q.y() - 5, row.top() + 11, row.bottom() - 4)), says);
    }
}

void TimeView::paintClip(QPainter& p, int i) {
    const Theme& t = Theme::current();
    const auto clip = clipOf(i);
    if (!clip) return;
    const QRectF row = rowOf(i);
    const double right = plot().right();
    const QRectF bar(QPointF(std::clamp(xOf(clip->from), plot().left(), right), row.top() + 11),
                     QPointF(std::clamp(xOf(clip->to), plot().left(), right), row.bottom() - 11));
    QColor fill = t.depth;
    fill.setAlpha(110);
    p.setPen(QPen(t.depth, 1.2));
    p.setBrush(fill);
    p.drawRect(bar);
    p.setPen(QPen(t.text, 2));
    for (const double x : {bar.left() + 1.5, bar.right() - 1.5})
        p.drawLine(QPointF(x, bar.top() + 4), QPointF(x, bar.bottom() - 4));
    p.setFont(Theme::numbers(11));
    p.setPen(t.text);
    QString says = tr("%1 s to %2 s").arg(clip->in, 0, 'f', 2).arg(clip->out, 0, 'f', 2);
    if (clip->speed != 1) says += QString::fromUtf8(" × %1").arg(clip->speed).replace('-', QChar(0x2212));
    if (bar.width() > 90)
        p.drawText(bar.adjusted(10, 0, -8, 0), Qt::AlignVCenter | Qt::AlignLeft,
                   p.fontMetrics().elidedText(says, Qt::ElideRight, static_cast<int>(bar.width()) - 18));
}

} // namespace bathylux
