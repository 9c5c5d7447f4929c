#include "core/render/views.h"

#include "core/error.h"
#include "core/field/parallel.h"
#include "core/light/normals.h"
#include "core/light/occlusion.h"
#include "core/render/lit.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// What a view needs of the relief, and how many px around.
struct Need {
    Channels channels;
    int around = 0;
};
Need need_of(View view) {
    switch (view) {
    case View::art: return {channel::color};
    case View::height: return {channel::height};
    case View::normals:
    case View::slope: return {channel::height, 1};
    case View::curvature: return {channel::height, 2};
    case View::lit:
    case View::unfinished: return {}; // it asks for itself
    case View::occlusion: return {channel::height, 1};
    case View::roughness:
    case View::metallic: return {channel::surface};
    case View::mask: return {channel::coverage};
    }
    return {channel::all, 2};
}

/// Half the divergence of the unit normal's flat part: the mean curvature of the relief as a surface.
Plane curvature(const Bundle& relief, Region region, double scale, Edge edge) {
    const Region wide = edge == Edge::repeat ? relief.region : intersect(grow(region, 1), relief.region);
    const auto n = normals(relief.height, relief.region, wide, static_cast<float>(scale), edge);
    Plane out(region.width(), region.height());
    const int w = wide.width(), h = wide.height();
    parallel_rows(0, region.height(), [&](int y) {
        const int j = region.y0 + y - wide.y0;
        const int above = wrapped(j - 1, h, edge), below = wrapped(j + 1, h, edge);
        for (int x = 0; x < region.width(); ++x) {
            const int i = region.x0 + x - wide.x0;
            const int left = wrapped(i - 1, w, edge), right = wrapped(i + 1, w, edge);
            const float dx = n[0](right, j) - n[0](left, j), dy = n[1](i, above) - n[1](i, below); // y up
            out(x, y) = static_cast<float>(0.25 * scale) * (dx + dy);
        }
    });
    return out;
}

/// What can be read off a relief as it is.
Strip simple_view(View view, const Bundle& relief, Region region, double scale, Edge edge) {
    Strip out{region, {}};
    const auto part = [&](const Field& f) { return cropped(f, relief.region, region); };
    switch (view) {
    case View::art:
        for (const Field& c : relief.color) out.channels.push_back(part(c));
        out.channels.push_back(part(relief.coverage));
        break;
    case View::height: out.channels.push_back(part(relief.height)); break;
    case View::normals:
        for (Plane& p : normals(relief.height, relief.region, region, static_cast<float>(scale), edge))
            out.channels.emplace_back(std::move(p));
        break;
    case View::slope: {
        auto n = normals(relief.height, relief.region, region, static_cast<float>(scale), edge);
        parallel_rows(0, region.height(), [&](int y) {
            float* z = n[2].row(y);
            for (int x = 0; x < region.width(); ++x)
                z[x] = std::acos(std::min(1.0f, z[x])) / static_cast<float>(radians_per_degree);
        });
        out.channels.emplace_back(std::move(n[2]));
        break;
    }
    case View::curvature: out.channels.emplace_back(curvature(relief, region, scale, edge)); break;
    case View::roughness: out.channels.push_back(part(relief.roughness)); break;
    case View::metallic: out.channels.push_back(part(relief.metallic)); break;
    case View::mask: out.channels.push_back(part(relief.coverage)); break;
    case View::lit:
    case View::unfinished:
    case View::occlusion: break;
    }
    return out;
}

Strip strip_of(const Bundle& picture) {
    return {picture.region, {picture.color[0], picture.color[1], picture.color[2], picture.coverage}};
}

/// A copy of `from` within `to`.
void copy_into(std::vector<Plane>& to, Region whole, const Strip& from) {
    for (std::size_t c = 0; c < to.size(); ++c) {
        const Rows rows(from.channels[c], from.region.width());
        for (int y = from.region.y0; y < from.region.y1; ++y)
            std::copy_n(rows(y - from.region.y0), from.region.width(),
                        to[c].row(y - whole.y0) + (from.region.x0 - whole.x0));
    }
}

HeightsAt all_of(const Scene& scene) {
    return [scene](Evaluator& evaluator, double scale) {
        return evaluator.relief(scene, canvas_region(scene.piece->canvas, scale), scale, {}, channel::height);
    };
}

/// Everything that several views of a scene have in common.
class Looker {
  public:
    Looker(Evaluator& evaluator, const Scene& scene, const std::vector<View>& views, double scale)
        : evaluator_(evaluator), scene_(scene), views_(views), scale_(scale),
          graph_(scene, scale), lit_{scene, graph_.relief(),    graph_.canvas(),
                                     scale, lighting_of(scene), all_of(scene)},
          edge_(scene.piece->canvas.edge) {
        for (const View v : views) {
            channels_ = channels_ | need_of(v).channels;
            around_ = std::max(around_, need_of(v).around);
        }
        for (const View v : views)
            if (is_lit(v)) (v == View::lit ? picture_ : unfinished_) = finished(lit_, graph_, v == View::lit);
    }

    /// A tile small enough to be made at once.
    std::vector<Strip> at(Region region, const Progress& progress) {
        const Region all = graph_.canvas();
        // Tiles whose edges meet, and whatever small canvases' light has to know of them, are made as a
        // whole.
        const bool whole = evaluator_.cut().one(all) && (edge_ == Edge::repeat ? around_ > 0 : looks_far());
        const Region wide =
            whole || (edge_ == Edge::repeat && around_ > 0) ? all : intersect(grow(region, around_), all);
        const Bundle relief =
            channels_.bits ? evaluator_.run(lit_.relief, all, wide, channels_, progress) : Bundle{};
        std::vector<Strip> out;
        for (const View v : views_) {
            if (is_lit(v))
                out.push_back(strip_of(evaluator_.run(v == View::lit ? picture_ : unfinished_, all, region,
                                                      channel::color, progress)));
            else if (v == View::occlusion) {
                Lit seen = lit_;
                seen.lighting = Lighting{};
                seen.lighting.ambient = {1, 1, 1}, seen.lighting.occlusion = true;
                out.push_back({region, {Field(*in_the_way(evaluator_, seen, region).open)}});
            } else
                out.push_back(simple_view(v, relief, region, scale_, edge_));
        }
        return out;
    }

    /// Any region, in tiles.
    std::vector<Strip> over(Region region, const Progress& progress) {
        if (region.area() <= evaluator_.cut().whole) return at(region, progress);
        const auto tiles = tiles_of(graph_.canvas(), region, evaluator_.cut());
        std::vector<std::vector<Plane>> planes;
        for (const View v : views_) {
            planes.emplace_back();
            for (int c = 0; c < channels_of(v); ++c)
                planes.back().emplace_back(region.width(), region.height());
        }
        for (std::size_t i = 0; i < tiles.size(); ++i) {
            const auto part = at(intersect(tiles[i], region), [&](double d) {
                if (progress) progress((static_cast<double>(i) + d) / static_cast<double>(tiles.size()));
            });
            for (std::size_t v = 0; v < views_.size(); ++v) copy_into(planes[v], region, part[v]);
        }
        std::vector<Strip> out;
        for (auto& p : planes) {
            out.push_back({region, {}});
            for (Plane& c : p) out.back().channels.emplace_back(std::move(c));
        }
        return out;
    }

    Region canvas() const { return graph_.canvas(); }

  private:
    bool looks_far() const {
        for (const View v : views_)
            if (v == View::occlusion || (is_lit(v) && lit_.lighting.looks_far())) return true;
        return false;
    }

    Evaluator& evaluator_;
    Scene scene_;
    std::vector<View> views_;
    double scale_;
    Graph graph_;
    Lit lit_;
    Edge edge_;
    OperationPtr picture_, unfinished_;
    Channels channels_{};
    int around_ = 0;
};

} // namespace

std::vector<Strip> look(Evaluator& evaluator, const Scene& scene, const std::vector<View>& views,
                        Region region, double scale, const Progress& progress) {
    return Looker(evaluator, scene, views, scale).over(region, progress);
}

Strip look(Evaluator& evaluator, const Scene& scene, View view, Region region, double scale,
           const Progress& progress) {
    return std::move(look(evaluator, scene, std::vector{view}, region, scale, progress).front());
}

void look_in_bands(Evaluator& evaluator, const Scene& scene, const std::vector<View>& views, double scale,
                   const std::function<void(const std::vector<Strip>&)>& sink, const Progress& progress) {
    Looker looker(evaluator, scene, views, scale);
    const Region all = looker.canvas();
    const int rows = evaluator.cut().one(all) ? all.height() : evaluator.cut().side;
    for (int y = 0; y < all.y1; y += rows) {
        const Region band{0, y, all.x1, std::min(all.y1, y + rows)};
        sink(looker.over(band, [&](double done) {
            if (progress) progress((band.y0 + done * band.height()) / all.height());
        }));
    }
    if (progress) progress(1);
}

Strip view_of(View view, const Bundle& relief, Region region, double scale, Edge edge,
              const Lighting& lighting) {
    const auto per_px = static_cast<float>(scale);
    if (view == View::lit)
        return strip_of(lit_picture(relief, region, scale, edge, lighting,
                                    in_the_way(relief.height, relief.region, per_px, edge, lighting)));
    if (view == View::occlusion)
        return {region,
                {cropped(Field(occlusion(relief.height, relief.region, per_px, edge, {})), relief.region,
                         region)}};
    return simple_view(view, relief, region, scale, edge);
}

int channels_of(View view) { return is_color(view) ? 4 : view == View::normals ? 3 : 1; }
bool is_color(View view) { return view == View::art || is_lit(view); }

float as_share(View view, float v) {
    if (view == View::slope) return v / 90;
    if (view == View::curvature) return 0.5f + 2 * v;
    return v;
}

std::pair<float, float> range_of(const Field& field) {
    if (field.is_constant()) return {field.constant(), field.constant()};
    const Plane& p = field.plane();
    std::vector<std::pair<float, float>> rows(p.height());
    parallel_rows(0, p.height(), [&](int y) {
        const auto [low, high] = std::minmax_element(p.row(y), p.row(y) + p.width());
        rows[y] = {*low, *high};
    });
    std::pair<float, float> out = rows.empty() ? std::pair{0.0f, 0.0f} : rows[0];
    for (const auto& r : rows) out = {std::min(out.first, r.first), std::max(out.second, r.second)};
    return out;
}

std::pair<float, float> stated_range(Evaluator& evaluator, const Scene& scene, double scale) {
    if (scene.piece->canvas.height_range) return *scene.piece->canvas.height_range;
    std::pair<float, float> out{1e30f, -1e30f};
    look_in_bands(evaluator, scene, {View::height}, scale, [&](const std::vector<Strip>& s) {
        const auto r = range_of(s[0].channels[0]);
        out = {std::min(out.first, r.first), std::max(out.second, r.second)};
    });
    return out;
}

} // namespace bathylux
