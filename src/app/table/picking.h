#pragma once
#include <QPointF>
#include <cmath>
#include <string>
#include <vector>

#include "core/render/evaluate.h"

namespace bathylux {

/// How far apart two points on the screen are, px.
inline double distance(QPointF a, QPointF b) { return std::hypot(a.x() - b.x(), a.y() - b.y()); }

/// The elements that can be taken hold of at a place of the canvas, front first: those that cover it, right
/// on the canvas or, with `group`, right in that group. What is switched off or locked cannot; what fills the
/// canvas comes after all others, or nothing else could be got at.
std::vector<std::string> elements_at(Evaluator& evaluator, const Scene& scene, Vec2 canvas,
                                     const std::string& group);

/// Those that lie within a frame of the canvas with all they cover, likewise.
std::vector<std::string> elements_within(const Scene& scene, const Box& frame, const std::string& group);

} // namespace bathylux
