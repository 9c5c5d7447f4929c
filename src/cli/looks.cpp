// bathylux-cli pour, keep and alternatives: looks that go from one piece to another.
#include <algorithm>
#include <cmath>
#include <set>

#include "cli/commands.h"
#include "core/error.h"
#include "core/piece/codec.h"
#include "core/piece/starts.h"
#include "core/render/pouring.h"
#include "files/contact_sheet.h"
#include "files/export.h"
#include "files/recipe_file.h"
#include "files/resolve.h"

namespace bathylux::cli {

namespace {

/// What a recipe is poured over: a piece, or a picture or drawing as a piece of its size.
files::Opened opened_for_pouring(const std::filesystem::path& path, files::Resolver& resolver) {
    const std::string ending = path.extension().string();
    if (ending == ".bathylux" || ending == ".json") {
        return opened_piece(path);
    }
    files::Opened out;
    out.store.folder = std::filesystem::absolute(path).parent_path();
    Element e;
    e.id = "art", e.name = path.stem().string();
    const bool drawing = ending == ".svg" || ending == ".SVG";
    e.source = Described(source_kind(drawing ? "svg" : "picture"))
                   .with("file", std::filesystem::absolute(path).string());
    const auto asset = resolver.resolve(e.source, out.store);
    if (!asset || !asset->trouble.empty())
        throw Error(path.string() + ": " + (asset ? asset->trouble : "it cannot be read."));
    out.piece.canvas.width =
        static_cast<float>(std::clamp(std::ceil(asset->width), 1.0, double(most_canvas_side)));
    out.piece.canvas.height =
        static_cast<float>(std::clamp(std::ceil(asset->height), 1.0, double(most_canvas_side)));
    e.placement.x = out.piece.canvas.width / 2, e.placement.y = out.piece.canvas.height / 2;
    out.piece.elements.emplace_back(std::move(e));
    out.piece.lights.emplace_back(started(light_kind("directional"), out.piece));
    return out;
}

/// Where what is poured over a file goes in a folder: under its name, numbered where that is taken.
std::filesystem::path place_in(const std::filesystem::path& folder, const std::filesystem::path& file,
                               std::set<std::filesystem::path>& taken) {
    const std::string stem = file.stem().string();
    std::filesystem::path to = folder / (stem + ".bathylux");
    for (int n = 2; !taken.insert(to).second; ++n)
        to = folder / (stem + "-" + std::to_string(n) + ".bathylux");
    return to;
}

/// Gives all that is seen of a piece a look.
void pour_over(files::Opened& opened, const std::string& file, Recipe recipe, files::Resolver& resolver,
               bool add, bool scale) {
    const Scene scene{std::make_shared<const Piece>(opened.piece),
                      resolver.resolve(opened.piece, opened.store)};
    // Over what is seen by itself: of groups, over the whole.
    Ids ids;
    for (const Element& e : opened.piece.elements)
        if (e.mix.visible) ids.push_back(e.id);
    if (ids.empty()) throw Error(file + ": nothing in it is seen that a recipe could be poured over.");
    files::take_files(recipe, opened.store);
    for (const std::string& id : ids)
        bathylux::pour(opened.piece, id, recipe, pouring(scene, id, recipe, add, scale));
    refuse_cycles(opened.piece);
}

/// As a piece, or, in a picture's ending, its lit picture.
void write(files::Opened& opened, files::Resolver& resolver, const std::filesystem::path& to) {
    const std::string ending = to.extension().string();
    if (ending == ".bathylux") files::embed_all(opened);
    if (ending == ".bathylux" || ending == ".json") return files::save_piece(opened.piece, opened.store, to);
    const Scene scene{std::make_shared<const Piece>(opened.piece),
                      resolver.resolve(opened.piece, opened.store)};
    files::Resolver::refuse_trouble(opened.piece, *scene.assets);
    Evaluator evaluator(files::export_budget);
    files::export_map(evaluator, scene, to, {});
}

} // namespace

int pour(Arguments args) {
    const auto out = args.option("-o");
    if (!out) throw Usage{"say where to with -o OUT"};
    const auto on = args.list("--on");
    if (on.empty()) throw Usage{"name what it is poured over with --on FILE..."};
    const bool scale = args.flag("--scale"), add = args.flag("--add");
    const std::filesystem::path recipe_path = args.only("the recipe"), target = *out;
    const Recipe recipe = files::open_recipe(recipe_path);
    const bool folder = on.size() > 1 || std::filesystem::is_directory(target) || target.extension().empty();
    if (folder) {
        std::error_code code;
        std::filesystem::create_directories(target, code);
        if (code || !std::filesystem::is_directory(target))
            throw Error(target.string() + " is no folder, and cannot be made one: " + code.message() + ".");
    }
    files::Resolver resolver;
    std::set<std::filesystem::path> taken;
    for (const std::string& file : on) {
        files::Opened opened = opened_for_pouring(file, resolver);
        pour_over(opened, file, recipe, resolver, add, scale);
        write(opened, resolver, folder ? place_in(target, file, taken) : target);
    }
    return 0;
}

int keep(Arguments args) {
    const auto out = args.option("-o"), of = args.option("--of"), name = args.option("--name");
    if (!out) throw Usage{"say where to with -o OUT.bathylux-recipe"};
    if (!of) throw Usage{"say of what with --of ELEMENT"};
    Keep what{{}, false, false, false, false};
    for (const std::string& with : listed(args.option("--with").value_or("surface")))
        *one_of<bool*>("--with", with,
                       {{"surface", &what.surface},
                        {"mix", &what.mix},
                        {"lights", &what.lights},
                        {"finish", &what.finish}}) = true;
    what.steps = listed(args.option("--steps").value_or(""));
    const std::string path = args.only("the piece");
    files::Opened opened = opened_piece(path);
    if (const Element* e = find_element(opened.piece.elements, *of))
        for (const std::string& step : what.steps)
            if (!find_step(e->steps, step))
                throw Error("Element " + in_quotes(*of) + " has no step " + in_quotes(step) + ".");
    files::Resolver resolver;
    const Scene scene{std::make_shared<const Piece>(opened.piece),
                      resolver.resolve(opened.piece, opened.store)};
    files::Resolver::refuse_trouble(opened.piece, *scene.assets);
    Recipe recipe = kept_with_size(scene, *of, what);
    if (name) recipe.name = *name;
    files::carry_files(recipe, opened.store);
    files::save_recipe(recipe, *out);
    return 0;
}

int alternatives(Arguments args) {
    const auto out = args.option("-o"), of = args.option("--of");
    if (!out) throw Usage{"say where to with -o OUT.png"};
    if (!of) throw Usage{"say of what with --of ELEMENT or ELEMENT.STEP"};
    std::optional<Vary> vary;
    if (const auto what = args.option("--vary")) {
        vary = Vary{false, false, false};
        for (const std::string& one : listed(*what))
            *one_of<bool*>(
                "--vary", one,
                {{"seeds", &vary->seeds}, {"angles", &vary->angles}, {"strengths", &vary->strengths}}) = true;
    }
    const auto number = [&](const char* name, int otherwise, int least, int most) {
        const auto text = args.option(name);
        const int n = text ? whole_number(name, *text) : otherwise;
        if (n < least || n > most)
            throw Usage{std::string(name) + " takes a whole number from " + std::to_string(least) + " to " +
                        std::to_string(most)};
        return n;
    };
    const int count = number("--count", 12, 1, 400), columns = number("--columns", 4, 1, 100),
              side = number("--size", 320, 16, 4096), seed = number("--seed", 1, 0, 1000000);
    const View view = view_named(args.option("--view").value_or("lit"));
    const std::string path = args.only("the piece");
    const files::Opened opened = opened_piece(path);
    const auto dot = of->find('.');
    const std::string element = of->substr(0, dot),
                      step = dot == std::string::npos ? "" : of->substr(dot + 1);
    const Vary can = what_varies(opened.piece, element, step);
    if (!vary) vary = most_telling(can);
    if (!(vary->seeds && can.seeds) && !(vary->angles && can.angles) && !(vary->strengths && can.strengths))
        throw Error(path + ": nothing of that sort is in " + *of +
                    " to be varied. Have seeds, angles or strengths vary.");
    files::Resolver resolver;
    files::Resolver::refuse_trouble(opened.piece, *resolver.resolve(opened.piece, opened.store));
    files::contact_sheet(
        alternatives_to(opened.piece, element, step, *vary, count, seed),
        [&](const Piece& piece) {
            return Scene{std::make_shared<const Piece>(piece), resolver.resolve(piece, opened.store)};
        },
        view, columns, side, *out);
    return 0;
}

} // namespace bathylux::cli
