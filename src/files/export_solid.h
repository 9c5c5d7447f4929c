#pragma once
#include <filesystem>
#include <span>

#include "core/render/solid_view.h"
#include "core/render/views.h"

namespace bathylux::files {

/// What of a solid is seen and exported.
enum class SolidView : std::uint8_t { lit, depth, normals };
inline constexpr std::array<std::string_view, 3> solid_view_names{"solid", "solid_depth", "solid_normals"};

/// How the solid is written.
struct SolidExport {
    std::vector<SolidView> views{SolidView::lit}; // several: as layers of one EXR
    int width = 0, height = 0;                    // px; 0: the canvas's
    int samples = 64;                             // a px
    int bits = 0;                                 // 0: what suits the format
    bool green_up = true;
};

constexpr int most_samples = 4096, most_solid_side = 8192;

/// Renders the solid and writes it to a file by its ending. Floats: linear premultiplied colour that is not
/// rolled off; depth in px from the camera along its axis, infinite where nothing is; normals signed, in the
/// solid's space. Whole numbers: colour sRGB-encoded and straight; depth white at the nearest and black at
/// the farthest place, which go into the description. Throws Error or Cancelled; the file appears only when
/// whole.
void export_solid(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path,
                  const SolidExport& how, const Progress& progress = {});

/// One frame of it, lit and finished, as a picture of so many px.
Strip look_at_solid(Evaluator& evaluator, const Scene& scene, const SolidExport& how, int width, int height);

} // namespace bathylux::files
