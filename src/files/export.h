#pragma once
#include <filesystem>

#include "core/piece/edit.h"
#include "core/render/views.h"

namespace bathylux::files {

/// How a view is written.
struct Export {
    View view = View::lit;
    double scale = 1;
    int bits = 0;         // 0: what suits the format and the view (heights 16, the rest 8; EXR 32)
    bool green_up = true; // normals: y up, as glTF has it, or flipped
};

/// Renders a view and writes it to a file by its ending. Whole numbers are sRGB-encoded straight colour,
/// heights over the stated range, slopes of 90° and curvatures of ±¼ a px; floats are linear premultiplied
/// colour, heights in canvas px, normals signed. The range of heights, px per mm and the green's direction go
/// into the description, as JSON. Throws Error or Cancelled; the file appears only when whole.
void export_map(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path,
                const Export& how, const Progress& progress = {});

/// Several views as the layers of one EXR of floats, channels named LAYER.CHANNEL ("height.Y", "normals.X").
void export_layers(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path,
                   const std::vector<Export>& layers, const Progress& progress = {});

/// How many frames a piece has: the most that any of its sprites has; 1 where nothing moves.
int frame_count(const Scene& scene);

/// Where a frame lies on a exported sheet, px.
struct SheetCell {
    int x = 0, y = 0, width = 0, height = 0;
};
/// All frames on one sheet, packed as the piece's sprite sheet is (in one row where its frames are no
/// sheet's), each rendered by itself. Colours of see-through places are continued from the nearest opaque
/// ones, so that filtering shows no halo. Returns where the frames lie; `index`, where not empty, is written
/// beside as JSON.
std::vector<SheetCell> export_sheet(Evaluator& evaluator, const Scene& scene,
                                    const std::filesystem::path& path, const Export& how,
                                    const std::filesystem::path& index = {}, const Progress& progress = {});

/// One file to be written: a map, several maps as layers of one EXR, or a sheet of all frames.
struct Order {
    std::filesystem::path path;
    Export how;
    std::vector<Export> layers; // not empty: these instead of `how`
    int frame = 0;
    bool sheet = false;
    bool parts = false; // the lit picture taken apart (export_parts.h)
    Ids only;           // not empty: these elements alone
};
void carry_out(Evaluator& evaluator, const Scene& scene, const Order& order, const Progress& progress = {});

/// How much of what is computed is worth keeping while a piece is written out: memory stays within what is
/// promised.
constexpr std::size_t export_budget = std::size_t{192} << 20;

/// A file name out of a scheme: {piece}, {map}, {frame} (four digits) and {scale} (%) are filled in; a
/// {frame} that is missing where there are several goes before the ending. Characters no file system likes
/// become dashes.
std::string file_name(const std::string& scheme, const std::string& piece, View map, int frame, int frames,
                      double scale, const std::string& ending);

} // namespace bathylux::files
