#include "app/document/lights_edit.h"

#include "core/render/tied_lights.h"

namespace bathylux {

void changeLights(Document& document, const QString& name,
                  const std::function<Described(const Light&, const Described& onCanvas)>& change) {
    document.edit(name, [&](Piece& piece) {
        for (auto& node : piece.lights)
            if (document.isLightChosen(node->id))
                node = node.with(
                    [&](Light& l) { put_on_canvas(piece, l, change(l, on_canvas(piece, l).what)); });
    });
}

Color colorOf(const Described& what) {
    const auto* sky = what.as<SkyLight>();
    if (!sky) return std::get<Color>(what.get("color"));
    // What one would call the colour of the scene, tinted.
    const Color of = sky->scene == SkyScene::gradient  ? sky->horizon
                     : sky->scene == SkyScene::harbour ? Color{0.86f, 0.58f, 0.42f, 1}
                                                       : Color{0.74f, 0.8f, 0.88f, 1};
    return {of.r * sky->color.r, of.g * sky->color.g, of.b * sky->color.b, 1};
}

} // namespace bathylux
