// What is set has a say: every parameter of every kind changes what is seen for some value of it, beside some
// setting of the others. And what its description puts out of sight has none: whoever cannot see a control is
// not led by it.
#include <QtTest>
#include <cstring>
#include <random>

#include "core/error.h"
#include "core/paint/brush.h"
#include "core/render/solid_view.h"
#include "core/render/views.h"
#include "each_kind.h"
#include "files/resolve.h"
#include "files/type.h"
#include "run.h"

namespace bathylux::say {

using namespace each_kind;

namespace {

constexpr int w = 60, h = 44;

/// A piece with files of the demo, and strokes that raise, push and ink.
struct Stage {
    std::shared_ptr<Piece> piece;
    files::Store store;
};
constexpr const char* strokes = "strokes/say.exr";

void append(QByteArray& bits, const float* row, int count) {
    bits.append(reinterpret_cast<const char*>(row), static_cast<qsizetype>(count * sizeof(float)));
}

/// All that can be seen of it at a frame, as bits; where something is refused, the sentence.
QByteArray seen(const Stage& stage, int frame = 0, bool lit = true) {
    static files::Resolver resolver;
    try {
        Evaluator evaluator(0);
        const Scene scene = resolver.scene(*stage.piece, stage.store, frame);
        QByteArray bits;
        std::vector<View> views{View::height, View::art};
        if (lit) views.push_back(View::lit);
        for (const Strip& s : look(evaluator, scene, views, canvas_region(scene.piece->canvas, 1), 1))
            for (const Field& c : s.channels)
                for (int y = 0; y < h; ++y)
                    for (int x = 0; x < w; ++x) {
                        const float v = c.at(x, y) + 0.0f; // one nought
                        append(bits, &v, 1);
                    }
        return bits;
    } catch (const Error& e) {
        return e.what();
    }
}
QByteArray seen_in_the_round(const Stage& stage) {
    static files::Resolver resolver;
    try {
        Evaluator evaluator;
        SolidPicture picture(40, 28);
        const Scene scene = resolver.scene(*stage.piece, stage.store);
        const SolidScene solid = solid_scene(evaluator, scene);
        picture.add(solid, 2);
        const Bundle out = finished_solid(evaluator, scene, solid, picture);
        QByteArray bits;
        for (const Field* c : {&out.color[0], &out.color[1], &out.color[2], &out.coverage})
            for (int y = 0; y < 28; ++y)
                for (int x = 0; x < 40; ++x) {
                    const float v = c->at(x, y);
                    append(bits, &v, 1);
                }
        return bits;
    } catch (const Error& e) {
        return e.what();
    }
}

constexpr const char* lamp_and_sky = R"("ambient": {"intensity": 0.25, "occlusion": true}, "lights": [
    {"id": "lamp", "kind": "point", "x": 12, "y": 8, "z": 22, "distance": 40, "shadow": true, "size": 3}])";

/// A height and a ring below, under light. What moves does at 12 frames a second.
Stage stage(const std::string& more = lamp_and_sky) {
    const std::string below =
        R"({"id": "hill", "source": {"kind": "form", "form": "dome", "width": 50, "height": 40},
            "placement": {"x": 24, "y": 20}, "mix": {"opacity": 0.7}},
        {"id": "ring", "source": {"kind": "ellipse", "width": 120, "height": 80}, "placement": {"x": 30, "y": 22, "scale_u": 0.3, "scale_v": 0.3}, "mix": {"opacity": 0.4}})";
    Stage out{std::make_shared<Piece>(piece_from_text(piece_json(w, h, below, more))), {}};
    out.piece->time = Timing{{12, 1}, 24, true};
    out.store.folder = BATHYLUX_DEMO;
    static const auto painted = [] {
        Painting all(1);
        for (const BrushWork work : {BrushWork::raise, BrushWork::push}) {
            Brush brush;
            brush.work = work, brush.size = 60, brush.flow = 1;
            BrushStroke stroke(all, brush, {});
            stroke.to({-25, -6}, 1), stroke.to({20, 10}, 1);
            all = stroke.painting();
        }
        return std::make_shared<const Painting>(all);
    }();
    out.store.paintings[strokes] = painted;
    return out;
}
Element middle(const Described& source, const std::vector<Described>& steps) {
    return element_of(source, steps, placed(w / 2.0f, h / 2.0f, 7, 0.2f));
}

/// With the file it needs.
Described with_file(Described d) {
    static const std::map<std::string_view, const char*> files{{"picture", "pictures/badge.png"},
                                                               {"svg", "drawings/sign-frame.svg"},
                                                               {"sprites", "pictures/ticket-beetle.png"},
                                                               {"normals", "pictures/token-rim-normals.png"},
                                                               {"clip", "clips/quay-lights.webm"},
                                                               {"paint", strokes},
                                                               {"by_hand", strokes},
                                                               {"pushed", strokes}};
    if (d.is("type")) return d.with("font", std::string("Anybody"));
    const auto file = files.find(d.kind().id);
    return file == files.end() ? d : d.with("file", std::string(file->second));
}

// A described thing and a plain one that has descriptions are asked alike.
std::string_view name_of(const Described& d) { return d.kind().id; }
std::span<const Parameter> parameters_of(const Described& d) { return d.kind().parameters; }
Value value_of(const Described& d, const Parameter& p) { return d.get(p.id); }
Described with(const Described& d, const Parameter& p, const Value& v) { return d.with(p, v); }
bool in_sight(const Described& d, const Parameter& p) { return d.counts(p); }
std::vector<Value> others(const Described& d, const Parameter& p) { return other_values(d, p); }
template <class T> std::string_view name_of(const T&) { return T::id; }
template <class T> std::span<const Parameter> parameters_of(const T&) { return T::parameters; }
template <class T> Value value_of(const T& t, const Parameter& p) { return p.get(&t); }
template <class T> T with(T t, const Parameter& p, const Value& v) {
    p.set(&t, v);
    return t;
}
template <class T> bool in_sight(const T& t, const Parameter& p) { return counts(T::parameters, &t, p); }
template <class T> std::vector<Value> others(const T&, const Parameter& p) { return other_values(p); }

/// Values it may have; for what reads another element, that one.
template <class T> std::vector<Value> values_of(const T& what, const Parameter& p) {
    using Type = Parameter::Type;
    if (p.type == Type::element) return {std::string("hill"), std::string("ring")};
    std::vector<Value> out = others(what, p);
    if (p.type == Type::number) // small either way, and well above
        for (const double share : {0.47, 0.56, 0.8})
            out.emplace_back(p.range.low + share * (p.range.high - p.range.low));
    if (p.type == Type::map) out.emplace_back(std::optional(MapRef{"hill", MapOf::height, 0, 1}));
    if (p.type == Type::profile) out.emplace_back(Profile{Profile::Shape::cove});
    if (p.type == Type::font) out.emplace_back(std::string("Cabin"));
    if (p.type == Type::text) out.emplace_back(std::string("Quay\nEnd"));
    if (p.type == Type::numbers) out.emplace_back(std::vector<double>{0.2, 0.9, 0.4, 1.3, 0.7});
    if (p.type == Type::color) out.emplace_back(Color{0.05f, 0.6f, 0.2f, 1});
    std::erase_if(out, [&](const Value& v) { return v == value_of(what, p); });
    return out;
}

/// The thing as it begins, with each of its parameters otherwise, and with about half of them so at once.
template <class T> std::vector<T> settings(const T& what) {
    std::vector<T> out{what};
    for (const Parameter& p : parameters_of(what))
        for (const Value& v : values_of(what, p)) out.push_back(with(what, p, v));
    std::mt19937 chance(7);
    for (int i = 0; i < 12; ++i) {
        T other = what;
        for (const Parameter& p : parameters_of(what))
            if (const auto values = values_of(what, p); !values.empty() && chance() % 2)
                other = with(other, p, values[chance() % values.size()]);
        out.push_back(other);
    }
    return out;
}

template <class T> using Looks = std::vector<std::function<QByteArray(const T&)>>;

} // namespace

class TestSay : public QObject {
    Q_OBJECT
    Found found_;

    /// `looks`: what is seen where the thing stands; what has no say in one place may have in another.
    template <class T> void each_has_a_say(const T& what, const Looks<T>& looks) {
        const std::vector<T> beside = settings(what);
        std::map<std::pair<std::size_t, std::size_t>, QByteArray> known; // by look and setting
        for (const Parameter& p : parameters_of(what)) {
            const std::vector<Value> values = values_of(what, p);
            const QString called = qs(name_of(what)) + "." + qs(p.id);
            // How fine strokes in a file are, they say themselves while they are in memory; and no font that
            // comes along has an axis for slant.
            if (p.id == "density" || called == "type.slant") continue;
            bool says = values.empty();
            int out_of_sight = 0;
            for (std::size_t look = 0; look < looks.size(); ++look)
                for (std::size_t i = 0; i < beside.size(); ++i) {
                    const bool sight = in_sight(beside[i], p);
                    if (sight ? says : ++out_of_sight > 6) continue;
                    QByteArray& before = known[{look, i}];
                    if (before.isEmpty()) before = looks[look](beside[i]);
                    const auto other = std::find_if(values.begin(), values.end(), [&](const Value& v) {
                        return !(v == value_of(beside[i], p)) && looks[look](with(beside[i], p, v)) != before;
                    });
                    if (other == values.end()) continue;
                    if (sight)
                        says = true;
                    else
                        found_ << called + " is out of sight and has a say as " + qs(text_of(*other));
                }
            if (!says) found_ << called + " never has a say";
        }
    }

  private slots:
    void initTestCase() { files::load_shipped_fonts(); }

    void sources() {
        each_source([&](const Described& source, const std::vector<Described>& steps) {
            Looks<Described> looks;
            for (const int frame : {0, 9})
                looks.emplace_back([&, frame](const Described& d) {
                    Stage s = stage();
                    s.piece->elements.push_back(middle(d, steps));
                    return seen(s, frame, false);
                });
            each_has_a_say(with_file(source), looks);
        });
        found_.tell();
    }

    void steps_data() {
        QTest::addColumn<QString>("step");
        for (const StepKind& k : step_kinds()) QTest::newRow(k.id.data()) << qs(k.id);
    }
    void steps() {
        QFETCH(QString, step);
        Looks<Described> looks;
        // Before what makes a height of it and after, and after what has edges and stairs.
        for (const char* source : {"picture", "type", "noise"})
            for (const int place : {0, 1, 2})
                looks.emplace_back([=](const Described& d) {
                    Stage s = stage();
                    std::vector<Described> steps{Described(step_kind("tones")).with("rise", 30.0)};
                    if (place == 2) steps.emplace_back(step_kind("terrace"));
                    steps.insert(place == 0 ? steps.begin() : steps.end(), d);
                    s.piece->elements.push_back(middle(with_file(Described(source_kind(source))), steps));
                    return seen(s, 0, false);
                });
        each_has_a_say(with_file(Described(step_kind(step.toStdString()))), looks);
        found_.tell();
    }

    void finish() {
        for (const StepKind& k : finish_kinds())
            each_has_a_say<Described>(
                k.id == "gleam" ? Described(k).with("above", 0.05) : Described(k), {[](const Described& d) {
                    Stage s = stage();
                    s.piece->elements.push_back(
                        middle(Described(source_kind("type")), {Described(step_kind("bevel"))}));
                    Element finish = finish_element(*s.piece);
                    add_step(finish, Step{.what = d});
                    s.piece->finish = finish.steps;
                    return seen(s);
                }});
        found_.tell();
    }

    void lights() {
        for (const LightKind& k : light_kinds())
            each_has_a_say<Described>(
                Described(k), {[](const Described& d) {
                    Stage s = stage(R"("ambient": {"intensity": 0.1})");
                    s.piece->elements.push_back(
                        middle(Described(source_kind("type")), {Described(step_kind("bevel"))}));
                    s.piece->lights.emplace_back(Light{"odd", "Odd", true, d});
                    return seen(s);
                }});
        found_.tell();
    }

    void surface_and_mixing() {
        const auto letters = [](const std::function<void(Element&)>& change) {
            Stage s = stage(R"("ambient": {"intensity": 0.2}, "lights": [
                {"id": "far", "kind": "directional", "angle": 130, "elevation": 35, "intensity": 0.6},
                {"id": "lamp", "kind": "point", "x": 12, "y": 8, "z": 22, "distance": 40}])");
            Element e =
                middle(Described(source_kind("type")), {Described(step_kind("bevel")).with("width", 5.0)});
            change(e);
            s.piece->elements.push_back(e);
            return seen(s);
        };
        Mix mix;
        mix.opacity = 0.8f;
        each_has_a_say<Surface>(
            {}, {[&](const Surface& s) { return letters([&](Element& e) { e.surface = s; }); }});
        each_has_a_say(mix, {[&](const Mix& m) { return letters([&](Element& e) { e.mix = m; }); }});
        each_has_a_say<Placement>(placed(30, 22, 0, 0.3f), {[&](const Placement& at) {
                                      return letters([&](Element& e) {
                                          e.source = with_file(Described(source_kind("picture")));
                                          e.placement = at;
                                      });
                                  }});
        found_.tell();
    }

    void the_whole() {
        const auto piece_with = [](const std::function<void(Piece&)>& change) {
            Stage s = stage();
            s.piece->elements.push_back(
                middle(Described(source_kind("type")), {Described(step_kind("bevel"))}));
            change(*s.piece);
            return seen(s);
        };
        Ambient ambient;
        ambient.intensity = 0.5f;
        each_has_a_say<Ambient>(
            ambient, {[&](const Ambient& a) { return piece_with([&](Piece& p) { p.ambient = a; }); }});
        found_.tell();
    }

    void bodies() {
        const auto round = [](const std::function<void(Solid&)>& change) {
            Stage s = stage(R"("ambient": {"intensity": 0.2}, "lights": [
                {"id": "far", "kind": "directional", "angle": 130, "elevation": 40, "shadow": true, "size": 2}])");
            s.piece->solid = Solid{};
            Body& body = s.piece->solid->body;
            body.radius = 25, body.width = 60, body.height = 50, body.depth = 40, body.fineness = 3;
            s.piece->solid->camera.distance = 150;
            s.piece->solid->ground.height = -30;
            change(*s.piece->solid);
            return seen_in_the_round(s);
        };
        const auto begun = [] {
            Body body;
            body.radius = 25, body.width = 60, body.height = 50, body.depth = 40, body.fineness = 3;
            body.file = "meshes/pump-housing.obj";
            return body;
        }();
        each_has_a_say<Body>(begun, {[&](const Body& b) { return round([&](Solid& s) { s.body = b; }); }});
        each_has_a_say<Camera>({.distance = 150},
                               {[&](const Camera& c) { return round([&](Solid& s) { s.camera = c; }); }});
        each_has_a_say<GroundPlane>({.on = true, .height = -30}, {[&](const GroundPlane& g) {
                                        return round([&](Solid& s) { s.ground = g; });
                                    }});
        found_.tell();
    }
};
BATHYLUX_TEST(TestSay)

} // namespace bathylux::say
#include "test_say.moc"
