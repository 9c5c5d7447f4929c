// The same piece gives the same bits: with two threads on one evaluator, with shadows kept or made, and with
// the vector unit switched down to its oldest set.
#include <hwy/targets.h>

#include <QtTest>
#include <cstring>
#include <thread>

#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

#ifdef __SANITIZE_ADDRESS__
constexpr int rounds = 1; // all is slower there
constexpr bool every_set = false;
#else
constexpr int rounds = 6;
constexpr bool every_set = true;
#endif

std::string lights() {
    return R"("lights": [
        {"id": "sun", "kind": "directional", "angle": 140, "elevation": 30, "shadow": true, "size": 2},
        {"id": "lamp", "kind": "point", "x": 200, "y": 60, "z": 60, "distance": 200, "shadow": true, "size": 6},
        {"id": "sky", "kind": "sky", "shadow": true}],
        "ambient": {"intensity": 0.3, "occlusion": true})";
}

bool same(const Strip& a, const Strip& b) {
    if (a.channels.size() != b.channels.size()) return false;
    for (std::size_t c = 0; c < a.channels.size(); ++c)
        for (int y = 0; y < a.region.height(); ++y)
            for (int x = 0; x < a.region.width(); ++x) {
                const float u = a.channels[c].at(x, y), v = b.channels[c].at(x, y);
                if (std::memcmp(&u, &v, 4) != 0) return false;
            }
    return true;
}

} // namespace

class TestSameBits : public QObject {
    Q_OBJECT
    Scene scene_ = scene_of(piece_json(340, 220, busy_elements(), lights()));
    Region all_{0, 0, 340, 220};

  private slots:
    void two_threads_on_one_evaluator() {
        Evaluator alone(0);
        const Strip expected = look(alone, scene_, View::lit, all_, 1);
        Evaluator shared(std::size_t{2} << 20, {0, 128}); // so small that what is kept is let go again
        std::atomic<int> wrong = 0;
        const auto work = [&](int seed) {
            for (int i = 0; i < rounds; ++i) {
                const int x = (seed * 61 + i * 47) % 200, y = (seed * 31 + i * 29) % 120;
                const Region part{x, y, x + 140, y + 100};
                Evaluator own(0, {0, 128});
                wrong +=
                    !same(look(shared, scene_, View::lit, part, 1), look(own, scene_, View::lit, part, 1));
            }
        };
        { const std::jthread one(work, 1), two(work, 2); }
        QCOMPARE(wrong.load(), 0);
        // Asked again, what was kept gives what was made.
        Evaluator kept;
        QVERIFY(same(look(kept, scene_, View::lit, all_, 1), expected));
        QVERIFY(same(look(kept, scene_, View::lit, all_, 1), expected));
    }

    void with_the_vector_unit_switched_down() {
        // Steps that bend, glass and a finish besides: what is read between px, and by several of them.
        const Scene bent = scene_of(piece_json(
            170, 110,
            R"({"id": "waves", "source": {"kind": "noise", "size": 40, "octaves": 2}, "mix": {"visible": false}},
               {"id": "ground", "source": {"kind": "noise", "size": 25, "octaves": 3},
                "steps": [{"kind": "ramp", "repeats": 3}, {"kind": "blur", "radius": 9},
                          {"kind": "displace", "by": {"from": "waves"}, "across": 60, "down": 35}]},
               {"id": "plate", "source": {"kind": "rectangle", "width": 80, "height": 50, "color": "#c08040"},
                "steps": [{"kind": "melt", "radius": 5}, {"kind": "perspective", "tl_x": 22, "tr_x": -9, "tr_y": 14},
                          {"kind": "bevel", "width": 8, "rise": 6}, {"kind": "extrude", "length": 30, "taper": 0.7, "rise": 4}]},
               {"id": "pane", "source": {"kind": "ellipse", "width": 90, "height": 60}, "placement": {"x": 110, "y": 60},
                "steps": [{"kind": "bevel", "width": 20, "rise": 12}],
                "surface": {"transmission": 0.9, "thickness": 18, "roughness": 0.4, "attenuation_color": "#80c0a0",
                            "attenuation_distance": 25}})",
            R"("lights": [{"id": "l", "kind": "directional", "angle": 140, "elevation": 40}],
               "finish": [{"kind": "gleam", "above": 0.3, "radius": 14}])"));
        const Region small{0, 0, 170, 110};
        const auto seen = [&] {
            Evaluator alone(0);
            return std::array{look(alone, scene_, View::lit, all_, 1),
                              look(alone, bent, View::lit, small, 1)};
        };
        const auto expected = seen();
        const auto use = [](std::int64_t disabled) {
            hwy::DisableTargets(disabled);
            hwy::GetChosenTarget().DeInit();
        };
        const std::int64_t all = hwy::SupportedTargets();
        int sets = 0;
        for (std::int64_t rest = all; rest; rest &= rest - 1, ++sets) {
            const std::int64_t only = rest & -rest;
            if (!every_set && rest != only) continue; // the plainest is the last
            use(all & ~only);
            const auto made = seen();
            use(0);
            for (std::size_t i = 0; i < 2; ++i)
                QVERIFY2(same(made[i], expected[i]),
                         qPrintable(QString("scene %1 by %2").arg(i).arg(hwy::TargetName(only))));
        }
        QVERIFY(sets > 1);
    }
};
BATHYLUX_TEST(TestSameBits)
#include "test_same_bits.moc"
