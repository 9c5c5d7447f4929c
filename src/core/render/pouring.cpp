#include "core/render/pouring.h"

#include <set>

#include "core/error.h"
#include "core/render/tied_lights.h"

namespace bathylux {

Pour pouring(const Scene& scene, std::string_view id, const Recipe& recipe, bool add, bool fit) {
    const Element* e = find_element(scene.piece->elements, id);
    if (!e) throw Error("There is no element " + in_quotes(id) + ".");
    const auto parent = parent_placed(*scene.piece, id);
    const Vec2 place{e->placement.x, e->placement.y};
    Pour out{add, 1, parent ? parent->to_device(place) : place};
    if (const Box box = element_box(scene, id); fit && !box.empty())
        out.factor = fitting_factor(recipe, box.width(), box.height());
    return out;
}

Recipe kept_with_size(const Scene& scene, std::string_view id, const Keep& keep) {
    Recipe out = kept_recipe(*scene.piece, id, keep);
    if (const Box box = element_box(scene, id); !box.empty())
        out.width = box.width(), out.height = box.height();
    // A light that went with what stays behind stays where it was.
    std::set<std::string> comes;
    for (const Element& e : out.elements)
        for_each_element({e}, [&](const Element& one) { comes.insert(one.id); });
    if (out.lights)
        for (auto& node : *out.lights)
            if (!node->tied.empty() && !comes.contains(node->tied)) {
                Light there = on_canvas(*scene.piece, *node);
                there.tied.clear();
                node = std::move(there);
            }
    return out;
}

} // namespace bathylux
