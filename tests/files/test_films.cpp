// Films written and clips read: exact to the frame in any order, alpha kept, nothing falls over a damaged
// one.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/piece/codec.h"
#include "core/render/lit_parts.h"
#include "files/export_film.h"
#include "files/export_parts.h"
#include "files/films.h"
#include "files/resolve.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

constexpr int wide = 64, high = 48, count = 20;

/// A frame that says its number: even bars of brightness, coverage falling to the right.
std::vector<std::uint16_t> numbered(int i) {
    std::vector<std::uint16_t> out(std::size_t{4} * wide * high);
    for (int y = 0; y < high; ++y)
        for (int x = 0; x < wide; ++x) {
            auto* px = &out[4 * (static_cast<std::size_t>(y) * wide + static_cast<std::size_t>(x))];
            px[0] = static_cast<std::uint16_t>(257 * (20 + 10 * i));
            px[1] = static_cast<std::uint16_t>(257 * (y < high / 2 ? 60 : 180));
            px[2] = static_cast<std::uint16_t>(257 * 90);
            px[3] = static_cast<std::uint16_t>(257 * (x < wide / 2 ? 255 : 120));
        }
    return out;
}

int number_in(const Picture& p) {
    return static_cast<int>(std::lround((255 * p.stored(wide / 4, high / 4, 0) - 20) / 10));
}

} // namespace

class TestFilms : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::filesystem::path in(const std::string& name) const {
        return dir_.filePath(QString::fromStdString(name)).toStdString();
    }
    std::filesystem::path film(const std::string& ending, Rate rate = {24, 1}) const {
        const auto path = in("film" + ending);
        const auto writer = files::write_film(path, {wide, high, rate, true});
        for (int i = 0; i < count; ++i) writer->write(numbered(i).data());
        writer->finish();
        return path;
    }
    static int run(const QStringList& arguments, QByteArray* errors = nullptr) {
        QProcess p;
        p.start(BATHYLUX_CLI, arguments);
        if (!p.waitForFinished(120000)) return -1;
        if (errors) *errors = p.readAllStandardError();
        return p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -2;
    }

  private slots:
    void frames_come_back_in_any_order() {
        std::mt19937 random(5);
        for (const char* ending : {".webm", ".mov", ".apng", ".webp"}) {
            const auto clip = files::open_clip(film(ending), ending);
            QVERIFY2(clip->frames() == count && clip->width == wide && clip->height == high, ending);
            QVERIFY2(std::abs(clip->length - count / 24.0) < 0.05, ending);
            std::vector<std::uint64_t> hashes;
            for (int i = 0; i < count; ++i) {
                const Picture p = clip->frame(i);
                QVERIFY2(number_in(p) == i,
                         qPrintable(QString("%1 %2: %3").arg(ending).arg(i).arg(number_in(p))));
                // Alpha is kept.
                QVERIFY2(std::abs(255 * p.stored(wide - 8, 8, 3) - 120) < 4 && p.stored(8, 8, 3) > 0.98f,
                         ending);
                hashes.push_back(p.hash);
            }
            for (int i = count; i-- > 0;)
                QVERIFY2(clip->frame(i).hash == hashes[static_cast<std::size_t>(i)], ending);
            for (int k = 0; k < 40; ++k) {
                const int i = static_cast<int>(random() % count);
                QVERIFY2(clip->frame(i).hash == hashes[static_cast<std::size_t>(i)], ending);
            }
            // Out of memory as out of a file.
            const auto bytes =
                std::make_shared<const files::Bytes>(files::read_file(in(std::string("film") + ending)));
            QVERIFY2(files::open_clip(bytes, ending)->frame(13).hash == hashes[13], ending);
        }
        // What keeps every bit gives every bit back.
        const auto exact = files::open_clip(film(".apng"), "apng");
        const auto want = numbered(7);
        const Picture got = exact->frame(7);
        QVERIFY(got.format == Picture::Format::u16 &&
                std::memcmp(got.samples.data(), want.data(), 2 * want.size()) == 0);
    }

    /// A film in which nothing moves, and one in which a see-through corner does.
    void what_does_not_change_comes_back() {
        for (const char* ending : {".webm", ".mov", ".apng", ".webp"}) {
            const auto path = in(std::string("still") + ending);
            const auto writer = files::write_film(path, {wide, high, {24, 1}, true});
            const auto shown = [](int i) {
                auto px = numbered(7);
                for (std::size_t c = 0; c < 4; ++c) // the lower right corner comes and goes
                    px[px.size() - 4 + c] = static_cast<std::uint16_t>(i < 4 ? 20000 : i < 6 ? 0 : 9000 * c);
                return px;
            };
            for (int i = 0; i < 9; ++i) writer->write(shown(i).data());
            writer->finish();
            const auto clip = files::open_clip(path, "still");
            QVERIFY(clip->begins.size() == 9 ||
                    std::string_view(ending) == ".webp"); // it may join what is alike
            for (const int i : {0, 1, 3, 8, 5, 2})
                if (i < static_cast<int>(clip->begins.size())) {
                    const Picture p = clip->frame(i);
                    QCOMPARE(number_in(p), 7);
                    if (std::string_view(ending) != ".apng") continue;
                    const auto want = shown(i);
                    QVERIFY(p.format == Picture::Format::u16 && p.channels == 4 &&
                            std::memcmp(p.samples.data(), want.data(), 2 * want.size()) == 0);
                }
        }
    }

    void odd_rates_are_met() {
        for (const char* ending : {".webm", ".mov", ".apng"}) {
            const Rate rate{24000, 1001};
            const auto clip = files::open_clip(film(ending, rate), ending);
            const ClipTimes times{clip->begins, clip->length, clip->tick};
            for (int n = 0; n < count; ++n) {
                QVERIFY2(std::abs(clip->begins[static_cast<std::size_t>(n)] - n * 1001 / 24000.0) < 0.0011,
                         ending);
                QCOMPARE(clip_frame({}, times, n, rate), n);
            }
        }
    }

    void a_clip_is_a_source_and_a_film_of_it_is_itself() {
        film(".apng");
        const auto write = [&](const std::string& name, const std::string& source) {
            std::string text =
                "{'bathylux': 1, 'canvas': {'width': 64, 'height': 48}, 'time': {'rate': '24/1', "
                "'frames': 20}, 'elements': [{'id': 'clip', 'source': " +
                source + "}], 'lights': []}";
            std::replace(text.begin(), text.end(), '\'', '"');
            files::write_atomically(in(name), std::as_bytes(std::span(text)));
        };
        write("clip.json", "{'kind': 'clip', 'file': 'film.apng', 'past': 'nothing'}");
        const QString piece = dir_.filePath("clip.json");
        QCOMPARE(
            run({"render", piece, "-o", dir_.filePath("again.apng"), "--view", "art", "--frames", "0:19"}),
            0);
        const auto first = files::open_clip(in("film.apng"), "first"),
                   again = files::open_clip(in("again.apng"), "again");
        for (int i = 0; i < count; ++i)
            for (int c = 0; c < 4; ++c)
                QVERIFY(std::abs(first->frame(i).stored(50, 40, c) - again->frame(i).stored(50, 40, c)) <
                        2e-3);
        // Frames one by one are those of the range, bit for bit, however that is cut.
        QCOMPARE(run({"render", piece, "-o", dir_.filePath("a.png"), "--view", "art", "--frames", "3:6"}), 0);
        QCOMPARE(run({"render", piece, "-o", dir_.filePath("b.png"), "--view", "art", "--frames", "5:6"}), 0);
        QCOMPARE(run({"render", piece, "-o", dir_.filePath("c.png"), "--view", "art", "--frame", "5"}), 0);
        QCOMPARE(files::read_file(in("a-0005.png")), files::read_file(in("c.png")));
        QCOMPARE(files::read_file(in("b-0006.png")), files::read_file(in("a-0006.png")));
        // Numbered pictures are a clip as well.
        write("pictures.json", "{'kind': 'clip', 'files': ['a-0003.png', 'a-0004.png', 'a-0005.png'], "
                               "'start': 2, 'past': 'repeat'}");
        QCOMPARE(run({"render", dir_.filePath("pictures.json"), "-o", dir_.filePath("d.png"), "--view", "art",
                      "--frame", "7"}),
                 0);
        QCOMPARE(files::read_file(in("d.png")), files::read_file(in("a-0005.png")));
        // A broken series goes on where it ended.
        std::filesystem::remove(in("a-0004.png"));
        const auto was = std::filesystem::last_write_time(in("a-0005.png"));
        QCOMPARE(run({"render", piece, "-o", dir_.filePath("a.png"), "--view", "art", "--frames", "3:6",
                      "--resume"}),
                 0);
        QVERIFY(std::filesystem::exists(in("a-0004.png")) &&
                std::filesystem::last_write_time(in("a-0005.png")) == was);
    }

    /// A plate that rises from frame to frame: one grey means one height all along.
    void heights_of_a_film_have_one_range() {
        std::string json = "{'bathylux': 1, 'canvas': {'width': 64, 'height': 48}, 'time': {'rate': '10/1', "
                           "'frames': 5}, 'lights': [], "
                           "'elements': [{'id': 'e', 'source': {'kind': 'rectangle', 'width': 40, 'height': "
                           "30}, 'steps': [{'kind': "
                           "'raise', 'amount': {'keys': [[0, 4, 'linear'], [4, 20, 'linear']]}}]}]}";
        std::replace(json.begin(), json.end(), '\'', '"');
        files::write_atomically(in("rise.json"), std::as_bytes(std::span(json)));
        QCOMPARE(run({"render", dir_.filePath("rise.json"), "-o", dir_.filePath("rise.apng"), "--view",
                      "height", "--frames", "0:4"}),
                 0);
        const auto clip = files::open_clip(in("rise.apng"), "rise");
        QCOMPARE(clip->frames(), 5);
        const double top = clip->frame(4).stored(32, 24, 0);
        QVERIFY(top > 0.95);
        for (int i = 0; i < 5; ++i) {
            QVERIFY(std::abs(clip->frame(i).stored(32, 24, 0) - top * (4 + 4 * i) / 20.0) < 0.005);
            QVERIFY(clip->frame(i).stored(2, 2, 0) < 0.005);
        }
        // Frames by themselves have each their own, which they name.
        QCOMPARE(run({"render", dir_.filePath("rise.json"), "-o", dir_.filePath("rise.png"), "--view",
                      "height", "--frame", "1"}),
                 0);
        QVERIFY(files::read_picture(files::read_file(in("rise.png")), "rise").stored(32, 24, 0) > 0.95);
    }

    /// The films of the light, laid over one another as their layers say, are the film of the lit picture.
    void light_taken_apart_is_a_film_a_layer() {
        std::string json =
            "{'bathylux': 1, 'canvas': {'width': 64, 'height': 48, 'background': '#7a8a60'}, 'elements': "
            "[{'id': 'dome', 'source': {'kind': 'ellipse', 'width': 40, 'height': 30}, 'steps': [{'kind': "
            "'bevel', 'width': 12, 'rise': 12}]}], 'ambient': {'intensity': 0.3, 'occlusion': true}, "
            "'lights': "
            "[{'id': 'sun', 'kind': 'directional', 'elevation': 30, 'shadow': true, 'angle': {'keys': [[0, "
            "20], "
            "[3, 200]]}}]}";
        std::replace(json.begin(), json.end(), '\'', '"');
        const Piece piece = piece_from_text(json);
        files::Resolver resolver;
        Evaluator evaluator(resolver.budget());
        const auto scene_at = [&](int i) { return resolver.scene(piece, {}, i); };
        files::FilmOrder order{0, 3};
        files::export_film(evaluator, scene_at, in("whole.apng"), order);
        order.parts = true;
        files::export_film(evaluator, scene_at, in("light.apng"), order);
        const auto whole = files::open_clip(in("whole.apng"), "whole");
        std::vector<std::unique_ptr<files::Clip>> layers;
        for (const std::string_view name : std::span(part_names).first(5))
            layers.push_back(files::open_clip(in("light-" + std::string(name) + ".apng"), std::string(name)));
        double worst = 0, told_apart = 0;
        for (int i = 0; i < 4; ++i) {
            const Picture lit = whole->frame(i);
            std::vector<Picture> l;
            for (const auto& layer : layers) l.push_back(layer->frame(i));
            for (int y = 0; y < 48; ++y)
                for (int x = 0; x < 64; ++x)
                    for (int c = 0; c < 3; ++c) {
                        const auto v = [&](int k) { return l[static_cast<std::size_t>(k)].stored(x, y, c); };
                        const double sum =
                            std::min(1.0f, std::min(1.0f, v(0) * v(1) + v(2)) + v(3)) * double(v(4));
                        worst = std::max(worst, 255 * std::abs(sum - double(lit.stored(x, y, c))));
                        told_apart = std::max(told_apart, 1.0 - double(v(4)));
                    }
        }
        QVERIFY2(worst < 2, qPrintable(QString::number(worst)));
        QVERIFY(told_apart > 0.3); // there is a shadow
    }

    /// However long a clip and in whatever order, what is kept of it stays within the budget.
    void pictures_of_clips_count_in_the_budget() {
        const auto path = film(".apng");
        Piece piece = piece_from_text(
            R"({"bathylux": 1, "canvas": {"width": 64, "height": 48}, "elements": [{"id": "c", "source": {"kind": "clip", "file": ")" +
            path.string() + R"("}}]})");
        const std::size_t one = 64 * 48 * (4 * 2 + 4.0 / 3);
        files::Resolver resolver(5 * one + one / 2);
        for (int i = 0; i < 3 * count; ++i) {
            const Scene scene = resolver.scene(piece, {}, i * 7 % count);
            QCOMPARE(number_in(*scene.assets->at("c")->picture), i * 7 % count);
            QVERIFY(resolver.budget()->bytes() <= 5 * one + one / 2);
        }
        QVERIFY(resolver.budget()->bytes() >= 4 * one); // and is kept
        const auto made = resolver.budget()->counts().first;
        resolver.scene(piece, {}, 59 * 7 % count);
        QCOMPARE(resolver.budget()->counts().first, made);
    }

    void what_stands_still_is_made_once() {
        const auto scene_text = [](const char* lights) {
            std::string text =
                std::string(
                    "{'bathylux': 1, 'canvas': {'width': 200, 'height': 120, 'background': '#808080'}, "
                    "'elements': [{'id': 'dome', 'source': {'kind': 'ellipse', 'width': 90, 'height': 90}, "
                    "'steps': [{'kind': "
                    "'bevel', 'width': 30, 'rise': 20}, {'kind': 'soften', 'radius': 3}]}], 'lights': [") +
                lights + "]}";
            std::replace(text.begin(), text.end(), '\'', '"');
            return text;
        };
        const auto counts = [&](int frames) {
            const Piece piece =
                piece_from_text(scene_text("{'id': 'sun', 'kind': 'directional', 'angle': 90, 'elevation': "
                                           "40, 'intensity': {'keys': [[0, 0.2], [40, 2]]}}"));
            files::Resolver resolver;
            Evaluator evaluator(files::film_budget);
            return files::export_film(evaluator, [&](int i) { return resolver.scene(piece, {}, i); },
                                      in("count.apng"), {0, frames - 1});
        };
        const auto few = counts(4), many = counts(24);
        // Every frame more makes the light anew, and nothing of the relief.
        const double each = static_cast<double>(many.made - few.made) / 20;
        QVERIFY2(each <= 1.01, qPrintable(QString::fromStdString(many.says())));
    }

    void damaged_clips_are_told_and_nothing_falls_over() {
        std::mt19937 random(11);
        const auto tell = [&](const std::filesystem::path& path) {
            try {
                const auto clip = files::open_clip(path, "broken");
                for (int i = 0; i < std::min(3, clip->frames()); ++i) (void)clip->frame(i);
                (void)clip->frame(clip->frames() - 1);
            } catch (const Error& e) {
                QVERIFY2(std::string(e.what()).size() > 10, e.what());
            }
        };
        for (const char* ending : {".webm", ".mov", ".apng", ".webp"}) {
            const files::Bytes whole = files::read_file(film(ending));
            for (int k = 0; k < 60; ++k) {
                files::Bytes hurt = whole;
                if (k % 3 == 0)
                    hurt.resize(random() % hurt.size());
                else
                    for (int n = 0; n < 1 + k / 4; ++n)
                        hurt[random() % (k % 3 == 1 ? hurt.size() : 600)] = std::byte(random());
                files::write_atomically(in("hurt"), hurt);
                tell(in("hurt"));
            }
        }
        // The command line says so in a sentence and leaves nothing behind.
        files::write_atomically(in("no.webm"),
                                std::as_bytes(std::span(std::string_view("not a film at all"))));
        const std::string text = R"({"bathylux": 1, "canvas": {"width": 20, "height": 20},
            "elements": [{"id": "c", "source": {"kind": "clip", "file": "no.webm"}}]})";
        files::write_atomically(in("no.json"), std::as_bytes(std::span(text)));
        QByteArray errors;
        QCOMPARE(run({"render", dir_.filePath("no.json"), "-o", dir_.filePath("no.png")}, &errors), 1);
        QVERIFY2(errors.contains("no.webm cannot be read as a clip"), errors);
        QVERIFY(!std::filesystem::exists(in("no.png")));
        QVERIFY_THROWS_EXCEPTION(Error, files::open_clip(in("missing.mov"), "missing.mov"));
        QVERIFY_THROWS_EXCEPTION(Error, files::write_film(in("film.mkv2"), {10, 10}));
    }
};

BATHYLUX_TEST(TestFilms)
#include "test_films.moc"
