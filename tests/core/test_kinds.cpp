// Every kind of source and step there is, at several parameters: made tile by tile it is what it is as a
// whole, with one thread what it is with two, bit for bit; and what changes a parameter changes the hash.
#include <tbb/global_control.h>

#include <QtTest>
#include <cstring>

#include "core/paint/painting.h"
#include "core/piece/edit.h"
#include "each_kind.h"
#include "run.h"

namespace bathylux::kinds {

using namespace each_kind;

namespace {

constexpr int w = 150, h = 100;
/// Where and by how much two fields differ over `rb`; "" for nowhere.
std::string difference(const Field& a, const Field& b, Region ra, Region rb) {
    double worst = 0;
    std::string where;
    for (int y = rb.y0; y < rb.y1; ++y)
        for (int x = rb.x0; x < rb.x1; ++x) {
            const float u = a.at(x - ra.x0, y - ra.y0), v = b.at(x - rb.x0, y - rb.y0);
            if (std::memcmp(&u, &v, 4) == 0 || (u == 0 && v == 0)) continue;
            if (const double d = std::abs(double(u) - v); !(d <= worst))
                worst = d,
                where = " by " + std::to_string(d) + " at " + std::to_string(x) + ", " + std::to_string(y);
        }
    return where;
}

/// Which channel of `part` is not what `whole` says there; "" for none.
std::string differs(const Bundle& whole, const Bundle& part) {
    const std::pair<const char*, std::pair<const Field*, const Field*>> fields[] = {
        {"red", {&whole.color[0], &part.color[0]}},
        {"blue", {&whole.color[2], &part.color[2]}},
        {"coverage", {&whole.coverage, &part.coverage}},
        {"height", {&whole.height, &part.height}}};
    for (const auto& [name, both] : fields)
        if (const auto d = difference(*both.first, *both.second, whole.region, part.region); !d.empty())
            return name + d;
    return {};
}

} // namespace

class TestKinds : public QObject {
    Q_OBJECT

    Found found_;

    static Scene scene_of_one(const Described& source, const std::vector<Described>& steps) {
        auto piece = std::make_shared<Piece>(piece_from_text(piece_json(w, h, "")));
        piece->elements.push_back(element_of(source, steps, placed(77, 48, 9, 1)));
        return scene_with(piece);
    }

    void look_at(const Scene& scene, const std::string& called, bool threads = false) {
        const Region canvas = canvas_region(scene.piece->canvas, 1);
        const Bundle whole = Evaluator(0).relief(scene, canvas, 1);
        for (const int side : {48, 67})
            for (const Region& tile : tiles_of(canvas, canvas, {0, side})) {
                const Bundle part = Evaluator(0, {0, side}).relief(scene, tile, 1);
                if (const std::string bad = differs(whole, part); !bad.empty()) {
                    found_ << QString("%1: %2 in tiles of %3").arg(called.c_str(), bad.c_str()).arg(side);
                    break;
                }
            }
        if (!threads) return;
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        if (const std::string bad = differs(whole, Evaluator(0).relief(scene, canvas, 1)); !bad.empty())
            found_ << QString("%1: %2 by one thread").arg(called.c_str(), bad.c_str());
    }

    void change_each(const Described& what, const std::function<Scene(const Described&)>& scene) {
        const std::string id(what.kind().id);
        look_at(scene(what), id, true);
        const auto before = relief_hash(scene(what));
        for (const Parameter& p : what.kind().parameters)
            for (const Value& v : other_values(what, p)) {
                const Described changed = what.with(p, v);
                if (changed.get(p.id) == what.get(p.id)) continue;
                if (relief_hash(scene(changed)) == before)
                    found_ << QString("%1.%2 does not change the hash").arg(id.c_str(), qs(p.id));
                if (!sanitized) look_at(scene(changed), id + "." + std::string(p.id) + " = " + text_of(v));
            }
    }

  private slots:
    void sources() {
        each_source([&](const Described& source, const std::vector<Described>& steps) {
            change_each(source, [&](const Described& d) { return scene_of_one(d, steps); });
        });
        found_.tell();
    }

    void steps_on_an_outline() { steps_on("type"); }
    void steps_on_a_picture() { steps_on("picture"); }
    void steps_on_noise() { steps_on("noise"); }

    void stair_steps_are_those_of_the_whole() {
        change_each(Described(step_kind("deterrace")), [](const Described& d) {
            return scene_of_one(
                Described(source_kind("noise")),
                {Described(step_kind("tones")).with("rise", 30.0), Described(step_kind("terrace")), d});
        });
        found_.tell();
    }

  private:
    void steps_on(const char* source) {
        for (const StepKind& k : step_kinds())
            change_each(Described(k), [&](const Described& d) {
                std::vector<Described> steps;
                // Steps on heights have some to work on.
                const bool depth = step_kind_of(d).group != "give depth" && step_kind_of(d).group != "colour";
                if (depth) steps.emplace_back(step_kind("tones"));
                steps.push_back(d);
                if (!depth && !d.is("tones")) steps.emplace_back(step_kind("tones"));
                return scene_of_one(Described(source_kind(source)), steps);
            });
        found_.tell();
    }
};
BATHYLUX_TEST(TestKinds)

} // namespace bathylux::kinds
#include "test_kinds.moc"
