#pragma once
#include <array>
#include <cstdint>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "core/field/plane.h"
#include "core/field/srgb.h"
#include "core/shape/outline.h"

namespace bathylux {

/// A picture as it was stored: interleaved straight samples, 8 or 16 bit or float.
///
/// `samples` are the values of the file; colour sources read `color_samples` where an embedded profile
/// had to be converted (same layout). Integer samples are sRGB-encoded, float ones linear.
struct Picture {
    enum class Format : std::uint8_t { u8, u16, f32 };
    int width = 0, height = 0, channels = 0; // 1 grey, 2 grey + alpha, 3 RGB, 4 RGB + alpha
    Format format = Format::u8;
    std::vector<std::byte> samples, color_samples;
    std::uint64_t hash = 0; // of everything above

    bool has_alpha() const { return channels == 2 || channels == 4; }
    bool is_float() const { return format == Format::f32; }
    int bits() const { return format == Format::u8 ? 8 : format == Format::u16 ? 16 : 32; }
    /// Sample as stored: integers as 0…1, floats as they are.
    float stored(int x, int y, int channel) const;
    /// True when some pixel is not opaque; known once sealed.
    bool is_transparent() const { return transparent_; }
    /// What it takes in memory, with its halvings once they are made.
    std::size_t bytes() const {
        return samples.size() + color_samples.size() + static_cast<std::size_t>(width) * height * 4 / 3;
    }
    /// Fills in `hash` and what is derived from the samples; to be called when they are complete.
    void seal();

    /// RGBA floats of a part of the picture, four a pixel: 4 × width wide. Colour is linear and
    /// premultiplied, stored samples are straight (grey spread over RGB) and encoded as stored.
    struct Texels {
        int width = 0, height = 0;
        Plane rgba;
    };
    enum class Reading { color, stored };
    /// The part `wanted` of the picture halved `level` times (2 × 2 means); px beyond its rim as `edge` says.
    /// Full size and the first halving are made from the samples as they are asked for, so that a large
    /// picture never lies in memory as floats; the smaller ones are kept whole.
    Texels texels(Reading reading, int level, Region wanted, Edge edge) const;
    /// Size of the picture halved `level` times.
    std::pair<int, int> size_of_level(int level) const;
    int levels() const;

  private:
    const Texels& small_level(Reading reading, int level) const;
    bool transparent_ = false;
    struct Pyramids {
        std::mutex mutex;
        std::array<std::vector<std::unique_ptr<Texels>>, 2> levels; // by reading; null where not yet made
    };
    std::shared_ptr<Pyramids> pyramids_ = std::make_shared<Pyramids>();
};

/// One flat shape of a drawing.
struct Layer {
    Outline outline;
    Color color; // opaque
};

class Painting;
struct TriangleMesh;

/// What a source file or text became once files were read: shapes, painted one over the other, or a
/// picture. Outlines are in source px about the source's centre.
struct Asset {
    std::vector<Layer> layers;
    std::shared_ptr<const Picture> picture;
    double width = 0, height = 0; // extent of the source in its own px
    double seconds = 0;           // of a clip: how long it is
    std::uint64_t hash = 0;
    std::string about{};   // what it turned out to be, where that is worth saying ("green up", "8 frames")
    std::string trouble{}; // a sentence, when the file could not be had; then layers and picture are empty
    std::shared_ptr<const Painting> painting;   // of a painted layer
    std::shared_ptr<const TriangleMesh> mesh{}; // of a body

    /// Of sprites: every frame a picture of its own, so that nothing of one can reach into another.
    struct SpriteFrame {
        std::shared_ptr<const Asset> asset;
        int x = 0, y = 0; // where its upper left corner lies on the sheet, px
    };
    std::vector<SpriteFrame> frames;
    int sheet_width = 0, sheet_height = 0;
    /// The frame of that number, counted round; null where there are none.
    const Asset* frame(int number) const {
        if (frames.empty()) return nullptr;
        const int n = static_cast<int>(frames.size());
        return frames[((number % n) + n) % n].asset.get();
    }
};

} // namespace bathylux
