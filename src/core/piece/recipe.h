#pragma once
#include <functional>
#include <map>

#include "core/piece/edit.h"
#include "core/piece/references.h"

namespace bathylux {

/// A look that was found once: steps with all they read, and on request surface, mixing, lights and finish.
/// Parts that are missing leave what they are poured over as it is.
struct Recipe {
    std::string name;
    double width = 0, height = 0; // px of the element it was kept from; 0: not stated
    std::optional<Vec2> centre{}; // where that lay on its canvas; none: places of `elements` are the canvas's
    std::optional<Steps> steps{};
    std::optional<Surface> surface{};
    std::optional<Mix> mix{};
    std::vector<Element> elements{}; // what the steps read, back to front; never seen by themselves
    std::optional<Lights> lights{};
    std::optional<Ambient> ambient{};
    std::optional<Steps> finish{};
    std::map<std::string, std::string> files{}; // carried along, by name: base64
    Rest rest{};
};

constexpr int recipe_version = 1;

/// JSON (docs/format.md). Throws Error: what is wrong, and of a version that is newer that it is.
Recipe recipe_from_text(std::string_view text);
std::string text_of(const Recipe& recipe);

/// What of an element is kept.
struct Keep {
    std::vector<std::string> steps{}; // their ids; none: all
    bool surface = true, mix = true, lights = false, finish = false;
};
/// The recipe of an element of a piece, with what it reads, directly or not. Its size and centre are not
/// known here: who knows them sets them. Throws Error where there is no such element.
Recipe kept_recipe(const Piece& piece, std::string_view element, const Keep& keep);

/// How it is poured over one element.
struct Pour {
    bool add = false;             // its steps come after the element's own; otherwise they replace them
    double factor = 1;            // lengths times this
    std::optional<Vec2> centre{}; // of the element, canvas px: what is read comes to lie about it
};
/// Gives an element the recipe's parts; what these read comes along behind everything, out of sight, under
/// ids that are free. Throws Error where there is no such element.
void pour(Piece& piece, std::string_view element, const Recipe& recipe, const Pour& how);

/// The factor by which lengths of a recipe fit an element of that size: by their smaller sides; 1 where one
/// is not known.
double fitting_factor(const Recipe& recipe, double width, double height);

/// Every file that a recipe's parts name, strokes too, replaced.
void rename_recipe_files(Recipe& recipe, const std::function<std::string(const std::string&)>& rename);

} // namespace bathylux
