#include "core/make/type_source.h"

#include "core/make/shapes.h"
#include "core/step/step_kind.h"

namespace bathylux {

Bundle TypeSource::give(const SourceContext& context) const {
    if (!context.asset || context.asset->layers.empty()) return {context.region};
    return shapes_bundle(context, context.asset->layers, context.asset->hash);
}

std::string TypeSource::says() const {
    static constexpr std::array<std::string_view, 3> stands{"left", "centred", "right"};
    return font + ", " + said(weight) + (italic ? ", italic, " : ", ") +
           std::string(stands[static_cast<std::size_t>(align)]) + ", " + to_string(color);
}

} // namespace bathylux
