#pragma once
#include "core/render/evaluate.h"

namespace bathylux {

/// Where something that was at a place has come to under a drift (see Streams): p with p − drift(p) = from,
/// by Newton's method, its slopes by differences over `near` px.
Vec2 carried_by(const std::function<Vec2(Vec2)>& drift, Vec2 from, double near = 1);

/// How far the steps of an element that bend have moved what is seen: a small field over the canvas.
struct Streams {
    double scale = 1; // px of the field per canvas px
    Plane x, y;       // canvas px; what is seen at a px was moved by so much
    double longest = 0;

    /// At a place of the canvas; held past its rim.
    Vec2 at(Vec2 canvas) const;
    Vec2 carried(Vec2 from) const; // see carried_by
};

/// Of one step, or with "" of all those that bend and are on; none where nothing bends. Throws Error where
/// they cannot be done.
std::optional<Streams> streams_of(Evaluator& evaluator, const Scene& scene, std::string_view element,
                                  std::string_view step, double scale);

/// Names what they would be: another name, other streams. Throws like them.
std::uint64_t streams_name(const Scene& scene, std::string_view element, std::string_view step, double scale);

} // namespace bathylux
