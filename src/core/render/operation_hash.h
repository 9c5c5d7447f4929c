#pragma once
#include <cmath>

#include "core/field/hash.h"
#include "core/render/operation.h"
#include "core/render/scene.h"

namespace bathylux {

inline Hash& operator<<(Hash& h, Region r) { return h << r.x0 << r.y0 << r.x1 << r.y1; }
inline Hash& operator<<(Hash& h, const Affine& m) { return h << m.a << m.b << m.c << m.d << m.e << m.f; }
inline Hash& operator<<(Hash& h, const Placed& p) { return h << p.to_device << p.length << p.rise << p.stands; }

/// A region grown by whole px, kept to what can be counted.
inline Region grown(Region r, double by) {
    if (r.empty()) return r;
    if (!(by < 1 << 23)) return everywhere;
    return intersect(grow(r, static_cast<int>(std::ceil(by))), everywhere);
}

} // namespace bathylux
