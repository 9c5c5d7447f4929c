// Easing against an independent solver; keys, links and poses; which frame of a clip is shown.
#include <QtTest>

#include "core/error.h"
#include "core/field/oklab.h"
#include "core/make/clip_source.h"
#include "core/piece/codec.h"
#include "core/piece/kinds.h"
#include "core/piece/pose.h"
#include "core/piece/references.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

/// The y of a CSS cubic Bézier at x, in long double, by nothing but halving.
double solved_by_halving(double x1, double y1, double x2, double y2, double x) {
    const auto at = [](long double p, long double q, long double s) {
        return 3 * (1 - s) * (1 - s) * s * p + 3 * (1 - s) * s * s * q + s * s * s;
    };
    long double low = 0, high = 1;
    for (int i = 0; i < 200; ++i) {
        const long double s = (low + high) / 2;
        (at(x1, x2, s) < x ? low : high) = s;
    }
    return static_cast<double>(at(y1, y2, (low + high) / 2));
}

std::string moving(const std::string& width, const std::string& more = "") {
    std::string json =
        "{'bathylux': 1, 'canvas': {'width': 200, 'height': 100}, 'time': {'rate': '24/1', 'frames': 48},"
        "'elements': [{'id': 'bar', 'source': {'kind': 'rectangle', 'width': " +
        width +
        ", 'height': 20}, 'steps': [{'kind': 'bevel', 'id': 'edge', 'width': 5, 'rise': {'link': "
        "'lamp.intensity', "
        "'gain': -12, 'offset': 1}}]}" +
        more +
        "], 'lights': [{'id': 'lamp', 'kind': 'directional', 'intensity': {'keys': [[0, 0], [10, 2]]}}]}";
    std::replace(json.begin(), json.end(), '\'', '"');
    return json;
}
double number_at(const Piece& p, const char* path, double frame) {
    return std::get<double>(number_there(posed(p, frame), path).value);
}
std::string refusal(const std::string& json) {
    try {
        piece_from_text(json);
    } catch (const Error& e) {
        return e.what();
    }
    return {};
}

} // namespace

class TestTime : public QObject {
    Q_OBJECT
  private slots:
    void easing_is_what_css_says() {
        const double beziers[][4] = {{0.25, 0.1, 0.25, 1},  {0.42, 0, 1, 1},  {0, 0, 0.58, 1},
                                     {0.42, 0, 0.58, 1},    {0, 1, 1, 0},     {1, 0, 0, 1},
                                     {0.3, -1.5, 0.6, 2.5}, {0, 0.7, 0, 0.7}, {0.999, 0, 0.001, 1}};
        for (const auto& b : beziers)
            for (int i = 0; i <= 1000; ++i) {
                const double x = i / 1000.0, got = bezier(b[0], b[1], b[2], b[3]).at(x),
                             want = i == 0      ? 0
                                    : i == 1000 ? 1
                                                : solved_by_halving(b[0], b[1], b[2], b[3], x);
                QVERIFY2(std::abs(got - want) < 1e-6,
                         qPrintable(QString("%1: %2 %3").arg(x).arg(got).arg(want)));
            }
        // Steps as the standard's table has them, at the middle of each.
        const auto steps = [](const char* text, std::initializer_list<double> want) {
            const Easing e = easing_from_text(text).value();
            int i = 0;
            for (const double v : want) {
                const double t = (i++ + 0.5) / static_cast<double>(want.size());
                QVERIFY2(std::abs(e.at(t) - v) < 1e-12, text);
            }
        };
        steps("steps(4)", {0, 0.25, 0.5, 0.75});
        steps("steps(4, jump-start)", {0.25, 0.5, 0.75, 1});
        steps("steps(4, jump-none)", {0, 1 / 3.0, 2 / 3.0, 1});
        steps("steps(4, jump-both)", {0.2, 0.4, 0.6, 0.8});
        steps("step-start", {1});
        QCOMPARE(easing_from_text("steps(4)")->at(1), 1.0);
        // By name and back; what is none is none.
        for (const char* text : {"linear", "ease", "ease-in", "ease-out", "ease-in-out", "step-start",
                                 "step-end", "cubic-bezier(0.1, -2, 0.9, 3)", "steps(7, jump-both)"})
            QCOMPARE(QString::fromStdString(to_string(easing_from_text(text).value())), QString(text));
        for (const char* text :
             {"", "bounce", "cubic-bezier(2, 0, 0, 1)", "cubic-bezier(0, 0, 1)", "steps(0)",
              "steps(1, jump-none)", "steps(2.5)", "cubic-bezier(nan, 0, 0, 1)"})
            QVERIFY2(!easing_from_text(text), text);
        // Backwards it is the same curve seen from its end.
        for (const char* text : {"ease-in", "cubic-bezier(0.1, -2, 0.9, 3)"})
            for (double t = 0; t <= 1; t += 0.05) {
                const Easing e = *easing_from_text(text);
                QVERIFY(std::abs(reversed(e).at(t) - (1 - e.at(1 - t))) < 1e-9);
            }
    }

    void keys_hold_repeat_and_bounce() {
        Keys keys{{{0, 4.0, {}}, {24, 30.0, *easing_from_text("ease-in-out")}, {60, 12.0, {}}}, After::hold};
        const auto at = [&](double f) { return std::get<double>(keys.at(f)); };
        QCOMPARE(at(-100), 4.0);
        QCOMPARE(at(12), 17.0);
        QVERIFY(std::abs(at(42) - 21) < 1e-9); // the middle of a curve that is even about its middle
        QCOMPARE(at(60), 12.0);
        QCOMPARE(at(1000), 12.0);
        keys.after = After::repeat;
        QCOMPARE(at(60), 12.0); // the last key's frame shows its own value
        QCOMPARE(at(72), at(12));
        QCOMPARE(at(61), at(1));
        keys.after = After::bounce;
        QCOMPARE(at(60), 12.0);
        QCOMPARE(at(61), at(59));
        QCOMPARE(at(120), 4.0);
        QCOMPARE(at(132), at(12));
        // Colours run in OKLab.
        const Keys colors{{{0, rgb(255, 0, 0), {}}, {10, rgb(0, 0, 255), {}}}, After::hold};
        const Color half = std::get<Color>(colors.at(5));
        const auto lab = [](const Color& c) {
            return to_oklab(srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b));
        };
        const Lab a = lab(rgb(255, 0, 0)), b = lab(rgb(0, 0, 255)), m = lab(half);
        QVERIFY(std::abs(m.lightness - (a.lightness + b.lightness) / 2) < 1e-4 &&
                std::abs(m.a - (a.a + b.a) / 2) < 1e-4 && std::abs(m.b - (a.b + b.b) / 2) < 1e-4);
    }

    void links_follow_chains_and_what_is_set() {
        Piece p = piece_from_text(moving("{'keys': [[0, 10], [20, 50]]}",
                                         ", {'id': 'two', 'source': {'kind': 'rectangle', 'width': {'link': "
                                         "'bar.bevel.rise', 'gain': -2}, 'height': 4}}"));
        QCOMPARE(number_at(p, "bar.source.width", 5), 20.0);
        QCOMPARE(number_at(p, "bar.edge.rise", 5), -11.0);
        QCOMPARE(number_at(p, "two.source.width", 5), 22.0); // by the step's kind, through two links
        QCOMPARE(number_at(p, "two.source.width", 0), 0.0);  // held where its parameter ends
        // What has none stays the very same node.
        const Piece later = posed(p, 7);
        QVERIFY(later.elements[0].hash() != p.elements[0].hash());
        QVERIFY(posed(p, 30).elements[0].hash() == posed(p, 31).elements[0].hash());
        // --set replaces keys, and links follow what was set.
        set_parameter(p, "lamp.intensity", "3");
        QVERIFY(!motion_of(p, "lamp.intensity"));
        QCOMPARE(number_at(p, "bar.edge.rise", 40), -35.0);
        QCOMPARE(number_at(p, "two.source.width", 40), 70.0);
        // The file keeps it all.
        const std::string text = text_of(p);
        QCOMPARE(text_of(piece_from_text(text)), text);
        QVERIFY(text.find("\"link\"") != std::string::npos && text.find("\"keys\"") != std::string::npos);
        // A link follows the copy of what it leads to.
        Element copy = p.elements[1];
        rename_references(copy,
                          [](const std::string& id) { return id == "bar" ? std::string("bar-2") : id; });
        QCOMPARE(QString::fromStdString(std::get<Link>(copy.source_motions.at("width")).to),
                 QString("bar-2.bevel.rise"));
        // What leads to nothing leaves the value, and is told.
        p.lights.clear();
        p.elements.erase(p.elements.begin());
        QCOMPARE(loose_links(p).size(), std::size_t{1});
        QCOMPARE(number_at(p, "two.source.width", 3),
                 std::get<double>(number_there(p, "two.source.width").value));
    }

    /// Every number and colour of every kind of source, step, light and finish, of placement, mixing,
    /// surface, camera and body has keys, which are written, read again and followed.
    void everything_moves() {
        std::string json =
            "{'bathylux': 1, 'canvas': {'width': 200, 'height': 100}, 'solid': {'body': 'box', "
            "'surface': {}}, 'finish': [";
        const auto apart = [&] { return json.back() == '}' ? "," : ""; };
        const auto listed = [&](const auto& kinds) {
            for (const auto& kind : kinds) {
                const std::string id(kind.id);
                json += apart() + ("{'id': 'a-" + id + "', 'kind': '" + id + "'}");
            }
        };
        listed(finish_kinds());
        json += "], 'lights': [";
        listed(light_kinds());
        json += "], 'elements': [";
        for (const SourceKind& kind : source_kinds()) {
            const std::string id(kind.id);
            if (id == "twin") continue; // it needs somebody to follow
            json += apart() + ("{'id': 'of-" + id + "', 'surface': {'roughness': 0.5}, 'source': {'kind': '" +
                               id + "'}, 'steps': [");
            if (id == "type") listed(step_kinds());
            json += "]}";
        }
        json += "]}";
        std::replace(json.begin(), json.end(), '\'', '"');
        Piece p = piece_from_text(json);
        struct Moving {
            std::string path;
            Moved from, to;
        };
        std::vector<Moving> all;
        for_each_part(p, [&](const MovingPart& part) {
            for (const Parameter& q : part.parameters) {
                if (q.type == Parameter::Type::color)
                    all.push_back({part.path + std::string(q.id), rgb(10, 200, 40), rgb(240, 20, 90)});
                if (q.type != Parameter::Type::number) continue;
                const double low = std::max(q.range.low, q.range.floor),
                             high = std::min(q.range.high, q.range.ceiling);
                all.push_back(
                    {part.path + std::string(q.id), low + 0.2 * (high - low), low + 0.7 * (high - low)});
            }
        });
        QVERIFY(all.size() > 350);
        for (const Moving& m : all)
            set_motion(p, m.path, Keys{{{0, m.from, {}}, {10, m.to, {}}}, After::hold});
        const Piece again = piece_from_text(text_of(p));
        QCOMPARE(text_of(again), text_of(p));
        const Piece now = posed(again, 4);
        for (const Moving& m : all) {
            const NumberThere there = number_there(now, m.path);
            QVERIFY2(there.parameter && number_there(again, m.path).motion, m.path.c_str());
            if (const auto* color = std::get_if<Color>(&m.from)) {
                const Color want = mixed_in_oklab(*color, std::get<Color>(m.to), 0.4),
                            is = std::get<Color>(there.value);
                const double off =
                    std::abs(want.r - is.r) + std::abs(want.g - is.g) + std::abs(want.b - is.b);
                // Colours are held in bytes, as they are written.
                QVERIFY2(off < 1.51 / 255, qPrintable(QString("%1 %2").arg(m.path.c_str()).arg(off)));
            } else {
                const double a = std::get<double>(m.from), want = a + 0.4 * (std::get<double>(m.to) - a);
                QVERIFY2(std::abs(std::get<double>(there.value) - want) < 1e-5 * (1 + std::abs(want)),
                         qPrintable(QString("%1: %2, not %3")
                                        .arg(m.path.c_str())
                                        .arg(std::get<double>(there.value))
                                        .arg(want)));
            }
        }
        // What is set by its path takes the place of its keys.
        for (const Moving& m : all) {
            const auto* n = std::get_if<double>(&m.to);
            set_parameter(p, m.path, n ? QString::number(*n, 'g', 9).toStdString() : "#0a0b0c");
            QVERIFY2(!number_there(p, m.path).motion, m.path.c_str());
        }
        QVERIFY(!moves(p));
    }

    /// What a step reads by has a window that moves as well, and a link in it follows copies.
    void maps_of_steps_move() {
        std::string json =
            "{'bathylux': 1, 'canvas': {'width': 200, 'height': 100}, 'elements': [{'id': 'bar', 'source': "
            "{'kind': 'rectangle', 'width': 50, 'height': 20}, 'steps': [{'kind': 'displace', 'id': 'torn', "
            "'across': "
            "9, 'by': {'element': 'grain', 'low': {'keys': [[0, 0], [10, 0.5]]}, 'high': {'link': "
            "'bar.torn.by.low', 'offset': 0.5}}}]}, {'id': 'grain', 'source': {'kind': 'noise'}}]}";
        std::replace(json.begin(), json.end(), '\'', '"');
        Piece p = piece_from_text(json);
        QVERIFY(std::holds_alternative<Keys>(*motion_of(p, "bar.torn.by.low")));
        QCOMPARE(number_at(p, "bar.torn.by.low", 5), 0.25);
        QCOMPARE(number_at(p, "bar.displace.by.high", 5), 0.75);
        QCOMPARE(text_of(piece_from_text(text_of(p))), text_of(p));
        Element copy = p.elements[0];
        rename_references(copy,
                          [](const std::string& id) { return id == "bar" ? std::string("bar-2") : id; });
        const auto& by = map_in(copy.steps[0]->what, *copy.steps[0]->kind().find("by"));
        QCOMPARE(QString::fromStdString(std::get<Link>(by->motions.at("high")).to),
                 QString("bar-2.torn.by.low"));
        set_motion(p, "bar.torn.by.low", std::nullopt);
        QVERIFY(!motion_of(p, "bar.torn.by.low"));
    }

    void the_hand_sets_keys_where_it_moves_what_has_some() {
        const Piece p = posed(piece_from_text(moving("{'keys': [[0, 10], [20, 50, 'ease-in']]}")), 10);
        Piece after = p;
        change(after, "bar", [](Element& e) { e.source = e.source.with("width", 44.0); });
        keep_moved(p, after, 10);
        const Keys keys = std::get<Keys>(*motion_of(after, "bar.source.width"));
        QCOMPARE(keys.list.size(), std::size_t{3});
        QCOMPARE(std::get<double>(keys.list[1].value), 44.0);
        QCOMPARE(number_at(after, "bar.source.width", 10), 44.0);
        QCOMPARE(number_at(after, "bar.source.width", 20), 50.0);
        // What follows gets another offset.
        Piece bent = p;
        change(bent, "bar", [](Element& e) {
            e.steps[0] = e.steps[0].with([](Step& s) { s.what = s.what.with("rise", 5.0); });
        });
        keep_moved(p, bent, 10);
        QCOMPARE(number_at(bent, "bar.edge.rise", 10), 5.0);
        QCOMPARE(std::get<Link>(*motion_of(bent, "bar.edge.rise")).gain, -12.0);
    }

    void what_is_wrong_is_told() {
        const auto told = [](const std::string& width, const char* says) {
            const std::string why = refusal(moving(width));
            QVERIFY2(why.find(says) != std::string::npos,
                     qPrintable(QString::fromStdString(width + ": " + why)));
        };
        told("{'keys': [[5, 1], [5, 2]]}", "must ascend");
        told("{'keys': [[9, 1], [2, 2]]}", "must ascend");
        told("{'keys': []}", "takes 1 to");
        told("{'keys': [[0, 'wide']]}", "takes a number");
        told("{'keys': [[0, 1e300]]}", "between");
        told("{'keys': [[0, 1, 'boing']]}", "eases as CSS has it");
        told("{'keys': [[0, 1], [4, 2]], 'after': 'explode'}", "hold, repeat or bounce");
        told("{'link': ''}", "names no number");
        told("{'link': 'bar.source.width'}", "in a circle");
        told("{'link': 'bar.source.height', 'gain': 'much'}", "\"gain\"");
        std::string still =
            "{\"bathylux\": 1, \"canvas\": {\"width\": {\"keys\": [[0, 4]]}, \"height\": 10}}";
        QVERIFY(!refusal(still).empty());
        for (const char* rate : {"\"0/1\"", "\"24/0\"", "\"1e9\"", "-4", "\"100000/1\"", "\"x\"", "2.5"})
            QVERIFY2(
                refusal("{\"bathylux\": 1, \"canvas\": {\"width\": 9, \"height\": 9}, \"time\": {\"rate\": " +
                        std::string(rate) + "}}")
                        .find("\"rate\"") != std::string::npos,
                rate);
        for (const char* frames : {"0", "-1", "99999999999", "1.5"})
            QVERIFY(
                refusal(
                    "{\"bathylux\": 1, \"canvas\": {\"width\": 9, \"height\": 9}, \"time\": {\"frames\": " +
                    std::string(frames) + "}}")
                    .find("\"frames\"") != std::string::npos);
    }

    void clips_show_the_last_frame_begun() {
        // Ten frames at 24000/1001 a second, rounded to ms as a container has them.
        std::vector<double> begins;
        for (int i = 0; i < 10; ++i) begins.push_back(std::round(i * 1001 / 24000.0 * 1000) / 1000);
        const ClipTimes times{begins, 0.417, 0.001};
        const Rate same{24000, 1001};
        ClipSource clip;
        for (int n = 0; n < 10; ++n) QCOMPARE(clip_frame(clip, times, n, same), n);
        QCOMPARE(clip_frame(clip, times, -4, same), 0);
        QCOMPARE(clip_frame(clip, times, 400, same), 9);
        clip.past = Past::nothing;
        QCOMPARE(clip_frame(clip, times, 10, same), -1);
        QCOMPARE(clip_frame(clip, times, -1, same), -1);
        clip.past = Past::repeat;
        for (int n = -30; n < 60; ++n) QCOMPARE(clip_frame(clip, times, n, same), ((n % 10) + 10) % 10);
        clip.past = Past::bounce;
        const int there_and_back[] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 8, 7, 6, 5, 4, 3, 2, 1};
        for (int n = -40; n < 60; ++n)
            QCOMPARE(clip_frame(clip, times, n, same), there_and_back[((n % 18) + 18) % 18]);
        clip.past = Past::hold;
        clip.start = 5, clip.speed = 2;
        QCOMPARE(clip_frame(clip, times, 8, same), 6);
        clip.speed = 0;
        QCOMPARE(clip_frame(clip, times, 8, same), 0);
        clip.start = 0, clip.speed = -1;
        QCOMPARE(clip_frame(clip, times, 0, same), 9);
        QCOMPARE(clip_frame(clip, times, 4, same), 6);
        clip.speed = 1, clip.first = static_cast<float>(3 * 1001 / 24000.0);
        QCOMPARE(clip_frame(clip, times, 0, same), 3);
        clip.last = static_cast<float>(6 * 1001 / 24000.0);
        QCOMPARE(clip_frame(clip, times, 40, same), 5); // out is no more shown
        // Half as often: every second one.
        clip.first = clip.last = 0;
        for (int n = 0; n < 5; ++n) QCOMPARE(clip_frame(clip, times, n, {12000, 1001}), 2 * n);
    }
};

BATHYLUX_TEST(TestTime)
#include "test_time.moc"
