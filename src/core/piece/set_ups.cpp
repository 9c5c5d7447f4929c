#include "core/piece/set_ups.h"

#include <cmath>

#include "core/bend/displace.h"
#include "core/bend/perspective.h"
#include "core/colour/blur.h"
#include "core/colour/fill.h"
#include "core/colour/gain.h"
#include "core/colour/liven.h"
#include "core/error.h"
#include "core/make/gradient_source.h"
#include "core/make/noise.h"
#include "core/make/shapes.h"
#include "core/piece/group.h"
#include "core/piece/twin.h"
#include "core/relief/curve.h"
#include "core/relief/raise.h"
#include "core/relief/shape_steps.h"
#include "core/relief/tones.h"

namespace bathylux {

namespace {

const Element& there(const Piece& piece, std::string_view id) {
    const Element* e = find_element(piece.elements, id);
    if (!e) throw Error("There is no element " + in_quotes(id) + ".");
    return *e;
}
std::string spoken_name(const Element& e) { return e.name.empty() ? e.id : e.name; }

template <class T> Step step(T value) { return {.what = Described(step_kind(T::id), std::move(value))}; }

Element twin_of(const Piece& piece, const Element& e, const std::string& name) {
    Element out;
    out.id = free_id(piece, name), out.name = name;
    out.source = Described(source_kind("twin"), TwinSource{e.id});
    out.placement = e.placement;
    out.mix.height = e.mix.height;
    return out;
}

/// In the same list, behind or in front of it.
std::string put(Piece& piece, Element made, std::string_view beside, bool behind) {
    const std::string id = add_element(piece, std::move(made), beside);
    if (!behind) return id;
    const Elements& list = *find_siblings(piece, beside);
    int index = 0;
    for (const Element& e : list) {
        if (e.id == beside) break;
        index += e.id != id;
    }
    move(piece, {id}, group_of(piece, beside), index);
    return id;
}

/// A mask that fades from white to black over a box, downwards; out of sight.
Element fading(const Piece& piece, const std::string& name, const Box& box) {
    Element out;
    out.id = free_id(piece, name), out.name = name;
    GradientSource g;
    g.angle = 270;
    g.width = static_cast<float>(2 * box.width() + 200), g.height = static_cast<float>(box.height());
    g.stops = {{0, rgb(200, 200, 200)}, {0.45f, rgb(90, 90, 90)}, {1, rgb(0, 0, 0)}};
    out.source = Described(source_kind("gradient"), g);
    out.placement.x = static_cast<float>(box.centre().x),
    out.placement.y = static_cast<float>(box.centre().y);
    out.mix.visible = false;
    return out;
}

/// A twin upside down below the line y, in a group of the canvas that is lit by itself.
Element mirrored(const Piece& piece, const Element& e, const std::string& name, double y) {
    Element twin = twin_of(piece, e, spoken_name(e) + " upside down");
    twin.placement.y = static_cast<float>(2 * y - twin.placement.y);
    twin.placement.turn = -twin.placement.turn;
    twin.placement.scale_v = -twin.placement.scale_v;
    Element group;
    group.id = free_id(piece, name), group.name = name;
    group.source = Described(source_kind("group"), GroupSource{true});
    group.placement.x = piece.canvas.width / 2, group.placement.y = piece.canvas.height / 2;
    group.elements.emplace_back(std::move(twin));
    return group;
}

} // namespace

std::string reflect_on_floor(Piece& piece, std::string_view id, const Box& box) {
    const Element e = there(piece, id);
    const Box below{box.x0, box.y1, box.x1, box.y1 + box.height()};
    const std::string fade = put(piece, fading(piece, "Fades on the floor", below), id, true);
    Element group = mirrored(piece, e, "Reflection of " + spoken_name(e), box.y1);
    group.mix.mask = MapRef{fade, MapOf::tone};
    Blur blur;
    blur.radius = 0, blur.radius_to = std::max(1.0f, std::round(static_cast<float>(box.height()) * 0.05f));
    add_step(group, step(blur));
    add_step(group, step(Gain{-0.6f}));
    return put(piece, std::move(group), id, true);
}

std::string mirror_in_water(Piece& piece, std::string_view id, const Box& box) {
    const Element e = there(piece, id);
    const auto w = static_cast<float>(box.width()), h = static_cast<float>(box.height());
    // Ripples: long ones across, closer towards the line, as they lie away from the eye.
    Element ripples;
    ripples.id = free_id(piece, "ripples"), ripples.name = "Ripples";
    NoiseSource noise;
    noise.size_u = std::max(8.0f, std::round(w * 0.16f)),
    noise.size_v = std::max(3.0f, std::round(h * 0.05f));
    noise.octaves = 3, noise.seed = 7;
    ripples.source = Described(source_kind("noise"), noise);
    ripples.placement.x = static_cast<float>(box.centre().x),
    ripples.placement.y = static_cast<float>(box.y1 + h / 2);
    ripples.mix.visible = false;
    Tones tones;
    tones.rise = std::max(2.0f, h * 0.03f);
    add_step(ripples, step(tones));
    Perspective away;
    away.edge = Edge::mirrored_repeat;
    away.tl_x = piece.canvas.width * 0.3f, away.tr_x = -away.tl_x;
    away.tl_y = away.tr_y =
        std::round(static_cast<float>(std::clamp(box.y1, 0.0, piece.canvas.height * 0.9)));
    add_step(ripples, step(away));
    const std::string by = put(piece, std::move(ripples), id, true);

    Element group = mirrored(piece, e, spoken_name(e) + " in the water", box.y1);
    Blur drawn;
    drawn.radius = 0.5f, drawn.length = std::max(2.0f, std::round(h * 0.04f)), drawn.angle = 90;
    add_step(group, step(drawn));
    Displace bend;
    bend.by = MapRef{by, MapOf::slopes};
    bend.across = std::round(w * 0.02f), bend.down = std::round(h * 0.25f), bend.edge = Edge::clamp;
    add_step(group, step(bend));
    add_step(group, step(Gain{-0.9f}));
    add_step(group, step(Liven{0.3f}));
    const std::string water = put(piece, std::move(group), id, true);

    Element line;
    line.id = free_id(piece, "water line"), line.name = "Water line";
    RectangleSource strip;
    strip.width = w, strip.height = std::max(2.0f, std::round(h * 0.012f)), strip.color = rgb(10, 18, 22);
    line.source = Described(source_kind("rectangle"), strip);
    line.placement.x = static_cast<float>(box.centre().x), line.placement.y = static_cast<float>(box.y1);
    line.mix.opacity = 0.75f;
    Blur soft;
    soft.radius = 1.5f;
    add_step(line, step(soft));
    put(piece, std::move(line), id, false);
    return water;
}

std::string roughen(Piece& piece, std::string_view id, const Roughening& how) {
    const Element e = there(piece, id);
    Element grain;
    grain.id = free_id(piece, "roughness"), grain.name = "Roughness of " + spoken_name(e);
    NoiseSource noise;
    noise.size_u = noise.size_v = how.size, noise.octaves = 5, noise.gains = {1, 0.7, 0.5, 0.35, 0.25};
    grain.source = Described(source_kind("noise"), noise);
    grain.placement.x = piece.canvas.width / 2, grain.placement.y = piece.canvas.height / 2;
    grain.mix.visible = false;
    if (how.edges > 0) {
        // Only within a band along the edge: seen through the band of a twin.
        Element band = twin_of(piece, e, "Edge of " + spoken_name(e));
        Border border;
        border.width = how.edges, border.side = BorderSide::inside;
        add_step(band, step(border));
        band.mix.visible = false;
        band.id = put(piece, std::move(band), id, true);
        // It would read itself otherwise: the band follows the shape before the roughening, by its source.
        change(piece, band.id, [&](Element& b) { b.source = e.source, b.source_rest = e.source_rest; });
        grain.mix.mask = MapRef{band.id, MapOf::alpha};
    }
    const std::string by = put(piece, std::move(grain), id, true);
    Step rough = how.multiplied ? step(HeightCurve{0, 0}) : step(Raise{how.rise});
    rough.map = MapRef{by, MapOf::tone, 0.25f, 0.75f};
    if (how.multiplied) rough.share = std::clamp(how.rise, 0.0f, 1.0f);
    change(piece, id, [&](Element& changed) { add_step(changed, rough); });
    return std::string(id);
}

namespace {

std::string band_of(Piece& piece, std::string_view id, const char* what, float width, BorderSide side,
                    const Color& color) {
    const Element e = there(piece, id);
    Element band = twin_of(piece, e, std::string(what) + " of " + spoken_name(e));
    Border border;
    border.width = width, border.side = side;
    add_step(band, step(border));
    add_step(band, step(HeightCurve{0, 0}));
    Fill fill;
    fill.color = color;
    add_step(band, step(fill));
    return put(piece, std::move(band), id, false);
}

} // namespace

std::string outline_of(Piece& piece, std::string_view id, float width) {
    return band_of(piece, id, "Outline", width, BorderSide::outside, rgb(11, 20, 26));
}
std::string inner_edge_of(Piece& piece, std::string_view id, float width) {
    return band_of(piece, id, "Inner edge", width, BorderSide::inside, rgb(244, 238, 222));
}
std::string shadow_band_of(Piece& piece, std::string_view id, float width) {
    const Element e = there(piece, id);
    Element band = twin_of(piece, e, "Shadow band of " + spoken_name(e));
    band.placement.x += width, band.placement.y += width;
    add_step(band, step(HeightCurve{0, 0}));
    Fill fill;
    fill.color = rgb(8, 12, 16);
    add_step(band, step(fill));
    Blur blur;
    blur.radius = width / 2;
    add_step(band, step(blur));
    band.mix.blend = BlendMode::multiply, band.mix.opacity = 0.6f;
    return put(piece, std::move(band), id, true);
}

} // namespace bathylux
