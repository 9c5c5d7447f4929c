#include "core/render/streams.h"

#include <cmath>

#include "core/field/between.h"

namespace bathylux {

Vec2 Streams::at(Vec2 p) const {
    if (x.width() < 2 || x.height() < 2) return {};
    return between(x, y, scale * p);
}

Vec2 Streams::carried(Vec2 from) const {
    return carried_by([this](Vec2 p) { return at(p); }, from, 1 / scale);
}

Vec2 carried_by(const std::function<Vec2(Vec2)>& drift, Vec2 from, double near) {
    Vec2 p = from + drift(from);
    for (int i = 0; i < 12; ++i) {
        const Vec2 d = drift(p), off = p - d - from;
        if (length(off) < 1e-3) break;
        const Vec2 dx = (0.5 / near) * (drift(p + Vec2{near, 0}) - drift(p - Vec2{near, 0})),
                   dy = (0.5 / near) * (drift(p + Vec2{0, near}) - drift(p - Vec2{0, near}));
        const double a = 1 - dx.x, b = -dy.x, c = -dx.y, e = 1 - dy.y, det = a * e - b * c;
        // Where the slopes say nothing, half the way that is off.
        p = det > 0.02 ? p - (1 / det) * Vec2{e * off.x - b * off.y, a * off.y - c * off.x} : p - 0.5 * off;
    }
    return p;
}

namespace {

/// The steps that bend, of an element or one of them.
std::vector<const Step*> bending(const Element& e, std::string_view step) {
    std::vector<const Step*> out;
    for (const Step& s : e.steps)
        if (s.on && s.kind().looks_at && (step.empty() || s.id == step)) out.push_back(&s);
    return out;
}

} // namespace

std::uint64_t streams_name(const Scene& scene, std::string_view id, std::string_view step, double scale) {
    const Element* e = find_element(scene.piece->elements, id);
    if (!e) return 0;
    Graph graph(scene, scale);
    Hash h;
    for (const Step* s : bending(*e, step)) h << graph.drift(id, s->id)->hash;
    return h.value();
}

std::optional<Streams> streams_of(Evaluator& evaluator, const Scene& scene, std::string_view id,
                                  std::string_view step, double scale) {
    const Element* e = find_element(scene.piece->elements, id);
    if (!e) return std::nullopt;
    Graph graph(scene, scale);
    const Region all = graph.canvas();
    std::vector<Streams> each; // as the steps follow one another
    for (const Step* s : bending(*e, step)) {
        const Bundle b = evaluator.run(graph.drift(id, s->id), all, all, channel::color);
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
