#include <QtTest>
#include <random>

#include "core/colour/blend.h"
#include "core/field/srgb.h"
#include "run.h"

using namespace bathylux;

namespace {

/// W3C Compositing and Blending Level 1, section 10.1, in double, written as the standard writes it.
double blended(BlendMode m, double b, double s) {
    const auto multiply = [](double x, double y) { return x * y; };
    const auto screen = [](double x, double y) { return x + y - x * y; };
    const auto hard = [&](double x, double y) {
        return y <= 0.5 ? multiply(x, 2 * y) : screen(x, 2 * y - 1);
    };
    switch (m) {
    case BlendMode::multiply: return multiply(b, s);
    case BlendMode::screen: return screen(b, s);
    case BlendMode::overlay: return hard(s, b);
    case BlendMode::darken: return std::min(b, s);
    case BlendMode::lighten: return std::max(b, s);
    case BlendMode::color_dodge: return b == 0 ? 0 : s == 1 ? 1 : std::min(1.0, b / (1 - s));
    case BlendMode::color_burn: return b == 1 ? 1 : s == 0 ? 0 : 1 - std::min(1.0, (1 - b) / s);
    case BlendMode::hard_light: return hard(b, s);
    case BlendMode::soft_light: {
        const double d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : std::sqrt(b);
        return s <= 0.5 ? b - (1 - 2 * s) * b * (1 - b) : b + (2 * s - 1) * (d - b);
    }
    case BlendMode::difference: return std::abs(b - s);
    case BlendMode::exclusion: return b + s - 2 * b * s;
    default: return s;
    }
}

} // namespace

class TestBlend : public QObject {
    Q_OBJECT
  private slots:
    void separable_modes_composite_as_the_standard_says() {
        std::mt19937 random(3);
        std::uniform_real_distribution<double> u(0, 1);
        for (int m = 0; m <= static_cast<int>(BlendMode::exclusion); ++m)
            for (int i = 0; i < 400; ++i) {
                const double ab = i % 5 == 0 ? 1 : u(random), as = i % 7 == 0 ? 1 : u(random), cb = u(random),
                             cs = u(random);
                std::array<float, 4> back{0, 0, 0, static_cast<float>(ab)};
                std::array<float, 4> source{0, 0, 0, static_cast<float>(as)};
                back[0] = static_cast<float>(ab) * srgb_decode(static_cast<float>(cb));
                source[0] = static_cast<float>(as) * srgb_decode(static_cast<float>(cs));
                composite(static_cast<BlendMode>(m), false, source, back);
                const double ao = as + ab - as * ab;
                const double co = (1 - ab) * as * cs + ab * as * blended(static_cast<BlendMode>(m), cb, cs) +
                                  (1 - as) * ab * cb;
                QVERIFY(std::abs(back[3] - ao) < 1e-5);
                const double got = srgb_encode(back[0] / back[3]);
                QVERIFY2(
                    std::abs(got - co / ao) < 2e-4,
                    qPrintable(QString("%1: %2 vs %3").arg(blend_names[m].data()).arg(got).arg(co / ao)));
            }
    }

    void linear_blending_mixes_light() {
        std::mt19937 random(9);
        std::uniform_real_distribution<double> u(0, 1);
        for (int m = 0; m <= static_cast<int>(BlendMode::exclusion); ++m)
            for (int i = 0; i < 200; ++i) {
                const double ab = u(random), as = u(random), cb = u(random), cs = u(random);
                std::array<float, 4> back{static_cast<float>(ab * cb), 0, 0, static_cast<float>(ab)};
                composite(static_cast<BlendMode>(m), true,
                          {static_cast<float>(as * cs), 0, 0, static_cast<float>(as)}, back);
                const double co = (1 - ab) * as * cs + ab * as * blended(static_cast<BlendMode>(m), cb, cs) +
                                  (1 - as) * ab * cb;
                QVERIFY2(std::abs(back[0] - co) < 1e-4, blend_names[m].data());
            }
    }

    void hue_modes_keep_what_their_names_say() {
        const auto lum = [](const std::array<float, 3>& c) {
            return 0.3f * c[0] + 0.59f * c[1] + 0.11f * c[2];
        };
        const auto sat = [](const std::array<float, 3>& c) {
            return std::max({c[0], c[1], c[2]}) - std::min({c[0], c[1], c[2]});
        };
        const std::array<float, 3> b{0.6f, 0.5f, 0.45f}, s{0.4f, 0.55f, 0.5f};
        QVERIFY(std::abs(lum(blend(BlendMode::color, b, s)) - lum(b)) < 1e-5f);
        QVERIFY(std::abs(lum(blend(BlendMode::luminosity, b, s)) - lum(s)) < 1e-5f);
        QVERIFY(std::abs(sat(blend(BlendMode::saturation, b, s)) - sat(s)) < 1e-5f);
        QVERIFY(std::abs(sat(blend(BlendMode::hue, b, s)) - sat(b)) < 1e-5f);
        // A grey source takes the colour away.
        const auto grey = blend(BlendMode::color, b, {0.5f, 0.5f, 0.5f});
        QVERIFY(sat(grey) < 1e-6f);
    }
};
BATHYLUX_TEST(TestBlend)
#include "test_blend.moc"
