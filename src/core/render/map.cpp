#include "core/render/map.h"

#include "core/field/parallel.h"
#include "core/relief/tones.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// Height where the element is, its ground where it fades.
Field weighted_height(const Bundle& b) {
    if (b.weight.is_constant() && b.weight.constant() == 1) return b.height;
    const int w = b.region.width();
    Plane out(w, b.region.height());
    const Rows h(b.height, w), k(b.weight, w);
    parallel_rows(0, b.region.height(), [&](int y) {
        for (int x = 0; x < w; ++x) out(x, y) = h(y)[x] * k(y)[x];
    });
    return Field(std::move(out));
}

} // namespace

Field map_values(const Bundle& b, const MapRef& ref, std::pair<float, float> range, Region region,
                 float per_px) {
    Field raw = 0.0f;
    if (!b.region.empty()) switch (ref.of) {
        case MapOf::alpha: raw = b.coverage; break;
        case MapOf::tone: raw = Field(tone_plane(b, Channel::luma)); break;
        case MapOf::red: raw = Field(tone_plane(b, Channel::red)); break;
        case MapOf::green: raw = Field(tone_plane(b, Channel::green)); break;
        case MapOf::blue: raw = Field(tone_plane(b, Channel::blue)); break;
        case MapOf::height: raw = b.gives_height ? weighted_height(b) : Field(0.0f); break;
        case MapOf::slope:
            if (b.gives_height) raw = Field(steepness(weighted_height(b), b.region, b.region, per_px));
            break;
        }
    const bool tonal = ref.of != MapOf::alpha && ref.of != MapOf::height && ref.of != MapOf::slope;
    if (tonal && !(b.coverage.is_constant() && b.coverage.constant() == 1) && !b.region.empty()) {
        // Half there is half as bright: black lies beneath a map.
        Plane& plane = raw.writable(b.region.width(), b.region.height());
        const Rows a(b.coverage, b.region.width());
        parallel_rows(0, b.region.height(), [&](int y) {
            for (int x = 0; x < b.region.width(); ++x) plane(x, y) *= a(y)[x];
        });
    }
    Field out = extended_with_nothing(raw, b.region, region);
    Plane& plane = out.writable(region.width(), region.height());
    const float base = ref.of == MapOf::height ? range.first : 0,
                span = ref.of == MapOf::height ? std::max(1e-6f, range.second - range.first) : 1;
    const float window = std::abs(ref.high - ref.low) < 1e-6f ? 1e-6f : ref.high - ref.low;
    parallel_rows(0, region.height(), [&](int y) {
        float* v = plane.row(y);
        for (int x = 0; x < region.width(); ++x) {
            const float t = std::clamp(((v[x] - base) / span - ref.low) / window, 0.0f, 1.0f);
            v[x] = ref.sink ? 1 - t : t;
        }
    });
    return out;
}

std::pair<float, float> height_range_of(const Bundle& b, Region canvas) {
    if (b.region.empty() || !b.gives_height) return {0, 0};
    const Field h = weighted_height(b);
    std::pair<float, float> out{1e30f, -1e30f};
    if (!b.region.contains(canvas)) out = {0, 0};
    const Rows rows(h, b.region.width());
    for (int y = 0; y < b.region.height(); ++y) {
        const auto [low, high] = std::minmax_element(rows(y), rows(y) + b.region.width());
        out = {std::min(out.first, *low), std::max(out.second, *high)};
    }
    return out;
}

Bundle mixed(const Bundle& before, Bundle after, const Field& amount) {
    const int w = after.region.width(), h = after.region.height();
    const Rows k(amount, w);
    const auto mix = [&](const Field& a, Field& b) {
        if (a.is_constant() && b.is_constant() && a.constant() == b.constant()) return;
        const Rows from(a, w);
        Plane& plane = b.writable(w, h);
        parallel_rows(0, h, [&](int y) {
            float* v = plane.row(y);
            const float *f = from(y), *t = k(y);
            for (int x = 0; x < w; ++x) v[x] = f[x] + t[x] * (v[x] - f[x]);
        });
    };
    // Height counts by its weight, as it does where elements join: half of what was not there adds half.
    Bundle was = before;
    if (after.gives_height) give_height(was);
    mix(was.height, after.height);
    mix(was.weight, after.weight);
    for (int c = 0; c < 3; ++c) mix(before.color[c], after.color[c]);
    mix(before.coverage, after.coverage);
    // A step may leave a tone of its own for those that follow.
    const bool toned =
        after.tone && !(before.tone && !before.tone->is_constant() && !after.tone->is_constant() &&
                        &before.tone->plane() == &after.tone->plane());
    if (toned) mix(Field(tone_plane(before, Channel::luma)), *after.tone);
    if (!(before.coverage_hash == after.coverage_hash)) after.silhouette.reset();
    return after;
}

} // namespace bathylux
