#include <QtTest>

#include "core/light/lights.h"
#include "core/piece/edit.h"
#include "core/piece/kinds.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

class TestCodec : public QObject {
    Q_OBJECT
  private slots:
    void what_is_not_known_is_written_back() {
        const Json in = parse_json(
            R"({"bathylux": 1, "later": {"a": [1, 2]}, "canvas": {"width": 10, "height": 20, "fold": 3},
            "elements": [{"id": "e", "tag": "x", "source": {"kind": "rectangle", "width": 5, "glow": 7}, "placement": {"x": 1, "corner": 2}, "mix": {"soul": 1},
                          "surface": {"roughness": 0.2, "sheen": 1}, "steps": [{"kind": "bevel", "width": 3, "whim": true}]}],
            "lights": [{"id": "l", "kind": "point", "halo": 2}], "ambient": {"tint": 4}})");
        const Json out = to_json(piece_from_json(in));
        QCOMPARE(out["later"], in["later"]);
        QCOMPARE(out["canvas"]["fold"], 3);
        const Json& e = out["elements"][0];
        QCOMPARE(e["tag"], "x");
        QCOMPARE(e["source"]["glow"], 7);
        QCOMPARE(e["placement"]["corner"], 2);
        QCOMPARE(e["mix"]["soul"], 1);
        QCOMPARE(e["surface"]["sheen"], 1);
        QCOMPARE(e["steps"][0]["whim"], true);
        QCOMPARE(out["lights"][0]["halo"], 2);
        QCOMPARE(out["ambient"]["tint"], 4);
        QCOMPARE(to_json(piece_from_json(out)), out); // and it stays so
    }

    void every_parameter_survives_the_file() {
        // One of each kind, every number off its default.
        Piece p;
        p.canvas.height_range = {-3.5f, 12.25f};
        const auto varied = [](Described d) {
            for (const Parameter& q : d.kind().parameters)
                if (q.type == Parameter::Type::number || q.type == Parameter::Type::whole)
                    d = d.with(q, held(q, std::get<double>(d.get(q)) * 0.75 + 0.125));
            return d;
        };
        for (const SourceKind& k : source_kinds()) {
            Element e;
            e.id = "e-" + std::string(k.id);
            e.source = varied(Described(k));
            for (const StepKind& s : step_kinds())
                e.steps.push_back(Step{"s-" + std::string(s.id), s.id != "soften", varied(Described(s))});
            e.surface =
                Surface{0.31f, 0.77f, 0.4f, 0.2f, 0.3f, 0.6f, 0.7f, 0.1f, 0.9f, {0.1f, 0.2f, 0.3f, 1}};
            if (!p.elements.empty())
                e.surface->maps = {
                    {"roughness", 0.125f,
                     MapRef{p.elements[0]->id, MapOf::height, 0.25f, 0.75f, true, k.id != "noise"}}};
            p.elements.push_back(e);
        }
        for (const LightKind& k : light_kinds())
            p.lights.push_back(
                Light{"l-" + std::string(k.id), "", false, varied(Described(k)), {}, true, "e-type"});
        Mood day;
        day.id = "day", day.name = "Day", day.lights = p.lights, day.exposure = 1.5f,
        day.ambient.intensity = 0.75f;
        for (auto& l : day.lights) l = l.with([](Light& light) { light.id += "-day"; });
        p.moods = {day, {"night", "Night"}};
        p.mood = "night";
        p.roll_off = RollOff::film, p.relight = 0.5f, p.relight_blend = BlendMode::soft_light;
        const Json out = to_json(p);
        QCOMPARE(to_json(piece_from_json(parse_json(out.dump()))), out);
        QVERIFY(out["elements"].size() == source_kinds().size());
    }

    void bad_pieces_are_refused_in_a_sentence_data() {
        QTest::addColumn<QString>("json");
        QTest::addColumn<QString>("says");
        const auto piece = [](const QString& element) {
            return R"({"bathylux": 1, "canvas": {"width": 10, "height": 10}, "elements": [)" + element + "]}";
        };
        QTest::newRow("not a piece") << R"({"a": 1})"
                                     << "not a Bathylux piece";
        QTest::newRow("not JSON") << R"({"bathylux": 1,,})"
                                  << "not valid JSON (at line 1";
        QTest::newRow("no canvas") << R"({"bathylux": 1})"
                                   << "no canvas";
        QTest::newRow("absurd canvas") << R"({"bathylux": 1, "canvas": {"width": 1e9, "height": 5}})"
                                       << "from 1 to 16384";
        QTest::newRow("deep") << QString("[").repeated(5000) << "nested more than 64 deep";
        QTest::newRow("unknown step")
            << piece(R"({"id": "a", "source": {"kind": "ellipse"}, "steps": [{"kind": "shimmer"}]})")
            << "no step of kind \"shimmer\"";
        QTest::newRow("unknown source")
            << piece(R"({"id": "a", "source": {"kind": "hologram"}})") << "no source of kind \"hologram\"";
        QTest::newRow("twice")
            << piece(
                   R"({"id": "a", "source": {"kind": "ellipse"}}, {"id": "a", "source": {"kind": "ellipse"}})")
            << "Two elements have the id \"a\"";
        QTest::newRow("word for number")
            << piece(R"({"id": "a", "source": {"kind": "ellipse", "width": "wide"}})")
            << "\"width\" takes a number, not \"wide\"";
        QTest::newRow("bad choice")
            << piece(R"({"id": "a", "source": {"kind": "ellipse"}, "mix": {"blend": "smudge"}})") << "smudge";
        QTest::newRow("bad colour")
            << piece(R"({"id": "a", "source": {"kind": "ellipse", "color": "red-ish"}})") << "red-ish";
        QTest::newRow("unknown finish")
            << R"({"bathylux": 1, "canvas": {"width": 10, "height": 10}, "finish": [{"kind": "fairy"}]})"
            << "no finish of kind \"fairy\"";
    }
    void bad_pieces_are_refused_in_a_sentence() {
        QFETCH(QString, json);
        QFETCH(QString, says);
        const std::string trouble = trouble_of([&] { piece_from_json(parse_json(json.toStdString())); });
        QVERIFY2(QString::fromStdString(trouble).contains(says), trouble.c_str());
        QVERIFY(trouble.ends_with("."));
    }

    void one_value_can_be_set_by_its_path() {
        Piece p =
            *scene_of(
                 piece_json(
                     100, 100,
                     R"({"id": "t", "source": {"kind": "ellipse"}, "steps": [{"kind": "bevel", "id": "edge"}, {"kind": "soften"}]})",
                     R"("lights": [{"id": "key", "kind": "point"}])"))
                 .piece;
        set_parameter(p, "t.edge.width", "33.5");
        set_parameter(p, "t.soften.radius", "7");
        set_parameter(p, "t.bevel.profile", "cove");
        set_parameter(p, "t.placement.turn", "-12");
        set_parameter(p, "key.z", "90");
        set_parameter(p, "exposure", "1.5");
        set_parameter(p, "t.source.color", "#102030");
        const Json j = to_json(p);
        QCOMPARE(j["elements"][0]["steps"][0]["width"], 33.5);
        QCOMPARE(j["elements"][0]["steps"][0]["profile"], "cove");
        QCOMPARE(j["elements"][0]["steps"][1]["radius"], 7);
        QCOMPARE(j["elements"][0]["placement"]["turn"], -12);
        QCOMPARE(j["lights"][0]["z"], 90);
        QCOMPARE(j["exposure"], 1.5);
        QCOMPARE(j["elements"][0]["source"]["color"], "#102030");
        QVERIFY(!trouble_of([&] { set_parameter(p, "t.edge.girth", "1"); }).empty());
        QVERIFY(!trouble_of([&] { set_parameter(p, "nobody.edge.width", "1"); }).empty());
    }

    void the_tree_is_edited_as_one_expects() {
        Piece p =
            *scene_of(
                 piece_json(
                     200, 100,
                     R"({"id": "a", "source": {"kind": "ellipse"}}, {"id": "b", "source": {"kind": "ellipse"}, "placement": {"x": 30, "y": 40, "turn": 20}}, {"id": "c", "source": {"kind": "ellipse"}})"))
                 .piece;
        const auto order = [&] {
            std::string s;
            for_each_element(p.elements, [&](const Element& e) { s += e.id + " "; });
            return s;
        };
        QVERIFY(bathylux::move(p, {"a"}, "", 3));
        QCOMPARE(order(), "b c a ");
        QCOMPARE(duplicate(p, {"c"}), Ids{"c-2"});
        QCOMPARE(order(), "b c c-2 a ");
        const Placement before = find_element(p.elements, "b")->placement;
        const std::string g = group(p, {"b", "a"});
        QCOMPARE(order(), "c c-2 group b a ");
        QVERIFY(!bathylux::move(p, {g}, g, 0)); // never into itself
        // Turned and scaled as a group, taken apart: seen where it was.
        change(p, g,
               [](Element& e) { e.placement.turn = 30, e.placement.scale_u = e.placement.scale_v = 2; });
        const Affine seen = find_element(p.elements, g)->placement.matrix() * Affine::translation(-100, -50) *
                            before.matrix();
        ungroup(p, g);
        const Affine now = find_element(p.elements, "b")->placement.matrix();
        for (const Vec2 q : {Vec2{0, 0}, {10, 0}, {0, 10}}) QVERIFY(length(seen(q) - now(q)) < 1e-3);
        remove(p, {"c", "c-2"});
        QCOMPARE(order(), "b a ");
    }
};
BATHYLUX_TEST(TestCodec)
#include "test_codec.moc"
