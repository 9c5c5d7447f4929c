#include "core/render/map.h"

#include "core/field/parallel.h"
#include "core/field/renew.h"
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

Field raw_values(const Bundle& b, MapOf of, float per_px) {
    switch (of) {
    case MapOf::alpha: return b.coverage;
    case MapOf::worn: return b.worn;
    case MapOf::tone: return Field(tone_plane(b, Channel::luma));
    case MapOf::red: return Field(tone_plane(b, Channel::red));
    case MapOf::green: return Field(tone_plane(b, Channel::green));
    case MapOf::blue: return Field(tone_plane(b, Channel::blue));
    case MapOf::height: return b.gives_height ? weighted_height(b) : Field(0.0f);
    case MapOf::slope:
    case MapOf::slopes:
        return b.gives_height ? Field(steepness(weighted_height(b), b.region, b.region, per_px))
                              : Field(0.0f);
    case MapOf::red_green: {
        Plane mean = tone_plane(b, Channel::red);
        const Plane green = tone_plane(b, Channel::green);
        parallel_rows(0, mean.height(), [&](int y) {
            for (int x = 0; x < mean.width(); ++x) mean(x, y) = (mean(x, y) + green(x, y)) / 2;
        });
        return Field(std::move(mean));
    }
    }
    return 0.0f;
}

/// The tone window of a map, over a region; `range`: what heights count from, and to.
void take_window(Field& field, Region region, const MapRef& ref, std::pair<float, float> range) {
    // Level ground is at the foot of its range.
    const bool stretched = ref.of == MapOf::height && range.second > range.first;
    const float base = ref.of == MapOf::height ? range.first : 0,
                span = stretched ? range.second - range.first : 1;
    const float window = std::abs(ref.high - ref.low) < 1e-6f ? 1e-6f : ref.high - ref.low;
    renew(field, region.width(), region.height(), [&](int, const float* from, float* to) {
        for (int x = 0; x < region.width(); ++x) {
            const float t = std::clamp(((from[x] - base) / span - ref.low) / window, 0.0f, 1.0f);
            to[x] = ref.sink ? 1 - t : t;
        }
    });
}

/// How a height rises to the right and downwards, canvas px per px, by central differences.
std::pair<Field, Field> slopes_of(const Bundle& b, float per_px) {
    if (!b.gives_height) return {0.0f, 0.0f};
    const Field height = weighted_height(b);
    const int w = b.region.width(), h = b.region.height();
    Plane across(w, h), down(w, h);
    const Rows rows(height, w);
    parallel_rows(0, h, [&](int y) {
        const float *above = rows(std::max(0, y - 1)), *row = rows(y), *below = rows(std::min(h - 1, y + 1));
        for (int x = 0; x < w; ++x) {
            across(x, y) = 0.5f * per_px * (row[std::min(w - 1, x + 1)] - row[std::max(0, x - 1)]);
            down(x, y) = 0.5f * per_px * (below[x] - above[x]);
        }
    });
    return {Field(std::move(across)), Field(std::move(down))};
}

} // namespace

Field map_values(const Bundle& b, const MapRef& ref, std::pair<float, float> range, Region region,
                 float per_px) {
    Field raw = b.region.empty() ? Field(0.0f) : raw_values(b, ref.of, per_px);
    const bool tonal = (ref.of >= MapOf::tone && ref.of <= MapOf::blue) || ref.of == MapOf::red_green;
    if (tonal && !(b.coverage.is_constant() && b.coverage.constant() == 1) && !b.region.empty()) {
        // Half there is half as bright: black lies beneath a map.
        const Rows a(b.coverage, b.region.width());
        renew(raw, b.region.width(), b.region.height(), [&](int y, const float* from, float* to) {
            for (int x = 0; x < b.region.width(); ++x) to[x] = from[x] * a(y)[x];
        });
    }
    raw = extended_with_nothing(raw, b.region, region);
    take_window(raw, region, ref, range);
    return raw;
}

MapField map_numbers(const Bundle& b, const MapRef& ref, std::pair<float, float> range, Region region,
                     float per_px) {
    MapField out{region};
    if (b.region.empty()) return out;
    const auto over = [&](const Field& f) { return extended_with_nothing(f, b.region, region); };
    if (ref.of == MapOf::slopes) {
        const auto [across, down] = slopes_of(b, per_px);
        out.x = over(across), out.y = over(down), out.cover = 1.0f;
        return out;
    }
    const auto windowed = [&](const Field& raw) {
        Field f = over(raw);
        take_window(f, region, ref, range);
        return f;
    };
    out.cover = over(b.coverage);
    if (ref.of == MapOf::red_green) {
        out.x = windowed(Field(tone_plane(b, Channel::red)));
        out.y = windowed(Field(tone_plane(b, Channel::green)));
    } else {
        // Where it is half there, half of it counts already.
        const Field whole = ref.of == MapOf::alpha ? Field(1.0f) : raw_values(b, ref.of, per_px);
        out.x = out.y = windowed(whole);
        if (ref.of == MapOf::worn) out.cover = 1.0f;
    }
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
        if (same(a, b)) return;
        const Rows from(a, w);
        renew(b, w, h, [&](int y, const float* v, float* to) {
            const float *f = from(y), *t = k(y);
            for (int x = 0; x < w; ++x) to[x] = f[x] + t[x] * (v[x] - f[x]);
        });
    };
    // Height counts by its weight, as it does where elements join: half of what was not there adds half.
    const bool raised = after.gives_height && !before.gives_height;
    mix(raised ? Field(0.0f) : before.height, after.height);
    mix(raised ? before.coverage : before.weight, after.weight);
    for (int c = 0; c < 3; ++c) mix(before.color[c], after.color[c]);
    mix(before.coverage, after.coverage);
    mix(before.worn, after.worn);
    // A step may leave a tone of its own for those that follow.
    if (after.tone && !(before.tone && same(*before.tone, *after.tone)))
        mix(Field(tone_plane(before, Channel::luma)), *after.tone);
    if (!(before.coverage_hash == after.coverage_hash)) after.silhouette.reset();
    return after;
}

} // namespace bathylux
