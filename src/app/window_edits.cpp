// What the Make menu does. See window.cpp for the window itself.
#include <QFileDialog>
#include <QSettings>

#include "app/makings.h"
#include "app/notice_bar.h"
#include "app/window.h"
#include "core/piece/sources.h"
#include "core/relief/bevel.h"
#include "core/relief/tones.h"
#include "core/steps.h"

namespace bathylux {

void Window::addElement(const QString& kind) {
    Document& doc = desk_.document;
    if (kind == "picture" || kind == "svg") {
        const QStringList paths = QFileDialog::getOpenFileNames(
            this, kind == "svg" ? tr("Add a drawing") : tr("Add a picture"),
            QSettings().value("folder").toString(),
            kind == "svg" ? tr("Drawings (*.svg);;All files (*)")
                          : tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.exr);;All files (*)"));
        if (!paths.isEmpty()) addFiles(paths);
        return;
    }
    std::string id;
    doc.edit(tr("Add %1").arg(QString::fromUtf8(source_kind(kind.toStdString()).name.data()).toLower()),
             [&](Piece& p) {
                 Element e;
                 e.source = Described(source_kind(kind.toStdString()));
                 e.placement.x = p.canvas.width / 2;
                 e.placement.y = p.canvas.height / 2;
                 const float side = std::min(p.canvas.width, p.canvas.height);
                 // Begun so that depth shows at once.
                 Bevel bevel;
                 if (kind == "type") {
                     e.name = tr("Words").toStdString();
                     TypeSource t;
                     t.size = std::round(side * 0.3f);
                     t.color = {0.9f, 0.75f, 0.42f, 1};
                     e.source = Described(source_kind("type"), t);
                     e.surface = Surface{0.34f, 1, {}};
                     bevel = {std::round(t.size * 0.1f), std::round(t.size * 0.07f), Profile::Shape::chamfer};
                 } else if (kind == "rectangle") {
                     e.name = tr("Rectangle").toStdString();
                     RectangleSource r;
                     r.width = std::round(p.canvas.width * 0.7f),
                     r.height = std::round(p.canvas.height * 0.7f), r.corner = std::round(side * 0.05f);
                     e.source = Described(source_kind("rectangle"), r);
                     bevel = {std::round(side * 0.03f), std::round(side * 0.015f), Profile::Shape::round};
                 } else if (kind == "ellipse") {
                     e.name = tr("Ellipse").toStdString();
                     EllipseSource o;
                     o.width = o.height = std::round(side * 0.6f);
                     e.source = Described(source_kind("ellipse"), o);
                     bevel = {std::round(side * 0.04f), std::round(side * 0.02f), Profile::Shape::round};
                 } else
                     e.name = tr("Group").toStdString();
                 e.id = free_id(p, e.name);
                 if (kind != "group")
                     e.steps.push_back({{}, true, Described(*find_step_kind("bevel"), bevel), {}});
                 id = add_element(p, std::move(e),
                                  doc.chosen().isEmpty() ? std::string() : doc.chosen().back().toStdString());
             });
    if (id.empty()) return;
    if (!started_) showPiece();
    doc.choose({QString::fromStdString(id)});
}

void Window::addStep(const QString& kind) {
    Document& doc = desk_.document;
    const StepKind* k = find_step_kind(kind.toStdString());
    if (!k || doc.chosen().isEmpty()) return;
    int index = -1;
    doc.edit(
        tr("Add %1").arg(QString::fromUtf8(k->name.data(), static_cast<qsizetype>(k->name.size())).toLower()),
        [&](Piece& p) {
            for (const QString& id : doc.chosen()) {
                Element* e = find_element(p.elements, id.toStdString());
                if (!e) continue;
                Step s{{}, true, Described(*k), {}};
                // Arrives stretched to the picture's own range.
                const Asset* asset = desk_.asset(e->id);
                if (kind == "tones" && asset && asset->picture && !asset->picture->is_float()) {
                    const auto [low, high] = tone_range(*asset->picture, Channel::luma);
                    s.what = s.what.with("low", double(low)).with("high", double(high));
                }
                e->steps.push_back(s);
                index = static_cast<int>(e->steps.size()) - 1;
            }
        });
    doc.setOpenStep(index);
}

void Window::removeChosen() {
    if (desk_.document.chosen().isEmpty()) return;
    const Ids ids = toIds(desk_.document.chosen());
    desk_.document.edit(tr("Delete"), [&](Piece& p) { remove(p, ids); });
}

void Window::arrangeOrder(int by) {
    const Ids ids = outermost(desk_.document.piece(), toIds(desk_.document.chosen()));
    if (ids.empty()) return;
    desk_.document.edit(by > 0 ? tr("Bring forward") : tr("Send backward"), [&](Piece& p) {
        // From the side they move to, so that neighbours do not swap with one another.
        Ids order = ids;
        if (by > 0) std::reverse(order.begin(), order.end());
        for (const std::string& id : order) {
            auto* list = find_siblings(p.elements, id);
            for (std::size_t i = 0; i < list->size(); ++i) {
                if ((*list)[i].id != id) continue;
                const std::size_t j = i + static_cast<std::size_t>(by);
                if (j < list->size() && std::find(ids.begin(), ids.end(), (*list)[j].id) == ids.end())
                    std::swap((*list)[i], (*list)[j]);
                break;
            }
        }
    });
}

void Window::flip(bool across) {
    if (!desk_.frame) return;
    const Placing p =
        placing_of({desk_.document.state().piece, desk_.frame->assets}, toIds(desk_.document.chosen()));
    if (p.empty()) return;
    const auto placements = flipped(p, across);
    desk_.document.edit(across ? tr("Flip across") : tr("Flip upside down"), [&](Piece& piece) {
        for (std::size_t i = 0; i < placements.size(); ++i)
            find_element(piece.elements, p.parts[i].id)->placement = placements[i];
    });
}

void Window::align(int how) {
    if (!desk_.frame) return;
    const Scene scene{desk_.document.state().piece, desk_.frame->assets};
    const Placing p = placing_of(scene, toIds(desk_.document.chosen()));
    if (p.empty()) return;
    std::vector<Box> extents;
    for (const auto& part : p.parts) extents.push_back(placing_of(scene, {part.id}).bounds());
    // One against the canvas, several against what they span together.
    const Canvas& c = scene.piece->canvas;
    const Box to = p.parts.size() > 1 ? p.bounds() : Box{0, 0, c.width, c.height};
    const auto placements = aligned(p, extents, to, static_cast<AlignTo>(how));
    desk_.document.edit(tr("Align"), [&](Piece& piece) {
        for (std::size_t i = 0; i < placements.size(); ++i)
            find_element(piece.elements, p.parts[i].id)->placement = placements[i];
    });
}

} // namespace bathylux
