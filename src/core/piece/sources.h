#pragma once
#include <array>
#include <span>

#include "core/piece/kind.h"

namespace bathylux {

/// A picture file: photograph, scan, drawing, existing map.
struct PictureSource {
    std::string file;

    static constexpr std::string_view id = "picture", name = "Picture", help = "A picture file";
    static constexpr std::array parameters{
        bathylux::file<&PictureSource::file>("file", "File", "PNG, JPEG, TIFF, WebP or EXR"),
    };
};

/// A vector drawing. Its extent is the drawing's own view box.
struct SvgSource {
    std::string file;

    static constexpr std::string_view id = "svg", name = "Drawing", help = "A vector drawing";
    static constexpr std::array parameters{
        bathylux::file<&SvgSource::file>("file", "File", "SVG"),
    };
};

enum class Align { left, center, right };
inline constexpr std::array<std::string_view, 3> align_names{"left", "center", "right"};

/// Typed letters, one or several lines; centred by its advance and line boxes.
struct TypeSource {
    std::string text = "Words", font = "League Spartan";
    float size = 120, weight = 700;
    bool italic = false;
    Align align = Align::center;
    float spacing = 0, leading = 1.1f;
    Color color{0.847f, 0.816f, 0.753f, 1};

    static constexpr std::string_view id = "type", name = "Type", help = "Typed letters";
    static constexpr std::array parameters{
        bathylux::text<&TypeSource::text>("text", "Text", "What is written; several lines if you like"),
        bathylux::font<&TypeSource::font>("font", "Font", "Family, shipped or installed"),
        number<&TypeSource::size>("size", "Size", Unit::px, {8, 400, 1, 8192}, "Size of the em"),
        number<&TypeSource::weight>("weight", "Weight", Unit::none, {100, 900, 1, 1000},
                                    "100 thin, 400 regular, 700 bold, 900 black"),
        toggle<&TypeSource::italic>("italic", "Italic", "Slanted letters"),
        choice<&TypeSource::align, align_names>("align", "Align", "How lines stand to one another"),
        number<&TypeSource::spacing>("spacing", "Letter spacing", Unit::px, {-20, 60, -1000, 1000},
                                     "Added between letters"),
        number<&TypeSource::leading>("leading", "Line spacing", Unit::ratio, {0.6, 2.4, 0, 20},
                                     "Distance of lines, in sizes"),
        bathylux::color<&TypeSource::color>("color", "Colour", "Colour of the letters"),
    };
};

struct RectangleSource {
    float width = 400, height = 300, corner = 0;
    Color color{0.847f, 0.816f, 0.753f, 1};

    static constexpr std::string_view id = "rectangle", name = "Rectangle",
                                      help = "A rectangle, its corners round if you like";
    static constexpr std::array parameters{
        number<&RectangleSource::width>("width", "Width", Unit::px, {1, 2000, 0, 100000}, "Across"),
        number<&RectangleSource::height>("height", "Height", Unit::px, {1, 2000, 0, 100000}, "Down"),
        number<&RectangleSource::corner>("corner", "Corner", Unit::px, {0, 200, 0, 50000},
                                         "Radius of the corners"),
        bathylux::color<&RectangleSource::color>("color", "Colour", "Colour of the rectangle"),
    };
};

struct EllipseSource {
    float width = 300, height = 300;
    Color color{0.847f, 0.816f, 0.753f, 1};

    static constexpr std::string_view id = "ellipse", name = "Ellipse", help = "A circle or an ellipse";
    static constexpr std::array parameters{
        number<&EllipseSource::width>("width", "Width", Unit::px, {1, 2000, 0, 100000}, "Across"),
        number<&EllipseSource::height>("height", "Height", Unit::px, {1, 2000, 0, 100000}, "Down"),
        bathylux::color<&EllipseSource::color>("color", "Colour", "Colour of the ellipse"),
    };
};

enum class NoiseFlavor { smooth, ridged, billowed, cells };
inline constexpr std::array<std::string_view, 4> noise_flavor_names{"smooth", "ridged", "billowed", "cells"};

/// Seeded noise that fills the canvas; a float source in 0…1. See core/relief/noise.h.
struct NoiseSource {
    float seed = 1, size_u = 120, size_v = 120, octaves = 4;
    std::vector<double> gains{1, 0.5, 0.25, 0.125};
    NoiseFlavor flavor = NoiseFlavor::smooth;
    float warp = 0;
    bool tile = false;

    static constexpr std::string_view id = "noise", name = "Noise",
                                      help = "Seeded noise over the whole canvas";
    static constexpr std::array parameters{
        choice<&NoiseSource::flavor, noise_flavor_names>("flavor", "Flavour",
                                                         "Smooth hills, sharp ridges, billows or cells"),
        whole<&NoiseSource::seed>("seed", "Seed", {0, 99, 0, 1000000}, "Another number, another noise"),
        number<&NoiseSource::size_u>("size_u", "Size across", Unit::px, {4, 600, 0.5, 100000},
                                     "Distance of the largest hills, across"),
        number<&NoiseSource::size_v>("size_v", "Size along", Unit::px, {4, 600, 0.5, 100000},
                                     "Distance of the largest hills, downwards"),
        whole<&NoiseSource::octaves>("octaves", "Octaves", {1, 8, 1, 8},
                                     "Each half the size of the one before"),
        numbers<&NoiseSource::gains>(
            "gains", "Gain per octave", {0, 1},
            "How strongly each octave counts, largest first; none given: halved each time"),
        number<&NoiseSource::warp>("warp", "Warped by itself", Unit::ratio, {0, 2, 0, 10},
                                   "How far the noise shifts itself, in sizes"),
        toggle<&NoiseSource::tile>("tile", "Tiles", "Rounds the sizes so that the canvas's edges meet"),
    };
};

enum class Motif {
    scales,
    basket_weave,
    rivets,
    ring_mesh,
    hammered,
    knurl,
    planks,
    setts,
    tread_plate,
    corduroy,
    stipple,
    honeycomb,
    cross_hatch,
    brick
};
inline constexpr std::array<std::string_view, 14> motif_names{
    "scales", "basket_weave", "rivets",   "ring_mesh", "hammered",  "knurl",       "planks",
    "setts",  "tread_plate",  "corduroy", "stipple",   "honeycomb", "cross_hatch", "brick"};

/// A relief that repeats, over the whole canvas; a float source in 0…1. See core/relief/pattern.h.
struct PatternSource {
    Motif motif = Motif::scales;
    float size = 60, stretch = 1, gap = 0.1f, round = 0.5f, vary = 0.2f, seed = 1;
    bool tile = false;

    static constexpr std::string_view id = "pattern", name = "Pattern", help = "A relief that repeats";
    static constexpr std::array parameters{
        choice<&PatternSource::motif, motif_names>("motif", "Motif", "What repeats"),
        number<&PatternSource::size>("size", "Size", Unit::px, {8, 300, 1, 100000},
                                     "One piece of it, across"),
        number<&PatternSource::stretch>("stretch", "Stretch", Unit::ratio, {0.25, 4, 0.01, 100},
                                        "How much longer than wide"),
        number<&PatternSource::gap>("gap", "Gap", Unit::ratio, {0, 0.5, 0, 0.9},
                                    "Between the pieces, in sizes"),
        number<&PatternSource::round>("round", "Roundness", Unit::ratio, {0, 1, 0, 1},
                                      "0 flat tops, 1 domed"),
        number<&PatternSource::vary>("vary", "Variation", Unit::ratio, {0, 1, 0, 1},
                                     "How much the pieces differ from one another"),
        whole<&PatternSource::seed>("seed", "Seed", {0, 99, 0, 1000000}, "Another number, other variations"),
        toggle<&PatternSource::tile>("tile", "Tiles", "Rounds the size so that the canvas's edges meet"),
    };
};

enum class FormShape { dome, cone, ramp, ridge, dish, coin_rim };
inline constexpr std::array<std::string_view, 6> form_shape_names{"dome",  "cone", "ramp",
                                                                  "ridge", "dish", "coin_rim"};

/// A simple form with a height of its own.
struct FormSource {
    FormShape shape = FormShape::dome;
    float width = 400, height = 400, rise = 40, rim = 30;
    Color color{0.847f, 0.816f, 0.753f, 1};

    static constexpr std::string_view id = "form", name = "Form",
                                      help = "A dome, cone, ramp, ridge, dish or coin rim";
    static constexpr std::array parameters{
        choice<&FormSource::shape, form_shape_names>("shape", "Shape", "Which form it is"),
        number<&FormSource::width>("width", "Width", Unit::px, {1, 2000, 0, 100000}, "Across"),
        number<&FormSource::height>("height", "Height", Unit::px, {1, 2000, 0, 100000}, "Down the canvas"),
        number<&FormSource::rise>("rise", "Rise", Unit::px, {-120, 120},
                                  "Of its highest place; negative sinks"),
        number<&FormSource::rim>("rim", "Rim", Unit::px, {0, 200, 0, 50000}, "Width of a coin's rim"),
        bathylux::color<&FormSource::color>("color", "Colour", "Colour of the form"),
    };
};

enum class GreenSays { automatic, up, down };
inline constexpr std::array<std::string_view, 3> green_names{"auto", "up", "down"};

/// A normal map, integrated to the height it came from.
struct NormalsSource {
    std::string file;
    GreenSays green = GreenSays::automatic;
    float strength = 1;

    static constexpr std::string_view id = "normals", name = "Normal map",
                                      help = "Normals, turned back into height";
    static constexpr std::array parameters{
        bathylux::file<&NormalsSource::file>("file", "File", "A normal map: PNG, TIFF, EXR"),
        choice<&NormalsSource::green, green_names>(
            "green", "Green points", "auto: told from the map's curl, which a height has none of"),
        number<&NormalsSource::strength>("strength", "Strength", Unit::ratio, {0, 4, -1000, 1000},
                                         "Factor on the slopes"),
    };
};

/// A layer painted by hand: height, where one painted.
struct PaintSource {
    std::string file;
    float density = 1;

    static constexpr std::string_view id = "paint", name = "Painted layer",
                                      help = "Height painted with the brushes";
    static constexpr std::array parameters{
        bathylux::file<&PaintSource::file>(
            "file", "File", "Where the strokes are kept: red is height in px, green what is hidden"),
        number<&PaintSource::density>("density", "Fineness", Unit::ratio, {0.25, 4, 0.001, 1000},
                                      "Painted px per px of the canvas"),
    };
};

enum class SheetCut { grid, islands };
inline constexpr std::array<std::string_view, 2> sheet_cut_names{"grid", "islands"};

/// Frames of a sprite: a sheet cut by a grid or by its islands of alpha, or files of their own.
struct SpritesSource {
    std::string file;
    std::vector<std::string> files;
    SheetCut cut = SheetCut::grid;
    float columns = 4, rows = 1, margin = 0, spacing = 0, frame = 0;

    static constexpr std::string_view id = "sprites", name = "Sprites",
                                      help = "Frames of a sprite, each an island";
    static constexpr std::array parameters{
        bathylux::file<&SpritesSource::file>("file", "Sheet", "One picture with all frames"),
        file_list<&SpritesSource::files>("files", "Files", "Or a file a frame, in order"),
        choice<&SpritesSource::cut, sheet_cut_names>("cut", "Cut by",
                                                     "A grid, or the sheet's islands of alpha"),
        whole<&SpritesSource::columns>("columns", "Columns", {1, 16, 1, 256}, "Frames across the sheet"),
        whole<&SpritesSource::rows>("rows", "Rows", {1, 16, 1, 256}, "Frames down the sheet"),
        whole<&SpritesSource::margin>("margin", "Margin", {0, 32, 0, 4096}, "Pixels around the whole sheet"),
        whole<&SpritesSource::spacing>("spacing", "Spacing", {0, 32, 0, 4096}, "Pixels between frames"),
        whole<&SpritesSource::frame>("frame", "Frame", {0, 31, 0, 100000}, "Which frame shows first, from 0"),
    };
};

/// Elements kept together: steps and mixing work on the whole.
struct GroupSource {
    static constexpr std::string_view id = "group", name = "Group", help = "Elements kept together";
    static constexpr std::array<Parameter, 0> parameters{};
};

/// Every kind of source there is.
std::span<const Kind> source_kinds();
const Kind* find_source_kind(std::string_view id);
const Kind& source_kind(std::string_view id);

} // namespace bathylux
