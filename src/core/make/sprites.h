#pragma once
#include <vector>

#include "core/make/source_kind.h"
#include "core/step/picture.h"

namespace bathylux {

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
    static constexpr bool has_rim = true, framed = true;
    static constexpr Channels gives = channel::color | channel::tone;
    static constexpr std::array parameters{
        bathylux::file<&SpritesSource::file>("file", "Sheet", "One picture with all frames"),
        file_list<&SpritesSource::files>("files", "Files", "Or a file a frame, in order"),
        choice<&SpritesSource::cut, sheet_cut_names>("cut", "Cut by",
                                                     "A grid, or the sheet's islands of alpha"),
        whole<&SpritesSource::columns>("columns", "Columns", {1, 16, 1, 256}, "Frames across the sheet")
            .only_when("cut", "grid"),
        whole<&SpritesSource::rows>("rows", "Rows", {1, 16, 1, 256}, "Frames down the sheet")
            .only_when("cut", "grid"),
        whole<&SpritesSource::margin>("margin", "Margin", {0, 32, 0, 4096}, "Pixels around the whole sheet")
            .only_when("cut", "grid")
            .ranked(Rank::folded),
        whole<&SpritesSource::spacing>("spacing", "Spacing", {0, 32, 0, 4096}, "Pixels between frames")
            .only_when("cut", "grid")
            .ranked(Rank::folded),
        whole<&SpritesSource::frame>("frame", "Frame", {0, 31, 0, 100000}, "Which frame shows first, from 0")
            .ranked(Rank::folded),
    };

    Bundle give(const SourceContext& context) const;
};

/// Where the frames of a sheet lie, in reading order. By a grid: cells of equal size between margin and
/// spacing; by islands: boxes around what is joined (a gap of one px is bridged) and not fully transparent.
/// Throws Error where the grid does not fit or there is no island.
std::vector<Region> sprite_frames(const Picture& sheet, const SpritesSource& source);

/// A part of a picture as one of its own.
Picture part_of(const Picture& picture, Region part);

/// The grid a sheet most likely has: the columns and rows whose lines run through the most transparency,
/// frames nearly square. 1 × 1 when nothing speaks for a grid.
std::pair<int, int> guessed_grid(const Picture& sheet);

} // namespace bathylux
