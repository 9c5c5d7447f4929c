#pragma once
#include "core/make/source_kind.h"
#include <array>

namespace bathylux {

enum class Align { left, center, right };
inline constexpr std::array<std::string_view, 3> align_names{"left", "center", "right"};
inline constexpr std::array<std::string_view, 3> align_words{"left", "centre", "right"};

/// Typed letters, one or several lines; centred by its advance and line boxes. Along a path they run as text
/// does in SVG 1.1: on the outline as it lies turned and scaled about its own centre, which is then that of
/// the letters; the middle of a glyph's advance stands on it; `start`, a share of its length, is where a line
/// begins, stands in its middle or ends, as it is aligned; further lines run further in.
struct TypeSource {
    std::string text = "Words", font = "League Spartan";
    float size = 120, weight = 700, stretch = 1, slant = 0;
    bool italic = false;
    Align align = Align::center;
    float spacing = 0, leading = 1.1f;
    Color color = rgb(216, 208, 192);
    std::string path{};
    float start = 0;

    static constexpr bool outlined = true;
    static constexpr std::string_view id = "type", name = "Type", help = "Typed letters";
    static constexpr std::array parameters{
        bathylux::text<&TypeSource::text>("text", "Text", "What is written; several lines if you like"),
        bathylux::font<&TypeSource::font>("font", "Font", "Family, shipped or installed"),
        number<&TypeSource::size>("size", "Size", Unit::px, {8, 400, 1, 8192}, "Size of the em"),
        number<&TypeSource::weight>("weight", "Weight", Unit::none, {100, 900, 1, 1000},
                                    "100 thin, 400 regular, 700 bold, 900 black")
            .ranked(Rank::folded),
        number<&TypeSource::stretch>("stretch", "Width of letters", Unit::ratio, {0.5, 1.5, 0.25, 4},
                                     "Narrower or wider, in fonts with an axis for it")
            .as(Said::percent)
            .ranked(Rank::folded),
        number<&TypeSource::slant>("slant", "Slant", Unit::degrees, {-20, 20, -90, 90},
                                   "How far they lean forwards, in fonts with an axis for it")
            .ranked(Rank::folded),
        toggle<&TypeSource::italic>("italic", "Italic", "Slanted letters").ranked(Rank::folded),
        choice<&TypeSource::align, align_names>("align", "Align", "How lines stand to one another")
            .reads(align_words)
            .ranked(Rank::folded),
        number<&TypeSource::spacing>("spacing", "Letter spacing", Unit::px, {-20, 60, -1000, 1000},
                                     "Added between letters")
            .ranked(Rank::folded),
        number<&TypeSource::leading>("leading", "Line spacing", Unit::ratio, {0.6, 2.4, 0, 20},
                                     "Distance of lines, in sizes")
            .ranked(Rank::folded),
        bathylux::color<&TypeSource::color>("color", "Colour", "Colour of the letters").ranked(Rank::folded),
        element<&TypeSource::path>("path", "Runs along",
                                   "A drawing, ellipse or rectangle whose outline the letters run along")
            .ranked(Rank::folded),
        number<&TypeSource::start>(
            "start", "Starts at", Unit::ratio, {0, 1, -100, 100},
            "Where on that outline, as a share of its length; past its end it goes round")
            .as(Said::percent)
            .ranked(Rank::folded),
    };

    Bundle give(const SourceContext& context) const;
    std::string says() const;
};

} // namespace bathylux
