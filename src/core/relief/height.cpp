#include "core/relief/height.h"

#include "core/piece/step_kind.h"

namespace bathylux {

Bundle cropped(const Bundle& bundle, Region region) {
    if (bundle.region == region) return bundle;
    Bundle out = bundle;
    out.region = region;
    for (Field& c : out.color) c = cropped(c, bundle.region, region);
    for (Field* f : {&out.coverage, &out.height, &out.weight, &out.surface_weight})
        *f = cropped(*f, bundle.region, region);
    for (Field* f : out.surface()) *f = cropped(*f, bundle.region, region);
    if (out.tone) *out.tone = cropped(*out.tone, bundle.region, region);
    return out;
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
