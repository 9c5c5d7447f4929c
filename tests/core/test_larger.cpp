// What is resized to twice its size and looked at from twice as far is what it was: every length there is, of
// every kind of source, step, light, finish, surface and body, has to grow along.
#include <QtTest>

#include "core/field/srgb.h"
#include "core/render/solid_view.h"
#include "each_kind.h"
#include "run.h"

namespace bathylux::larger {

using namespace each_kind;

namespace {

constexpr int w = 150, h = 100;
Scene twice_as_large(const Scene& scene) {
    Piece larger = *scene.piece;
    resize(larger, 2);
    return {std::make_shared<const Piece>(larger), scene.assets, scene.frame};
}

/// How far two fields are apart, as a share of what there is.
double apart(const Field& a, const Field& b, double share) {
    double sum = 0, most = 1;
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            sum += std::pow(double(a.at(x, y)) - share * b.at(x, y), 2);
            most = std::max(most, std::abs(double(a.at(x, y))));
        }
    return std::sqrt(sum / (w * h)) / most;
}

/// What differs between two reliefs, the second so much higher; "" for nothing. What is finer than a px is
/// sampled otherwise: a hundredth is allowed.
QString differs(const Bundle& a, const Bundle& b, double higher) {
    const std::tuple<const char*, const Field*, const Field*, double> fields[] = {
        {"green", &a.color[1], &b.color[1], 1},
        {"coverage", &a.coverage, &b.coverage, 1},
        {"height", &a.height, &b.height, 1 / higher}};
    QString out;
    for (const auto& [name, one, other, share] : fields)
        if (const double off = apart(*one, *other, share); !(off < 0.01))
            out += QString(" %1 is off by %2").arg(name).arg(off);
    return out;
}
QString relief_differs(const Scene& scene) {
    const Region canvas = canvas_region(scene.piece->canvas, 1);
    QString out = differs(Evaluator(0).relief(scene, canvas, 1),
                          Evaluator(0).relief(twice_as_large(scene), canvas, 0.5), 2);
    if (!out.isEmpty()) out = " larger," + out;
    // In a group that is larger and turned, and taken out of it.
    auto grouped = std::make_shared<Piece>(*scene.piece), apart = std::make_shared<Piece>();
    const std::string g = group(*grouped, {"e"});
    change(*grouped, g,
           [](Element& e) { e.placement.scale_u = e.placement.scale_v = 1.5f, e.placement.turn = 30; });
    *apart = *grouped;
    ungroup(*apart, g);
    const QString taken = differs(Evaluator(0).relief({grouped, scene.assets}, canvas, 1),
                                  Evaluator(0).relief({apart, scene.assets}, canvas, 1), 1);
    return taken.isEmpty() ? out : out + " taken out of its group," + taken;
}
QString light_differs(const Scene& scene) {
    Evaluator evaluator(0);
    const Region canvas = canvas_region(scene.piece->canvas, 1);
    const Strip a = look(evaluator, scene, View::lit, canvas, 1),
                b = look(evaluator, twice_as_large(scene), View::lit, canvas, 0.5);
    QString out;
    for (std::size_t c = 0; c < 3; ++c)
        if (const double off = apart(a.channels[c], b.channels[c], 1); !(off < 0.02))
            out += QString(" channel %1 is off by %2").arg(c).arg(off);
    return out;
}
QString body_differs(const Scene& scene) {
    const auto seen = [](const Scene& s) {
        Evaluator evaluator;
        SolidPicture picture(w, h);
        picture.add(solid_scene(evaluator, s), 4);
        return picture.lit();
    };
    const auto a = seen(scene), b = seen(twice_as_large(scene));
    QString out;
    for (std::size_t c = 0; c < 4; ++c)
        if (const double off = apart(Field(a[c]), Field(b[c]), 1); !(off < 0.02))
            out += QString(" channel %1 is off by %2").arg(c).arg(off);
    return out;
}

Element turned(const Described& source, const std::vector<Described>& steps) {
    return element_of(source, steps, placed(77, 48, 9, 1));
}
/// Letters with an edge, under a lamp and a sky.
std::shared_ptr<Piece> lit_piece() {
    return std::make_shared<Piece>(piece_from_text(piece_json(
        w, h, "",
        R"("lights": [{"id": "lamp", "kind": "point", "x": 40, "y": 20, "z": 70, "distance": 80, "shadow": true, "size": 12}],
           "ambient": {"intensity": 0.3, "occlusion": true})")));
}
Element letters() {
    return turned(Described(source_kind("type")),
                  {Described(step_kind("bevel")).with("width", 12.0).with("rise", 6.0)});
}

} // namespace

class TestLarger : public QObject {
    Q_OBJECT
    Found found_;

    template <class Differs, class Values>
    void try_each(std::string_view id, std::span<const Parameter> parameters, const Values& values,
                  const Differs& differs) {
        const auto tried = [&](const Parameter* p, const Value& v) {
            const QString bad = differs(p, v);
            if (!bad.isEmpty())
                found_ << qs(id) + (p ? "." + qs(p->id) + " = " + qs(text_of(v)) : QString()) + ":" + bad;
        };
        tried(nullptr, {});
        for (const Parameter& p : parameters)
            if (!sanitized)
                for (const Value& v : values(p)) tried(&p, v);
    }
    void try_each(std::string_view id, std::span<const Parameter> parameters,
                  const std::function<QString(const Parameter*, const Value&)>& differs) {
        try_each(
            id, parameters, [](const Parameter& p) { return other_values(p); }, differs);
    }
    /// A described thing at each of its values.
    void try_each(const Described& what, const std::function<QString(const Described&)>& differs) {
        try_each(
            what.kind().id, what.kind().parameters, [&](const Parameter& p) { return other_values(what, p); },
            [&](const Parameter* p, const Value& v) { return differs(p ? what.with(*p, v) : what); });
    }

  private slots:
    void sources() {
        each_source([&](const Described& source, const std::vector<Described>& steps) {
            try_each(source, [&](const Described& d) {
                auto piece = lit_piece();
                piece->elements.push_back(turned(d, steps));
                return relief_differs(scene_with(piece));
            });
        });
        found_.tell();
    }
    void steps_data() {
        QTest::addColumn<QString>("source");
        for (const char* source : {"type", "picture", "noise"}) QTest::newRow(source) << source;
    }
    void steps() {
        QFETCH(QString, source);
        for (const StepKind& k : step_kinds())
            try_each(Described(k), [&](const Described& d) {
                auto piece = lit_piece();
                std::vector<Described> steps;
                if (!d.is("tones")) steps.emplace_back(step_kind("tones"));
                steps.push_back(d);
                piece->elements.push_back(turned(Described(source_kind(source.toStdString())), steps));
                return relief_differs(scene_with(piece));
            });
        found_.tell();
    }
    void lights() {
        for (const LightKind& k : light_kinds())
            try_each(Described(k), [](const Described& d) {
                auto piece = lit_piece();
                piece->elements.push_back(letters());
                piece->lights.clear();
                piece->lights.emplace_back(Light{"l", "L", true, d});
                return light_differs(scene_with(piece));
            });
        found_.tell();
    }
    void finish() {
        for (const StepKind& k : finish_kinds())
            try_each(Described(k), [](const Described& d) {
                auto piece = lit_piece();
                piece->elements.push_back(letters());
                Element finish = finish_element(*piece);
                add_step(finish, Step{.what = d});
                piece->finish = finish.steps;
                return light_differs(scene_with(piece));
            });
        found_.tell();
    }
    void surfaces_and_ambient() {
        try_each("surface", Surface::parameters, [](const Parameter* p, const Value& v) {
            auto piece = lit_piece();
            piece->elements.push_back(turned(Described(source_kind("noise")), {}));
            Element glass = letters();
            glass.id = "glass";
            Surface surface;
            surface.transmission = 0.8f, surface.thickness = 6;
            if (p) p->set(&surface, v);
            glass.surface = surface;
            piece->elements.push_back(glass);
            return light_differs(scene_with(piece));
        });
        try_each("ambient", Ambient::parameters, [](const Parameter* p, const Value& v) {
            auto piece = lit_piece();
            piece->elements.push_back(letters());
            if (p) p->set(&piece->ambient, v);
            return light_differs(scene_with(piece));
        });
        found_.tell();
    }
    void bodies() {
        for (const char* body : {"plane", "cylinder", "sphere", "box"}) {
            const auto piece_on = [&] {
                auto piece = lit_piece();
                piece->elements.push_back(letters());
                piece->solid = *piece_from_text(piece_json(w, h, "",
                                                           R"("solid": {"kind": ")" + std::string(body) +
                                                               R"(", "wrap": "placed", "camera": {"turn": 20,
                                    "tilt": 10, "distance": 420}, "ground": {"on": true, "height": -130}})"))
                                    .solid;
                return piece;
            };
            const auto sweep = [&](std::span<const Parameter> parameters, auto&& of) {
                try_each(body, parameters, [&](const Parameter* p, const Value& v) {
                    if (p && p->unit != Unit::px) return QString();
                    auto piece = piece_on();
                    if (p) p->set(of(*piece), v);
                    return body_differs(scene_with(piece));
                });
            };
            sweep(Body::parameters, [](Piece& p) -> void* { return &p.solid->body; });
            sweep(Camera::parameters, [](Piece& p) -> void* { return &p.solid->camera; });
            sweep(GroundPlane::parameters, [](Piece& p) -> void* { return &p.solid->ground; });
        }
        found_.tell();
    }
};
BATHYLUX_TEST(TestLarger)

} // namespace bathylux::larger
#include "test_larger.moc"
