#include "app/table/picking.h"

#include <algorithm>

namespace bathylux {

namespace {

constexpr float covers = 0.05f; // less than that is not seen

const Elements& level(const Piece& piece, const std::string& group) {
    const Element* g = group.empty() ? nullptr : find_element(piece.elements, group);
    return g ? g->elements : piece.elements;
}

bool can_be_taken(const Element& e) { return e.mix.visible && !e.locked; }

bool fills_canvas(const Element& e) {
    return e.kind().fills || (e.kind().has_rim && e.placement.edge != Edge::none);
}

} // namespace

std::vector<std::string> elements_at(Evaluator& evaluator, const Scene& scene, Vec2 at,
                                     const std::string& group) {
    const Region px{static_cast<int>(std::floor(at.x)), static_cast<int>(std::floor(at.y)),
                    static_cast<int>(std::floor(at.x)) + 1, static_cast<int>(std::floor(at.y)) + 1};
    Graph graph(scene, 1);
    std::vector<std::string> found, filling;
    const Elements& list = level(*scene.piece, group);
    for (auto node = list.rbegin(); node != list.rend(); ++node) {
        const Element& e = **node;
        if (!can_be_taken(e)) continue;
        const OperationPtr shown = graph.shown(e.id);
        if (intersect(px, shown->extent).empty()) continue;
        const Bundle b = evaluator.run(shown, graph.canvas(), px, channel::coverage);
        if (b.region.empty() || b.coverage.at(0, 0) < covers) continue;
        (fills_canvas(e) ? filling : found).push_back(e.id);
    }
    found.insert(found.end(), filling.begin(), filling.end());
    return found;
}

std::vector<std::string> elements_within(const Scene& scene, const Box& frame, const std::string& group) {
    std::vector<std::string> out;
    for (const Element& e : level(*scene.piece, group)) {
        if (!can_be_taken(e) || fills_canvas(e)) continue;
        const auto parent = parent_placed(*scene.piece, e.id);
        const Box box = parent ? element_box(scene, e, *parent) : Box{};
        if (!box.empty() && box.x0 >= frame.x0 && box.y0 >= frame.y0 && box.x1 <= frame.x1 &&
            box.y1 <= frame.y1)
            out.push_back(e.id);
    }
    return out;
}

} // namespace bathylux
