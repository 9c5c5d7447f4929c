#include "app/controls/profile_editor.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <utility>

#include "app/controls/theme.h"
#include "app/controls/tone_window.h"

namespace bathylux {

namespace {

constexpr float point_gap = 0.005f; // points of a curve stay so far apart across

constexpr int shapes = 7; // six by name, then one's own
const Profile ownStart() {
    Profile p(Profile::Shape::own);
    p.points = {{0, 0}, {0.35f, 0.55f}, {1, 1}};
    p.smooth = true;
    return p;
}

QPainterPath drawn(const std::function<float(float)>& curve, const QRectF& r) {
    QPainterPath path;
    for (int i = 0; i <= 48; ++i) {
        const float t = static_cast<float>(i) / 48;
        const QPointF p(r.left() + t * r.width(), r.bottom() - curve(t) * r.height());
        if (i == 0)
            path.moveTo(p);
        else
            path.lineTo(p);
    }
    return path;
}

} // namespace

ProfileStrip::ProfileStrip(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(30);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void ProfileStrip::setProfile(const Profile& profile) {
    profile_ = profile;
    const int i = static_cast<int>(profile.shape);
    setAccessibleDescription(
        i < 6 ? QString::fromUtf8(profile_names[i].data(), static_cast<qsizetype>(profile_names[i].size()))
              : tr("own curve"));
    update();
}

QRect ProfileStrip::cell(int i) const {
    const int gap = 4, w = (width() - gap * (shapes - 1)) / shapes;
    return {i * (w + gap), 1, w, 27};
}

void ProfileStrip::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    for (int i = 0; i < shapes; ++i) {
        const bool on = i == static_cast<int>(profile_.shape);
        const QRect c = cell(i);
        p.setRenderHint(QPainter::Antialiasing, false);
        p.fillRect(c, on ? t.selection : t.well);
        if (on) {
            p.setPen(hasFocus() ? t.text : t.accent);
            p.drawRect(c.adjusted(0, 0, -1, -1));
        }
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(on ? t.accent : t.second, 1.6));
        const QRectF r = QRectF(c).adjusted(7, 7, -7, -7);
        p.drawPath(drawn(ProfileCurve(i < 6 ? Profile(static_cast<Profile::Shape>(i))
                                      : on  ? profile_
                                            : ownStart()),
                         r));
        if (i == 6) // one's own shows its points
            for (const auto& [x, y] : (on ? profile_ : ownStart()).points) {
                p.setBrush(on ? t.accent : t.second);
                p.setPen(Qt::NoPen);
                p.drawEllipse(QPointF(r.left() + x * r.width(), r.bottom() - y * r.height()), 1.8, 1.8);
                p.setBrush(Qt::NoBrush);
            }
    }
}

void ProfileStrip::pick(int i) {
    if (i < 0 || i >= shapes || i == static_cast<int>(profile_.shape)) return;
    emit picked(i < 6 ? Profile(static_cast<Profile::Shape>(i)) : ownStart());
}

void ProfileStrip::mouseReleaseEvent(QMouseEvent* e) {
    for (int i = 0; i < shapes; ++i)
        if (cell(i).contains(e->pos())) pick(i);
}

void ProfileStrip::keyPressEvent(QKeyEvent* e) {
    const int now = static_cast<int>(profile_.shape);
    if (e->key() == Qt::Key_Right)
        pick(std::min(shapes - 1, now + 1));
    else if (e->key() == Qt::Key_Left)
        pick(std::max(0, now - 1));
    else
        QWidget::keyPressEvent(e);
}

bool ProfileStrip::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        for (int i = 0; i < shapes; ++i)
            if (cell(i).contains(help->pos()))
                QToolTip::showText(help->globalPos(),
                                   i < 6 ? QString::fromUtf8(profile_names[i].data(),
                                                             static_cast<qsizetype>(profile_names[i].size()))
                                         : tr("own curve"),
                                   this);
        return true;
    }
    return QWidget::event(e);
}

CurveEditor::CurveEditor(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(120);
    setAccessibleName(tr("Own profile"));
    setToolTip(tr("Drag points; click for a new one; double-click takes one away"));
}

void CurveEditor::setPoints(const Points& points) {
    Profile own(Profile::Shape::own);
    own.points = points;
    monotone_ = true;
    setProfile(own);
}

void CurveEditor::setCounts(std::vector<int> counts) {
    counts_ = std::move(counts);
    update();
}

void CurveEditor::setProfile(const Profile& profile) {
    profile_ = profile;
    chosen_ = std::min(chosen_, static_cast<int>(profile_.points.size()) - 1);
    update();
}

QRectF CurveEditor::field() const { return QRectF(rect()).adjusted(8, 14, -8, -14); }

QPointF CurveEditor::toScreen(std::pair<float, float> p) const {
    const QRectF r = field();
    return {r.left() + p.first * r.width(), r.bottom() - p.second * r.height()};
}

void CurveEditor::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.fillRect(rect(), t.well);
    if (hasFocus()) {
        p.setPen(t.accent);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
    const QRectF r = field();
    if (!counts_.empty()) p.fillPath(histogramShape(counts_, r.adjusted(0, 0.1 * r.height(), 0, 0)), t.line);
    p.setPen(QPen(t.line, 1));
    for (int i = 0; i <= 4; ++i) {
        p.drawLine(QPointF(r.left() + r.width() * i / 4, r.top()),
                   QPointF(r.left() + r.width() * i / 4, r.bottom()));
        p.drawLine(QPointF(r.left(), r.top() + r.height() * i / 4),
                   QPointF(r.right(), r.top() + r.height() * i / 4));
    }
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(monotone_ ? t.text : t.depth, 1.8)); // sea green is depth's
    p.drawPath(monotone_ ? drawn(MonotoneCurve(profile_.points), r) : drawn(ProfileCurve(profile_), r));
    for (int i = 0; i < static_cast<int>(profile_.points.size()); ++i) {
        p.setPen(QPen(t.text, 1));
        p.setBrush(i == chosen_ && hasFocus() ? t.accent : t.well);
        p.drawEllipse(toScreen(profile_.points[i]), 4, 4);
    }
}

int CurveEditor::pointAt(QPointF at) const {
    for (int i = 0; i < static_cast<int>(profile_.points.size()); ++i)
        if (const QPointF d = toScreen(profile_.points[i]) - at; d.x() * d.x() + d.y() * d.y() < 100)
            return i;
    return -1;
}

void CurveEditor::movePoint(int i, float x, float y) {
    auto& points = profile_.points;
    const int last = static_cast<int>(points.size()) - 1;
    if (i < 0 || i > last) return;
    // The ends stay at the ends; between its neighbours a point moves freely.
    const float low = i == 0      ? 0
                      : i == last ? 1
                                  : points[i - 1].first + point_gap,
                high = i == 0      ? 0
                       : i == last ? 1
                                   : points[i + 1].first - point_gap;
    if (low <= high) points[i].first = std::clamp(x, low, high); // else it is wedged in, and stays
    points[i].second = std::clamp(y, -0.25f, 1.25f);
    update();
    emit changed(profile_);
}

void CurveEditor::removePoint(int i) {
    if (i <= 0 || i >= static_cast<int>(profile_.points.size()) - 1) return;
    profile_.points.erase(profile_.points.begin() + i);
    chosen_ = std::max(0, i - 1);
    update();
    emit changed(profile_);
}

void CurveEditor::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    const QRectF r = field();
    held_ = pointAt(e->position());
    pressed_ = true;
    emit strokeBegan();
    if (held_ < 0 && profile_.points.size() < 32) {
        const auto x = static_cast<float>((e->position().x() - r.left()) / r.width()),
                   y = static_cast<float>((r.bottom() - e->position().y()) / r.height());
        auto& points = profile_.points;
        const auto next =
            std::find_if(points.begin(), points.end(), [&](const auto& p) { return p.first > x; });
        if (next == points.begin() || next == points.end() || x - std::prev(next)->first < 2 * point_gap ||
            next->first - x < 2 * point_gap)
            return; // no room for one more
        held_ = static_cast<int>(next - points.begin());
        points.insert(next, {x, y});
        movePoint(held_, x, y);
    }
    chosen_ = std::max(0, held_);
    update();
}

void CurveEditor::mouseMoveEvent(QMouseEvent* e) {
    if (held_ < 0) return;
    const QRectF r = field();
    movePoint(held_, static_cast<float>((e->position().x() - r.left()) / r.width()),
              static_cast<float>((r.bottom() - e->position().y()) / r.height()));
}

void CurveEditor::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    held_ = -1;
    if (std::exchange(pressed_, false)) emit strokeEnded();
}

void CurveEditor::mouseDoubleClickEvent(QMouseEvent* e) { removePoint(pointAt(e->position())); }

void CurveEditor::keyPressEvent(QKeyEvent* e) {
    if (profile_.points.empty()) return;
    const auto [x, y] = profile_.points[chosen_];
    constexpr float nudge = 0.01f;
    switch (e->key()) {
    case Qt::Key_Left: return movePoint(chosen_, x - nudge, y);
    case Qt::Key_Right: return movePoint(chosen_, x + nudge, y);
    case Qt::Key_Up: return movePoint(chosen_, x, y + nudge);
    case Qt::Key_Down: return movePoint(chosen_, x, y - nudge);
    case Qt::Key_Delete: return removePoint(chosen_);
    case Qt::Key_PageDown:
        chosen_ = (chosen_ + 1) % static_cast<int>(profile_.points.size());
        return update();
    case Qt::Key_PageUp:
        chosen_ = (chosen_ + static_cast<int>(profile_.points.size()) - 1) %
                  static_cast<int>(profile_.points.size());
        return update();
    default: QWidget::keyPressEvent(e);
    }
}

} // namespace bathylux
