#include "core/piece/starts.h"

#include <algorithm>
#include <cmath>

#include "core/make/drawing_source.h"
#include "core/make/form.h"
#include "core/make/noise.h"
#include "core/make/normals_source.h"
#include "core/make/pattern.h"
#include "core/make/picture_source.h"
#include "core/make/recognise.h"
#include "core/make/shapes.h"
#include "core/make/sprites.h"
#include "core/make/type_source.h"
#include "core/piece/codec.h"
#include "core/piece/edit.h"
#include "core/relief/bevel.h"
#include "core/relief/raise.h"
#include "core/relief/soften.h"
#include "core/relief/tones.h"

namespace bathylux {

namespace {

void add(Element& e, std::string_view kind) { add_step(e, {.what = Described(step_kind(kind))}); }
template <class T>
requires requires { T::id; }
void add(Element& e, const T& step) { add_step(e, {.what = Described(step_kind(T::id), step)}); }

float rounded(float v) { return std::round(v); }

} // namespace

Element started(const SourceKind& kind, const Piece& piece) {
    const Canvas& c = piece.canvas;
    const float side = std::min(c.width, c.height);
    const bool tile = c.edge == Edge::repeat;
    Element e;
    e.name = std::string(kind.name);
    e.placement.x = c.width / 2, e.placement.y = c.height / 2;
    e.source = Described(kind);
    // The struct of the kind, changed.
    const auto begin = [&]<class T>(const T&, auto&& change) {
        if (!e.source.as<T>()) return false;
        T value;
        change(value);
        e.source = Described(kind, value);
        return true;
    };
    begin(TypeSource{}, [&](TypeSource& t) {
        e.name = "Words";
        t.size = rounded(side * 0.3f);
        t.color = rgb(230, 191, 107);
        e.surface = Surface{0.34f, 1};
        add(e, Bevel{rounded(t.size * 0.1f), rounded(t.size * 0.07f), Profile::Shape::chamfer});
    });
    begin(RectangleSource{}, [&](RectangleSource& r) {
        r.width = rounded(c.width * 0.7f), r.height = rounded(c.height * 0.7f);
        r.corner = rounded(side * 0.05f);
        add(e, Bevel{rounded(side * 0.03f), rounded(side * 0.015f), Profile::Shape::round});
    });
    begin(EllipseSource{}, [&](EllipseSource& o) {
        o.width = o.height = rounded(side * 0.6f);
        add(e, Bevel{rounded(side * 0.04f), rounded(side * 0.02f), Profile::Shape::round});
    });
    begin(FormSource{}, [&](FormSource& f) {
        e.name = "Dome";
        f.width = f.height = rounded(side * 0.5f), f.rise = rounded(side * 0.08f);
        f.rim = rounded(side * 0.05f);
    });
    begin(NoiseSource{}, [&](NoiseSource& n) { n.size_u = n.size_v = rounded(side * 0.12f), n.tile = tile; });
    begin(PatternSource{}, [&](PatternSource& p) { p.size = rounded(side * 0.06f), p.tile = tile; });
    if (kind.tonal) {
        // It fills the canvas: height alone, or all would be grey.
        e.mix.opacity = 0;
        Tones tones;
        tones.rise = rounded(side * 0.012f);
        add(e, tones);
    }
    e.id = free_id(piece, e.name);
    return e;
}

Light started(const LightKind& kind, const Piece& piece) {
    const Canvas& c = piece.canvas;
    const double side = std::min(c.width, c.height), reach = side * 0.4;
    Light l;
    l.what = Described(kind);
    l.id = free_id(piece, kind.wish);
    l.name = std::string(kind.name);
    int same = 1;
    for (const Light& other : piece.lights) same += &other.kind() == &kind;
    if (same > 1) l.name += " " + std::to_string(same);
    if (!kind.stands) return l;
    l.what = l.what.with("x", std::round(c.width * 0.5)).with("y", std::round(c.height * 0.5));
    l.what = l.what.with("z", std::round(reach * 0.5)).with("distance", std::round(reach));
    if (l.what.as<StripLight>())
        l.what = l.what.with("y", std::round(c.height * 0.4))
                     .with("z", std::round(reach * 0.6))
                     .with("length", std::round(c.width * 0.5))
                     .with("width", std::round(reach * 0.1));
    if (kind.aimed)
        l.what = l.what.with("x", std::round(c.width * 0.5 - side * 0.2))
                     .with("y", std::round(c.height * 0.5 - side * 0.175))
                     .with("z", std::round(side * 0.4))
                     .with("inner_cone", 13.0)
                     .with("outer_cone", 20.0)
                     .with("target_x", std::round(c.width * 0.5))
                     .with("target_y", std::round(c.height * 0.5))
                     .with("distance", std::round(side * 0.5));
    return l;
}

Step started(const StepKind& kind, const Element& element, const Asset* asset) {
    Step s{.what = Described(kind)};
    const Picture* picture = asset ? asset->picture.get() : nullptr;
    if (s.what.is("knock_out") && picture) {
        // The colour of its upper left corner is most likely the ground.
        const int c = picture->channels < 3 ? 0 : 1;
        s.what = s.what.with("color", Color{picture->stored(0, 0, 0), picture->stored(0, 0, c),
                                            picture->stored(0, 0, 2 * c), 1});
    }
    if (s.what.as<Tones>()) {
        if (element.kind().tonal) s.what = s.what.with("low", 0.0).with("high", 1.0);
        if (picture && !picture->is_float()) {
            const auto [low, high] = tone_range(*picture, Channel::luma);
            s.what = s.what.with("low", double(low)).with("high", double(high));
        }
    }
    return s;
}

namespace {

/// The first of a piece gives the canvas its size; the section line goes across it then.
void size_canvas(Piece& p, double width, double height) {
    if (!p.elements.empty() || width < 1 || width > most_canvas_side || height > most_canvas_side) return;
    p.canvas.width = static_cast<float>(std::round(width)),
    p.canvas.height = static_cast<float>(std::round(height));
    if (p.section) p.section = SectionLine{{width * 0.06, height * 0.5}, {width * 0.94, height * 0.5}};
}

void give_tones(Element& e, const Taken& taken) {
    const Picture& picture = *taken.picture;
    const Recognised r = recognise(picture);
    Tones t;
    // The tone window arrives stretched to the picture's own range.
    if (!picture.is_float()) std::tie(t.low, t.high) = tone_range(picture, t.channel);
    t.rise = r.what == Guess::height ? 40 : 8;
    if (picture.is_float()) t.low = r.low, t.high = std::max(r.high, r.low + 1e-6f);
    float lift = 0;
    if (taken.as == Taken::As::height) {
        // A map of our own says what its black and white are.
        if (taken.height_range)
            t.low = 0, t.high = 1, t.rise = taken.height_range->second - taken.height_range->first,
            lift = taken.height_range->first;
        else if (picture.is_float())
            t.low = 0, t.high = 1, t.rise = 1;
        e.mix.opacity = 0;
    }
    add(e, t);
    if (lift != 0) add(e, Raise{lift});
}

} // namespace

Element taken_in(const Taken& taken, Piece& p, std::optional<Vec2> at) {
    Element e;
    e.name = taken.name;
    e.id = free_id(p, taken.name);
    double w = taken.picture ? taken.picture->width : 0, h = taken.picture ? taken.picture->height : 0;
    switch (taken.as) {
    case Taken::As::drawing:
        e.source = Described(source_kind("svg"), SvgSource{taken.file});
        add(e, "bevel");
        break;
    case Taken::As::normals: {
        NormalsSource n;
        n.file = taken.file;
        if (taken.green_up) n.green = *taken.green_up ? GreenSays::up : GreenSays::down;
        e.source = Described(source_kind("normals"), n);
        e.mix.opacity = 0; // its blue is no colour: it gives height alone
        break;
    }
    case Taken::As::sprites: {
        SpritesSource s;
        s.file = taken.file;
        const auto [columns, rows] = guessed_grid(*taken.picture);
        s.columns = static_cast<float>(columns), s.rows = static_cast<float>(rows);
        if (columns * rows == 1) s.cut = SheetCut::islands;
        e.source = Described(source_kind("sprites"), s);
        w /= std::max(1, columns), h /= std::max(1, rows);
        const auto side = static_cast<float>(std::min(w, h));
        add(e, Bevel{rounded(side * 0.12f), rounded(side * 0.07f)});
        Tones tones;
        tones.rise = rounded(side * 0.04f);
        add(e, tones);
        add(e, Soften{1});
        break;
    }
    case Taken::As::picture:
    case Taken::As::height:
        e.source = Described(source_kind("picture"), PictureSource{taken.file});
        if (taken.picture) give_tones(e, taken);
    }
    if (taken.picture) size_canvas(p, w, h);
    e.placement.x = at ? static_cast<float>(at->x) : p.canvas.width / 2;
    e.placement.y = at ? static_cast<float>(at->y) : p.canvas.height / 2;
    if (w > 0 && (w > p.canvas.width || h > p.canvas.height))
        e.placement.scale_u = e.placement.scale_v =
            static_cast<float>(std::min(p.canvas.width / w, p.canvas.height / h));
    return e;
}

Solid started_solid(BodyKind kind, const Canvas& canvas) {
    const float w = canvas.width, h = canvas.height, side = std::max(w, h);
    const auto nice = [](float px) { return std::max(10.0f, std::round(px / 10) * 10); };
    Solid s;
    Body& b = s.body;
    b.kind = kind;
    // A label a third of the way round, with room above and below.
    b.radius = nice(kind == BodyKind::cylinder ? w * 3 / 6.2832f
                    : kind == BodyKind::sphere ? side * 0.6f
                                               : side * 0.75f);
    b.width = nice(w * 1.2f), b.height = nice(h * 1.35f), b.depth = nice(w * 0.8f);
    b.round = nice(std::min(b.radius, b.height) * 0.06f);
    b.fineness = std::max(1.0f, std::round(side / 400));
    const float extent = kind == BodyKind::plane      ? std::hypot(w, h) / 2
                         : kind == BodyKind::cylinder ? std::hypot(b.radius, b.height / 2)
                         : kind == BodyKind::box      ? std::hypot(std::hypot(b.width, b.depth), b.height) / 2
                                                      : b.radius;
    s.camera.field = 27;
    s.camera.distance =
        nice(1.12f * extent / std::sin(s.camera.field / 2 * static_cast<float>(radians_per_degree)));
    s.camera.turn = 24, s.camera.tilt = 13;
    const float foot = kind == BodyKind::plane                               ? h / 2
                       : kind == BodyKind::cylinder || kind == BodyKind::box ? b.height / 2
                                                                             : b.radius;
    s.ground.height = -std::round(foot);
    return s;
}

Element taken_in(const std::vector<std::string>& frames, const std::string& name, double width, double height,
                 Piece& p) {
    SpritesSource s;
    s.files = frames;
    Element e;
    e.name = name;
    e.id = free_id(p, name);
    e.source = Described(source_kind("sprites"), s);
    size_canvas(p, width, height);
    e.placement.x = p.canvas.width / 2, e.placement.y = p.canvas.height / 2;
    Bevel bevel;
    bevel.width = rounded(static_cast<float>(std::min(width, height) * 0.12));
    add(e, bevel);
    return e;
}

} // namespace bathylux
