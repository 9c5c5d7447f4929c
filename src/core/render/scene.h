#pragma once
#include <map>
#include <memory>
#include <optional>
#include <string>

#include "core/light/shade.h"
#include "core/piece/piece.h"
#include "core/step/picture.h"

namespace bathylux {

/// What the sources of a piece became, by element id. Type, pictures and drawings need one; plain shapes
/// and groups do not.
using Assets = std::map<std::string, std::shared_ptr<const Asset>, std::less<>>;

/// All that a picture is computed from; a value, safe to hand to another thread.
struct Scene {
    std::shared_ptr<const Piece> piece;
    std::shared_ptr<const Assets> assets;
    int frame = 0;     // how many frames on sprites are
    Counted counted{}; // what of its light is looked at
};

/// The key under which the strokes kept in a file are found among the assets.
std::string painting_key(std::string_view file);
/// The key under which a sky light's panorama is found.
std::string panorama_key(std::string_view light);
/// The key under which the mesh of a solid's body is found among the assets.
inline constexpr std::string_view body_key = "solid mesh";

/// The file of the strokes of one frame: "{frame}" in a name is the frame's number, so that every frame of a
/// sprite can be painted on by itself.
std::string strokes_file(const std::string& file, int frame);
/// Which frame of its own an element shows; 0 for all but sprites.
int shown_frame(const Scene& scene, const Element& element);
/// The strokes a step of an element works with; null where it has none.
const Painting* painting_of(const Scene& scene, const Element& element, const Step& step);

/// The ink painted on a layer; null where there is none.
const Painting* ink_on(const Scene& scene, const Element& element);

/// Size of the canvas at a scale, at least one pixel.
Region canvas_region(const Canvas& canvas, double scale);

/// Where an element lies, given the map of its parent.
struct Placed {
    Affine to_device;  // source px about its centre → device px
    double length = 1; // device px per px of its steps' parameters
    double rise = 1;   // factor on its steps' heights
    /// A group about it gives height to all that is in it: what has none of its own stands at 0, and counts.
    bool stands = false;
};
/// Whether an element of it gives a height of its own, as far as can be told without computing it.
bool gives_height(const Element& element);

/// The root: canvas px → device px.
Placed root_placed(double scale);
/// An element of the canvas or of a group placed so. A group's origin is the middle of the canvas.
Placed placed_within(const Placed& parent, const Element& element);
/// The placement that a group's children see.
Placed inside_group(const Placed& group, const Canvas& canvas);

/// The placement of an element's parent at scale 1, whichever groups it lies in; none when there is no such
/// element.
std::optional<Placed> parent_placed(const Piece& piece, std::string_view id);

/// Box of an element in px of its own, about its centre, before its placement.
Box own_box(const Scene& scene, const Element& element);
/// Box of an element, groups and all, without what its steps add.
Box element_box(const Scene& scene, const Element& element, const Placed& parent);

/// The same at scale 1, canvas px, whichever groups it lies in; empty when there is no such element.
Box element_box(const Scene& scene, std::string_view id);

} // namespace bathylux
