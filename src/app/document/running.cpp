#include "app/document/running.h"

#include <algorithm>

#include "core/piece/pose.h"

namespace bathylux {

int frames_of(const Piece& piece, const Assets* assets) {
    if (piece.time) return piece.time->frames;
    int out = moves(piece) ? Timing{}.frames : 1;
    for_each_element(piece.elements, [&](const Element& e) {
        if (e.source.is("clip")) out = std::max(out, Timing{}.frames);
    });
    if (assets)
        for (const auto& [id, asset] : *assets) out = std::max(out, static_cast<int>(asset->frames.size()));
    return out;
}

bool runs(const Piece& piece, const Assets* assets) { return piece.time || frames_of(piece, assets) > 1; }

} // namespace bathylux
