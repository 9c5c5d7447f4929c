#include "app/light_desk.h"

#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls.h"
#include "app/sky_chart.h"
#include "app/theme.h"
#include "core/piece/lights.h"

namespace bathylux {

namespace {

QString qs(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size())); }

Color colorOf(const Light& l) { return std::get<Color>(l.what.get("color")); }
double intensityOf(const Light& l) { return std::get<double>(l.what.get("intensity")); }

Light farLight(const char* id, const char* name, float angle, float elevation, Color color, float intensity) {
    DirectionalLight d;
    d.angle = angle, d.elevation = elevation, d.color = color, d.intensity = intensity;
    return {id, name, true, Described(light_kind("directional"), d), {}};
}

Light lamp(const char* id, const char* name, double x, double y, double z, Color color, float intensity,
           double reach) {
    PointLight p;
    p.x = static_cast<float>(x), p.y = static_cast<float>(y), p.z = static_cast<float>(z), p.color = color,
    p.intensity = intensity, p.distance = static_cast<float>(reach);
    return {id, name, true, Described(light_kind("point"), p), {}};
}

constexpr Color daylight{1, 0.98f, 0.94f, 1}, sky{0.66f, 0.78f, 1, 1}, warm{1, 0.76f, 0.46f, 1};

} // namespace

// --- a row ---

LightRow::LightRow(Desk& desk, const std::string& id, QWidget* parent)
    : QWidget(parent), desk_(desk), id_(id) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(34);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    if (const Light* l = light()) setAccessibleName(nameOf(*l));
    setToolTip(
        tr("Click to choose, the dot switches it, drag the scale for its intensity, double-click to rename"));
}

const Light* LightRow::light() const {
    for (const Light& l : desk_.document.piece().lights)
        if (l.id == id_) return &l;
    return nullptr;
}

QRectF LightRow::scale() const {
    const double w = width() < 235 ? 38 : 66; // names come first where room is scarce
    return {width() - 52 - w, 0, w, double(height())};
}

void LightRow::paintEvent(QPaintEvent*) {
    const Light* l = light();
    if (!l) return;
    const Theme& t = Theme::current();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool chosen = desk_.document.chosenLight().toStdString() == id_;
    if (chosen || hasFocus()) {
        p.setBrush(chosen ? t.selection : Qt::NoBrush);
        p.setPen(QPen(t.accent, 1));
        p.drawRect(QRectF(rect()).adjusted(0.5, 1.5, -0.5, -1.5));
    }
    const double cy = height() / 2.0;
    const QColor color = toQt(colorOf(*l));
    p.setPen(QPen(l->on ? (t.dark ? color.darker(140) : t.text) : t.faint, 1.4));
    p.setBrush(l->on ? QBrush(color) : Qt::NoBrush);
    if (lamp_of(l->what)) {
        QPainterPath d;
        d.moveTo(15, cy - 6.5), d.lineTo(21.5, cy), d.lineTo(15, cy + 6.5), d.lineTo(8.5, cy),
            d.closeSubpath();
        p.drawPath(d);
    } else
        p.drawEllipse(QPointF(15, cy), 5.5, 5.5);
    p.setFont(Theme::words());
    p.setPen(l->on ? t.text : t.faint);
    const QRectF s = scale();
    if (!edit_)
        p.drawText(QRectF(30, 0, s.left() - 38, height()), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(nameOf(*l), Qt::ElideRight, static_cast<int>(s.left() - 38)));
    const double v = intensityOf(*l), share = std::clamp(v / 4, 0.0, 1.0);
    const double y = std::round(cy) + 2.5;
    p.setPen(QPen(t.line, 1.6));
    p.drawLine(QPointF(s.left(), y), QPointF(s.right(), y));
    p.setPen(QPen(!l->on ? t.faint : !t.dark && color.lightnessF() > 0.7 ? color.darker(170) : color, 2));
    p.drawLine(QPointF(s.left(), y), QPointF(s.left() + share * s.width(), y));
    QPainterPath pointer;
    const double x = s.left() + share * s.width();
    pointer.moveTo(x, y + 1), pointer.lineTo(x + 3.5, y + 7), pointer.lineTo(x - 3.5, y + 7),
        pointer.closeSubpath();
    p.fillPath(pointer, dragging_ ? t.accent : t.text);
    p.setFont(Theme::numbers());
    p.setPen(l->on ? t.text : t.faint);
    p.drawText(QRectF(width() - 48, 0, 40, height()), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(v, 'f', 2));
}

void LightRow::setIntensity(double v) {
    desk_.document.edit(tr("Change intensity"), [&](Piece& p) {
        for (Light& l : p.lights)
            if (l.id == id_) l.what = l.what.with("intensity", std::max(0.0, std::round(v * 100) / 100));
    });
}

void LightRow::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !light()) return;
    if (e->position().x() < 26) {
        desk_.document.edit(light()->on ? tr("Switch light off") : tr("Switch light on"), [&](Piece& p) {
            for (Light& l : p.lights)
                if (l.id == id_) l.on = !l.on;
        });
        return;
    }
    if (scale().adjusted(-6, 0, 6, 0).contains(e->position())) {
        dragging_ = true;
        last_ = e->position();
        exact_ = intensityOf(*light());
        desk_.document.beginStroke();
        update();
    }
}

void LightRow::mouseMoveEvent(QMouseEvent* e) {
    if (!dragging_) return;
    const double fine = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1;
    exact_ = std::clamp(exact_ + (e->position().x() - last_.x()) / scale().width() * 4 * fine, 0.0,
                        std::max(4.0, intensityOf(*light())));
    last_ = e->position();
    setIntensity(exact_);
}

void LightRow::mouseReleaseEvent(QMouseEvent* e) {
    if (dragging_) {
        dragging_ = false;
        desk_.document.endStroke();
        update();
    } else if (e->position().x() >= 26 && rect().contains(e->pos()))
        desk_.document.chooseLight(QString::fromStdString(id_));
}

void LightRow::mouseDoubleClickEvent(QMouseEvent* e) {
    if (e->position().x() < 26 || e->position().x() > scale().left() - 8 || edit_ || !light()) return;
    edit_ = new QLineEdit(nameOf(*light()), this);
    edit_->setAccessibleName(tr("Name"));
    edit_->setGeometry(26, 5, static_cast<int>(scale().left()) - 34, 24);
    edit_->selectAll();
    edit_->show();
    edit_->setFocus();
    connect(edit_, &QLineEdit::editingFinished, this, [this] {
        QLineEdit* edit = std::exchange(edit_, nullptr);
        if (!edit) return;
        const std::string name = edit->text().trimmed().toStdString();
        edit->deleteLater();
        if (!name.empty())
            desk_.document.edit(tr("Rename light"), [&](Piece& p) {
                for (Light& l : p.lights)
                    if (l.id == id_) l.name = name;
            });
        update();
    });
}

void LightRow::keyPressEvent(QKeyEvent* e) {
    if (!light()) return;
    const double by = e->modifiers() & Qt::ShiftModifier ? 0.01 : 0.1;
    switch (e->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter: desk_.document.chooseLight(QString::fromStdString(id_)); break;
    case Qt::Key_Right: setIntensity(intensityOf(*light()) + by); break;
    case Qt::Key_Left: setIntensity(intensityOf(*light()) - by); break;
    case Qt::Key_Down: focusNextChild(); break;
    case Qt::Key_Up: focusPreviousChild(); break;
    case Qt::Key_Space:
        desk_.document.edit(light()->on ? tr("Switch light off") : tr("Switch light on"), [&](Piece& p) {
            for (Light& l : p.lights)
                if (l.id == id_) l.on = !l.on;
        });
        break;
    case Qt::Key_Delete:
        desk_.document.edit(tr("Delete light"), [&](Piece& p) {
            std::erase_if(p.lights, [&](const Light& l) { return l.id == id_; });
        });
        break;
    default: QWidget::keyPressEvent(e);
    }
}

// --- the desk ---

LightDesk::LightDesk(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setMinimumWidth(220);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    auto* top = new QHBoxLayout;
    top->setContentsMargins(14, 4, 8, 4);
    top->addWidget(headLabel(tr("Light desk"), this));
    top->addStretch(1);
    add_ = linkButton(tr("+ Light"), this);
    add_->setObjectName("addLight");
    add_->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(add_);
    for (const Kind& k : light_kinds()) {
        QAction* a = menu->addAction(qs(k.name), this, [this, id = qs(k.id)] { addLight(id); });
        a->setToolTip(qs(k.help));
    }
    add_->setMenu(menu);
    top->addWidget(add_);
    box->addLayout(top);
    auto* sky_chart = new SkyChart(desk_, this);
    sky_chart->setObjectName("skyChart");
    box->addWidget(sky_chart);
    scroll_ = new QScrollArea(this);
    scroll_->setWidgetResizable(true);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->setFocusPolicy(Qt::NoFocus);
    box->addWidget(scroll_, 1);

    auto* foot = new QWidget(this);
    foot->setObjectName("lightFoot");
    foot->setAttribute(Qt::WA_StyledBackground);
    foot->setStyleSheet("#lightFoot { border-top: 1px solid " + Theme::current().line.name() + "; }");
    auto* f = new QVBoxLayout(foot);
    f->setContentsMargins(14, 8, 14, 8);
    f->setSpacing(2);
    auto* row = new QHBoxLayout;
    row->addWidget(headLabel(tr("All light"), foot));
    row->addStretch(1);
    auto* start = linkButton(tr("start from ▾"), foot);
    start->setObjectName("situations");
    start->setPopupMode(QToolButton::InstantPopup);
    auto* situations_menu = new QMenu(start);
    for (const auto& [id, words] : situations())
        situations_menu->addAction(words, this, [this, id = id] { arrange(id); });
    start->setMenu(situations_menu);
    row->addWidget(start);
    f->addLayout(row);
    Document& doc = desk_.document;
    const auto add = [&](const Parameter& p, const Value& standard, std::function<void*(Piece&)> pick) {
        Binding b;
        b.get = [&doc, &p, pick]() -> std::optional<Value> {
            return p.get(pick(const_cast<Piece&>(doc.piece())));
        };
        b.set = [&doc, &p, pick](const Value& v) {
            doc.edit(tr("Change %1").arg(qs(p.name).toLower()), [&](Piece& piece) { p.set(pick(piece), v); });
        };
        footer_.push_back(makeControl(p, standard, b, doc, foot));
        f->addWidget(footer_.back());
    };
    static const Ambient ambient;
    static const Piece piece;
    for (const Parameter& p : Ambient::parameters)
        if (p.id == "intensity" || p.id == "occlusion")
            add(p, p.get(&ambient), [](Piece& q) -> void* { return &q.ambient; });
    for (const Parameter& p : Piece::parameters) add(p, p.get(&piece), [](Piece& q) -> void* { return &q; });
    box->addWidget(foot);

    connect(&doc, &Document::changed, this, &LightDesk::refresh);
    connect(&doc, &Document::choiceChanged, this, &LightDesk::refresh);
    rebuild();
}

void LightDesk::refresh() {
    QString s = desk_.document.chosenLight() + "|";
    for (const Light& l : desk_.document.piece().lights)
        s += QString::fromStdString(l.id) + qs(l.what.kind().id) + ",";
    s += QString::number(desk_.document.piece().canvas.width) + Theme::current().window.name();
    if (s != signature_) {
        signature_ = s;
        rebuild();
    }
    for (LightRow* r : rows_) r->update();
    for (ParameterControl* c : controls_) c->refresh();
    for (ParameterControl* c : footer_) c->refresh();
}

void LightDesk::rebuild() {
    const QString focusName = scroll_->widget() && scroll_->widget()->isAncestorOf(focusWidget())
                                  ? focusWidget()->accessibleName()
                                  : QString();
    const QString focusClass = focusName.isEmpty() ? QString() : focusWidget()->metaObject()->className();
    rows_.clear();
    controls_.clear();
    auto* inside = new QWidget;
    inside->setObjectName("lightsInside");
    inside->setStyleSheet("#lightsInside { background: transparent; }");
    auto* list = new QVBoxLayout(inside);
    list->setContentsMargins(8, 4, 8, 4);
    list->setSpacing(0);
    Document& doc = desk_.document;
    if (doc.piece().lights.empty()) {
        auto* empty =
            new QLabel(tr("No light yet: all is ambient. Add one, or start from a situation below."), inside);
        empty->setWordWrap(true);
        empty->setContentsMargins(6, 4, 6, 4);
        empty->setStyleSheet("color: " + Theme::current().second.name());
        list->addWidget(empty);
    }
    for (const Light& l : doc.piece().lights) {
        auto* row = new LightRow(desk_, l.id, inside);
        rows_.push_back(row);
        list->addWidget(row);
        if (doc.chosenLight().toStdString() != l.id) continue;
        auto* open = new QVBoxLayout;
        open->setContentsMargins(6, 4, 6, 8);
        open->setSpacing(2);
        const auto defaults = l.what.kind().make();
        for (const Parameter& p : l.what.kind().parameters) {
            if (p.id == "intensity") continue; // on its row
            Binding b;
            b.get = [&doc, &p, id = l.id]() -> std::optional<Value> {
                for (const Light& light : doc.piece().lights)
                    if (light.id == id) return light.what.get(p);
                return std::nullopt;
            };
            b.set = [&doc, &p, id = l.id](const Value& v) {
                doc.edit(tr("Change %1").arg(qs(p.name).toLower()), [&](Piece& piece) {
                    for (Light& light : piece.lights)
                        if (light.id == id) light.what = light.what.with(p, v);
                });
            };
            controls_.push_back(makeControl(p, p.get(defaults.get()), b, doc, inside));
            open->addWidget(controls_.back());
        }
        auto* remove = linkButton(tr("delete this light"), inside);
        connect(remove, &QToolButton::clicked, this, &LightDesk::removeLight);
        open->addWidget(remove, 0, Qt::AlignRight);
        list->addLayout(open);
    }
    list->addStretch(1);
    QWidget* old = scroll_->takeWidget();
    scroll_->setWidget(inside);
    inside->setAutoFillBackground(false);
    scroll_->viewport()->setAutoFillBackground(false);
    if (old) {
        old->hide();
        old->deleteLater();
    }
    if (!focusName.isEmpty())
        for (QWidget* w : inside->findChildren<QWidget*>())
            if (w->accessibleName() == focusName && w->metaObject()->className() == focusClass) {
                w->setFocus();
                break;
            }
}

void LightDesk::addLight(const QString& kind) {
    Document& doc = desk_.document;
    if (doc.piece().lights.size() >= 64) return;
    std::string id;
    doc.edit(tr("Add light"), [&](Piece& p) {
        Light l;
        l.what = Described(light_kind(kind.toStdString()));
        l.id = id = free_id(p, kind == "point" ? "lamp" : kind == "spot" ? "spot" : "light");
        l.name = (kind == "point" ? tr("Lamp") : kind == "spot" ? tr("Spot") : tr("Far light")).toStdString();
        int same = 1;
        for (const Light& other : p.lights) same += other.what.is(kind.toStdString());
        if (same > 1) l.name += " " + std::to_string(same);
        if (kind == "point") {
            const double reach = std::min(p.canvas.width, p.canvas.height) * 0.4;
            l.what = l.what.with("x", p.canvas.width * 0.5)
                         .with("y", p.canvas.height * 0.5)
                         .with("z", std::round(reach * 0.5))
                         .with("distance", std::round(reach));
        }
        if (kind == "spot") {
            const double reach = std::min(p.canvas.width, p.canvas.height) * 0.5;
            l.what = l.what.with("x", std::round(p.canvas.width * 0.5 - reach * 0.4))
                         .with("y", std::round(p.canvas.height * 0.5 - reach * 0.35))
                         .with("z", std::round(reach * 0.8))
                         .with("inner_cone", 13.0)
                         .with("outer_cone", 20.0)
                         .with("target_x", std::round(p.canvas.width * 0.5))
                         .with("target_y", std::round(p.canvas.height * 0.5))
                         .with("distance", std::round(reach));
        }
        p.lights.push_back(std::move(l));
    });
    doc.chooseLight(QString::fromStdString(id));
}

void LightDesk::removeLight() {
    Document& doc = desk_.document;
    const std::string id = doc.chosenLight().toStdString();
    doc.edit(tr("Delete light"),
             [&](Piece& p) { std::erase_if(p.lights, [&](const Light& l) { return l.id == id; }); });
    doc.chooseLight(doc.piece().lights.empty() ? QString()
                                               : QString::fromStdString(doc.piece().lights.back().id));
}

QList<QPair<QString, QString>> LightDesk::situations() {
    return {{"left", tr("Raking from the left")},
            {"top", tr("Soft from above")},
            {"window", tr("Window and lamp")},
            {"foot", tr("Footlights")},
            {"rims", tr("Two rims")},
            {"overcast", tr("Overcast")}};
}

void LightDesk::arrange(const QString& s) {
    Document& doc = desk_.document;
    doc.edit(tr("Arrange lights"), [&](Piece& p) {
        const double w = p.canvas.width, h = p.canvas.height, reach = std::min(w, h) * 0.45;
        p.lights.clear();
        p.ambient.intensity = 0.12f;
        if (s == "left")
            p.lights = {farLight("raking", "Raking light", 172, 22, daylight, 1.8f),
                        farLight("sky", "Sky", 40, 60, sky, 0.35f)};
        if (s == "top")
            p.lights = {farLight("above", "From above", 100, 48, daylight, 1.3f)}, p.ambient.intensity = 0.2f;
        if (s == "window")
            p.lights = {farLight("window", "Window", 128, 42, daylight, 1.2f),
                        lamp("lamp", "Lamp", w * 0.7, h * 0.65, reach * 0.4, warm, 1.2f, reach * 0.8)};
        if (s == "foot")
            p.lights = {lamp("foot-1", "Foot, left", w * 0.2, h * 1.02, reach * 0.3, warm, 1.2f, reach),
                        lamp("foot-2", "Foot, middle", w * 0.5, h * 1.02, reach * 0.3, warm, 1.2f, reach),
                        lamp("foot-3", "Foot, right", w * 0.8, h * 1.02, reach * 0.3, warm, 1.2f, reach)};
        if (s == "rims")
            p.lights = {farLight("rim-1", "Rim, left", 165, 18, sky, 1.5f),
                        farLight("rim-2", "Rim, right", 15, 18, warm, 1.5f),
                        farLight("fill", "Fill", 90, 70, daylight, 0.4f)};
        if (s == "overcast")
            p.lights = {farLight("sky", "Cloud", 90, 75, Color{0.92f, 0.96f, 1, 1}, 0.7f)},
            p.ambient.intensity = 0.4f;
    });
    if (!doc.piece().lights.empty()) doc.chooseLight(QString::fromStdString(doc.piece().lights.back().id));
}

} // namespace bathylux
