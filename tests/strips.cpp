#include "strips.h"

#include <cmath>
#include <cstring>

namespace bathylux {

std::string differs(std::span<const View> views, const std::vector<Strip>& whole,
                    const std::vector<Strip>& part) {
    for (std::size_t v = 0; v < whole.size(); ++v) {
        const Region a = whole[v].region, b = part[v].region;
        for (std::size_t c = 0; c < whole[v].channels.size(); ++c)
            for (int y = b.y0; y < b.y1; ++y)
                for (int x = b.x0; x < b.x1; ++x) {
                    const float p = whole[v].channels[c].at(x - a.x0, y - a.y0),
                                q = part[v].channels[c].at(x - b.x0, y - b.y0);
                    if (std::memcmp(&p, &q, 4) == 0 || (p == 0 && q == 0)) continue;
                    return std::string(view_names[static_cast<std::size_t>(views[v])]) + " " +
                           std::to_string(c) + " at " + std::to_string(x) + ", " + std::to_string(y) +
                           " is " + std::to_string(q) + ", was " + std::to_string(p);
                }
    }
    return {};
}

std::string not_finite(std::span<const View> views, const std::vector<Strip>& strips) {
    for (std::size_t v = 0; v < strips.size(); ++v)
        for (const Field& f : strips[v].channels)
            for (int y = 0; y < strips[v].region.height(); ++y)
                for (int x = 0; x < strips[v].region.width(); ++x)
                    if (!std::isfinite(f.at(x, y)))
                        return std::string(view_names[static_cast<std::size_t>(views[v])]) +
                               " is no number at " + std::to_string(x) + ", " + std::to_string(y);
    return {};
}

double share_apart(const Field& first, const Field& second, Region r, double times) {
    float low = 1e30f, high = -1e30f;
    for (int y = 0; y < r.height(); ++y)
        for (int x = 0; x < r.width(); ++x)
            low = std::min(low, first.at(x, y)), high = std::max(high, first.at(x, y));
    const double near = 0.01 * std::max(high - low, 0.01f);
    int apart = 0;
    for (int y = 0; y < r.height(); ++y)
        for (int x = 0; x < r.width(); ++x)
            apart += std::abs(first.at(x, y) - second.at(x, y) / times) > near;
    return static_cast<double>(apart) / static_cast<double>(r.area());
}

std::string apart(std::span<const View> views, const std::vector<Strip>& was, const std::vector<Strip>& is,
                  double most, double times) {
    for (std::size_t v = 0; v < views.size(); ++v)
        for (std::size_t c = 0; c < was[v].channels.size(); ++c) {
            const double off = share_apart(was[v].channels[c], is[v].channels[c], was[v].region,
                                           views[v] == View::height ? times : 1);
            if (off > most)
                return std::string(view_names[static_cast<std::size_t>(views[v])]) + " " + std::to_string(c) +
                       " is another on " + std::to_string(100 * off) + " % of it";
        }
    return {};
}

Piece without_shadows(Piece p) {
    for (Node<Light>& l : p.lights)
        if (l->what.kind().find("shadow"))
            l = l.with([](Light& c) { c.what = c.what.with("shadow", false); });
    p.ambient.occlusion = false;
    return p;
}

} // namespace bathylux
