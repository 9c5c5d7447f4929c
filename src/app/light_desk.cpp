#include "app/light_desk.h"

#include <QInputDialog>
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
#include "app/kept.h"
#include "app/light_histogram.h"
#include "app/lights_edit.h"
#include "app/ruled_scale.h"
#include "app/sky_chart.h"
#include "app/step_row.h"
#include "app/theme.h"
#include "core/light/lamp.h"
#include "core/piece/codec.h"
#include "core/render/tied_lights.h"

namespace bathylux {

namespace {

QString qs(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size())); }

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

QString nameOf(const Take& t) { return QString::fromStdString(t.name.empty() ? t.id : t.name); }

constexpr Color daylight{1, 0.98f, 0.94f, 1}, sky{0.66f, 0.78f, 1, 1}, warm{1, 0.76f, 0.46f, 1};

} // namespace

// --- a row ---

LightRow::LightRow(Desk& desk, const std::string& id, QWidget* parent)
    : QWidget(parent), desk_(desk), id_(id) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(34);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    if (const Light* l = light()) setAccessibleName(nameOf(*l));
    setToolTip(tr("Click to choose (Shift: several), the mark switches it (Shift: alone), drag the scale for "
                  "its intensity, "
                  "double-click to rename"));
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
    const bool chosen = desk_.document.isLightChosen(id_);
    const bool shining = shines(desk_.document.piece().lights, *l);
    if (chosen || hasFocus()) {
        p.setBrush(chosen ? t.selection : Qt::NoBrush);
        p.setPen(QPen(t.accent, 1));
        p.drawRect(QRectF(rect()).adjusted(0.5, 1.5, -0.5, -1.5));
    }
    const double cy = height() / 2.0;
    const QColor color = toQt(colorOf(l->what));
    p.setPen(QPen(shining ? (t.dark ? color.darker(140) : t.text) : t.faint, 1.4));
    p.setBrush(shining ? QBrush(color) : Qt::NoBrush);
    switch (markOf(l->what)) {
    case LightMark::diamond: {
        QPainterPath d;
        d.moveTo(15, cy - 6.5), d.lineTo(21.5, cy), d.lineTo(15, cy + 6.5), d.lineTo(8.5, cy),
            d.closeSubpath();
        p.drawPath(d);
        break;
    }
    case LightMark::bar: p.drawRect(QRectF(7.5, cy - 3, 15, 6)); break;
    case LightMark::arch: {
        QPainterPath arch;
        arch.moveTo(8, cy + 4), arch.arcTo(QRectF(8, cy - 5, 14, 18), 180, -180), arch.closeSubpath();
        p.drawPath(arch);
        break;
    }
    case LightMark::dot: p.drawEllipse(QPointF(15, cy), 5.5, 5.5);
    }
    if (l->alone) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(t.accent, 1.4));
        p.drawEllipse(QPointF(15, cy), 10, 10);
    }
    p.setFont(Theme::words());
    p.setPen(shining ? t.text : t.faint);
    const QRectF s = scale();
    if (!edit_)
        p.drawText(QRectF(30, 0, s.left() - 38, height()), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(nameOf(*l), Qt::ElideRight, static_cast<int>(s.left() - 38)));
    const double v = intensityOf(*l), share = std::clamp(v / 4, 0.0, 1.0);
    const double y = std::round(cy) + 2.5;
    p.setPen(QPen(t.line, 1.6));
    p.drawLine(QPointF(s.left(), y), QPointF(s.right(), y));
    p.setPen(QPen(!shining ? t.faint : !t.dark && color.lightnessF() > 0.7 ? color.darker(170) : color, 2));
    p.drawLine(QPointF(s.left(), y), QPointF(s.left() + share * s.width(), y));
    QPainterPath pointer;
    const double x = s.left() + share * s.width();
    pointer.moveTo(x, y + 1), pointer.lineTo(x + 3.5, y + 7), pointer.lineTo(x - 3.5, y + 7),
        pointer.closeSubpath();
    p.fillPath(pointer, dragging_ ? t.accent : t.text);
    p.setFont(Theme::numbers());
    p.setPen(shining ? t.text : t.faint);
    p.drawText(QRectF(width() - 48, 0, 40, height()), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(v, 'f', 2));
}

void LightRow::setIntensity(double v) {
    const double to = std::max(0.0, std::round(v * 100) / 100), from = intensityOf(*light());
    // One of several chosen takes the others along, in proportion.
    const bool together = desk_.document.isLightChosen(id_) && from > 0;
    desk_.document.edit(tr("Change intensity"), [&](Piece& p) {
        for (Light& l : p.lights) {
            if (l.id == id_)
                l.what = l.what.with("intensity", to);
            else if (together && desk_.document.isLightChosen(l.id))
                l.what = l.what.with("intensity", intensityOf(l) * to / from);
        }
    });
}

void LightRow::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !light()) return;
    if (e->position().x() < 26 && e->modifiers() & Qt::ShiftModifier) {
        desk_.document.edit(tr("Light alone, or not"), [&](Piece& p) {
            for (Light& l : p.lights)
                if (l.id == id_) l.alone = !l.alone;
        });
        return;
    }
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
    } else if (e->position().x() >= 26 && rect().contains(e->pos())) {
        if (e->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier))
            desk_.document.chooseLightToo(QString::fromStdString(id_));
        else
            desk_.document.chooseLight(QString::fromStdString(id_));
    }
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
    takes_ = linkButton({}, this);
    takes_->setObjectName("takes");
    takes_->setToolTip(tr("Set-ups of light kept side by side; N goes to the next"));
    takes_->setPopupMode(QToolButton::InstantPopup);
    auto* takes_menu = new QMenu(takes_);
    connect(takes_menu, &QMenu::aboutToShow, this, [this, takes_menu] { fillTakes(takes_menu); });
    takes_->setMenu(takes_menu);
    top->addWidget(takes_);
    top->addSpacing(8);
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
    connect(situations_menu, &QMenu::aboutToShow, this,
            [this, situations_menu] { fillSituations(situations_menu); });
    fillSituations(situations_menu);
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
    const auto of = [](std::span<const Parameter> all, std::string_view id) -> const Parameter& {
        return *std::find_if(all.begin(), all.end(), [&](const Parameter& p) { return p.id == id; });
    };
    const auto ambient_of = [](Piece& q) -> void* { return &q.ambient; };
    const auto piece_of = [](Piece& q) -> void* { return &q; };
    add(of(Ambient::parameters, "intensity"), of(Ambient::parameters, "intensity").get(&ambient), ambient_of);
    for (const char* id : {"exposure", "keep_flat_color"})
        add(of(Piece::parameters, id), of(Piece::parameters, id).get(&piece), piece_of);
    histogram_ = new LightHistogram(desk_, foot);
    f->addWidget(histogram_);
    // What is rarely touched is folded into a line that says what is set.
    auto* fold = new StepRow(false, foot);
    fold->setObjectName("moreLight");
    f->addWidget(fold);
    const std::size_t first = footer_.size();
    add(of(Ambient::parameters, "color"), of(Ambient::parameters, "color").get(&ambient), ambient_of);
    for (const char* id : {"occlusion", "strength", "radius"})
        add(of(Ambient::parameters, id), of(Ambient::parameters, id).get(&ambient), ambient_of);
    for (const char* id : {"roll_off", "relight", "relight_blend"})
        add(of(Piece::parameters, id), of(Piece::parameters, id).get(&piece), piece_of);
    const auto show = [this, fold, first] {
        const Piece& q = desk_.document.piece();
        // How grooves darken is told only where they do.
        const bool grooves =
            q.ambient.occlusion || std::any_of(q.lights.begin(), q.lights.end(), [](const Light& l) {
                const auto* sky = l.what.as<SkyLight>();
                return sky && sky->shadow;
            });
        for (std::size_t i = first; i < footer_.size(); ++i)
            footer_[i]->setVisible(moreOpen_ && (grooves || (i != first + 2 && i != first + 3)));
        QStringList says;
        if (q.ambient.occlusion) says << tr("grooves darken");
        if (q.roll_off != RollOff::none) says << tr("rolled off");
        if (q.relight != 1 || q.relight_blend != BlendMode::normal)
            says << tr("%1 % over flat").arg(qRound(100 * q.relight));
        fold->setFace(tr("More"),
                      moreOpen_        ? QString()
                      : says.isEmpty() ? tr("grooves, roll-off, over flat")
                                       : says.join(", "),
                      true, moreOpen_);
    };
    showMore_ = show;
    connect(fold, &StepRow::clicked, this, [this] {
        moreOpen_ = !moreOpen_;
        showMore_();
    });
    show();
    box->addWidget(foot);

    connect(&doc, &Document::changed, this, &LightDesk::refresh);
    connect(&doc, &Document::choiceChanged, this, &LightDesk::refresh);
    rebuild();
}

void LightDesk::refresh() {
    const Piece& piece = desk_.document.piece();
    QString s = desk_.document.chosenLights().join(',') + "|";
    for (const Light& l : piece.lights) {
        s += QString::fromStdString(l.id) + qs(l.what.kind().id) + QString::fromStdString(l.tied) + ",";
        if (const auto* sky = l.what.as<SkyLight>()) s += QString::number(static_cast<int>(sky->scene));
    }
    s += QString::number(piece.canvas.width) + Theme::current().window.name();
    if (s != signature_) {
        signature_ = s;
        rebuild();
    }
    QString take = tr("takes ▾");
    for (const Take& t : piece.takes)
        if (t.id == piece.take) take = tr("%1 ▾").arg(nameOf(t));
    takes_->setText(take);
    showMore_();
    for (LightRow* r : rows_) r->update();
    for (ParameterControl* c : controls_) c->refresh();
    for (ParameterControl* c : footer_) c->refresh();
    for (const auto& r : refreshers_) r();
}

void LightDesk::rebuild() {
    const QString focusName = scroll_->widget() && scroll_->widget()->isAncestorOf(focusWidget())
                                  ? focusWidget()->accessibleName()
                                  : QString();
    const QString focusClass = focusName.isEmpty() ? QString() : focusWidget()->metaObject()->className();
    rows_.clear();
    controls_.clear();
    refreshers_.clear();
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
        addControls(open, l, inside);
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

/// The controls of the open light; they change all that are chosen and have such a parameter.
void LightDesk::addControls(QVBoxLayout* open, const Light& l, QWidget* inside) {
    Document& doc = desk_.document;
    if (doc.chosenLights().size() > 1) {
        auto* many =
            new QLabel(tr("%1 lights chosen: changed together").arg(doc.chosenLights().size()), inside);
        many->setStyleSheet("color: " + Theme::current().second.name());
        many->setWordWrap(true);
        open->addWidget(many);
    }
    const auto each = [&doc](Piece& piece, const auto& work) {
        for (Light& light : piece.lights)
            if (doc.isLightChosen(light.id)) work(light);
    };
    const auto defaults = l.what.kind().make();
    const auto* sky = l.what.as<SkyLight>();
    for (const Parameter& p : l.what.kind().parameters) {
        if (p.id == "intensity") continue; // on its row
        if (sky && p.id == "file" && sky->scene != SkyScene::file) continue;
        if (sky && sky->scene != SkyScene::gradient &&
            (p.id == "zenith" || p.id == "horizon" || p.id == "ground"))
            continue;
        Binding b;
        b.get = [&doc, &p]() -> std::optional<Value> {
            std::optional<Value> out;
            for (const Light& light : doc.piece().lights) {
                const Parameter* q = doc.isLightChosen(light.id) ? light.what.kind().find(p.id) : nullptr;
                if (!q) continue;
                if (out && *out != light.what.get(*q)) return std::nullopt;
                out = light.what.get(*q);
            }
            return out;
        };
        b.set = [&doc, &p, each](const Value& v) {
            doc.edit(tr("Change %1").arg(qs(p.name).toLower()), [&](Piece& piece) {
                each(piece, [&](Light& light) {
                    if (const Parameter* q = light.what.kind().find(p.id); q && q->type == p.type)
                        light.what = light.what.with(*q, v);
                });
            });
        };
        controls_.push_back(makeControl(p, p.get(defaults.get()), b, doc, inside));
        open->addWidget(controls_.back());
        if (p.id == "color" && !sky) open->addWidget(temperatureScale(inside));
        if (p.id == "file") {
            // What is wrong with the panorama; until it is found, the three colours shine.
            auto* trouble = new QLabel(inside);
            trouble->setWordWrap(true);
            trouble->setStyleSheet("color: " + Theme::current().signal.name());
            const auto show = [this, trouble, id = l.id] {
                const Asset* asset = desk_.asset(panorama_key(id));
                const QString says = asset ? QString::fromStdString(asset->trouble) : QString();
                trouble->setText(says);
                trouble->setVisible(!says.isEmpty());
            };
            show();
            refreshers_.push_back(show);
            connect(&desk_.renderer, &Renderer::framed, trouble, show);
            open->addWidget(trouble);
        }
    }
    if (!sky) {
        auto* row = new QWidget(inside);
        auto* h = new QHBoxLayout(row);
        h->setContentsMargins(0, 0, 0, 0);
        h->addWidget(new QLabel(tr("Goes with"), row));
        auto* with = new DropList(row);
        with->setObjectName("goesWith");
        with->setAccessibleName(tr("Goes with"));
        with->addItem(tr("the canvas"), QString());
        for_each_element(doc.piece().elements,
                         [&](const Element& e) { with->addItem(nameOf(e), QString::fromStdString(e.id)); });
        with->setCurrentIndex(std::max(0, with->findData(QString::fromStdString(l.tied))));
        with->setMaximumWidth(130);
        h->addWidget(with);
        connect(with, &QComboBox::activated, this, [&doc, with, each] {
            const std::string to = with->currentData().toString().toStdString();
            doc.edit(tr("Tie light"),
                     [&](Piece& piece) { each(piece, [&](Light& light) { tie_to(piece, light, to); }); });
        });
        open->addWidget(row);
    }
    auto* row = new QWidget(inside);
    auto* h = new QHBoxLayout(row);
    h->setContentsMargins(0, 0, 0, 0);
    h->addWidget(new QLabel(tr("Alone"), row), 1);
    auto* alone = new Switch(tr("Alone"), row);
    alone->setToolTip(tr("The other lights are dark while this one is alone"));
    refreshers_.push_back([&doc, alone] {
        if (const Light* now = doc.light()) alone->setOn(now->alone);
    });
    alone->setOn(l.alone);
    h->addWidget(alone);
    connect(alone, &Switch::toggled, this, [&doc, each](bool on) {
        doc.edit(tr("Light alone, or not"),
                 [&](Piece& piece) { each(piece, [&](Light& light) { light.alone = on; }); });
    });
    open->addWidget(row);
    auto* remove = linkButton(
        doc.chosenLights().size() > 1 ? tr("delete these lights") : tr("delete this light"), inside);
    connect(remove, &QToolButton::clicked, this, &LightDesk::removeLight);
    open->addWidget(remove, 0, Qt::AlignRight);
}

/// The colour told as that of a glowing body.
QWidget* LightDesk::temperatureScale(QWidget* parent) {
    RuledScale::Look look;
    look.name = tr("Temperature"), look.unit = "K";
    look.low = 1500, look.high = 10000, look.floor = 1000, look.ceiling = 15000;
    look.standard = 6500, look.whole = true, look.decimals = 0;
    auto* scale = new RuledScale(look, parent);
    scale->setObjectName("temperature");
    Document& doc = desk_.document;
    const auto show = [scale, &doc] {
        const Light* l = doc.light();
        if (!l || !l->what.kind().find("color")) return;
        // Colours that no glowing body has show a dash.
        const Color c = colorOf(l->what);
        const double kelvin = temperature_of(c);
        const Color glow = color_of_temperature(kelvin);
        const float most = std::max({c.r, c.g, c.b, 1e-6f});
        const double off = std::hypot(c.r / most - glow.r, c.g / most - glow.g, c.b / most - glow.b);
        scale->setValue(off < 0.12 ? std::optional(std::round(kelvin / 50) * 50) : std::nullopt);
    };
    show();
    refreshers_.push_back(show);
    connect(scale, &RuledScale::strokeBegan, this, [&doc] { doc.beginStroke(); });
    connect(scale, &RuledScale::strokeEnded, this, [&doc] { doc.endStroke(); });
    connect(scale, &RuledScale::valueChanged, this, [&doc](double kelvin) {
        changeLights(doc, tr("Change temperature"), [&](const Light&, Described here) {
            return here.kind().find("color") ? here.with("color", color_of_temperature(kelvin)) : here;
        });
    });
    return scale;
}

void LightDesk::addLight(const QString& kind) {
    Document& doc = desk_.document;
    if (doc.piece().lights.size() >= 64) return;
    std::string id;
    doc.edit(tr("Add light"), [&](Piece& p) {
        Light l;
        l.what = Described(light_kind(kind.toStdString()));
        l.id = id = free_id(p, kind == "point"         ? "lamp"
                               : kind == "directional" ? "light"
                                                       : kind.toStdString());
        l.name = std::string(l.what.kind().name);
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
        if (kind == "strip") {
            const double reach = std::min(p.canvas.width, p.canvas.height) * 0.4;
            l.what = l.what.with("x", std::round(p.canvas.width * 0.5))
                         .with("y", std::round(p.canvas.height * 0.4))
                         .with("z", std::round(reach * 0.6))
                         .with("length", std::round(p.canvas.width * 0.5))
                         .with("width", std::round(reach * 0.1))
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
    if (doc.chosenLights().isEmpty()) return;
    doc.edit(doc.chosenLights().size() > 1 ? tr("Delete lights") : tr("Delete light"), [&](Piece& p) {
        std::erase_if(p.lights, [&](const Light& l) { return doc.isLightChosen(l.id); });
    });
    doc.chooseLight(doc.piece().lights.empty() ? QString()
                                               : QString::fromStdString(doc.piece().lights.back().id));
}

// --- takes, and what one keeps ---

void LightDesk::fillTakes(QMenu* menu) {
    Document& doc = desk_.document;
    menu->clear();
    for (const Take& t : doc.piece().takes) {
        QAction* a = menu->addAction(nameOf(t), this, [this, id = t.id] { goToTake(id); });
        a->setCheckable(true);
        a->setChecked(t.id == doc.piece().take);
    }
    if (!doc.piece().takes.empty()) menu->addSeparator();
    menu->addAction(tr("Keep this light as another take"), this, &LightDesk::keepTake);
    if (doc.piece().takes.empty()) return;
    menu->addAction(tr("Rename this take…"), this, [this, &doc] {
        bool good = false;
        QString now;
        for (const Take& t : doc.piece().takes)
            if (t.id == doc.piece().take) now = nameOf(t);
        const QString name =
            QInputDialog::getText(this, tr("Rename take"), tr("Name"), QLineEdit::Normal, now, &good);
        if (good && !name.trimmed().isEmpty())
            doc.edit(tr("Rename take"), [&](Piece& p) {
                for (Take& t : p.takes)
                    if (t.id == p.take) t.name = name.trimmed().toStdString();
            });
    });
    menu->addAction(tr("Delete this take"), this, &LightDesk::deleteTake);
}

void LightDesk::goToTake(const std::string& id) {
    Document& doc = desk_.document;
    if (id == doc.piece().take) return;
    doc.edit(tr("Change take"), [&](Piece& p) { use_take(p, id); });
    doc.chooseLight(doc.piece().lights.empty() ? QString()
                                               : QString::fromStdString(doc.piece().lights.back().id));
}

void LightDesk::keepTake() {
    Document& doc = desk_.document;
    if (doc.piece().takes.size() >= most_takes) return;
    doc.edit(tr("Keep a take"), [&](Piece& p) {
        const auto add = [&] {
            Take t;
            t.id = free_id(p, "take");
            t.name = tr("Take %1").arg(p.takes.size() + 1).toStdString();
            p.takes.push_back(t);
            return t.id;
        };
        // The first time, what is there becomes the first of two.
        if (p.takes.empty()) p.take = add();
        const std::string next = add();
        Take& t = p.takes.back();
        t.lights = p.lights, t.ambient = p.ambient, t.exposure = p.exposure,
        t.keep_flat_color = p.keep_flat_color;
        for (Light& l : t.lights) l.id = free_id(p, l.id);
        use_take(p, next);
    });
    doc.chooseLight(doc.piece().lights.empty() ? QString()
                                               : QString::fromStdString(doc.piece().lights.back().id));
}

void LightDesk::deleteTake() {
    desk_.document.edit(tr("Delete take"), [](Piece& p) {
        const std::string gone = p.take;
        const auto at =
            std::find_if(p.takes.begin(), p.takes.end(), [&](const Take& t) { return t.id == gone; });
        if (at == p.takes.end()) return;
        if (p.takes.size() > 1) use_take(p, at == p.takes.begin() ? p.takes[1].id : (at - 1)->id);
        std::erase_if(p.takes, [&](const Take& t) { return t.id == gone; });
        // A single one is no choice.
        if (p.takes.size() < 2) p.takes.clear(), p.take.clear();
    });
}

void LightDesk::nextTake() {
    const Piece& p = desk_.document.piece();
    for (std::size_t i = 0; i < p.takes.size(); ++i)
        if (p.takes[i].id == p.take) return goToTake(p.takes[(i + 1) % p.takes.size()].id);
}

void LightDesk::fillSituations(QMenu* menu) {
    menu->clear();
    for (const auto& [id, words] : situations())
        menu->addAction(words, this, [this, id = id] { arrange(id); });
    const Kept kept("arrangements");
    if (const QStringList names = kept.names(); !names.isEmpty()) {
        menu->addSeparator();
        for (const QString& name : names) menu->addAction(name, this, [this, name] { arrangeKept(name); });
        QMenu* forget = menu->addMenu(tr("Forget"));
        for (const QString& name : names)
            forget->addAction(name, [name] { Kept("arrangements").remove(name); });
    }
    menu->addSeparator();
    menu->addAction(tr("Keep this arrangement…"), this, &LightDesk::keepArrangement);
}

/// Places and lengths are kept for a canvas whose smaller side is 1000 px.
void LightDesk::keepArrangement() {
    bool good = false;
    const QString name =
        QInputDialog::getText(this, tr("Keep this arrangement"), tr("Name"), QLineEdit::Normal, {}, &good);
    if (!good || name.trimmed().isEmpty()) return;
    Json lights = Json::array();
    const Piece& p = desk_.document.piece();
    for (Light l : lights_on_canvas(p)) {
        l.tied.clear();
        lights.push_back(to_json(l));
    }
    const Json ambient = {{"color", to_string(p.ambient.color)}, {"intensity", p.ambient.intensity}};
    if (!Kept("arrangements")
             .put(name.trimmed(), {{"width", p.canvas.width},
                                   {"height", p.canvas.height},
                                   {"lights", lights},
                                   {"ambient", ambient}}))
        emit refused(tr("The arrangement could not be kept: the folder for settings cannot be written to."));
}

void LightDesk::arrangeKept(const QString& name) {
    const Json kept = Kept("arrangements").get(name);
    Document& doc = desk_.document;
    try {
        const double w = kept.at("width"), h = kept.at("height");
        std::vector<Light> lights;
        for (const Json& l : kept.at("lights")) lights.push_back(light_from_json(l));
        const float ambient = kept.at("ambient").at("intensity");
        const Color color = parse_color(kept.at("ambient").at("color").get<std::string>());
        doc.edit(tr("Arrange lights"), [&](Piece& p) {
            // To where they stood, as parts of the canvas; lengths grow with its smaller side.
            const double k = std::min(p.canvas.width, p.canvas.height) / std::min(w, h);
            p.lights.clear();
            for (Light& l : lights) {
                for (const Parameter& q : l.what.kind().parameters) {
                    if (q.unit != Unit::px) continue;
                    const bool x = q.id == "x" || q.id == "target_x", y = q.id == "y" || q.id == "target_y";
                    l.what =
                        l.what.with(q, held(q, std::get<double>(l.what.get(q)) * (x   ? p.canvas.width / w
                                                                                  : y ? p.canvas.height / h
                                                                                      : k)));
                }
                l.id = free_id(p, l.id);
                p.lights.push_back(l);
            }
            p.ambient.intensity = ambient, p.ambient.color = color;
        });
        if (!lights.empty()) doc.chooseLight(QString::fromStdString(doc.piece().lights.back().id));
    } catch (const std::exception& e) {
        emit refused(tr("The arrangement %1 cannot be used: %2").arg(name, QString::fromUtf8(e.what())));
    }
}

QList<QPair<QString, QString>> LightDesk::situations() {
    return {{"left", tr("Raking from the left")},
            {"top", tr("Soft from above")},
            {"window", tr("Window and lamp")},
            {"foot", tr("Footlights")},
            {"ring", tr("Ring of lamps")},
            {"strip", tr("Gliding strip")},
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
        if (s == "ring")
            for (int i = 0; i < 6; ++i) {
                const double a = i * 60 * radians_per_degree, r = reach * 0.95;
                p.lights.push_back(lamp(("ring-" + std::to_string(i + 1)).c_str(),
                                        ("Ring " + std::to_string(i + 1)).c_str(), w * 0.5 + r * std::cos(a),
                                        h * 0.5 - r * std::sin(a), reach * 0.5, i % 2 ? sky : warm, 0.7f,
                                        reach * 0.9));
            }
        if (s == "strip") {
            StripLight bar;
            bar.x = static_cast<float>(w * 0.5), bar.y = static_cast<float>(h * 0.42),
            bar.z = static_cast<float>(reach * 0.6);
            bar.length = static_cast<float>(w * 0.7), bar.width = static_cast<float>(reach * 0.12),
            bar.turn = 8;
            bar.distance = static_cast<float>(reach * 0.8);
            SkyLight room;
            room.scene = SkyScene::workshop, room.intensity = 0.6f;
            p.lights = {{"sky", "Workshop", true, Described(light_kind("sky"), room), {}},
                        {"strip", "Strip", true, Described(light_kind("strip"), bar), {}}};
            p.ambient.intensity = 0.04f;
        }
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
