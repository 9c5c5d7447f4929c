#include "app/solid/solid_pane.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QToolButton>
#include <cmath>

#include "app/controls/controls.h"
#include "app/controls/solid_edit.h"
#include "app/controls/theme.h"
#include "app/document/lights_edit.h"
#include "app/table/picking.h"
#include "core/check/faults.h"
#include "core/render/tied_lights.h"

namespace bathylux {

namespace {

constexpr double degreesAPx = 0.4;
constexpr int graspReach = 11;

float within180(double degrees) { return static_cast<float>(std::remainder(degrees, 360.0)); }

Vec3 turnedAbout(Vec3 v, Vec3 axis, double degrees) {
    const double a = degrees * radians_per_degree, c = std::cos(a), s = std::sin(a);
    return c * v + s * cross(axis, v) + ((1 - c) * dot(axis, v)) * axis;
}

} // namespace

SolidPane::SolidPane(Desk& desk, Table& table)
    : QWidget(&table), desk_(desk), table_(table), renderer_(desk.renderer, this) {
    setObjectName("solidPane");
    setAccessibleName(tr("Solid"));
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    place_ = new QToolButton(this);
    place_->setObjectName("placeLabel");
    place_->setCheckable(true);
    place_->setProperty("well", true);
    place_->setFont(Theme::words(12));
    place_->setText(tr("Place the label"));
    place_->setToolTip(tr("Drag the label over the body; its corners size it, the ring turns it"));
    place_->setAccessibleName(place_->text());
    connect(place_, &QToolButton::toggled, this, &SolidPane::setPlacing);
    sharpen_.setSingleShot(true);
    sharpen_.setInterval(120);
    connect(&sharpen_, &QTimer::timeout, this, [this] {
        resting_ = true;
        request();
        resting_ = false;
    });
    connect(&table_, &Table::sidesMoved, this, &SolidPane::place);
    connect(&table_, &Table::toolChanged, this, qOverload<>(&QWidget::update));
    connect(&desk_.document, &Document::changed, this, &SolidPane::request);
    connect(&desk_.document, &Document::choiceChanged, this, qOverload<>(&QWidget::update));
    connect(&renderer_, &SolidRenderer::pictured, this, [this](std::shared_ptr<SolidFrame> frame) {
        if (frame->ask.ready) {
            auto kept = std::make_shared<SolidFrame>(*frame);
            kept->scene = {}; // what is only looked at needs no geometry
            const auto bytes = static_cast<std::size_t>(kept->image.sizeInBytes());
            desk_.renderer.budget()->keep(frame->ask.ready, {kept, bytes}, Lasts::lasting);
        }
        frame_ = std::move(frame);
        trouble_.clear();
        update();
    });
    connect(&renderer_, &SolidRenderer::failed, this, [this](const QString& why) {
        trouble_ = why;
        update();
    });
    place();
}

bool SolidPane::settled() const {
    return frame_ && !frame_->ask.coarse && frame_->samples == SolidFrame::most && renderer_.idle() &&
           frame_->ask.state.piece == desk_.document.state().piece;
}

void SolidPane::place() {
    const QRect r = table_.solidRect();
    // Every change of the piece is told here as well: what is asked for anew is only another place or size.
    const bool same = isVisible() && geometry() == r;
    setVisible(!r.isEmpty());
    if (r.isEmpty() || same) return;
    setGeometry(r);
    raise();
    request();
}

void SolidPane::resizeEvent(QResizeEvent*) {
    place_->adjustSize();
    place_->move(width() - place_->width() - 12, 10);
}

void SolidPane::request() {
    if (!isVisible() || width() < 8 || height() < 8) return;
    place_->setVisible(!solid().body.is_whole());
    if (placing_ && solid().body.is_whole()) setPlacing(false); // there is no label any more
    SolidAsk ask;
    ask.state = desk_.document.state();
    ask.frame = desk_.document.frame();
    ask.size = size() * devicePixelRatioF();
    ask.fault = fault_.toStdString();
    ask.coarse = (desk_.document.inStroke() || desk_.playing) && !resting_;
    if (ask.coarse) sharpen_.start();
    update();
    if (desk_.playing && !resting_) {
        Hash h;
        h << "solid" << desk_.document.saying() << ask.frame << ask.size.width() << ask.size.height()
          << ask.fault;
        ask.ready = h.value();
        if (const auto kept =
                std::static_pointer_cast<const SolidFrame>(desk_.renderer.budget()->find(ask.ready))) {
            auto shown = std::make_shared<SolidFrame>(*kept);
            if (frame_) shown->scene = frame_->scene;
            frame_ = std::move(shown);
            return;
        }
    }
    renderer_.request(ask);
}

void SolidPane::edit(const QString& name, const std::function<void(Solid&)>& change) {
    editSolid(desk_.document, name, change);
}

Sight SolidPane::sight() const { return sight(solid().camera); }

Sight SolidPane::sight(const Camera& camera) const {
    return {camera, desk_.document.piece().canvas.height, std::max(1, width()), std::max(1, height())};
}

QPointF SolidPane::toScreen(Vec3 point) const {
    const Vec3 s = sight().seen_at(point);
    return {s.x, s.y};
}

std::optional<Spot> SolidPane::spotAt(QPointF p) const {
    if (!frame_ || !frame_->scene.skin) return std::nullopt;
    return spot_at(frame_->scene, sight(), p.x(), p.y());
}

std::optional<Vec2> SolidPane::heldLabelAt(QPointF p) const {
    return level_ ? level_->uv_under(sight().through(p.x(), p.y())) : std::nullopt;
}

std::optional<Vec2> SolidPane::heldCanvasAt(QPointF p) const {
    if (!level_) return std::nullopt;
    const Ray ray = sight().through(p.x(), p.y());
    Skin::Hit hit;
    level_->meet({&ray, 1}, {&hit, 1});
    if (!std::isfinite(hit.distance)) return std::nullopt;
    const SkinFrame there = level_->frame(hit, 0);
    return there.covered ? std::optional(there.canvas) : std::nullopt;
}

void SolidPane::setPlacing(bool placing) {
    placing_ = placing;
    place_->setChecked(placing);
    update();
}

void SolidPane::lookFrom(double turn, double tilt) {
    edit(tr("Look from another side"), [&](Solid& s) {
        s.camera.turn = within180(turn), s.camera.tilt = static_cast<float>(tilt), s.camera.roll = 0;
    });
}

void SolidPane::keepCamera(const QString& name) {
    edit(tr("Keep this camera"), [&](Solid& s) {
        const std::string wanted = name.toStdString();
        for (KeptCamera& c : s.cameras)
            if (c.name == wanted) return void(c.camera = s.camera);
        s.cameras.push_back({wanted, s.camera});
    });
}

void SolidPane::useCamera(int index) {
    const Solid now = solid();
    if (index < 0 || index >= static_cast<int>(now.cameras.size())) return;
    edit(tr("Look through another camera"),
         [&](Solid& s) { s.camera = s.cameras[static_cast<std::size_t>(index)].camera; });
}

QPointF SolidPane::globe() const { return QPointF(width() - globeRadius - 16, height() - globeRadius - 16); }

// --- lamps about the solid ---

std::optional<Vec3> SolidPane::headOf(const Light& light) const {
    if (!frame_ || !frame_->scene.skin) return std::nullopt;
    const auto lamp = lamp_about(desk_.document.piece(), light, frame_->scene.skin->laying(), solid().camera);
    if (!lamp) return std::nullopt;
    if (!lamp->directional) return Vec3{lamp->x, -lamp->y, lamp->z};
    // Far lights stand where their light comes from, outside the body.
    const auto [low, high] = frame_->scene.skin->bounds();
    return 0.5 * (low + high) + (0.62 * length(high - low)) * Vec3{lamp->x, lamp->y, lamp->z};
}

std::string SolidPane::lampAt(QPointF p) const {
    std::string out;
    double nearest = graspReach + 2;
    for (const Light& l : desk_.document.piece().lights)
        if (const auto head = headOf(l))
            if (const double d = distance(toScreen(*head), p); d < nearest) nearest = d, out = l.id;
    return out;
}

void SolidPane::dragLamp(QPointF p, Qt::KeyboardModifiers m) {
    const Piece& piece = desk_.document.piece();
    const Light* light = find_light(piece, lamp_);
    if (!light) return;
    const Camera camera = solid().camera;
    if (light->stands == Stands::body) {
        // Its foot walks over the skin.
        if (m & Qt::ShiftModifier) {
            if (light->what.kind().find("z"))
                desk_.document.edit(tr("Raise light"), [&](Piece& q) {
                    change_light(q, lamp_, [&](Light& l) {
                        const double z = std::get<double>(l.what.get("z")) + (last_.y() - p.y());
                        l.what = l.what.with("z", std::max(1.0, z));
                    });
                });
            return;
        }
        const auto spot = spotAt(p);
        if (!spot || !spot->covered || !light->kind().stands) return;
        desk_.document.edit(tr("Move light"), [&](Piece& q) {
            change_light(q, lamp_, [&](Light& l) {
                put_on_canvas(
                    q, l, l.what.with("x", std::round(spot->canvas.x)).with("y", std::round(spot->canvas.y)));
            });
        });
        return;
    }
    const auto [low, high] = frame_->scene.skin->bounds();
    const Vec3 middle =
        light->stands == Stands::camera ? Vec3{camera.x, camera.y, camera.z} : 0.5 * (low + high);
    const Sight view = sight();
    Vec3 from = grabbedHead_ - middle;
    if (m & Qt::ShiftModifier) // nearer and farther
        from = std::pow(1.006, p.y() - pressed_.y()) * from;
    else {
        from = turnedAbout(from, view.up(), degreesAPx * (p.x() - pressed_.x()));
        from = turnedAbout(from, view.right(), degreesAPx * (p.y() - pressed_.y()));
    }
    const bool far = !light->kind().stands;
    desk_.document.edit(tr("Walk light"), [&](Piece& q) {
        change_light(q, lamp_, [&](Light& l) { put_about(q, l, camera, far ? from : middle + from); });
    });
}

// --- the hand ---

std::optional<std::array<QPointF, 4>> SolidPane::labelCorners() const {
    const Solid s = solid();
    if (!placing_ || s.body.is_whole() || s.body.kind == BodyKind::mesh) return std::nullopt;
    const Canvas& c = desk_.document.piece().canvas;
    const Laying laying(s.body, c.width, c.height);
    const auto at = [&](double x, double y) {
        const SurfacePoint p = laying.at({x, y});
        return toScreen(p.place + double(s.body.shift) * p.normal);
    };
    return std::array{at(0, 0), at(c.width, 0), at(c.width, c.height), at(0, c.height)};
}

std::optional<QPointF> SolidPane::turnHandle() const {
    const auto corners = labelCorners();
    if (!corners) return std::nullopt;
    const QPointF top = ((*corners)[0] + (*corners)[1]) / 2, foot = ((*corners)[2] + (*corners)[3]) / 2;
    const QPointF way = top - foot;
    const double l = std::max(1.0, std::hypot(way.x(), way.y()));
    return top + 26 / l * way;
}

std::string SolidPane::elementAt(const Spot& spot) {
    const auto& chosen = desk_.document.chosen();
    if (chosen.isEmpty() || desk_.document.readOnly()) return {};
    for (const std::string& id :
         elements_at(picking_, desk_.scene(), spot.canvas, table_.group().toStdString()))
        if (chosen.contains(QString::fromStdString(id))) {
            const Element* e = find_element(desk_.document.piece().elements, id);
            return e && !e->locked ? id : std::string();
        }
    return {};
}

void SolidPane::showFault(const QString& check) {
    const bool paints = fault_of(desk_.document.piece(), check.toStdString()).has_value();
    fault_ = paints && check != fault_ ? check : QString();
    request();
}

SolidPane::Hold SolidPane::holdAt(QPointF p) {
    if (table_.tool() == Table::Tool::light) {
        lamp_ = lampAt(p);
        if (!lamp_.empty()) return Hold::lamp;
    }
    if (table_.tool() == Table::Tool::paint) {
        if (const auto spot = spotAt(p); spot && spot->covered) return Hold::paint;
    }
    if (const auto corners = labelCorners()) {
        if (const auto ring = turnHandle(); ring && distance(*ring, p) < graspReach) return Hold::labelTurn;
        for (const QPointF& c : *corners)
            if (distance(c, p) < graspReach) return Hold::size;
    }
    const auto spot = spotAt(p);
    if (spot && table_.tool() == Table::Tool::section) return Hold::measure;
    if (placing_ && spot && spot->covered) return Hold::label;
    // What is chosen is moved over the skin.
    if (spot && spot->covered && table_.tool() == Table::Tool::place && !elementAt(*spot).empty())
        return Hold::element;
    return Hold::turn;
}

void SolidPane::mousePressEvent(QMouseEvent* e) {
    setFocus();
    pressed_ = last_ = e->position();
    if (e->button() == Qt::MiddleButton) {
        hold_ = Hold::pan;
        stroke_ = desk_.document.stroke();
        grabbed_ = solid();
        return;
    }
    if (e->button() != Qt::LeftButton) return;
    if (desk_.document.readOnly()) return;
    if (distance(pressed_, globe()) < globeRadius + 4) return lookFrom(0, 0);
    hold_ = holdAt(pressed_);
    if (hold_ == Hold::turn && e->modifiers() & Qt::ShiftModifier) hold_ = Hold::pan;
    grabbed_ = solid();
    if (hold_ == Hold::paint) {
        QString why;
        if (!table_.painter().begin(spotAt(pressed_)->canvas, 1, e->modifiers() & Qt::ShiftModifier, why)) {
            hold_ = Hold::none;
            emit refused(why);
        }
        return;
    }
    if (hold_ == Hold::lamp) {
        if (!desk_.document.isLightChosen(lamp_)) desk_.document.chooseLight(QString::fromStdString(lamp_));
        grabbedHead_ = *headOf(*find_light(desk_.document.piece(), lamp_));
    }
    if (hold_ == Hold::measure) {
        const Vec3 place = spotAt(pressed_)->place;
        way_ = {place, place}, heldAt_ = spotAt(pressed_)->canvas;
        return;
    }
    if (hold_ == Hold::element || hold_ == Hold::label)
        level_ = frame_->scene.skin->level_with(*spotAt(pressed_), *frame_->scene.texels);
    if (hold_ == Hold::element) {
        if (const auto held = heldCanvasAt(pressed_))
            heldAt_ = *held, elements_ = placing_of(desk_.scene(), toIds(desk_.document.chosen()));
        else
            hold_ = Hold::turn;
    }
    if (hold_ == Hold::label) {
        if (const auto uv = heldLabelAt(pressed_))
            grip_ = *uv - Vec2{grabbed_.body.u, grabbed_.body.v};
        else
            hold_ = Hold::turn;
    }
    stroke_ = desk_.document.stroke();
}

void SolidPane::mouseMoveEvent(QMouseEvent* e) {
    const QPointF p = e->position();
    pointer_ = p;
    const auto spot = spotAt(p);
    desk_.soundingAt = spot && spot->covered ? spot->canvas : Vec2{-1, -1};
    emit table_.soundingMoved();
    if (hold_ == Hold::none) {
        std::string was = std::exchange(lamp_, {});
        const Hold over = holdAt(p);
        lamp_ = was;
        setCursor(over == Hold::paint                                                  ? Qt::BlankCursor
                  : over == Hold::lamp || over == Hold::label || over == Hold::element ? Qt::SizeAllCursor
                  : over == Hold::size                                                 ? Qt::SizeFDiagCursor
                  : over == Hold::labelTurn                ? Qt::PointingHandCursor
                  : distance(p, globe()) < globeRadius + 4 ? Qt::PointingHandCursor
                                                           : Qt::OpenHandCursor);
        if (table_.tool() == Table::Tool::paint) update();
        return;
    }
    const QPointF by = p - pressed_;
    switch (hold_) {
    case Hold::turn:
        edit(tr("Turn the body"), [&](Solid& s) {
            s.camera.turn = within180(grabbed_.camera.turn - degreesAPx * by.x());
            s.camera.tilt =
                std::clamp(grabbed_.camera.tilt + static_cast<float>(degreesAPx * by.y()), -90.0f, 90.0f);
        });
        break;
    case Hold::pan: {
        const Sight view = sight(grabbed_.camera);
        const Vec3 shift =
            view.px_at(grabbed_.camera.distance) * (by.y() * view.up() - by.x() * view.right());
        edit(tr("Move the camera"), [&](Solid& s) {
            s.camera.x = grabbed_.camera.x + static_cast<float>(shift.x);
            s.camera.y = grabbed_.camera.y + static_cast<float>(shift.y);
            s.camera.z = grabbed_.camera.z + static_cast<float>(shift.z);
        });
        break;
    }
    case Hold::lamp: dragLamp(p, e->modifiers()); break;
    case Hold::label:
        if (const auto uv = heldLabelAt(p))
            edit(tr("Place the label"), [&](Solid& s) {
                s.body.u = static_cast<float>(std::round(uv->x - grip_.x));
                s.body.v = static_cast<float>(std::round(uv->y - grip_.y));
            });
        break;
    case Hold::size:
    case Hold::labelTurn:
        if (const auto corners = labelCorners()) {
            const QPointF middle = ((*corners)[0] + (*corners)[2]) / 2;
            const QPointF a = pressed_ - middle, b = p - middle;
            if (hold_ == Hold::size)
                edit(tr("Size the label"), [&](Solid& s) {
                    const double k = std::hypot(b.x(), b.y()) / std::max(1.0, std::hypot(a.x(), a.y()));
                    s.body.scale = static_cast<float>(std::clamp(grabbed_.body.scale * k, 0.01, 100.0));
                });
            else
                edit(tr("Turn the label"), [&](Solid& s) {
                    const double t =
                        (std::atan2(-b.y(), b.x()) - std::atan2(-a.y(), a.x())) / radians_per_degree;
                    s.body.turn = std::round(within180(grabbed_.body.turn + t));
                });
        }
        break;
    case Hold::element:
        if (const auto held = heldCanvasAt(p); held && by.manhattanLength() > 3) {
            Vec2 way = *held - heldAt_;
            const Canvas& c = desk_.document.piece().canvas;
            const bool round = solid().body.is_whole();
            if (round) way.x -= c.width * std::round(way.x / c.width); // the short way, over the join
            const auto placements = moved(elements_, {std::round(way.x), std::round(way.y)});
            desk_.document.edit(tr("Move"), [&](Piece& q) {
                for (std::size_t i = 0; i < placements.size(); ++i)
                    bathylux::change(q, elements_.parts[i].id, [&](Element& moved_one) {
                        moved_one.placement = placements[i];
                        if (round && group_of(q, moved_one.id).empty())
                            moved_one.placement.x -= c.width * std::floor(moved_one.placement.x / c.width);
                    });
            });
        }
        break;
    case Hold::measure:
        if (spot && way_) way_->second = spot->place, measuredTo_ = spot->canvas;
        break;
    case Hold::paint:
        if (spot && spot->covered) table_.painter().move(spot->canvas, 1);
        break;
    case Hold::none: break;
    }
    last_ = p;
    update();
}

void SolidPane::mouseReleaseEvent(QMouseEvent*) {
    if (hold_ == Hold::paint) table_.painter().end();
    // A click takes what is seen there.
    const bool clicked = distance(pressed_, last_) < 3;
    if (clicked && (hold_ == Hold::turn || hold_ == Hold::element) && table_.tool() == Table::Tool::place &&
        !placing_) {
        const auto spot = spotAt(pressed_);
        const auto under = spot && spot->covered ? elements_at(picking_, desk_.scene(), spot->canvas,
                                                               table_.group().toStdString())
                                                 : std::vector<std::string>{};
        desk_.document.choose(under.empty() ? QStringList{}
                                            : QStringList{QString::fromStdString(under.front())});
    }
    if (clicked && hold_ == Hold::measure) way_.reset();
    hold_ = Hold::none;
    level_.reset();
    stroke_.end();
    request();
}

void SolidPane::wheelEvent(QWheelEvent* e) {
    const double notches = e->angleDelta().y() / 120.0;
    if (notches == 0 || desk_.document.readOnly()) return;
    stroke_ = desk_.document.stroke();
    edit(tr("Nearer or farther"), [&](Solid& s) {
        s.camera.distance =
            static_cast<float>(std::clamp(s.camera.distance * std::pow(0.9, notches), 10.0, 1e5));
    });
    stroke_.end();
    e->accept();
}

void SolidPane::keyPressEvent(QKeyEvent* e) {
    const Camera c = solid().camera;
    const bool straight = e->modifiers() & Qt::ControlModifier;
    const double step = e->modifiers() & Qt::ShiftModifier ? 1 : 10;
    const auto turn = [&](double by, double up) {
        edit(tr("Turn the body"), [&](Solid& s) {
            s.camera.turn = within180(c.turn + by);
            s.camera.tilt = std::clamp(c.tilt + static_cast<float>(up), -90.0f, 90.0f);
        });
    };
    switch (e->key()) {
    case Qt::Key_Home: return lookFrom(0, 0);
    case Qt::Key_End: return lookFrom(180, 0);
    case Qt::Key_Left: return straight ? lookFrom(-90, 0) : turn(-step, 0);
    case Qt::Key_Right: return straight ? lookFrom(90, 0) : turn(step, 0);
    case Qt::Key_Up: return straight ? lookFrom(0, 90) : turn(0, step);
    case Qt::Key_Down: return straight ? lookFrom(0, -90) : turn(0, -step);
    case Qt::Key_Plus:
    case Qt::Key_Equal:
    case Qt::Key_Minus:
        return edit(tr("Nearer or farther"), [&](Solid& s) {
            s.camera.distance =
                std::clamp(c.distance * (e->key() == Qt::Key_Minus ? 1.1f : 1 / 1.1f), 10.0f, 1e5f);
        });
    case Qt::Key_Escape:
        if (placing_) return setPlacing(false);
        if (!fault_.isEmpty()) return showFault(fault_);
        break;
    default: break;
    }
    e->ignore();
}

void SolidPane::leaveEvent(QEvent*) {
    pointer_.reset();
    desk_.soundingAt = {-1, -1};
    emit table_.soundingMoved();
    update();
}

} // namespace bathylux
