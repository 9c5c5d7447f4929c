#include "core/render/scene.h"

#include "core/make/sprites.h"
#include "core/paint/paint_source.h"
#include "core/paint/painting.h"
#include "core/piece/twin.h"

namespace bathylux {

std::string painting_key(std::string_view file) { return "paint/" + std::string(file); }

std::string panorama_key(std::string_view light) { return "light/" + std::string(light); }

std::string strokes_file(const std::string& file, int frame) {
    const auto at = file.find("{frame}");
    return at == std::string::npos ? file : file.substr(0, at) + std::to_string(frame) + file.substr(at + 7);
}

int shown_frame(const Scene& scene, const Element& e) {
    const auto* s = e.source.as<SpritesSource>();
    const auto found = scene.assets->find(e.id);
    if (!s || found == scene.assets->end() || found->second->frames.empty()) return 0;
    const int n = static_cast<int>(found->second->frames.size()),
              f = scene.frame + static_cast<int>(s->frame);
    return ((f % n) + n) % n;
}

const Painting* painting_of(const Scene& scene, const Element& e, const Step& step) {
    const Parameter* named = step.kind().by_hand ? step.kind().find("file") : nullptr;
    const auto file = named ? std::get<std::string>(step.what.get(*named)) : std::string();
    if (file.empty()) return nullptr;
    const auto found = scene.assets->find(painting_key(strokes_file(file, shown_frame(scene, e))));
    return found == scene.assets->end() ? nullptr : found->second->painting.get();
}

const Painting* ink_on(const Scene& scene, const Element& e) {
    const auto* layer = e.source.as<PaintSource>();
    if (!layer || layer->ink.empty()) return nullptr;
    const auto found = scene.assets->find(painting_key(layer->ink));
    return found == scene.assets->end() ? nullptr : found->second->painting.get();
}

Region canvas_region(const Canvas& canvas, double scale) {
    return {0, 0, std::max(1, static_cast<int>(std::lround(canvas.width * scale))),
            std::max(1, static_cast<int>(std::lround(canvas.height * scale)))};
}

Placed root_placed(double scale) { return {Affine::scaling(scale, scale), scale, 1}; }

Placed placed_within(const Placed& parent, const Element& element) {
    return {parent.to_device * element.placement.matrix(), parent.length, parent.rise};
}

Placed inside_group(const Placed& group, const Canvas& canvas) {
    // How much the group's own placement scales: lengths and heights of its children grow with it.
    const double before = group.length, now = group.to_device.mean_scale();
    const double grown = before > 0 ? now / before : 1;
    return {group.to_device * Affine::translation(-canvas.width / 2, -canvas.height / 2), now,
            group.rise * grown};
}

namespace {

std::optional<Placed> find_parent(const Canvas& canvas, const Elements& list, const Placed& parent,
                                  std::string_view id) {
    for (const Element& e : list) {
        if (e.id == id) return parent;
        if (auto found = find_parent(canvas, e.elements, inside_group(placed_within(parent, e), canvas), id))
            return found;
    }
    return std::nullopt;
}

} // namespace

std::optional<Placed> parent_placed(const Piece& piece, std::string_view id) {
    return find_parent(piece.canvas, piece.elements, root_placed(1), id);
}

Box own_box(const Scene& scene, const Element& element) {
    Element at_home = element;
    at_home.placement = {};
    return element_box(scene, at_home, Placed{});
}

Box element_box(const Scene& scene, const Element& element, const Placed& parent) {
    const Placed placed = placed_within(parent, element);
    if (const auto* twin = element.source.as<TwinSource>()) {
        const Element* of = find_element(scene.piece->elements, twin->of);
        if (!of || of == &element || of->kind().follows) return {};
        Element there = *of;
        there.placement = element.placement;
        return element_box(scene, there, parent);
    }
    if (!element.is_group()) {
        const auto asset = scene.assets->find(element.id);
        const Canvas& canvas = scene.piece->canvas;
        return transformed(element.kind().box(element.source.data(),
                                              asset == scene.assets->end() ? nullptr : asset->second.get(),
                                              {canvas.width, canvas.height}),
                           placed.to_device);
    }
    Box box;
    const Placed inner = inside_group(placed, scene.piece->canvas);
    for (const Element& child : element.elements) box.add(element_box(scene, child, inner));
    return box;
}

Box element_box(const Scene& scene, std::string_view id) {
    const Element* e = find_element(scene.piece->elements, id);
    const auto parent = parent_placed(*scene.piece, id);
    return e && parent ? element_box(scene, *e, *parent) : Box{};
}

} // namespace bathylux
