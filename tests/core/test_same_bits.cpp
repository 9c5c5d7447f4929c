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
#else
constexpr int rounds = 6;
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
        Evaluator alone(0);
        const Strip expected = look(alone, scene_, View::lit, all_, 1);
        const std::int64_t best = hwy::SupportedTargets() & -hwy::SupportedTargets(); // the lowest bit
        const auto use = [](std::int64_t disabled) {
            hwy::DisableTargets(disabled);
            hwy::GetChosenTarget().DeInit();
        };
        // All but the plainest there is.
        std::int64_t plainest = 0;
        for (std::int64_t t = hwy::SupportedTargets(); t; t &= t - 1) plainest = t & -t;
        QVERIFY(plainest > best);
        use(hwy::SupportedTargets() & ~plainest);
        Evaluator again(0);
        const Strip plain = look(again, scene_, View::lit, all_, 1);
        use(0);
        QVERIFY(same(plain, expected));
    }
};
BATHYLUX_TEST(TestSameBits)
#include "test_same_bits.moc"
