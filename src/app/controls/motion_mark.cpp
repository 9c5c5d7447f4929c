#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QWidgetAction>

#include "app/controls/controls.h"
#include "app/controls/movement.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/theme.h"

namespace bathylux {

MotionMark::MotionMark(Document& document, std::function<std::string()> path, QWidget* parent)
    : QWidget(parent), document_(document), path_(std::move(path)) {
    setFixedSize(sizeHint());
    setObjectName("motionMark");
    setCursor(Qt::PointingHandCursor);
    connect(&document_, &Document::frameChanged, this, &MotionMark::refresh);
    refresh();
}

void MotionMark::refresh() {
    mark_ = static_cast<int>(mark_of(document_, path()));
    setVisible(mark_ != static_cast<int>(Mark::none));
    switch (static_cast<Mark>(mark_)) {
    case Mark::still: setToolTip(tr("Set a first key (K)")); break;
    case Mark::keys: setToolTip(tr("Set a key on this frame (K)")); break;
    case Mark::key_here: setToolTip(tr("Take away the key on this frame (K)")); break;
    case Mark::link: setToolTip(follows(document_.piece(), path())); break;
    case Mark::none: break;
    }
    setAccessibleName(toolTip());
    update();
}

void MotionMark::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    const auto mark = static_cast<Mark>(mark_);
    if (mark == Mark::still && !underMouse() && !(parentWidget() && parentWidget()->underMouse())) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QPointF c(7, 9.5);
    if (mark == Mark::link) {
        p.setPen(QPen(t.accent, 1.4));
        p.drawLine(c - QPointF(4, 0), c + QPointF(4, 0));
        p.setBrush(t.accent);
        p.drawEllipse(c + QPointF(3, 0), 2, 2);
        return;
    }
    p.setPen(QPen(mark == Mark::still ? t.faint : t.accent, 1.5));
    p.setBrush(mark == Mark::key_here ? QBrush(t.accent) : Qt::NoBrush);
    p.drawEllipse(c, 3.6, 3.6);
}

void MotionMark::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !rect().contains(e->pos())) return;
    if (document_.numberAsked()) return document_.giveNumber(path());
    if (static_cast<Mark>(mark_) == Mark::link) return openMenu(e->globalPosition().toPoint());
    toggle_key(document_, path());
}

void MotionMark::contextMenuEvent(QContextMenuEvent* e) { openMenu(e->globalPos()); }

void MotionMark::openMenu(QPoint global) {
    const std::string where = path();
    const NumberThere there = number_there(document_.piece(), where);
    const Motion* motion = there.motion;
    if (!there.parameter) return;
    auto* menu = passingMenu(this);
    Document& doc = document_;
    const auto* link = motion ? std::get_if<Link>(motion) : nullptr;
    const bool is_number = std::holds_alternative<double>(there.value);
    if (!link) {
        const bool here = static_cast<Mark>(mark_) == Mark::key_here;
        menu->addAction(here ? tr("Take away this key") : tr("Set a key"), menu,
                        [&doc, where] { toggle_key(doc, where); });
    }
    if (is_number)
        menu->addAction(
            link ? tr("Follow another number…") : tr("Follow a number…"), this, [this, &doc, where] {
                doc.askForNumber(this, [&doc, where](const std::string& to) {
                    if (to.empty() || to == where) return;
                    // It goes on from where it is.
                    const NumberThere now = number_there(doc.piece(), where),
                                      target = number_there(doc.piece(), to);
                    if (!now.parameter || !target.parameter || !std::holds_alternative<double>(target.value))
                        return;
                    follow(doc, where, {to, 1, std::get<double>(now.value) - std::get<double>(target.value)});
                });
            });
    if (link) {
        menu->addSeparator();
        const auto scale = [&](const QString& name, double low, double high, double value, auto&& set) {
            RuledScale::Look look;
            look.name = name, look.low = low, look.high = high, look.standard = name == tr("Times") ? 1 : 0;
            look.decimals = 3;
            auto* holder = new QWidget(menu);
            auto* ruled = new RuledScale(look, holder);
            ruled->setGeometry(14, 2, 220, 34);
            holder->setFixedSize(248, 40);
            ruled->setValue(value);
            tieStroke(ruled, doc);
            connect(ruled, &RuledScale::valueChanged, menu, set);
            auto* action = new QWidgetAction(menu);
            action->setDefaultWidget(holder);
            menu->addAction(action);
        };
        const auto change = [&doc, where](auto&& what) {
            const Motion* now = motion_of(doc.piece(), where);
            if (!now || !std::holds_alternative<Link>(*now)) return;
            Link next = std::get<Link>(*now);
            what(next);
            follow(doc, where, next);
        };
        scale(tr("Times"), -4, 4, link->gain, [change](double v) { change([v](Link& l) { l.gain = v; }); });
        const double reach = std::max(there.parameter->range.high - there.parameter->range.low, 1.0);
        scale(tr("Plus"), -reach, reach, link->offset,
              [change](double v) { change([v](Link& l) { l.offset = v; }); });
    }
    if (motion) {
        menu->addSeparator();
        menu->addAction(link ? tr("Follow no more") : tr("Take away all its keys"), menu,
                        [&doc, where] { stand_still(doc, where); });
    }
    menu->popup(global);
}

} // namespace bathylux
