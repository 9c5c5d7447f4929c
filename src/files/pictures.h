#pragma once
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "core/step/picture.h"

namespace bathylux::files {

/// Larger pictures are refused.
constexpr int most_picture_side = 32768;
constexpr long long most_picture_pixels = 1LL << 28;
constexpr std::size_t most_picture_bytes = std::size_t{1} << 30;

using Bytes = std::vector<std::byte>;
/// A whole file; throws Error with the reason when it cannot be had or is larger than `most` bytes.
Bytes read_file(const std::filesystem::path& path, std::size_t most = most_picture_bytes);

/// A picture out of the bytes of a file, whatever its name says it is. Plain PNG through libpng, other PNG
/// and JPEG through Qt; TIFF, WebP, EXR and whatever else through OpenImageIO. Embedded ICC profiles are
/// applied to the colour (not to the stored samples). Throws Error: what is wrong with `name`.
Picture read_picture(std::span<const std::byte> bytes, const std::string& name);

/// What a picture file to be written is like.
struct PictureSpec {
    int width = 0, height = 0, channels = 0;  // 1 grey, 3 RGB, 4 RGB + alpha; any number where they are named
    int bits = 8;                             // 8 and 16: whole numbers; 32: floats
    bool premultiplied = false;               // as EXR wants it
    std::string description;                  // kept in the file's metadata
    std::vector<std::string> channel_names{}; // of an EXR with layers; otherwise empty
};

/// Writes a picture from top to bottom. Throws Error when the file cannot be written.
class PictureWriter {
  public:
    virtual ~PictureWriter() = default;
    /// `rows` rows of interleaved samples of the spec's type.
    virtual void write(int rows, const void* samples) = 0;
    /// Must be called at the end; without it nothing appears at the path.
    virtual void finish() = 0;
};
/// PNG, TIFF, WebP or EXR by the file's ending. The file appears, or replaces the old one, only when whole.
std::unique_ptr<PictureWriter> write_picture(const std::filesystem::path& path, const PictureSpec& spec);

/// The description kept in a picture file's metadata, or "".
std::string picture_description(const std::filesystem::path& path);

/// What the module that holds OpenImageIO offers.
struct PictureModule {
    virtual ~PictureModule() = default;
    /// `icc`: the embedded profile, if any.
    virtual Picture read(const std::string& path, std::string& icc) = 0;
    virtual std::unique_ptr<PictureWriter> writer(const std::string& path, const std::string& format,
                                                  const PictureSpec& spec) = 0;
    virtual std::string description(const std::string& path) = 0;
};

} // namespace bathylux::files
