// Whole pieces drawn from seeds, everything beside and within everything: what is true of each kind by itself
// has to be true of whatever becomes of them together. A piece that fails is told as small as it gets.
#include <tbb/global_control.h>

#include <QtTest>
#include <cstring>

#include "core/piece/pose.h"
#include "core/piece/recipe.h"
#include "core/render/solid_view.h"
#include "each_kind.h"
#include "random_piece.h"
#include "run.h"
#include "strips.h"

using namespace bathylux;
using each_kind::sanitized;

namespace {

constexpr std::array views{View::lit, View::height, View::normals, View::roughness, View::mask};
const std::vector<View> all_views(views.begin(), views.end());

std::vector<Strip> looked_at(Evaluator&& evaluator, const Scene& scene, Region region, double scale = 1) {
    return look(evaluator, scene, all_views, region, scale);
}
std::vector<Strip> whole_of(const Scene& scene, double scale = 1) {
    return looked_at(Evaluator(0), scene, canvas_region(scene.piece->canvas, scale), scale);
}

/// What of a relief is another when it is asked for by itself; "" for nothing.
std::string by_itself(const Piece& p) {
    constexpr std::pair<const char*, Channels> channels[] = {{"colour", channel::color},
                                                             {"coverage", channel::coverage},
                                                             {"height", channel::height},
                                                             {"surface", channel::surface}};
    const Scene scene = scene_with_assets(p);
    const Region canvas = canvas_region(p.canvas, 1);
    const Bundle all = Evaluator(0).relief(scene, canvas, 1);
    for (const auto& [name, only] : channels) {
        const Bundle part = Evaluator(0).relief(scene, canvas, 1, {}, only);
        std::vector<std::pair<const Field*, const Field*>> fields{{&all.coverage, &part.coverage}};
        if (only.has(channel::height)) fields.emplace_back(&all.height, &part.height);
        for (std::size_t c = 0; c < 3 && only.has(channel::color); ++c)
            fields.emplace_back(&all.color[c], &part.color[c]);
        for (std::size_t i = 0; i < all.surface().size() && only.has(channel::surface); ++i)
            fields.emplace_back(all.surface()[i], part.surface()[i]);
        for (const auto& [a, b] : fields)
            for (int y = 0; y < canvas.height(); ++y)
                for (int x = 0; x < canvas.width(); ++x)
                    if (a->at(x, y) != b->at(x, y))
                        return std::string("wanting ") + name + ", " + std::to_string(b->at(x, y)) + " at " +
                               std::to_string(x) + ", " + std::to_string(y) + ", with all " +
                               std::to_string(a->at(x, y));
    }
    return {};
}

} // namespace

class TestRandomPieces : public QObject {
    Q_OBJECT

    /// Asks of so many pieces; `wrong` says what of one is not as it should be. What is thrown is wrong, too.
    void of_each(int pieces, const std::function<std::string(const Piece&, unsigned seed)>& wrong) {
        const auto guarded = [&](const Piece& p, unsigned seed) -> std::string {
            try {
                return wrong(p, seed);
            } catch (const std::exception& e) {
                return e.what();
            }
        };
        if (sanitized) pieces = (pieces + 7) / 8;
        const unsigned first = qEnvironmentVariableIntValue("BATHYLUX_SEED");
        if (const int many = qEnvironmentVariableIntValue("BATHYLUX_PIECES")) pieces = many;
        int failed = 0;
        for (unsigned seed = first; seed < first + static_cast<unsigned>(pieces) && failed < 5; ++seed) {
            const Piece piece = RandomPiece(seed).piece();
            const std::string bad = guarded(piece, seed);
            if (bad.empty()) continue;
            ++failed;
            const Piece small = smallest(piece, [&](const Piece& p) { return !guarded(p, seed).empty(); });
            qWarning().noquote() << QString("seed %1: %2; as small as it gets: %3\n%4")
                                        .arg(seed)
                                        .arg(bad.c_str(), guarded(small, seed).c_str(),
                                             text_of(small).c_str());
        }
        QCOMPARE(failed, 0);
    }

  private slots:
    void written_and_read_they_are_the_same() {
        of_each(200, [](const Piece& p, unsigned) -> std::string {
            const std::string text = text_of(p);
            const Piece again = piece_from_text(text);
            if (content_hash(again) != content_hash(p)) return "another piece is read";
            return text_of(again) == text ? "" : "another text is written";
        });
    }

    /// Whatever is asked first, by however many, at whatever size: the same numbers, and numbers they are.
    void in_tiles_in_bands_and_by_one_thread_they_are_the_same() {
        of_each(70, [](const Piece& p, unsigned seed) -> std::string {
            const double scale = std::array{1.0, 0.6, 1.0, 1.7}[seed % 4];
            const Scene shadowed = scene_with_assets(p), scene = scene_with_assets(without_shadows(p));
            if (const std::string bad = not_finite(views, whole_of(shadowed, scale)); !bad.empty())
                return bad;
            const auto whole = whole_of(scene, scale);
            const Region canvas = canvas_region(p.canvas, scale);
            const auto budget = std::make_shared<Budget>(std::size_t{64} << 20);
            const Cut cut{0, 41};
            for (const Region& tile : tiles_of(canvas, canvas, cut))
                if (const std::string bad =
                        differs(views, whole, looked_at(Evaluator(budget, cut), scene, tile, scale));
                    !bad.empty())
                    return "in tiles, " + bad;
            std::string bad;
            Evaluator banded(budget, cut);
            look_in_bands(banded, scene, all_views, scale, [&](const std::vector<Strip>& band) {
                if (bad.empty()) bad = differs(views, whole, band);
            });
            if (!bad.empty()) return "in bands, " + bad;
            // Shadows and all, in tiles: numbers at least.
            bad = not_finite(views, looked_at(Evaluator(budget, cut), shadowed, canvas, scale));
            if (!bad.empty()) return "in tiles, " + bad;
            const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
            bad = differs(views, whole, whole_of(scene, scale));
            return bad.empty() ? bad : "by one thread, " + bad;
        });
    }

    /// Twice as large and looked at from twice as far, keys and all, it is the same but for rounding.
    void resized_they_are_the_same() {
        of_each(40, [](const Piece& p, unsigned) -> std::string {
            Piece all = p, larger;
            // A canvas px falls on a cell of grain of size 1, however large others are.
            std::erase_if(all.finish, [](const Node<Step>& s) { return s->what.is("grain"); });
            larger = all;
            resize(larger, 2);
            for (const int frame : {0, 7}) {
                const Scene small = scene_with_assets(posed(all, frame)),
                            large = scene_with_assets(posed(larger, frame));
                const auto is = whole_of(large, 0.5), was = whole_of(small);
                if (const std::string bad = apart(views, was, is, 0.05, 2); !bad.empty())
                    return bad + ", at frame " + std::to_string(frame);
            }
            return {};
        });
    }

    /// A wider canvas that is cut back again, a group that comes and goes, a copy made and removed.
    void what_is_undone_by_hand_is_undone() {
        of_each(60, [](const Piece& p, unsigned) -> std::string {
            Piece q = p;
            crop(q, {-8, -6, p.canvas.columns() + 10, p.canvas.rows() + 4});
            crop(q, {8, 6, 8 + p.canvas.columns(), 6 + p.canvas.rows()});
            // What has the canvas's size, or fits into it whole, is what a wider one makes of it.
            bool fits = false;
            for_each_element(p.elements, [&](const Element& e) {
                fits |= e.source.is("gradient") || (e.kind().tiles && e.kind().tiles(e.source.data()));
            });
            for (const int frame : fits ? std::vector<int>{} : std::vector<int>{0, 7}) {
                const auto was = whole_of(scene_with_assets(posed(p, frame))),
                           is = whole_of(scene_with_assets(posed(q, frame)));
                if (const std::string bad = apart(views, was, is, 0.01); !bad.empty())
                    return "cut back, " + bad + ", at frame " + std::to_string(frame);
            }
            const std::string text = text_of(p);
            Ids top;
            for (const auto& e : p.elements) top.push_back(e->id);
            if (top.empty()) return {};
            q = p;
            for (const Ids& some : {top, Ids{top.front()}, Ids{top.back()}}) {
                ungroup(q, group(q, some));
                if (text_of(q) != text) return "ungrouped, it is another piece";
                remove(q, duplicate(q, some));
                if (text_of(q) != text) return "without its copies, it is another piece";
            }
            return {};
        });
    }

    /// A look that is kept, sent as a file and poured back over what it came from changes nothing to be seen.
    void poured_back_a_look_is_what_it_was() {
        of_each(30, [](const Piece& p, unsigned) -> std::string {
            const auto was = whole_of(scene_with_assets(posed(p, 5)));
            std::string bad;
            for_each_element(p.elements, [&](const Element& e) {
                if (!bad.empty()) return;
                Keep keep;
                keep.surface = e.surface.has_value(); // otherwise it is the piece's that is kept
                const std::string text = text_of(kept_recipe(p, e.id, keep));
                const Recipe recipe = recipe_from_text(text);
                if (text_of(recipe) != text) return void(bad = "of " + e.id + " another recipe is read");
                Piece q = p;
                pour(q, e.id, recipe, {});
                const auto is = whole_of(scene_with_assets(posed(q, 5)));
                if (const std::string off = apart(views, was, is, 0.01); !off.empty())
                    bad = "poured over " + e.id + ", " + off;
            });
            return bad;
        });
    }

    /// Every value, said again by its path as on the command line, is the value that was there.
    void said_by_its_path_a_value_is_what_it_was() {
        int told = 0;
        of_each(60, [&](const Piece& drawn, unsigned) -> std::string {
            const Piece p = posed(drawn, 0); // what has keys is told by them otherwise
            std::string bad;
            for_each_part(p, [&](const MovingPart& part) {
                for (const Parameter& q : part.parameters) {
                    const bool moved = part.motions && part.motions->contains(q.id);
                    if (!bad.empty() || moved) continue;
                    const Value value = part.get(q);
                    std::string text = text_of(value);
                    if (text.starts_with('"')) text = text.substr(1, text.size() - 2);
                    ++told;
                    Piece again = p;
                    set_parameter(again, part.path + std::string(q.id), text);
                    if (content_hash(again) != content_hash(p))
                        bad = part.path + std::string(q.id) + " = " + text;
                }
            });
            return bad;
        });
        QVERIFY2(told > 500, qPrintable(QString::number(told)));
    }

    /// A channel is what it is, whatever else is wanted.
    void each_channel_by_itself_is_that_of_all() {
        of_each(100, [](const Piece& p, unsigned) { return by_itself(p); });
    }

    /// What one step leaves is what the next can read, of a picture and of an outline.
    void every_step_behind_every_other() {
        int failed = 0, number = 0;
        const auto working = [](const StepKind& kind) { // by the element's own tones, where it goes by some
            Described out(kind);
            for (const Parameter& q : kind.parameters)
                if (q.type == Parameter::Type::map) out = out.with(q, std::optional(MapRef{}));
            return out;
        };
        for (const char* source : {"picture", "type"})
            for (const StepKind& first : step_kinds())
                for (const StepKind& second : step_kinds()) {
                    if (++number % (sanitized ? 31 : 1) != 0) continue;
                    Piece p;
                    p.canvas.width = 72, p.canvas.height = 50;
                    p.elements.push_back(each_kind::element_of(Described(source_kind(source)),
                                                               {working(first), working(second)},
                                                               each_kind::placed(41, 27, 9, 0.5)));
                    std::string bad;
                    try {
                        bad = by_itself(p);
                    } catch (const std::exception& e) {
                        bad = e.what();
                    }
                    if (bad.empty()) continue;
                    ++failed;
                    qWarning().noquote()
                        << source << each_kind::qs(first.id) << each_kind::qs(second.id) << bad.c_str();
                }
        QCOMPARE(failed, 0);
    }

    /// What is kept of one picture serves the next only where nothing of it has changed.
    void what_is_kept_serves_only_what_is_the_same() {
        of_each(40, [](const Piece& p, unsigned seed) -> std::string {
            const auto budget = std::make_shared<Budget>(std::size_t{64} << 20);
            RandomPiece hand(seed + 1000);
            Piece now = p;
            for (int i = 0; i < 8; ++i) {
                const Scene scene = scene_with_assets(now);
                const auto warm = looked_at(Evaluator(budget), scene, canvas_region(now.canvas, 1));
                if (const std::string bad = differs(views, whole_of(scene), warm); !bad.empty())
                    return "after " + std::to_string(i) + " changes, " + bad;
                now = hand.changed(now);
            }
            return {};
        });
    }

    /// On a body, too: whatever was looked at before, and by however many.
    void on_a_body_they_are_the_same() {
        const auto seen = [](Evaluator&& evaluator, const Scene& scene) {
            const SolidScene solid = solid_scene(evaluator, scene);
            SolidPicture picture(60, 44);
            picture.add(solid, 2);
            const Bundle b = finished_solid(evaluator, scene, solid, picture);
            return std::vector<Strip>{{b.region, {b.color[0], b.color[1], b.color[2], b.coverage}}};
        };
        of_each(40, [&](const Piece& p, unsigned seed) -> std::string {
            const auto budget = std::make_shared<Budget>(std::size_t{64} << 20);
            RandomPiece hand(seed + 2000);
            Piece now = p;
            for (int i = 0; i < 5; ++i) {
                if (i % 2 == 0) now.solid = hand.solid();
                const Scene scene = scene_with_assets(now);
                const auto warm = seen(Evaluator(budget), scene), cold = seen(Evaluator(0), scene);
                if (const std::string bad = not_finite(views, cold); !bad.empty()) return bad;
                if (const std::string bad = differs(views, cold, warm); !bad.empty())
                    return "after " + std::to_string(i) + " changes, " + bad;
                now = hand.changed(now);
            }
            const Scene scene = scene_with_assets(now);
            const auto two = seen(Evaluator(0), scene);
            const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
            const std::string bad = differs(views, two, seen(Evaluator(0), scene));
            return bad.empty() ? bad : "by one thread, " + bad;
        });
    }

    /// Frame after frame, there and back: a frame is the same whatever was shown before it.
    void a_frame_is_the_same_whenever_it_is_asked_for() {
        of_each(40, [](const Piece& p, unsigned) -> std::string {
            if (!moves(p)) return {};
            const auto budget = std::make_shared<Budget>(std::size_t{64} << 20);
            for (const int frame : {0, 3, 9, 3, 30}) {
                Scene scene = scene_with_assets(posed(p, frame));
                scene.frame = frame;
                const auto warm = looked_at(Evaluator(budget), scene, canvas_region(p.canvas, 1));
                if (const std::string bad = differs(views, whole_of(scene), warm); !bad.empty())
                    return "frame " + std::to_string(frame) + ", " + bad;
            }
            return {};
        });
    }
};
BATHYLUX_TEST(TestRandomPieces)
#include "test_random_pieces.moc"
