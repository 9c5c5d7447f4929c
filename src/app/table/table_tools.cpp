// What the hand does on the table: seam, elements, the section line, guides, crop. Lights: table_lights.cpp.
#include <QKeyEvent>
#include <QMouseEvent>
#include <QTabletEvent>

#include "app/controls/theme.h"
#include "app/document/lights_edit.h"
#include "app/table/picking.h"
#include "app/table/table.h"
#include "core/light/lights.h"

namespace bathylux {

namespace {

constexpr double handleReach = 9; // px round a handle
constexpr double snapReach = 6;   // px within which things snap

double distanceToLine(QPointF p, QPointF a, QPointF b) {
    const QPointF d = b - a, q = p - a;
    const double t =
        std::clamp((q.x() * d.x() + q.y() * d.y()) / std::max(1e-9, d.x() * d.x() + d.y() * d.y()), 0.0, 1.0);
    return distance(p, a + t * d);
}

} // namespace

std::vector<std::string> Table::elementsAt(Vec2 c) {
    return newest_ ? elements_at(picking_, desk_.scene(), c, group_.toStdString())
                   : std::vector<std::string>{};
}

Ids Table::movable() const {
    Ids out;
    for (const QString& id : desk_.document.chosen())
        if (const Element* e = desk_.document.element(id); e && !e->locked) out.push_back(e->id);
    return out;
}

void Table::enterGroup(const QString& group) {
    group_ = group;
    update();
}

void Table::leaveGroup() {
    const QString was =
        std::exchange(group_, QString::fromStdString(group_of(desk_.document.piece(), group_.toStdString())));
    desk_.document.choose({was});
    update();
}

Table::Hold Table::holdAt(QPointF p) {
    const Piece& piece = desk_.document.piece();
    // What stands on the art is got at before the seam that crosses it, but for the seam's own grip.
    Hold part = Hold::none;
    const bool lampsShown = tool_ == Tool::light || tool_ == Tool::place;
    if (lampsShown && p.y() <= height() - 22 && !(lamp_ = lampAt(p, part)).empty()) return part;
    if (layout_ == Layout::seam &&
        (std::abs(p.x() - seamX()) < 5 || (p.y() > height() - 22 && std::abs(p.x() - seamX()) < 10))) {
        // Handles of what is chosen win over the seam that crosses them, but for its grip.
        // So does the brush: it paints across.
        if (p.y() > height() - 22 || p.y() < field().top() + 14 ||
            (tool_ != Tool::paint && (tool_ != Tool::place || desk_.document.chosen().isEmpty())))
            return Hold::seam;
    }
    const bool left = paneAt(p);
    if (tool_ == Tool::place) {
        if ((handle_ = cornerAt(p)) >= 0) return Hold::corner;
        if (!desk_.document.chosen().isEmpty() && newest_) {
            placing_ = placing_of(desk_.scene(), movable());
            if (!placing_.empty()) {
                if (distance(p, toScreen(placing_.handle(8, 22 / zoom_), left)) < handleReach)
                    return Hold::turn;
                const Box extent = placing_.bounds();
                const bool small = std::min(extent.width(), extent.height()) * zoom_ < 44;
                for (int i : {0, 2, 4, 6, 1, 3, 5, 7})
                    if (!(small && i % 2 == 1) &&
                        distance(p, toScreen(placing_.handle(i, 0), left)) < handleReach) {
                        handle_ = i;
                        return Hold::scale;
                    }
                if ((!small || pivot_) && distance(p, toScreen(pivot_.value_or(placing_.centre()), left)) < 6)
                    return Hold::pivot;
            }
        }
        for (std::size_t i = 0; i < piece.guides_x.size(); ++i)
            if (std::abs(p.x() - toScreen({piece.guides_x[i], 0}, left).x()) < 4)
                return guide_ = static_cast<int>(i), Hold::guideX;
        for (std::size_t i = 0; i < piece.guides_y.size(); ++i)
            if (std::abs(p.y() - toScreen({0, piece.guides_y[i]}, left).y()) < 4)
                return guide_ = static_cast<int>(i), Hold::guideY;
        // Out of the rulers comes a new guide.
        const QRectF art = canvasOnScreen(left);
        if (p.y() < art.top() - 10 && p.y() > art.top() - 24 && p.x() > art.left() && p.x() < art.right())
            return guide_ = -1, Hold::guideY;
        if (p.x() < art.left() - 10 && p.x() > art.left() - 24 && p.y() > art.top() && p.y() < art.bottom())
            return guide_ = -1, Hold::guideX;
        if (std::abs(p.x() - seamX()) < 5 && layout_ == Layout::seam) return Hold::seam;
        return Hold::element;
    }
    if (tool_ == Tool::section) {
        if (piece.section) {
            if (distance(p, toScreen(piece.section->a, left)) < handleReach) return Hold::sectionA;
            if (distance(p, toScreen(piece.section->b, left)) < handleReach) return Hold::sectionB;
            if (distanceToLine(p, toScreen(piece.section->a, left), toScreen(piece.section->b, left)) < 5)
                return Hold::sectionMove;
        }
        return Hold::sectionNew;
    }
    if (tool_ == Tool::paint) return Hold::paint;
    if (tool_ == Tool::crop) {
        const QRectF r(toScreen({double(crop_.x0), double(crop_.y0)}),
                       toScreen({double(crop_.x1), double(crop_.y1)}));
        const bool l = std::abs(p.x() - r.left()) < handleReach,
                   rr = std::abs(p.x() - r.right()) < handleReach,
                   tt = std::abs(p.y() - r.top()) < handleReach,
                   b = std::abs(p.y() - r.bottom()) < handleReach;
        if ((l || rr || tt || b) &&
            r.adjusted(-handleReach, -handleReach, handleReach, handleReach).contains(p)) {
            handle_ = (l ? 1 : 0) | (rr ? 2 : 0) | (tt ? 4 : 0) | (b ? 8 : 0);
            return Hold::cropEdge;
        }
        return r.contains(p) ? Hold::cropMove : Hold::cropNew;
    }
    return Hold::none;
}

void Table::mousePressEvent(QMouseEvent* e) {
    setFocus();
    pressed_ = last_ = e->position();
    moved_ = false;
    if (e->button() == Qt::MiddleButton || (e->button() == Qt::LeftButton && spaceHeld_)) {
        hold_ = Hold::pan;
        setCursor(Qt::ClosedHandCursor);
        return;
    }
    if (e->button() == Qt::RightButton && tool_ == Tool::place) {
        const auto under = elementsAt(toCanvas(e->position()));
        if (std::none_of(under.begin(), under.end(),
                         [&](const auto& id) { return desk_.document.isChosen(QString::fromStdString(id)); }))
            desk_.document.choose(under.empty() ? QStringList{}
                                                : QStringList{QString::fromStdString(under.front())});
        return;
    }
    if (e->button() != Qt::LeftButton) return;
    if (desk_.document.colorAsked()) {
        hold_ = Hold::none;
        if (const auto color = colorUnder(e->position())) desk_.document.giveColor(*color);
        return;
    }
    hold_ = holdAt(e->position());
    snapped_.clear();
    Document& doc = desk_.document;
    switch (hold_) {
    case Hold::element: pressElement(e->position(), e->modifiers()); break;
    case Hold::lampFoot:
    case Hold::lampAim:
    case Hold::lampEnd:
    case Hold::lampHead: takeLamp(e->position(), e->modifiers()); break;
    case Hold::paint: {
        QString why;
        // What the views show scrolled would be painted in the wrong place.
        if (join_) setJoin(false);
        if (!painter_.begin(toCanvas(e->position()), static_cast<float>(pressure_),
                            e->modifiers() & Qt::ShiftModifier, why)) {
            hold_ = Hold::none;
            emit refused(why);
        }
        update();
        return;
    }
    case Hold::sectionMove: grabbedLine_ = *doc.piece().section; break;
    case Hold::sectionNew:
    case Hold::cropNew: break;
    case Hold::cropEdge:
    case Hold::cropMove: grabbedCrop_ = crop_; break;
    default: break;
    }
    if (hold_ != Hold::none && hold_ != Hold::seam && hold_ != Hold::pivot && hold_ != Hold::cropEdge &&
        hold_ != Hold::cropMove && hold_ != Hold::cropNew && hold_ != Hold::frame)
        stroke_ = doc.stroke();
    update();
}

/// What is chosen stays so while something of it is under the hand, for it may be dragged; a click then takes
/// the next below. On empty ground a frame is begun.
void Table::pressElement(QPointF p, Qt::KeyboardModifiers m) {
    Document& doc = desk_.document;
    under_ = elementsAt(toCanvas(p));
    again_ = false;
    if (m & Qt::ShiftModifier) {
        QStringList ids = doc.chosen();
        if (!under_.empty()) {
            const QString id = QString::fromStdString(under_.front());
            ids.contains(id) ? void(ids.removeAll(id)) : ids.push_back(id);
        }
        doc.choose(ids);
    } else {
        bool inside = false;
        if (!placing_.empty() && placing_.frame.invertible()) {
            const Vec2 q = placing_.frame.inverse()(toCanvas(p));
            inside = std::abs(q.x) <= 1 && std::abs(q.y) <= 1;
        }
        const auto chosen = std::any_of(under_.begin(), under_.end(), [&](const auto& id) {
            return doc.isChosen(QString::fromStdString(id));
        });
        again_ = chosen || inside;
        if (!again_)
            doc.choose(under_.empty() ? QStringList{} : QStringList{QString::fromStdString(under_.front())});
    }
    placing_ = placing_of(desk_.scene(), movable());
    if (placing_.empty()) hold_ = under_.empty() ? Hold::frame : Hold::none;
}

/// A click where something was chosen already takes the next below it, and from the last the first again.
void Table::releaseElement() {
    if (moved_ || !again_ || under_.empty()) return;
    Document& doc = desk_.document;
    const auto at = std::find_if(under_.begin(), under_.end(),
                                 [&](const auto& id) { return doc.isChosen(QString::fromStdString(id)); });
    const bool last = at == under_.end() || at + 1 == under_.end();
    doc.choose({QString::fromStdString(last ? under_.front() : *(at + 1))});
}

void Table::mouseMoveEvent(QMouseEvent* e) {
    const QPointF p = e->position();
    desk_.soundingAt = canvasOnScreen(paneAt(p)).contains(p) ? toCanvas(p) : Vec2{-1, -1};
    emit soundingMoved();
    if (tool_ == Tool::paint) {
        pointer_ = p;
        update();
    }
    if (following_) {
        followHand(p);
        return;
    }
    if (hold_ == Hold::paint) {
        painter_.move(toCanvas(p), static_cast<float>(pressure_));
        return;
    }
    if (hold_ == Hold::none) {
        updateCursor(p);
        return;
    }
    // A shaky click is not a drag.
    if (!moved_ && distance(p, pressed_) < 3 && hold_ != Hold::seam && hold_ != Hold::pan) return;
    moved_ = true;
    switch (hold_) {
    case Hold::pan:
        centre_ = centre_ - Vec2{(p.x() - last_.x()) / zoom_, (p.y() - last_.y()) / zoom_};
        fitted_ = false;
        keepInSight();
        requestFrame();
        break;
    case Hold::seam:
        seam_ = std::clamp((p.x() - field().left()) / field().width(), 0.0, 1.0);
        placeNames();
        break;
    case Hold::element:
    case Hold::scale:
    case Hold::turn:
    case Hold::pivot: dragElements(p, e->modifiers()); break;
    case Hold::corner: dragCorner(p); break;
    case Hold::lampFoot:
    case Hold::lampAim:
    case Hold::lampEnd:
    case Hold::lampHead: dragLamp(p, e->modifiers()); break;
    case Hold::sectionA:
    case Hold::sectionB:
    case Hold::sectionNew:
    case Hold::sectionMove: dragSection(p, e->modifiers()); break;
    case Hold::guideX:
    case Hold::guideY: {
        const bool across = hold_ == Hold::guideX;
        const Vec2 at = toCanvas(p);
        const auto value = static_cast<float>(std::round(across ? at.x : at.y));
        const int index = guide_;
        desk_.document.edit(tr("Move guide"), [&](Piece& piece) {
            auto& guides = across ? piece.guides_x : piece.guides_y;
            if (index < 0)
                guides.push_back(value), guide_ = static_cast<int>(guides.size()) - 1;
            else if (index < static_cast<int>(guides.size()))
                guides[index] = value;
        });
        break;
    }
    case Hold::cropEdge:
    case Hold::cropNew:
    case Hold::cropMove: dragCrop(p); break;
    case Hold::frame: {
        const Vec2 a = toCanvas(pressed_), b = toCanvas(p);
        Box frame;
        frame.add(a), frame.add(b);
        desk_.document.choose(fromIds(elements_within(desk_.scene(), frame, group_.toStdString())));
        break;
    }
    default: break;
    }
    last_ = p;
    update();
}

void Table::mouseReleaseEvent(QMouseEvent* e) {
    const Hold was = std::exchange(hold_, Hold::none);
    snapped_.clear();
    if (was == Hold::paint) {
        painter_.end();
        return;
    }
    if ((was == Hold::guideX || was == Hold::guideY) && moved_) {
        // Dragged off the canvas: gone.
        const Vec2 at = toCanvas(e->position());
        const Canvas& c = desk_.document.piece().canvas;
        const bool across = was == Hold::guideX;
        if (across ? at.x < 0 || at.x > c.width : at.y < 0 || at.y > c.height)
            desk_.document.edit(tr("Move guide"), [&](Piece& piece) {
                auto& guides = across ? piece.guides_x : piece.guides_y;
                if (guide_ >= 0 && guide_ < static_cast<int>(guides.size()))
                    guides.erase(guides.begin() + guide_);
            });
    }
    stroke_.end();
    if (was == Hold::element) releaseElement();
    if (was == Hold::seam) {
        if (!moved_) return;
        emit viewChanged();
    }
    updateCursor(e->position());
    update();
}

void Table::mouseDoubleClickEvent(QMouseEvent* e) {
    if (layout_ == Layout::seam && std::abs(e->position().x() - seamX()) < 8) {
        seam_ = 0.5;
        placeNames();
        update();
    } else if (tool_ == Tool::crop) {
        acceptCrop();
    } else if (tool_ == Tool::place) {
        // Into a group: its elements are then got at one by one.
        const auto under = elementsAt(toCanvas(e->position()));
        const Element* g =
            under.empty() ? nullptr : find_element(desk_.document.piece().elements, under.front());
        if (!g || !g->is_group()) return;
        enterGroup(QString::fromStdString(g->id));
        const auto inside = elementsAt(toCanvas(e->position()));
        if (!inside.empty()) desk_.document.choose({QString::fromStdString(inside.front())});
    }
}

void Table::updateCursor(QPointF p) {
    if (desk_.document.colorAsked()) return setCursor(Qt::CrossCursor);
    if (spaceHeld_) return setCursor(Qt::OpenHandCursor);
    switch (holdAt(p)) {
    case Hold::seam: return setCursor(Qt::SplitHCursor);
    case Hold::scale: {
        const QPointF d = toScreen(placing_.handle(handle_, 0)) - toScreen(placing_.centre());
        const double a = std::fmod(std::atan2(-d.y(), d.x()) / radians_per_degree + 360 + 22.5, 180);
        return setCursor(a < 45    ? Qt::SizeHorCursor
                         : a < 90  ? Qt::SizeBDiagCursor
                         : a < 135 ? Qt::SizeVerCursor
                                   : Qt::SizeFDiagCursor);
    }
    case Hold::turn: return setCursor(Qt::PointingHandCursor);
    case Hold::pivot:
    case Hold::lampAim:
    case Hold::lampEnd:
    case Hold::lampFoot: return setCursor(Qt::SizeAllCursor);
    case Hold::lampHead: return setCursor(Qt::SizeVerCursor);
    case Hold::paint: return setCursor(Qt::BlankCursor); // the brush itself is drawn
    case Hold::sectionNew:
    case Hold::cropNew: return setCursor(Qt::CrossCursor);
    case Hold::sectionA:
    case Hold::sectionB:
    case Hold::sectionMove:
    case Hold::cropMove: return setCursor(Qt::SizeAllCursor);
    case Hold::guideX: return setCursor(Qt::SizeHorCursor);
    case Hold::guideY: return setCursor(Qt::SizeVerCursor);
    case Hold::cropEdge:
        return setCursor(handle_ == 1 || handle_ == 2    ? Qt::SizeHorCursor
                         : handle_ == 4 || handle_ == 8  ? Qt::SizeVerCursor
                         : handle_ == 5 || handle_ == 10 ? Qt::SizeFDiagCursor
                                                         : Qt::SizeBDiagCursor);
    default: return setCursor(Qt::ArrowCursor);
    }
}

std::vector<double> Table::snapLines(bool x) const {
    const Piece& piece = desk_.document.piece();
    const double size = x ? piece.canvas.width : piece.canvas.height;
    std::vector<double> out{0, size / 2, size};
    for (float g : x ? piece.guides_x : piece.guides_y) out.push_back(g);
    return out;
}

void Table::dragElements(QPointF p, Qt::KeyboardModifiers m) {
    if (hold_ == Hold::pivot) {
        pivot_ = toCanvas(p);
        return;
    }
    if (placing_.empty()) return;
    const Vec2 from = toCanvas(pressed_), to = toCanvas(p);
    std::vector<Placement> placements;
    QString name;
    snapped_.clear();
    if (hold_ == Hold::element) {
        Vec2 by = to - from;
        if (m & Qt::ShiftModifier) (std::abs(by.x) > std::abs(by.y) ? by.y : by.x) = 0;
        if (!(m & Qt::ControlModifier)) {
            // Either edge or the middle comes to rest on the nearest line within reach.
            const Box b = placing_.bounds();
            const Canvas& c = desk_.document.piece().canvas;
            const auto snap = [&](bool x, double& move) {
                double best = snapReach / zoom_, shift = 0, line = 0;
                for (double mine :
                     x ? std::array{b.x0, b.centre().x, b.x1} : std::array{b.y0, b.centre().y, b.y1})
                    for (double l : snapLines(x))
                        if (const double d = l - (mine + move); std::abs(d) < best)
                            best = std::abs(d), shift = d, line = l;
                if (best >= snapReach / zoom_) return;
                move += shift;
                snapped_.push_back(x ? QLineF(line, 0, line, c.height) : QLineF(0, line, c.width, line));
            };
            snap(true, by.x);
            snap(false, by.y);
        }
        if (snapped_.empty()) by = {std::round(by.x), std::round(by.y)};
        placements = moved(placing_, by);
        name = tr("Move");
    } else if (hold_ == Hold::scale) {
        // Corners keep the proportion; Shift lets go of it, Alt scales about the middle.
        placements = scaled(placing_, handle_, to, !(m & Qt::ShiftModifier), m & Qt::AltModifier);
        name = tr("Scale");
    } else {
        const Vec2 pivot = pivot_.value_or(placing_.centre()), a = from - pivot, b = to - pivot;
        double angle = (std::atan2(-b.y, b.x) - std::atan2(-a.y, a.x)) / radians_per_degree;
        if (placing_.single) {
            // To whole degrees, with Shift to fifteens, of the turn itself.
            const double before = placing_.parts[0].placement.turn, grain = m & Qt::ShiftModifier     ? 15
                                                                            : m & Qt::ControlModifier ? 0.1
                                                                                                      : 1;
            angle = std::round((before + angle) / grain) * grain - before;
        }
        placements = turned(placing_, angle, pivot);
        name = tr("Turn");
    }
    desk_.document.edit(name, [&](Piece& piece) {
        for (std::size_t i = 0; i < placements.size(); ++i)
            change(piece, placing_.parts[i].id, [&](Element& e) { e.placement = placements[i]; });
    });
}

void Table::dragSection(QPointF p, Qt::KeyboardModifiers m) {
    SectionLine line = desk_.document.piece().section.value_or(SectionLine{});
    Vec2 at = toCanvas(p);
    const auto straight = [&](Vec2 fixed, Vec2 end) {
        // Shift: along the nearest of eight directions.
        if (!(m & Qt::ShiftModifier)) return end;
        const Vec2 d = end - fixed;
        const double a = std::round(std::atan2(d.y, d.x) / (std::numbers::pi / 4)) * (std::numbers::pi / 4),
                     len = length(d);
        return fixed + len * Vec2{std::cos(a), std::sin(a)};
    };
    switch (hold_) {
    case Hold::sectionA: line.a = straight(line.b, at); break;
    case Hold::sectionB: line.b = straight(line.a, at); break;
    case Hold::sectionNew: {
        const Vec2 start = toCanvas(pressed_);
        line = {start, straight(start, at)};
        break;
    }
    case Hold::sectionMove: {
        const Vec2 by = at - toCanvas(pressed_);
        line = {grabbedLine_.a + by, grabbedLine_.b + by};
        break;
    }
    default: return;
    }
    desk_.document.edit(tr("Move section line"), [&](Piece& piece) { piece.section = line; });
}

void Table::dragCrop(QPointF p) {
    const Vec2 at = toCanvas(p), from = toCanvas(pressed_);
    const auto whole = [](double v) { return static_cast<int>(std::lround(v)); };
    if (hold_ == Hold::cropNew) {
        crop_ = {whole(std::min(at.x, from.x)), whole(std::min(at.y, from.y)), whole(std::max(at.x, from.x)),
                 whole(std::max(at.y, from.y))};
    } else if (hold_ == Hold::cropMove) {
        const int dx = whole(at.x - from.x), dy = whole(at.y - from.y);
        crop_ = {grabbedCrop_.x0 + dx, grabbedCrop_.y0 + dy, grabbedCrop_.x1 + dx, grabbedCrop_.y1 + dy};
    } else {
        crop_ = grabbedCrop_;
        if (handle_ & 1) crop_.x0 = std::min(whole(at.x), crop_.x1 - 1);
        if (handle_ & 2) crop_.x1 = std::max(whole(at.x), crop_.x0 + 1);
        if (handle_ & 4) crop_.y0 = std::min(whole(at.y), crop_.y1 - 1);
        if (handle_ & 8) crop_.y1 = std::max(whole(at.y), crop_.y0 + 1);
    }
}

void Table::acceptCrop() {
    if (tool_ != Tool::crop) return;
    const Region r = crop_;
    if (r.width() >= 1 && r.height() >= 1 && r.width() <= 16384 && r.height() <= 16384 &&
        !(r == canvas_region(desk_.document.piece().canvas, 1)))
        desk_.document.edit(tr("Crop"), [&](Piece& piece) { crop(piece, r); });
    fitted_ = true;
    tool_ = Tool::place;
    fit();
    emit cropProposed(false);
    emit toolChanged();
}

void Table::cancelCrop() {
    if (tool_ != Tool::crop) return;
    tool_ = Tool::place;
    update();
    emit cropProposed(false);
    emit toolChanged();
}

void Table::tabletEvent(QTabletEvent* e) {
    // The pen's pressure; its moves come again as those of a mouse.
    pressure_ = e->type() == QEvent::TabletRelease ? 1.0 : std::clamp(e->pressure(), 0.0, 1.0);
    e->ignore();
}

void Table::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space && !e->isAutoRepeat()) {
        spaceHeld_ = true;
        setCursor(Qt::OpenHandCursor);
        return;
    }
    if (tool_ == Tool::crop && (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)) return acceptCrop();
    if (tool_ == Tool::crop && e->key() == Qt::Key_Escape) return cancelCrop();
    if (desk_.document.colorAsked() && e->key() == Qt::Key_Escape)
        return desk_.document.askForColor(nullptr, {});
    if (e->key() == Qt::Key_Escape) {
        if (!group_.isEmpty()) return leaveGroup();
        desk_.document.choose({});
        return;
    }
    if (e->key() == Qt::Key_F && !e->isAutoRepeat() && e->modifiers() == Qt::NoModifier)
        return setFollowing(true);
    if (e->key() == Qt::Key_X && !e->isAutoRepeat() && e->modifiers() == Qt::NoModifier)
        return setWithout(true);
    if (e->key() == Qt::Key_W && !e->isAutoRepeat() && e->modifiers() == Qt::NoModifier) return setNet(true);
    const double by = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
    Vec2 step;
    switch (e->key()) {
    case Qt::Key_Left: step = {-by, 0}; break;
    case Qt::Key_Right: step = {by, 0}; break;
    case Qt::Key_Up: step = {0, -by}; break;
    case Qt::Key_Down: step = {0, by}; break;
    default: return QWidget::keyPressEvent(e);
    }
    if (e->modifiers() & Qt::ControlModifier && layout_ == Layout::seam) {
        seam_ = std::clamp(seam_ + step.x / width() * 4, 0.0, 1.0);
        placeNames();
        update();
        return;
    }
    Document& doc = desk_.document;
    if (tool_ == Tool::light && doc.light() && standing(doc.light()->what)) {
        changeLights(doc, tr("Move %1").arg(nameOf(*doc.light())), [&](const Light&, const Described& here) {
            const auto lamp = standing(here);
            return lamp ? here.with("x", lamp->x + step.x).with("y", lamp->y + step.y) : here;
        });
        return;
    }
    if (doc.chosen().isEmpty() || !newest_) return;
    const Placing p = placing_of(desk_.scene(), movable());
    const auto placements = moved(p, step);
    doc.edit(tr("Move"), [&](Piece& piece) {
        for (std::size_t i = 0; i < placements.size(); ++i)
            change(piece, p.parts[i].id, [&](Element& part) { part.placement = placements[i]; });
    });
}

void Table::keyReleaseEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space && !e->isAutoRepeat()) {
        spaceHeld_ = false;
        unsetCursor();
    } else if (e->key() == Qt::Key_X && !e->isAutoRepeat())
        setWithout(false);
    else if (e->key() == Qt::Key_W && !e->isAutoRepeat())
        setNet(false);
    else if (e->key() == Qt::Key_F && !e->isAutoRepeat())
        setFollowing(false);
    else
        QWidget::keyReleaseEvent(e);
}

} // namespace bathylux
