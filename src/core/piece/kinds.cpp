#include "core/piece/kinds.h"

#include "core/bend/displace.h"
#include "core/bend/drips.h"
#include "core/bend/extrude.h"
#include "core/bend/melt.h"
#include "core/bend/perspective.h"
#include "core/bend/pushed.h"
#include "core/bend/trim.h"
#include "core/colour/blur.h"
#include "core/colour/contrast.h"
#include "core/colour/crisp.h"
#include "core/colour/fill.h"
#include "core/colour/gain.h"
#include "core/colour/hue.h"
#include "core/colour/invert.h"
#include "core/colour/knock_out.h"
#include "core/colour/liven.h"
#include "core/colour/ramp.h"
#include "core/colour/tone_curve.h"
#include "core/colour/tone_window.h"
#include "core/colour/wash.h"
#include "core/error.h"
#include "core/finish/gleam.h"
#include "core/finish/grain.h"
#include "core/finish/vignette.h"
#include "core/make/clip_source.h"
#include "core/make/drawing_source.h"
#include "core/make/form.h"
#include "core/make/gradient_source.h"
#include "core/make/noise.h"
#include "core/make/normals_source.h"
#include "core/make/pattern.h"
#include "core/make/picture_source.h"
#include "core/make/shapes.h"
#include "core/make/sprites.h"
#include "core/make/type_source.h"
#include "core/paint/paint_source.h"
#include "core/piece/group.h"
#include "core/piece/twin.h"
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
#include "core/relief/shape_steps.h"
#include "core/relief/sharpen.h"
#include "core/relief/soften.h"
#include "core/relief/terrace.h"
#include "core/relief/tones.h"
#include "core/wear/wear.h"

namespace bathylux {

namespace {

constexpr SourceKind sources[] = {
    describe_source<TypeSource>(),      describe_source<PictureSource>(), describe_source<SvgSource>(),
    describe_source<RectangleSource>(), describe_source<EllipseSource>(), describe_source<FormSource>(),
    describe_source<GradientSource>(),  describe_source<NoiseSource>(),   describe_source<PatternSource>(),
    describe_source<NormalsSource>(),   describe_source<SpritesSource>(), describe_source<ClipSource>(),
    describe_source<PaintSource>(),     describe_source<TwinSource>(),    describe_source<GroupSource>(),
};

// First those that work on elements alone, then those that work on the lit picture too, then those that work
// on nothing else.
constexpr StepKind steps[] = {
    describe_step<Bevel>(),       describe_step<Tones>(),       describe_step<EvenLight>(),
    describe_step<Raise>(),       describe_step<Soften>(),      describe_step<KeepEdges>(),
    describe_step<Median>(),      describe_step<Sharpen>(),     describe_step<Bands>(),
    describe_step<Deterrace>(),   describe_step<Terrace>(),     describe_step<TotalRise>(),
    describe_step<HeightCurve>(), describe_step<MeetEdges>(),   describe_step<ByHand>(),
    describe_step<Inset>(),       describe_step<Border>(),      describe_step<RoundCorners>(),
    describe_step<Wear>(),        describe_step<Displace>(),    describe_step<Pushed>(),
    describe_step<Perspective>(), describe_step<Trim>(),        describe_step<Melt>(),
    describe_step<Drips>(),       describe_step<Extrude>(),     describe_step<KnockOut>(),
    describe_step<Fill>(),        describe_step<Wash>(),        describe_step<Ramp>(),
    describe_step<ToneCurve>(),   describe_step<ColorWindow>(), describe_step<Contrast>(),
    describe_step<Hue>(),         describe_step<Liven>(),       describe_step<Gain>(),
    describe_step<Invert>(),      describe_step<Blur>(),        describe_step<Crisp>(),
    describe_step<Gleam>(),       describe_step<Vignette>(),    describe_step<Grain>(),
};
constexpr std::size_t first_of(std::string_view group) {
    std::size_t i = 0;
    while (steps[i].group != group) ++i;
    return i;
}
constexpr std::span<const StepKind> all_steps{steps};

struct WhereItStands {
    bool stands = false, aimed = false;
};
template <class T>
constexpr LightKind describe_light(LightMark mark, std::string_view wish, std::string_view angle = {},
                                   WhereItStands where = {}) {
    return {describe<T>(), mark, where.stands, where.aimed, angle, wish};
}
constexpr LightKind lights[] = {
    describe_light<DirectionalLight>(LightMark::dot, "light", "angle"),
    describe_light<PointLight>(LightMark::diamond, "lamp", {}, {.stands = true}),
    describe_light<SpotLight>(LightMark::diamond, "spot", {}, {.stands = true, .aimed = true}),
    describe_light<StripLight>(LightMark::bar, "strip", "turn", {.stands = true}),
    describe_light<SkyLight>(LightMark::arch, "sky", "turn"),
};

template <class K> const K* find(std::span<const K> kinds, std::string_view id) {
    for (const K& k : kinds)
        if (k.id == id) return &k;
    return nullptr;
}
template <class K> const K& known(const K* kind, std::string_view id) {
    if (!kind) throw Error(in_quotes(id) + " is not a kind this version knows.");
    return *kind;
}

} // namespace

std::span<const SourceKind> source_kinds() { return sources; }
std::span<const StepKind> step_kinds() { return all_steps.first(first_of("finish")); }
std::span<const StepKind> finish_kinds() { return all_steps.subspan(first_of("colour")); }
std::span<const LightKind> light_kinds() { return lights; }

const SourceKind* find_source_kind(std::string_view id) { return find(source_kinds(), id); }
const StepKind* find_step_kind(std::string_view id) { return find(step_kinds(), id); }
const StepKind* find_finish_kind(std::string_view id) { return find(finish_kinds(), id); }
const LightKind* find_light_kind(std::string_view id) { return find(light_kinds(), id); }

const SourceKind& source_kind(std::string_view id) { return known(find_source_kind(id), id); }
const StepKind& step_kind(std::string_view id) { return known(find(all_steps, id), id); }
const LightKind& light_kind(std::string_view id) { return known(find_light_kind(id), id); }

const SourceKind& source_kind_of(const Described& s) { return static_cast<const SourceKind&>(s.kind()); }
const StepKind& step_kind_of(const Described& s) { return static_cast<const StepKind&>(s.kind()); }
const LightKind& light_kind_of(const Described& l) { return static_cast<const LightKind&>(l.kind()); }

} // namespace bathylux
