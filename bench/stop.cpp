// How long work goes on after it was asked to stop.
#include <chrono>
#include <filesystem>
#include <ostream>
#include <thread>

#include "cases.h"
#include "core/check/checks.h"
#include "core/error.h"
#include "core/field/parallel.h"
#include "core/render/views.h"
#include "files/package.h"
#include "files/resolve.h"

namespace bathylux {

double slowest_stop(const std::string& demo_folder, std::ostream* tell) {
    using Clock = std::chrono::steady_clock;
    double slowest = 0;
    for (const auto& entry : std::filesystem::directory_iterator(demo_folder)) {
        if (entry.path().extension() != ".json" || entry.path().stem() == "shelf") continue;
        const files::Opened opened = files::open_piece(entry.path());
        files::Resolver resolver;
        const Scene scene{std::make_shared<const Piece>(opened.piece),
                          resolver.resolve(opened.piece, opened.store)};
        for (int after = 5; after < 1500; after = after * 3 / 2) {
            std::stop_source stop;
            bool cancelled = false;
            Clock::time_point ended;
            {
                std::jthread work([&, token = stop.get_token()] {
                    const Stoppable asked(token);
                    try {
                        Evaluator evaluator;
                        for (View v : {View::lit, View::occlusion})
                            look(evaluator, scene, v, canvas_region(scene.piece->canvas, 2), 2);
                        check_piece(evaluator, scene);
                    } catch (const Cancelled&) {
                        cancelled = true;
                    }
                    ended = Clock::now();
                });
                std::this_thread::sleep_for(std::chrono::milliseconds(after));
                stop.request_stop();
                const auto asked = Clock::now();
                work.join();
                if (cancelled) {
                    const double ms = std::chrono::duration<double, std::milli>(ended - asked).count();
                    slowest = std::max(slowest, ms);
                    if (tell)
                        *tell << entry.path().stem().string() << ", asked after " << after << " ms: " << ms
                              << " ms\n";
                }
            }
            if (!cancelled) break; // done before it was asked
        }
    }
    return slowest;
}

} // namespace bathylux
