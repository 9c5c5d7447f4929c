#pragma once
#include <optional>

#include "core/time/rate.h"
#include "files/export.h"
#include "files/export_solid.h"
#include "files/films.h"

namespace bathylux::files {

/// A film of some frames of a piece, both ends among them.
struct FilmOrder {
    int first = 0, last = 0;
    View view = View::lit;
    std::optional<SolidExport> solid{}; // looked at in the round instead
    double scale = 1;
    bool green_up = true;
    bool parts = false; // the lit picture taken apart, a film each (see export_parts)
};

/// What a film cost: how many results were made, and how many of those asked for were there already.
struct FilmCounts {
    int frames = 0;
    long long made = 0, there = 0;
    std::string says() const;
};

/// Renders frames one by one and writes them as one film at the piece's rate; the file appears only when
/// whole. Heights have one range over all frames, for which they are looked at once before. Light taken apart
/// becomes the films OUT-ambient and so on, one a layer of an OpenRaster file, to be put together as those
/// are. Throws Error or Cancelled.
FilmCounts export_film(Evaluator& evaluator, const std::function<Scene(int frame)>& scene_at,
                       const std::filesystem::path& path, const FilmOrder& order,
                       const Progress& progress = {});

/// The files export_film writes of a piece.
std::vector<std::filesystem::path> film_files(const Piece& piece, const std::filesystem::path& path,
                                              const FilmOrder& order);

/// Small pictures of at most `count` frames, evenly spread over those of the order, side by side on one PNG.
void film_sheet(const std::function<Scene(int frame)>& scene_at, const std::filesystem::path& path,
                const FilmOrder& order, int count);

/// OUT-0000.png and so on.
std::filesystem::path numbered(const std::filesystem::path& path, int frame);

/// How much of what is computed is kept from one frame to the next.
constexpr std::size_t film_budget = std::size_t{512} << 20;

} // namespace bathylux::files
