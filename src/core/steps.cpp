#include "core/steps.h"

#include "core/colour/fill.h"
#include "core/relief/bands.h"
#include "core/relief/bevel.h"
#include "core/relief/curve.h"
#include "core/relief/raise.h"
#include "core/relief/sharpen.h"
#include "core/relief/soften.h"
#include "core/relief/tones.h"

namespace bathylux {

namespace {
constexpr StepKind kinds[] = {
    describe_step<Bevel>(),   describe_step<Tones>(), describe_step<Raise>(),       describe_step<Soften>(),
    describe_step<Sharpen>(), describe_step<Bands>(), describe_step<HeightCurve>(), describe_step<Fill>(),
};
} // namespace

std::span<const StepKind> step_kinds() { return kinds; }

const StepKind* find_step_kind(std::string_view id) {
    for (const StepKind& k : kinds)
        if (k.id == id) return &k;
    return nullptr;
}

} // namespace bathylux
