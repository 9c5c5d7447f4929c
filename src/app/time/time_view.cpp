#include "app/time/time_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <cmath>

#include "app/controls/controls.h"
#include "app/controls/movement.h"
#include "app/controls/theme.h"
#include "app/time/time_strip.h"
#include "core/make/clip_source.h"

namespace bathylux {

namespace {

constexpr int nameWidth = 150, reachOfHand = 7;

double numberOf(const Moved& v) { return std::holds_alternative<double>(v) ? std::get<double>(v) : 0; }

} // namespace

TimeView::TimeView(Desk& desk, TimeStrip& strip, QWidget* parent)
    : QWidget(parent), desk_(desk), strip_(strip) {
    setObjectName("timeView");
    setAccessibleName(tr("Time"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    connect(&desk_.document, &Document::changed, this, &TimeView::refresh);
    connect(&desk_.document, &Document::choiceChanged, this, qOverload<>(&QWidget::update));
    connect(&desk_.renderer, &Renderer::framed, this, qOverload<>(&QWidget::update));
    connect(&strip_, &TimeStrip::toldOtherwise, this, qOverload<>(&QWidget::update));
    refresh();
}

void TimeView::refresh() {
    tracks_ = tracks_of(desk_.document.piece());
    followed_.clear(), reaches_.clear();
    std::erase_if(chosen_, [&](const KeyAt& k) {
        const Motion* m = motion_of(desk_.document.piece(), k.path);
        const auto* keys = m ? std::get_if<Keys>(m) : nullptr;
        return !keys || keys->key_on(k.frame) < 0;
    });
    const double most =
        std::max(0.0, rulerHeightOf() + rowHeightOf() * double(tracks_.size()) - height() + 4);
    scroll_ = std::clamp(scroll_, 0.0, most);
    update();
}

// --- where things are ---

QRectF TimeView::plot() const {
    return QRectF(nameWidth, rulerHeightOf(), std::max(40, width() - nameWidth - 22),
                  height() - rulerHeightOf());
}
double TimeView::xOf(double frame) const {
    const QRectF r = plot();
    return r.left() + frame / std::max(1, strip_.frames()) * r.width();
}
double TimeView::frameAt(double x) const {
    const QRectF r = plot();
    return (x - r.left()) / r.width() * std::max(1, strip_.frames());
}
QRectF TimeView::rowOf(int track) const {
    return QRectF(0, rulerHeightOf() + rowHeightOf() * double(track) - scroll_, width(), rowHeightOf());
}
int TimeView::trackAt(double y) const {
    if (y < rulerHeightOf()) return -1;
    const int i = static_cast<int>((y - rulerHeightOf() + scroll_) / rowHeightOf());
    return i >= 0 && i < static_cast<int>(tracks_.size()) ? i : -1;
}

const Keys* TimeView::keysOf(int track) const {
    const auto& keys = tracks_[static_cast<std::size_t>(track)].keys;
    return keys ? &*keys : nullptr;
}

double TimeView::valueAt(int track, double frame) const {
    const Track& t = tracks_[static_cast<std::size_t>(track)];
    if (t.kind == Track::Kind::keys) {
        const Keys* keys = keysOf(track);
        return keys && t.parameter ? held(*t.parameter, numberOf(keys->at(frame))) : 0;
    }
    if (t.kind == Track::Kind::link) {
        constexpr int steps = 96;
        const double n = std::max(1, strip_.frames());
        auto [at, fresh] = followed_.try_emplace(t.path);
        if (fresh) {
            std::vector<double> frames;
            for (int i = 0; i <= steps; ++i) frames.push_back(n * i / steps);
            at->second = numbers_at(desk_.document.piece(), t.path, frames);
        }
        if (at->second.empty()) return 0;
        const double s = std::clamp(frame / n, 0.0, 1.0) * steps;
        const auto i = static_cast<std::size_t>(std::min(s, steps - 1.0));
        return at->second[i] + (s - static_cast<double>(i)) * (at->second[i + 1] - at->second[i]);
    }
    return 0;
}

TimeView::Reach TimeView::reachOf(int track) const {
    const auto [known, fresh] = reaches_.try_emplace(track, Reach{1e30, -1e30});
    if (!fresh) return known->second;
    Reach& out = known->second;
    const auto take = [&](double v) { out.low = std::min(out.low, v), out.high = std::max(out.high, v); };
    const int n = strip_.frames();
    const int steps = std::min(n, 48);
    for (int i = 0; i <= steps; ++i) take(valueAt(track, double(n) * i / steps));
    if (const Keys* keys = keysOf(track))
        for (const Key& k : keys->list) take(numberOf(k.value));
    if (out.high - out.low < 1e-9) out.low -= 1, out.high += 1;
    return out;
}

double TimeView::yOf(int track, double value) const {
    const QRectF r = rowOf(track).adjusted(0, 14, 0, -6);
    const Reach reach = reachOf(track);
    return r.bottom() - (value - reach.low) / (reach.high - reach.low) * r.height();
}

QPointF TimeView::pointOf(int track, const Key& key) const {
    const bool color = tracks_[static_cast<std::size_t>(track)].color;
    return {xOf(key.frame), color ? rowOf(track).center().y() + 4 : yOf(track, numberOf(key.value))};
}

std::optional<KeyAt> TimeView::keyAt(QPointF p) const {
    const int track = trackAt(p.y());
    const Keys* keys = track < 0 ? nullptr : keysOf(track);
    if (!keys) return std::nullopt;
    std::optional<KeyAt> out;
    double nearest = reachOfHand + 2;
    for (const Key& k : keys->list) {
        const QPointF q = pointOf(track, k);
        if (const double d = std::hypot(q.x() - p.x(), q.y() - p.y()); d < nearest)
            nearest = d, out = KeyAt{tracks_[static_cast<std::size_t>(track)].path, k.frame};
    }
    return out;
}

std::optional<std::pair<int, std::size_t>> TimeView::bent() const {
    if (chosen_.size() != 1) return std::nullopt;
    for (std::size_t i = 0; i < tracks_.size(); ++i) {
        if (tracks_[i].path != chosen_.begin()->path || tracks_[i].color) continue;
        const Keys* keys = keysOf(static_cast<int>(i));
        const int k = keys ? keys->key_on(chosen_.begin()->frame) : -1;
        if (k >= 0 && k + 1 < static_cast<int>(keys->list.size()))
            return std::pair{static_cast<int>(i), static_cast<std::size_t>(k)};
    }
    return std::nullopt;
}

std::array<QPointF, 2> TimeView::bendPoints(int track, std::size_t key) const {
    const Keys& keys = *keysOf(track);
    const Key &a = keys.list[key], &b = keys.list[key + 1];
    const bool bezier = a.easing.kind == Easing::Kind::bezier;
    const double x[2] = {bezier ? a.easing.x1 : 0.25, bezier ? a.easing.x2 : 0.75},
                 y[2] = {bezier ? a.easing.y1 : 0.25, bezier ? a.easing.y2 : 0.75};
    std::array<QPointF, 2> out;
    for (std::size_t i = 0; i < 2; ++i)
        out[i] = {xOf(a.frame + x[i] * (b.frame - a.frame)),
                  yOf(track, numberOf(a.value) + y[i] * (numberOf(b.value) - numberOf(a.value)))};
    return out;
}

std::optional<TimeView::ClipBar> TimeView::clipOf(int track) const {
    const Track& t = tracks_[static_cast<std::size_t>(track)];
    const Element* e =
        t.kind == Track::Kind::clip ? find_element(desk_.document.piece().elements, t.path) : nullptr;
    const auto* clip = e ? e->source.as<ClipSource>() : nullptr;
    if (!clip) return std::nullopt;
    const Asset* asset = desk_.asset(t.path);
    ClipBar out;
    out.seconds = asset && asset->seconds > 0 ? asset->seconds : 0;
    out.in = clip->first, out.out = clip->last > 0 ? clip->last : out.seconds;
    out.speed = clip->speed;
    const double rate = desk_.document.piece().time.value_or(Timing{}).rate.a_second();
    out.from = clip->start;
    const double speed = std::max(std::abs(double(clip->speed)), 1e-3);
    out.to = clip->start + std::max(0.0, out.out - out.in) / speed * rate;
    return out;
}

QString TimeView::figure(int track, double value) const {
    const Parameter* p = tracks_[static_cast<std::size_t>(track)].parameter;
    if (!p) return {};
    const bool percent = p->said == Said::percent;
    double v = percent ? value * 100 : value;
    QString s = QString::number(v, 'f', std::abs(v) < 10 ? 2 : std::abs(v) < 100 ? 1 : 0);
    if (s.contains('.')) {
        while (s.endsWith('0')) s.chop(1);
        if (s.endsWith('.')) s.chop(1);
    }
    if (s == "-0") s = "0";
    s.replace('-', QChar(0x2212));
    const QString unit = percent ? "%" : qs(symbol(p->unit));
    return s + (unit.isEmpty() ? "" : unit == QString::fromUtf8("°") ? unit : " " + unit);
}

// --- what the hand does ---

void TimeView::put(const QString& name, const ChangedKeys& keys) {
    ChosenKeys now;
    for (const auto& [path, changed] : keys)
        for (const double f : changed.second) now.insert({path, f});
    desk_.document.edit(name, [&](Piece& p) {
        for (const auto& [path, changed] : keys) set_motion(p, path, changed.first);
    });
    chosen_ = now;
    update();
}

void TimeView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    pressed_ = at_ = e->position();
    dragged_ = false;
    if (e->button() != Qt::LeftButton) return;
    before_ = desk_.document.state().piece;
    if (pressed_.y() < rulerHeightOf()) {
        if (pressed_.x() < nameWidth) return addTrackMenu(e->globalPosition().toPoint());
        hold_ = Hold::ruler;
        strip_.play(false);
        strip_.go(qRound(frameAt(pressed_.x())));
        return;
    }
    if (const auto stretch = bent()) {
        const auto points = bendPoints(stretch->first, stretch->second);
        for (std::size_t i = 0; i < 2; ++i)
            if (QLineF(points[i], pressed_).length() < reachOfHand) {
                hold_ = i == 0 ? Hold::bendFrom : Hold::bendTo;
                stroke_ = desk_.document.stroke();
                return;
            }
    }
    const int track = trackAt(pressed_.y());
    if (track < 0) {
        chosen_.clear();
        update();
        return;
    }
    const Track& t = tracks_[static_cast<std::size_t>(track)];
    open_ = t.path;
    if (pressed_.x() < nameWidth) { // its name: what it belongs to
        if (find_element(desk_.document.piece().elements, t.owner) || t.owner == finish_id)
            desk_.document.choose({QString::fromStdString(t.owner)});
        else if (find_light(desk_.document.piece(), t.owner))
            desk_.document.chooseLight(QString::fromStdString(t.owner));
        update();
        return;
    }
    if (const auto clip = clipOf(track)) {
        heldClip_ = *clip, held_ = {t.path, 0};
        const double x = pressed_.x();
        hold_ = std::abs(x - xOf(clip->from)) < reachOfHand ? Hold::clipIn
                : std::abs(x - xOf(clip->to)) < reachOfHand ? Hold::clipOut
                : x > xOf(clip->from) && x < xOf(clip->to)  ? Hold::clip
                                                            : Hold::none;
        if (hold_ != Hold::none) stroke_ = desk_.document.stroke();
        update();
        return;
    }
    if (const auto key = keyAt(pressed_)) {
        // Ctrl adds or takes away; Shift adds, and keeps what is dragged on its value.
        const bool toggles = e->modifiers() & Qt::ControlModifier,
                   adds = toggles || e->modifiers() & Qt::ShiftModifier;
        if (toggles && chosen_.contains(*key))
            chosen_.erase(*key);
        else {
            if (!adds && !chosen_.contains(*key)) chosen_.clear();
            chosen_.insert(*key);
        }
        held_ = *key;
        const Keys* keys = keysOf(track);
        heldValue_ = numberOf(keys->list[static_cast<std::size_t>(keys->key_on(key->frame))].value);
        chosenBefore_ = chosen_;
        hold_ = Hold::keys;
        stroke_ = desk_.document.stroke();
    } else {
        chosenBefore_ = e->modifiers() & Qt::ShiftModifier ? chosen_ : ChosenKeys{};
        chosen_ = chosenBefore_;
        hold_ = Hold::frame;
    }
    update();
}

void TimeView::mouseMoveEvent(QMouseEvent* e) {
    const QPointF p = e->position();
    at_ = p;
    if (hold_ == Hold::none) {
        const int track = trackAt(p.y());
        const auto clip = track < 0 ? std::nullopt : clipOf(track);
        const bool end = clip && (std::abs(p.x() - xOf(clip->from)) < reachOfHand ||
                                  std::abs(p.x() - xOf(clip->to)) < reachOfHand);
        setCursor(end                                                            ? Qt::SizeHorCursor
                  : keyAt(p)                                                     ? Qt::SizeAllCursor
                  : p.y() < rulerHeightOf() && p.x() >= nameWidth                ? Qt::SizeHorCursor
                  : p.x() < nameWidth && (track >= 0 || p.y() < rulerHeightOf()) ? Qt::PointingHandCursor
                                                                                 : Qt::ArrowCursor);
        return;
    }
    if (!dragged_ && (p - pressed_).manhattanLength() < 4 && hold_ != Hold::ruler) return;
    dragged_ = true;
    switch (hold_) {
    case Hold::ruler:
        if (e->modifiers() & Qt::ShiftModifier)
            strip_.setRange(qRound(std::min(frameAt(pressed_.x()), frameAt(p.x()))),
                            qRound(std::max(frameAt(pressed_.x()), frameAt(p.x()))));
        else
            strip_.go(qRound(frameAt(p.x())));
        break;
    case Hold::keys: {
        KeysMoved how;
        const double by = std::round(frameAt(p.x()) - frameAt(pressed_.x()));
        int track = 0;
        while (tracks_[static_cast<std::size_t>(track)].path != held_.path) ++track;
        if (e->modifiers() & Qt::AltModifier && chosenBefore_.size() > 1) {
            how.about = held_.frame;
            for (const KeyAt& k : chosenBefore_) // about the one farthest from the hand
                if (std::abs(k.frame - held_.frame) > std::abs(how.about - held_.frame)) how.about = k.frame;
            if (how.about != held_.frame)
                how.stretch = (held_.frame + by - how.about) / (held_.frame - how.about);
        } else {
            how.frames = by;
            // Up and down as well, unless Shift keeps it on its value.
            const Track& t = tracks_[static_cast<std::size_t>(track)];
            if (!t.color && !(e->modifiers() & Qt::ShiftModifier)) {
                const QRectF r = rowOf(track).adjusted(0, 14, 0, -6);
                const double dy = p.y() - pressed_.y();
                if (std::abs(dy) > 5 && t.parameter) {
                    const Keys* keys = std::get_if<Keys>(motion_of(*before_, t.path));
                    double low = 1e30, high = -1e30;
                    for (const Key& k : keys->list)
                        low = std::min(low, numberOf(k.value)), high = std::max(high, numberOf(k.value));
                    if (high - low < 1e-9)
                        high = low + std::max(1e-3, (t.parameter->range.high - t.parameter->range.low) / 4);
                    const double span = high - low, step = span > 50 ? 1 : span > 5 ? 0.1 : 0.01;
                    how.value = std::round(-dy / r.height() * span / step) * step;
                }
            }
        }
        put(tr("Move keys"), bathylux::moved(*before_, chosenBefore_, how));
        break;
    }
    case Hold::frame: {
        const QRectF box = QRectF(pressed_, p).normalized();
        chosen_ = chosenBefore_;
        for (std::size_t i = 0; i < tracks_.size(); ++i)
            if (const Keys* keys = keysOf(static_cast<int>(i)))
                for (const Key& k : keys->list)
                    if (box.contains(pointOf(static_cast<int>(i), k)))
                        chosen_.insert({tracks_[i].path, k.frame});
        update();
        break;
    }
    case Hold::bendFrom:
    case Hold::bendTo: bend(p); break;
    case Hold::clip:
    case Hold::clipIn:
    case Hold::clipOut: dragClip(frameAt(p.x()) - frameAt(pressed_.x())); break;
    case Hold::none: break;
    }
}

void TimeView::bend(QPointF p) {
    const auto stretch = bent();
    if (!stretch) return;
    const auto [track, key] = *stretch;
    Keys keys = *keysOf(track);
    Key& a = keys.list[key];
    const Key& b = keys.list[key + 1];
    if (a.easing.kind != Easing::Kind::bezier) a.easing = bezier(0.25, 0.25, 0.75, 0.75);
    const double x = std::clamp((frameAt(p.x()) - a.frame) / (b.frame - a.frame), 0.0, 1.0);
    // Up is measured by the row: from the one value to the other, wherever they lie.
    const double ya = yOf(track, numberOf(a.value)), yb = yOf(track, numberOf(b.value));
    const double y = std::abs(yb - ya) < 1 ? 0 : std::clamp((p.y() - ya) / (yb - ya), -2.0, 3.0);
    const auto tidy = [](double v) { return std::round(v * 100) / 100; };
    if (hold_ == Hold::bendFrom)
        a.easing.x1 = tidy(x), a.easing.y1 = tidy(y);
    else
        a.easing.x2 = tidy(x), a.easing.y2 = tidy(y);
    const std::string path = tracks_[static_cast<std::size_t>(track)].path;
    desk_.document.edit(tr("Bend a stretch"), [&](Piece& q) { set_motion(q, path, keys); });
}

void TimeView::dragClip(double frames) {
    const double rate = desk_.document.piece().time.value_or(Timing{}).rate.a_second();
    const double speed = std::max(std::abs(heldClip_.speed), 1e-3);
    desk_.document.edit(hold_ == Hold::clip ? tr("Move a clip") : tr("Trim a clip"), [&](Piece& p) {
        change(p, held_.path, [&](Element& e) {
            const double whole = std::round(frames), by = whole / rate * speed;
            if (hold_ == Hold::clip) {
                e.source = e.source.with("start", std::round(heldClip_.from + whole));
            } else if (hold_ == Hold::clipIn) {
                const double in =
                    std::clamp(heldClip_.in + by, 0.0, std::max(0.0, heldClip_.out - speed / rate));
                e.source = e.source.with("in", in).with(
                    "start", std::round(heldClip_.from + (in - heldClip_.in) / speed * rate));
            } else {
                double out = std::max(heldClip_.in + speed / rate, heldClip_.out + by);
                if (heldClip_.seconds > 0 && out >= heldClip_.seconds - 1e-6) out = 0; // its own end
                e.source = e.source.with("out", out);
            }
        });
    });
}

void TimeView::mouseReleaseEvent(QMouseEvent*) {
    if (hold_ == Hold::keys && !dragged_ && chosenBefore_.size() > 1 && chosen_.contains(held_) &&
        !(QGuiApplication::keyboardModifiers() & (Qt::ControlModifier | Qt::ShiftModifier)))
        chosen_ = {held_};
    if (hold_ == Hold::frame && !dragged_) strip_.go(qRound(frameAt(pressed_.x())));
    hold_ = Hold::none;
    stroke_.end();
    update();
}

void TimeView::mouseDoubleClickEvent(QMouseEvent* e) {
    const QPointF p = e->position();
    const int track = trackAt(p.y());
    if (p.y() < rulerHeightOf() && p.x() >= nameWidth) return strip_.setRange(0, 0);
    if (track < 0 || p.x() < nameWidth || keyAt(p)) return;
    const Keys* now = keysOf(track);
    if (!now) return;
    Keys keys = *now;
    const double frame = std::round(frameAt(p.x()));
    set_key(keys, frame, keys.at(frame));
    put(tr("Add a key"), {{tracks_[static_cast<std::size_t>(track)].path, {keys, {frame}}}});
}

void TimeView::wheelEvent(QWheelEvent* e) {
    scroll_ -= e->angleDelta().y() / 2.0;
    refresh();
    e->accept();
}

bool TimeView::event(QEvent* e) {
    if (e->type() == QEvent::ShortcutOverride && !chosen_.empty()) {
        auto* k = static_cast<QKeyEvent*>(e);
        if (k->matches(QKeySequence::Copy) || k->matches(QKeySequence::Paste) || k->key() == Qt::Key_Delete ||
            k->key() == Qt::Key_R) {
            e->accept();
            return true;
        }
    }
    return QWidget::event(e);
}

void TimeView::keyPressEvent(QKeyEvent* e) {
    if (e->matches(QKeySequence::Copy)) return copyChosen();
    if (e->matches(QKeySequence::Paste)) return paste();
    switch (e->key()) {
    case Qt::Key_Delete:
    case Qt::Key_Backspace: return removeChosen();
    case Qt::Key_R: return reverseChosen();
    case Qt::Key_Space: return strip_.play(!strip_.playing());
    case Qt::Key_Home: return strip_.go(0);
    case Qt::Key_End: return strip_.go(strip_.frames() - 1);
    case Qt::Key_Escape: chosen_.clear(); return update();
    case Qt::Key_Left:
    case Qt::Key_Right: {
        const int by = e->key() == Qt::Key_Left ? -1 : 1;
        if (e->modifiers() & Qt::ControlModifier) return strip_.toKey(by);
        if (chosen_.empty()) return strip_.step(by);
        KeysMoved how;
        how.frames = by;
        return put(tr("Move keys"), bathylux::moved(desk_.document.piece(), chosen_, how));
    }
    case Qt::Key_K:
        if (!open_.empty()) return toggle_key(desk_.document, open_);
        break;
    default: break;
    }
    QWidget::keyPressEvent(e);
}

void TimeView::leaveEvent(QEvent*) { update(); }

} // namespace bathylux
