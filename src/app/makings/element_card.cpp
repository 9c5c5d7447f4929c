#include "app/makings/element_card.h"

#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/step_row.h"
#include "app/controls/stops_editor.h"
#include "app/controls/theme.h"
#include "app/makings/element_head.h"
#include "app/makings/map_rows.h"
#include "core/piece/edit.h"
#include "core/piece/references.h"
#include "core/solid/angles.h"

namespace bathylux {

ElementCard::ElementCard(Desk& desk, const Element& e, const Folds& folds, ElementHead* head, QWidget* parent)
    : QWidget(parent), desk_(desk), folds_(folds), id_(QString::fromStdString(e.id)) {
    const Theme& t = Theme::current();
    setObjectName("card");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet(QString("#card { background: %1; border: 1px solid %2; border-left: 3px solid %2; }")
                      .arg(t.selection.name(), t.accent.name()));
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(3, 1, 1, 8);
    box->setSpacing(0);
    box->addWidget(head);
    auto* inner = new QVBoxLayout;
    inner->setContentsMargins(8, 2, 10, 0);
    inner->setSpacing(1);
    box->addLayout(inner);
    if (const auto several = desk_.document.chosen().size(); several > 1) {
        auto* label = new QLabel(tr("%1 chosen: what is set here is set for all.").arg(several), this);
        label->setWordWrap(true);
        label->setStyleSheet("color: " + t.second.name());
        inner->addWidget(label);
    }
    if (e.id == finish_id) {
        addSteps(inner, e);
        return;
    }
    addSource(inner, e);
    addFold(
        inner, "placement", tr("Placement"),
        [this]() -> QString {
            const Element* now = element();
            if (!now) return {};
            const Placement& pl = now->placement;
            QString s = tr("at %1, %2").arg(said(pl.x).c_str()).arg(said(pl.y).c_str());
            if (pl.turn != 0) s += tr(", turned %1°").arg(said(pl.turn).c_str());
            if (pl.scale_u != 1 || pl.scale_v != 1)
                s += std::abs(pl.scale_u) == std::abs(pl.scale_v)
                         ? tr(", %1 %").arg(said(100 * std::abs(pl.scale_u)).c_str())
                         : tr(", %1 × %2 %")
                               .arg(said(100 * pl.scale_u).c_str())
                               .arg(said(100 * pl.scale_v).c_str());
            return s;
        },
        [&](QVBoxLayout* to) { addPlacement(to, e); });
    addFold(
        inner, "mix", tr("Mixing"),
        [this]() -> QString {
            const Element* now = element();
            if (!now) return {};
            static constexpr const char* heights[] = {"adds height",       "takes height away",
                                                      "the higher counts", "the lower counts",
                                                      "replaces height",   "carves"};
            const Mix& mix = now->mix;
            QString s = qs(blend_names[static_cast<int>(mix.blend)]).replace('-', ' ');
            if (mix.mask) s = (mix.mask->on ? tr("masked, ") : tr("mask off, ")) + s;
            if (mix.clip) s = tr("clipped, ") + s;
            if (mix.opacity < 1) s += tr(" at %1 %").arg(qRound(100 * mix.opacity));
            return s + ", " + tr(heights[static_cast<int>(mix.height)]);
        },
        [&](QVBoxLayout* to) { addMixing(to); });
    addUsers(inner, e);
    addSurface(inner, e);
    addSteps(inner, e);
}

QString ElementCard::signature(const Desk& desk, const Element& e) {
    const auto counted = [](const Described& d) {
        QString out;
        for (const Parameter& p : d.kind().parameters) out += d.counts(p) ? '1' : '0';
        return out;
    };
    const auto map = [](const std::optional<MapRef>& m) {
        return m ? "<" + QString::fromStdString(m->element) + (m->of == MapOf::slopes ? "/" : "") + ">"
                 : QString("-");
    };
    QString s = counted(e.source) + map(e.mix.mask);
    if (const auto& solid = desk.document.piece().solid; solid && has_angles(solid->body))
        s += solid->body.kind == BodyKind::sphere ? "^^" : "^";
    for (const Parameter& p : e.kind().parameters)
        if (p.type == Parameter::Type::element)
            s += QString::fromStdString(std::get<std::string>(e.source.get(p)));
    for (const Step& step : e.steps) {
        s += QString::fromStdString(step.id) + qs(step.kind().id) + counted(step.what) + map(step.map);
        for (const Parameter& p : step.kind().parameters)
            if (p.type == Parameter::Type::map) s += map(map_in(step.what, p));
        s += ",";
    }
    if (e.surface) {
        for (const Parameter& p : Surface::parameters)
            s += counts(Surface::parameters, &*e.surface, p) ? '1' : '0';
        for (const SurfaceMap& m : e.surface->maps) s += QString::fromStdString(m.parameter) + map(m.map);
    }
    s += QString::number(users_of(desk.document.piece(), e.id).size());
    if (const Asset* a = desk.asset(e.id))
        s += (a->trouble.empty() ? "+" : "!") + QString::number(a->picture ? a->picture->hash : 0, 16);
    for (const std::string& f : files_of(e)) s += desk.document.state().store.is_embedded(f) ? "in" : "out";
    return s;
}

void ElementCard::refresh() {
    for (ParameterControl* c : controls_) c->refresh();
    for (const auto& r : refreshers_) r();
}

ParameterControl* ElementCard::add(QVBoxLayout* to, const Parameter& p, const Value& standard,
                                   Place<Value> place) {
    auto* control =
        makeControl(p, standard, ofChosen(desk_.document, p, std::move(place)), desk_.document, this);
    if (!control) return nullptr;
    controls_.push_back(control);
    to->addWidget(control);
    return control;
}

/// A ramp is drawn mixed as it will be.
void ElementCard::showMixing(ParameterControl* stops, const std::function<const Described*()>& of) {
    auto* strip = stops ? stops->findChild<StopsStrip*>() : nullptr;
    if (!strip) return;
    const auto show = [strip, of] {
        const Described* now = of();
        const Parameter* how = now ? now->kind().find("mix_in") : nullptr;
        if (!how) return;
        const auto name = std::get<std::string>(now->get(*how));
        const auto found = std::find(mix_in_names.begin(), mix_in_names.end(), name);
        strip->setMixIn(static_cast<MixIn>(found - mix_in_names.begin()));
    };
    show();
    refreshers_.push_back(show);
}

void ElementCard::addFold(QVBoxLayout* to, const QString& key, const QString& name,
                          const std::function<QString()>& says,
                          const std::function<void(QVBoxLayout*)>& fill) {
    const bool open = folds_.value(key);
    auto* row = new StepRow(false, this);
    const auto show = [row, name, says, open] { row->setFace(name, open ? QString() : says(), true, open); };
    show();
    refreshers_.push_back(show);
    to->addWidget(row);
    connect(row, &StepRow::clicked, this, [this, key] { emit foldAsked(key); });
    if (!open) return;
    auto* box = new QVBoxLayout;
    box->setContentsMargins(6, 0, 0, 6);
    box->setSpacing(1);
    to->addLayout(box);
    fill(box);
}

void ElementCard::addMap(QVBoxLayout* to, const QString& label, const QString& none, const MapPlace& place,
                         bool pairs) {
    addMapRows(
        to, desk_, id_.toStdString(), label, none, place, this,
        [this](ParameterControl* c) { controls_.push_back(c); }, refreshers_, pairs);
}

/// What it is made of: what comes first is always in sight, figures are folded away.
void ElementCard::addSource(QVBoxLayout* to, const Element& e) {
    const SourceKind& kind = e.kind();
    const auto defaults = kind.made();
    const auto control = [&](QVBoxLayout* box, const Parameter& p) {
        if (p.type == Parameter::Type::element) return addFollowed(box, p);
        if (!e.source.counts(p)) return;
        auto* made = add(box, p, p.get(defaults.get()), inSource(kind, p));
        if (p.type == Parameter::Type::stops)
            showMixing(made,
                       [this]() -> const Described* { return element() ? &element()->source : nullptr; });
    };
    // In line with the names of what is folded.
    auto* in_sight = new QVBoxLayout;
    in_sight->setContentsMargins(6, 0, 0, 0);
    in_sight->setSpacing(1);
    to->addLayout(in_sight);
    bool folded = false;
    for (const Parameter& p : kind.parameters) {
        if (p.rank == Rank::first || p.rank == Rank::sight) control(in_sight, p);
        folded = folded || p.rank == Rank::folded;
    }
    addFile(in_sight, e);
    if (folded)
        addFold(
            to, "source", qs(kind.name),
            [this] { return element() ? QString::fromStdString(element()->source.says()) : QString(); },
            [&](QVBoxLayout* box) {
                for (const Parameter& p : kind.parameters)
                    if (p.rank == Rank::folded) control(box, p);
            });
}

/// The element that a twin shows: a way to it, and to take another.
void ElementCard::addFollowed(QVBoxLayout* to, const Parameter& p) {
    Document& doc = desk_.document;
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel(qs(p.name), this));
    row->addStretch(1);
    const auto now = element()->source.get(p);
    if (const Element* of = find_element(doc.piece().elements, std::get<std::string>(now))) {
        auto* open = linkButton(nameOf(*of), this);
        open->setObjectName("openFollowed");
        connect(open, &QToolButton::clicked, this,
                [&doc, id = QString::fromStdString(of->id)] { doc.choose({id}); });
        row->addWidget(open);
    }
    auto* take = linkButton(std::get<std::string>(now).empty() ? tr("choose…") : tr("change"), this);
    take->setObjectName("takeFollowed");
    take->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(take);
    connect(menu, &QMenu::aboutToShow, this, [this, menu, &doc, &p] {
        menu->clear();
        for_each_element(doc.piece().elements, [&](const Element& m) {
            const std::string own = id_.toStdString();
            if (m.id == own) return;
            QAction* a = menu->addAction(nameOf(m), this, [&doc, &p, own, of = m.id] {
                doc.edit(tr("Follow another element"), [&](Piece& piece) {
                    change(piece, own, [&](Element& twin) { twin.source = twin.source.with(p, of); });
                });
            });
            a->setEnabled(may_read(doc.piece(), own, m.id));
        });
    });
    take->setMenu(menu);
    row->addWidget(take);
    to->addLayout(row);
}

/// What is wrong with its file, and how it is kept.
void ElementCard::addFile(QVBoxLayout* to, const Element& e) {
    const auto named = files_of(e);
    if (named.empty()) return;
    const std::string& file = named.front();
    const Asset* asset = desk_.asset(e.id);
    const bool trouble = asset && !asset->trouble.empty();
    if (trouble) {
        auto* why = new QLabel(QString::fromStdString(asset->trouble), this);
        why->setWordWrap(true);
        why->setStyleSheet("color: " + Theme::current().signal.name());
        to->addWidget(why);
    }
    auto* row = new QHBoxLayout;
    row->setContentsMargins(0, 0, 0, 0);
    row->addStretch(1);
    if (trouble) {
        auto* relink = linkButton(tr("find the file…"), this);
        connect(relink, &QToolButton::clicked, this, [this] { emit relinkAsked(id_); });
        row->addWidget(relink);
    } else if (!desk_.document.state().store.is_embedded(file)) {
        auto* embed = linkButton(tr("keep inside the piece"), this);
        connect(embed, &QToolButton::clicked, this, [this] { emit embedAsked(id_); });
        row->addWidget(embed);
    }
    to->addLayout(row);
}

void ElementCard::addPlacement(QVBoxLayout* to, const Element& e) {
    static const Placement standard;
    addAngles(to, e);
    for (const Parameter& p : Placement::parameters)
        if (p.type != Parameter::Type::choice || e.kind().has_rim) // only pictures have a rim
            add(to, p, p.get(&standard), inPlacement(p));
}

/// On a body that the canvas is the skin of, a place is two angles as well: what is tied to the element, as a
/// spot to its dent, goes along.
void ElementCard::addAngles(QVBoxLayout* to, const Element& e) {
    Document& doc = desk_.document;
    const Piece& piece = doc.piece();
    if (!piece.solid || !has_angles(piece.solid->body) || !group_of(piece, e.id).empty()) return;
    const auto body = [&doc] { return doc.piece().solid.value_or(Solid()).body; };
    const auto at = [&doc, body](const Element& now) {
        const Canvas& c = doc.piece().canvas;
        return angles_of(body(), {now.placement.x, now.placement.y}, c.width, c.height);
    };
    static const BodyAngles standard;
    for (const Parameter& p : BodyAngles::parameters) {
        if (p.id == "up" && piece.solid->body.kind != BodyKind::sphere) continue;
        add(to, p, p.get(&standard),
            {[&p, at](const Element& now) -> std::optional<Value> {
                 BodyAngles a = at(now);
                 return p.get(&a);
             },
             [&p, &doc, at, body](Element& now, const Value& v) {
                 BodyAngles a = at(now);
                 p.set(&a, v);
                 const Canvas& c = doc.piece().canvas;
                 const Vec2 place =
                     place_of(body(), a, {now.placement.x, now.placement.y}, c.width, c.height);
                 now.placement.x = static_cast<float>(place.x), now.placement.y = static_cast<float>(place.y);
             }});
    }
}

void ElementCard::addMixing(QVBoxLayout* to) {
    static const Mix standard;
    for (const Parameter& p : Mix::parameters)
        if (p.rank != Rank::hidden) add(to, p, p.get(&standard), inMixing(p));
    addMap(to, tr("Mask"), tr("none"), maskPlace());
}

/// Who reads this element: the way back to them.
void ElementCard::addUsers(QVBoxLayout* to, const Element& e) {
    Document& doc = desk_.document;
    const auto users = users_of(doc.piece(), e.id);
    if (users.empty()) return;
    auto* row = new QHBoxLayout;
    row->setContentsMargins(6, 2, 0, 2);
    auto* says = new QLabel(tr("Read by"), this);
    says->setStyleSheet("color: " + Theme::current().second.name());
    row->addWidget(says);
    for (const std::string& user : users)
        if (const Element* u = doc.element(QString::fromStdString(user))) {
            auto* back = linkButton(nameOf(*u), this);
            back->setObjectName("readBy");
            connect(back, &QToolButton::clicked, this,
                    [&doc, id = QString::fromStdString(user)] { doc.choose({id}); });
            row->addWidget(back);
        }
    row->addStretch(1);
    to->addLayout(row);
}

} // namespace bathylux
