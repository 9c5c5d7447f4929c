// bathylux-cli: the contract is in docs/command-line.md. 0 done, 1 could not, 2 wrong usage.
#include <unistd.h>

#include <QGuiApplication>
#include <cstdio>
#include <cstring>
#include <iostream>
#include <optional>
#include <set>

#include "core/error.h"
#include "core/piece/codec.h"
#include "core/piece/pose.h"
#include "core/piece/starts.h"
#include "core/render/heap.h"
#include "core/render/pouring.h"
#include "files/contact_sheet.h"
#include "files/export.h"
#include "files/export_film.h"
#include "files/export_mesh.h"
#include "files/export_parts.h"
#include "files/export_solid.h"
#include "files/info.h"
#include "files/recipe_file.h"
#include "files/resolve.h"

namespace {

using namespace bathylux;

constexpr const char* usage_text =
    "usage: bathylux-cli describe --json\n"
    "       bathylux-cli render PIECE -o OUT [--view VIEW[,VIEW]...] [--frame N | --frames A:B | --sheet]\n"
    "                    [--scale S] [--bits 8|16|32] [--green up|down] [--set ELEMENT.STEP.PARAM=VALUE]...\n"
    "                    [--mood MOOD] [--parts] [--resume] [--counts] [--contact COUNT]\n"
    "                    VIEW: art height normals lit occlusion slope curvature roughness metallic mask\n"
    "                          lit_unfinished\n"
    "       bathylux-cli render PIECE -o OUT --view SOLID[,SOLID]... [--size WxH] [--samples N]\n"
    "                    [--turntable N] [--bits 8|16|32] [--set PATH=VALUE]...\n"
    "                    SOLID: solid solid_depth solid_normals\n"
    "       bathylux-cli render PIECE -o OUT.stl|.obj|.ply|.glb [--fineness PX] [--base MM] [--error MM]\n"
    "                    [--texture PX] [--set PATH=VALUE]...\n"
    "       bathylux-cli pour RECIPE --on FILE... [--scale] [--add] -o OUT\n"
    "                    FILE: a picture, a drawing or a piece; OUT: a piece, a picture, or a folder\n"
    "       bathylux-cli keep PIECE --of ELEMENT -o OUT.bathylux-recipe [--name NAME]\n"
    "                    [--steps ID,...] [--with surface,mix,lights,finish]\n"
    "       bathylux-cli alternatives PIECE --of ELEMENT[.STEP] -o OUT.png [--vary seeds,angles,strengths]\n"
    "                    [--count N] [--columns N] [--size PX] [--view VIEW] [--seed N]\n"
    "       bathylux-cli info FILE --json\n"
    "       bathylux-cli bench --json\n"
    "       bathylux-cli --version\n";

struct Usage {
    std::string why;
};

class Arguments {
  public:
    explicit Arguments(std::vector<std::string> args) : args_(std::move(args)) {}
    bool flag(const std::string& name) {
        const auto at = std::find(args_.begin(), args_.end(), name);
        if (at == args_.end()) return false;
        args_.erase(at);
        return true;
    }
    std::optional<std::string> option(const std::string& name) {
        const auto at = std::find(args_.begin(), args_.end(), name);
        if (at == args_.end()) return std::nullopt;
        if (at + 1 == args_.end()) throw Usage{name + " needs a value"};
        std::string value = *(at + 1);
        args_.erase(at, at + 2);
        return value;
    }
    /// What follows an option, up to the next one.
    std::vector<std::string> list(const std::string& name) {
        std::vector<std::string> out;
        const auto at = std::find(args_.begin(), args_.end(), name);
        if (at == args_.end()) return out;
        auto end = at + 1;
        for (; end != args_.end() && !end->starts_with("-"); ++end) out.push_back(*end);
        args_.erase(at, end);
        return out;
    }
    std::string only(const char* what) {
        if (args_.empty()) throw Usage{std::string("name ") + what};
        std::string first = args_.front();
        args_.erase(args_.begin());
        if (!first.empty() && first[0] == '-') throw Usage{"unknown option " + first};
        done();
        return first;
    }
    void done() const {
        if (!args_.empty()) throw Usage{"unexpected " + args_.front()};
    }

  private:
    std::vector<std::string> args_;
};

template <class T>
T one_of(const std::string& option, const std::string& value,
         std::initializer_list<std::pair<const char*, T>> choices) {
    std::string all;
    for (const auto& [name, result] : choices) {
        if (value == name) return result;
        all += (all.empty() ? "" : ", ") + std::string(name);
    }
    throw Usage{option + " takes " + all + ", not " + value};
}

View view_named(const std::string& name) {
    std::string all;
    for (std::size_t i = 0; i < view_names.size(); ++i) {
        if (view_names[i] == name) return static_cast<View>(i);
        all += (all.empty() ? "" : ", ") + std::string(view_names[i]);
    }
    throw Usage{"--view takes " + all + ", not " + name};
}

int whole_number(const std::string& option, const std::string& text) {
    char* end = nullptr;
    const long n = std::strtol(text.c_str(), &end, 10);
    if (text.empty() || *end || n < 0 || n > 1000000) throw Usage{option + " takes whole numbers from 0"};
    return static_cast<int>(n);
}

/// Whether views of the solid are asked for, and which; the rest of what is asked of them as well.
std::optional<files::SolidExport> solid_asked(Arguments& args, const std::string& views) {
    files::SolidExport how;
    how.views.clear();
    std::size_t asked = 0;
    for (std::string rest = views; !rest.empty(); ++asked) {
        const auto comma = std::min(rest.find(','), rest.size());
        const auto at =
            std::find(files::solid_view_names.begin(), files::solid_view_names.end(), rest.substr(0, comma));
        if (at != files::solid_view_names.end())
            how.views.push_back(static_cast<files::SolidView>(at - files::solid_view_names.begin()));
        rest.erase(0, comma + 1);
    }
    if (how.views.empty()) return std::nullopt;
    if (how.views.size() != asked) throw Usage{"--view takes views of the solid or of the canvas, not both"};
    if (const auto size = args.option("--size")) {
        const auto x = size->find('x');
        if (x == std::string::npos) throw Usage{"--size takes WxH, in px"};
        how.width = whole_number("--size", size->substr(0, x));
        how.height = whole_number("--size", size->substr(x + 1));
        if (how.width < 1 || how.height < 1) throw Usage{"--size takes WxH, each at least 1"};
    }
    if (const auto n = args.option("--samples")) {
        how.samples = whole_number("--samples", *n);
        if (how.samples < 1 || how.samples > files::most_samples)
            throw Usage{"--samples takes a whole number from 1 to " + std::to_string(files::most_samples)};
    }
    return how;
}

files::MeshExport mesh_asked(Arguments& args) {
    files::MeshExport how;
    const auto number = [&](const char* name, double least) -> std::optional<double> {
        const auto text = args.option(name);
        if (!text) return std::nullopt;
        char* end = nullptr;
        const double v = std::strtod(text->c_str(), &end);
        if (text->empty() || *end || !(v >= least) || v > 1e6)
            throw Usage{std::string(name) + " takes a number from " + said(least)};
        return v;
    };
    how.fineness = number("--fineness", 0.05).value_or(0);
    how.base_mm = number("--base", 0.001);
    how.error_mm = number("--error", 0).value_or(0);
    if (const auto n = args.option("--texture")) {
        how.texture = whole_number("--texture", *n);
        if (how.texture < 16 || how.texture > 8192) throw Usage{"--texture takes px from 16 to 8192"};
    }
    return how;
}

/// A piece that this version can work with.
files::Opened opened_piece(const std::filesystem::path& path) {
    files::Opened out = files::open_piece(path);
    if (out.piece.newer)
        throw Error(path.string() + " was made by a newer version of Bathylux: update this one.");
    return out;
}

int render(Arguments args) {
    files::Export how;
    const auto out = args.option("-o");
    if (!out) throw Usage{"say where to with -o OUT"};
    std::vector<View> views;
    const std::string asked = args.option("--view").value_or("lit");
    auto solid = solid_asked(args, asked);
    const bool as_mesh = files::is_mesh_out(*out);
    const files::MeshExport mesh = as_mesh ? mesh_asked(args) : files::MeshExport{};
    if (as_mesh) solid.reset();
    int turntable = 0;
    if (const auto n = args.option("--turntable")) {
        turntable = whole_number("--turntable", *n);
        if (!solid || turntable < 1) throw Usage{"--turntable takes a number of frames, with --view solid"};
    }
    if (solid || as_mesh) views.push_back(View::lit);
    for (std::string rest = solid || as_mesh ? std::string() : asked; !rest.empty();) {
        const auto comma = std::min(rest.find(','), rest.size());
        views.push_back(view_named(rest.substr(0, comma)));
        rest.erase(0, comma + 1);
    }
    how.view = views.front();
    const bool parts = args.flag("--parts");
    const auto mood = args.option("--mood");
    int contact = 0;
    if (const auto n = args.option("--contact")) {
        contact = whole_number("--contact", *n);
        if (contact < 1 || contact > 400 || parts)
            throw Usage{"--contact takes 1 to 400 frames, of one view"};
    }
    const auto frame = args.option("--frame"), range = args.option("--frames");
    const bool sheet = args.flag("--sheet"), again = args.flag("--resume"), tell = args.flag("--counts");
    if (int(frame.has_value()) + int(range.has_value()) + int(sheet) > 1)
        throw Usage{"give one of --frame, --frames and --sheet"};
    if (const auto s = args.option("--scale")) {
        char* end = nullptr;
        how.scale = std::strtod(s->c_str(), &end);
        if (*end || !(how.scale > 0) || how.scale > 16)
            throw Usage{"--scale takes a number above 0, up to 16"};
    }
    if (const auto b = args.option("--bits"))
        how.bits = one_of<int>("--bits", *b, {{"8", 8}, {"16", 16}, {"32", 32}});
    if (const auto g = args.option("--green"))
        how.green_up = one_of<bool>("--green", *g, {{"up", true}, {"down", false}});
    std::vector<std::pair<std::string, std::string>> sets;
    while (const auto s = args.option("--set")) {
        const auto equals = s->find('=');
        if (equals == std::string::npos) throw Usage{"--set takes ELEMENT.STEP.PARAM=VALUE"};
        sets.emplace_back(s->substr(0, equals), s->substr(equals + 1));
    }
    const std::string path = args.only("the piece to render");

    files::Opened opened = opened_piece(path);
    if (mood) set_parameter(opened.piece, "mood", *mood);
    for (const std::string& said : opened.told) std::fprintf(stderr, "bathylux-cli: %s\n", said.c_str());
    for (const auto& [name, value] : sets) set_parameter(opened.piece, name, value);
    const Region size = canvas_region(opened.piece.canvas, how.scale);
    if (size.width() > most_canvas_side || size.height() > most_canvas_side)
        throw Error(path + ": at that scale the picture would be larger than " +
                    std::to_string(most_canvas_side) + " px a side.");
    files::Resolver resolver(range ? files::film_budget : files::export_budget);
    if (const auto loose = loose_links(opened.piece); !loose.empty())
        throw Error(path + ": a link leads to nothing: " + loose.front() +
                    ". Link it to a number of the piece, or give it a value.");
    const int still = frame ? whole_number("--frame", *frame) : 0;
    Scene scene = resolver.scene(opened.piece, opened.store, still);
    files::Resolver::refuse_trouble(opened.piece, *scene.assets);
    relief_hash(scene, how.scale); // what cannot be done is told before a file is begun
    Evaluator evaluator(resolver.budget());
    const std::filesystem::path path_out = *out;
    if (sheet) {
        std::filesystem::path index = path_out;
        files::export_sheet(evaluator, scene, path_out, how, index.replace_extension(".json"));
        return 0;
    }
    if (solid) solid->bits = how.bits, solid->green_up = how.green_up;
    const auto render_to = [&](const std::filesystem::path& to) {
        if (as_mesh) return files::export_mesh(evaluator, scene, to, mesh);
        if (solid) return files::export_solid(evaluator, scene, to, *solid);
        if (parts) return files::export_parts(evaluator, scene, to, how.scale);
        if (views.size() == 1) return files::export_map(evaluator, scene, to, how);
        std::vector<files::Export> layers;
        for (View v : views) layers.push_back(how), layers.back().view = v;
        files::export_layers(evaluator, scene, to, layers);
    };
    const auto numbered = [&](int i) { return files::numbered(path_out, i); };
    if (turntable > 0) {
        for (int i = 0; i < turntable; ++i) {
            scene.piece = std::make_shared<const Piece>(turned_round(opened.piece, i, turntable));
            render_to(numbered(i));
        }
        return 0;
    }
    if (!range) {
        render_to(path_out);
        return 0;
    }
    const auto colon = range->find(':');
    if (colon == std::string::npos) throw Usage{"--frames takes A:B, first and last frame"};
    const int first = whole_number("--frames", range->substr(0, colon)),
              last = whole_number("--frames", range->substr(colon + 1));
    if (last < first) throw Usage{"--frames takes A:B with B not below A"};
    if (last - first >= most_frames) throw Usage{"--frames takes at most " + std::to_string(most_frames)};
    const NoHoles tidy;
    const auto scene_at = [&](int i) {
        Scene now = resolver.scene(opened.piece, opened.store, i);
        files::Resolver::refuse_trouble(*now.piece, *now.assets);
        return now;
    };
    if (contact > 0) {
        files::FilmOrder order{first, last, how.view};
        if (solid) order.solid = *solid;
        files::film_sheet(scene_at, path_out, order, contact);
        return 0;
    }
    if (files::is_film(path_out)) {
        if (as_mesh || views.size() != 1)
            throw Usage{"a film shows one view; write numbered pictures for layers and meshes"};
        files::FilmOrder film;
        film.first = first, film.last = last, film.view = how.view, film.scale = how.scale,
        film.green_up = how.green_up, film.parts = parts;
        if (solid) film.solid = *solid;
        const files::FilmCounts counts = files::export_film(evaluator, scene_at, path_out, film);
        if (tell) std::fprintf(stderr, "%s\n", counts.says().c_str());
        return 0;
    }
    const bool resume = again;
    for (int i = first; i <= last; ++i) {
        if (resume && std::filesystem::exists(numbered(i))) continue;
        scene = scene_at(i);
        render_to(numbered(i));
    }
    return 0;
}

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

int pour(Arguments args) {
    const auto out = args.option("-o");
    if (!out) throw Usage{"say where to with -o OUT"};
    const auto on = args.list("--on");
    if (on.empty()) throw Usage{"name what it is poured over with --on FILE..."};
    const bool scale = args.flag("--scale"), add = args.flag("--add");
    const std::filesystem::path recipe_path = args.only("the recipe");
    const Recipe given = files::open_recipe(recipe_path);
    const std::filesystem::path target = *out;
    const bool folder = on.size() > 1 || std::filesystem::is_directory(target) || target.extension().empty();
    if (folder) {
        std::error_code code;
        std::filesystem::create_directories(target, code);
        if (code || !std::filesystem::is_directory(target))
            throw Error(target.string() + " is no folder, and cannot be made one: " + code.message() + ".");
    }
    files::Resolver resolver;
    std::set<std::filesystem::path> written;
    for (const std::string& file : on) {
        files::Opened opened = opened_for_pouring(file, resolver);
        Scene scene{std::make_shared<const Piece>(opened.piece),
                    resolver.resolve(opened.piece, opened.store)};
        // Over what is seen by itself: of groups, over the whole.
        Ids ids;
        for (const Element& e : opened.piece.elements)
            if (e.mix.visible) ids.push_back(e.id);
        if (ids.empty()) throw Error(file + ": nothing in it is seen that a recipe could be poured over.");
        Recipe recipe = given;
        files::take_files(recipe, opened.store);
        for (const std::string& id : ids) {
            bathylux::pour(opened.piece, id, recipe, pouring(scene, id, recipe, add, scale));
        }
        refuse_cycles(opened.piece);
        std::filesystem::path to = target;
        if (folder) {
            to = target / (std::filesystem::path(file).stem().string() + ".bathylux");
            for (int n = 2; !written.insert(to).second; ++n)
                to = target /
                     (std::filesystem::path(file).stem().string() + "-" + std::to_string(n) + ".bathylux");
        }
        const std::string ending = to.extension().string();
        if (ending == ".bathylux" || ending == ".json") {
            if (ending == ".bathylux") files::embed_all(opened);
            files::save_piece(opened.piece, opened.store, to);
            continue;
        }
        scene = {std::make_shared<const Piece>(opened.piece), resolver.resolve(opened.piece, opened.store)};
        files::Resolver::refuse_trouble(opened.piece, *scene.assets);
        Evaluator evaluator(files::export_budget);
        files::export_map(evaluator, scene, to, {});
    }
    return 0;
}

int keep(Arguments args) {
    const auto out = args.option("-o"), of = args.option("--of"), name = args.option("--name");
    if (!out) throw Usage{"say where to with -o OUT.bathylux-recipe"};
    if (!of) throw Usage{"say of what with --of ELEMENT"};
    Keep what{{}, false, false, false, false};
    for (std::string rest = args.option("--with").value_or("surface"); !rest.empty();) {
        const auto comma = std::min(rest.find(','), rest.size());
        *one_of<bool*>("--with", rest.substr(0, comma),
                       {{"surface", &what.surface},
                        {"mix", &what.mix},
                        {"lights", &what.lights},
                        {"finish", &what.finish}}) = true;
        rest.erase(0, comma + 1);
    }
    for (std::string rest = args.option("--steps").value_or(""); !rest.empty();) {
        const auto comma = std::min(rest.find(','), rest.size());
        what.steps.push_back(rest.substr(0, comma));
        rest.erase(0, comma + 1);
    }
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
    Vary vary{false, false, false};
    for (std::string rest = args.option("--vary").value_or("seeds"); !rest.empty();) {
        const auto comma = std::min(rest.find(','), rest.size());
        *one_of<bool*>("--vary", rest.substr(0, comma),
                       {{"seeds", &vary.seeds}, {"angles", &vary.angles}, {"strengths", &vary.strengths}}) =
            true;
        rest.erase(0, comma + 1);
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
    files::Resolver resolver;
    files::Resolver::refuse_trouble(opened.piece, *resolver.resolve(opened.piece, opened.store));
    files::contact_sheet(
        alternatives_to(opened.piece, of->substr(0, dot), dot == std::string::npos ? "" : of->substr(dot + 1),
                        vary, count, seed),
        [&](const Piece& piece) {
            return Scene{std::make_shared<const Piece>(piece), resolver.resolve(piece, opened.store)};
        },
        view, columns, side, *out);
    return 0;
}

int describe(Arguments args) {
    if (!args.flag("--json")) throw Usage{"describe writes JSON: add --json"};
    args.done();
    std::cout << describe_everything() << '\n';
    return 0;
}

int info(Arguments args) {
    if (!args.flag("--json")) throw Usage{"info writes JSON: add --json"};
    std::cout << files::file_info(args.only("the file to look at"));
    return 0;
}

int bench(Arguments args) {
    if (!args.flag("--json")) throw Usage{"bench writes JSON: add --json"};
    args.done();
    const std::string program = (QCoreApplication::applicationDirPath() + "/bathylux-bench").toStdString();
    execl(program.c_str(), program.c_str(), "--json", nullptr);
    throw Error(program + " is not there: build it with the preset named bench.");
}

} // namespace

int main(int argc, char** argv) {
    // Fonts and drawings need Qt's font engine, but never a screen.
    qputenv("QT_QPA_PLATFORM", "offscreen");
    qputenv("QT_LOGGING_RULES", "*.debug=false;*.warning=false;qt.svg*=false");
    if (qEnvironmentVariableIsEmpty("XDG_RUNTIME_DIR")) qputenv("XDG_RUNTIME_DIR", "/tmp");
    std::vector<std::string> args(argv + 1, argv + argc);
    try {
        if (args.empty()) throw Usage{"say what to do"};
        const std::string what = args[0];
        args.erase(args.begin());
        if (what == "--help" || what == "help") {
            std::fputs(usage_text, stdout);
            return 0;
        }
        if (what == "--version") {
            std::puts("bathylux-cli " BATHYLUX_VERSION);
            return 0;
        }
        if (what == "describe") return describe(Arguments(args));
        QGuiApplication app(argc, argv);
        if (what == "render") return render(Arguments(args));
        if (what == "pour") return pour(Arguments(args));
        if (what == "keep") return keep(Arguments(args));
        if (what == "alternatives") return alternatives(Arguments(args));
        if (what == "info") return info(Arguments(args));
        if (what == "bench") return bench(Arguments(args));
        throw Usage{"unknown command " + what};
    } catch (const Usage& u) {
        std::fprintf(stderr, "bathylux-cli: %s\n%s", u.why.c_str(), usage_text);
        return 2;
    } catch (const std::exception& e) {
        std::string text = e.what();
        for (char& c : text)
            if (c == '\n') c = ' ';
        std::fprintf(stderr, "bathylux-cli: %s\n", text.c_str());
        return 1;
    }
}
