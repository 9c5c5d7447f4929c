#include "core/render/pouring.h"

#include "core/error.h"

namespace bathylux {

Pour pouring(const Scene& scene, std::string_view id, const Recipe& recipe, bool add, bool fit) {
    const Element* e = find_element(scene.piece->elements, id);
    if (!e) throw Error("There is no element " + in_quotes(id) + ".");
    Pour out{add, 1, Vec2{e->placement.x, e->placement.y}};
    if (const Box box = element_box(scene, id); fit && !box.empty())
        out.factor = fitting_factor(recipe, box.width(), box.height());
    return out;
}

Recipe kept_with_size(const Scene& scene, std::string_view id, const Keep& keep) {
    Recipe out = kept_recipe(*scene.piece, id, keep);
    if (const Box box = element_box(scene, id); !box.empty())
        out.width = box.width(), out.height = box.height();
    return out;
}

} // namespace bathylux
