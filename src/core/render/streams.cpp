#include "core/render/streams.h"

#include <cmath>

#include "core/error.h"

namespace bathylux {

Vec2 Streams::at(Vec2 p) const {
    if (x.width() < 2 || x.height() < 2) return {};
    const double u = std::clamp(p.x * scale - 0.5, 0.0, x.width() - 1.001),
                 v = std::clamp(p.y * scale - 0.5, 0.0, x.height() - 1.001);
    const int i = static_cast<int>(u), j = static_cast<int>(v);
    const double s = u - i, t = v - j;
    const auto mix = [&](const Plane& f) {
        return (1 - t) * ((1 - s) * f(i, j) + s * f(i + 1, j)) +
               t * ((1 - s) * f(i, j + 1) + s * f(i + 1, j + 1));
    };
    return {mix(x), mix(y)};
}

Vec2 Streams::carried(Vec2 from) const {
    Vec2 p = from;
    for (int i = 0; i < 8; ++i) p = from + at(p);
    return p;
}

std::optional<Streams> streams_of(Evaluator& evaluator, const Scene& scene, std::string_view id,
                                  std::string_view step, double scale) {
    const Element* e = find_element(scene.piece->elements, id);
    if (!e) return std::nullopt;
    Graph graph(scene, scale);
    const Region all = graph.canvas();
    std::vector<Streams> each; // as the steps follow one another
    for (const Step& s : e->steps) {
        if (!s.on || !s.kind().looks_at || (!step.empty() && s.id != step)) continue;
        const Bundle b = evaluator.run(graph.drift(id, s.id), all, all, channel::color);
        Streams one{scale, Plane(all.width(), all.height()), Plane(all.width(), all.height())};
        for (int y = 0; y < all.height(); ++y)
            for (int x = 0; x < all.width(); ++x)
                one.x(x, y) = b.color[0].at(x, y), one.y(x, y) = b.color[1].at(x, y);
        each.push_back(std::move(one));
    }
    if (each.empty()) return std::nullopt;
    Streams out = std::move(each.back());
    // What the last one looks at was moved by those before it.
    for (std::size_t k = each.size() - 1; k-- > 0;)
        for (int y = 0; y < all.height(); ++y)
            for (int x = 0; x < all.width(); ++x) {
                const Vec2 from{(x + 0.5) / scale - out.x(x, y), (y + 0.5) / scale - out.y(x, y)},
                    more = each[k].at(from);
                out.x(x, y) += static_cast<float>(more.x), out.y(x, y) += static_cast<float>(more.y);
            }
    for (int y = 0; y < all.height(); ++y)
        for (int x = 0; x < all.width(); ++x)
            // Past a horizon there is nothing that could have been moved.
            if (const double l = std::hypot(double(out.x(x, y)), double(out.y(x, y))); l < 1e5)
                out.longest = std::max(out.longest, l);
    return out;
}

} // namespace bathylux
