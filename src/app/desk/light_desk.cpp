#include "app/desk/light_desk.h"

#include "app/desk/camera_controls.h"

#include <QLabel>
#include <QMenu>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/column_area.h"
#include "app/controls/controls.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/step_row.h"
#include "app/controls/theme.h"
#include "app/desk/light_histogram.h"
#include "app/desk/light_row.h"
#include "app/desk/sky_chart.h"
#include "app/document/lights_edit.h"
#include "core/light/lamp.h"
#include "core/piece/codec.h"
#include "core/piece/starts.h"
#include "core/render/tied_lights.h"

namespace bathylux {

LightDesk::LightDesk(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setMinimumWidth(244); // its head in full
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    auto* top = new QHBoxLayout;
    top->setContentsMargins(14, 4, 8, 4);
    top->addWidget(headLabel(tr("Light desk"), this));
    top->addStretch(1);
    moods_ = linkButton({}, this);
    moods_->setObjectName("moods");
    moods_->setAccessibleName(tr("Moods"));
    moods_->setToolTip(tr("Set-ups of light kept side by side; N goes to the next"));
    moods_->setPopupMode(QToolButton::InstantPopup);
    auto* moods_menu = new QMenu(moods_);
    connect(moods_menu, &QMenu::aboutToShow, this, [this, moods_menu] { fillMoods(moods_menu); });
    moods_->setMenu(moods_menu);
    top->addWidget(moods_);
    top->addSpacing(8);
    add_ = linkButton(tr("+ Light"), this);
    add_->setObjectName("addLight");
    add_->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(add_);
    for (const LightKind& k : light_kinds()) {
        QAction* a = menu->addAction(qs(k.name), this, [this, id = qs(k.id)] { addLight(id); });
        a->setToolTip(qs(k.help));
    }
    add_->setMenu(menu);
    top->addWidget(add_);
    box->addLayout(top);
    // Where all that is open has no room the desk scrolls as a whole, rather than make the window larger.
    auto* area = columnArea(this);
    auto* in_area = insideOf(area, "deskInside");
    auto* column = new QVBoxLayout(in_area);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    area->setWidget(in_area);
    box->addWidget(area, 1);
    auto* sky_chart = new SkyChart(desk_, in_area);
    sky_chart->setObjectName("skyChart");
    column->addWidget(sky_chart);
    scroll_ = columnArea(in_area);
    scroll_->setMinimumHeight(96); // three lights
    column->addWidget(scroll_, 1);

    column->addWidget(new CameraControls(desk_, in_area));

    auto* foot = new QWidget(in_area);
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
    const auto add = [&](const Parameter& p, const Value& standard, std::function<void*(Piece&)> pick,
                         const char* where = "") {
        Binding b;
        b.path = [&p, where] { return where + std::string(p.id); };
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
    add(of(Ambient::parameters, "intensity"), of(Ambient::parameters, "intensity").get(&ambient), ambient_of,
        "ambient.");
    for (const char* id : {"exposure", "keep_flat_color"})
        add(of(Piece::parameters, id), of(Piece::parameters, id).get(&piece), piece_of);
    histogram_ = new LightHistogram(desk_, foot);
    f->addWidget(histogram_);
    // What is rarely touched is folded into a line that says what is set.
    auto* fold = new StepRow(false, foot);
    fold->setObjectName("moreLight");
    f->addWidget(fold);
    const std::size_t first = footer_.size();
    add(of(Ambient::parameters, "color"), of(Ambient::parameters, "color").get(&ambient), ambient_of,
        "ambient.");
    for (const char* id : {"occlusion", "strength", "radius"})
        add(of(Ambient::parameters, id), of(Ambient::parameters, id).get(&ambient), ambient_of, "ambient.");
    for (const char* id : {"roll_off", "relight", "relight_blend"})
        add(of(Piece::parameters, id), of(Piece::parameters, id).get(&piece), piece_of);
    const auto show = [this, fold, first] {
        const Piece& q = desk_.document.piece();
        // How grooves darken is told only where they do: for the ambient light or some sky.
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
    column->addWidget(foot);

    connect(&doc, &Document::changed, this, &LightDesk::refresh);
    connect(&doc, &Document::choiceChanged, this, &LightDesk::refresh);
}

void LightDesk::refresh() {
    if (!desk_.open) return;
    const Piece& piece = desk_.document.piece();
    QString s = desk_.document.chosenLights().join(',') + "|";
    for (const Light& l : piece.lights) {
        s += QString::fromStdString(l.id) + qs(l.what.kind().id) + QString::fromStdString(l.tied) +
             QString::number(static_cast<int>(l.stands)) + ",";
        for (const Parameter& p : l.what.kind().parameters) s += l.what.counts(p) ? '1' : '0';
    }
    s += piece.solid ? "solid" : "flat";
    s += QString::number(piece.canvas.width) + Theme::current().window.name();
    if (s != signature_) {
        signature_ = s;
        rebuild();
    }
    QString mood = tr("moods ▾");
    for (const Mood& t : piece.moods)
        if (t.id == piece.mood) mood = tr("%1 ▾").arg(nameOf(t));
    moods_->setText(mood);
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
    auto* inside = insideOf(scroll_, "lightsInside");
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
        for (auto& node : piece.lights)
            if (doc.isLightChosen(node->id)) node = node.with(work);
    };
    const auto defaults = l.what.kind().made();
    const auto* sky = l.what.as<SkyLight>();
    for (const Parameter& p : l.what.kind().parameters) {
        if (!l.what.counts(p)) continue;
        Binding b;
        b.path = [&doc, &p] { return doc.chosenLight().toStdString() + "." + std::string(p.id); };
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
        if (p.type == Parameter::Type::color && !sky) open->addWidget(temperatureScale(inside));
        if (p.type == Parameter::Type::file) {
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
        // About a solid it may stand over the skin, or before the camera.
        const int about = with->count();
        if (doc.piece().solid) {
            with->addItem(tr("the body"), QString());
            with->addItem(tr("the camera"), QString());
        }
        const int first = with->count();
        for_each_element(doc.piece().elements,
                         [&](const Element& e) { with->addItem(nameOf(e), QString::fromStdString(e.id)); });
        with->setCurrentIndex(!l.tied.empty() ? std::max(0, with->findData(QString::fromStdString(l.tied)))
                              : l.stands == Stands::space ? 0
                              : doc.piece().solid         ? about + (l.stands == Stands::camera ? 1 : 0)
                                                          : 0);
        with->setMaximumWidth(130);
        h->addWidget(with);
        connect(with, &QComboBox::activated, this, [&doc, with, each, about, first](int i) {
            const std::string to = with->currentData().toString().toStdString();
            const Stands stands = i == 0       ? Stands::space
                                  : i >= first ? Stands::body
                                  : i == about ? Stands::body
                                               : Stands::camera;
            doc.edit(tr("Tie light"), [&](Piece& piece) {
                const bool solid = piece.solid.has_value();
                each(piece, [&](Light& light) {
                    tie_to(piece, light, to);
                    if (solid || i == 0) light.stands = stands;
                });
            });
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
    tieStroke(scale, doc);
    connect(scale, &RuledScale::valueChanged, this, [&doc](double kelvin) {
        changeLights(doc, tr("Change temperature"), [&](const Light&, const Described& here) {
            return here.kind().find("color") ? here.with("color", color_of_temperature(kelvin)) : here;
        });
    });
    return scale;
}

void LightDesk::addLight(const QString& kind) {
    Document& doc = desk_.document;
    if (doc.piece().lights.size() >= most_lights)
        return emit refused(tr("A piece has at most %1 lights.").arg(most_lights));
    std::string id;
    doc.edit(tr("Add light"), [&](Piece& p) {
        const Light l = started(light_kind(kind.toStdString()), p);
        id = l.id;
        p.lights.emplace_back(l);
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
                                               : QString::fromStdString(doc.piece().lights.back()->id));
}

} // namespace bathylux
