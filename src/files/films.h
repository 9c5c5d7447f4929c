#pragma once
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "core/time/rate.h"
#include "files/pictures.h"

namespace bathylux::files {

/// A moving picture, read a frame at a time in any order. May be used from one thread at a time.
class Clip {
  public:
    virtual ~Clip() = default;
    int width = 0, height = 0;
    /// When each frame begins, seconds from the first; ascending.
    std::vector<double> begins;
    double length = 0; // seconds, to the end of the last frame
    double tick = 0;   // s: what its times are rounded to
    bool has_alpha = false;

    int frames() const { return static_cast<int>(begins.size()); }
    /// Straight, as stored: RGBA of 8 or 16 bits. Throws Error where it cannot be read.
    virtual Picture frame(int index) = 0;
};

constexpr int most_clip_frames = 1'000'000;

/// WebM, MP4, MOV, MKV, APNG, GIF, animated WebP. Throws Error: what is wrong with `name`.
std::unique_ptr<Clip> open_clip(const std::filesystem::path& path, const std::string& name);
std::unique_ptr<Clip> open_clip(std::shared_ptr<const Bytes> bytes, const std::string& name);

/// What a film to be written is like.
struct FilmSpec {
    int width = 0, height = 0;
    Rate rate{};
    bool loop = true; // of what says so itself (APNG, WebP)
};

/// Writes a film a frame after the other: straight RGBA of 16 bits. Throws Error when it cannot be written.
class FilmWriter {
  public:
    virtual ~FilmWriter() = default;
    virtual void write(const std::uint16_t* rgba) = 0;
    /// Must be called at the end; without it nothing appears at the path.
    virtual void finish() = 0;
};

/// Whether a film is written to a file of that ending: .webm (VP9 with alpha), .mov (ProRes 4444 with alpha),
/// .apng, and .webp where several frames are asked for.
bool is_film(const std::filesystem::path& path);
/// The file appears, or replaces the old one, only when whole.
std::unique_ptr<FilmWriter> write_film(const std::filesystem::path& path, const FilmSpec& spec);

/// What the module that holds libav offers.
struct FilmModule {
    virtual ~FilmModule() = default;
    /// Of a file, or of bytes where there are any.
    virtual std::unique_ptr<Clip> open(const std::string& path, std::shared_ptr<const Bytes> bytes) = 0;
    virtual std::unique_ptr<FilmWriter> writer(const std::string& path, const std::string& ending,
                                               const FilmSpec& spec) = 0;
};

} // namespace bathylux::files
