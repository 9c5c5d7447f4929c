// Recipes, alternatives and what is set up at once, as values.
#include <QtTest>

#include "core/light/lights.h"
#include "core/piece/alternatives.h"
#include "core/piece/recipe.h"
#include "core/piece/set_ups.h"
#include "core/render/pouring.h"
#include "core/render/views.h"
#include "core/step/height.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

const std::string kept_sign =
    R"({"id": "grain", "mix": {"visible": false}, "placement": {"x": 130, "y": 90}, "source": {"kind": "noise",
    "seed": 3, "size_u": 20}, "steps": [{"kind": "tones", "map": {"element": "under", "of": "alpha"}}]},
    {"id": "under", "source": {"kind": "ellipse", "width": 40, "height": 40}},
    {"id": "sign", "source": {"kind": "rectangle", "width": 200, "height": 100}, "placement": {"x": 120, "y": 80},
     "surface": {"metallic": 1, "maps": {"roughness": {"element": "grain", "of": "tone", "black": 0.2}}},
     "steps": [{"kind": "bevel", "width": 10, "rise": 4}, {"kind": "wear", "gone": 0.4, "by": {"element": "grain"}, "size": 30,
                "seed": 5}, {"kind": "gain", "stops": 1, "map": {"element": "grain", "of": "tone"}}]},
    {"id": "other", "source": {"kind": "rectangle", "width": 400, "height": 300}, "placement": {"x": 300, "y": 200},
     "steps": [{"kind": "raise", "amount": 2}]})";

Piece kept_signs() { return piece_from_text(piece_json(600, 400, kept_sign)); }
Recipe kept_look() {
    Recipe r = kept_recipe(kept_signs(), "sign", {});
    r.width = 200, r.height = 100;
    return r;
}

} // namespace

class TestRecipes : public QObject {
    Q_OBJECT
  private slots:
    void a_recipe_brings_along_all_it_reads();
    void what_is_kept_names_nothing_that_it_does_not_bring();
    void lengths_are_fitted_and_steps_added();
    void lights_and_finish_come_along_in_their_places();
    void it_comes_back_from_its_text_and_wrong_ones_are_told();
    void alternatives_are_the_same_again_and_vary_what_was_asked();
    void reflections_and_edges_follow_what_they_are_of();
};

void TestRecipes::a_recipe_brings_along_all_it_reads() {
    const Recipe r = kept_look();
    QCOMPARE(r.elements.size(), 2u); // what is read, and what that reads
    Piece p = piece_from_text(piece_json(600, 400, R"({"id": "grain", "source": {"kind": "ellipse"}},
        {"id": "words", "source": {"kind": "rectangle", "width": 200, "height": 100}, "placement": {"x": 320, "y": 80}})"));
    pour(p, "words", r, {false, 1, Vec2{320, 80}});
    QVERIFY(cycle_in(p).empty());
    QCOMPARE(p.elements.size(), 4u);
    // Ids that were taken are others now, and what reads follows; all of it is out of sight, behind
    // everything.
    const auto read = read_by(*find_element(p.elements, "words"));
    QVERIFY(!read.empty() &&
            std::none_of(read.begin(), read.end(), [](const std::string& id) { return id == "grain"; }));
    const Element* grain = find_element(p.elements, read.front());
    QVERIFY(grain && grain->source.is("noise") && !grain->mix.visible);
    QCOMPARE(grain->placement.x, 330.0f);
    QCOMPARE(p.elements.back()->id, std::string("words"));
    // It looks as the one it was kept from.
    const Region a{20, 30, 220, 130}, b{220, 30, 420, 130};
    const Scene from = {std::make_shared<const Piece>(kept_signs()), std::make_shared<const Assets>()},
                to = {std::make_shared<const Piece>(p), std::make_shared<const Assets>()};
    const Bundle was = Evaluator().element(from, "sign", a, 1), is = Evaluator().element(to, "words", b, 1);
    double height = 0, worn_was = 0, worn_is = 0;
    for (int y = 0; y < 100; ++y)
        for (int x = 0; x < 200; ++x) {
            height = std::max(height, std::abs(double(was.height.at(x, y)) - is.height.at(x, y)));
            worn_was += was.worn.at(x, y), worn_is += is.worn.at(x, y);
        }
    QVERIFY(height < 1e-3 && std::abs(worn_was - worn_is) < 0.02 * worn_was);
}

/// What was read and was taken away since: in steps and surface, in what comes along, in the finish, and in
/// an element that is read no more.
void TestRecipes::what_is_kept_names_nothing_that_it_does_not_bring() {
    const std::string line = R"({"id": "line", "source": {"kind": "ellipse", "width": 90, "height": 90}},
        {"id": "label", "source": {"kind": "type", "text": "QUAY", "path": "line"}},)";
    std::string sign = kept_sign;
    const auto put = [&](const std::string& before, const std::string& more) {
        const auto at = sign.find(before);
        QVERIFY(at != std::string::npos);
        sign.insert(at, more);
    };
    put(R"({"kind": "wear")", R"({"kind": "displace", "by": {"element": "label"}},
        {"kind": "gain", "map": {"element": "line", "of": "tone", "on": false}}, )");
    put(R"("roughness":)", R"("metallic": {"element": "line", "of": "tone"}, )");
    const Piece whole = piece_from_text(piece_json(600, 400, line + sign,
                                                   R"("finish": [{"kind": "gain", "stops": 1,
        "map": {"element": "line", "of": "tone"}}, {"kind": "blur", "map": {"element": "grain", "of": "tone"}}])"));
    const auto names = [](const Piece& p, const char* id) {
        return text_of(p).find("\"" + std::string(id) + '"') != std::string::npos;
    };
    QVERIFY(names(whole, "line"));
    Piece p = whole;
    remove(p, {"line"});
    // Pasted again, it would be run along again.
    QVERIFY(names(p, "line") && names(p, "label") && names(p, "grain"));
    const auto kept = [](const Piece& from) {
        return recipe_from_text(text_of(kept_recipe(from, "sign", {{}, true, true, false, true})));
    };
    const Recipe straight = kept(p);
    QVERIFY(map_in((*straight.steps)[1]->what, *(*straight.steps)[1]->kind().find("by")));
    QCOMPARE(straight.elements.size(), 3u);
    QVERIFY(std::get<std::string>(straight.elements[0].source.get("path")).empty());
    remove(p, {"label"});
    QVERIFY(names(p, "label"));
    const Recipe r = kept(p);
    QCOMPARE(r.steps->size(), 5u);
    QVERIFY(!map_in((*r.steps)[1]->what, *(*r.steps)[1]->kind().find("by")));
    QVERIFY(!(*r.steps)[2]->map && !(*r.finish)[0]->map && (*r.finish)[1]->map);
    Piece over = kept_signs();
    pour(over, "other", r, {});
    QVERIFY(!names(over, "label") && !names(over, "line"));
    // What is there comes along, and what that reads: the words and the line they run along.
    QCOMPARE(kept(whole).elements.size(), 4u);
}

void TestRecipes::lengths_are_fitted_and_steps_added() {
    const Recipe r = kept_look();
    QCOMPARE(fitting_factor(r, 400, 300), 3.0);
    Piece p = kept_signs();
    pour(p, "other", r, {true, 3, Vec2{300, 200}});
    const Element& e = *find_element(p.elements, "other");
    QCOMPARE(e.steps.size(), 4u);
    QVERIFY(e.steps[0]->what.is("raise"));
    QCOMPARE(std::get<double>(e.steps[1]->what.get("width")), 30.0);
    QCOMPARE(std::get<double>(e.steps[2]->what.get("size")), 90.0);
    QCOMPARE(std::get<double>(e.steps[2]->what.get("gone")), double(0.4f)); // a share is none
    const Element* grain =
        find_element(p.elements, map_in(e.steps[2]->what, *e.steps[2]->kind().find("by"))->element);
    QVERIFY(grain && grain->id != "grain");
    QCOMPARE(std::get<double>(grain->source.get("size_u")), 60.0);
    QCOMPARE(grain->placement.x, 330.0f); // 3 × 10 px from the middle
    QVERIFY(!trouble_of([&] { pour(p, "nobody", r, {}); }).empty());
}

void TestRecipes::lights_and_finish_come_along_in_their_places() {
    // The same plate and lamps twice as large elsewhere: what is poured over it is lit as it was, px for px
    // of half the scale; in a group that is moved, too.
    const QString piece =
        R"({"bathylux": 1, "canvas": {"width": %1, "height": %1}, "ambient": {"intensity": 0.2, "occlusion": true, "radius": 12},)"
        R"( "lights": [%2], "finish": [%3], "elements": [{"id": "g", "source": {"kind": "group"}, "placement": {"x": %4, "y": %4},)"
        R"( "elements": [{"id": "e", "source": {"kind": "rectangle", "width": %5, "height": %6}, "placement": {"x": %7, "y": %8}, "steps": [%9]}]}]})";
    const QString lights =
        R"({"id": "lamp", "kind": "point", "x": 130, "y": 90, "z": 40, "distance": 60, "size": 10},)"
        R"( {"id": "close", "kind": "point", "x": 6, "y": -4, "z": 30, "distance": 50, "color": "#ff8030", "tied": "e"},)"
        R"( {"id": "sun", "kind": "directional", "angle": 100, "elevation": 35, "intensity": 0.4})";
    const auto scene = [](const QString& json) { return scene_of(json.toStdString()); };
    const Scene from = scene(piece.arg(200)
                                 .arg(lights, R"({"id": "w", "kind": "blur", "radius": 2})")
                                 .arg(110)
                                 .arg(60)
                                 .arg(40)
                                 .arg(100)
                                 .arg(85)
                                 .arg(R"({"kind": "bevel", "width": 8, "rise": 5})"));
    const Recipe kept = recipe_from_text(text_of(kept_with_size(from, "e", {{}, true, true, true, true})));
    QVERIFY(kept.lights && kept.lights->size() == 3 && kept.finish && kept.finish->size() == 1);
    Scene to = scene(piece.arg(400).arg("", "").arg(190).arg(120).arg(80).arg(230).arg(204).arg(""));
    Piece poured = *to.piece;
    pour(poured, "e", kept, pouring(to, "e", kept, false, true));
    to.piece = std::make_shared<const Piece>(poured);
    // The element's middle lay at 110, 95, and lies at 220, 194.
    const auto* lamp = poured.lights[0]->what.as<PointLight>();
    QVERIFY(lamp && lamp->x == 260 && lamp->y == 184 && lamp->z == 80 && lamp->distance == 120 &&
            lamp->size == 20);
    QVERIFY(poured.lights[1]->tied.empty()); // it went with what stayed behind
    Evaluator evaluator;
    const Region part{60, 50, 160, 140}, there{60, 52, 160, 142};
    const Strip was = look(evaluator, from, View::lit, part, 1),
                is = look(evaluator, to, View::lit, there, 0.5);
    for (int c = 0; c < 3; ++c)
        for (int y = 3; y < 87; ++y)
            for (int x = 3; x < 97; ++x)
                QVERIFY2(std::abs(was.channels[c].at(x, y) - is.channels[c].at(x, y)) < 0.01f,
                         qPrintable(QString("%1, %2: %3, %4")
                                        .arg(x)
                                        .arg(y)
                                        .arg(was.channels[c].at(x, y))
                                        .arg(is.channels[c].at(x, y))));
}

void TestRecipes::it_comes_back_from_its_text_and_wrong_ones_are_told() {
    Recipe r = kept_recipe(kept_signs(), "sign", {{"wear"}, true, true, true, true});
    r.width = 200, r.height = 100, r.files["a.png"] = "AAAA";
    QCOMPARE(r.steps->size(), 1u);
    QCOMPARE(text_of(recipe_from_text(text_of(r))), text_of(r));
    for (const auto& [text, says] :
         {std::pair{R"({"bathylux_recipe": 2})", "newer version"},
          {R"({"name": "x"})", "not a recipe"},
          {R"({"bathylux_recipe": 1, "steps": [{"kind": "bevel", "width": "wide"}]})", "width"},
          {R"({"bathylux_recipe": 1, "steps": [{"kind": "wear", "by": {"element": "gone"}}]})",
           "does not bring"},
          {R"({"bathylux_recipe": 1, "size": "large"})", "size"},
          {R"({"bathylux_recipe": 1, "steps": [{"kind": "gleam"}]})", "finish"}}) {
        const std::string trouble = trouble_of([&] { recipe_from_text(text); });
        QVERIFY2(trouble.find(says) != std::string::npos, (std::string(text) + ": " + trouble).c_str());
    }
    // What it says beyond what is known is kept.
    const std::string more = R"({"bathylux_recipe": 1, "name": "n", "steps": [], "later": {"a": 1}})";
    QVERIFY(text_of(recipe_from_text(more)).find("\"later\"") != std::string::npos);
}

void TestRecipes::alternatives_are_the_same_again_and_vary_what_was_asked() {
    const Piece p = kept_signs();
    const auto seeds = alternatives_to(p, "sign", "wear", {true, false, false}, 6);
    QCOMPARE(seeds.size(), 6u);
    QCOMPARE(content_hash(seeds[0].piece), content_hash(p));
    const auto again = alternatives_to(p, "sign", "wear", {true, false, false}, 6);
    const auto of = [](const Piece& piece, const char* id) {
        return std::get<double>(find_step(find_element(piece.elements, "sign")->steps, "wear")->what.get(id));
    };
    for (std::size_t i = 1; i < 6; ++i) {
        QCOMPARE(content_hash(seeds[i].piece), content_hash(again[i].piece));
        QVERIFY(of(seeds[i].piece, "seed") != 5 && of(seeds[i].piece, "gone") == of(p, "gone"));
        // What it reads has another seed, too.
        QVERIFY(std::get<double>(find_element(seeds[i].piece.elements, "grain")->source.get("seed")) != 3);
    }
    for (const Alternative& a : alternatives_to(p, "sign", "", {false, false, true}, 8, 4)) {
        QCOMPARE(of(a.piece, "seed"), 5.0);
        QVERIFY(of(a.piece, "gone") >= 0.19 && of(a.piece, "gone") <= 0.81);
    }
    const Vary can = what_varies(p, "sign", "bevel");
    QVERIFY(!can.seeds && !can.angles && can.strengths);
    QVERIFY(!trouble_of([&] { alternatives_to(p, "sign", "none", {}, 3); }).empty());
}

void TestRecipes::reflections_and_edges_follow_what_they_are_of() {
    Piece p = piece_from_text(
        piece_json(400, 300, R"({"id": "e", "source": {"kind": "ellipse", "width": 100, "height": 60,
        "color": "#ffffff"}, "placement": {"x": 200, "y": 100}})",
                   R"("ambient": {"intensity": 1})"));
    const Box box{150, 70, 250, 130};
    const std::string floor = reflect_on_floor(p, "e", box);
    const Scene s{std::make_shared<const Piece>(p), std::make_shared<const Assets>()};
    Evaluator evaluator;
    const Region all{0, 0, 400, 300};
    const Bundle b =
        extended_with_nothing(evaluator.run(Graph(s, 1).shown(floor), all, all, channel::all), all);
    // Right below the line it is there, at the far end it has faded, and above the line there is nothing of
    // it.
    QVERIFY(b.coverage.at(200, 140) > 0.3f && b.coverage.at(200, 185) < 0.1f &&
            b.coverage.at(200, 90) < 0.02f);
    QVERIFY(b.coverage.at(200, 140) > b.coverage.at(200, 165));
    Piece edges = p;
    const std::string outline = outline_of(edges, "e", 8), inner = inner_edge_of(edges, "e", 8);
    const Scene t{std::make_shared<const Piece>(edges), std::make_shared<const Assets>()};
    const auto cover = [&](const std::string& id, int x, int y) {
        return extended_with_nothing(evaluator.element(t, id, all, 1), all).coverage.at(x, y);
    };
    QVERIFY(cover(outline, 200, 66) > 0.9f && cover(outline, 200, 75) < 0.1f);
    QVERIFY(cover(inner, 200, 66) < 0.1f && cover(inner, 200, 75) > 0.9f && cover(inner, 200, 100) < 0.1f);
}

BATHYLUX_TEST(TestRecipes)
#include "test_recipes.moc"
