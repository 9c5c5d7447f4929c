#include "core/bend/bent.h"

#include <algorithm>
#include <cmath>

#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// The px whose centres lie within the element's box, where that stands upright; nothing otherwise.
Region upright_box(const Context& c) {
    const Affine& m = c.box_to_device;
    const double largest = m.max_scale();
    const bool across = std::abs(m.b) + std::abs(m.c) < 1e-6 * largest,
               turned = std::abs(m.a) + std::abs(m.d) < 1e-6 * largest;
    if (!(across || turned)) return {};
    const Box box = transformed(c.box, m);
    return covering({std::floor(box.x0 + 0.5), std::floor(box.y0 + 0.5), std::floor(box.x1 + 0.5),
                     std::floor(box.y1 + 0.5)});
}

/// A place within 0…length for one anywhere, but half a px from its ends where it is held.
double within(double v, double length, double inset, Edge edge) {
    if (edge == Edge::clamp)
        return std::clamp(v, std::min(inset, length / 2), std::max(length - inset, length / 2));
    if (edge == Edge::repeat) return v - length * std::floor(v / length);
    const double turns = v - 2 * length * std::floor(v / (2 * length));
    return turns < length ? turns : 2 * length - turns;
}

/// The places looked at, brought into a box that lies turned.
Looks brought_into(Looks looks, const Context& c, Edge edge) {
    const Affine to_box = c.box_to_device.inverse();
    const double inset = 0.5 / std::max(1e-9, c.box_to_device.mean_scale());
    parallel_rows(0, looks.x.height(), [&](int y) {
        float *px = looks.x.row(y), *py = looks.y.row(y);
        for (int x = 0; x < looks.x.width(); ++x) {
            Vec2 p = to_box({px[x], py[x]});
            p = {c.box.x0 + within(p.x - c.box.x0, c.box.width(), inset, edge),
                 c.box.y0 + within(p.y - c.box.y0, c.box.height(), inset, edge)};
            const Vec2 q = c.box_to_device(p);
            px[x] = static_cast<float>(q.x), py[x] = static_cast<float>(q.y);
        }
    });
    return looks;
}

/// A region that holds it and whose corners fall on the grid of px halved so often.
Region aligned(Region r, int halvings) {
    const int n = 1 << halvings;
    return {floor_div(r.x0, n) * n, floor_div(r.y0, n) * n, -floor_div(-r.x1, n) * n,
            -floor_div(-r.y1, n) * n};
}

} // namespace

Bundle bent(const Looks& given, const Context& context, Edge edge) {
    Looks brought;
    const Looks* looks = &given;
    Region past; // what is held or repeated
    if (edge != Edge::none && context.box_to_device.invertible() && !context.box.empty()) {
        past = upright_box(context);
        if (past.empty()) {
            brought = brought_into(given, context, edge);
            looks = &brought;
            edge = Edge::none;
        }
    } else if (context.canvas_edge == Edge::repeat) {
        past = context.canvas, edge = Edge::repeat;
    } else
        edge = Edge::none;

    constexpr int far = 10'000'000;
    const Survey survey =
        surveyed(*looks, edge == Edge::none ? context.below_extent : Region{-far, -far, far, far});
    const int halvings = survey.halvings;
    Region source = edge == Edge::none ? survey.region : past;
    const Bundle in = source.empty() ? Bundle{} : context.below(source);
    Bundle out;
    out.region = context.region;
    out.gives_height = in.gives_height;
    if (in.region.empty()) return out;
    if (edge == Edge::none) source = aligned(source, halvings);

    // What is the same everywhere within is so outside, too, but for what ends with the element.
    // One plane in several places is read once.
    std::vector<TexelField> fields;
    std::vector<std::pair<Field*, std::size_t>> to;
    const auto carried = [&](const Field& f, Field& into, bool ends) {
        into = f;
        if (f.is_constant() && (!ends || f.constant() == 0)) return;
        const auto same = std::find_if(fields.begin(), fields.end(), [&](const TexelField& g) {
            return g.counted_by < 0 && !f.is_constant() && !g.of->is_constant() &&
                   &f.plane() == &g.of->plane();
        });
        to.emplace_back(&into, static_cast<std::size_t>(same - fields.begin()));
        if (same == fields.end()) fields.push_back({&f});
    };
    for (int c = 0; c < 3; ++c) carried(in.color[c], out.color[c], true);
    carried(in.coverage, out.coverage, true);
    if (in.gives_height) {
        carried(in.weight, out.weight, true);
        const auto weight =
            std::find_if(to.begin(), to.end(), [&](const auto& t) { return t.first == &out.weight; });
        out.height = in.height.is_constant() ? in.height : Field(0.0f); // where nothing counts
        if (!in.height.is_constant() && weight != to.end()) {
            fields.push_back({&in.height, static_cast<int>(weight->second)});
            to.emplace_back(&out.height, fields.size() - 1);
        }
    }
    carried(in.surface_weight, out.surface_weight, true);
    carried(in.worn, out.worn, true);
    const auto from = in.surface();
    const auto into = out.surface();
    for (std::size_t i = 0; i < from.size(); ++i) carried(*from[i], *into[i], false);
    Field tone;
    if (in.tone) {
        out.tone.emplace();
        carried(*in.tone, *out.tone, true);
    }
    if (fields.empty()) return out;
    const Texels texels(fields, in.region, source, edge, survey);
    std::vector<Field> made;
    for (Plane& p : read_at(texels, *looks, survey, static_cast<int>(fields.size())))
        made.emplace_back(std::move(p));
    for (const auto& [field, channel] : to) *field = made[channel];
    return out;
}

Region bent_extent(Region below, Edge edge, const Context& context, double x, double y) {
    constexpr int endless = 1 << 24;
    if (edge != Edge::none || context.canvas_edge == Edge::repeat || below.empty() ||
        !(x < endless && y < endless))
        return below.empty() ? below : Region{-endless, -endless, endless, endless};
    const int dx = static_cast<int>(std::ceil(x)) + 2, dy = static_cast<int>(std::ceil(y)) + 2;
    return intersect({below.x0 - dx, below.y0 - dy, below.x1 + dx, below.y1 + dy},
                     {-endless, -endless, endless, endless});
}

} // namespace bathylux
