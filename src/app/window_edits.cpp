// What the Make menu does. See window.cpp for the window itself.
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QSettings>

#include "app/makings.h"
#include "app/notice_bar.h"
#include "app/numbered.h"
#include "app/window.h"
#include "core/error.h"
#include "core/piece/sources.h"
#include "core/relief/bevel.h"
#include "core/relief/tones.h"
#include "core/render/tied_lights.h"
#include "core/steps.h"

namespace bathylux {

void Window::addElement(const QString& kind) {
    Document& doc = desk_.document;
    if (kind == "sprites" || kind == "normals") {
        const QStringList paths = QFileDialog::getOpenFileNames(
            this,
            kind == "sprites" ? tr("Add a sprite sheet, or its numbered frames") : tr("Add a normal map"),
            QSettings().value("folder").toString(),
            tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.exr);;All files (*)"));
        if (paths.isEmpty()) return;
        if (kind == "sprites" && paths.size() > 1) return addFrames(inNumberOrder(paths));
        for (const QString& p : paths) addPictureFile(p, kind);
        return;
    }
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
                     e.surface = Surface{0.34f, 1};
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
                 } else if (kind == "form") {
                     e.name = tr("Dome").toStdString();
                     FormSource f;
                     f.width = f.height = std::round(side * 0.5f), f.rise = std::round(side * 0.08f);
                     f.rim = std::round(side * 0.05f);
                     e.source = Described(source_kind("form"), f);
                 } else if (kind == "noise" || kind == "pattern") {
                     // They fill the canvas: height alone, or all would be grey.
                     e.name = (kind == "noise" ? tr("Noise") : tr("Pattern")).toStdString();
                     if (kind == "noise") {
                         NoiseSource n;
                         n.size_u = n.size_v = std::round(side * 0.12f);
                         n.tile = p.canvas.edge == Edge::repeat;
                         e.source = Described(source_kind("noise"), n);
                     } else {
                         PatternSource n;
                         n.size = std::round(side * 0.06f);
                         n.tile = p.canvas.edge == Edge::repeat;
                         e.source = Described(source_kind("pattern"), n);
                     }
                     e.mix.opacity = 0;
                     Tones tones;
                     tones.low = 0, tones.high = 1, tones.rise = std::round(side * 0.012f);
                     e.steps.push_back({{}, true, Described(*find_step_kind("tones"), tones), {}});
                 } else if (kind == "paint") {
                     e.name = tr("Painted layer").toStdString();
                     e.source = Described(source_kind("paint"));
                 } else
                     e.name = tr("Group").toStdString();
                 e.id = free_id(p, e.name);
                 if (kind == "type" || kind == "rectangle" || kind == "ellipse")
                     e.steps.push_back({{}, true, Described(*find_step_kind("bevel"), bevel), {}});
                 id = add_element(p, std::move(e),
                                  doc.chosen().isEmpty() ? std::string() : doc.chosen().back().toStdString());
             });
    if (id.empty()) return;
    if (!started_) showPiece();
    doc.choose({QString::fromStdString(id)});
    if (kind == "paint") table_->setTool(Table::Tool::paint);
}

void Window::addPictureFile(const QString& path, const QString& as) {
    const std::string full = QFileInfo(path).absoluteFilePath().toStdString();
    const auto asset = desk_.renderer.resolver().resolve(
        Described(source_kind("picture"), PictureSource{full}), desk_.document.state().store);
    if (!asset->trouble.empty()) throw Error(asset->trouble);
    addPictureElement(full, QFileInfo(path).completeBaseName(), nullptr, {}, asset->picture.get(), as);
}

void Window::fitToCanvas() {
    if (!desk_.frame || desk_.document.chosen().isEmpty()) return;
    bool good = false;
    const double margin =
        QInputDialog::getDouble(this, tr("Fit to the canvas"), tr("Margin, px"), 0, 0, 10000, 1, &good);
    if (good) fitToCanvas(margin);
}

void Window::fitToCanvas(double margin) {
    const Scene scene{desk_.document.state().piece, desk_.frame->assets};
    desk_.document.edit(tr("Fit to the canvas"), [&](Piece& piece) {
        const double w = piece.canvas.width - 2 * margin, h = piece.canvas.height - 2 * margin;
        if (w <= 0 || h <= 0) return;
        for (const std::string& id : toIds(desk_.document.chosen())) {
            Element* e = find_element(piece.elements, id);
            const Box box = placing_of(scene, {id}).bounds();
            if (!e || box.empty() || box.width() <= 0 || box.height() <= 0) continue;
            // A shape takes the canvas's proportions; anything else keeps its own.
            if (e->placement.turn == 0 &&
                (e->source.is("rectangle") || e->source.is("ellipse") || e->source.is("form"))) {
                e->source = e->source.with("width", w / std::abs(double(e->placement.scale_u)))
                                .with("height", h / std::abs(double(e->placement.scale_v)));
            } else {
                const auto k = static_cast<float>(std::min(w / box.width(), h / box.height()));
                e->placement.scale_u *= k, e->placement.scale_v *= k;
            }
            e->placement.x = piece.canvas.width / 2, e->placement.y = piece.canvas.height / 2;
        }
    });
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
                if (kind == "knock_out" && asset && asset->picture) {
                    // The colour of its upper left corner is most likely the ground.
                    const Picture& pic = *asset->picture;
                    const int c = pic.channels < 3 ? 0 : 1;
                    s.what = s.what.with(
                        "color", Color{pic.stored(0, 0, 0), pic.stored(0, 0, c), pic.stored(0, 0, 2 * c), 1});
                }
                if (kind == "tones" && (e->source.is("noise") || e->source.is("pattern")))
                    s.what = s.what.with("low", 0.0).with("high", 1.0);
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
    desk_.document.edit(tr("Delete"), [&](Piece& p) {
        let_go_of(p, ids);
        remove(p, ids);
    });
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
