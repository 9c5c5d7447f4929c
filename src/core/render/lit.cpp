#include "core/render/lit.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

/// Rolls bright light off, on straight colour.
void roll_off(std::array<Plane, 3>& lit, const Field& coverage, RollOff how) {
    const int w = lit[0].width();
    const Rows cover(coverage, w);
    parallel_rows(0, lit[0].height(), [&](int y) {
        const float* a = cover(y);
        for (Plane& p : lit) {
            float* v = p.row(y);
            for (int x = 0; x < w; ++x)
                if (a[x] > 0) v[x] = a[x] * rolled_off(how, v[x] / a[x]);
        }
    });
}

} // namespace

Bundle lit_picture(const Bundle& relief, Region region, double scale, Edge edge, const Lighting& lighting,
                   const InTheWay& way) {
    auto lit = shade(relief, region, scale, edge, lighting, way);
    Bundle out;
    out.region = region;
    out.coverage = cropped(relief.coverage, relief.region, region);
    show_bodies(lighting, region, scale, relief, lit, out.coverage);
    if (lighting.roll_off != RollOff::none) roll_off(lit, out.coverage, lighting.roll_off);
    for (int c = 0; c < 3; ++c) out.color[c] = Field(std::move(lit[c]));
    return out;
}

OperationPtr finished(Evaluator& evaluator, const Lit& lit, Graph& graph) {
    auto out = std::make_shared<Operation>();
    const Edge edge = lit.scene.piece->canvas.edge;
    Read read{lit.relief, channel::all, false};
    read.reach = edge == Edge::repeat ? the_whole : 1;
    read.within_canvas = true;
    out->reads = {read};
    out->hash = (Hash() << "lit" << lit.relief->hash << hash_of(lit.lighting) << lit.scale).value();
    out->called = "lit";
    out->gives = channel::color;
    out->extent = lit.canvas;
    // What is lit may be looked at from several threads; each asks for what stands in the way by itself.
    out->run = [&evaluator, relief = lit.relief, canvas = lit.canvas, scale = lit.scale,
                lighting = lit.lighting, scene = lit.scene,
                edge](const Work& work, std::vector<Bundle> bundles) {
        const Lit now{scene, relief, canvas, scale, lighting};
        const InTheWay way = in_the_way(evaluator, now, work.region);
        return lit_picture(bundles[0], work.region, scale, edge, lighting, way);
    };
    return graph.finish(out);
}

} // namespace bathylux
