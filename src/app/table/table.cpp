#include "app/table/table.h"

#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QToolButton>

#include "app/controls/controls.h"
#include "app/controls/theme.h"

namespace bathylux {

namespace {

constexpr int rulerRoom = 20; // around a fitted canvas, for its ruler
constexpr double leastZoom = 0.02, mostZoom = 32;
constexpr double mostWholePixels =
    5e6; // up to here the whole canvas is rendered, so that panning waits for nothing

const std::pair<View, const char*> viewNames[] = {
    {View::art, QT_TRANSLATE_NOOP("Table", "Art")},
    {View::height, QT_TRANSLATE_NOOP("Table", "Height")},
    {View::normals, QT_TRANSLATE_NOOP("Table", "Normals")},
    {View::lit, QT_TRANSLATE_NOOP("Table", "Lit")},
    {View::unfinished, QT_TRANSLATE_NOOP("Table", "Lit, unfinished")},
    {View::occlusion, QT_TRANSLATE_NOOP("Table", "Occlusion")},
    {View::slope, QT_TRANSLATE_NOOP("Table", "Slope")},
    {View::curvature, QT_TRANSLATE_NOOP("Table", "Curvature")},
    {View::roughness, QT_TRANSLATE_NOOP("Table", "Roughness")},
    {View::metallic, QT_TRANSLATE_NOOP("Table", "Metallic")},
    {View::mask, QT_TRANSLATE_NOOP("Table", "Mask")}};

/// A step that takes away of an element's shape by what it looks like: what goes is shown.
bool takesOfItsShape(const Step& s) {
    return s.on && s.kind().group == "shape" && s.kind().gives.has(channel::coverage) &&
           s.kind().reads == channel::color;
}

QString nameOfView(View v) {
    for (const auto& [view, name] : viewNames)
        if (view == v) return Table::tr(name);
    return {};
}

} // namespace

Table::Table(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAcceptDrops(true);
    setMinimumSize(320, 240);
    setAccessibleName(tr("Table"));
    const auto button = [this](bool left) {
        auto* b = new QToolButton(this);
        b->setPopupMode(QToolButton::InstantPopup);
        b->setObjectName(left ? "leftView" : "rightView");
        b->setToolTip(left ? tr("What the left side shows") : tr("What the right side shows"));
        auto* menu = new QMenu(b);
        connect(menu, &QMenu::aboutToShow, this, [this, menu, left] {
            menu->clear();
            for (const auto& [view, name] : viewNames)
                menu->addAction(tr(name), this, [this, left, v = view] { setView(left, v); });
            menu->addSeparator();
            menu->addAction(tr("Solid"), this, [this, left] { setSolid(left); });
            if (desk_.document.piece().moods.empty()) return;
            menu->addSeparator();
            for (const Mood& t : desk_.document.piece().moods)
                menu->addAction(tr("Lit: %1").arg(QString::fromStdString(t.name.empty() ? t.id : t.name)),
                                this, [this, left, id = t.id] { setMood(left, id); });
        });
        b->setMenu(menu);
        b->setFont(Theme::words(13, QFont::Medium));
        // On a well of the ground's colour, readable over any picture.
        b->setProperty("well", true);
        return b;
    };
    leftName_ = button(true);
    rightName_ = button(false);
    centre_ = {desk_.document.piece().canvas.width / 2.0, desk_.document.piece().canvas.height / 2.0};

    sharpen_.setSingleShot(true);
    sharpen_.setInterval(140);
    connect(&sharpen_, &QTimer::timeout, this, [this] {
        // The hand rests, though it may still hold on: sharp all the same.
        resting_ = true;
        requestFrame();
        resting_ = false;
    });
    connect(&desk_.document, &Document::changed, this, [this] {
        placeNames();
        askAgain();
    });
    // It is being made while the panels are.
    connect(&desk_.document, &Document::replaced, this, [this] {
        if (isVisible()) fit();
    });
    connect(&desk_.document, &Document::choiceChanged, this, [this] {
        pivot_.reset();
        // What a step takes away is shown only while it is open.
        const Step* open = desk_.document.openStep();
        if (const Element* g = desk_.document.element(group_); !g || !g->is_group()) group_.clear();
        const bool knocks = open && takesOfItsShape(*open);
        if (knocks || (newest_ && !newest_->shot.knocked.empty())) requestFrame();
        update();
    });
    connect(&desk_.renderer, &Renderer::framed, this, &Table::frameReady);
    connect(&desk_.document, &Document::choiceChanged, this, &Table::askStreams);
    placeNames();
}

// --- where things are ---

QRect Table::field() const { return rect().adjusted(0, namesHeight_, 0, 0); }

QRect Table::pane(bool left) const {
    const QRect f = field();
    if (layout_ != Layout::beside) return f;
    // Beside one another, or above for pieces that are wider than high.
    const Canvas& c = desk_.document.piece().canvas;
    if (c.width > 1.35 * c.height * f.width() / std::max(1, f.height())) {
        const int h = f.height() / 2;
        return left ? QRect(f.left(), f.top(), f.width(), h)
                    : QRect(f.left(), f.top() + h, f.width(), f.height() - h);
    }
    const int w = f.width() / 2;
    return left ? QRect(f.left(), f.top(), w, f.height())
                : QRect(f.left() + w, f.top(), f.width() - w, f.height());
}

double Table::seamX() const {
    if (layout_ == Layout::left) return field().right() + 1;
    if (layout_ == Layout::right) return field().left();
    return field().left() + seam_ * field().width();
}

bool Table::paneAt(QPointF p) const {
    if (layout_ == Layout::beside) return pane(true).contains(p.toPoint());
    return p.x() < seamX();
}

QPointF Table::toScreen(Vec2 c, bool leftPane) const {
    const QPointF middle = QRectF(pane(leftPane)).center();
    return {middle.x() + (c.x - centre_.x) * zoom_, middle.y() + (c.y - centre_.y) * zoom_};
}

Vec2 Table::toCanvas(QPointF s) const {
    const QPointF middle = QRectF(pane(paneAt(s))).center();
    return {centre_.x + (s.x() - middle.x()) / zoom_, centre_.y + (s.y() - middle.y()) / zoom_};
}

std::optional<Color> Table::colorUnder(QPointF s) const {
    if (!newest_) return std::nullopt;
    const bool left = paneAt(s);
    const Shot& shot = newest_->shot;
    const Vec2 at = toCanvas(s);
    const int x = static_cast<int>(std::floor(at.x * shot.scale)) - shot.region.x0,
              y = static_cast<int>(std::floor(at.y * shot.scale)) - shot.region.y0;
    if (x < 0 || y < 0 || x >= shot.region.width() || y >= shot.region.height()) return std::nullopt;
    const QImage& image = left ? newest_->left : newest_->right;
    const View view = left ? left_ : right_;
    if (is_color(view) && image.valid(x, y)) return fromQt(image.pixelColor(x, y));
    // Elsewhere the art, whose colour the picture does not show.
    const auto& relief = newest_->relief;
    if (!relief || !(relief->region == shot.region)) return std::nullopt;
    const float a = relief->coverage.at(x, y);
    if (!(a > 0)) return std::nullopt;
    const auto byte = [&](int c) {
        return srgb_encode(std::clamp(relief->color[static_cast<std::size_t>(c)].at(x, y) / a, 0.0f, 1.0f));
    };
    return in_bytes({byte(0), byte(1), byte(2), 1});
}

QRectF Table::canvasOnScreen(bool leftPane) const {
    const Canvas& c = desk_.document.piece().canvas;
    return {toScreen({0, 0}, leftPane), toScreen({c.width, c.height}, leftPane)};
}

QString Table::nameOfSide(bool left) const {
    if (showsSolid(left)) return tr("Solid");
    const std::string& mood = left ? leftMood_ : rightMood_;
    for (const Mood& t : desk_.document.piece().moods)
        if (t.id == mood) return tr("Lit: %1").arg(QString::fromStdString(t.name.empty() ? t.id : t.name));
    return nameOfView(left ? left_ : right_);
}

void Table::placeNames() {
    emit sidesMoved();
    leftName_->setText(nameOfSide(true) + QString::fromUtf8(" ▾"));
    rightName_->setText(nameOfSide(false) + QString::fromUtf8(" ▾"));
    leftName_->setAccessibleName(tr("Left view: %1").arg(nameOfSide(true)));
    rightName_->setAccessibleName(tr("Right view: %1").arg(nameOfSide(false)));
    leftName_->adjustSize();
    rightName_->adjustSize();
    leftName_->setVisible(layout_ != Layout::right);
    rightName_->setVisible(layout_ != Layout::left);
    const int y = (namesHeight_ - leftName_->height()) / 2;
    if (layout_ == Layout::beside && pane(true).top() != pane(false).top()) {
        leftName_->move(8, y);
        rightName_->move(8, pane(false).top() + 2);
        return;
    }
    double x = seamX();
    if (layout_ == Layout::beside) x = pane(false).left();
    if (layout_ == Layout::left || layout_ == Layout::right) {
        leftName_->move((width() - leftName_->width()) / 2, y);
        rightName_->move((width() - rightName_->width()) / 2, y);
        return;
    }
    leftName_->move(
        std::clamp(static_cast<int>(x) - leftName_->width() - 10, 0, width() - leftName_->width()), y);
    rightName_->move(std::clamp(static_cast<int>(x) + 10, 0, width() - rightName_->width()), y);
}

// --- view ---

void Table::setTool(Tool tool) {
    if (tool == tool_) return;
    if (tool_ == Tool::crop) cancelCrop();
    tool_ = tool;
    if (tool == Tool::crop) {
        crop_ = canvas_region(desk_.document.piece().canvas, 1);
        emit cropProposed(true);
    }
    if (tool == Tool::paint && painter_.fitTo != desk_.document.piece().canvas.width) {
        // A brush that suits the piece, once for every size of one.
        const Canvas& c = desk_.document.piece().canvas;
        painter_.fitTo = c.width;
        painter_.brush.size = std::max(3.0f, std::round(std::min(c.width, c.height) * 0.06f));
        painter_.brush.height = std::max(0.5f, std::round(painter_.brush.size * 0.16f) / 2);
        painter_.brush.pattern.size = std::max(4.0f, std::round(painter_.brush.size / 3));
    }
    setFocus();
    update();
    emit toolChanged();
}

void Table::setLayout(Layout layout) {
    layout_ = layout;
    if (layout == Layout::seam && (seam_ < 0.05 || seam_ > 0.95)) seam_ = 0.5;
    if (fitted_) fit();
    placeNames();
    requestFrame();
    update();
    emit viewChanged();
}

void Table::setView(bool left, View view) {
    (left ? left_ : right_) = view;
    (left ? leftSolid_ : rightSolid_) = false;
    (left ? leftMood_ : rightMood_).clear();
    placeNames();
    requestFrame();
    emit viewChanged();
}

void Table::setSolid(bool left) {
    // There is one: it moves over.
    leftSolid_ = left, rightSolid_ = !left;
    placeNames();
    requestFrame();
    emit viewChanged();
}

QRect Table::solidRect() const {
    if (!leftSolid_ && !rightSolid_) return {};
    const QRect f = field();
    const bool left = leftSolid_;
    if (layout_ == Layout::left || layout_ == Layout::right)
        return (layout_ == Layout::left) == left ? f : QRect();
    if (layout_ == Layout::beside) return pane(left);
    // The seam stays free for the hand.
    const int x = static_cast<int>(std::round(seamX())), clear = 2;
    return left ? QRect(f.left(), f.top(), std::max(0, x - clear - f.left()), f.height())
                : QRect(x + clear, f.top(), std::max(0, f.right() + 1 - x - clear), f.height());
}

void Table::setMood(bool left, const std::string& mood) {
    (left ? left_ : right_) = View::lit;
    (left ? leftSolid_ : rightSolid_) = false;
    (left ? leftMood_ : rightMood_) = mood;
    placeNames();
    requestFrame();
    emit viewChanged();
}

void Table::setGrey(bool grey) {
    grey_ = grey;
    requestFrame();
    emit viewChanged();
}

void Table::setWithout(bool without) {
    if (without == without_) return;
    without_ = without;
    requestFrame();
}

void Table::setContourStep(double step) {
    contourStep_ = step;
    requestFrame();
    emit viewChanged();
}

void Table::setJoin(bool join) {
    join_ = join;
    requestFrame();
    emit viewChanged();
}

void Table::setShowClipped(bool show) {
    showClipped_ = show;
    requestFrame();
    emit viewChanged();
}

void Table::fit() {
    const Canvas& c = desk_.document.piece().canvas;
    const QRect p = pane(true);
    const double room = 2 * rulerRoom + 12;
    zoom_ =
        std::clamp(std::min((p.width() - room) / c.width, (p.height() - room) / c.height), leastZoom, 1e3);
    if (zoom_ > 1) zoom_ = std::min(zoom_, 4.0);
    centre_ = {c.width / 2.0, c.height / 2.0};
    fitted_ = true;
    requestFrame();
    update();
    emit zoomChanged(zoom_);
}

void Table::askAgain() {
    if (fitted_) return fit();
    requestFrame();
    update();
}

void Table::setZoom(double zoom, QPointF about) {
    zoom = std::clamp(zoom, leastZoom, mostZoom);
    if (about.isNull()) about = QRectF(pane(true)).center();
    const Vec2 held = toCanvas(about);
    zoom_ = zoom;
    const Vec2 now = toCanvas(about);
    centre_ = centre_ + (held - now);
    fitted_ = false;
    keepInSight();
    requestFrame();
    update();
    emit zoomChanged(zoom_);
}

void Table::zoomBy(double factor) { setZoom(zoom_ * factor); }

void Table::keepInSight() {
    const Canvas& c = desk_.document.piece().canvas;
    centre_ = {std::clamp(centre_.x, 0.0, double(c.width)), std::clamp(centre_.y, 0.0, double(c.height))};
}

void Table::showPlace(Vec2 at) {
    const QRectF seen = QRectF(pane(true)).adjusted(40, 40, -40, -40);
    if (!seen.contains(toScreen(at))) {
        centre_ = at;
        fitted_ = false;
        requestFrame();
    }
    ring_.show(at);
}

void Table::requestFrame() {
    const Piece& piece = desk_.document.piece();
    if (!desk_.open || width() < 2 || piece.canvas.width < 1) return;
    Shot shot;
    shot.state = desk_.document.state();
    if (without_) {
        auto without = std::make_shared<Piece>(piece);
        for (const QString& id : desk_.document.chosen())
            change(*without, id.toStdString(), [](Element& e) { e.mix.visible = false; });
        shot.state.piece = without;
    }
    shot.left = left_, shot.leftMood = leftMood_;
    shot.right = right_, shot.rightMood = rightMood_;
    if (layout_ == Layout::left) shot.right = left_, shot.rightMood = leftMood_;
    if (layout_ == Layout::right) shot.left = right_, shot.leftMood = rightMood_;
    shot.grey = grey_;
    shot.contourStep = contourStep_;
    shot.frame = desk_.document.frame();
    shot.onion = desk_.onion;
    shot.join = join_;
    shot.showClipped = showClipped_;
    shot.pieceNumber = desk_.document.pieceNumber();
    // While a step that knocks a background out is open, what goes is shown.
    if (const Step* open = desk_.document.openStep(); open && takesOfItsShape(*open)) {
        const Element* e = desk_.document.openElement();
        shot.knocked = e->id, shot.knockedStep = index_of_step(e->steps, open->id);
    }
    shot.saying = desk_.document.sayingFlat();
    if (without_)
        shot.saying += content_hash(*shot.state.piece); // another picture, though the piece says the same
    // While the hand moves, half as fine if a sharp picture would not keep up.
    shot.coarse = desk_.document.inStroke() && !resting_;
    const double ratio = devicePixelRatioF();
    shot.scale = std::min(1.0, zoom_ * ratio);
    const Region all = canvas_region(piece.canvas, shot.scale);
    shot.region = all;
    if (all.area() > mostWholePixels && piece.canvas.edge != Edge::repeat && !join_) {
        // What is in sight and a margin round it.
        Box seen;
        for (const bool side : {true, false}) {
            const QRect p = pane(side);
            const QPointF m = QRectF(p).center();
            for (const QPoint q : {p.topLeft(), p.bottomRight()})
                seen.add(shot.scale *
                         Vec2{centre_.x + (q.x() - m.x()) / zoom_, centre_.y + (q.y() - m.y()) / zoom_});
        }
        shot.region = intersect(grow(covering(seen), 96), all);
        if (shot.region.empty()) shot.region = intersect({0, 0, 16, 16}, all);
    }
    // What changed is seen on the solid alone: the picture stands.
    const std::pair sharp{ReadyFrames::look(shot), shot.frame};
    if (newest_ && newest_->relief && !newest_->shot.coarse && askedFor_ == sharp &&
        std::pair{ReadyFrames::look(newest_->shot), newest_->shot.frame} == sharp) {
        newest_->shot.state = shot.state;
        return update();
    }
    // Played, a picture goes through, and is coarser only where it would take very long.
    if (desk_.playing) shot.coarse = true;
    if (shot.coarse && sharpMilliseconds_ > (desk_.playing ? 250 : 45)) {
        const double k = sharpMilliseconds_ > 300 ? 0.35 : 0.5;
        const Box part{shot.region.x0 * k, shot.region.y0 * k, shot.region.x1 * k, shot.region.y1 * k};
        shot.scale *= k;
        const Region coarse = canvas_region(piece.canvas, shot.scale);
        shot.region = shot.region == all ? coarse : intersect(covering(part), coarse);
    }
    if (const auto kept = desk_.ready.find(ReadyFrames::look(shot), shot.frame)) {
        const auto ready = std::make_shared<Frame>(*kept);
        ready->shot.state = shot.state, ready->shot.coarse = true;
        if (newest_) ready->assets = newest_->assets;
        desk_.renderer.show(ready);
        if (desk_.playing) return;
    }
    const std::pair asking{ReadyFrames::look(shot), shot.frame};
    // Asked for once more while it is being made, it would be begun anew.
    if (!shot.coarse && asking == askedFor_ && shot.state.piece == sharpOf_ && desk_.renderer.making(asked_))
        return;
    askedFor_ = asking;
    sharpOf_ = shot.coarse ? nullptr : shot.state.piece;
    asked_ = desk_.renderer.request(shot);
    if (shot.coarse && !desk_.playing) sharpen_.start();
}

void Table::frameReady(const std::shared_ptr<Frame>& frame) {
    newest_ = frame;
    if (frame->relief && !desk_.document.inStroke())
        desk_.ready.keep(ReadyFrames::look(frame->shot), frame->shot.frame, *frame);
    if (frame->shot.region == canvas_region(frame->shot.state.piece->canvas, frame->shot.scale))
        whole_ = frame;
    if (!frame->shot.coarse) {
        sharpMilliseconds_ = frame->milliseconds;
        marks_.clear();
        askStreams();
    }
    update();
    emit soundingMoved();
}

// --- events that concern the view ---

void Table::resizeEvent(QResizeEvent*) {
    placeNames();
    askAgain();
}

void Table::wheelEvent(QWheelEvent* e) {
    if (tool_ == Tool::paint && e->modifiers() & Qt::AltModifier) {
        // Alt turns the wheel into the brush's size, with Shift its hardness. (Alt swaps the wheel's axes.)
        const double turn = (e->angleDelta().x() + e->angleDelta().y()) / 120.0;
        Brush& b = painter_.brush;
        if (e->modifiers() & Qt::ShiftModifier)
            b.hardness = std::clamp(b.hardness + 0.05f * static_cast<float>(turn), 0.0f, 1.0f);
        else
            b.size = std::clamp(b.size * static_cast<float>(std::pow(1.12, turn)), 1.0f, 4096.0f);
        emit brushChanged();
        update();
        return;
    }
    if (following_) return raiseLight(std::pow(1.12, e->angleDelta().y() / 120.0));
    // The wheel scrolls, with Ctrl it zooms; two fingers pan by just as much as they move.
    const bool fingers = !e->pixelDelta().isNull();
    if (e->modifiers() & Qt::ControlModifier)
        return setZoom(zoom_ * std::pow(1.18, (e->angleDelta().x() + e->angleDelta().y()) / 120.0),
                       e->position());
    QPointF by = fingers ? QPointF(e->pixelDelta()) : QPointF(e->angleDelta()) / 120.0 * 60;
    if (e->modifiers() & Qt::ShiftModifier) by = {by.x() + by.y(), 0};
    centre_ = centre_ - Vec2{by.x() / zoom_, by.y() / zoom_};
    fitted_ = false;
    keepInSight();
    requestFrame();
    update();
}

bool Table::event(QEvent* e) {
    if (e->type() == QEvent::NativeGesture) {
        const auto* g = static_cast<QNativeGestureEvent*>(e);
        if (g->gestureType() == Qt::ZoomNativeGesture) {
            setZoom(zoom_ * std::max(0.1, 1 + g->value()), g->position());
            return true;
        }
    }
    return QWidget::event(e);
}

void Table::leaveEvent(QEvent*) {
    pointer_.reset();
    setFollowing(false);
    update();
    desk_.soundingAt = {-1, -1};
    emit soundingMoved();
}

void Table::contextMenuEvent(QContextMenuEvent* e) { emit menuAsked(e->globalPos()); }

void Table::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls() || e->mimeData()->hasImage() || e->mimeData()->hasText())
        e->acceptProposedAction();
}

void Table::dropEvent(QDropEvent* e) {
    if (e->mimeData()->hasUrls())
        emit filesDropped(e->mimeData()->urls(), toCanvas(e->position()));
    else
        emit dataDropped(e->mimeData(), toCanvas(e->position()));
    e->acceptProposedAction();
}

} // namespace bathylux
