#include <QtTest>

#include "core/field/gaussian.h"
#include "run.h"

using namespace bathylux;

class TestGaussian : public QObject {
    Q_OBJECT
  private slots:
    void agrees_with_the_sampled_kernel_in_double_data() {
        QTest::addColumn<double>("sigma");
        QTest::addColumn<int>("edge");
        for (double s : {0.4, 1.0, 3.7, 4.0, 9.3, 17.0, 60.0})
            for (Edge e : {Edge::clamp, Edge::repeat, Edge::mirrored_repeat})
                QTest::addRow("%g/%d", s, static_cast<int>(e)) << s << static_cast<int>(e);
    }
    void agrees_with_the_sampled_kernel_in_double() {
        QFETCH(double, sigma);
        QFETCH(int, edge);
        constexpr int w = 167, h = 121;
        Plane in(w, h);
        std::uint32_t state = 7;
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                state = state * 1664525u + 1013904223u;
                in(x, y) = static_cast<float>(state >> 8) / (1 << 24) + (x > w / 2 ? 1.0f : 0.0f);
            }
        const Region have{5, -3, 5 + w, -3 + h}, wanted{9, 0, 5 + w - 6, -3 + h};
        const Plane out = gaussian(in, have, wanted, sigma, static_cast<Edge>(edge));

        const int radius = static_cast<int>(std::ceil(8 * sigma));
        std::vector<double> k(2 * radius + 1);
        double sum = 0;
        for (int i = -radius; i <= radius; ++i)
            sum += k[i + radius] = std::exp(-0.5 * i * i / (sigma * sigma));
        std::vector<double> rows(static_cast<std::size_t>(w) * h);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                double v = 0;
                for (int i = -radius; i <= radius; ++i)
                    v += k[i + radius] * in(wrapped(x + i, w, static_cast<Edge>(edge)), y);
                rows[y * w + x] = v / sum;
            }
        double worst = 0;
        for (int y = 0; y < wanted.height(); ++y)
            for (int x = 0; x < wanted.width(); ++x) {
                double v = 0;
                for (int i = -radius; i <= radius; ++i)
                    v += k[i + radius] *
                         rows[wrapped(wanted.y0 + y - have.y0 + i, h, static_cast<Edge>(edge)) * w +
                              wanted.x0 + x - have.x0];
                worst = std::max(worst, std::abs(v / sum - out(x, y)));
            }
        // The range is 2; a thousandth of it is asked, far less is kept.
        QVERIFY2(worst < 4e-5, qPrintable(QString::number(worst)));
    }

    void goes_row_by_row_to_the_same_bits_data() {
        QTest::addColumn<double>("sigma");
        for (const double sigma : {2.5, 9.3, 40.0}) QTest::addRow("%g", sigma) << sigma;
    }
    void goes_row_by_row_to_the_same_bits() {
        QFETCH(double, sigma);
        const Region have{-7, 4, 250, 160}, wanted{3, 4, 241, 150};
        std::array<Plane, 2> in{Plane(have.width(), have.height()), Plane(have.width(), have.height())};
        for (int y = 0; y < have.height(); ++y)
            for (int x = 0; x < have.width(); ++x)
                in[0](x, y) = static_cast<float>((x * 7 + y * 13) % 31), in[1](x, y) = in[0](x, y) - 40;
        std::array<Plane, 2> out{Plane(wanted.width(), wanted.height()),
                                 Plane(wanted.width(), wanted.height())};
        const auto each = [](auto rows, auto&& what) {
            for (std::size_t c = 0; c < 2; ++c) what(c, rows[c]);
        };
        gaussian_rows(
            2, have, wanted, sigma, Edge::repeat,
            [&](int y, std::span<float* const> rows) {
                each(rows, [&](std::size_t c, float* to) {
                    std::copy_n(in[c].row(y - have.y0), have.width(), to);
                });
            },
            [&](int y, std::span<const float* const> rows) {
                each(rows, [&](std::size_t c, const float* from) {
                    std::copy_n(from, wanted.width(), out[c].row(y - wanted.y0));
                });
            });
        for (std::size_t c = 0; c < 2; ++c) {
            const Plane whole = gaussian(in[c], have, wanted, sigma, Edge::repeat);
            for (int y = 0; y < wanted.height(); ++y)
                for (int x = 0; x < wanted.width(); ++x) QCOMPARE(out[c](x, y), whole(x, y));
        }
    }
};
BATHYLUX_TEST(TestGaussian)
#include "test_gaussian.moc"
