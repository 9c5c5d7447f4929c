#pragma once
#include <span>
#include <string>
#include <vector>

#include "core/step/picture.h"

namespace bathylux::files {

/// A drawing as filled shapes, strokes included, in the order they are painted; circles and ellipses stay
/// exact. Where the drawing has gradients, pictures or see-through paint, `picture` holds its colour.
///
/// Refused, with a sentence: entities of its own, references outside the file, more than 16 MiB, shapes
/// that use one another endlessly or explosively.
Asset svg_asset(std::span<const std::byte> bytes, const std::string& name);

/// Outlines as a drawing: an SVG whose middle is that of the asset, a path for every layer.
std::vector<std::byte> drawing_of(const Asset& asset);

} // namespace bathylux::files
