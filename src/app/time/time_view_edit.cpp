// What is done to chosen keys and whole tracks; their menus.
#include <QContextMenuEvent>
#include <QMenu>
#include <cmath>

#include "app/controls/controls.h"
#include "app/controls/movement.h"
#include "app/time/time_strip.h"
#include "app/time/time_view.h"

namespace bathylux {

void TimeView::removeChosen() {
    if (chosen_.empty()) return;
    desk_.document.edit(chosen_.size() == 1 ? tr("Take away a key") : tr("Take away keys"),
                        [&](Piece& p) { remove_keys(p, chosen_); });
}

void TimeView::copyChosen() {
    copied_.clear();
    double first = 1e30;
    for (const KeyAt& k : chosen_) first = std::min(first, k.frame);
    for (const Track& t : tracks_) {
        const Motion* m = motion_of(desk_.document.piece(), t.path);
        const auto* keys = m ? std::get_if<Keys>(m) : nullptr;
        if (!keys) continue;
        Keys part;
        for (Key k : keys->list)
            if (chosen_.contains({t.path, k.frame})) k.frame -= first, part.list.push_back(k);
        if (!part.list.empty()) copied_.emplace_back(t.path, part);
    }
}

void TimeView::paste() {
    ChangedKeys out;
    for (const auto& [path, part] : copied_) {
        // What was copied off one track goes onto the one that is open.
        std::string to = path;
        if (copied_.size() == 1 && !open_.empty()) to = open_;
        const Motion* m = motion_of(desk_.document.piece(), to);
        const auto* keys = m ? std::get_if<Keys>(m) : nullptr;
        if (!keys || keys->list.front().value.index() != part.list.front().value.index()) continue;
        Keys now = *keys;
        std::vector<double> where;
        for (const Key& k : part.list) {
            const double f = k.frame + desk_.document.frame();
            set_key(now, f, k.value);
            now.list[static_cast<std::size_t>(now.key_on(f))].easing = k.easing;
            where.push_back(f);
        }
        out[to] = {now, where};
    }
    if (out.empty())
        return emit refused(tr("There is no track that takes these keys: choose one by its name."));
    put(tr("Paste keys"), out);
}

void TimeView::reverseChosen() {
    if (chosen_.size() > 1) put(tr("Reverse keys"), bathylux::reversed(desk_.document.piece(), chosen_));
}

void TimeView::setEasing(const Easing& easing) {
    ChangedKeys out;
    for (const KeyAt& k : chosen_) {
        const Motion* m = motion_of(desk_.document.piece(), k.path);
        const auto* keys = m ? std::get_if<Keys>(m) : nullptr;
        if (!keys) continue;
        auto& [now, where] = out.try_emplace(k.path, *keys, std::vector<double>{}).first->second;
        now.list[static_cast<std::size_t>(now.key_on(k.frame))].easing = easing;
        where.push_back(k.frame);
    }
    put(tr("Ease"), out);
}

void TimeView::setAfter(int track, After after) {
    const Keys* now = keysOf(track);
    if (!now) return;
    Keys keys = *now;
    keys.after = after;
    const std::string path = tracks_[static_cast<std::size_t>(track)].path;
    desk_.document.edit(tr("After the last key"), [&](Piece& p) { set_motion(p, path, keys); });
}

void TimeView::contextMenuEvent(QContextMenuEvent* e) {
    const int track = trackAt(e->pos().y());
    if (track < 0) return addTrackMenu(e->globalPos());
    const Track t = tracks_[static_cast<std::size_t>(track)];
    if (const auto key = keyAt(e->pos()); key && !chosen_.contains(*key)) chosen_ = {*key};
    auto* menu = passingMenu(this);
    if (!chosen_.empty()) {
        auto* ease = menu->addMenu(tr("Ease on to the next"));
        for (const char* name : {"linear", "ease", "ease-in", "ease-out", "ease-in-out", "step-end"})
            ease->addAction(QString(name).replace('-', ' '), this,
                            [this, name] { setEasing(*easing_from_text(name)); });
        menu->addAction(tr("Copy keys"), this, &TimeView::copyChosen);
        if (chosen_.size() > 1) menu->addAction(tr("Reverse keys"), this, &TimeView::reverseChosen);
        menu->addAction(tr("Take away keys"), this, &TimeView::removeChosen);
        menu->addSeparator();
    }
    if (!copied_.empty()) menu->addAction(tr("Paste keys here"), this, &TimeView::paste);
    if (const Keys* keys = keysOf(track)) {
        auto* after = menu->addMenu(tr("After the last key"));
        const std::pair<After, QString> ways[] = {{After::hold, tr("stays")},
                                                  {After::repeat, tr("starts again")},
                                                  {After::bounce, tr("runs back and forth")}};
        for (const auto& [way, words] : ways) {
            QAction* a = after->addAction(words, this, [this, track, way = way] { setAfter(track, way); });
            a->setCheckable(true), a->setChecked(keys->after == way);
        }
    }
    if (t.kind != Track::Kind::clip)
        menu->addAction(t.kind == Track::Kind::link ? tr("Follow no more") : tr("Take away all its keys"),
                        this, [this, path = t.path] { stand_still(desk_.document, path); });
    menu->popup(e->globalPos());
}

/// What of the chosen element or light could move and does not yet.
void TimeView::addTrackMenu(QPoint at) {
    auto* menu = passingMenu(this);
    menu->setObjectName("addTrack");
    const Piece& piece = desk_.document.piece();
    const Element* open = desk_.document.openElement();
    const std::string owner = open ? open->id : std::string();
    const std::string light = desk_.document.chosenLight().toStdString();
    const auto offer = [&](QMenu* to, const MovingPart& part) {
        for (const Parameter& p : part.parameters) {
            using Type = Parameter::Type;
            if (p.type != Type::number && p.type != Type::whole && p.type != Type::color) continue;
            if (p.rank == Rank::hidden || part.motions->contains(p.id)) continue;
            const std::string path = part.path + std::string(p.id);
            to->addAction(qs(p.name), this, [this, path] { toggle_key(desk_.document, path); });
        }
    };
    std::map<std::string, QMenu*> menus;
    for_each_part(piece, [&](const MovingPart& part) {
        const std::string whose = part.path.substr(0, part.path.find('.'));
        const bool of_element = !owner.empty() && whose == owner, of_light = !light.empty() && whose == light;
        const bool of_all = part.path.empty() || whose == "ambient" || (whose == "solid" && piece.solid);
        if (!of_element && !of_light && !of_all) return;
        QString name = of_light ? nameOf(*find_light(piece, light)) : of_all ? tr("All light") : QString();
        if (of_all && whose == "solid")
            name = part.path.starts_with("solid.camera") ? tr("Camera") : tr("Body");
        if (of_element) {
            const std::string rest = part.path.substr(whose.size() + 1);
            const auto dot = rest.find('.');
            const std::string first = rest.substr(0, dot);
            const Step* step = find_step(open->steps, first);
            name = step                   ? qs(step->kind().name)
                   : first == "source"    ? qs(open->kind().name)
                   : first == "placement" ? tr("Placement")
                   : first == "mix"       ? tr("Mixing")
                                          : tr("Surface");
        }
        QMenu*& to = menus[name.toStdString()];
        if (!to) to = menu->addMenu(name);
        offer(to, part);
    });
    for (const auto& [name, m] : menus) m->menuAction()->setVisible(!m->isEmpty());
    menu->popup(at);
}

} // namespace bathylux
