#pragma once
#include <filesystem>
#include <functional>

#include "core/piece/alternatives.h"
#include "core/render/views.h"

namespace bathylux::files {

/// A piece, or a part of it (canvas px), as a small picture: at most `side` px a side, sRGB, straight, 8 bit
/// RGBA, row by row.
struct SmallPicture {
    int width = 0, height = 0;
    std::vector<std::uint8_t> rgba;
};
SmallPicture small_picture(Evaluator& evaluator, const Scene& scene, View view, int side,
                           const Box& part = {});

/// What a view looks like, of so many px: heights as depth tints, everything else as itself.
SmallPicture picture_of(const Strip& seen, View view, int width, int height);

/// Pictures of one size side by side on one PNG, each named under it, `columns` a row. Throws Error or
/// Cancelled; the file appears only when whole.
void sheet_of(int count, const std::function<SmallPicture(int)>& picture,
              const std::function<std::string(int)>& says, int columns, const std::filesystem::path& path);

/// Alternatives side by side on one PNG, numbered from 0, `columns` a row, each at most `side` px; `scene_of`
/// gives the scene of a piece. Throws Error or Cancelled; the file appears only when whole.
void contact_sheet(const std::vector<Alternative>& alternatives,
                   const std::function<Scene(const Piece&)>& scene_of, View view, int columns, int side,
                   const std::filesystem::path& path);

} // namespace bathylux::files
