#include "core/step/height.h"

#include <cmath>
#include <numbers>

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/renew.h"
#include "core/step/step_kind.h"

namespace bathylux {

Bundle cropped(const Bundle& bundle, Region region) {
    if (bundle.region == region) return bundle;
    Bundle out = bundle;
    out.region = region;
    for (Field& c : out.color) c = cropped(c, bundle.region, region);
    for (Field* f : {&out.coverage, &out.height, &out.weight, &out.surface_weight, &out.worn})
        *f = cropped(*f, bundle.region, region);
    for (Field* f : out.surface()) *f = cropped(*f, bundle.region, region);
    if (out.tone) *out.tone = cropped(*out.tone, bundle.region, region);
    return out;
}

Field extended_with_nothing(const Field& field, Region have, Region wanted) {
    if (have == wanted) return field;
    Plane out(wanted.width(), wanted.height(), 0.0f);
    const Region both = intersect(have, wanted);
    if (both.empty()) return Field(std::move(out));
    const Rows rows(field, have.width());
    for (int y = both.y0; y < both.y1; ++y)
        std::copy_n(rows(y - have.y0) + (both.x0 - have.x0), both.width(),
                    out.row(y - wanted.y0) + (both.x0 - wanted.x0));
    return Field(std::move(out));
}

Bundle extended_with_nothing(const Bundle& bundle, Region region) {
    if (bundle.region == region) return bundle;
    if (bundle.region.contains(region)) return cropped(bundle, region);
    Bundle out = bundle;
    const auto extend = [&](Field& f) {
        if (!(f.is_constant() && f.constant() == 0)) f = extended_with_nothing(f, bundle.region, region);
    };
    out.region = region;
    for (Field& f : out.color) extend(f);
    for (Field* f : {&out.coverage, &out.height, &out.weight, &out.surface_weight, &out.worn}) extend(*f);
    for (Field* f : out.surface())
        if (!f->is_constant()) extend(*f);
    if (out.tone) extend(*out.tone);
    Hash h;
    h << bundle.coverage_hash << region.x0 << region.y0 << region.x1 << region.y1;
    out.coverage_hash = h.value();
    return out;
}

Plane steepness(const Field& height, Region have, Region wanted, float per_px) {
    Plane out(wanted.width(), wanted.height());
    const int w = have.width(), h = have.height();
    const Rows rows(height, w);
    parallel_rows(0, wanted.height(), [&](int y) {
        const int j = y + wanted.y0 - have.y0;
        const float *above = rows(std::max(0, j - 1)), *row = rows(j), *below = rows(std::min(h - 1, j + 1));
        float* to = out.row(y);
        for (int x = 0; x < wanted.width(); ++x) {
            const int i = x + wanted.x0 - have.x0;
            const float gx = row[std::min(w - 1, i + 1)] - row[std::max(0, i - 1)], gy = below[i] - above[i];
            to[x] = std::atan(0.5f * per_px * std::sqrt(gx * gx + gy * gy)) * (2 / std::numbers::pi_v<float>);
        }
    });
    return out;
}

void limit(Bundle& b, const Field& mask) {
    if (mask.is_constant() && mask.constant() == 1) return;
    const int w = b.region.width(), h = b.region.height();
    const Rows m(mask, w);
    std::vector<Field*> fields{&b.color[0], &b.color[1], &b.color[2],
                               &b.coverage, &b.weight,   &b.surface_weight};
    for (Field* f : fields) {
        if (f->is_constant() && f->constant() == 0) continue;
        renew(*f, w, h, [&](int y, const float* from, float* to) {
            const float* k = m(y);
            for (int x = 0; x < w; ++x) to[x] = from[x] * k[x];
        });
    }
}

std::pair<float, float> range_beyond_rounding(std::pair<float, float> range) {
    const auto [low, high] = range;
    return high - low > 1e-5f * std::max(std::abs(low), std::abs(high)) ? range : std::pair{low, low};
}

Plane& give_height(Bundle& bundle) {
    if (!bundle.gives_height) {
        bundle.gives_height = true;
        bundle.height = Field(0.0f);
        bundle.weight = bundle.coverage;
    }
    return bundle.height.writable(bundle.region.width(), bundle.region.height());
}

std::string said(double number) {
    const double rounded = std::round(number * 100) / 100;
    std::string text = std::to_string(rounded);
    text.erase(text.find_last_not_of('0') + 1);
    if (text.back() == '.') text.pop_back();
    return text == "-0" ? "0" : text;
}

} // namespace bathylux
