#include "core/relief/by_hand.h"

#include "core/field/hash.h"
#include "core/paint/painting.h"
#include "core/step/height.h"

namespace bathylux {

Bundle ByHand::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const Painting* painting = context.painting ? context.painting(file) : nullptr;
    if (!painting || painting->empty()) return out;
    Painted p =
        painted(*painting, context.to_device, context.region, static_cast<float>(rise * context.rise));
    Plane& height = give_height(out);
    for (int y = 0; y < height.height(); ++y)
        for (int x = 0; x < height.width(); ++x) height(x, y) += p.height(x, y);
    if (!p.hidden.width()) return out;
    for (int y = 0; y < height.height(); ++y)
        for (int x = 0; x < height.width(); ++x) p.hidden(x, y) = 1 - p.hidden(x, y);
    limit(out, Field(std::move(p.hidden)));
    out.silhouette.reset();
    out.coverage_hash = Hash().operator<<(out.coverage_hash).operator<<(painting->hash()).value();
    return out;
}

} // namespace bathylux
