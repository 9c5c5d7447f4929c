#pragma once
#include <optional>

#include "core/piece/piece.h"
#include "core/step/picture.h"

namespace bathylux {

// What is new begins so that something shows at once, at the canvas's own size.

/// An element of a kind in the middle of the canvas, named, with a first step where it needs one to have
/// depth. Its id is free in the piece.
Element started(const SourceKind& kind, const Piece& piece);
/// A light of a kind, likewise.
Light started(const LightKind& kind, const Piece& piece);
/// A step for an element whose picture, where it has one, is `asset`: its tone window stretched to the
/// picture's own range, the colour that is knocked out taken from its corner.
Step started(const StepKind& kind, const Element& element, const Asset* asset);

/// What a picture file is taken for, and what it says of itself.
struct Taken {
    std::string file, name;
    const Picture* picture = nullptr; // null for drawings
    enum class As { picture, drawing, height, normals, sprites } as = As::picture;
    std::optional<std::pair<float, float>> height_range{}; // what black and white are, canvas px
    std::optional<bool> green_up{};                        // of normals
};
/// An element of it at a place (none: the middle), fitted to the canvas where it is larger. The first element
/// of a piece gives the canvas its size, and the section line goes across it.
Element taken_in(const Taken& taken, Piece& piece, std::optional<Vec2> at);
/// Frames of files of their own, all of one size.
Element taken_in(const std::vector<std::string>& frames, const std::string& name, double width, double height,
                 Piece& piece);

/// A solid of a kind, of a size that suits the canvas, seen from a distance that shows all of it.
Solid started_solid(BodyKind kind, const Canvas& canvas);

} // namespace bathylux
