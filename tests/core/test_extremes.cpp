// Every number of every kind at both ends of what a file may say: what comes out are numbers, heights and
// colours alike, and it comes out in a reasonable time. A hand that drags a rule to its end, or a file of
// another's, does just that.
#include <QtTest>
#include <cmath>

#include "core/error.h"
#include "core/render/solid_view.h"
#include "core/render/views.h"
#include "each_kind.h"
#include "run.h"

// Compiled together with other tests, whose helpers have the same names.
namespace bathylux::extremes {

using namespace each_kind;

namespace {

constexpr int w = 44, h = 30;

/// The ends; of a number that has none, what nobody would draw.
std::array<double, 2> ends(const Parameter& p) {
    const double most = sanitized && p.type == Parameter::Type::whole ? 40 : 1e6;
    return {std::max(p.range.floor, -most), std::min(p.range.ceiling, most)};
}

std::shared_ptr<Piece> lit_piece() {
    return std::make_shared<Piece>(
        *scene_of(piece_json(w, h, "", R"("ambient": {"intensity": 0.2}, "lights": [
        {"id": "far", "kind": "directional", "angle": 130, "elevation": 40, "shadow": true, "size": 2},
        {"id": "lamp", "kind": "point", "x": 20, "y": 10, "z": 30, "distance": 40}])"))
             .piece);
}

Element small(const Described& source, const std::vector<Described>& steps) {
    return element_of(source, steps, placed(w / 2.0f, h / 2.0f, 0, 0.4f));
}

/// What of a picture is no number; "" where all are.
QString odd(const Scene& scene) {
    Evaluator evaluator(0);
    const Region all = canvas_region(scene.piece->canvas, 1);
    const auto strips = look(evaluator, scene, {View::lit, View::height, View::art}, all, 1);
    for (const Strip& s : strips)
        for (std::size_t c = 0; c < s.channels.size(); ++c)
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x)
                    if (const float v = s.channels[c].at(x, y); !std::isfinite(v))
                        return QString("%1 in channel %2 of view %3 at %4, %5")
                            .arg(v)
                            .arg(c)
                            .arg(&s - strips.data())
                            .arg(x)
                            .arg(y);
    return {};
}

/// What is wrong; refused in a sentence is right.
QString unless_refused(const std::function<QString()>& looked_at) {
    try {
        return looked_at();
    } catch (const Error&) {
        return {};
    } catch (const std::exception& e) {
        return QString("says \"%1\"").arg(e.what());
    }
}

} // namespace

class TestExtremes : public QObject {
    Q_OBJECT
    Found found_;

    /// All numbers of a thing, one after the other and then all at once, at either end.
    void at_both_ends(const Described& what, const std::function<Scene(const Described&)>& scene) {
        const auto tried = [&](const Described& changed, const QString& called) {
            QElapsedTimer timer;
            timer.start();
            QString bad = unless_refused([&] { return odd(scene(changed)); });
            if (bad.isEmpty() && timer.elapsed() > 20000 && !sanitized)
                bad = QString("takes %1 ms").arg(timer.elapsed());
            if (!bad.isEmpty()) found_ << QString("%1 %2: %3").arg(qs(what.kind().id), called, bad);
        };
        tried(what, "as it begins");
        for (const std::size_t end : {0u, 1u}) {
            Described all = what;
            for (const Parameter& p : what.kind().parameters) {
                if (p.type != Parameter::Type::number && p.type != Parameter::Type::whole) continue;
                if (!sanitized)
                    tried(what.with(p, ends(p)[end]), QString("%1 = %2").arg(qs(p.id)).arg(ends(p)[end]));
                all = all.with(p, ends(p)[end]);
            }
            tried(all, end ? "all at their tops" : "all at their bottoms");
        }
    }

  private slots:
    void sources() {
        for (const SourceKind& k : source_kinds())
            if (!k.holds_elements)
                at_both_ends(Described(k), [](const Described& d) {
                    auto piece = lit_piece();
                    piece->elements.push_back(small(d, {Described(step_kind("tones"))}));
                    return scene_with(piece);
                });
        found_.tell();
    }

    void steps_data() {
        QTest::addColumn<QString>("source");
        for (const char* source : {"picture", "type", "noise"})
            if (!sanitized || source == std::string_view("picture")) QTest::newRow(source) << source;
    }
    void steps() {
        QFETCH(QString, source);
        for (const StepKind& k : step_kinds())
            at_both_ends(Described(k), [&](const Described& d) {
                auto piece = lit_piece();
                piece->elements.push_back(
                    small(Described(source_kind(source.toStdString())), {Described(step_kind("tones")), d}));
                return scene_with(piece);
            });
        found_.tell();
    }

    void finish() {
        for (const StepKind& k : finish_kinds())
            at_both_ends(Described(k), [](const Described& d) {
                auto piece = lit_piece();
                piece->elements.push_back(
                    small(Described(source_kind("type")), {Described(step_kind("bevel"))}));
                Element finish = finish_element(*piece);
                add_step(finish, Step{.what = d});
                piece->finish = finish.steps;
                return scene_with(piece);
            });
        found_.tell();
    }

    void lights() {
        for (const LightKind& k : light_kinds())
            at_both_ends(Described(k), [](const Described& d) {
                auto piece = lit_piece();
                piece->elements.push_back(
                    small(Described(source_kind("type")), {Described(step_kind("bevel"))}));
                piece->lights.emplace_back(Light{"odd", "Odd", true, d});
                return scene_with(piece);
            });
        found_.tell();
    }

    void bodies_data() {
        QTest::addColumn<QString>("body");
        for (const char* body : {"plane", "cylinder", "sphere", "box"}) QTest::newRow(body) << body;
    }
    void bodies() {
        QFETCH(QString, body);
        const auto piece_on = [&] {
            auto piece = std::make_shared<Piece>(
                *scene_of(piece_json(w, h,
                                     R"({"id": "o", "source": {"kind": "ellipse", "width": 30, "height": 20},
                                        "steps": [{"kind": "bevel", "width": 5, "rise": 3}]})",
                                     R"("solid": {"kind": ")" + body.toStdString() +
                                         R"("}, "lights": [{"id": "k", "kind": "directional", "angle": 120,
                                         "elevation": 40, "shadow": true, "size": 4}])"))
                     .piece);
            return piece;
        };
        const auto looked_at = [&](const std::shared_ptr<Piece>& piece, const QString& called) {
            const QString bad = unless_refused([&]() -> QString {
                Evaluator evaluator;
                SolidPicture picture(18, 12);
                picture.add(solid_scene(evaluator, {piece, std::make_shared<const Assets>()}), 1);
                const auto lit = picture.lit();
                for (std::size_t c = 0; c < 4; ++c)
                    for (int y = 0; y < 12; ++y)
                        for (int x = 0; x < 18; ++x)
                            if (!std::isfinite(lit[c](x, y)))
                                return QString("%1 in channel %2").arg(lit[c](x, y)).arg(c);
                return {};
            });
            if (!bad.isEmpty()) found_ << called + ": " + bad;
        };
        looked_at(piece_on(), "as it begins");
        if (sanitized) return found_.tell();
        const auto sweep = [&](std::span<const Parameter> parameters, auto&& of) {
            for (const Parameter& p : parameters) {
                if (p.type != Parameter::Type::number && p.type != Parameter::Type::whole) continue;
                for (const double end : ends(p)) {
                    auto piece = piece_on();
                    p.set(of(*piece), end);
                    looked_at(piece, QString("%1 = %2").arg(qs(p.id)).arg(end));
                }
            }
        };
        sweep(Body::parameters, [](Piece& p) { return &p.solid->body; });
        sweep(Camera::parameters, [](Piece& p) { return &p.solid->camera; });
        sweep(GroundPlane::parameters, [](Piece& p) { return &p.solid->ground; });
        found_.tell();
    }

    void surfaces() {
        for (const double end : {0.0, 1.0})
            for (const Parameter& p : Surface::parameters) {
                if (p.type != Parameter::Type::number) continue;
                auto piece = lit_piece();
                Element e = small(Described(source_kind("type")), {Described(step_kind("bevel"))});
                Surface surface;
                p.set(&surface, ends(p)[end > 0 ? 1 : 0]);
                e.surface = surface;
                piece->elements.push_back(e);
                if (const QString bad = odd(scene_with(piece)); !bad.isEmpty())
                    found_ << QString("%1 at %2: %3").arg(qs(p.id)).arg(end).arg(bad);
            }
        found_.tell();
    }
};
BATHYLUX_TEST(TestExtremes)

} // namespace bathylux::extremes
#include "test_extremes.moc"
