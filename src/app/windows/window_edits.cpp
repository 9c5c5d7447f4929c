// What the Make menu does. See window.cpp for the window itself.
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QSettings>

#include "app/controls/notice_bar.h"
#include "app/makings/makings.h"
#include "app/windows/window.h"
#include "core/error.h"
#include "core/piece/group.h"
#include "core/piece/starts.h"
#include "core/render/tied_lights.h"

namespace bathylux {

namespace {

/// What a group does beside holding its elements: that goes when it is taken apart.
QStringList ownOf(const Element& group) {
    QStringList out;
    if (!group.steps.empty())
        out << (group.steps.size() == 1 ? Window::tr("a step") : Window::tr("its steps"));
    if (group.surface) out << Window::tr("its surface");
    const Mix &mix = group.mix, plain;
    const auto set = [&](const Parameter& p) { return p.id != "visible" && p.get(&mix) != p.get(&plain); };
    if (mix.mask || std::any_of(Mix::parameters.begin(), Mix::parameters.end(), set))
        out << Window::tr("its mixing");
    if (const auto* source = group.source.as<GroupSource>(); source && source->lit)
        out << Window::tr("that it is lit by itself");
    return out;
}

} // namespace

namespace {
const char* pictureFilter =
    QT_TRANSLATE_NOOP("Window", "Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.exr);;All files (*)");
}

void Window::addElement(const QString& kind) {
    Document& doc = desk_.document;
    const SourceKind& k = source_kind(kind.toStdString());
    // What is made of files asks for them.
    const bool file = k.find("file") && !k.by_hand;
    if (file) {
        const bool drawing = !k.has_rim; // a picture has a rim, a drawing an outline
        const QStringList paths = QFileDialog::getOpenFileNames(
            this, tr("Add: %1").arg(qs(k.name).toLower()), QSettings().value("folder").toString(),
            kind == "clip" ? tr("Films and pictures (*.webm *.mp4 *.mov *.mkv *.m4v *.apng *.gif *.webp "
                                "*.png *.jpg *.jpeg "
                                "*.tif *.exr);;All files (*)")
            : drawing      ? tr("Drawings (*.svg);;All files (*)")
                           : tr(pictureFilter));
        if (paths.isEmpty()) return;
        QSettings().setValue("folder", QFileInfo(paths.front()).absolutePath());
        if (kind == "picture" || drawing) return addFiles(paths);
        if (kind == "clip") {
            incoming_.push_back({paths, {}, kind});
            return readNext();
        }
        if (k.framed && paths.size() > 1)
            incoming_.push_back({paths, {}, kind});
        else
            for (const QString& p : paths) incoming_.push_back({{p}, {}, kind});
        return readNext();
    }
    std::string id;
    doc.edit(tr("Add %1").arg(qs(k.name).toLower()), [&](Piece& p) {
        // In front of what is chosen; a group that is open takes it in.
        const std::string above = doc.chosen().isEmpty() ? std::string() : doc.chosen().back().toStdString();
        Element e = started(k, p);
        // A twin follows what is chosen, beside it.
        const Element* of = find_element(p.elements, above);
        if (!of && k.follows && !p.elements.empty()) of = &*p.elements.back();
        if (k.follows && of) {
            e.source = e.source.with("of", of->id);
            e.name = tr("Twin of %1").arg(nameOf(*of)).toStdString();
            e.placement = of->placement;
            e.placement.x += p.canvas.width / 20, e.placement.y += p.canvas.height / 20;
        }
        id = add_element(p, std::move(e), k.follows && of ? of->id : above);
    });
    if (id.empty()) return;
    if (!desk_.open) showPiece();
    doc.choose({QString::fromStdString(id)});
    if (k.by_hand) table_->setTool(Table::Tool::paint);
}

void Window::addStep(const QString& kind) {
    Document& doc = desk_.document;
    const StepKind& k = step_kind(kind.toStdString());
    if (doc.chosen().isEmpty()) return;
    std::string last;
    doc.edit(tr("Add %1").arg(qs(k.name).toLower()), [&](Piece& p) {
        for (const QString& id : doc.chosen())
            change(p, id.toStdString(), [&](Element& e) {
                last = bathylux::add_step(e, bathylux::started(k, e, desk_.asset(e.id)), place_for(e, k));
            });
    });
    doc.setOpenStep(QString::fromStdString(last));
    if (k.by_hand) table_->setTool(Table::Tool::paint);
}

void Window::removeChosen() {
    if (desk_.document.chosen().isEmpty()) return;
    const Ids ids = toIds(desk_.document.chosen());
    desk_.document.edit(tr("Delete"), [&](Piece& p) {
        let_go_of(p, ids);
        remove(p, ids);
    });
}

void Window::lockChosen() {
    Document& doc = desk_.document;
    const Element* open = doc.openElement();
    if (!open) return;
    const bool lock = !open->locked;
    doc.edit(lock ? tr("Lock") : tr("Unlock"), [&](Piece& p) {
        for (const QString& id : doc.chosen())
            change(p, id.toStdString(), [&](Element& e) { e.locked = lock; });
    });
}

void Window::groupChosen() {
    std::string id;
    desk_.document.edit(tr("Group"), [&](Piece& p) { id = group(p, toIds(desk_.document.chosen())); });
    desk_.document.choose({QString::fromStdString(id)});
}

void Window::ungroupChosen() {
    if (desk_.document.chosen().isEmpty()) return;
    const std::string id = desk_.document.chosen().back().toStdString();
    const Element* group = find_element(desk_.document.piece().elements, id);
    const QStringList own = group ? ownOf(*group) : QStringList();
    Ids out;
    desk_.document.edit(tr("Ungroup"), [&](Piece& p) { out = ungroup(p, id); });
    if (out.empty()) return;
    desk_.document.choose(fromIds(out));
    if (!own.isEmpty())
        notices_->say(tr("Taken apart. What the group did by itself is gone: %1.").arg(own.join(", ")),
                      {{tr("Undo"), [this] { desk_.document.history().undo(); }}}, false,
                      desk_.document.topEdit());
}

void Window::arrangeOrder(int by) {
    const Ids ids = outermost(desk_.document.piece(), toIds(desk_.document.chosen()));
    if (ids.empty()) return;
    desk_.document.edit(by > 0 ? tr("Bring forward") : tr("Send backward"), [&](Piece& p) {
        // From the side they move to, so that neighbours do not swap with one another.
        Ids order = ids;
        if (by > 0) std::reverse(order.begin(), order.end());
        for (const std::string& id : order)
            change_list(p, group_of(p, id), [&](Elements& list) {
                for (std::size_t i = 0; i < list.size(); ++i) {
                    if (list[i]->id != id) continue;
                    const std::size_t j = i + static_cast<std::size_t>(by);
                    if (j < list.size() && std::find(ids.begin(), ids.end(), list[j]->id) == ids.end())
                        std::swap(list[i], list[j]);
                    return;
                }
            });
    });
}

void Window::fitToCanvas() {
    if (!desk_.frame || desk_.document.chosen().isEmpty()) return;
    bool good = false;
    const double margin =
        QInputDialog::getDouble(this, tr("Fit to the canvas"), tr("Margin, px"), 0, 0, 10000, 1, &good);
    if (good) fitToCanvas(margin);
}

void Window::fitToCanvas(double margin) {
    const Scene scene = desk_.scene();
    desk_.document.edit(tr("Fit to the canvas"), [&](Piece& piece) {
        const double w = piece.canvas.width - 2 * margin, h = piece.canvas.height - 2 * margin;
        if (w <= 0 || h <= 0) return;
        for (const std::string& id : outermost(piece, toIds(desk_.document.chosen()))) {
            const Placing before = placing_of(scene, {id});
            const Box box = before.bounds();
            if (before.empty() || box.empty() || box.width() <= 0 || box.height() <= 0) continue;
            const Affine& parent = before.parts.front().parent;
            change(piece, id, [&](Element& e) {
                // What has a width and a height of its own takes them; the rest keeps its proportion.
                const Parameter *across = e.kind().find("width"), *down = e.kind().find("height");
                if (e.placement.turn == 0 && parent.b == 0 && parent.c == 0 && across && down) {
                    const auto grown = [&](const Parameter& p, double by) {
                        e.source = e.source.with(p, held(p, std::get<double>(e.source.get(p)) * by));
                    };
                    grown(*across, w / box.width()), grown(*down, h / box.height());
                } else {
                    const auto k = static_cast<float>(std::min(w / box.width(), h / box.height()));
                    e.placement.scale_u *= k, e.placement.scale_v *= k;
                }
            });
            // Its middle is not where it is held: of groups that is wherever their elements are.
            Scene now = scene;
            now.piece = std::make_shared<const Piece>(piece);
            const Placing after = placing_of(now, {id});
            const Box there = after.bounds();
            const Vec2 by{(piece.canvas.width - there.x0 - there.x1) / 2,
                          (piece.canvas.height - there.y0 - there.y1) / 2};
            change(piece, id, [&](Element& e) { e.placement = moved(after, by).front(); });
        }
    });
}

void Window::changePlacements(const QString& name, const Placing& placing,
                              const std::vector<Placement>& placements) {
    desk_.document.edit(name, [&](Piece& piece) {
        for (std::size_t i = 0; i < placements.size(); ++i)
            change(piece, placing.parts[i].id, [&](Element& e) { e.placement = placements[i]; });
    });
}

void Window::flip(bool across) {
    const Placing p = placing_of(desk_.scene(), toIds(desk_.document.chosen()));
    if (!p.empty())
        changePlacements(across ? tr("Flip across") : tr("Flip upside down"), p, flipped(p, across));
}

void Window::align(int how) {
    const Scene scene = desk_.scene();
    const Placing p = placing_of(scene, toIds(desk_.document.chosen()));
    if (p.empty()) return;
    std::vector<Box> extents;
    for (const auto& part : p.parts) extents.push_back(placing_of(scene, {part.id}).bounds());
    // One against the canvas, several against what they span together.
    const Canvas& c = scene.piece->canvas;
    const Box to = p.parts.size() > 1 ? p.bounds() : Box{0, 0, c.width, c.height};
    changePlacements(tr("Align"), p, aligned(p, extents, to, static_cast<AlignTo>(how)));
}

void Window::stepAction(const QString& what, const QString& step) {
    Document& doc = desk_.document;
    const Element* e = doc.openElement();
    const int i = e ? index_of_step(e->steps, step.toStdString()) : -1;
    if (i < 0) return;
    if (what == "copy") return copyStep(*e->steps[i]);
    const int last = static_cast<int>(e->steps.size()) - 1;
    if ((what == "up" && i == 0) || (what == "down" && i == last)) return;
    const QString name = what == "duplicate" ? tr("Duplicate step")
                         : what == "delete"  ? tr("Delete step")
                                             : tr("Reorder steps");
    doc.edit(name, [&, id = e->id](Piece& p) {
        change(p, id, [&](Element& changed) {
            auto& steps = changed.steps;
            if (what == "duplicate")
                bathylux::add_step(changed, steps[i], i);
            else if (what == "delete")
                steps.erase(steps.begin() + i);
            else
                std::swap(steps[i], steps[what == "up" ? i - 1 : i + 1]);
        });
    });
}

} // namespace bathylux
