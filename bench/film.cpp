// What a film costs, against the frames times what moves in one.
#include <chrono>
#include <filesystem>

#include "cases.h"
#include "core/render/views.h"
#include "files/export_film.h"
#include "files/package.h"
#include "files/resolve.h"

namespace bathylux {

FilmCost film_cost(const std::string& piece) {
    using Clock = std::chrono::steady_clock;
    const auto since = [](Clock::time_point start) {
        return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
    };
    const files::Opened opened = files::open_piece(piece);
    FilmCost out;
    out.frames = opened.piece.time.value_or(Timing{}).frames;
    // A frame beside one that was made: what stands still is there already.
    int samples = 0;
    for (int i = 1; i < out.frames; i += 8, ++samples) {
        files::Resolver resolver(files::film_budget);
        Evaluator evaluator(resolver.budget());
        const auto made = [&](int frame) {
            const auto start = Clock::now();
            const Scene scene = resolver.scene(opened.piece, opened.store, frame);
            look(evaluator, scene, View::lit, canvas_region(scene.piece->canvas, 1), 1);
            return since(start);
        };
        made(i - 1);
        out.moving_ms += made(i);
    }
    out.moving_ms /= samples;
    {
        files::Resolver resolver(files::film_budget);
        Evaluator evaluator(resolver.budget());
        const auto start = Clock::now();
        for (int i = 0; i < out.frames; ++i) {
            const Scene scene = resolver.scene(opened.piece, opened.store, i);
            look(evaluator, scene, View::lit, canvas_region(scene.piece->canvas, 1), 1);
        }
        out.all_ms = since(start);
    }
    return out;
}

} // namespace bathylux
