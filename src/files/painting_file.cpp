#include "files/painting_file.h"

#include <unistd.h>

#include <filesystem>

#include "core/error.h"
#include "core/field/srgb.h"

namespace bathylux::files {

Bytes painting_file(const Painting& p) {
    // Symmetric about the element's middle, so that the file needs no word about where it lies.
    const Region b = p.bounds();
    const int half_w = std::max({1, -b.x0, b.x1}), half_h = std::max({1, -b.y0, b.y1});
    PictureSpec spec;
    const int channels = p.inked() ? 4 : 3;
    spec.width = 2 * half_w, spec.height = 2 * half_h, spec.channels = channels, spec.bits = 32;
    spec.premultiplied = p.inked();
    spec.description =
        p.inked()
            ? R"({"bathylux": "ink"})"
            : R"({"bathylux": "paint", "red": "height in px, or px to the right where something was pushed", "green": "hidden, 0 to 1, or px down"})";
    static std::atomic<int> count{0};
    const auto path = std::filesystem::temp_directory_path() /
                      ("bathylux-" + std::to_string(getpid()) + "-" + std::to_string(++count) + ".exr");
    Bytes out;
    try {
        const auto writer = write_picture(path, spec);
        std::vector<float> row(static_cast<std::size_t>(channels) * spec.width, 0.0f);
        for (int y = -half_h; y < half_h; ++y) {
            for (int x = -half_w; x < half_w; ++x) {
                float* to = &row[static_cast<std::size_t>(channels) * (x + half_w)];
                if (p.inked()) {
                    const auto ink = p.ink(x, y);
                    std::copy(ink.begin(), ink.end(), to);
                } else
                    to[0] = p.height(x, y), to[1] = p.hidden(x, y);
            }
            writer->write(1, row.data());
        }
        writer->finish();
        out = read_file(path);
    } catch (...) {
        std::error_code ignored;
        std::filesystem::remove(path, ignored);
        throw;
    }
    std::error_code ignored;
    std::filesystem::remove(path, ignored);
    return out;
}

Painting read_painting(std::span<const std::byte> bytes, const std::string& name, double density, bool ink) {
    const Picture p = read_picture(bytes, name);
    if (ink && p.channels != 4)
        throw Error(name + " holds no ink: it is not a picture in colours with transparency.");
    if (!ink && (p.channels < 2 || !p.is_float()))
        throw Error(name +
                    " holds no strokes: it is not a picture of floats whose red and green say what was "
                    "painted.");
    Painting out(density);
    const int dx = p.width / 2, dy = p.height / 2;
    const auto clean = [](float v) { return std::isfinite(v) ? v : 0.0f; };
    for (int ty = -(dy / Painting::side) - 1; ty * Painting::side < p.height - dy; ++ty)
        for (int tx = -(dx / Painting::side) - 1; tx * Painting::side < p.width - dx; ++tx) {
            const Region part = intersect({tx * Painting::side, ty * Painting::side,
                                           (tx + 1) * Painting::side, (ty + 1) * Painting::side},
                                          {-dx, -dy, p.width - dx, p.height - dy});
            bool any = false;
            for (int y = part.y0; y < part.y1 && !any; ++y)
                for (int x = part.x0; x < part.x1 && !any; ++x)
                    any = ink ? p.stored(x + dx, y + dy, 3) > 0
                              : p.stored(x + dx, y + dy, 0) != 0 || p.stored(x + dx, y + dy, 1) != 0;
            if (!any) continue;
            out.change(part, [&](Painting::Tile& t, int x0, int y0) {
                for (int y = part.y0; y < part.y1; ++y)
                    for (int x = part.x0; x < part.x1; ++x) {
                        const int i = (y - y0) * Painting::side + x - x0;
                        if (ink) {
                            const float a = std::clamp(clean(p.stored(x + dx, y + dy, 3)), 0.0f, 1.0f);
                            t.ink_plane(3)[i] = a;
                            for (int c = 0; c < 3; ++c) {
                                const float v = clean(p.stored(x + dx, y + dy, c));
                                t.ink_plane(c)[i] = a * (p.is_float() ? v : srgb_decode(v));
                            }
                            continue;
                        }
                        t.height[i] = clean(p.stored(x + dx, y + dy, 0));
                        t.hidden[i] = clean(p.stored(x + dx, y + dy, 1));
                        t.hides = t.hides || t.hidden[i] != 0;
                    }
            });
        }
    return out;
}

} // namespace bathylux::files
