// Each control on its own, under a hand that does whatever comes to it, and what is typed.
#include <QLineEdit>
#include <QTest>
#include <QToolTip>
#include <random>

#include "app/controls/color_field.h"
#include "app/controls/profile_editor.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/stops_editor.h"
#include "app/controls/theme.h"
#include "app/controls/tone_window.h"
#include "files/type.h"
#include "run.h"

using namespace bathylux;

namespace controls_alone {

/// A seeded hand on one widget: presses, drags, double clicks and keys, within and somewhat beyond it.
class WidgetHand {
  public:
    WidgetHand(QWidget& on, unsigned seed) : on_(on), random_(seed) {}

    void act() {
        // While a button is down there is little else one does.
        switch (held_ ? below(3) : below(10)) {
        case 0:
            // Now and then the other button comes in between.
            if (held_ == Qt::LeftButton && below(4) == 0) {
                send(QEvent::MouseButtonPress, Qt::RightButton, true);
                return send(QEvent::MouseButtonRelease, Qt::RightButton, true);
            }
            [[fallthrough]];
        case 1:
            // And a letting go that another window got.
            if (held_ && below(12) == 0) held_ = {};
            return send(QEvent::MouseMove, held_);
        case 2:
            if (held_) return send(QEvent::MouseButtonRelease, std::exchange(held_, {}));
            return send(QEvent::MouseMove, {});
        case 3:
        case 4:
        case 5:
            held_ = below(8) ? Qt::LeftButton : Qt::RightButton;
            return send(QEvent::MouseButtonPress, held_);
        case 6:
            send(QEvent::MouseButtonPress, Qt::LeftButton);
            send(QEvent::MouseButtonRelease, Qt::LeftButton);
            send(QEvent::MouseButtonDblClick, Qt::LeftButton, true);
            return send(QEvent::MouseButtonRelease, Qt::LeftButton, true);
        default: return key();
        }
    }
    void letGo() {
        if (held_) send(QEvent::MouseButtonRelease, std::exchange(held_, {}));
        send(QEvent::MouseMove, {}); // what was let go elsewhere is known by this
    }
    int below(int n) { return std::uniform_int_distribution<>(0, n - 1)(random_); }

  private:
    void key() {
        static constexpr Qt::Key keys[] = {Qt::Key_Left,     Qt::Key_Right,  Qt::Key_Up,     Qt::Key_Down,
                                           Qt::Key_PageUp,   Qt::Key_Home,   Qt::Key_End,    Qt::Key_Delete,
                                           Qt::Key_PageDown, Qt::Key_Insert, Qt::Key_Delete, Qt::Key_Right};
        QTest::keyClick(&on_, keys[below(std::size(keys))], modifiers());
    }
    Qt::KeyboardModifiers modifiers() {
        return below(4) ? Qt::NoModifier : below(2) ? Qt::ShiftModifier : Qt::ControlModifier;
    }
    void send(QEvent::Type type, Qt::MouseButton button, bool there = false) {
        // Half of what it does is near where it was.
        if (!there)
            at_ = below(2) ? at_ + QPointF(below(9) - 4, below(9) - 4)
                           : QPointF(below(on_.width() + 60) - 30, below(on_.height() + 60) - 30);
        const bool down = type != QEvent::MouseButtonRelease;
        QMouseEvent e(type, at_, on_.mapToGlobal(at_), type == QEvent::MouseMove ? Qt::NoButton : button,
                      down ? button | held_ : Qt::MouseButtons(held_), modifiers());
        QApplication::sendEvent(&on_, &e);
    }
    QWidget& on_;
    std::mt19937 random_;
    Qt::MouseButton held_{};
    QPointF at_{20, 20};
};

/// How often a stroke was begun and not yet ended.
struct Strokes {
    int open = 0;
    bool sound = true;
    template <class W> explicit Strokes(W& w) {
        QObject::connect(&w, &W::strokeBegan, &w, [this] { sound = sound && ++open == 1; });
        QObject::connect(&w, &W::strokeEnded, &w, [this] { sound = sound && open-- == 1; });
    }
};

} // namespace controls_alone
using controls_alone::WidgetHand, controls_alone::Strokes;

class TestControls : public QObject {
    Q_OBJECT

    static void seeds() {
        QTest::addColumn<unsigned>("seed");
        for (unsigned s = 1; s <= 6; ++s) QTest::addRow("%u", s) << s;
    }
    /// Shown, so that it has a size and takes keys.
    template <class W> static void put(W& w) {
        w.resize(260, w.sizeHint().height());
        w.show();
        w.setFocus();
    }
    /// A hand acts on it so many times; what has to hold is asked after each. What it began it ended.
    template <class W> static void handled(W& w, int acts, const std::function<void(int)>& holds) {
        QFETCH(unsigned, seed);
        put(w);
        Strokes strokes(w);
        WidgetHand hand(w, seed);
        for (int i = 0; i < acts; ++i) {
            hand.act();
            holds(i);
            if (QTest::currentTestFailed()) return;
        }
        hand.letGo();
        QVERIFY(strokes.sound);
        QCOMPARE(strokes.open, 0);
    }

  private slots:
    void initTestCase() {
        files::load_shipped_fonts();
        Theme::apply(*qApp, true);
    }

    void a_scale_keeps_within_what_may_be_typed_data() { seeds(); }
    void a_scale_keeps_within_what_may_be_typed() {
        QFETCH(unsigned, seed);
        RuledScale::Look look;
        look.low = -10, look.high = 40, look.floor = -25, look.ceiling = 60, look.standard = 5;
        look.whole = seed % 2;
        RuledScale scale(look);
        double said = 0;
        connect(&scale, &RuledScale::valueChanged, &scale, [&](double v) { said = v; });
        handled(scale, 600, [&](int i) {
            if (i % 100 == 0) scale.setValue(i % 200 ? std::optional<double>(said) : std::nullopt);
            QVERIFY(said >= look.floor && said <= look.ceiling);
            QVERIFY(!look.whole || said == std::round(said));
            QVERIFY(!scale.value() || *scale.value() >= look.floor);
        });
    }

    void a_ramps_stops_rise_and_one_is_left_data() { seeds(); }
    void a_ramps_stops_rise_and_one_is_left() {
        StopsStrip strip;
        strip.setStops({{0, rgb(10, 20, 30)}, {0.5f, rgb(200, 90, 40)}, {1, rgb(250, 240, 230)}});
        Stops said = strip.stops();
        connect(&strip, &StopsStrip::changed, &strip, [&](const Stops& s) { said = s; });
        std::size_t most = 0;
        handled(strip, 800, [&](int) {
            QVERIFY(said.size() >= 1 && said.size() <= most_stops);
            QVERIFY(said == strip.stops()); // nothing is changed that is not told
            for (std::size_t k = 0; k < said.size(); ++k) {
                QVERIFY(said[k].at >= 0 && said[k].at <= 1);
                QVERIFY(k == 0 || said[k].at - said[k - 1].at > 0.0009f);
            }
            QVERIFY(strip.chosen() >= 0 && strip.chosen() < static_cast<int>(said.size()));
            most = std::max(most, said.size());
        });
        QVERIFY(most > 3);
    }

    void a_curve_goes_on_to_the_right_data() { seeds(); }
    void a_curve_goes_on_to_the_right() {
        QFETCH(unsigned, seed);
        CurveEditor editor;
        Points said{{0, 0}, {1, 1}};
        if (seed % 2) {
            Profile own(Profile::Shape::own);
            own.points = said;
            editor.setProfile(own);
        } else
            editor.setPoints(said);
        connect(&editor, &CurveEditor::changed, &editor, [&](const Profile& p) { said = p.points; });
        std::size_t most = 0;
        handled(editor, 1200, [&](int) {
            QVERIFY(said.size() >= 2 && said.size() <= 32);
            QVERIFY(said.front().first == 0 && said.back().first == 1);
            for (std::size_t k = 0; k < said.size(); ++k) {
                QVERIFY2(k == 0 || said[k].first - said[k - 1].first > 0.0049f,
                         qPrintable(QString::number(said[k].first - said[k - 1].first)));
                QVERIFY(said[k].second >= -0.25f && said[k].second <= 1.25f);
            }
            most = std::max(most, said.size());
        });
        QVERIFY(most > 4);
    }

    void a_tone_window_is_open_and_slides_as_a_whole_data() { seeds(); }
    void a_tone_window_is_open_and_slides_as_a_whole() {
        ToneWindow window;
        window.setCounts(std::vector<int>(64, 10));
        window.setWindow(0.2, 0.7);
        double low = 0.2, high = 0.7;
        connect(&window, &ToneWindow::windowChanged, &window, [&](double l, double h) {
            low = l, high = h;
            window.setWindow(l, h); // as its card does
        });
        handled(window, 600, [&](int) { QVERIFY(high - low > 0.0039 && low >= -1 && high <= 2); });
        // By its middle it goes as far as its first end does, and keeps its width.
        window.setWindow(0.2, 0.7);
        for (const int to : {-4000, 4000}) {
            QTest::mousePress(&window, Qt::LeftButton, {}, QPoint(120, 40));
            QMouseEvent move(QEvent::MouseMove, QPointF(to, 40), window.mapToGlobal(QPointF(to, 40)),
                             Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&window, &move);
            QVERIFY(std::abs(high - low - 0.5) < 1e-9);
            QVERIFY(std::abs(to < 0 ? low + 1 : high - 2) < 1e-9);
            QTest::mouseRelease(&window, Qt::LeftButton, {}, QPoint(120, 40));
            window.setWindow(0.2, 0.7);
        }
    }

    void a_colour_stays_one_that_can_be_told_data() { seeds(); }
    void a_colour_stays_one_that_can_be_told() {
        HueRule rule;
        ChromaField field;
        for (LchControl* c : {static_cast<LchControl*>(&rule), static_cast<LchControl*>(&field)}) {
            c->setLch({0.6, 0.1, 200});
            Lch said{0.6, 0.1, 200};
            connect(c, &LchControl::changed, c, [&](const Lch& l) { said = l; });
            handled(*c, 400, [&](int) {
                QVERIFY(said.lightness >= 0 && said.lightness <= 1);
                QVERIFY(said.chroma >= 0 && said.chroma <= most_chroma + 1e-9);
                QVERIFY(said.hue >= 0 && said.hue <= 360);
                const Color shown = fromLch(said);
                for (const float v : {shown.r, shown.g, shown.b}) QVERIFY(v >= 0 && v <= 1);
            });
        }
        // Fewer colours than the one chosen last: keys take none that is gone.
        Swatches swatches("kept");
        put(swatches);
        swatches.setColors({rgb(1, 2, 3), rgb(4, 5, 6), rgb(7, 8, 9)});
        std::optional<Color> taken;
        connect(&swatches, &Swatches::picked, &swatches, [&](const Color& c) { taken = c; });
        for (int i = 0; i < 4; ++i) QTest::keyClick(&swatches, Qt::Key_Right);
        QTest::keyClick(&swatches, Qt::Key_Space);
        QCOMPARE(*taken, rgb(7, 8, 9));
        swatches.setColors({rgb(1, 2, 3)});
        QTest::keyClick(&swatches, Qt::Key_Space);
        QCOMPARE(*taken, rgb(1, 2, 3));
    }

    /// What is typed counts when it is a number; when it is none, it stays to be mended, and says what is
    /// wrong.
    void what_is_typed_is_read_or_told() {
        RuledScale::Look look;
        look.name = "Width", look.unit = "px", look.high = 100, look.floor = 0, look.ceiling = 400;
        look.pxPerMm = 12;
        RuledScale scale(look);
        put(scale);
        scale.setValue(20);
        const auto open = [&] { return scale.findChild<QLineEdit*>(); };
        const auto type = [&](const QString& text, Qt::Key end) {
            QTest::keyClick(&scale, Qt::Key_Return);
            if (!open()) return false;
            open()->selectAll();
            QTest::keyClicks(open(), text);
            QTest::keyClick(open(), end);
            QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
            return true;
        };
        QVERIFY(type("2 mm + 6", Qt::Key_Return) && !open());
        QCOMPARE(*scale.value(), 30.0);
        QVERIFY(type("90", Qt::Key_Escape) && !open());
        QCOMPARE(*scale.value(), 30.0);
        QVERIFY(type("wide", Qt::Key_Return));
        QVERIFY(open() && open()->text() == "wide" && open()->selectedText() == "wide");
        QVERIFY(open()->accessibleDescription().contains("“wide” is no number"));
        QCOMPARE(*scale.value(), 30.0);
        const QString unread = open()->styleSheet();
        QTest::keyClicks(open(), "48/4");
        QVERIFY(open()->styleSheet() != unread); // and is no more marked once it is mended
        QTest::keyClick(open(), Qt::Key_Return);
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        QVERIFY(!open());
        QCOMPARE(*scale.value(), 12.0);
        // Beyond what there is: as far as it goes. A digit opens the figure with itself.
        QVERIFY(type("4000", Qt::Key_Return));
        QCOMPARE(*scale.value(), 400.0);
        QTest::keyClicks(&scale, "7");
        QVERIFY(open());
        QCOMPARE(open()->text(), QString("7"));
        QTest::keyClick(open(), Qt::Key_Enter);
        QCOMPARE(*scale.value(), 7.0);
        QToolTip::hideText();
    }
};

BATHYLUX_TEST(TestControls)
#include "test_controls.moc"
