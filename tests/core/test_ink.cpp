#include <QtTest>

#include "core/paint/brush.h"
#include "core/paint/paint_source.h"

#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

Brush brush_of(BrushWork work, Color color = rgb(255, 0, 0)) {
    Brush b;
    b.work = work, b.color = color, b.size = 20, b.hardness = 1, b.flow = 0.5f;
    return b;
}

/// A tip that covers its right half.
std::shared_ptr<const Tip> right_half() {
    Picture p;
    p.width = p.height = 16, p.channels = 4;
    for (int y = 0; y < 16; ++y)
        for (int x = 0; x < 16; ++x)
            for (int v : {0, 0, 0, x < 8 ? 0 : 255}) p.samples.push_back(static_cast<std::byte>(v));
    p.seal();
    return std::make_shared<const Tip>(p);
}

Picture grey(int w, int h, const std::function<int(int, int)>& value) {
    Picture p;
    p.width = w, p.height = h, p.channels = 1;
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) p.samples.push_back(static_cast<std::byte>(value(x, y)));
    p.seal();
    return p;
}

} // namespace

class TestInk : public QObject {
    Q_OBJECT
  private slots:
    void ink_is_laid_over_ink_and_lifted() {
        Painting p;
        dab(p, brush_of(BrushWork::ink), {0, 0}, 1, {}, 0);
        dab(p, brush_of(BrushWork::ink, rgb(0, 0, 255)), {0, 0}, 1, {}, 0);
        // Source over, in linear light: blue by half over red by half.
        const std::array<float, 4> want{0.25f, 0, 0.5f, 0.75f};
        const auto got = p.ink(0, 0);
        for (std::size_t c = 0; c < 4; ++c) QVERIFY(std::abs(got[c] - want[c]) < 1e-6f);
        QCOMPARE(p.ink(40, 40)[3], 0.0f);
        QVERIFY(p.inked() && p.height(0, 0) == 0);
        dab(p, brush_of(BrushWork::lift), {0, 0}, 1, {}, 0);
        QVERIFY(std::abs(p.ink(0, 0)[3] - 0.375f) < 1e-6f);
        // A copy keeps what it had.
        Painting copy = p;
        dab(copy, brush_of(BrushWork::ink), {0, 0}, 1, {}, 0);
        QVERIFY(std::abs(p.ink(0, 0)[3] - 0.375f) < 1e-6f);
    }

    void a_painted_layer_shows_its_ink_where_it_lies() {
        auto painting = std::make_shared<Painting>();
        Brush b = brush_of(BrushWork::ink, rgb(0, 128, 255));
        b.flow = 1;
        dab(*painting, b, {30, -10}, 1, {}, 0);
        Scene s =
            scene_of(piece_json(200, 100,
                                "{\"id\": \"layer\", \"source\": {\"kind\": \"paint\", \"ink\": \"i.exr\"},"
                                " \"placement\": {\"x\": 100, \"y\": 50}}"));
        Asset a;
        a.painting = painting, a.hash = painting->hash();
        s.assets =
            std::make_shared<const Assets>(Assets{{painting_key("i.exr"), std::make_shared<const Asset>(a)}});
        const Bundle out = Evaluator().element(s, "layer", {0, 0, 200, 100}, 1);
        QCOMPARE(out.coverage.at(130, 40), 1.0f);
        QCOMPARE(out.coverage.at(60, 40), 0.0f);
        QVERIFY(std::abs(out.color[1].at(130, 40) - srgb_decode(128 / 255.0f)) < 1e-6f);
        QVERIFY(!out.gives_height);
    }

    void tips_cover_by_alpha_or_tone_and_are_turned() {
        const auto tip = right_half();
        QVERIFY(tip->at(0.5f, 0, 16) == 1 && tip->at(-0.5f, 0, 16) == 0 && tip->at(0, 1.2f, 16) == 0);
        // Dark on a bright ground covers, and so does bright on dark.
        const Tip black(grey(9, 9, [](int x, int y) { return std::hypot(x - 4, y - 4) < 3 ? 0 : 255; })),
            white(grey(9, 9, [](int x, int y) { return std::hypot(x - 4, y - 4) < 3 ? 255 : 0; }));
        QVERIFY(black.at(0, 0, 9) > 0.9f && black.at(0.95f, 0.95f, 9) < 0.1f);
        QVERIFY(white.at(0, 0, 9) > 0.9f && white.at(0.95f, 0.95f, 9) < 0.1f);
        // A tip that is not square lies in the middle of its square.
        const Tip flat(grey(16, 4, [](int x, int) { return x > 0 && x < 15 ? 0 : 255; }));
        QVERIFY(flat.at(0, 0.8f, 16) < 0.01f);

        Brush b = brush_of(BrushWork::raise);
        b.tip = tip, b.flow = 1, b.height = 3;
        Painting straight, turned;
        dab(straight, b, {0, 0}, 1, {}, 0, 0);
        dab(turned, b, {0, 0}, 1, {}, 0, 90);
        QCOMPARE(straight.height(5, 0), 3.0f);
        QCOMPARE(straight.height(-5, 0), 0.0f);
        QCOMPARE(turned.height(0, -5), 3.0f); // a quarter counter-clockwise: its right is up
        QCOMPARE(turned.height(0, 5), 0.0f);
    }

    void chance_is_the_same_again_and_stays_near() {
        Brush b = brush_of(BrushWork::ink);
        b.tip = right_half(), b.turns = 1, b.scatter = 1, b.spacing = 1, b.flow = 1;
        const auto painted_with = [&](int seed) {
            Brush with = b;
            with.seed = seed;
            BrushStroke stroke(Painting(), with, {});
            stroke.to({0, 0}, 1);
            stroke.to({200, 0}, 1);
            return stroke.painting();
        };
        const Painting one = painted_with(1), again = painted_with(1), other = painted_with(2);
        bool same = true, different = false, near = true;
        double sum = 0;
        for (int y = -60; y < 60; ++y)
            for (int x = -40; x < 240; ++x) {
                same = same && one.ink(x, y) == again.ink(x, y);
                different = different || one.ink(x, y) != other.ink(x, y);
                near = near && (one.ink(x, y)[3] == 0 || std::abs(y) <= 26);
                sum += one.ink(x, y)[3];
            }
        QVERIFY(same && different && near);
        QVERIFY(sum > 500);
    }
};
BATHYLUX_TEST(TestInk)
#include "test_ink.moc"
