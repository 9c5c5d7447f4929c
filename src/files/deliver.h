#pragma once
#include <filesystem>
#include <stop_token>

#include "core/render/views.h"

namespace bathylux::files {

/// How a view is written.
struct Delivery {
    View view = View::lit;
    double scale = 1;
    int bits = 0;         // 0: what suits the format and the view (heights 16, the rest 8; EXR 32)
    bool green_up = true; // normals: y up, as glTF has it, or flipped
};

/// Renders a view and writes it to a file by its ending. Whole numbers are sRGB-encoded straight colour,
/// heights over the stated range; floats are linear premultiplied colour, heights in canvas px, normals
/// signed. The range of heights, px per mm and the green's direction go into the description, as JSON.
/// Throws Error or Cancelled; the file appears only when whole.
void deliver(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path, const Delivery& how,
             std::stop_token stop = {}, const Evaluator::Progress& progress = {});

} // namespace bathylux::files
