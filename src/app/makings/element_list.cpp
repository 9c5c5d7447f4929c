#include "app/makings/element_list.h"

#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QVBoxLayout>

#include "app/controls/theme.h"
#include "core/piece/edit.h"
#include "core/piece/references.h"
#include "core/piece/twin.h"
#include "core/render/graph.h"
#include "core/step/color_words.h"

namespace bathylux {

namespace {

/// The small line that says what an element is: its words, its file, its figures.
QString aboutItself(const Element& e, const Asset* asset, const Piece& piece) {
    if (asset && !asset->trouble.empty()) return QString::fromStdString(asset->trouble);
    const QString kind = qs(e.kind().name).toLower();
    if (e.is_group()) {
        const QString group = QObject::tr("group of %1").arg(e.elements.size());
        return is_lit_picture(piece, e) ? QObject::tr("%1, lit by itself").arg(group) : group;
    }
    if (const auto* twin = e.source.as<TwinSource>()) {
        const Element* of = find_element(piece.elements, twin->of);
        return of ? QObject::tr("follows %1").arg(nameOf(*of)) : QObject::tr("follows nothing yet");
    }
    if (asset && !asset->about.empty()) return kind + ", " + QString::fromStdString(asset->about);
    for (const Parameter& p : e.kind().parameters)
        if (p.type == Parameter::Type::text)
            return QObject::tr("%1 · %2").arg(
                kind, QString::fromStdString(std::get<std::string>(e.source.get(p))).replace('\n', " / "));
    for (const Parameter& p : e.kind().parameters)
        if (p.type == Parameter::Type::file && p.rank != Rank::hidden)
            return QString::fromStdString(std::get<std::string>(e.source.get(p))).section('/', -1);
    const QString says = QString::fromStdString(e.source.says());
    return says.isEmpty() ? kind : QObject::tr("%1, %2").arg(kind, says);
}

QString aboutElement(const Element& e, const Asset* asset, const Piece& piece) {
    const QString itself = aboutItself(e, asset, piece);
    return e.surface && e.surface->transmission > 0 ? QObject::tr("seen through, %1").arg(itself) : itself;
}

ElementHead::Face faceOf(const Element& e, const Desk& desk, int depth) {
    ElementHead::Face f;
    const Asset* asset = desk.asset(e.id);
    f.id = QString::fromStdString(e.id);
    f.name = nameOf(e);
    f.about = aboutElement(e, asset, desk.document.piece());
    f.trouble = asset && !asset->trouble.empty();
    f.picture = desk.pictures.value(f.id);
    f.color = e.mix.opacity > 0;
    f.height = gives_height(e);
    f.surface = e.surface.has_value();
    f.visible = e.mix.visible;
    f.locked = e.locked;
    f.chosen = desk.document.isChosen(f.id);
    f.open = !desk.document.chosen().isEmpty() && desk.document.chosen().back() == f.id;
    f.depth = depth;
    return f;
}

/// The line of the finish: what lies over the light, in a few words.
ElementHead::Face faceOfFinish(const Element& finish, const Desk& desk) {
    ElementHead::Face f;
    f.plain = true;
    f.id = QString::fromStdString(finish.id);
    f.name = QObject::tr("Finish");
    QStringList on;
    for (const Step& s : finish.steps) {
        const QString name = qs(s.kind().name).toLower();
        if (!s.on || on.contains(name)) continue;
        on << name;
    }
    f.about = !on.isEmpty()          ? on.join(", ")
              : finish.steps.empty() ? QObject::tr("nothing over the light yet")
                                     : QObject::tr("switched off");
    f.visible = finish.steps.empty() || !on.isEmpty();
    f.chosen = desk.document.isChosen(f.id);
    f.open = f.chosen;
    return f;
}

} // namespace

ElementList::ElementList(Desk& desk, const Folds& folds, QWidget* parent)
    : QWidget(parent), desk_(desk), folds_(folds) {
    setObjectName("makingsInside");
    setStyleSheet("#makingsInside { background: transparent; }");
    box_ = new QVBoxLayout(this);
    box_->setContentsMargins(8, 0, 8, 8);
    box_->setSpacing(0);
    dropLine_ = new QWidget(this);
    dropLine_->hide();
    addFinish();
    add(desk_.document.piece().elements, 0);
    if (heads_.size() == 1) {
        auto* empty = new QLabel(
            tr("Nothing here yet. Add words, a picture or a shape, or drop a file on the table."), this);
        empty->setWordWrap(true);
        empty->setContentsMargins(6, 8, 6, 8);
        empty->setStyleSheet("color: " + Theme::current().second.name());
        box_->addWidget(empty);
    }
    addGround();
    body_ = new BodyCard(desk_, folds_.value("body"), folds_.value("body-surface"), this);
    connect(body_, &BodyCard::foldAsked, this, &ElementList::foldAsked);
    box_->addWidget(body_);
    box_->addStretch(1);
}

/// The line of the canvas itself; a click asks for its size.
void ElementList::addGround() {
    ground_ = new ElementHead(this);
    box_->addWidget(ground_);
    connect(ground_, &ElementHead::clicked, this, &ElementList::canvasAsked);
    showGround();
}

void ElementList::showGround() {
    const Canvas& c = desk_.document.piece().canvas;
    ElementHead::Face f;
    f.plain = f.fixed = true;
    f.name = tr("Ground");
    const QString size = QString::fromUtf8("%1 × %2 px").arg(c.columns()).arg(c.rows());
    f.about = c.background.a > 0 ? tr("%1, %2").arg(size, QString::fromStdString(in_words(c.background)))
                                 : tr("%1, empty").arg(size);
    ground_->setFace(f);
}

QString ElementList::signature(const Desk& desk, const Folds& folds) {
    const Document& doc = desk.document;
    QString s;
    const std::function<void(const Elements&)> walk = [&](const Elements& list) {
        for (const Element& e : list) {
            const QString id = QString::fromStdString(e.id);
            s += id + ":";
            if (doc.isChosen(id)) s += "*" + ElementCard::signature(desk, e);
            s += "(";
            walk(e.elements);
            s += ")";
        }
    };
    walk(doc.piece().elements);
    const Element* finish = doc.element(QString::fromUtf8(finish_id.data(), finish_id.size()));
    if (doc.isChosen(QString::fromStdString(finish->id))) s += "*" + ElementCard::signature(desk, *finish);
    if (folds.value("body")) s += BodyCard::signature(desk);
    s += "|" + doc.chosen().join(',') + "|" + doc.openStepId();
    s += "|" + QString::number(doc.piece().canvas.width) + "x" + QString::number(doc.piece().canvas.height) +
         Theme::current().window.name();
    for (auto f = folds.begin(); f != folds.end(); ++f)
        if (f.value()) s += f.key();
    return s;
}

void ElementList::refresh() {
    for (ElementHead* h : heads_)
        if (const Element* e = desk_.document.element(h->face().id))
            h->setFace(h->face().plain ? faceOfFinish(*e, desk_) : faceOf(*e, desk_, h->face().depth));
    if (card_) card_->refresh();
    showGround();
    body_->refresh();
}

void ElementList::addLine(const Element& e, const ElementHead::Face& face) {
    auto* head = new ElementHead(this);
    head->setFace(face);
    addHead(head);
    if (!face.open) return box_->addWidget(head);
    openHead_ = head;
    card_ = new ElementCard(desk_, e, folds_, head, this);
    box_->addWidget(card_);
    box_->addSpacing(2);
    connect(card_, &ElementCard::stepAsked, this, &ElementList::stepAsked);
    connect(card_, &ElementCard::stepMenu, this, &ElementList::stepMenu);
    connect(card_, &ElementCard::embedAsked, this, &ElementList::embedAsked);
    connect(card_, &ElementCard::relinkAsked, this, &ElementList::relinkAsked);
    connect(card_, &ElementCard::foldAsked, this, &ElementList::foldAsked);
    for (const auto& [step, row] : card_->stepRows()) watchDrag(row, "step", step);
}

void ElementList::addFinish() {
    const Element& finish = *desk_.document.element(QString::fromUtf8(finish_id.data(), finish_id.size()));
    addLine(finish, faceOfFinish(finish, desk_));
}

void ElementList::add(const Elements& list, int depth) {
    for (auto node = list.rbegin(); node != list.rend(); ++node) {
        const Element& e = **node;
        addLine(e, faceOf(e, desk_, depth));
        if (e.is_group()) add(e.elements, depth + 1);
    }
}

void ElementList::addHead(ElementHead* head) {
    heads_.push_back(head);
    Document& doc = desk_.document;
    connect(head, &ElementHead::clicked, this, &ElementList::click);
    if (head->face().plain) {
        // Before and after: all of it at once.
        connect(head, &ElementHead::visibleToggled, this, [&doc](const QString& id, bool on) {
            doc.edit(on ? tr("Switch the finish on") : tr("Switch the finish off"), [&](Piece& p) {
                change_steps(p, id.toStdString(), [&](Steps& steps) {
                    for (auto& s : steps) s = s.with([&](Step& step) { step.on = on; });
                });
            });
        });
        return;
    }
    watchDrag(head, "element", head->face().id);
    connect(head, &ElementHead::visibleToggled, this, [&doc](const QString& id, bool visible) {
        doc.edit(visible ? tr("Switch on") : tr("Switch off"), [&](Piece& p) {
            change(p, id.toStdString(), [&](Element& e) { e.mix.visible = visible; });
        });
    });
    connect(head, &ElementHead::renamed, this, [&doc](const QString& id, const QString& name) {
        doc.edit(tr("Rename"), [&](Piece& p) {
            change(p, id.toStdString(), [&](Element& e) { e.name = name.toStdString(); });
        });
    });
    connect(head, &ElementHead::menuAsked, this, [this, &doc](const QString& id, const QPoint& at) {
        if (!doc.isChosen(id)) doc.choose({id});
        emit elementMenu(at);
    });
}

void ElementList::click(const QString& id, Qt::KeyboardModifiers modifiers) {
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

// --- dragging elements and steps to another place ---

void ElementList::watchDrag(QWidget* handle, const QString& kind, const QString& id) {
    handle->setProperty("dragKind", kind);
    handle->setProperty("dragId", id);
    handle->installEventFilter(this);
}

bool ElementList::eventFilter(QObject* o, QEvent* e) {
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
        drag_.index = -1;
        drag_.kind == "step" ? dragStepTo(at) : dragTo(at);
        return true;
    } else if (e->type() == QEvent::MouseButtonRelease && !drag_.kind.isEmpty()) {
        const bool moved = drag_.moving;
        if (moved) drop();
        endDrag();
        return moved; // a drag is not a click
    } else if (e->type() == QEvent::KeyPress && drag_.moving &&
               static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape) {
        endDrag();
        return true;
    }
    return false;
}

void ElementList::endDrag() {
    drag_ = {};
    dropLine_->hide();
}

void ElementList::showDrop(QRect where) {
    dropLine_->setStyleSheet("background: " + Theme::current().accent.name());
    dropLine_->setGeometry(where);
    dropLine_->show();
    dropLine_->raise();
}

void ElementList::dragStepTo(const QPoint& global) {
    if (!card_) return;
    const auto& rows = card_->stepRows();
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const QWidget* row = rows[i].second;
        const QPoint p = row->mapFromGlobal(global);
        if (p.y() >= row->height() / 2 && i + 1 < rows.size()) continue;
        const bool below = p.y() >= row->height() / 2;
        drag_.index = static_cast<int>(i) + (below ? 1 : 0);
        const QPoint at = row->mapTo(this, QPoint(0, below ? row->height() : 0));
        return showDrop({at.x(), at.y() - 1, row->width(), 2});
    }
}

void ElementList::dragTo(const QPoint& global) {
    const Piece& piece = desk_.document.piece();
    for (std::size_t k = 0; k < heads_.size(); ++k) {
        const ElementHead* h = heads_[k];
        if (h->face().plain) continue;
        const QWidget* whole = h == openHead_ && card_ ? static_cast<QWidget*>(card_) : h;
        const QPoint p = whole->mapFromGlobal(global);
        if (p.y() >= whole->height() && k + 1 < heads_.size()) continue;
        const std::string id = h->face().id.toStdString();
        const Element* e = find_element(piece.elements, id);
        if (!e) return;
        // The middle of a group takes things in; halves of others put them before or behind.
        const int third = h->height() / 3;
        if (e->is_group() && p.y() > third && p.y() < 2 * third && h->face().id != drag_.id) {
            drag_.group = h->face().id;
            drag_.index = static_cast<int>(e->elements.size());
            return showDrop({h->mapTo(this, QPoint(0, 0)), QSize(3, h->height())});
        }
        const bool below = p.y() >= whole->height() / 2;
        const Elements& siblings = *find_siblings(piece, id);
        const auto at =
            std::find_if(siblings.begin(), siblings.end(), [&](const Element& s) { return s.id == id; });
        const int index = static_cast<int>(at - siblings.begin());
        drag_.group = QString::fromStdString(group_of(piece, id));
        // Front first on screen, back first in the list.
        drag_.index = below ? index : index + 1;
        const int indent = 8 + 14 * h->face().depth;
        const QPoint line = whole->mapTo(this, QPoint(indent, below ? whole->height() : 0));
        return showDrop({line.x(), line.y() - 1, whole->width() - indent, 2});
    }
}

void ElementList::drop() {
    if (drag_.index < 0) return;
    Document& doc = desk_.document;
    if (drag_.kind == "step") {
        const Element* e = doc.openElement();
        const int from = e ? index_of_step(e->steps, drag_.id.toStdString()) : -1,
                  to = drag_.index > from ? drag_.index - 1 : drag_.index;
        if (from < 0 || from == to) return;
        const QString step = drag_.id;
        doc.edit(tr("Reorder steps"), [&, id = e->id](Piece& p) {
            change(p, id, [&](Element& changed) {
                const auto moved = changed.steps[from];
                changed.steps.erase(changed.steps.begin() + from);
                changed.steps.insert(changed.steps.begin() + to, moved);
            });
        });
        doc.setOpenStep(step);
        return;
    }
    const Ids ids = toIds(doc.isChosen(drag_.id) ? doc.chosen() : QStringList{drag_.id});
    const std::string group = drag_.group.toStdString();
    Piece trial = doc.piece();
    if (bathylux::move(trial, ids, group, drag_.index)) {
        doc.edit(tr("Reorder"), [&](Piece& p) { p = trial; });
        return;
    }
    // What would then be read by itself is told; anything else was no place to drop.
    if (const Element* g = find_element(doc.piece().elements, group); g && outermost(doc.piece(), ids) == ids)
        for (const std::string& id : ids)
            if (const auto users = users_of(doc.piece(), group);
                std::find(users.begin(), users.end(), id) != users.end())
                emit doc.refused(tr("%1 reads %2, so it cannot lie in it.")
                                     .arg(nameOf(*find_element(doc.piece().elements, id)), nameOf(*g)));
}

} // namespace bathylux
