#pragma once
#include <array>
#include <cmath>

/// Vectors in double, for what is checked against a formula.
using V3 = std::array<double, 3>;
inline double dot3(V3 a, V3 b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
inline V3 unit(V3 a) {
    const double k = 1 / std::sqrt(dot3(a, a));
    return {a[0] * k, a[1] * k, a[2] * k};
}
