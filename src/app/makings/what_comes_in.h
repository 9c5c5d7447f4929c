#pragma once
#include <utility>
#include <vector>

#include "core/colour/ramp.h"
#include "core/relief/tones.h"
#include "core/render/scene.h"

namespace bathylux {

// What comes to a step of an element, or of the finish (whose steps work on the lit picture), read off a
// small picture of it. `owner`: the element's id, or finish_id. Where it cannot be had, there is nothing of
// it.

/// How often each of 128 tones occurs, of all colours or of one.
std::vector<int> tones_before(const Scene& scene, const std::string& owner, int step, Channel channel);
/// The least and the most of what a ramp goes by, but for a two-hundredth at either end; equal where nothing
/// is known.
std::pair<double, double> ramp_range_before(const Scene& scene, const std::string& owner, int step,
                                            RampOf of);
/// Names what comes in (−1: what comes out of the last step): another name, another histogram. 0 where it
/// cannot be had.
std::uint64_t name_before(const Scene& scene, const std::string& owner, int step);

} // namespace bathylux
