#include "app/makings/what_comes_in.h"

#include <algorithm>

#include "core/error.h"
#include "core/render/graph.h"
#include "core/render/views.h"

namespace bathylux {

namespace {

/// The scene whose finish ends before a step.
Scene finished_up_to(const Scene& scene, int step) {
    auto piece = std::make_shared<Piece>(*scene.piece);
    while (piece->finish.size() > static_cast<std::size_t>(std::max(0, step))) piece->finish.pop_back();
    piece->roll_off = RollOff::none, piece->relight = 1, piece->relight_blend = BlendMode::normal;
    Scene out = scene;
    out.piece = piece;
    return out;
}

struct Small {
    double scale = 1;
    Bundle bundle; // an empty region where there is nothing
};

Small before(const Scene& scene, const std::string& owner, int step) {
    const Canvas& c = scene.piece->canvas;
    Small out{std::min(1.0, 240.0 / std::max(c.width, c.height)), {}};
    const Region all = canvas_region(c, out.scale);
    try {
        Evaluator evaluator(std::size_t{64} << 20);
        if (owner != finish_id) {
            out.bundle = evaluator.element(scene, owner, all, out.scale, step);
            return out;
        }
        const Strip lit = look(evaluator, finished_up_to(scene, step), View::lit, all, out.scale);
        // A ramp over the light may go by the relief.
        out.bundle = evaluator.relief(scene, all, out.scale, {}, channel::height);
        for (std::size_t i = 0; i < 3; ++i) out.bundle.color[i] = lit.channels[i];
        out.bundle.coverage = lit.channels[3];
        out.bundle.tone.reset(), out.bundle.stored.reset();
    } catch (const std::exception&) {
        out.bundle = {}; // what cannot be had is told by the table
    }
    return out;
}

/// Calls `work` with a quantity wherever the bundle covers at least half.
template <class Work> void where_it_is(const Bundle& b, const Field& quantity, const Work& work) {
    for (int y = 0; y < b.region.height(); ++y)
        for (int x = 0; x < b.region.width(); ++x)
            if (b.coverage.at(x, y) > 0.5f) work(quantity.at(x, y));
}

} // namespace

std::vector<int> tones_before(const Scene& scene, const std::string& owner, int step, Channel channel) {
    constexpr int bins = 128;
    std::vector<int> out(bins, 0);
    const Bundle b = before(scene, owner, step).bundle;
    if (b.region.empty()) return out;
    where_it_is(b, Field(tone_plane(b, channel)),
                [&](float v) { ++out[std::clamp(static_cast<int>(v * bins), 0, bins - 1)]; });
    return out;
}

std::pair<double, double> ramp_range_before(const Scene& scene, const std::string& owner, int step,
                                            RampOf of) {
    const Small small = before(scene, owner, step);
    const Bundle& b = small.bundle;
    std::vector<float> values;
    if (!b.region.empty())
        where_it_is(b, gone_by(b, of, b.region, small.scale), [&](float v) { values.push_back(v); });
    if (values.size() < 8) return {0, 0};
    std::sort(values.begin(), values.end());
    const std::size_t rim = values.size() / 200;
    return {values[rim], values[values.size() - 1 - rim]};
}

std::uint64_t name_before(const Scene& scene, const std::string& owner, int step) {
    if (owner == finish_id) return content_hash(*finished_up_to(scene, step).piece);
    try {
        return Graph(scene, 1).element(owner, step)->hash;
    } catch (const Error&) {
        return 0; // the table tells why
    }
}

} // namespace bathylux
