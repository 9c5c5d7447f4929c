#pragma once
#include "core/shape/offset.h"
#include "core/step/bundle.h"

namespace bathylux {

/// The contours of an element's edge, device px: of its outline where it has one.
Contours contours_of(const Bundle& bundle);

/// The element with another edge, over context.region; `beyond`: how far, device px, that may lie outside the
/// old one, where colour, height and surface go on; `name` names what the edge is made of.
Bundle reshaped(const Bundle& below, const Context& context, const Contours& contours, double beyond,
                std::uint64_t name);

} // namespace bathylux
