#include "core/piece/colors_in_use.h"

#include <algorithm>

namespace bathylux {

std::vector<Color> colors_in_use(const Piece& piece) {
    struct Use {
        Color color;
        int times = 0;
    };
    std::vector<Use> uses;
    const auto count = [&](Color c) {
        if (!(c.a > 0)) return;
        c.a = 1;
        const auto same = [&](const Use& u) {
            return std::max({std::abs(u.color.r - c.r), std::abs(u.color.g - c.g),
                             std::abs(u.color.b - c.b)}) < 1.5f / 255;
        };
        if (const auto known = std::find_if(uses.begin(), uses.end(), same); known != uses.end())
            ++known->times;
        else
            uses.push_back({c, 1});
    };
    const auto all_of = [&](const Described& d) {
        for (const Parameter& p : d.kind().parameters) {
            if (!d.counts(p)) continue;
            if (p.type == Parameter::Type::color) count(std::get<Color>(d.get(p)));
            if (p.type != Parameter::Type::stops) continue;
            const Value value = d.get(p);
            for (const Stop& s : std::get<Stops>(value)) count(s.color);
        }
    };
    count(piece.canvas.background);
    for_each_element(piece.elements, [&](const Element& e) {
        all_of(e.source);
        for (const Step& s : e.steps) all_of(s.what);
        if (e.surface && e.surface->own_color > 0) count(e.surface->color);
        if (e.surface && e.surface->transmission > 0 && e.surface->attenuation_distance > 0)
            count(e.surface->attenuation_color);
    });
    for (const Step& s : piece.finish) all_of(s.what);
    for (const Light& l : piece.lights) all_of(l.what);
    std::stable_sort(uses.begin(), uses.end(), [](const Use& a, const Use& b) { return a.times > b.times; });
    std::vector<Color> out;
    for (const Use& u : uses) out.push_back(u.color);
    return out;
}

} // namespace bathylux
