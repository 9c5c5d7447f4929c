// Wear: how much goes, what goes first, what it leaves; and strokes that push.
#include <QtTest>
#include <random>

#include "core/bend/pushed.h"
#include "core/paint/push.h"
#include "core/piece/edit.h"
#include "core/step/height.h"
#include "core/wear/wear.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

constexpr int worn_w = 320, worn_h = 200;

const std::string worn_plaster =
    R"(, {"id": "plaster", "mix": {"visible": false}, "source": {"kind": "noise", "seed": 5,
    "size_u": 40, "size_v": 40}})";
const std::string worn_sign =
    R"({"id": "e", "source": {"kind": "rectangle", "width": 240, "height": 130, "corner": 20,
    "color": "#b03a2e"}, "placement": {"turn": 8}, "steps": [{"kind": "bevel", "width": 16, "rise": 10}, )";

Bundle made_worn(const std::string& elements, const std::string& more = "") {
    const Region all{0, 0, worn_w, worn_h};
    return extended_with_nothing(
        Evaluator().element(scene_of(piece_json(worn_w, worn_h, elements + more)), "e", all, 1), all);
}
double sum_worn(const Field& f) {
    double sum = 0;
    for (int y = 0; y < worn_h; ++y)
        for (int x = 0; x < worn_w; ++x) sum += f.at(x, y);
    return sum;
}

} // namespace

class TestWear : public QObject {
    Q_OBJECT
  private slots:
    void what_is_gone_is_a_true_share();
    void edges_go_first_or_last_and_grooves_are_kept();
    void it_takes_print_relief_or_both();
    void what_is_worn_can_be_read();
    void the_wear_stays_when_the_colour_changes_and_turns_with_its_grain();
    void strokes_push_and_never_fold();
    void a_push_composes_with_what_was_pushed_before();
    void a_pushed_step_reads_its_strokes();
};

void TestWear::what_is_gone_is_a_true_share() {
    const double all = sum_worn(made_worn(worn_sign + R"({"kind": "trim"}]})").coverage);
    for (const char* by : {R"("size": 30)", R"("by": {"element": "plaster"})",
                           R"("by": {"element": "plaster"}, "contrast": 40)", R"("by": {"element": "white"})",
                           R"("by": {"element": "", "of": "height"})"})
        for (const double gone : {0.0, 0.03, 0.35, 0.8, 1.0})
            for (const double softness : {0.0, 0.7}) {
                if (softness > 0 && gone != 0.35) continue;
                const auto json = QString(R"({"kind": "wear", "gone": %1, "softness": %2, %3}]})")
                                      .arg(gone)
                                      .arg(softness)
                                      .arg(by);
                const Bundle b = made_worn(worn_sign + json.toStdString(),
                                           worn_plaster + R"(, {"id": "white", "mix": {"visible": false},
                    "source": {"kind": "rectangle", "width": 900, "height": 900, "color": "#ffffff"}})");
                const double left = 1 - sum_worn(b.coverage) / all, worn = sum_worn(b.worn) / all;
                QVERIFY2(std::abs(left - gone) < 0.02 && std::abs(worn - gone) < 0.02,
                         qPrintable(QString("%1: %2 gone, %3 worn").arg(json).arg(left).arg(worn)));
                if (gone == 0 || gone == 1) QVERIFY(std::abs(left - gone) < 1e-6);
            }
    // The middle of the edge in ranks: what lies before it adds up to the share.
    for (const double gone : {0.02, 0.5, 0.97})
        for (const double s : {0.01, 0.3, 1.0}) {
            const double c = wear_edge(gone, s);
            double sum = 0;
            for (int i = 0; i < 20000; ++i)
                sum += std::clamp((c - (i + 0.5) / 20000) / s + 0.5, 0.0, 1.0) / 20000;
            QVERIFY(std::abs(sum - gone) < 1e-4);
        }
}

void TestWear::edges_go_first_or_last_and_grooves_are_kept() {
    const auto taken = [](const std::string& members, const std::function<bool(int, int)>& where) {
        const Bundle b =
            made_worn(R"({"id": "e", "source": {"kind": "rectangle", "width": 240, "height": 130}, "steps":
            [{"kind": "bevel", "width": 40, "rise": 20, "profile": "chamfer"}, {"kind": "wear", "gone": 0.4, "size": 30,
            "softness": 0, )" +
                      members + "}]}");
        double sum = 0, n = 0;
        for (int y = 0; y < worn_h; ++y)
            for (int x = 0; x < worn_w; ++x)
                if (where(x, y)) sum += b.worn.at(x, y), ++n;
        return sum / n;
    };
    const auto rim = [](int x, int y) {
        return x >= 40 && x < 280 && y >= 35 && y < 165 && (x < 50 || x >= 270 || y < 45 || y >= 155);
    };
    const auto middle = [](int x, int y) { return x >= 90 && x < 230 && y >= 85 && y < 115; };
    QVERIFY(taken(R"("edges": 1)", rim) > 0.85 && taken(R"("edges": 1)", middle) < 0.35);
    QVERIFY(taken(R"("edges": -1)", rim) < 0.15 && taken(R"("edges": -1)", middle) > 0.4);
    // The middle stands high, the rim lies deep.
    QVERIFY(taken(R"("edges": 0, "grooves": 1)", middle) > 0.9 &&
            taken(R"("edges": 0, "grooves": 1)", rim) < 0.1);
    QVERIFY(taken(R"("edges": 0, "grooves": -1)", rim) > 0.9);
}

void TestWear::it_takes_print_relief_or_both() {
    const auto of = [](const char* what, double depth) {
        return made_worn(worn_sign + QString(R"({"kind": "wear", "gone": 0.5, "of": "%1", "depth": %2}]})")
                                         .arg(what)
                                         .arg(depth)
                                         .toStdString());
    };
    const Bundle was = made_worn(worn_sign + R"({"kind": "trim"}]})"), print = of("print", 3),
                 relief = of("relief", 3), deep = of("both", 400);
    double same = 0, lower = 0, cover = 0, floor = 0;
    for (int y = 0; y < worn_h; ++y)
        for (int x = 0; x < worn_w; ++x) {
            const double k = relief.worn.at(x, y) / std::max(1e-6f, was.coverage.at(x, y));
            same = std::max(same, std::abs(double(print.height.at(x, y)) - was.height.at(x, y)));
            cover = std::max(cover, std::abs(double(relief.coverage.at(x, y)) - was.coverage.at(x, y)));
            if (was.coverage.at(x, y) > 0.99f)
                lower = std::max(
                    lower, std::abs(relief.height.at(x, y) - std::max(0.0, was.height.at(x, y) - 3 * k)));
            floor = std::min(floor, double(deep.height.at(x, y)));
            const double a = print.coverage.at(x, y);
            if (a > 0.01) QVERIFY(std::abs(print.color[0].at(x, y) / a - srgb_decode(0xb0 / 255.0f)) < 1e-3);
        }
    QVERIFY2(same < 1e-6 && cover < 1e-6 && lower < 1e-3 && floor >= 0,
             qPrintable(QString("%1 %2 %3 %4").arg(same).arg(cover).arg(lower).arg(floor)));
}

void TestWear::what_is_worn_can_be_read() {
    // Rust where the print went, as a mask; and metal driven by it.
    const Scene s =
        scene_of(piece_json(worn_w, worn_h, worn_sign + R"({"kind": "wear", "gone": 0.4, "of": "relief"}],
        "surface": {"metallic": 1, "maps": {"metallic": {"element": "", "of": "worn", "black": 0}}}},
        {"id": "rust", "mix": {"mask": {"element": "e", "of": "worn"}}, "source": {"kind": "rectangle", "width": 900,
        "height": 900, "color": "#804020"}})"));
    const Region all{0, 0, worn_w, worn_h};
    Evaluator evaluator;
    const Bundle own = extended_with_nothing(evaluator.element(s, "e", all, 1), all);
    const Field map = evaluator.map(s, MapRef{"e", MapOf::worn}, all, 1);
    const Bundle rust = evaluator.run(Graph(s, 1).shown("rust"), all, all, channel::all);
    double worst = 0;
    for (int y = 0; y < worn_h; ++y)
        for (int x = 0; x < worn_w; ++x) {
            worst = std::max(worst, std::abs(double(map.at(x, y)) - own.worn.at(x, y)));
            worst = std::max(worst, std::abs(double(rust.coverage.at(x, y)) - own.worn.at(x, y)));
            worst = std::max(worst, std::abs(double(own.metallic.at(x, y)) - own.worn.at(x, y)));
        }
    QVERIFY2(worst < 1e-5, qPrintable(QString::number(worst)));
    QVERIFY(sum_worn(own.worn) > 1000);
}

void TestWear::the_wear_stays_when_the_colour_changes_and_turns_with_its_grain() {
    const std::string step = R"({"kind": "wear", "gone": 0.4, "edges": 0, "by": {"element": "grain"}}]})";
    const auto grain = [](int turn) {
        return QString(R"(, {"id": "grain", "mix": {"visible": false}, "placement": {"turn": %1}, "source":
            {"kind": "pattern", "motif": "planks"}})")
            .arg(turn)
            .toStdString();
    };
    const std::string upright =
        R"({"id": "e", "source": {"kind": "ellipse", "width": 200, "height": 140, "color": ")";
    const auto worn = [&](const std::string& color, int turn) {
        return made_worn(upright + color + R"("}, "steps": [)" + step, grain(turn)).worn;
    };
    const Field a = worn("#ff0000", 20), b = worn("#1040a0", 20), turned = worn("#ff0000", 200);
    double same = 0, differ = 0, around = 0;
    for (int y = 0; y < worn_h; ++y)
        for (int x = 0; x < worn_w; ++x) {
            same = std::max(same, std::abs(double(a.at(x, y)) - b.at(x, y)));
            differ += std::abs(a.at(x, y) - turned.at(x, y));
            around += std::abs(a.at(x, y) - turned.at(worn_w - 1 - x, worn_h - 1 - y));
        }
    QVERIFY2(same == 0 && differ > 1000 && around < differ / 4,
             qPrintable(QString("%1 %2 %3").arg(same).arg(differ).arg(around)));
}

void TestWear::strokes_push_and_never_fold() {
    std::mt19937 chance(7);
    std::uniform_real_distribution<double> place(-90, 90), unit(0, 1);
#ifdef __SANITIZE_ADDRESS__
    constexpr int rounds = 1; // all is slower there
#else
    constexpr int rounds = 9;
#endif
    for (int round = 0; round < rounds; ++round) {
        Painting p(round % 3 == 2 ? 2.0 : 1.0);
        for (int stroke = 0; stroke < 6; ++stroke) {
            Brush b;
            b.work = static_cast<BrushWork>(static_cast<int>(BrushWork::push) + (stroke + round) % 6);
            b.size = static_cast<float>(20 + 80 * unit(chance)),
            b.flow = static_cast<float>(0.2 + 0.8 * unit(chance));
            b.hardness = static_cast<float>(unit(chance));
            BrushStroke s(p, b, {});
            for (int i = 0; i < 3; ++i) s.to({place(chance), place(chance)}, 1);
            p = s.painting();
        }
        QVERIFY(!p.empty());
        const double least = least_jacobian(p, p.bounds());
        QVERIFY2(least > 0, qPrintable(QString("round %1: %2").arg(round).arg(least)));
    }
}

void TestWear::a_push_composes_with_what_was_pushed_before() {
    // Pushed 30 px to the right in one go: under the middle of the stroke it has moved about so far, far away
    // not at all.
    Brush b;
    b.work = BrushWork::push, b.size = 80, b.flow = 1, b.hardness = 0.5f;
    BrushStroke s(Painting(1), b, {});
    s.to({-15, 0}, 1), s.to({15, 0}, 1);
    const Painting& p = s.painting();
    const float right = p.height(15, 0);
    QVERIFY2(right > 20 && right < 31, qPrintable(QString::number(right)));
    QCOMPARE(p.height(80, 0), 0.0f);
    QVERIFY(std::abs(p.hidden(10, 0)) < 1);
    // Pushed back it lies about where it was; settled, just there.
    BrushStroke back(p, b, {});
    back.to({15, 0}, 1), back.to({-15, 0}, 1);
    QVERIFY(std::abs(back.painting().height(0, 0)) < 8);
    b.work = BrushWork::settle, b.size = 400;
    BrushStroke settle(p, b, {});
    for (int i = 0; i < 40; ++i) settle.to({double(i % 2), 0}, 1), settle.to({40.0 * (i % 2), 0}, 1);
    QVERIFY(std::abs(settle.painting().height(15, 0)) < 0.5f);
    // A swelling makes what is there larger: what is seen 10 px out lay nearer the middle.
    b.work = BrushWork::swell, b.size = 80;
    BrushStroke swell(Painting(1), b, {});
    swell.to({0, 0}, 1);
    QVERIFY(swell.painting().height(10, 0) > 0.5f && swell.painting().height(-11, 0) < -0.5f);
}

void TestWear::a_pushed_step_reads_its_strokes() {
    // All of a patch 12 px to the right and 5 px up: letters follow, whatever their place.
    auto painting = std::make_shared<Painting>(1.0);
    painting->change({-140, -90, 140, 90}, [](Painting::Tile& t, int, int) {
        t.height.fill(12), t.hidden.fill(-5), t.hides = true;
    });
    Scene s = scene_of(
        piece_json(worn_w, worn_h, R"({"id": "e", "source": {"kind": "ellipse", "width": 80, "height": 60},
        "placement": {"turn": 90}, "steps": [{"kind": "pushed", "file": "strokes/a.exr"}, {"kind": "bevel", "width": 8,
        "rise": 6}]})"));
    auto assets = std::make_shared<Assets>(*s.assets);
    auto strokes = std::make_shared<Asset>();
    strokes->painting = painting, strokes->hash = painting->hash();
    (*assets)[painting_key("strokes/a.exr")] = strokes;
    s.assets = assets;
    const Region all{0, 0, worn_w, worn_h};
    const Bundle b = extended_with_nothing(Evaluator().element(s, "e", all, 1), all);
    // Turned by 90° the element's right is the canvas's up, and its down the canvas's right.
    double x = 0, y = 0, n = 0;
    for (int j = 0; j < worn_h; ++j)
        for (int i = 0; i < worn_w; ++i) {
            const double a = b.coverage.at(i, j);
            x += a * (i + 0.5), y += a * (j + 0.5), n += a;
        }
    QVERIFY2(std::abs(x / n - (worn_w / 2.0 - 5)) < 0.05 && std::abs(y / n - (worn_h / 2.0 - 12)) < 0.05,
             qPrintable(QString("%1 %2").arg(x / n - worn_w / 2.0).arg(y / n - worn_h / 2.0)));
    QVERIFY(std::abs(b.height.at(worn_w / 2 - 5, worn_h / 2 - 12) - 6) < 1e-3);
}

BATHYLUX_TEST(TestWear)
#include "test_wear.moc"
