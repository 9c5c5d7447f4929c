#pragma once
#include <functional>
#include <string>

#include "core/piece/codec.h"
#include "core/piece/json.h"
#include "core/piece/kinds.h"
#include "core/render/evaluate.h"
#include "core/render/views.h"
#include "core/solid/triangle_mesh.h"

namespace bathylux {

/// A scene out of the JSON of a piece that needs no files.
Scene scene_of(const std::string& json);
/// The JSON of a piece of w × h px whose elements are given as JSON.
std::string piece_json(int w, int h, const std::string& elements, const std::string& more = "");
/// Elements for a canvas of 340 × 220 px in which a good deal happens: a group, turned, scaled, softened.
std::string busy_elements();
/// Height of the whole canvas.
Plane height_of(const Scene& scene, double scale = 1);
Bundle relief_of(const Scene& scene, double scale = 1);
/// Largest difference between two planes of one size.
double worst_difference(const Plane& a, const Plane& b);
/// The sentence of the Error that `f` throws; "" when it throws none.
std::string trouble_of(const std::function<void()>& f);
/// A picture of floats made from a function of pixel centres.
std::shared_ptr<const Picture> picture_of(int w, int h, const std::function<float(double, double)>& value);

/// Letters of a kind, a picture with a soft hole in it, strokes: what files would give a source.
std::shared_ptr<const Asset> asset_for(const SourceKind& kind);

/// Values for a parameter of a thing, most of them not its own; such as it can be made with.
std::vector<Value> other_values(const Described& what, const Parameter& p);
std::vector<Value> other_values(const Parameter& p);

/// What has to be true of the boundary of a body: every edge is passed once each way.
struct Boundary {
    int open = 0;
    double volume = 0;
};
Boundary boundary_of(const TriangleMesh& mesh);

} // namespace bathylux
