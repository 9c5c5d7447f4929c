#pragma once
#include "core/step/picture.h"

namespace bathylux {

enum class Guess { picture, height, normals };
enum class Green { none, up, down, unsure };

/// What a picture seems to be, by its samples alone.
struct Recognised {
    Guess what = Guess::picture;
    Green green = Green::none; // of a normal map: the convention under which its curl is smaller
    float low = 0, high = 1;   // of all samples but alpha, as stored
};

/// Normals: three channels, nearly all unit vectors that lean towards the viewer. Their green is told from
/// the curl: the slopes of a real height field have none (∂p/∂y = ∂q/∂x).
/// Height: grey in 16 bits or floats.
Recognised recognise(const Picture& picture);

} // namespace bathylux
