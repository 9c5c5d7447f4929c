#include "core/field/distance_transform.h"

#include <cmath>
#include <vector>

#include "core/field/parallel.h"

namespace bathylux {

namespace {

/// The lower envelope of the parabolas f(q) + (p − q)², over a row.
void envelope(const float* f, int n, float* to, std::vector<int>& at, std::vector<float>& from) {
    at.resize(static_cast<std::size_t>(n)), from.resize(static_cast<std::size_t>(n) + 1);
    int k = -1;
    for (int q = 0; q < n; ++q) {
        const float fq = f[q];
        if (!(fq < 1e18f)) continue;
        float s = -1e30f;
        while (k >= 0) {
            const int v = at[static_cast<std::size_t>(k)];
            s = ((fq + static_cast<float>(q) * static_cast<float>(q)) -
                 (f[v] + static_cast<float>(v) * static_cast<float>(v))) /
                (2 * static_cast<float>(q - v));
            if (s > from[static_cast<std::size_t>(k)]) break;
            --k;
            s = -1e30f;
        }
        ++k;
        at[static_cast<std::size_t>(k)] = q;
        from[static_cast<std::size_t>(k)] = k == 0 ? -1e30f : s;
    }
    const int last = k;
    k = 0;
    for (int p = 0; p < n; ++p) {
        if (last < 0) {
            to[p] = 1e20f;
            continue;
        }
        while (k < last && from[static_cast<std::size_t>(k) + 1] < static_cast<float>(p)) ++k;
        const int v = at[static_cast<std::size_t>(k)];
        to[p] = static_cast<float>(p - v) * static_cast<float>(p - v) + f[v];
    }
}

} // namespace

Plane distance_transform(int width, int height, const std::function<void(int y, float* row)>& seeds) {
    Plane across(width, height), out(width, height);
    parallel_blocks(0, height, 16, [&](int begin, int end) {
        std::vector<float> f(static_cast<std::size_t>(width));
        std::vector<int> at;
        std::vector<float> from;
        for (int y = begin; y < end; ++y) {
            seeds(y, f.data());
            envelope(f.data(), width, across.row(y), at, from);
        }
    });
    // A few columns at a time, so that rows are read in stretches.
    constexpr int together = 16;
    parallel_blocks(0, width, together, [&](int x0, int x1) {
        const auto n = static_cast<std::size_t>(height);
        std::vector<float> columns(n * together), made(n);
        std::vector<int> at;
        std::vector<float> from;
        for (int y = 0; y < height; ++y)
            for (int x = x0; x < x1; ++x)
                columns[static_cast<std::size_t>(x - x0) * n + static_cast<std::size_t>(y)] = across(x, y);
        for (int x = x0; x < x1; ++x) {
            float* column = columns.data() + static_cast<std::size_t>(x - x0) * n;
            envelope(column, height, made.data(), at, from);
            std::copy(made.begin(), made.end(), column);
        }
        for (int y = 0; y < height; ++y)
            for (int x = x0; x < x1; ++x)
                out(x, y) =
                    std::sqrt(columns[static_cast<std::size_t>(x - x0) * n + static_cast<std::size_t>(y)]);
    });
    return out;
}

} // namespace bathylux
