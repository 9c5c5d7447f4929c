#include "files/export_solid.h"

#include <QJsonObject>
#include <cmath>

#include "core/error.h"
#include "core/field/parallel.h"
#include "files/json.h"
#include "files/sample_encoder.h"

namespace bathylux::files {

namespace {

/// The nearest and the farthest depth there is.
std::pair<float, float> reach_of(const Plane& depth) {
    float near = INFINITY, far = 0;
    for (int y = 0; y < depth.height(); ++y)
        for (int x = 0; x < depth.width(); ++x)
            if (const float d = depth(x, y); std::isfinite(d))
                near = std::min(near, d), far = std::max(far, d);
    return std::isfinite(near) ? std::pair{near, far} : std::pair{0.0f, 1.0f};
}

/// `lit`: the finished picture, where it is one of the views that are asked for.
Strip strip_of(SolidView view, const SolidPicture& picture, const Bundle& lit) {
    const Region all{0, 0, picture.width(), picture.height()};
    switch (view) {
    case SolidView::lit: return {all, {lit.color[0], lit.color[1], lit.color[2], lit.coverage}};
    case SolidView::depth: return {all, {Field(picture.depth())}};
    case SolidView::normals: break;
    }
    const auto& n = picture.normals();
    return {all, {Field(n[0]), Field(n[1]), Field(n[2])}};
}

} // namespace

void export_solid(Evaluator& evaluator, const Scene& given, const std::filesystem::path& path,
                  const SolidExport& how, const Progress& progress) {
    const std::string ending = ending_of(path);
    const bool floats = ending == ".exr" || how.bits == 32;
    if (how.views.size() > 1 && ending != ".exr")
        throw Error(path.string() + ": layers of one file are written as .exr.");
    Scene scene = given;
    if (floats && scene.piece->roll_off != RollOff::none) { // floats keep all the light there is
        auto piece = std::make_shared<Piece>(*scene.piece);
        piece->roll_off = RollOff::none;
        scene.piece = piece;
    }
    const Region canvas = canvas_region(scene.piece->canvas, 1);
    const int w = how.width > 0 ? how.width : canvas.width(),
              h = how.height > 0 ? how.height : canvas.height();
    if (w > most_solid_side || h > most_solid_side)
        throw Error(path.string() + ": a picture of a solid has at most " + std::to_string(most_solid_side) +
                    " px a side: give a smaller size.");
    const SolidScene solid = solid_scene(evaluator, scene);
    SolidPicture picture(w, h);
    const bool look = std::find(how.views.begin(), how.views.end(), SolidView::lit) != how.views.end();
    const int samples = look ? how.samples : 1;
    for (int i = 0; i < samples; ++i) {
        picture.add(solid);
        if (progress) progress(double(i + 1) / samples);
    }
    const Bundle lit = look ? finished_solid(evaluator, scene, solid, picture) : Bundle();

    PictureSpec spec;
    spec.width = w, spec.height = h;
    std::vector<Strip> strips;
    for (const SolidView v : how.views) {
        strips.push_back(strip_of(v, picture, lit));
        const std::string name(solid_view_names[static_cast<std::size_t>(v)]);
        const std::string letters = v == SolidView::lit ? "RGBA" : v == SolidView::depth ? "Y" : "XYZ";
        for (const char c : letters) spec.channel_names.push_back(name + "." + c);
    }
    spec.channels = static_cast<int>(spec.channel_names.size());
    const SolidView first = how.views.front();
    spec.bits = floats ? 32 : how.bits ? how.bits : first == SolidView::depth && ending != ".webp" ? 16 : 8;
    spec.premultiplied = floats;
    const auto [near, far] = reach_of(picture.depth());
    QJsonObject says{{"bathylux", QString::fromUtf8(solid_view_names[static_cast<std::size_t>(first)])}};
    if (how.views.size() > 1) says["bathylux"] = "layers";
    if (first == SolidView::depth && !floats) says["nearest"] = near, says["farthest"] = far;
    spec.description = written(says, false);
    if (how.views.size() > 1) {
        const auto writer = write_picture(path, spec);
        std::vector<float> row(static_cast<std::size_t>(w) * spec.channels);
        for (int y = 0; y < h; ++y) {
            int c = 0;
            for (std::size_t v = 0; v < strips.size(); ++v)
                for (std::size_t k = 0; k < strips[v].channels.size(); ++k, ++c) {
                    const bool flip = how.views[v] == SolidView::normals && k == 1 && !how.green_up;
                    for (int x = 0; x < w; ++x) {
                        const float value = strips[v].channels[k].at(x, y);
                        row[static_cast<std::size_t>(x) * spec.channels + c] = flip ? -value : value;
                    }
                }
            writer->write(1, row.data());
        }
        writer->finish();
        return;
    }
    spec.channel_names.clear();
    const auto writer = write_picture(path, spec);
    std::pair<float, float> range{0, 0};
    View as = first == SolidView::lit ? View::lit : View::normals;
    if (first == SolidView::depth) {
        as = View::height;
        if (!floats) { // nearer is higher
            range = {-far, near < far ? -near : -near + 1};
            Plane up = picture.depth();
            parallel_rows(0, h, [&](int y) {
                for (int x = 0; x < w; ++x) up(x, y) = -up(x, y);
            });
            strips[0].channels[0] = Field(std::move(up));
        }
    }
    writer->write(h, SampleEncoder(as, spec.bits, how.green_up, range)(strips[0]).data());
    writer->finish();
}

Strip look_at_solid(Evaluator& evaluator, const Scene& scene, const SolidExport& how, int width, int height) {
    const SolidScene solid = solid_scene(evaluator, scene);
    SolidPicture picture(width, height);
    picture.add(solid, how.samples);
    return strip_of(SolidView::lit, picture, finished_solid(evaluator, scene, solid, picture));
}

} // namespace bathylux::files
