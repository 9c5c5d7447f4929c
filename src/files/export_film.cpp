#include "files/export_film.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstring>

#include "core/error.h"
#include "core/field/parallel.h"
#include "core/render/lit_parts.h"
#include "files/contact_sheet.h"
#include "files/export_parts.h"
#include "files/map_says.h"
#include "files/sample_encoder.h"

namespace bathylux::files {

namespace {

/// Straight RGBA of 16 bits out of what an encoder gives of a view: grey spread, opaque where it says
/// nothing.
std::vector<std::uint16_t> rgba_of(const Bytes& samples, int channels, int pixels) {
    std::vector<std::uint16_t> out(std::size_t{4} * static_cast<std::size_t>(pixels));
    const auto* from = reinterpret_cast<const std::uint16_t*>(samples.data());
    for (int i = 0; i < pixels; ++i, from += channels) {
        std::uint16_t* to = &out[std::size_t{4} * static_cast<std::size_t>(i)];
        for (int c = 0; c < 3; ++c) to[c] = from[channels < 3 ? 0 : c];
        to[3] = channels == 4 ? from[3] : 0xffff;
    }
    return out;
}

std::vector<std::uint16_t> rgba_of(const QImage& image) {
    const QImage wide = image.convertToFormat(QImage::Format_RGBA64);
    std::vector<std::uint16_t> out(std::size_t{4} * static_cast<std::size_t>(wide.width()) *
                                   static_cast<std::size_t>(wide.height()));
    const std::size_t row = std::size_t{8} * static_cast<std::size_t>(wide.width());
    for (int y = 0; y < wide.height(); ++y)
        std::memcpy(reinterpret_cast<std::byte*>(out.data()) + static_cast<std::size_t>(y) * row,
                    wide.constScanLine(y), row);
    return out;
}

} // namespace

std::string FilmCounts::says() const {
    return std::to_string(frames) + " frames: " + std::to_string(made) + " results made, " +
           std::to_string(there) + " were there already";
}

std::vector<std::filesystem::path> film_files(const Piece& piece, const std::filesystem::path& path,
                                              const FilmOrder& order) {
    if (!order.parts) return {path};
    std::vector<std::filesystem::path> out;
    for (const std::string_view name : std::span(part_names).first(parts_of(piece)))
        out.push_back(path.parent_path() /
                      (path.stem().string() + "-" + std::string(name) + path.extension().string()));
    return out;
}

FilmCounts export_film(Evaluator& evaluator, const std::function<Scene(int)>& scene_at,
                       const std::filesystem::path& path, const FilmOrder& order, const Progress& progress) {
    const int frames = order.last - order.first + 1;
    const Scene first = scene_at(order.first);
    FilmSpec spec;
    const Region all = canvas_region(first.piece->canvas, order.scale);
    spec.width = all.width(), spec.height = all.height();
    if (order.solid && order.solid->width > 0)
        spec.width = order.solid->width, spec.height = order.solid->height;
    const Timing timing = first.piece->time.value_or(Timing{});
    spec.rate = timing.rate, spec.loop = timing.loop;

    std::pair<float, float> range{0, 0};
    const bool heights = order.view == View::height && !order.solid;
    if (heights)
        for (int i = order.first; i <= order.last; ++i) {
            stop_here();
            const auto r = stated_range(evaluator, i == order.first ? first : scene_at(i), order.scale);
            range = i == order.first
                        ? r
                        : std::pair{std::min(range.first, r.first), std::max(range.second, r.second)};
            if (progress) progress(0.5 * (i - order.first + 1) / frames);
        }
    const View view = order.solid ? View::lit : order.view;
    const SampleEncoder encode(view, 16, order.green_up, range);
    std::vector<std::unique_ptr<FilmWriter>> writers;
    for (const auto& file : film_files(*first.piece, path, order)) writers.push_back(write_film(file, spec));
    const auto pictures = [&](const Scene& scene) {
        std::vector<std::vector<std::uint16_t>> out;
        if (order.parts) {
            for (const PartLayer& layer : part_layers(evaluator, scene, order.scale))
                out.push_back(rgba_of(layer.image));
            return out;
        }
        const Strip seen = order.solid
                               ? look_at_solid(evaluator, scene, *order.solid, spec.width, spec.height)
                               : look(evaluator, scene, view, all, order.scale);
        out.push_back(rgba_of(encode(seen), channels_of(view), spec.width * spec.height));
        return out;
    };
    const auto [made, there] = evaluator.budget().counts();
    for (int i = order.first; i <= order.last; ++i) {
        stop_here();
        const Scene scene = i == order.first ? first : scene_at(i);
        const auto shown = pictures(scene);
        for (std::size_t k = 0; k < writers.size(); ++k) writers[k]->write(shown[k].data());
        const double done = static_cast<double>(i - order.first + 1) / frames;
        if (progress) progress(heights ? 0.5 + 0.5 * done : done);
    }
    for (const auto& writer : writers) writer->finish();
    const auto [made_now, there_now] = evaluator.budget().counts();
    return {frames, made_now - made, there_now - there};
}

void film_sheet(const std::function<Scene(int)>& scene_at, const std::filesystem::path& path,
                const FilmOrder& order, int count) {
    const int frames = order.last - order.first + 1;
    count = std::clamp(count, 1, frames);
    std::vector<int> shown;
    shown.reserve(static_cast<std::size_t>(count));
    for (int i = 0; i < count; ++i)
        shown.push_back(order.first + (count > 1 ? (frames - 1) * i / (count - 1) : 0));
    constexpr int side = 320;
    Evaluator evaluator;
    const auto picture = [&](int i) {
        const Scene scene = scene_at(shown[static_cast<std::size_t>(i)]);
        if (!order.solid) return small_picture(evaluator, scene, order.view, side);
        // As wide as high as the film would be.
        const bool own = order.solid->width > 0;
        const double w = own ? order.solid->width : scene.piece->canvas.width,
                     h = own ? order.solid->height : scene.piece->canvas.height, k = side / std::max(w, h);
        const int wide = std::max(1, static_cast<int>(std::lround(k * w))),
                  high = std::max(1, static_cast<int>(std::lround(k * h)));
        return picture_of(look_at_solid(evaluator, scene, *order.solid, wide, high), View::lit, wide, high);
    };
    sheet_of(
        count, picture, [&](int i) { return "frame " + std::to_string(shown[static_cast<std::size_t>(i)]); },
        static_cast<int>(std::ceil(std::sqrt(count))), path);
}

std::filesystem::path numbered(const std::filesystem::path& path, int frame) {
    char digits[16];
    std::snprintf(digits, sizeof digits, "-%04d", frame);
    return path.parent_path() / (path.stem().string() + digits + path.extension().string());
}

} // namespace bathylux::files
