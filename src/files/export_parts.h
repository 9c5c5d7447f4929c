#pragma once
#include <QImage>
#include <filesystem>
#include <vector>

#include "core/render/views.h"

namespace bathylux::files {

/// Writes the lit picture taken apart (see LitParts), as layers of one file that add up to it.
///
/// .exr: floats, linear, premultiplied, channels named PART.CHANNEL and the whole as "lit.R" and so on; a
/// plain sum gives the whole. Bright light is not rolled off.
///
/// .ora (OpenRaster): 8 bits, sRGB. From below: the ambient light, what occlusion leaves of it (multiplied),
/// diffuse light and highlights as if nothing stood in their way (added), what shadow leaves of all
/// (multiplied), and over that, where there is a finish, the finished picture. A viewer that follows the
/// layers' modes shows the lit picture, and without the finish what it was before, to within one step of 255;
/// where light clips, the sum is that of the clipped picture. All of them are opaque wherever there is
/// anything; where not all of it is, a layer `shape` on top cuts it out (svg:dst-in).
///
/// Throws Error or Cancelled; the file appears only when whole.
void export_parts(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path, double scale,
                  const Progress& progress = {});

/// One of the layers that .ora has, from below: `mode` as SVG compositing names it. Straight, sRGB, 8 bits.
/// Of those by themselves the first has the shape.
struct PartLayer {
    std::string_view name; // of part_names
    const char* mode;
    QImage image;
};
std::vector<PartLayer> part_layers(Evaluator& evaluator, const Scene& scene, double scale);

} // namespace bathylux::files
