#include <QtTest>
#include <fstream>
#include <random>
#include <tbb/global_control.h>
#include <thread>

#include "core/check/checks.h"
#include "core/error.h"
#include "core/field/gaussian.h"
#include "core/field/machine_memory.h"
#include "core/field/parallel.h"
#include "core/field/plane_memory.h"
#include "core/make/recognise.h"
#include "core/render/develop.h"
#include "core/render/sounding.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

const std::string busy = busy_elements();

double psnr(const Plane& a, const Plane& b, double range) {
    double sum = 0;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) sum += std::pow(double(a(x, y)) - b(x, y), 2);
    return 10 * std::log10(range * range / std::max(1e-12, sum / a.width() / a.height()));
}

} // namespace

class TestEvaluate : public QObject {
    Q_OBJECT
  private slots:
    void a_region_is_a_part_of_the_whole() {
        const Scene s = scene_of(piece_json(340, 220, busy));
        const Bundle whole = relief_of(s);
        Evaluator evaluator;
        for (const Region r : {Region{40, 30, 180, 90}, {0, 0, 64, 220}, {150, 100, 340, 220}}) {
            const Bundle part = evaluator.relief(s, r, 1);
            for (int y = 0; y < r.height(); ++y)
                for (int x = 0; x < r.width(); ++x) {
                    QVERIFY(std::abs(part.height.at(x, y) - whole.height.at(r.x0 + x, r.y0 + y)) < 2e-4);
                    QVERIFY(std::abs(part.color[0].at(x, y) - whole.color[0].at(r.x0 + x, r.y0 + y)) < 2e-5);
                }
        }
    }

    /// What lasts stays when results come and go, but never has more than half; all stays within the limit.
    void a_budget_keeps_what_lasts() {
        Budget budget(100);
        const auto put = [&](std::uint64_t key, std::size_t bytes, Lasts lasts = Lasts::result) {
            budget.keep(key, {std::make_shared<const int>(1), bytes}, lasts);
        };
        for (std::uint64_t k = 0; k < 8; ++k) put(k, 10, Lasts::lasting);
        QVERIFY(!budget.has(2) && budget.has(3) && budget.bytes() == 50);
        for (std::uint64_t k = 100; k < 120; ++k) put(k, 20);
        QVERIFY(budget.has(3) && budget.has(7) && budget.has(119) && !budget.has(117));
        QVERIFY(budget.bytes() <= 100);
        budget.find(118); // used, so that the other goes
        put(200, 20);
        QVERIFY(budget.has(118) && !budget.has(119));
        put(201, 60, Lasts::lasting);
        QVERIFY(!budget.has(201) && budget.has(7)); // too large for its half
        put(202, 90);
        QVERIFY(budget.bytes() <= 100);
    }

    /// Large planes that memory is not to hold lie in files without a name, and are as good.
    void planes_that_memory_does_not_hold_lie_in_files() {
        const auto in_files = [] {
            QFile maps("/proc/self/maps");
            return maps.open(QIODevice::ReadOnly) ? maps.readAll().count("/bathylux-") : -1;
        };
        const auto smoothed = [](const Plane& of) {
            const Region all{0, 0, of.width(), of.height()};
            return gaussian(of, all, all, 40, Edge::clamp);
        };
        constexpr int side = 4352; // 72 MiB
        Plane waves(side, side);
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) waves(x, y) = static_cast<float>((x * 37 + y * 91) % 1009);
        const Plane before = smoothed(waves);
        const std::size_t kept = plane_memory::kept_in_memory();
        QVERIFY(kept > plane_memory::large);
        QCOMPARE(in_files(), 0);
        plane_memory::keep_in_memory(0);
        const auto as_it_was = qScopeGuard([kept] { plane_memory::keep_in_memory(kept); });
        {
            const Plane copy(waves), after = smoothed(copy);
            QCOMPARE(in_files(), 2);
            QCOMPARE(worst_difference(before, after), 0.0);
            QVERIFY(QDir("/var/tmp").entryList({"bathylux-*"}).isEmpty());
            const Plane small(64, 64);
            QCOMPARE(in_files(), 2);
        }
        QCOMPARE(in_files(), 0);
    }

    void planes_taken_and_let_go_by_many_never_lie_over_one_another() {
        // Of all sizes: from the C library, several to a huge page, and in pages of their own.
        constexpr std::array sides{8, 100, 180, 181, 300, 420, 500, 699, 700, 723, 724, 900, 1400, 2000};
        std::atomic<int> wrong = 0;
        const auto work = [&](unsigned seed) {
            std::mt19937 random(seed);
            std::vector<std::pair<Plane, float>> held;
            const auto is_as_written = [&](const std::pair<Plane, float>& p) {
                const int w = p.first.width(), h = p.first.height();
                for (int y = 0; y < h; ++y)
                    for (int x = 0; x < w; x += y % 16 ? 97 : 1)
                        if (p.first(x, y) != p.second + static_cast<float>(y)) return false;
                return reinterpret_cast<std::uintptr_t>(p.first.row(h - 1)) % 64 == 0;
            };
            for (int i = 0; i < 600; ++i) {
                if (held.size() < 12 && random() % 3 > 0) {
                    const int side = sides[random() % sides.size()];
                    auto& [plane, value] = held.emplace_back(Plane(side, side + 3), float(random() % 1000));
                    for (int y = 0; y < plane.height(); ++y)
                        std::fill_n(plane.row(y), plane.width(), value + static_cast<float>(y));
                } else if (!held.empty()) {
                    const std::size_t which = random() % held.size();
                    wrong += !is_as_written(held[which]);
                    held.erase(held.begin() + static_cast<std::ptrdiff_t>(which));
                }
            }
            for (const auto& p : held) wrong += !is_as_written(p);
        };
        std::vector<std::jthread> threads;
        for (unsigned seed = 1; seed <= 4; ++seed) threads.emplace_back(work, seed);
        threads.clear();
        QCOMPARE(wrong.load(), 0);
    }

    void a_containers_limit_counts_and_one_that_says_nothing_does_not() {
        QTemporaryDir dir;
        const std::filesystem::path root = dir.path().toStdString();
        std::filesystem::create_directories(root / "user" / "art");
        const auto says = [&](const std::filesystem::path& group, const char* limit) {
            std::ofstream(root / group / "memory.max") << limit << "\n";
        };
        QCOMPARE(least_memory_limit(root, "/user/art"), std::nullopt);
        says("user/art", "max"), says("user", "4294967296");
        QCOMPARE(least_memory_limit(root, "/user/art"), std::size_t{4} << 30); // of the group above
        says("user/art", "1073741824"), says("", "2147483648");
        QCOMPARE(least_memory_limit(root, "/user/art"), std::size_t{1} << 30);
        QCOMPARE(least_memory_limit(root, "/elsewhere/on/the/host"), std::size_t{2} << 30);
        QCOMPARE(least_memory_limit(root, "/"), std::size_t{2} << 30);
        QVERIFY(plane_memory::kept_in_memory() <= machine_memory() / 2);
    }

    void halvings_asked_for_by_many_at_once_are_those_asked_for_by_one() {
        const auto value = [](double x, double y) { return static_cast<float>(std::sin(x * 0.3) * y / 600); };
        const auto read = [](const Picture& p) {
            return p.texels(Picture::Reading::stored, 4, {0, 0, 40, 30}, Edge::clamp).rgba;
        };
        const Plane alone = read(*picture_of(900, 600, value));
        for (int turn = 0; turn < 8; ++turn) {
            const auto shared = picture_of(900, 600, value);
            std::vector<Plane> of(32);
            // From within a loop, too: whoever waits for the rows of a halving may be given another of these.
            parallel_blocks(0, 32, 1, [&](int i, int) { of[static_cast<std::size_t>(i)] = read(*shared); });
            for (const Plane& p : of) QCOMPARE(worst_difference(p, alone), 0.0);
        }
    }

    void the_cache_changes_nothing() {
        Evaluator kept;
        Scene s = scene_of(piece_json(340, 220, busy));
        for (const char* width : {"14", "20", "26", "20"}) {
            Piece p = *s.piece;
            set_parameter(p, "g.placement.turn", width);
            set_parameter(p, "plate.bevel.width", width);
            s.piece = std::make_shared<const Piece>(p);
            const Region all = canvas_region(p.canvas, 1);
            Bundle b = kept.relief(s, all, 1);
            QCOMPARE(worst_difference(b.height.writable(all.width(), all.height()), height_of(s)), 0.0);
        }
    }

    void threads_do_not_change_a_pixel() {
        const Scene s = scene_of(piece_json(340, 220, busy));
        const Plane many = height_of(s);
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        QCOMPARE(worst_difference(many, height_of(s)), 0.0);
    }

    void half_scale_looks_the_same() {
        const Scene s = scene_of(piece_json(340, 220, busy));
        const Plane full = height_of(s), half = height_of(s, 0.5);
        Plane reduced(half.width(), half.height());
        for (int y = 0; y < half.height(); ++y)
            for (int x = 0; x < half.width(); ++x)
                reduced(x, y) = 0.25f * (full(2 * x, 2 * y) + full(2 * x + 1, 2 * y) +
                                         full(2 * x, 2 * y + 1) + full(2 * x + 1, 2 * y + 1));
        const auto [low, high] = range_of(Field(full));
        QVERIFY2(psnr(reduced, half, high - low) >= 35,
                 qPrintable(QString::number(psnr(reduced, half, high - low))));
    }

    void heights_join_as_their_modes_say_data() {
        QTest::addColumn<QString>("mode");
        QTest::addColumn<double>("both");  // where the ellipse (own 3) lies on the plate (5)
        QTest::addColumn<double>("alone"); // where it lies on nothing (0)
        QTest::newRow("add") << "add" << 8.0 << 3.0;
        QTest::newRow("subtract") << "subtract" << 2.0 << -3.0;
        QTest::newRow("higher") << "higher" << 5.0 << 3.0;
        QTest::newRow("lower") << "lower" << 3.0 << 0.0;
        QTest::newRow("replace") << "replace" << 3.0 << 3.0;
        QTest::newRow("carve") << "carve" << -3.0 << -3.0;
    }
    void heights_join_as_their_modes_say() {
        QFETCH(QString, mode);
        QFETCH(double, both);
        QFETCH(double, alone);
        const std::string elements =
            QString(
                R"({"id": "p", "source": {"kind": "rectangle", "width": 60, "height": 60}, "placement": {"x": 30, "y": 30}, "steps": [{"kind": "raise", "amount": 5}]},
            {"id": "o", "source": {"kind": "rectangle", "width": 80, "height": 20}, "placement": {"x": 60, "y": 30}, "mix": {"height": "%1", "opacity": 0.5}, "steps": [{"kind": "raise", "amount": 3}]})")
                .arg(mode)
                .toStdString();
        // On the canvas, and the same inside a group: a group of all is no change.
        for (const std::string& e :
             {elements, R"({"id": "g", "source": {"kind": "group"}, "elements": [)" + elements + "]}"}) {
            const Plane h = height_of(scene_of(piece_json(110, 60, e)));
            QVERIFY(std::abs(h(40, 30) - both) < 1e-5);
            QVERIFY(std::abs(h(80, 30) - alone) < 1e-5);
            QVERIFY(std::abs(h(10, 10) - 5) < 1e-5);
            QCOMPARE(h(105, 5), 0.0f);
        }
    }

    void placement_is_what_the_format_says() {
        // The u axis points along (cos t, -sin t); scale comes before turn.
        const Bundle b = relief_of(scene_of(piece_json(
            200, 200,
            R"({"id": "r", "source": {"kind": "rectangle", "width": 40, "height": 10}, "placement": {"x": 100, "y": 100, "turn": 30, "scale_u": 3, "scale_v": 1}})")));
        const auto at = [&](double u, double v) {
            const double c = std::cos(30 * radians_per_degree), s = std::sin(30 * radians_per_degree);
            return b.coverage.at(static_cast<int>(100 + u * c + v * s),
                                 static_cast<int>(100 - u * s + v * c));
        };
        QCOMPARE(at(57, 0), 1.0f);
        QCOMPARE(at(63, 0), 0.0f);
        QCOMPARE(at(0, 3.5), 1.0f);
        QCOMPARE(at(0, 6.6), 0.0f);
    }

    void a_group_scales_lengths_and_heights() {
        const std::string o =
            R"({"id": "o", "source": {"kind": "ellipse", "width": 40, "height": 40}, "placement": {"x": 60, "y": 60}, "steps": [{"kind": "bevel", "width": 10, "rise": 6, "profile": "chamfer"}]})";
        const Plane plain = height_of(scene_of(piece_json(
            120, 120,
            R"({"id": "o", "source": {"kind": "ellipse", "width": 80, "height": 80}, "steps": [{"kind": "bevel", "width": 20, "rise": 12, "profile": "chamfer"}]})")));
        const Plane grouped = height_of(scene_of(piece_json(
            120, 120,
            R"({"id": "g", "source": {"kind": "group"}, "placement": {"scale_u": 2, "scale_v": 2}, "elements": [)" +
                o + "]}")));
        QVERIFY(worst_difference(plain, grouped) < 1e-3);
    }

    void work_stops_when_asked() {
        const Scene s = scene_of(piece_json(2000, 2000, busy));
        std::stop_source stop;
        stop.request_stop();
        const Stoppable work(stop.get_token());
        Evaluator evaluator;
        QVERIFY_EXCEPTION_THROWN(evaluator.relief(s, canvas_region(s.piece->canvas, 1), 1), Cancelled);
    }

    void checks_find_and_mend() {
        Evaluator evaluator;
        const auto names = [&](const Scene& s) {
            QStringList out;
            for (const Finding& f : check_piece(evaluator, s)) out << QString::fromStdString(f.check);
            return out;
        };
        Scene s = scene_of(piece_json(
            120, 80,
            R"({"id": "r", "name": "Slab", "source": {"kind": "rectangle", "width": 60, "height": 40}, "steps": [{"kind": "raise", "amount": 14}]})",
            R"("lights": [{"id": "l", "kind": "directional", "intensity": 6}], "exposure": 1)"));
        QCOMPARE(names(s), (QStringList{"cliff", "clipped_light"}));
        const auto found = check_piece(evaluator, s);
        QVERIFY(QString::fromStdString(found[0].says).startsWith("Slab drops"));
        QVERIFY(std::abs(std::abs(found[0].at.x - 60) - 30) < 3 ||
                std::abs(std::abs(found[0].at.y - 40) - 20) < 3);
        // One mend after the other, as one clicks them.
        for (auto left = found; !left.empty() && left.size() <= 2; left = check_piece(evaluator, s)) {
            Piece mended = *s.piece;
            left[0].fix(mended);
            QVERIFY(to_json(mended) != to_json(*s.piece));
            s.piece = std::make_shared<const Piece>(mended);
        }
        QCOMPARE(names(s), QStringList{});
        // A stated range that the relief leaves.
        Piece p = *s.piece;
        p.canvas.height_range = {0, 5};
        s.piece = std::make_shared<const Piece>(p);
        QCOMPARE(names(s), QStringList{"flattened"});
    }

    void a_normal_map_is_known_by_its_curl() {
        // A dome and a slanted wave, encoded either way.
        for (const bool up : {true, false}) {
            Picture p;
            p.width = p.height = 96, p.channels = 3;
            p.samples.resize(3 * 96 * 96);
            for (int y = 0; y < 96; ++y)
                for (int x = 0; x < 96; ++x) {
                    const double hx = 0.4 * std::cos(x * 0.2 + y * 0.13),
                                 hy = 0.26 * std::cos(x * 0.2 + y * 0.13) + 0.3 * std::sin(y * 0.21);
                    const double k = 1 / std::sqrt(hx * hx + hy * hy + 1);
                    const double n[3] = {-hx * k, (up ? 1 : -1) * hy * k, k};
                    for (int c = 0; c < 3; ++c)
                        p.samples[3 * (y * 96 + x) + c] =
                            static_cast<std::byte>(std::lround(127.5 + 127.5 * n[c]));
                }
            const Recognised r = recognise(p);
            QCOMPARE(r.what, Guess::normals);
            QCOMPARE(r.green, up ? Green::up : Green::down);
        }
    }

    void soundings_and_sections_tell_the_relief() {
        const Scene s = scene_of(piece_json(
            100, 60,
            R"({"id": "r", "source": {"kind": "rectangle", "width": 80, "height": 400}, "steps": [{"kind": "bevel", "width": 20, "rise": 20, "profile": "chamfer"}]})"));
        const Bundle b = relief_of(s);
        const auto at = sound(b, 1, Edge::clamp, {20, 30});
        QVERIFY(at && std::abs(at->height - 10) < 0.05 && std::abs(at->slope - 45) < 0.5);
        QVERIFY(std::abs(at->normal[0] + std::sqrt(0.5)) < 0.01); // the left flank faces left
        const Profile1D p = profile_along(b, 1, {{0.5, 30}, {99.5, 30}}, 100);
        QCOMPARE(p.heights.size(), std::size_t{100});
        QVERIFY(std::abs(p.steepest - 45) < 1.5);
        QVERIFY(std::abs(p.heights[50] - 20) < 0.05);
    }

    void depth_tints_rise_evenly_in_lightness() {
        // OKLab lightness from sRGB bytes, by the published matrices.
        const auto lightness = [](std::uint32_t c) {
            const double r = srgb_decode((c >> 16 & 255) / 255.0f), g = srgb_decode((c >> 8 & 255) / 255.0f),
                         b = srgb_decode((c & 255) / 255.0f);
            const double l = std::cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b),
                         m = std::cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b),
                         s = std::cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
            return 0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s;
        };
        const double low = lightness(depth_tint(0)), high = lightness(depth_tint(1));
        for (int i = 1; i <= 64; ++i)
            QVERIFY2(std::abs(lightness(depth_tint(i / 64.0f)) - (low + i / 64.0 * (high - low))) < 0.02,
                     qPrintable(QString::number(i)));
        QVERIFY(high - low > 0.5);
    }
};
BATHYLUX_TEST(TestEvaluate)
#include "test_evaluate.moc"
