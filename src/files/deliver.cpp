#include "files/deliver.h"

#include "core/colour/srgb.h"
#include "core/error.h"
#include "core/piece/codec.h"
#include "files/pictures.h"

namespace bathylux::files {

namespace {

/// Turns the rows of a strip into interleaved samples.
class Encoder {
  public:
    Encoder(View view, int bits, bool green_up, std::pair<float, float> range)
        : view_(view), bits_(bits), green_up_(green_up), range_(range) {}

    Bytes operator()(const Strip& s) const {
        const int w = s.region.width(), h = s.region.height(), n = static_cast<int>(s.channels.size());
        Bytes out(static_cast<std::size_t>(w) * h * n * bits_ / 8);
        std::vector<Rows> rows;
        rows.reserve(n);
        for (const Field& f : s.channels) rows.emplace_back(f, w);
        std::vector<float> pixel(n);
        std::size_t i = 0;
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                for (int c = 0; c < n; ++c) pixel[c] = rows[c](y)[x];
                encode(pixel);
                for (float v : pixel) put(out, i++, v);
            }
        return out;
    }

  private:
    void encode(std::vector<float>& p) const {
        if (view_ == View::normals && !green_up_) p[1] = -p[1];
        if (bits_ == 32) return;
        if (view_ == View::normals) {
            for (float& v : p) v = 0.5f + 0.5f * v;
        } else if (view_ == View::height) {
            p[0] =
                range_.second > range_.first ? (p[0] - range_.first) / (range_.second - range_.first) : 0.0f;
        } else {
            const float k = p[3] > 0 ? 1 / p[3] : 0;
            for (int c = 0; c < 3; ++c) p[c] = fast_srgb_encode(std::clamp(p[c] * k, 0.0f, 1.0f));
        }
    }
    void put(Bytes& out, std::size_t i, float v) const {
        if (bits_ == 32) {
            std::memcpy(&out[4 * i], &v, 4);
            return;
        }
        v = std::clamp(v, 0.0f, 1.0f);
        if (bits_ == 16) {
            const auto u = static_cast<std::uint16_t>(std::lround(v * 65535));
            std::memcpy(&out[2 * i], &u, 2);
        } else
            out[i] = static_cast<std::byte>(std::lround(v * 255));
    }

    View view_;
    int bits_;
    bool green_up_;
    std::pair<float, float> range_;
};

} // namespace

void deliver(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path, const Delivery& how,
             std::stop_token stop, const Evaluator::Progress& progress) {
    const Region all = canvas_region(scene.piece->canvas, how.scale);
    std::string ending = path.extension().string();
    for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    const bool exr = ending == ".exr";
    PictureSpec spec;
    spec.width = all.width();
    spec.height = all.height();
    spec.channels = how.view == View::height ? 1 : how.view == View::normals ? 3 : 4;
    spec.bits = exr ? 32 : how.bits ? how.bits : how.view == View::height && ending != ".webp" ? 16 : 8;
    spec.premultiplied = spec.bits == 32;
    const bool whole_numbers = spec.bits != 32;
    // Floats hold heights as they are; only whole numbers need the range before the first row.
    std::pair<float, float> range{0, 0};
    if (how.view == View::height && (whole_numbers || scene.piece->canvas.height_range))
        range = stated_range(evaluator, scene, how.scale, stop);
    Json about = {{"bathylux", view_names[static_cast<std::size_t>(how.view)]},
                  {"px_per_mm", to_json(Value(double(scene.piece->canvas.px_per_mm)))}};
    if (how.view == View::height && whole_numbers)
        about["height_range"] = {to_json(Value(double(range.first))), to_json(Value(double(range.second)))};
    if (how.view == View::height) about["unit"] = "px";
    if (how.view == View::normals) about["green"] = how.green_up ? "up" : "down";
    spec.description = about.dump();

    const auto writer = write_picture(path, spec);
    const Encoder encode(how.view, spec.bits, how.green_up, range);
    render_strips(
        evaluator, scene, how.view, how.scale,
        [&](const Strip& s) { writer->write(s.region.height(), encode(s).data()); }, stop, progress);
    writer->finish();
}

} // namespace bathylux::files
