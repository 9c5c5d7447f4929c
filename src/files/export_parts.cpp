#include "files/export_parts.h"

#include <QBuffer>
#include <QImage>

#include "core/error.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "files/json.h"
#include "files/package.h"
#include "files/pictures.h"
#include "files/zip.h"

namespace bathylux::files {

namespace {

struct Whole {
    Region region;
    LitParts parts;
    Strip lit;
};

Whole evaluate(Evaluator& evaluator, const Scene& scene, double scale, Lighting lighting,
               const Progress& progress) {
    const Canvas& canvas = scene.piece->canvas;
    const Region all = canvas_region(canvas, scale);
    const Bundle relief = evaluator.relief(scene, all, scale, [&](double d) {
        if (progress) progress(0.5 * d);
    });
    // A body that is seen is no light that falls on the art: the whole is without, or its parts would not add
    // up.
    for (Lamp& l : lighting.lamps) l.body = false;
    Whole out{all, lit_parts(relief, all, scale, canvas.edge, lighting), {}};
    if (progress) progress(0.8);
    out.lit = view_of(View::lit, relief, all, scale, canvas.edge, lighting);
    return out;
}

void write_exr(const Whole& whole, const Scene& scene, const std::filesystem::path& path) {
    PictureSpec spec;
    const int w = whole.region.width(), h = whole.region.height();
    spec.width = w, spec.height = h, spec.bits = 32, spec.premultiplied = true;
    std::vector<Rows> rows;
    for (std::size_t i = 0; i < part_names.size(); ++i)
        for (int c = 0; c < 3; ++c) spec.channel_names.push_back(std::string(part_names[i]) + "." + "RGB"[c]);
    for (int c = 0; c < 4; ++c) {
        spec.channel_names.push_back(std::string("lit.") + "RGBA"[c]);
        rows.emplace_back(whole.lit.channels[c], w);
    }
    spec.channels = static_cast<int>(spec.channel_names.size());
    spec.description =
        written({{"bathylux", "light parts"}, {"px_per_mm", number(scene.piece->canvas.px_per_mm)}}, false);
    const auto writer = write_picture(path, spec);
    std::vector<float> samples(static_cast<std::size_t>(w) * spec.channels);
    for (int y = 0; y < h; ++y) {
        for (int x = 0; x < w; ++x) {
            float* to = &samples[static_cast<std::size_t>(x) * spec.channels];
            for (const auto& part : whole.parts.parts)
                for (const Plane& p : part) *to++ = p(x, y);
            for (const Rows& r : rows) *to++ = r(y)[x];
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

/// The layers of an OpenRaster file, from below, and what they are together. Values are those a viewer
/// blends.
struct Layers {
    QImage ambient, occlusion, diffuse, highlights, shadow, merged;
    std::vector<PartLayer> from_below() const {
        const auto layer = [](Part part, const char* mode, const QImage& image) {
            return PartLayer{part_names[static_cast<std::size_t>(part)], mode, image};
        };
        return {layer(Part::ambient, "svg:src-over", ambient),
                layer(Part::occlusion, "svg:multiply", occlusion), layer(Part::diffuse, "svg:plus", diffuse),
                layer(Part::highlights, "svg:plus", highlights), layer(Part::shadow, "svg:multiply", shadow)};
    }
};

Layers layers_of(const Whole& whole) {
    const int w = whole.region.width(), h = whole.region.height();
    Layers out;
    for (QImage* i : {&out.ambient, &out.occlusion, &out.diffuse, &out.highlights, &out.shadow, &out.merged})
        *i = QImage(w, h, QImage::Format_ARGB32);
    std::vector<Rows> lit;
    lit.reserve(4);
    for (int c = 0; c < 4; ++c) lit.emplace_back(whole.lit.channels[c], w);
    const auto& parts = whole.parts.parts;
    parallel_rows(0, h, [&](int y) {
        std::array<QRgb*, 6> to{};
        int k = 0;
        for (QImage* i :
             {&out.ambient, &out.occlusion, &out.diffuse, &out.highlights, &out.shadow, &out.merged})
            to[k++] = reinterpret_cast<QRgb*>(i->bits() + static_cast<std::ptrdiff_t>(y) * i->bytesPerLine());
        for (int x = 0; x < w; ++x) {
            const float a = lit[3](y)[x], inverse = a > 0 ? 1 / a : 0;
            std::array<std::array<int, 3>, 6> v{};
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
                const float all = lit[c](y)[x] * inverse;
                v[0][c] = byte(encoded(ambient));
                v[1][c] = ambient > 0 ? byte(encoded(dimmed) / std::max(v[0][c] / 255.0f, 1e-4f)) : 255;
                float now = v[0][c] * v[1][c] / (255.0f * 255.0f);
                v[2][c] = byte(encoded(diffuse) - now);
                now += v[2][c] / 255.0f;
                v[3][c] = byte(encoded(bright) - now);
                now = std::min(1.0f, now + v[3][c] / 255.0f);
                // Never brighter than what lies below: light laid over the flat picture may ask for more.
                v[4][c] = now > 0 ? byte(encoded(all) / now) : 255;
                v[5][c] = byte(encoded(all));
            }
            const int alpha = std::clamp(static_cast<int>(std::lround(255 * a)), 0, 255);
            for (int i = 0; i < 6; ++i)
                to[i][x] = qRgba(v[i][0], v[i][1], v[i][2], i == 0 || i == 5 ? alpha : alpha ? 255 : 0);
        }
    });
    return out;
}

void write_open_raster(const Whole& whole, const std::filesystem::path& path) {
    const Layers layers = layers_of(whole);
    const std::vector<PartLayer> from_below = layers.from_below();
    const auto file = [](const PartLayer& l) { return "data/" + std::string(l.name) + ".png"; };
    std::string stack = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<image version=\"0.0.5\" w=\"" +
                        std::to_string(whole.region.width()) + "\" h=\"" +
                        std::to_string(whole.region.height()) + "\">\n <stack>\n";
    for (auto l = from_below.rbegin(); l != from_below.rend(); ++l)
        stack += "  <layer name=\"" + std::string(l->name) + "\" src=\"" + file(*l) + "\" composite-op=\"" +
                 l->mode + "\" x=\"0\" y=\"0\" opacity=\"1.0\" visibility=\"visible\"/>\n";
    stack += " </stack>\n</image>\n";
    const std::string type = "image/openraster";
    std::vector<Bytes> pictures;
    pictures.reserve(from_below.size() + 2);
    for (const PartLayer& l : from_below) pictures.push_back(png(l.image));
    pictures.push_back(png(layers.merged));
    pictures.push_back(png(layers.merged.scaled(256, 256, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
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
    return layers_of(evaluate(evaluator, scene, scale, lighting_of(scene), {})).from_below();
}

void export_parts(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path, double scale,
                  const Progress& progress) {
    std::string ending = path.extension().string();
    for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (ending != ".exr" && ending != ".ora")
        throw Error(path.string() + ": light parts are written as layers of an .exr or .ora file.");
    Lighting lighting = lighting_of(scene);
    if (ending == ".exr") lighting.roll_off = RollOff::none;
    const Whole whole = evaluate(evaluator, scene, scale, lighting, progress);
    if (ending == ".exr")
        write_exr(whole, scene, path);
    else
        write_open_raster(whole, path);
    if (progress) progress(1);
}

} // namespace bathylux::files
