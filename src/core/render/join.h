#pragma once

#include "core/piece/piece.h"
#include "core/step/bundle.h"

namespace bathylux {

/// Lays `own` (with its mixing) over `below`, in place; the region of `own` lies within that of `below`.
///
/// Every quantity is mixed as W3C Compositing mixes colour, each with a weight of its own:
/// W = w + w_b − w w_b and W h = w (w_b op(h_b, h) + (1 − w_b) op(0, h)) + (1 − w) w_b h_b. On the canvas,
/// where w_b is 1, that is h = lerp(h_b, op(h_b, h), w).
///
/// `within`, over own.region, is the coverage of what `own` has been limited to, as a clipped element is. It
/// lies in the same share m of a px as what it is laid over, the larger of `within` and w_b, and all weights
/// are counted in that, so that an edge is covered once: W = w + w_b − w w_b ÷ m.
///
/// Only what is wanted is joined, and the coverage.
void join(Bundle& below, const Bundle& own, const Mix& mix, Channels wanted = channel::all,
          const Field& within = 1.0f);

} // namespace bathylux
