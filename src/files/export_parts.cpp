#include "files/export_parts.h"

#include <QBuffer>
#include <QImage>
#include <atomic>

#include "core/error.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "core/render/lit_parts.h"
#include "files/json.h"
#include "files/package.h"
#include "files/pictures.h"
#include "files/zip.h"

namespace bathylux::files {

namespace {

void write_exr(const LitParts& light, const Scene& scene, const std::filesystem::path& path) {
    PictureSpec spec;
    const int w = light.region.width(), h = light.region.height();
    spec.width = w, spec.height = h, spec.bits = 32, spec.premultiplied = true;
    for (std::size_t i = 0; i < light.parts.size(); ++i)
        for (int c = 0; c < 3; ++c) spec.channel_names.push_back(std::string(part_names[i]) + "." + "RGB"[c]);
    for (int c = 0; c < 4; ++c) spec.channel_names.push_back(std::string("lit.") + "RGBA"[c]);
    spec.channels = static_cast<int>(spec.channel_names.size());
    spec.description =
        written({{"bathylux", "light parts"}, {"px_per_mm", number(scene.piece->canvas.px_per_mm)}}, false);
    const auto writer = write_picture(path, spec);
    const Rows cover(light.coverage, w);
    std::vector<float> samples(static_cast<std::size_t>(w) * spec.channels);
    for (int y = 0; y < h; ++y) {
        for (int x = 0; x < w; ++x) {
            float* to = &samples[static_cast<std::size_t>(x) * spec.channels];
            std::array<float, 3> sum{};
            for (const auto& part : light.parts)
                for (int c = 0; c < 3; ++c) sum[c] += * to++ = part[c](x, y);
            for (const float v : sum) *to++ = v;
            *to++ = cover(y)[x];
        }
        writer->write(1, samples.data());
    }
    writer->finish();
}

Bytes png(const QImage& image) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!image.save(&buffer, "PNG")) throw Error("A layer could not be made into a PNG.");
    const auto* data = reinterpret_cast<const std::byte*>(bytes.constData());
    return {data, data + bytes.size()};
}

/// What a viewer has to do with each part.
constexpr std::array<const char*, part_names.size()> modes{"svg:src-over", "svg:multiply", "svg:plus",
                                                           "svg:plus",     "svg:multiply", "svg:src-over"};

/// The layers of an OpenRaster file, from below, and what they are together. Values are those a viewer
/// blends.
struct Stack {
    std::vector<PartLayer> layers; // opaque wherever there is anything
    QImage shape;                  // Alpha8; null where all of it is opaque
    QImage merged;
};

Stack stack_of(Evaluator& evaluator, const Scene& scene, double scale, const Progress& progress) {
    const LitParts light = lit_parts(evaluator, scene, scale, [&](double d) {
        if (progress) progress(0.9 * d);
    });
    const auto& parts = light.parts;
    // As they are shown: rolled off. Without a finish, both are the same picture.
    std::vector<View> views{View::unfinished};
    if (parts.size() == part_names.size()) views.push_back(View::lit);
    const std::vector<Strip> shown = look(evaluator, without_bodies(scene), views, light.region, scale);
    const int w = light.region.width(), h = light.region.height();
    Stack out;
    for (std::size_t i = 0; i < parts.size(); ++i)
        out.layers.push_back({part_names[i], modes[i], QImage(w, h, QImage::Format_ARGB32)});
    out.merged = QImage(w, h, QImage::Format_ARGB32);
    out.shape = QImage(w, h, QImage::Format_Alpha8);
    std::array<std::vector<Rows>, 2> seen; // unfinished, and all
    for (const Field& channel : shown.front().channels) seen[0].emplace_back(channel, w);
    for (const Field& channel : shown.back().channels) seen[1].emplace_back(channel, w);
    std::atomic<bool> opaque = true;
    parallel_rows(0, h, [&](int y) {
        std::array<QRgb*, part_names.size() + 1> to{};
        const auto row = [y](QImage& i) {
            return reinterpret_cast<QRgb*>(i.bits() + static_cast<std::ptrdiff_t>(y) * i.bytesPerLine());
        };
        for (std::size_t i = 0; i < parts.size(); ++i) to[i] = row(out.layers[i].image);
        to.back() = row(out.merged);
        uchar* shape = out.shape.bits() + static_cast<std::ptrdiff_t>(y) * out.shape.bytesPerLine();
        for (int x = 0; x < w; ++x) {
            const auto per = [](float a) { return a > 0 ? 1 / a : 0; };
            const float alpha = seen[0][3](y)[x], last = seen[1][3](y)[x], inverse = per(alpha);
            std::array<std::array<int, 3>, part_names.size()> v{};
            for (int c = 0; c < 3; ++c) {
                const auto encoded = [](float linear) {
                    return fast_srgb_encode(std::clamp(linear, 0.0f, 1.0f));
                };
                const auto part = [&](Part p) {
                    return parts[static_cast<std::size_t>(p)][c](x, y) * inverse;
                };
                // What a viewer has after each layer; the next is what leads from there to the next sum.
                const auto byte = [](float f) {
                    return std::clamp(static_cast<int>(std::lround(255 * f)), 0, 255);
                };
                const float ambient = part(Part::ambient), dimmed = ambient + part(Part::occlusion);
                const float diffuse = dimmed + part(Part::diffuse), bright = diffuse + part(Part::highlights);
                v[0][c] = byte(encoded(ambient));
                v[1][c] = ambient > 0 ? byte(encoded(dimmed) / std::max(v[0][c] / 255.0f, 1e-4f)) : 255;
                float now = v[0][c] * v[1][c] / (255.0f * 255.0f);
                v[2][c] = byte(encoded(diffuse) - now);
                now += v[2][c] / 255.0f;
                // Shadow only darkens: what is no sum of light and comes out brighter is put here.
                const float unfinished = encoded(seen[0][c](y)[x] * inverse);
                v[3][c] = byte(std::max(encoded(bright), unfinished) - now);
                now = std::min(1.0f, now + v[3][c] / 255.0f);
                v[4][c] = now > 0 ? byte(unfinished / now) : 255;
                v[5][c] = byte(encoded(seen[1][c](y)[x] * per(last)));
            }
            const auto share = [](float a) {
                return std::clamp(static_cast<int>(std::lround(255 * a)), 0, 255);
            };
            const int all = share(last), there = all || share(alpha) ? 255 : 0;
            for (std::size_t i = 0; i < parts.size(); ++i) to[i][x] = qRgba(v[i][0], v[i][1], v[i][2], there);
            const auto& whole = v.back();
            to.back()[x] = qRgba(whole[0], whole[1], whole[2], all);
            shape[x] = static_cast<uchar>(all);
            if (all < 255) opaque = false;
        }
    });
    if (opaque) out.shape = {};
    return out;
}

void write_open_raster(const Stack& made, const std::filesystem::path& path) {
    std::vector<PartLayer> from_below = made.layers;
    // Light multiplied and added is opaque; what shape it has in the end is cut out of all of it.
    if (!made.shape.isNull())
        from_below.push_back({"shape", "svg:dst-in", made.shape.convertToFormat(QImage::Format_ARGB32)});
    const auto file = [](const PartLayer& l) { return "data/" + std::string(l.name) + ".png"; };
    std::string stack = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<image version=\"0.0.5\" w=\"" +
                        std::to_string(made.merged.width()) + "\" h=\"" +
                        std::to_string(made.merged.height()) + "\">\n <stack>\n";
    for (auto l = from_below.rbegin(); l != from_below.rend(); ++l)
        stack += "  <layer name=\"" + std::string(l->name) + "\" src=\"" + file(*l) + "\" composite-op=\"" +
                 l->mode + "\" x=\"0\" y=\"0\" opacity=\"1.0\" visibility=\"visible\"/>\n";
    stack += " </stack>\n</image>\n";
    const std::string type = "image/openraster";
    std::vector<Bytes> pictures;
    pictures.reserve(from_below.size() + 2);
    for (const PartLayer& l : from_below) pictures.push_back(png(l.image));
    pictures.push_back(png(made.merged));
    pictures.push_back(png(made.merged.scaled(256, 256, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
    // The type comes first and unpacked, as the format wants it.
    std::vector<ZipEntry> entries{{"mimetype", std::as_bytes(std::span(type))},
                                  {"stack.xml", std::as_bytes(std::span(stack)), true}};
    for (std::size_t i = 0; i < from_below.size(); ++i) entries.push_back({file(from_below[i]), pictures[i]});
    entries.push_back({"mergedimage.png", pictures[from_below.size()]});
    entries.push_back({"Thumbnails/thumbnail.png", pictures.back()});
    write_atomically(path, zipped(entries));
}

} // namespace

std::vector<PartLayer> part_layers(Evaluator& evaluator, const Scene& scene, double scale) {
    Stack made = stack_of(evaluator, scene, scale, {});
    if (!made.shape.isNull()) made.layers.front().image.setAlphaChannel(made.shape);
    return std::move(made.layers);
}

void export_parts(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path, double scale,
                  const Progress& progress) {
    std::string ending = path.extension().string();
    for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (ending == ".exr")
        write_exr(lit_parts(evaluator, scene, scale, progress), scene, path);
    else if (ending == ".ora")
        write_open_raster(stack_of(evaluator, scene, scale, progress), path);
    else
        throw Error(path.string() + ": light parts are written as layers of an .exr or .ora file.");
    if (progress) progress(1);
}

} // namespace bathylux::files
