#include "files/export.h"

#include "core/error.h"
#include "files/export_parts.h"
#include "files/json.h"
#include "files/map_says.h"
#include "files/package.h"
#include "files/pictures.h"
#include "files/sample_encoder.h"
#include <QJsonArray>

namespace bathylux::files {

namespace {

PictureSpec spec_of(const Export& how, const std::string& ending, int width, int height) {
    PictureSpec spec;
    spec.width = width, spec.height = height;
    spec.channels = channels_of(how.view);
    spec.bits = ending == ".exr"                                                                 ? 32
                : how.bits                                                                       ? how.bits
                : (how.view == View::height || how.view == View::curvature) && ending != ".webp" ? 16
                                                                                                 : 8;
    spec.premultiplied = spec.bits == 32;
    return spec;
}

} // namespace

void export_map(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path,
                const Export& how, const Progress& progress) {
    const Region all = canvas_region(scene.piece->canvas, how.scale);
    PictureSpec spec = spec_of(how, ending_of(path), all.width(), all.height());
    const bool whole_numbers = spec.bits != 32;
    // Floats hold heights as they are; only whole numbers need the range before the first row.
    std::pair<float, float> range{0, 0};
    if (how.view == View::height && (whole_numbers || scene.piece->canvas.height_range))
        range = stated_range(evaluator, scene, how.scale);
    spec.description = map_says(*scene.piece, how, whole_numbers, range);
    const auto writer = write_picture(path, spec);
    const SampleEncoder encode(how.view, spec.bits, how.green_up, range);
    // Floats keep all the light there is.
    Scene shown = scene;
    if (!whole_numbers && scene.piece->roll_off != RollOff::none) {
        auto piece = std::make_shared<Piece>(*scene.piece);
        piece->roll_off = RollOff::none;
        shown.piece = piece;
    }
    look_in_bands(
        evaluator, shown, {how.view}, how.scale,
        [&](const std::vector<Strip>& s) {
            // A band is encoded in parts, so that a large one does not stand in memory twice.
            const Region band = s[0].region;
            constexpr int rows = 64;
            for (int y = band.y0; y < band.y1; y += rows) {
                Strip part{{band.x0, y, band.x1, std::min(band.y1, y + rows)}, {}};
                for (const Field& f : s[0].channels) part.channels.push_back(cropped(f, band, part.region));
                writer->write(part.region.height(), encode(part).data());
            }
        },
        progress);
    writer->finish();
}

void export_layers(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path,
                   const std::vector<Export>& layers, const Progress& progress) {
    if (ending_of(path) != ".exr") throw Error(path.string() + ": layers of one file are written as .exr.");
    if (layers.empty()) throw Error("Nothing to export: tick at least one map.");
    const double scale = layers.front().scale;
    const Region all = canvas_region(scene.piece->canvas, scale);
    PictureSpec spec;
    spec.width = all.width(), spec.height = all.height(), spec.bits = 32, spec.premultiplied = true;
    QJsonArray says;
    for (const Export& d : layers) {
        const std::string name(view_names[static_cast<std::size_t>(d.view)]);
        const char* letters = channels_of(d.view) == 1 ? "Y" : d.view == View::normals ? "XYZ" : "RGBA";
        for (int c = 0; c < channels_of(d.view); ++c) spec.channel_names.push_back(name + "." + letters[c]);
        says.append(QJsonDocument::fromJson(QByteArray::fromStdString(map_says(*scene.piece, d, false, {})))
                        .object());
    }
    spec.channels = static_cast<int>(spec.channel_names.size());
    spec.description = written({{"bathylux", "layers"}, {"layers", says}}, false);
    const auto writer = write_picture(path, spec);
    Scene shown = scene;
    auto piece = std::make_shared<Piece>(*scene.piece);
    piece->roll_off = RollOff::none;
    shown.piece = piece;
    std::vector<View> views;
    for (const Export& d : layers) views.push_back(d.view);
    look_in_bands(
        evaluator, shown, views, scale,
        [&](const std::vector<Strip>& seen) {
            const Region band = seen[0].region;
            std::vector<float> samples(static_cast<std::size_t>(band.width()) * spec.channels);
            for (int j = 0; j < band.height(); ++j) {
                int first = 0;
                for (std::size_t l = 0; l < layers.size(); ++l)
                    for (const Field& f : seen[l].channels) {
                        const bool flip = layers[l].view == View::normals && !layers[l].green_up &&
                                          &f == &seen[l].channels[1];
                        for (int x = 0; x < band.width(); ++x)
                            samples[static_cast<std::size_t>(x) * spec.channels + first] =
                                flip ? -f.at(x, j) : f.at(x, j);
                        ++first;
                    }
                writer->write(1, samples.data());
            }
        },
        progress);
    writer->finish();
}

int frame_count(const Scene& scene) {
    int count = 1;
    for (const auto& [id, asset] : *scene.assets)
        count = std::max(count, static_cast<int>(asset->frames.size()));
    return count;
}

namespace {

/// The sprite sheet that a piece's frames come from: the asset with the most of them.
const Asset* sheet_of(const Scene& scene) {
    const Asset* out = nullptr;
    for (const auto& [id, asset] : *scene.assets)
        if (asset->frames.size() > 1 && (!out || asset->frames.size() > out->frames.size()))
            out = asset.get();
    return out;
}

/// Fills see-through places with the colour of the nearest place that is not, by jumps that halve (Rong & Tan
/// 2006). `pixels`: straight RGBA rows of one cell.
void continue_colors(std::vector<float>& pixels, int w, int h) {
    std::vector<int> nearest(static_cast<std::size_t>(w) * h, -1);
    for (int i = 0; i < w * h; ++i)
        if (pixels[4ull * i + 3] > 0) nearest[i] = i;
    int reach = 1;
    while (reach < std::max(w, h)) reach *= 2;
    const auto distance = [&](int i, int j) {
        const long long dx = i % w - j % w, dy = i / w - j / w;
        return dx * dx + dy * dy;
    };
    for (; reach > 0; reach /= 2) {
        const std::vector<int> before = nearest;
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                const int i = y * w + x;
                for (int dy = -reach; dy <= reach; dy += reach)
                    for (int dx = -reach; dx <= reach; dx += reach) {
                        if (x + dx < 0 || y + dy < 0 || x + dx >= w || y + dy >= h) continue;
                        const int found = before[(y + dy) * w + x + dx];
                        if (found >= 0 && (nearest[i] < 0 || distance(i, found) < distance(i, nearest[i])))
                            nearest[i] = found;
                    }
            }
    }
    for (int i = 0; i < w * h; ++i)
        if (pixels[4ull * i + 3] <= 0 && nearest[i] >= 0)
            for (int c = 0; c < 3; ++c) pixels[4ull * i + c] = pixels[4ull * nearest[i] + c];
}

} // namespace

std::vector<SheetCell> export_sheet(Evaluator& evaluator, const Scene& scene,
                                    const std::filesystem::path& path, const Export& how,
                                    const std::filesystem::path& index, const Progress& progress) {
    const Canvas& canvas = scene.piece->canvas;
    const Asset* sheet = sheet_of(scene);
    const int frames = frame_count(scene);
    const Region frame = canvas_region(canvas, how.scale);
    // Every frame is rendered on the canvas; its cell is cut where the sheet had it. The canvas's middle is
    // the middle of the cell.
    std::vector<SheetCell> cells;
    int width = 0, height = 0;
    for (int i = 0; i < frames; ++i) {
        SheetCell c{i * frame.width(), 0, frame.width(), frame.height()};
        if (sheet && static_cast<int>(sheet->frames.size()) == frames) {
            const auto& f = sheet->frames[i];
            const auto scaled = [&](double v) { return static_cast<int>(std::lround(v * how.scale)); };
            c = {scaled(f.x), scaled(f.y), std::max(1, scaled(f.asset->width)),
                 std::max(1, scaled(f.asset->height))};
        }
        cells.push_back(c);
        width = std::max(width, c.x + c.width), height = std::max(height, c.y + c.height);
    }
    if (sheet && static_cast<int>(sheet->frames.size()) == frames) {
        width = std::max(width, static_cast<int>(std::lround(sheet->sheet_width * how.scale)));
        height = std::max(height, static_cast<int>(std::lround(sheet->sheet_height * how.scale)));
    }
    PictureSpec spec = spec_of(how, ending_of(path), width, height);
    std::pair<float, float> range{1e30f, -1e30f};
    const bool whole_numbers = spec.bits != 32;
    const auto at_frame = [&](int i) {
        Scene s = scene;
        s.frame = scene.frame + i;
        return s;
    };
    if (how.view == View::height && whole_numbers) {
        // One range for all frames, or a height would mean something else in each.
        if (canvas.height_range)
            range = *canvas.height_range;
        else
            for (int i = 0; i < frames; ++i) {
                const auto r = stated_range(evaluator, at_frame(i), how.scale);
                range = {std::min(range.first, r.first), std::max(range.second, r.second)};
            }
    }
    QJsonObject says =
        QJsonDocument::fromJson(QByteArray::fromStdString(map_says(*scene.piece, how, whole_numbers, range)))
            .object();
    says["frames"] = frames;
    spec.description = written(says, false);

    const std::size_t pixel = static_cast<std::size_t>(spec.channels) * spec.bits / 8;
    Bytes samples(pixel * width * height, std::byte{0});
    const SampleEncoder encode(how.view, spec.bits, how.green_up, range);
    if (how.view == View::normals) {
        // Where no frame lies the ground is level.
        Strip level{{0, 0, width, height}, {Field(0.0f), Field(0.0f), Field(1.0f)}};
        samples = encode(level);
    }
    for (int i = 0; i < frames; ++i) {
        const SheetCell& c = cells[i];
        const Strip s = look(evaluator, at_frame(i), how.view, frame, how.scale);
        // The part of the canvas that goes into the cell, about both middles.
        const int ox = (frame.width() - c.width) / 2, oy = (frame.height() - c.height) / 2;
        const Region part = intersect({ox, oy, ox + c.width, oy + c.height}, frame);
        Strip cut{part, {}};
        for (const Field& f : s.channels) cut.channels.push_back(cropped(f, frame, part));
        Bytes rows;
        if (is_color(how.view) && whole_numbers) {
            std::vector<float> pixels(4ull * part.area());
            for (int y = 0; y < part.height(); ++y)
                for (int x = 0; x < part.width(); ++x) {
                    float* p = &pixels[4ull * (static_cast<std::size_t>(y) * part.width() + x)];
                    p[3] = cut.channels[3].at(x, y);
                    for (int k = 0; k < 3; ++k) p[k] = p[3] > 0 ? cut.channels[k].at(x, y) / p[3] : 0;
                }
            continue_colors(pixels, part.width(), part.height());
            rows = encode.straight(pixels);
        } else
            rows = encode(cut);
        for (int y = 0; y < part.height(); ++y)
            std::memcpy(&samples[pixel * (static_cast<std::size_t>(c.y + part.y0 - oy + y) * width + c.x +
                                          part.x0 - ox)],
                        &rows[pixel * part.width() * y], pixel * part.width());
        if (progress) progress(static_cast<double>(i + 1) / frames);
    }
    const auto writer = write_picture(path, spec);
    writer->write(height, samples.data());
    writer->finish();
    if (!index.empty()) {
        QJsonArray list;
        for (int i = 0; i < frames; ++i)
            list.append(QJsonObject{{"frame", i},
                                    {"x", cells[i].x},
                                    {"y", cells[i].y},
                                    {"width", cells[i].width},
                                    {"height", cells[i].height}});
        const std::string text_of_index = written({{"sheet", text(path.filename().string())},
                                                   {"width", width},
                                                   {"height", height},
                                                   {"map", says["bathylux"]},
                                                   {"frames", list}});
        write_atomically(index, std::as_bytes(std::span(text_of_index)));
    }
    return cells;
}

void carry_out(Evaluator& evaluator, const Scene& scene, const Order& order, const Progress& progress) {
    Scene s = scene;
    s.frame = order.frame;
    if (!order.only.empty()) {
        // What is not chosen, and holds nothing chosen, is switched off; it may still serve as a map.
        auto piece = std::make_shared<Piece>(*scene.piece);
        const std::function<bool(const Element&)> holds = [&](const Element& e) {
            return std::find(order.only.begin(), order.only.end(), e.id) != order.only.end() ||
                   std::any_of(e.elements.begin(), e.elements.end(), holds);
        };
        const std::function<void(Elements&)> keep = [&](Elements& list) {
            for (auto& node : list)
                node = node.with([&](Element& e) {
                    if (std::find(order.only.begin(), order.only.end(), e.id) != order.only.end()) return;
                    if (holds(e))
                        keep(e.elements);
                    else
                        e.mix.visible = false;
                });
        };
        keep(piece->elements);
        s.piece = piece;
    }
    if (order.parts) return export_parts(evaluator, s, order.path, order.how.scale, progress);
    if (!order.layers.empty()) return export_layers(evaluator, s, order.path, order.layers, progress);
    if (order.sheet) {
        s.frame = 0;
        std::filesystem::path index = order.path;
        export_sheet(evaluator, s, order.path, order.how, index.replace_extension(".json"), progress);
        return;
    }
    export_map(evaluator, s, order.path, order.how, progress);
}

std::string file_name(const std::string& scheme, const std::string& piece, View map, int frame, int frames,
                      double scale, const std::string& ending) {
    std::string out = scheme;
    char digits[16];
    std::snprintf(digits, sizeof digits, "%04d", frame);
    if (frames > 1 && out.find("{frame}") == std::string::npos) out += "-{frame}";
    const auto fill = [&](const std::string& name, const std::string& by) {
        for (auto at = out.find(name); at != std::string::npos; at = out.find(name, at + by.size()))
            out.replace(at, name.size(), by);
    };
    fill("{piece}", piece);
    fill("{map}", std::string(view_names[static_cast<std::size_t>(map)]));
    fill("{frame}", digits);
    fill("{scale}", std::to_string(std::lround(scale * 100)));
    for (char& c : out)
        if (static_cast<unsigned char>(c) < 32 || std::strchr("/\\:*?\"<>|{}", c)) c = '-';
    if (out.empty()) out = "map";
    return out + ending;
}

} // namespace bathylux::files
