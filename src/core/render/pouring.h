#pragma once
#include "core/piece/recipe.h"
#include "core/render/scene.h"

namespace bathylux {

/// How a recipe is poured over an element where it lies; `fit`: lengths fitted to its size. Throws Error
/// where there is no such element.
Pour pouring(const Scene& scene, std::string_view element, const Recipe& recipe, bool add, bool fit);

/// A recipe of an element, with the size it has: see kept_recipe.
Recipe kept_with_size(const Scene& scene, std::string_view element, const Keep& keep);

} // namespace bathylux
