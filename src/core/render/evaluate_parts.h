#pragma once
// What the two halves of the evaluator share; not for others. See evaluate.h.
#include "core/field/hash.h"
#include "core/render/evaluate.h"

namespace bathylux {

/// The circumstances of one evaluation.
struct Evaluator::Frame {
    const Scene& scene;
    Region canvas;
    double scale;
    std::stop_token stop;

    const Asset* asset(const Element& e) const {
        const auto found = scene.assets->find(e.id);
        return found == scene.assets->end() ? nullptr : found->second.get();
    }
};

template <class T> std::shared_ptr<const T> Evaluator::find(std::uint64_t key) {
    const std::lock_guard lock(mutex_);
    const auto found = index_.find(key);
    if (found == index_.end()) return nullptr;
    used_.splice(used_.begin(), used_, found->second);
    return std::static_pointer_cast<const T>(found->second->what);
}

/// Flattened pieces stray this far, in device px, from their curves; distances are refined beyond it.
constexpr double flat_enough = 0.02;

/// Names all that an element is made from: its parameters, files, strokes, frame and the maps it reads.
std::uint64_t element_hash(const Scene& scene, const Element& element);

inline Hash& operator<<(Hash& h, Region r) { return h << r.x0 << r.y0 << r.x1 << r.y1; }
inline Hash& operator<<(Hash& h, const Affine& m) { return h << m.a << m.b << m.c << m.d << m.e << m.f; }

} // namespace bathylux
