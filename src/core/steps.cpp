#include "core/steps.h"

#include "core/colour/fill.h"
#include "core/colour/knock_out.h"
#include "core/relief/bands.h"
#include "core/relief/bevel.h"
#include "core/relief/by_hand.h"
#include "core/relief/curve.h"
#include "core/relief/deterrace.h"
#include "core/relief/even_light.h"
#include "core/relief/keep_edges.h"
#include "core/relief/median_step.h"
#include "core/relief/meet_edges.h"
#include "core/relief/raise.h"
#include "core/relief/sharpen.h"
#include "core/relief/soften.h"
#include "core/relief/terrace.h"
#include "core/relief/tones.h"
#include "core/shape/shape_steps.h"

namespace bathylux {

namespace {
constexpr StepKind kinds[] = {
    describe_step<Bevel>(),       describe_step<Tones>(),     describe_step<EvenLight>(),
    describe_step<Raise>(),       describe_step<Soften>(),    describe_step<KeepEdges>(),
    describe_step<Median>(),      describe_step<Sharpen>(),   describe_step<Bands>(),
    describe_step<Deterrace>(),   describe_step<Terrace>(),   describe_step<TotalRise>(),
    describe_step<HeightCurve>(), describe_step<MeetEdges>(), describe_step<ByHand>(),
    describe_step<Inset>(),       describe_step<Border>(),    describe_step<RoundCorners>(),
    describe_step<KnockOut>(),    describe_step<Fill>(),
};
} // namespace

std::span<const StepKind> step_kinds() { return kinds; }

const StepKind* find_step_kind(std::string_view id) {
    for (const StepKind& k : kinds)
        if (k.id == id) return &k;
    return nullptr;
}

} // namespace bathylux
