#include "app/makings.h"

#include <QHash>
#include <QLabel>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>
#include <set>

#include "app/chosen.h"
#include "app/controls.h"
#include "app/element_head.h"
#include "app/map_rows.h"
#include "app/pick_list.h"
#include "app/step_row.h"
#include "app/theme.h"
#include "app/tone_window.h"
#include "core/check/recognise.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "core/piece/sources.h"
#include "core/relief/tones.h"
#include "core/steps.h"

namespace bathylux {

namespace {

QString qs(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size())); }

/// The small line that says what an element is.
QString aboutElement(const Element& e, const Asset* asset) {
    if (asset && !asset->trouble.empty()) return QString::fromStdString(asset->trouble);
    if (const auto* t = e.source.as<TypeSource>())
        return QObject::tr("type · %1").arg(QString::fromStdString(t->text).replace('\n', " / "));
    if (const auto* p = e.source.as<PictureSource>()) return QString::fromStdString(p->file).section('/', -1);
    if (const auto* s = e.source.as<SvgSource>()) return QString::fromStdString(s->file).section('/', -1);
    if (const auto* r = e.source.as<RectangleSource>())
        return r->corner > 0 ? QObject::tr("rectangle, round %1 px").arg(r->corner)
                             : QObject::tr("rectangle");
    if (e.is_group()) return QObject::tr("group of %1").arg(e.elements.size());
    if (const auto* n = e.source.as<NoiseSource>())
        return QObject::tr("noise, %1, %2 px")
            .arg(qs(noise_flavor_names[static_cast<int>(n->flavor)]))
            .arg(said(n->size_u).c_str());
    if (const auto* m = e.source.as<PatternSource>())
        return qs(motif_names[static_cast<int>(m->motif)]).replace('_', ' ') +
               QObject::tr(", %1 px").arg(said(m->size).c_str());
    if (const auto* f = e.source.as<FormSource>())
        return qs(form_shape_names[static_cast<int>(f->shape)]).replace('_', ' ') +
               QObject::tr(", %1 px").arg(said(f->rise).c_str());
    if (e.source.is("normals") && asset && asset->picture) {
        // Which way its green points is told once for every map.
        static QHash<quint64, Green> known;
        auto found = known.find(asset->picture->hash);
        if (found == known.end())
            found = known.insert(asset->picture->hash, recognise(*asset->picture).green);
        return *found == Green::up     ? QObject::tr("normal map, green up")
               : *found == Green::down ? QObject::tr("normal map, green down")
                                       : QObject::tr("normal map, green unsure");
    }
    if (e.source.is("sprites") && asset && !asset->frames.empty())
        return QObject::tr("sprites, %1 frames").arg(asset->frames.size());
    return qs(e.source.kind().name).toLower();
}

/// Whether a parameter has any say now: some do only beside a certain choice.
bool counts(const Described& d, const Parameter& p) {
    if (p.id == "rounding") return std::get<std::string>(d.get("corner")) == "round";
    if (p.id == "rim") return std::get<std::string>(d.get("shape")) == "coin_rim";
    if (d.is("even_light") && p.id == "angle") return !std::get<bool>(d.get("find_angle"));
    if (d.is("sprites") && p.id != "cut" && p.id != "file" && p.id != "files" && p.id != "frame")
        return std::get<std::string>(d.get("cut")) == "grid";
    return true;
}

/// The choices on which that depends, for telling whether a card must be made anew.
QString countedBy(const Described& d) {
    QString out;
    for (const Parameter& p : d.kind().parameters) out += counts(d, p) ? '1' : '0';
    return out;
}

bool givesHeight(const Element& e) {
    if (e.source.is("form") || e.source.is("normals") || e.source.is("paint")) return true;
    return std::any_of(e.steps.begin(), e.steps.end(),
                       [](const Step& s) {
                           return s.on && (s.kind().group == "give depth" || s.what.is("by_hand"));
                       }) ||
           std::any_of(e.elements.begin(), e.elements.end(), givesHeight);
}

ElementHead::Face faceOf(const Element& e, const Desk& desk, int depth) {
    ElementHead::Face f;
    const Asset* asset = desk.asset(e.id);
    f.id = QString::fromStdString(e.id);
    f.name = nameOf(e);
    f.about = aboutElement(e, asset);
    f.trouble = asset && !asset->trouble.empty();
    f.picture = desk.pictures.value(f.id);
    f.color = e.mix.opacity > 0;
    f.height = givesHeight(e);
    f.surface = e.surface.has_value();
    f.visible = e.mix.visible;
    f.chosen = desk.document.isChosen(f.id);
    f.open = !desk.document.chosen().isEmpty() && desk.document.chosen().back() == f.id;
    f.depth = depth;
    return f;
}

} // namespace

Makings::Makings(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setMinimumWidth(270);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    auto* top = new QHBoxLayout;
    top->setContentsMargins(14, 4, 8, 4);
    top->addWidget(headLabel(tr("Makings"), this));
    top->addStretch(1);
    addButton_ = linkButton(tr("+ Add"), this);
    addButton_->setObjectName("addElement");
    addButton_->setToolTip(tr("Add words, a picture, a shape"));
    connect(static_cast<QToolButton*>(addButton_), &QToolButton::clicked, this, &Makings::askForElement);
    top->addWidget(addButton_);
    box->addLayout(top);
    scroll_ = new QScrollArea(this);
    scroll_->setWidgetResizable(true);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->setFocusPolicy(Qt::NoFocus);
    box->addWidget(scroll_, 1);
    footer_ = new QLabel(this);
    footer_->setFont(Theme::words(11));
    footer_->setContentsMargins(14, 4, 8, 6);
    box->addWidget(footer_);

    dropLine_ = new QWidget(this);
    dropLine_->setFixedHeight(2);
    dropLine_->hide();
    sticky_ = new ElementHead(scroll_->viewport());
    sticky_->hide();
    connect(sticky_, &ElementHead::clicked, this, [this] {
        scroll_->verticalScrollBar()->setValue(0), scroll_->ensureWidgetVisible(cardWidget_, 0, 0);
    });
    connect(scroll_->verticalScrollBar(), &QScrollBar::valueChanged, this, &Makings::placeSticky);

    connect(&desk_.document, &Document::changed, this, &Makings::refresh);
    connect(&desk_.document, &Document::choiceChanged, this, &Makings::refresh);
    connect(&desk_.renderer, &Renderer::pictured, this, [this](const QString& id, const QImage& picture) {
        desk_.pictures[id] = picture;
        refresh();
    });
    connect(&desk_.renderer, &Renderer::framed, this, [this] {
        if (desk_.frame && !desk_.frame->shot.coarse) refresh();
    });
    rebuild();
}

void Makings::setFooter(const QString& text) {
    footer_->setStyleSheet("color: " + Theme::current().second.name());
    footer_->setText(text);
}

QString Makings::signature() const {
    // What decides which widgets there are; values alone do not.
    QString s;
    const std::function<void(const std::vector<Element>&)> walk = [&](const std::vector<Element>& list) {
        for (const Element& e : list) {
            s += QString::fromStdString(e.id) + ":";
            if (desk_.document.isChosen(QString::fromStdString(e.id))) {
                s += "*";
                for (const Step& step : e.steps)
                    s += qs(step.kind().id) + countedBy(step.what) + "<" +
                         QString::fromStdString(step.map ? step.map->element : "") + ",";
                s += countedBy(e.source);
                if (e.surface) {
                    s += QString::number(int(e.surface->coat > 0) + 2 * int(e.surface->sheen > 0) +
                                         4 * int(e.surface->own_color > 0));
                    for (const SurfaceMap& m : e.surface->maps)
                        if (m.map) s += QString::fromStdString(m.parameter + m.map->element);
                }
                if (e.mix.mask) s += "m" + QString::fromStdString(e.mix.mask->element);
                s += QString::number(users_of(desk_.document.piece(), e.id).size());
                s += e.surface ? "s" : "-";
                if (const Asset* a = desk_.asset(e.id))
                    s += (a->trouble.empty() ? "+" : "!") +
                         QString::number(a->picture ? a->picture->hash : 0, 16);
                for (const std::string& f : files_of(e))
                    s += desk_.document.state().store.is_embedded(f) ? "in" : "out";
            }
            s += "(";
            walk(e.elements);
            s += ")";
        }
    };
    walk(desk_.document.piece().elements);
    s += "|" + desk_.document.chosen().join(',') + "|" + QString::number(desk_.document.openStep());
    s += "|" + QString::number(desk_.document.piece().canvas.width) + "x" +
         QString::number(desk_.document.piece().canvas.height) + Theme::current().window.name();
    for (auto f = folds_.begin(); f != folds_.end(); ++f)
        if (f.value()) s += f.key();
    return s;
}

void Makings::refresh() {
    if (signature() != signature_) return rebuild();
    for (ElementHead* h : heads_)
        if (const Element* e = find_element(desk_.document.piece().elements, h->face().id.toStdString()))
            h->setFace(faceOf(*e, desk_, h->face().depth));
    for (ParameterControl* c : controls_) c->refresh();
    for (const auto& r : refreshers_) r();
    placeSticky();
}

void Makings::rebuild() {
    signature_ = signature();
    // Where the keyboard was stays where it was, by name.
    const QWidget* focused = inside_ && inside_->isAncestorOf(focusWidget()) ? focusWidget() : nullptr;
    const QString focusName = focused ? focused->accessibleName() : QString();
    const QString focusClass = focused ? focused->metaObject()->className() : QString();
    const int scrolled = scroll_->verticalScrollBar()->value();
    heads_.clear();
    controls_.clear();
    refreshers_.clear();
    stepRows_.clear();
    stepButton_ = cardWidget_ = nullptr;
    inside_ = new QWidget;
    inside_->setObjectName("makingsInside");
    inside_->setStyleSheet("#makingsInside { background: transparent; }");
    list_ = new QVBoxLayout(inside_);
    list_->setContentsMargins(8, 0, 8, 8);
    list_->setSpacing(0);
    addElements(desk_.document.piece().elements, 0);
    if (desk_.document.piece().elements.empty()) {
        auto* empty = new QLabel(
            tr("Nothing here yet. Add words, a picture or a shape, or drop a file on the table."), inside_);
        empty->setWordWrap(true);
        empty->setContentsMargins(6, 8, 6, 8);
        empty->setStyleSheet("color: " + Theme::current().second.name());
        list_->addWidget(empty);
    }
    list_->addStretch(1);
    QWidget* old = scroll_->takeWidget();
    scroll_->setWidget(inside_);
    if (old) {
        old->hide();
        old->deleteLater();
    }
    scroll_->viewport()->setAutoFillBackground(false);
    inside_->setAutoFillBackground(false);
    inside_->show();
    if (!focusName.isEmpty())
        for (QWidget* w : inside_->findChildren<QWidget*>())
            if (w->accessibleName() == focusName && w->metaObject()->className() == focusClass) {
                w->setFocus();
                break;
            }
    inside_->layout()->activate();
    scroll_->verticalScrollBar()->setValue(scrolled);
    sticky_->raise();
    placeSticky();
}

void Makings::addElements(const std::vector<Element>& list, int depth) {
    for (auto e = list.rbegin(); e != list.rend(); ++e) {
        const QString id = QString::fromStdString(e->id);
        const bool open = !desk_.document.chosen().isEmpty() && desk_.document.chosen().back() == id;
        if (open) {
            cardWidget_ = card(*e, depth);
            list_->addWidget(cardWidget_);
        } else {
            auto* head = new ElementHead(inside_);
            head->setFace(faceOf(*e, desk_, depth));
            heads_.push_back(head);
            list_->addWidget(head);
            watchDrag(head, "element", id);
        }
        ElementHead* head = heads_.back();
        connect(head, &ElementHead::clicked, this, &Makings::clickElement);
        connect(head, &ElementHead::visibleToggled, this, [this](const QString& which, bool visible) {
            desk_.document.edit(visible ? tr("Switch on") : tr("Switch off"), [&](Piece& p) {
                find_element(p.elements, which.toStdString())->mix.visible = visible;
            });
        });
        connect(head, &ElementHead::renamed, this, [this](const QString& which, const QString& name) {
            desk_.document.edit(tr("Rename"), [&](Piece& p) {
                find_element(p.elements, which.toStdString())->name = name.toStdString();
            });
        });
        connect(head, &ElementHead::menuAsked, this, [this](const QString& which, const QPoint& at) {
            if (!desk_.document.isChosen(which)) desk_.document.choose({which});
            emit elementMenu(at);
        });
        if (e->is_group()) addElements(e->elements, depth + 1);
    }
}

void Makings::clickElement(const QString& id, Qt::KeyboardModifiers modifiers) {
    QStringList ids = desk_.document.chosen();
    if (modifiers & (Qt::ControlModifier | Qt::ShiftModifier)) {
        if (ids.contains(id))
            ids.removeAll(id);
        else
            ids << id;
    } else
        ids = ids == QStringList{id} ? QStringList{} : QStringList{id};
    desk_.document.choose(ids);
}

QWidget* Makings::card(const Element& element, int depth) {
    const Theme& t = Theme::current();
    auto* frame = new QWidget(inside_);
    frame->setObjectName("card");
    frame->setAttribute(Qt::WA_StyledBackground);
    frame->setStyleSheet(QString("#card { background: %1; border: 1px solid %2; border-left: 3px solid %2; }")
                             .arg(t.selection.name(), t.accent.name()));
    auto* box = new QVBoxLayout(frame);
    box->setContentsMargins(3, 1, 1, 8);
    box->setSpacing(0);
    auto* head = new ElementHead(frame);
    ElementHead::Face face = faceOf(element, desk_, depth);
    const auto several = desk_.document.chosen().size();
    head->setFace(face);
    heads_.push_back(head);
    box->addWidget(head);
    watchDrag(head, "element", face.id);
    auto* inner = new QVBoxLayout;
    inner->setContentsMargins(8, 2, 10, 0);
    inner->setSpacing(1);
    box->addLayout(inner);

    Document& doc = desk_.document;
    if (several > 1) {
        auto* label = new QLabel(tr("%1 chosen: what is set here is set for all.").arg(several), frame);
        label->setWordWrap(true);
        label->setStyleSheet("color: " + t.second.name());
        inner->addWidget(label);
    }
    // Source: what it is made of. Text first and always in sight; figures folded away.
    const Kind& kind = element.source.kind();
    const auto defaults = kind.make();
    const auto source = [k = &kind](Element& e) { return Place{e.source.is(k->id) ? &e.source : nullptr}; };
    const auto add_parameter = [&](QVBoxLayout* to, const Parameter& p) {
        addControl(to, makeControl(p, p.get(defaults.get()), ofChosen(doc, p, source), doc, frame));
    };
    std::vector<const Parameter*> folded;
    for (const Parameter& p : kind.parameters) {
        if (kind.id == "paint") continue; // its file and fineness are the brush's business
        static const std::set<std::string_view> leads{"motif",   "flavor", "shape", "green",
                                                      "columns", "rows",   "cut"};
        if (p.type == Parameter::Type::text || p.type == Parameter::Type::font ||
            p.type == Parameter::Type::file || p.id == "size" || leads.contains(p.id))
            add_parameter(inner, p);
        else
            folded.push_back(&p);
    }
    if (const auto named = files_of(element); !named.empty()) {
        const std::string& file = named.front();
        const Asset* asset = desk_.asset(element.id);
        auto* row = new QHBoxLayout;
        row->setContentsMargins(0, 0, 0, 0);
        if (asset && !asset->trouble.empty()) {
            auto* why = new QLabel(QString::fromStdString(asset->trouble), frame);
            why->setWordWrap(true);
            why->setStyleSheet("color: " + t.signal.name());
            inner->addWidget(why);
        }
        row->addStretch(1);
        const QString id = face.id;
        if (!doc.state().store.is_embedded(file) && !file.empty() && (!asset || asset->trouble.empty())) {
            auto* embed = linkButton(tr("keep inside the piece"), frame);
            connect(embed, &QToolButton::clicked, this, [this, id] { emit embedAsked(id); });
            row->addWidget(embed);
        }
        if (asset && !asset->trouble.empty()) {
            auto* relink = linkButton(tr("find the file…"), frame);
            connect(relink, &QToolButton::clicked, this, [this, id] { emit relinkAsked(id); });
            row->addWidget(relink);
        }
        inner->addLayout(row);
    }
    if (!folded.empty())
        addFold(
            inner, "source", qs(kind.name),
            [this, id = face.id, folded]() -> QString {
                const Element* e = find_element(desk_.document.piece().elements, id.toStdString());
                if (!e) return {};
                if (const auto* ty = e->source.as<TypeSource>())
                    return tr("%1, %2%3, %4")
                        .arg(ty->weight)
                        .arg(ty->align == Align::left    ? tr("left")
                             : ty->align == Align::right ? tr("right")
                                                         : tr("centred"))
                        .arg(ty->italic ? tr(", italic") : QString())
                        .arg(QString::fromStdString(to_string(ty->color)));
                if (const auto* r = e->source.as<RectangleSource>())
                    return tr("%1 × %2 px, corner %3").arg(r->width).arg(r->height).arg(r->corner);
                if (const auto* o = e->source.as<EllipseSource>())
                    return tr("%1 × %2 px").arg(o->width).arg(o->height);
                return {};
            },
            [&](QVBoxLayout* to) {
                for (const Parameter* p : folded)
                    if (counts(element.source, *p)) add_parameter(to, *p);
            });

    addFold(
        inner, "placement", tr("Placement"),
        [this, id = face.id]() -> QString {
            const Element* e = find_element(desk_.document.piece().elements, id.toStdString());
            if (!e) return {};
            const Placement& pl = e->placement;
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
        [&](QVBoxLayout* to) {
            static const Placement standard;
            for (const Parameter& p : Placement::parameters) {
                if (p.id == "edge" && kind.id != "picture" && kind.id != "normals" && kind.id != "sprites")
                    continue;
                addControl(to, makeControl(p, p.get(&standard),
                                           ofChosen(doc, p,
                                                    [](Element& e) {
                                                        return Place{nullptr, &e.placement};
                                                    }),
                                           doc, frame));
            }
        });
    addFold(
        inner, "mix", tr("Mixing"),
        [this, id = face.id]() -> QString {
            const Element* e = find_element(desk_.document.piece().elements, id.toStdString());
            if (!e) return {};
            static constexpr const char* heights[] = {"adds height",       "takes height away",
                                                      "the higher counts", "the lower counts",
                                                      "replaces height",   "carves"};
            QString s = qs(blend_names[static_cast<int>(e->mix.blend)]).replace('-', ' ');
            if (e->mix.mask) s = tr("masked, ") + s;
            if (e->mix.clip) s = tr("clipped, ") + s;
            if (e->mix.opacity < 1) s += tr(" at %1 %").arg(qRound(100 * e->mix.opacity));
            return s + ", " + tr(heights[static_cast<int>(e->mix.height)]);
        },
        [&](QVBoxLayout* to) {
            static const Mix standard;
            for (const Parameter& p : Mix::parameters)
                if (p.id != "visible")
                    addControl(to, makeControl(p, p.get(&standard),
                                               ofChosen(doc, p,
                                                        [](Element& e) {
                                                            return Place{nullptr, &e.mix};
                                                        }),
                                               doc, frame));
            addMapRows(
                to, desk_, face.id.toStdString(), tr("Mask"), tr("none"),
                [](Element& e) { return &e.mix.mask; }, frame,
                [this](ParameterControl* c) { controls_.push_back(c); }, refreshers_);
        });
    // Who reads this element as a map: the way back to them.
    if (const auto users = users_of(doc.piece(), element.id); !users.empty()) {
        auto* row = new QHBoxLayout;
        row->setContentsMargins(6, 2, 0, 2);
        auto* says = new QLabel(tr("Read by"), frame);
        says->setStyleSheet("color: " + t.second.name());
        row->addWidget(says);
        for (const std::string& user : users)
            if (const Element* u = find_element(doc.piece().elements, user)) {
                auto* back = linkButton(nameOf(*u), frame);
                back->setObjectName("readBy");
                connect(back, &QToolButton::clicked, this,
                        [&doc, id = QString::fromStdString(user)] { doc.choose({id}); });
                row->addWidget(back);
            }
        row->addStretch(1);
        inner->addLayout(row);
    }
    addFold(
        inner, "surface", tr("Surface"),
        [this, id = face.id]() -> QString {
            const Element* e = find_element(desk_.document.piece().elements, id.toStdString());
            if (!e || !e->surface) return tr("as below it");
            QStringList says{tr("roughness %1").arg(said(e->surface->roughness).c_str())};
            if (e->surface->metallic > 0) says << tr("metallic %1").arg(said(e->surface->metallic).c_str());
            if (e->surface->coat > 0) says << tr("clear coat");
            if (e->surface->sheen > 0) says << tr("sheen");
            return says.join(", ");
        },
        [&](QVBoxLayout* to) {
            static const Surface standard;
            auto* row = new QWidget(frame);
            auto* h = new QHBoxLayout(row);
            h->setContentsMargins(0, 0, 0, 0);
            h->addWidget(new QLabel(tr("A surface of its own"), row), 1);
            auto* own = new Switch(tr("A surface of its own"), row);
            own->setOn(element.surface.has_value());
            h->addWidget(own);
            to->addWidget(row);
            connect(own, &Switch::toggled, this, [&doc](bool on) {
                doc.edit(tr("Change surface"), [&](Piece& p) {
                    for (const QString& id : doc.chosen())
                        if (Element* e = find_element(p.elements, id.toStdString())) {
                            if (on)
                                e->surface = p.surface;
                            else
                                e->surface.reset();
                        }
                });
            });
            auto* start = linkButton(tr("start from ▾"), frame);
            start->setObjectName("surfaceStarts");
            start->setPopupMode(QToolButton::InstantPopup);
            auto* starts = new QMenu(start);
            connect(starts, &QMenu::aboutToShow, this, [this, starts] { fillSurfaceStarts(starts); });
            start->setMenu(starts);
            to->addWidget(start, 0, Qt::AlignRight);
            const auto matters = [&](std::string_view id) {
                const Surface& s = *element.surface;
                if (id == "coat_roughness") return s.coat > 0 || s.map_of("coat");
                if (id == "sheen_roughness" || id == "sheen_tint") return s.sheen > 0 || s.map_of("sheen");
                if (id == "color") return s.own_color > 0 || s.map_of("own_color");
                return true;
            };
            if (element.surface)
                for (const Parameter& p : Surface::parameters)
                    if (matters(p.id))
                        addControl(
                            to,
                            makeControl(p, p.get(&standard),
                                        ofChosen(doc, p,
                                                 [](Element& e) {
                                                     return Place{nullptr, e.surface ? &*e.surface : nullptr};
                                                 }),
                                        doc, frame));
            if (element.surface) addSurfaceMaps(to, element, frame);
        });
    addSteps(inner, element);
    list_->addSpacing(2);
    return frame;
}

void Makings::addControl(QVBoxLayout* to, ParameterControl* control) {
    if (!control) return;
    controls_.push_back(control);
    to->addWidget(control);
}

void Makings::addFold(QVBoxLayout* to, const QString& key, const QString& name, std::function<QString()> says,
                      const std::function<void(QVBoxLayout*)>& fill) {
    const bool open = folds_.value(key);
    auto* row = new StepRow(false, to->parentWidget() ? to->parentWidget() : inside_);
    row->setFace(name, says(), true, open);
    refreshers_.push_back(
        [row, name, says, open] { row->setFace(name, open ? QString() : says(), true, open); });
    if (open) row->setFace(name, QString(), true, true);
    to->addWidget(row);
    connect(row, &StepRow::clicked, this, [this, key] {
        folds_[key] = !folds_.value(key);
        refresh();
    });
    if (!open) return;
    auto* box = new QVBoxLayout;
    box->setContentsMargins(6, 0, 0, 6);
    box->setSpacing(1);
    to->addLayout(box);
    fill(box);
}

void Makings::addSteps(QVBoxLayout* to, const Element& element) {
    const Theme& t = Theme::current();
    Document& doc = desk_.document;
    auto* top = new QHBoxLayout;
    top->setContentsMargins(6, 6, 0, 2);
    top->addWidget(headLabel(tr("Steps"), inside_));
    top->addStretch(1);
    auto* add = linkButton(tr("+ Step"), inside_);
    add->setObjectName("addStep");
    stepButton_ = add;
    connect(add, &QToolButton::clicked, this, &Makings::askForStep);
    top->addWidget(add);
    to->addLayout(top);
    const QString id = QString::fromStdString(element.id);
    for (int i = 0; i < static_cast<int>(element.steps.size()); ++i) {
        const Step& step = element.steps[i];
        const bool open = doc.openStep() == i;
        auto* holder = new QWidget(inside_);
        holder->setObjectName("stepHolder");
        holder->setAttribute(Qt::WA_StyledBackground);
        if (open) holder->setStyleSheet(QString("#stepHolder { background: %1; }").arg(t.raised.name()));
        auto* box = new QVBoxLayout(holder);
        box->setContentsMargins(0, 0, 0, open ? 6 : 0);
        box->setSpacing(1);
        auto* row = new StepRow(true, holder);
        const auto show = [this, row, id, i] {
            const Element* e = find_element(desk_.document.piece().elements, id.toStdString());
            if (!e || i >= static_cast<int>(e->steps.size())) return;
            const Step& s = e->steps[i];
            row->setFace(qs(s.kind().name), QString::fromStdString(s.kind().says(s.what.data())), s.on,
                         desk_.document.openStep() == i);
        };
        show();
        refreshers_.push_back(show);
        stepRows_.push_back({i, row});
        watchDrag(row, "step", QString::number(i));
        box->addWidget(row);
        connect(row, &StepRow::clicked, this, [&doc, i, open] { doc.setOpenStep(open ? -1 : i); });
        connect(row, &StepRow::toggled, this, [&doc, id, i](bool on) {
            doc.edit(on ? tr("Switch step on") : tr("Switch step off"),
                     [&](Piece& p) { find_element(p.elements, id.toStdString())->steps[i].on = on; });
        });
        connect(row, &StepRow::menuAsked, this, [this, i](const QPoint& at) { emit stepMenu(i, at); });
        connect(row, &StepRow::removeAsked, this, [&doc, id, i] {
            doc.edit(tr("Delete step"), [&](Piece& p) {
                auto& steps = find_element(p.elements, id.toStdString())->steps;
                steps.erase(steps.begin() + i);
            });
        });
        to->addWidget(holder);
        if (!open) continue;
        auto* inner = new QVBoxLayout;
        inner->setContentsMargins(6, 0, 6, 0);
        inner->setSpacing(1);
        box->addLayout(inner);

        const StepKind* kind = &step.kind();
        const auto pick = [i, kind](Element& e) -> Described* {
            return i < static_cast<int>(e.steps.size()) && &e.steps[i].kind() == kind ? &e.steps[i].what
                                                                                      : nullptr;
        };
        const auto place = [pick](Element& e) { return Place{pick(e)}; };
        const auto defaults = kind->make();
        const Asset* asset = desk_.asset(element.id);
        const bool window = kind->id == "tones" && asset && asset->picture && !asset->picture->is_float();
        // The profile's drawings come first, as the choice that shapes the rest.
        std::vector<const Parameter*> order;
        for (const Parameter& p : kind->parameters)
            if (p.type == Parameter::Type::profile) order.push_back(&p);
        for (const Parameter& p : kind->parameters)
            if (p.type != Parameter::Type::profile) order.push_back(&p);
        for (const Parameter* p : order) {
            if (!counts(step.what, *p)) continue;
            if (window && (p->id == "low" || p->id == "high")) {
                if (p->id == "high") continue;
                auto* tones = new ToneWindow(holder);
                const auto update_window = [this, tones, id, i, picture = asset->picture] {
                    const Element* e = find_element(desk_.document.piece().elements, id.toStdString());
                    const auto* now =
                        e && i < static_cast<int>(e->steps.size()) ? e->steps[i].what.as<Tones>() : nullptr;
                    if (!now) return;
                    if (tones->property("channel").toInt() != static_cast<int>(now->channel) + 1) {
                        tones->setProperty("channel", static_cast<int>(now->channel) + 1);
                        tones->setCounts(tone_histogram(*picture, now->channel, 128));
                    }
                    tones->setWindow(now->low, now->high);
                };
                update_window();
                refreshers_.push_back(update_window);
                const auto set_window = [&doc, pick](double l, double h) {
                    doc.edit(tr("Change tone window"), [&](Piece& piece) {
                        for (const QString& which : doc.chosen())
                            if (Element* e = find_element(piece.elements, which.toStdString()))
                                if (Described* d = pick(*e)) *d = d->with("low", l).with("high", h);
                    });
                };
                connect(tones, &ToneWindow::strokeBegan, this, [&doc] { doc.beginStroke(); });
                connect(tones, &ToneWindow::strokeEnded, this, [&doc] { doc.endStroke(); });
                connect(tones, &ToneWindow::windowChanged, this, set_window);
                connect(tones, &ToneWindow::stretchAsked, this,
                        [this, set_window, id, i, picture = asset->picture] {
                            const Element* e =
                                find_element(desk_.document.piece().elements, id.toStdString());
                            const auto* now = e && i < static_cast<int>(e->steps.size())
                                                  ? e->steps[i].what.as<Tones>()
                                                  : nullptr;
                            if (!now) return;
                            const auto [l, h] = tone_range(*picture, now->channel);
                            set_window(l, h);
                        });
                inner->addWidget(tones);
                continue;
            }
            if (kind->id == "by_hand") continue;
            addControl(inner, makeControl(*p, p->get(defaults.get()), ofChosen(doc, *p, place), doc, holder));
        }
        if (kind->id == "by_hand") {
            auto* hint = new QLabel(tr("Take the brush (B) and paint on the table."), holder);
            hint->setWordWrap(true);
            hint->setStyleSheet("color: " + t.second.name());
            inner->addWidget(hint);
        }
        addMapRows(
            inner, desk_, element.id, tr("Works where"), tr("everywhere"),
            [i, kind](Element& e) -> std::optional<MapRef>* {
                return i < static_cast<int>(e.steps.size()) && &e.steps[i].kind() == kind ? &e.steps[i].map
                                                                                          : nullptr;
            },
            holder, [this](ParameterControl* c) { controls_.push_back(c); }, refreshers_);
    }
    if (element.steps.empty()) {
        auto* hint = new QLabel(tr("No steps yet: add one to give it depth."), inside_);
        hint->setStyleSheet("color: " + t.second.name());
        hint->setContentsMargins(6, 2, 0, 2);
        to->addWidget(hint);
    }
}

void Makings::askForElement() {
    QList<PickList::Entry> entries;
    static const std::map<std::string_view, const char*> icons{
        {"type", "type"},        {"picture", "image"},    {"svg", "pen-tool"}, {"rectangle", "square"},
        {"ellipse", "circle"},   {"group", "group"},      {"form", "cone"},    {"noise", "waves"},
        {"pattern", "grid-3x3"}, {"normals", "mountain"}, {"sprites", "film"}, {"paint", "brush"}};
    for (const Kind& k : source_kinds()) {
        const auto icon = icons.find(k.id);
        entries.push_back(
            {qs(k.id), qs(k.name), qs(k.help), {}, {}, icon == icons.end() ? "square" : icon->second, true});
    }
    auto* list = new PickList(tr("Add what?"), entries, this);
    connect(list, &PickList::picked, this, &Makings::addElement);
    list->openAt(addButton_->mapToGlobal(QPoint(-220, addButton_->height() + 2)), 280);
}

void Makings::askForStep() {
    if (!desk_.document.openElement()) return;
    QList<PickList::Entry> entries;
    for (const StepKind& k : step_kinds())
        entries.push_back({qs(k.id), qs(k.name), qs(k.help), qs(k.group), {}, {}, true});
    std::stable_sort(entries.begin(), entries.end(), [](const auto& a, const auto& b) {
        static const QStringList order{"give depth", "shape depth", "shape", "colour",
                                       "wear",       "bend",        "finish"};
        return order.indexOf(a.group) < order.indexOf(b.group);
    });
    auto* list = new PickList(tr("Add which step?"), entries, this);
    connect(list, &PickList::picked, this, &Makings::addStep);
    QWidget* by = stepButton_ && stepButton_->isVisible() ? stepButton_ : addButton_;
    list->openAt(by->mapToGlobal(QPoint(-220, by->height() + 2)), 300);
}

void Makings::rename() {
    for (ElementHead* h : heads_)
        if (h->face().open) h->rename();
}

// --- dragging elements and steps to another place ---

void Makings::watchDrag(QWidget* handle, const QString& kind, const QString& id) {
    handle->setProperty("dragKind", kind);
    handle->setProperty("dragId", id);
    handle->installEventFilter(this);
}

bool Makings::eventFilter(QObject* o, QEvent* e) {
    auto* w = qobject_cast<QWidget*>(o);
    if (!w || !w->property("dragKind").isValid()) return false;
    if (e->type() == QEvent::MouseButtonPress && static_cast<QMouseEvent*>(e)->button() == Qt::LeftButton) {
        drag_ = {};
        drag_.kind = w->property("dragKind").toString();
        drag_.id = w->property("dragId").toString();
        drag_.pressed = static_cast<QMouseEvent*>(e)->globalPosition().toPoint();
    } else if (e->type() == QEvent::MouseMove && !drag_.kind.isEmpty() &&
               static_cast<QMouseEvent*>(e)->buttons() & Qt::LeftButton) {
        const QPoint at = static_cast<QMouseEvent*>(e)->globalPosition().toPoint();
        if (!drag_.moving && (at - drag_.pressed).manhattanLength() < 8) return false;
        drag_.moving = true;
        dragTo(at);
        return true;
    } else if (e->type() == QEvent::MouseButtonRelease && !drag_.kind.isEmpty()) {
        const bool moved = drag_.moving;
        if (moved) drop();
        drag_ = {};
        dropLine_->hide();
        return moved; // a drag is not a click
    } else if (e->type() == QEvent::KeyPress && drag_.moving &&
               static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape) {
        drag_ = {};
        dropLine_->hide();
        return true;
    }
    return false;
}

void Makings::dragTo(const QPoint& global) {
    const auto line_at = [&](const QWidget* by, bool below, int indent) {
        const QPoint p = mapFromGlobal(by->mapToGlobal(QPoint(indent, below ? by->height() : 0)));
        dropLine_->setStyleSheet("background: " + Theme::current().accent.name());
        dropLine_->setGeometry(p.x(), p.y() - 1, by->width() - indent, 2);
        dropLine_->show();
        dropLine_->raise();
    };
    drag_.index = -1;
    if (drag_.kind == "step") {
        for (const auto& [i, row] : stepRows_) {
            const QPoint p = row->mapFromGlobal(global);
            if (p.y() < row->height() / 2 || i == stepRows_.back().first) {
                const bool below = p.y() >= row->height() / 2;
                drag_.index = below ? i + 1 : i;
                line_at(row, below, 0);
                return;
            }
        }
        return;
    }
    for (std::size_t k = 0; k < heads_.size(); ++k) {
        ElementHead* h = heads_[k];
        const QWidget* whole = h->face().open ? cardWidget_ : h;
        const QPoint p = whole->mapFromGlobal(global);
        if (p.y() >= whole->height() && k + 1 < heads_.size()) continue;
        const std::string id = h->face().id.toStdString();
        const Element* e = find_element(desk_.document.piece().elements, id);
        if (!e) return;
        // The middle of a group takes things in; halves of others put them before or behind.
        const int third = h->height() / 3;
        if (e->is_group() && p.y() > third && p.y() < 2 * third && h->face().id != drag_.id) {
            drag_.group = h->face().id;
            drag_.index = static_cast<int>(e->elements.size());
            dropLine_->setGeometry(QRect(mapFromGlobal(h->mapToGlobal(QPoint(0, 0))), QSize(3, h->height())));
            dropLine_->setStyleSheet("background: " + Theme::current().accent.name());
            dropLine_->show();
            return;
        }
        const bool below = p.y() >= whole->height() / 2;
        Piece copy;
        copy.elements = desk_.document.piece().elements;
        const auto* siblings = find_siblings(copy.elements, id);
        int index = 0;
        while ((*siblings)[index].id != id) ++index;
        drag_.group.clear();
        for_each_element(desk_.document.piece().elements, [&](const Element& g) {
            for (const Element& c : g.elements)
                if (c.id == id) drag_.group = QString::fromStdString(g.id);
        });
        // Front first on screen, back first in the list.
        drag_.index = below ? index : index + 1;
        line_at(whole, below, 8 + 14 * h->face().depth);
        return;
    }
}

void Makings::drop() {
    if (drag_.index < 0) return;
    Document& doc = desk_.document;
    if (drag_.kind == "step") {
        const Element* e = doc.openElement();
        const int from = drag_.id.toInt(), to = drag_.index > from ? drag_.index - 1 : drag_.index;
        if (!e || from == to || from >= static_cast<int>(e->steps.size())) return;
        const std::string id = e->id;
        doc.edit(tr("Reorder steps"), [&](Piece& p) {
            auto& steps = find_element(p.elements, id)->steps;
            Step s = std::move(steps[from]);
            steps.erase(steps.begin() + from);
            steps.insert(steps.begin() + to, std::move(s));
        });
        doc.setOpenStep(to);
        return;
    }
    const QStringList ids = doc.isChosen(drag_.id) ? doc.chosen() : QStringList{drag_.id};
    Piece trial = doc.piece();
    if (!bathylux::move(trial, toIds(ids), drag_.group.toStdString(), drag_.index)) return;
    const QString group = drag_.group;
    const int index = drag_.index;
    doc.edit(tr("Reorder"), [&](Piece& p) { bathylux::move(p, toIds(ids), group.toStdString(), index); });
}

void Makings::placeSticky() {
    ElementHead* head = nullptr;
    for (ElementHead* h : heads_)
        if (h->face().open) head = h;
    if (!head || !cardWidget_) {
        sticky_->hide();
        return;
    }
    const int top = head->mapTo(scroll_->viewport(), QPoint()).y(),
              bottom = cardWidget_->mapTo(scroll_->viewport(), QPoint(0, cardWidget_->height())).y();
    const bool show = top < 0 && bottom > head->height() + 30;
    sticky_->setVisible(show);
    if (!show) return;
    sticky_->setFace(head->face());
    sticky_->setGeometry(head->mapTo(scroll_->viewport(), QPoint()).x(), 0, head->width(), head->height());
}

void Makings::resizeEvent(QResizeEvent*) { placeSticky(); }

} // namespace bathylux
