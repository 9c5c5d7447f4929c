#include "core/render/lit.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// Lays the lit picture over the flat art, both straight.
void lay_over(const Lighting& lighting, const Bundle& art, Bundle& lit) {
    const int w = lit.region.width(), h = lit.region.height();
    const Rows cover(lit.coverage, w), flat_cover(art.coverage, w);
    std::array<Plane*, 3> to;
    for (int c = 0; c < 3; ++c) to[c] = &lit.color[c].writable(w, h);
    const std::array<Rows, 3> flat{Rows(art.color[0], w), Rows(art.color[1], w), Rows(art.color[2], w)};
    parallel_rows(0, h, [&](int y) {
        const float *a = cover(y), *b = flat_cover(y), k = lighting.relight;
        for (int x = 0; x < w; ++x) {
            if (!(a[x] > 0)) continue;
            std::array<float, 4> backdrop{0, 0, 0, 1}, over{0, 0, 0, k};
            for (int c = 0; c < 3; ++c) {
                backdrop[c] = b[x] > 0 ? flat[c](y)[x] / b[x] : 0;
                over[c] = k * (*to[c])(x, y) / a[x];
            }
            if (lighting.relight_blend == BlendMode::normal)
                for (int c = 0; c < 3; ++c) backdrop[c] = over[c] + (1 - k) * backdrop[c];
            else
                composite(lighting.relight_blend, false, over, backdrop);
            for (int c = 0; c < 3; ++c) (*to[c])(x, y) = a[x] * backdrop[c];
        }
    });
}

bool is_laid_over(const Lighting& l) { return l.relight != 1 || l.relight_blend != BlendMode::normal; }

void show_bodies_in(Bundle& picture, const Lighting& lighting, const Bundle& relief, double scale) {
    const int w = picture.region.width(), h = picture.region.height();
    std::array<Plane, 3> planes;
    for (int c = 0; c < 3; ++c) planes[c] = std::move(picture.color[c].writable(w, h));
    show_bodies(lighting, picture.region, scale, relief, planes, picture.coverage);
    for (int c = 0; c < 3; ++c) picture.color[c] = Field(std::move(planes[c]));
}

void roll_off(const Lighting& lighting, Bundle& picture) {
    if (lighting.roll_off == RollOff::none) return;
    const int w = picture.region.width();
    const Rows cover(picture.coverage, w);
    std::array<Plane*, 3> planes;
    for (int c = 0; c < 3; ++c) planes[c] = &picture.color[c].writable(w, picture.region.height());
    parallel_rows(0, picture.region.height(), [&](int y) {
        const float* a = cover(y);
        for (Plane* p : planes) {
            float* v = p->row(y);
            for (int x = 0; x < w; ++x)
                if (a[x] > 0) v[x] = a[x] * rolled_off(lighting.roll_off, v[x] / a[x]);
        }
    });
}

bool shows_bodies(const Lighting& l) {
    return std::any_of(l.lamps.begin(), l.lamps.end(),
                       [](const Lamp& p) { return p.body && !p.directional && p.size > 0; });
}

} // namespace

Bundle lit_picture(const Bundle& relief, Region region, double scale, Edge edge, const Lighting& lighting,
                   const InTheWay& way) {
    auto lit = shade(relief, region, scale, edge, lighting, way);
    Bundle out;
    out.region = region;
    out.coverage = cropped(relief.coverage, relief.region, region);
    for (int c = 0; c < 3; ++c) out.color[c] = Field(std::move(lit[c]));
    if (shows_bodies(lighting)) show_bodies_in(out, lighting, relief, scale);
    show_as_told(lighting, is_laid_over(lighting) ? cropped(relief, region) : Bundle{}, out);
    return out;
}

void show_as_told(const Lighting& lighting, const Bundle& art, Bundle& lit) {
    if (is_laid_over(lighting)) lay_over(lighting, art, lit);
    roll_off(lighting, lit);
}

OperationPtr finished(const Lit& lit, Graph& graph, bool with_finish) {
    OperationPtr picture = graph.picture();
    const Lighting& lighting = lit.lighting;
    const bool heights = with_finish && graph.finish_reads_height();
    if (shows_bodies(lighting) || heights) {
        auto out = std::make_shared<Operation>();
        out->reads = {{picture, channel::color, false}, {lit.relief, channel::height, false}};
        out->hash = (Hash() << "with bodies and heights" << picture->hash << lit.relief->hash
                            << hash_of(lighting) << heights)
                        .value();
        out->called = "lights' bodies";
        out->gives = channel::color | channel::height;
        out->extent = lit.canvas;
        out->run = [lighting, scale = lit.scale, heights](const Work&, std::vector<Bundle> read) {
            Bundle b = std::move(read[0]);
            if (shows_bodies(lighting)) show_bodies_in(b, lighting, read[1], scale);
            if (heights)
                b.gives_height = read[1].gives_height, b.height = read[1].height, b.weight = read[1].weight;
            return b;
        };
        picture = out;
    }
    if (with_finish) picture = graph.finish(picture);
    if (!is_laid_over(lighting) && lighting.roll_off == RollOff::none) return picture;
    auto out = std::make_shared<Operation>();
    out->reads = {{picture, channel::color, false}};
    Hash h;
    h << "rolled off" << picture->hash << hash_of(lighting);
    if (is_laid_over(lighting)) {
        out->reads.push_back({lit.relief, channel::color, false});
        h << lit.relief->hash;
    }
    out->hash = h.value();
    out->called = "rolled off";
    out->gives = channel::color;
    out->extent = lit.canvas;
    out->run = [lighting](const Work&, std::vector<Bundle> read) {
        Bundle b = std::move(read[0]);
        if (read.size() > 1) lay_over(lighting, read[1], b);
        roll_off(lighting, b);
        return b;
    };
    return out;
}

} // namespace bathylux
