// bathylux-cli render: what was asked for, told from what was typed, then done.
#include <algorithm>
#include <array>

#include "cli/commands.h"
#include "core/error.h"
#include "core/piece/codec.h"
#include "core/piece/pose.h"
#include "core/render/heap.h"
#include "files/export.h"
#include "files/export_film.h"
#include "files/export_mesh.h"
#include "files/export_parts.h"
#include "files/export_solid.h"
#include "files/resolve.h"

namespace bathylux::cli {

namespace {

/// One picture, layer by layer or taken apart, or one mesh, of a piece as it stands.
struct Product {
    std::vector<View> views;
    files::Export how;
    std::optional<files::SolidExport> solid; // looked at in the round instead
    std::optional<files::MeshExport> mesh;
    bool parts = false;
};

struct Frames {
    int first = 0, last = 0;
};

struct Order {
    std::string piece;
    std::filesystem::path out;
    Product product;
    std::vector<std::pair<std::string, std::string>> sets; // paths and values
    int frame = 0;                                         // of what is still
    std::optional<Frames> frames;                          // of what moves
    bool sheet = false;                                    // all frames on one
    int turntable = 0;                                     // so many pictures once round
    int contact = 0;                                       // so many frames, small, on one picture
    bool resume = false, counts = false;
};

/// Which views of the solid are asked for; nothing where none is.
std::vector<files::SolidView> solid_views(const std::vector<std::string>& asked) {
    std::vector<files::SolidView> out;
    for (const std::string& name : asked) {
        const auto at = std::ranges::find(files::solid_view_names, name);
        if (at != files::solid_view_names.end())
            out.push_back(static_cast<files::SolidView>(at - files::solid_view_names.begin()));
    }
    if (!out.empty() && out.size() != asked.size())
        throw Usage{"--view takes views of the solid or of the canvas, not both"};
    return out;
}

files::SolidExport solid_asked(Arguments& args, std::vector<files::SolidView> views) {
    files::SolidExport how;
    how.views = std::move(views);
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
    if (const auto v = args.option("--fineness")) how.fineness = number_from(0.05, "--fineness", *v);
    if (const auto v = args.option("--base")) how.base_mm = number_from(0.001, "--base", *v);
    if (const auto v = args.option("--error")) how.error_mm = number_from(0, "--error", *v);
    if (const auto v = args.option("--texture")) {
        how.texture = whole_number("--texture", *v);
        if (how.texture < 16 || how.texture > 8192) throw Usage{"--texture takes px from 16 to 8192"};
    }
    return how;
}

Product product_asked(Arguments& args, const std::filesystem::path& out) {
    Product p;
    if (const auto v = args.option("--scale")) p.how.scale = number_from(0, "--scale", *v, 16);
    if (p.how.scale <= 0) throw Usage{"--scale takes a number above 0, up to 16"};
    if (const auto v = args.option("--bits"))
        p.how.bits = one_of<int>("--bits", *v, {{"8", 8}, {"16", 16}, {"32", 32}});
    if (const auto v = args.option("--green"))
        p.how.green_up = one_of<bool>("--green", *v, {{"up", true}, {"down", false}});
    p.parts = args.flag("--parts");

    const auto asked = listed(args.option("--view").value_or("lit"));
    if (asked.empty()) throw Usage{"--view takes the names of views, parted by commas"};
    if (files::is_mesh_out(out)) {
        p.mesh = mesh_asked(args);
    } else if (auto views = solid_views(asked); !views.empty()) {
        p.solid = solid_asked(args, std::move(views));
        p.solid->bits = p.how.bits, p.solid->green_up = p.how.green_up;
    } else {
        for (const std::string& name : asked) p.views.push_back(view_named(name));
        p.how.view = p.views.front();
    }
    if (p.parts && (p.mesh || p.solid || p.views != std::vector{View::lit}))
        throw Usage{"--parts takes the lit picture apart, and no other view"};
    return p;
}

Frames frames_named(const std::string& range) {
    const auto colon = range.find(':');
    if (colon == std::string::npos) throw Usage{"--frames takes A:B, first and last frame"};
    const Frames out{whole_number("--frames", range.substr(0, colon)),
                     whole_number("--frames", range.substr(colon + 1))};
    if (out.last < out.first) throw Usage{"--frames takes A:B with B not below A"};
    if (out.last - out.first >= most_frames)
        throw Usage{"--frames takes at most " + std::to_string(most_frames)};
    return out;
}

/// What of time is asked for: a frame, several, all on a sheet, or a turn.
void ask_for_frames(Arguments& args, Order& order) {
    const auto frame = args.option("--frame"), range = args.option("--frames");
    if (frame) order.frame = whole_number("--frame", *frame);
    if (range) order.frames = frames_named(*range);
    order.sheet = args.flag("--sheet");
    order.resume = args.flag("--resume"), order.counts = args.flag("--counts");
    if (int(frame.has_value()) + int(range.has_value()) + int(order.sheet) > 1)
        throw Usage{"give one of --frame, --frames and --sheet"};

    const Product& product = order.product;
    const bool one_view = !product.mesh && (product.solid || product.views.size() == 1);
    if (const auto n = args.option("--turntable")) {
        order.turntable = whole_number("--turntable", *n);
        if (!product.solid || order.turntable < 1)
            throw Usage{"--turntable takes a number of frames, with --view solid"};
        if (range || order.sheet) throw Usage{"give one of --turntable, --frames and --sheet"};
    }
    if (const auto n = args.option("--contact")) {
        order.contact = whole_number("--contact", *n);
        if (order.contact < 1 || order.contact > 400 || product.parts || !one_view)
            throw Usage{"--contact takes 1 to 400 frames, of one view"};
        if (!range) throw Usage{"--contact shows some of the frames that --frames A:B names"};
    }
    if (order.sheet && (product.solid || !one_view || product.parts))
        throw Usage{"--sheet takes one view of the canvas"};
    if (range && files::is_film(order.out) && !one_view && !order.contact)
        throw Usage{"a film shows one view; write numbered pictures for layers and meshes"};
}

Order asked(Arguments args) {
    Order order;
    const auto out = args.option("-o");
    if (!out) throw Usage{"say where to with -o OUT"};
    order.out = *out;
    order.product = product_asked(args, order.out);
    ask_for_frames(args, order);
    if (const auto mood = args.option("--mood")) order.sets.emplace_back("mood", *mood);
    while (const auto s = args.option("--set")) {
        const auto equals = s->find('=');
        if (equals == std::string::npos) throw Usage{"--set takes ELEMENT.STEP.PARAM=VALUE"};
        order.sets.emplace_back(s->substr(0, equals), s->substr(equals + 1));
    }
    order.piece = args.only("the piece to render");
    return order;
}

/// The piece as it is asked for, found to be one that can be rendered.
files::Opened piece_of(const Order& order) {
    files::Opened opened = opened_piece(order.piece);
    for (const std::string& said : opened.told) std::fprintf(stderr, "bathylux-cli: %s\n", said.c_str());
    for (const auto& [name, value] : order.sets) set_parameter(opened.piece, name, value);
    const Region size = canvas_region(opened.piece.canvas, order.product.how.scale);
    if (size.width() > most_canvas_side || size.height() > most_canvas_side)
        throw Error(order.piece + ": at that scale the picture would be larger than " +
                    std::to_string(most_canvas_side) + " px a side.");
    if (const auto loose = loose_links(opened.piece); !loose.empty())
        throw Error(order.piece + ": a link leads to nothing: " + loose.front() +
                    ". Link it to a number of the piece, or give it a value.");
    return opened;
}

void write(const Product& product, Evaluator& evaluator, const Scene& scene,
           const std::filesystem::path& to) {
    if (product.mesh) return files::export_mesh(evaluator, scene, to, *product.mesh);
    if (product.solid) return files::export_solid(evaluator, scene, to, *product.solid);
    if (product.parts) return files::export_parts(evaluator, scene, to, product.how.scale);
    if (product.views.size() == 1) return files::export_map(evaluator, scene, to, product.how);
    std::vector<files::Export> layers;
    for (const View view : product.views) layers.push_back(product.how), layers.back().view = view;
    files::export_layers(evaluator, scene, to, layers);
}

/// A range of frames: one picture of some, one film, or numbered pictures.
void write_frames(const Order& order, const files::Opened& opened, files::Resolver& resolver,
                  Evaluator& evaluator) {
    const Product& product = order.product;
    const auto [first, last] = *order.frames;
    const NoHoles tidy;
    const auto scene_at = [&](int i) {
        Scene now = resolver.scene(opened.piece, opened.store, i);
        files::Resolver::refuse_trouble(*now.piece, *now.assets);
        return now;
    };
    const files::FilmOrder film{
        first, last, product.how.view, product.solid, product.how.scale, product.how.green_up, product.parts};
    if (order.contact > 0) return files::film_sheet(scene_at, order.out, film, order.contact);
    if (files::is_film(order.out)) {
        const files::FilmCounts counts = files::export_film(evaluator, scene_at, order.out, film);
        if (order.counts) std::fprintf(stderr, "%s\n", counts.says().c_str());
        return;
    }
    for (int i = first; i <= last; ++i) {
        const auto to = files::numbered(order.out, i);
        if (order.resume && std::filesystem::exists(to)) continue;
        write(product, evaluator, scene_at(i), to);
    }
}

} // namespace

int render(Arguments args) {
    const Order order = asked(std::move(args));
    const files::Opened opened = piece_of(order);
    files::Resolver resolver(order.frames ? files::film_budget : files::export_budget);
    Scene scene = resolver.scene(opened.piece, opened.store, order.frame);
    files::Resolver::refuse_trouble(opened.piece, *scene.assets);
    relief_hash(scene, order.product.how.scale); // what cannot be done is told before a file is begun
    Evaluator evaluator(resolver.budget());
    if (order.frames) {
        write_frames(order, opened, resolver, evaluator);
    } else if (order.sheet) {
        std::filesystem::path index = order.out;
        files::export_sheet(evaluator, scene, order.out, order.product.how, index.replace_extension(".json"));
    } else if (order.turntable > 0) {
        const auto still = scene.piece;
        for (int i = 0; i < order.turntable; ++i) {
            scene.piece = std::make_shared<const Piece>(turned_round(*still, i, order.turntable));
            write(order.product, evaluator, scene, files::numbered(order.out, i));
        }
    } else {
        write(order.product, evaluator, scene, order.out);
    }
    return 0;
}

} // namespace bathylux::cli
