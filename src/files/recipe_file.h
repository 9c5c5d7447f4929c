#pragma once
#include "core/piece/recipe.h"
#include "files/package.h"

namespace bathylux::files {

/// Reads a recipe. Files that it names and does not carry lie beside it, and are named in full afterwards.
/// Throws Error that names the file: what is wrong with it, or which file it needs is not there.
Recipe open_recipe(const std::filesystem::path& path);
/// Writes it, whole or not at all.
void save_recipe(const Recipe& recipe, const std::filesystem::path& path);

/// Has a recipe carry every file that its parts name, strokes too; `strokes`: those in memory, by name. What
/// cannot be had is left out. Throws Error where a file it needs cannot be read.
void carry_files(Recipe& recipe, const Store& store,
                 const std::function<std::shared_ptr<const Painting>(const std::string&)>& strokes = {});
/// Hands the files that a recipe carries over to a piece's store, under names that are free there.
void take_files(Recipe& recipe, Store& store);

/// The ending of recipe files.
inline constexpr const char* recipe_ending = ".bathylux-recipe";

} // namespace bathylux::files
