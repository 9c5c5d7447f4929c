#pragma once
#include "core/make/source_kind.h"

namespace bathylux {

struct RectangleSource {
    float width = 400, height = 300, corner = 0;
    Color color = rgb(216, 208, 192);

    static constexpr bool outlined = true;
    static constexpr std::string_view id = "rectangle", name = "Rectangle",
                                      help = "A rectangle, its corners round if you like";
    static constexpr std::array parameters{
        number<&RectangleSource::width>("width", "Width", Unit::px, {1, 2000, 0, 100000}, "Across")
            .ranked(Rank::folded),
        number<&RectangleSource::height>("height", "Height", Unit::px, {1, 2000, 0, 100000}, "Down")
            .ranked(Rank::folded),
        number<&RectangleSource::corner>("corner", "Corner", Unit::px, {0, 200, 0, 50000},
                                         "Radius of the corners")
            .ranked(Rank::folded),
        bathylux::color<&RectangleSource::color>("color", "Colour", "Colour of the rectangle")
            .ranked(Rank::folded),
    };

    Box box() const { return box_about(width, height); }
    Bundle give(const SourceContext& context) const;
    std::string says() const;
};

struct EllipseSource {
    float width = 300, height = 300;
    Color color = rgb(216, 208, 192);

    static constexpr bool outlined = true;
    static constexpr std::string_view id = "ellipse", name = "Ellipse", help = "A circle or an ellipse";
    static constexpr std::array parameters{
        number<&EllipseSource::width>("width", "Width", Unit::px, {1, 2000, 0, 100000}, "Across")
            .ranked(Rank::folded),
        number<&EllipseSource::height>("height", "Height", Unit::px, {1, 2000, 0, 100000}, "Down")
            .ranked(Rank::folded),
        bathylux::color<&EllipseSource::color>("color", "Colour", "Colour of the ellipse")
            .ranked(Rank::folded),
    };

    Box box() const { return box_about(width, height); }
    Bundle give(const SourceContext& context) const;
    std::string says() const;
};

/// Flat shapes, painted one over the other, where a source's placement lays them. `hash` names them.
Bundle shapes_bundle(const SourceContext& context, const std::vector<Layer>& layers, std::uint64_t hash);

/// The exact edge of shapes laid by `map`.
std::shared_ptr<const Silhouette> silhouette_of(const std::vector<Layer>& layers, const Affine& map,
                                                std::uint64_t hash);

} // namespace bathylux
