#pragma once
#include "core/render/scene.h"

namespace bathylux {

/// How many frames a piece has: as it says, or of its sprites; 1 where nothing moves.
int frames_of(const Piece& piece, const Assets* assets);
/// Whether anything of it runs: keys, links, clips, sprites, or a time of its own.
bool runs(const Piece& piece, const Assets* assets);

} // namespace bathylux
