#pragma once
#include <string>
#include <vector>

#include "core/piece/piece.h"

namespace bathylux {

/// What alternatives differ in.
struct Vary {
    bool seeds = true, angles = false, strengths = false;
};

/// A piece that might be, and how it differs, in words ("seed 41, width 31 px").
struct Alternative {
    Piece piece;
    std::string says;
};

/// Alternatives to a piece that differ in steps of an element: of one step, or with "" of all that are on, and
/// in its own seed; and in what these read. The first is the piece as it is. Seeds are taken anew, and
/// pictures that are read are turned; angles turn by up to 60° either way; strengths — numbers that are
/// neither, and not 0 — are multiplied by up to 2 or its inverse, within their sensible range. The same numbers give the same alternatives. Throws Error where there is no such
/// element or step.
std::vector<Alternative> alternatives_to(const Piece& piece, std::string_view element, std::string_view step,
                                         const Vary& vary, int count, int seed = 1);

/// Whether there is anything of that sort to vary.
Vary what_varies(const Piece& piece, std::string_view element, std::string_view step);
/// What one looks at first of it: seeds, else angles, else strengths.
Vary most_telling(const Vary& can);

} // namespace bathylux
