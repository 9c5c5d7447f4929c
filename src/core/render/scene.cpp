#include "core/render/scene.h"

#include "core/bend/extrude.h"
#include "core/make/sprites.h"
#include "core/paint/paint_source.h"
#include "core/paint/painting.h"
#include "core/piece/group.h"
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

namespace {

/// Whether a step gives a height to what had none.
bool gives_height(const Step& step) {
    const StepKind& kind = step.kind();
    if (!step.on) return false;
    if (kind.group == "give depth") return kind.gives.has(channel::height);
    if (const auto* body = step.what.as<Extrude>()) return body->rise != 0;
    return kind.by_hand && !kind.drifts;
}

bool lit_by_itself(const Element& e) {
    const auto* group = e.source.as<GroupSource>();
    return group && group->lit;
}

bool steps_give_height(const Element& e) {
    return std::ranges::any_of(e.steps, [](const Step& s) { return gives_height(s); });
}

} // namespace

bool gives_height(const Element& e) {
    if (lit_by_itself(e)) return false;
    return (e.kind().gives.has(channel::height) && !e.is_group()) || steps_give_height(e) ||
           std::ranges::any_of(e.elements, [](const Element& c) { return gives_height(c); });
}

Placed placed_within(const Placed& parent, const Element& element) {
    const bool around_others = element.is_group() || element.kind().follows;
    return {parent.to_device * element.placement.matrix(), parent.length, parent.rise,
            !lit_by_itself(element) && (parent.stands || (around_others && steps_give_height(element)))};
}

Placed inside_group(const Placed& group, const Canvas& canvas) {
    // How much the group's own placement scales: lengths and heights of its children grow with it.
    const double before = group.length, now = group.to_device.mean_scale();
    const double grown = before > 0 ? now / before : 1;
    return {group.to_device * Affine::translation(-canvas.width / 2, -canvas.height / 2), now,
            group.rise * grown, group.stands};
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
