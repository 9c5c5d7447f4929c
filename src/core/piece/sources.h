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
