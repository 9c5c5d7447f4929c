#pragma once
#include <map>

#include "core/light/shade.h"
#include "core/render/scene.h"

namespace bathylux {

/// Lights whose places are on the canvas; `panoramas` by the id of the sky light that shows one.
using Panoramas = std::map<std::string, std::shared_ptr<const Picture>, std::less<>>;
Lighting lighting_of(const Piece& piece, const std::vector<Light>& lights, const Panoramas& panoramas = {});
/// The same for a piece whose lights go with no element and show no picture.
Lighting lighting_of(const Piece& piece);
/// The light of a scene: its lights where the elements they go with lie, panoramas from its files.
Lighting lighting_of(const Scene& scene);

/// Whether a light shines among the others: switched on, and alone where any is.
bool shines(const std::vector<Light>& lights, const Light& light);

/// Names all of it that the lit picture depends on.
std::uint64_t hash_of(const Lighting& lighting);

} // namespace bathylux
