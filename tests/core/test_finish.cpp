#include <QtTest>
#include <numbers>

#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

constexpr int finish_w = 96, finish_h = 64;

/// Light that shows colours as they are, `intensity` times over.
std::string scene_json(const std::string& finish, const std::string& more = "", double intensity = 1) {
    const std::string art = R"({"id": "ground", "source": {"kind": "rectangle", "width": 200, "height": 200,
        "color": "#606870"}}, {"id": "spot", "source": {"kind": "ellipse", "width": 14, "height": 14,
        "color": "#fff0c0"}, "placement": {"x": 40, "y": 30}})";
    return piece_json(finish_w, finish_h, art,
                      R"("ambient": {"intensity": )" + std::to_string(intensity) +
                          R"(}, "surface": {"roughness": 1, "specular": 0}, "finish": [)" + finish + "]" +
                          more);
}
Strip finished_at(const std::string& json, View view = View::lit) {
    Evaluator evaluator;
    return look(evaluator, scene_of(json), view, {0, 0, finish_w, finish_h}, 1);
}
float light_at(const Strip& s, std::size_t c, int x, int y) { return s.channels[c].at(x, y); }
double luminance_at(const Strip& s, int x, int y) {
    return 0.2126 * light_at(s, 0, x, y) + 0.7152 * light_at(s, 1, x, y) + 0.0722 * light_at(s, 2, x, y);
}
double off_by(const Strip& s, const std::function<double(std::size_t, int, int)>& formula) {
    double out = 0;
    for (std::size_t c = 0; c < 3; ++c)
        for (int y = 0; y < finish_h; ++y)
            for (int x = 0; x < finish_w; ++x)
                out = std::max(out, std::abs(light_at(s, c, x, y) - formula(c, x, y)));
    return out;
}

} // namespace

class TestFinish : public QObject {
    Q_OBJECT
  private slots:
    void gleam_spreads_what_is_over_its_threshold_and_adds_nothing_else();
    void a_vignette_darkens_by_the_distance_from_the_middle();
    void grain_has_the_strength_it_says_whatever_its_size();
    void light_over_one_stays_until_it_is_rolled_off();
    void its_steps_have_shares_maps_and_their_order();
    void it_is_written_read_and_set_like_the_steps_of_elements();
};

void TestFinish::gleam_spreads_what_is_over_its_threshold_and_adds_nothing_else() {
    const Strip plain = finished_at(scene_json(""));
    // The highlights, spread by a Gaussian in double.
    const double sigma = 4, above = 0.5;
    std::vector<double> bright(finish_w * finish_h * 3);
    for (int y = 0; y < finish_h; ++y)
        for (int x = 0; x < finish_w; ++x) {
            const double light = luminance_at(plain, x, y);
            for (std::size_t c = 0; c < 3; ++c)
                bright[(y * finish_w + x) * 3 + c] =
                    light_at(plain, c, x, y) * std::max(0.0, light - above) / light;
        }
    const double tint[3] = {1, srgb_decode(0x80 / 255.0f), 0};
    const Strip gleams = finished_at(
        scene_json(R"({"kind": "gleam", "above": 0.5, "radius": 4, "strength": 0.7, "tint": "#ff8000"})"));
    double off = 0;
    for (int y = 8; y < finish_h; y += 5)
        for (int x = 8; x < finish_w; x += 5)
            for (std::size_t c = 0; c < 3; ++c) {
                double sum = 0, weight = 0;
                for (int j = -24; j <= 24; ++j)
                    for (int i = -24; i <= 24; ++i) {
                        const double k = std::exp(-(i * i + j * j) / (2 * sigma * sigma));
                        const int px = std::clamp(x + i, 0, finish_w - 1),
                                  py = std::clamp(y + j, 0, finish_h - 1);
                        sum += k * bright[(py * finish_w + px) * 3 + c], weight += k;
                    }
                off = std::max(off, std::abs(light_at(gleams, c, x, y) -
                                             (light_at(plain, c, x, y) + 0.7 * tint[c] * sum / weight)));
            }
    QVERIFY2(off < 2e-4, qPrintable(QString::number(off)));
    // Along a line: what lies beside the spot gains, what lies above it does not.
    const Strip along =
        finished_at(scene_json(R"({"kind": "gleam", "above": 0.5, "length": 60, "strength": 2})"));
    QVERIFY(light_at(along, 0, 60, 30) > light_at(plain, 0, 60, 30) + 0.05f);
    QCOMPARE(light_at(along, 0, 40, 50), light_at(plain, 0, 40, 50));
    // Nothing is over its threshold: nothing is added.
    const Strip nothing =
        finished_at(scene_json(R"({"kind": "gleam", "above": 1.5, "radius": 9, "strength": 3})"));
    QCOMPARE(off_by(nothing, [&](std::size_t c, int x, int y) { return light_at(plain, c, x, y); }), 0.0);
}

void TestFinish::a_vignette_darkens_by_the_distance_from_the_middle() {
    const Strip plain = finished_at(scene_json("")),
                dark = finished_at(
                    scene_json(R"({"kind": "vignette", "strength": 0.6, "radius": 0.7, "softness": 0.4})"));
    const double off = off_by(dark, [&](std::size_t c, int x, int y) {
        const double d = std::hypot(x + 0.5 - finish_w / 2.0, y + 0.5 - finish_h / 2.0) /
                         std::hypot(finish_w / 2.0, finish_h / 2.0),
                     t = std::clamp((d - 0.5) / 0.4, 0.0, 1.0);
        return light_at(plain, c, x, y) * (1 - 0.6 * t * t * (3 - 2 * t));
    });
    QVERIFY(off < 1e-5);
}

void TestFinish::grain_has_the_strength_it_says_whatever_its_size() {
    const std::string flat =
        piece_json(400, 300, R"({"id": "g", "source": {"kind": "rectangle", "width": 500,
        "height": 400, "color": "#808080"}})",
                   R"("ambient": {"intensity": 1}, "surface": {"roughness": 1, "specular": 0},
        "finish": [{"kind": "grain", "strength": 0.1, "size": SIZE, "seed": 5}])");
    for (const char* size : {"1", "2.5", "4"}) {
        std::string json = flat;
        json.replace(json.find("SIZE"), 4, size);
        Evaluator evaluator;
        const Strip s = look(evaluator, scene_of(json), View::lit, {0, 0, 400, 300}, 1);
        double sum = 0, squares = 0, same = 0;
        for (int y = 0; y < 300; ++y)
            for (int x = 0; x < 400; ++x) {
                const double n = (srgb_encode(s.channels[0].at(x, y)) - 0x80 / 255.0) / 0.1;
                sum += n, squares += n * n;
                if (x > 0) same += n * (srgb_encode(s.channels[0].at(x - 1, y)) - 0x80 / 255.0) / 0.1;
            }
        const double count = 400 * 300.0;
        QVERIFY2(std::abs(sum / count) < 0.02, size);
        QVERIFY2(std::abs(std::sqrt(squares / count) - 0.5) < 0.01, size);
        // Cells of one px are all apart; larger ones are not.
        QVERIFY2((std::abs(same / squares) < 0.02) == (std::string(size) == "1"), size);
    }
}

void TestFinish::light_over_one_stays_until_it_is_rolled_off() {
    // Twice as bright as paper: a step that is told in encoded values keeps it.
    const Strip bright = finished_at(scene_json(R"({"kind": "gain", "stops": 1})"));
    QVERIFY(std::abs(light_at(bright, 0, 40, 30) - 2.0f) < 1e-4f);
    const Strip curved = finished_at(scene_json(R"({"kind": "gain", "stops": 1},
        {"kind": "tone_curve", "points": [[0, 0.0], [0.5, 0.4], [1, 1]]}, {"kind": "hue", "turn": 0, "lightness": 0.001})"));
    const double end = 1 + (srgb_encode(2.0f) - 1) * 1.2; // on along the last secant
    QVERIFY2(std::abs(light_at(curved, 0, 40, 30) - srgb_decode(static_cast<float>(end))) < 2e-2,
             qPrintable(QString::number(light_at(curved, 0, 40, 30))));
    // Inverted twice it is what it was, below nothing and back.
    const Strip twice =
        finished_at(scene_json(R"({"kind": "gain", "stops": 1}, {"kind": "invert"}, {"kind": "invert"})"));
    QVERIFY(off_by(twice, [&](std::size_t c, int x, int y) { return light_at(bright, c, x, y); }) < 1e-4);
    // A contrast's formula holds.
    const Strip held =
        finished_at(scene_json(R"({"kind": "gain", "stops": 1}, {"kind": "contrast", "contrast": 1.5})"));
    QVERIFY(std::abs(light_at(held, 0, 40, 30) - 1) < 1e-5f);
    // Rolled off, and laid over the flat art, is what comes out of the finish.
    const Strip rolled =
        finished_at(scene_json(R"({"kind": "gain", "stops": 1})", R"(, "roll_off": "gentle")"));
    QVERIFY(off_by(rolled, [&](std::size_t c, int x, int y) {
                return rolled_off(RollOff::gentle, light_at(bright, c, x, y));
            }) < 1e-5);
    const Strip half = finished_at(scene_json(R"({"kind": "gain", "stops": 1})", R"(, "relight": 0.5)"));
    QVERIFY(std::abs(light_at(half, 0, 40, 30) - 1.5f) < 1e-4f);
}

void TestFinish::its_steps_have_shares_maps_and_their_order() {
    const Strip plain = finished_at(scene_json(""));
    const Strip masked = finished_at(scene_json(R"({"kind": "gain", "stops": -2, "share": 0.5,
        "map": {"element": "spot", "of": "alpha", "sink": true}})"));
    QCOMPARE(light_at(masked, 0, 40, 30), light_at(plain, 0, 40, 30));
    QVERIFY(std::abs(light_at(masked, 0, 80, 50) - light_at(plain, 0, 80, 50) * 0.625f) < 1e-5f);
    const Strip ab = finished_at(scene_json(R"({"kind": "gain", "stops": 1}, {"kind": "invert"})")),
                ba = finished_at(scene_json(R"({"kind": "invert"}, {"kind": "gain", "stops": 1})"));
    QVERIFY(std::abs(light_at(ab, 0, 80, 50) - light_at(ba, 0, 80, 50)) > 0.05f);
    // A ramp can go by the relief's height.
    const std::string fog = R"({"kind": "ramp", "of": "height", "low": 0, "high": 10,
        "stops": [[0, "#ff0000"], [1, "#0000ff"]]})";
    std::string raised = scene_json(fog);
    const std::string spot = R"("placement": {"x": 40, "y": 30}})";
    raised.replace(raised.find(spot), spot.size(),
                   R"("placement": {"x": 40, "y": 30}, "steps": [{"kind": "raise", "amount": 10}]})");
    const Strip tinted = finished_at(raised);
    QVERIFY(light_at(tinted, 2, 40, 30) > 0.99f && light_at(tinted, 0, 40, 30) < 0.01f);
    QVERIFY(light_at(tinted, 0, 80, 50) > 0.99f);
    // Unfinished, none of it is there.
    const Strip unfinished = finished_at(scene_json(R"({"kind": "invert"})"), View::unfinished);
    QCOMPARE(off_by(unfinished, [&](std::size_t c, int x, int y) { return light_at(plain, c, x, y); }), 0.0);
}

void TestFinish::it_is_written_read_and_set_like_the_steps_of_elements() {
    const std::string json = scene_json(
        R"({"kind": "tone_curve", "channel": "red"}, {"kind": "gleam"}, {"kind": "gleam", "length": 80})");
    Piece piece = piece_from_text(json);
    QCOMPARE(piece.finish.size(), 3u);
    QCOMPARE(piece.finish[2]->id, std::string("gleam-2"));
    QCOMPARE(text_of(piece_from_text(text_of(piece))), text_of(piece));
    set_parameter(piece, "finish.gleam-2.radius", "7");
    set_parameter(piece, "finish.tone_curve.points", "[[0,0],[1,0.5]]");
    set_parameter(piece, "finish.gleam.on", "false");
    QCOMPARE(std::get<double>(piece.finish[2]->what.get("radius")), 7.0);
    QCOMPARE(piece.finish[1]->on, false);
    QVERIFY(trouble_of([&] { set_parameter(piece, "finish.bevel.rise", "3"); }).find("finish") !=
            std::string::npos);
    // An element that has the finish's name gets another, and what reads it follows.
    const Piece named = piece_from_text(piece_json(
        9, 9,
        R"({"id": "finish", "source": {"kind": "rectangle"}}, {"id": "b", "source": {"kind": "rectangle"},
            "mix": {"mask": {"element": "finish"}}})"));
    QCOMPARE(named.elements[1]->mix.mask->element, named.elements[0]->id);
    QVERIFY(named.elements[0]->id != finish_id);
    // What belongs elsewhere says where.
    QVERIFY(trouble_of([&] { piece_from_text(scene_json(R"({"kind": "bevel"})")); }).find("elements") !=
            std::string::npos);
    QVERIFY(trouble_of([&] {
                piece_from_text(piece_json(
                    9, 9, R"({"id": "a", "source": {"kind": "rectangle"}, "steps": [{"kind": "gleam"}]})"));
            }).find("finish") != std::string::npos);
    QVERIFY(trouble_of([&] {
                piece_from_text(scene_json(R"({"kind": "gleam", "id": "x"}, {"kind": "grain", "id": "x"})"));
            }).find("\"x\"") != std::string::npos);
}

BATHYLUX_TEST(TestFinish)
#include "test_finish.moc"
