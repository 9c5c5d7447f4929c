// The only file that knows OpenImageIO and libwebp. Built as a module of its own: see pictures.h.
#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>
#include <webp/decode.h>
#include <webp/encode.h>

#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <optional>
#include <utility>

#include "core/error.h"
#include "files/pictures.h"

namespace bathylux::files {

namespace {

using OIIO::TypeDesc;

/// A file that tells at its end whether all of it was written. OpenImageIO's own does not: a disk that is
/// full leaves a picture cut short that passes for a whole one.
class WholeFile : public OIIO::Filesystem::IOProxy {
  public:
    explicit WholeFile(const std::string& path)
        : IOProxy(path, Write), file_(std::fopen(path.c_str(), "wb")) {
        if (!file_) throw Error(std::string(std::strerror(errno)) + ".");
    }
    ~WholeFile() override {
        if (file_) std::fclose(file_);
    }
    WholeFile(const WholeFile&) = delete;
    WholeFile& operator=(const WholeFile&) = delete;
    const char* proxytype() const override { return "whole file"; }
    int64_t tell() override { return ::ftello(file_); }
    bool seek(int64_t offset) override { return noted(::fseeko(file_, offset, SEEK_SET) == 0); }
    std::size_t write(const void* from, std::size_t size) override {
        const std::size_t n = std::fwrite(from, 1, size, file_);
        noted(n == size);
        return n;
    }
    /// All of it is on the disk, or it is told why not.
    void finish() {
        noted(std::fflush(file_) == 0 && ::fsync(::fileno(file_)) == 0);
        noted(std::fclose(std::exchange(file_, nullptr)) == 0);
        if (why_ != 0) throw Error(std::string(std::strerror(why_)) + ".");
    }

  private:
    bool noted(bool good) {
        if (!good && why_ == 0) why_ = errno != 0 ? errno : EIO;
        return good;
    }
    std::FILE* file_;
    int why_ = 0;
};

class Writer : public PictureWriter {
  public:
    Writer(const std::string& path, const std::string& format, const PictureSpec& spec)
        : spec_(spec), path_(path), out_(OIIO::ImageOutput::create(format)) {
        if (!out_) throw Error("cannot write " + format + " files here.");
        type_ = spec.bits == 8 ? TypeDesc::UINT8 : spec.bits == 16 ? TypeDesc::UINT16 : TypeDesc::FLOAT;
        OIIO::ImageSpec s(spec.width, spec.height, spec.channels, type_);
        if (!spec.channel_names.empty())
            s.channelnames = spec.channel_names;
        else if (spec.channels == 4)
            s.alpha_channel = 3;
        if (!spec.premultiplied) s.attribute("oiio:UnassociatedAlpha", 1);
        s.attribute("oiio:ColorSpace", spec.bits == 32 ? "Linear" : "sRGB");
        s.attribute("Software", "Bathylux");
        if (!spec.description.empty()) s.attribute("ImageDescription", spec.description);
        s.attribute("png:compressionLevel", 5);
        s.attribute("compression", "zip");
        // OpenImageIO's TIFF loses its directory that way: it is looked at when it is done.
        if (format != "tiff" && !out_->set_ioproxy(&file_.emplace(path)))
            throw Error("cannot write " + format + " files with what is installed.");
        if (!out_->open(path, s)) throw Error(out_->geterror());
    }
    void write(int rows, const void* samples) override {
        const std::size_t row = static_cast<std::size_t>(spec_.width) * spec_.channels * spec_.bits / 8;
        const auto* from = static_cast<const std::byte*>(samples);
        for (int i = 0; i < rows; ++i, ++y_)
            if (!out_->write_scanline(y_, 0, type_, from + i * row)) throw Error(out_->geterror());
    }
    void finish() override {
        const bool closed = out_->close();
        if (file_) file_->finish();
        if (!closed) throw Error(out_->geterror());
        if (file_) return;
        std::vector<std::byte> last(static_cast<std::size_t>(spec_.width) * spec_.channels * spec_.bits / 8);
        const auto in = OIIO::ImageInput::open(path_);
        if (!in || !in->read_scanline(spec_.height - 1, 0, type_, last.data()))
            throw Error("not all of it came to the disk.");
    }

  private:
    PictureSpec spec_;
    std::string path_;
    std::optional<WholeFile> file_; // before who writes into it: it goes after it
    std::unique_ptr<OIIO::ImageOutput> out_;
    TypeDesc type_;
    int y_ = 0;
};

/// WebP through libwebp itself, lossless and with straight alpha, which OpenImageIO's own does not keep.
class WebpWriter : public PictureWriter {
  public:
    WebpWriter(std::string path, const PictureSpec& spec) : path_(std::move(path)), spec_(spec) {
        if (spec.width > WEBP_MAX_DIMENSION || spec.height > WEBP_MAX_DIMENSION)
            throw Error("WebP holds 16383 px a side.");
    }
    void write(int rows, const void* samples) override {
        const auto* from = static_cast<const std::uint8_t*>(samples);
        for (std::size_t i = 0, n = static_cast<std::size_t>(rows) * spec_.width; i < n;
             ++i, from += spec_.channels) {
            for (int c = 0; c < 3; ++c) rgba_.push_back(from[spec_.channels < 3 ? 0 : c]);
            rgba_.push_back(spec_.channels == 4 ? from[3] : 255);
        }
    }
    void finish() override {
        WebPConfig config;
        WebPPicture picture;
        if (!WebPConfigInit(&config) || !WebPPictureInit(&picture)) throw Error("this libwebp does not fit.");
        WebPConfigLosslessPreset(&config, 6);
        config.exact = 1; // colour under the alpha stays too
        picture.use_argb = 1;
        picture.width = spec_.width, picture.height = spec_.height;
        WebPMemoryWriter memory;
        WebPMemoryWriterInit(&memory);
        picture.writer = WebPMemoryWrite;
        picture.custom_ptr = &memory;
        const bool good =
            WebPPictureImportRGBA(&picture, rgba_.data(), 4 * spec_.width) && WebPEncode(&config, &picture);
        WebPPictureFree(&picture);
        std::ofstream out(path_, std::ios::binary);
        if (good)
            out.write(reinterpret_cast<const char*>(memory.mem), static_cast<std::streamsize>(memory.size));
        WebPMemoryWriterClear(&memory);
        if (!good || !out.flush()) throw Error("it could not be encoded or stored.");
    }

  private:
    std::string path_;
    PictureSpec spec_;
    std::vector<std::uint8_t> rgba_;
};

std::optional<Picture> read_webp(const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    const std::vector<char> bytes((std::istreambuf_iterator<char>(in)), {});
    const auto* data = reinterpret_cast<const std::uint8_t*>(bytes.data());
    WebPBitstreamFeatures features;
    if (bytes.size() < 12 || std::string_view(bytes.data(), 4) != "RIFF" ||
        std::string_view(bytes.data() + 8, 4) != "WEBP")
        return std::nullopt;
    if (WebPGetFeatures(data, bytes.size(), &features) != VP8_STATUS_OK)
        throw Error("its WebP data are damaged.");
    if (features.has_animation) throw Error("it is an animation, which cannot be opened.");
    Picture p;
    p.width = features.width, p.height = features.height, p.channels = features.has_alpha ? 4 : 3;
    p.samples.resize(static_cast<std::size_t>(p.width) * p.height * p.channels);
    auto* to = reinterpret_cast<std::uint8_t*>(p.samples.data());
    const int stride = p.width * p.channels;
    if (!(features.has_alpha ? WebPDecodeRGBAInto(data, bytes.size(), to, p.samples.size(), stride)
                             : WebPDecodeRGBInto(data, bytes.size(), to, p.samples.size(), stride)))
        throw Error("its WebP data are damaged or cut short.");
    return p;
}

class Module : public PictureModule {
  public:
    Picture read(const std::string& path, std::string& icc) override {
        if (auto webp = read_webp(path)) return std::move(*webp);
        OIIO::ImageSpec hints;
        hints.attribute("oiio:UnassociatedAlpha", 1);
        auto in = OIIO::ImageInput::open(path, &hints);
        if (!in) throw Error(OIIO::geterror());
        const OIIO::ImageSpec& s = in->spec();
        if (s.width < 1 || s.height < 1 || s.depth > 1 || s.width > most_picture_side ||
            s.height > most_picture_side || static_cast<long long>(s.width) * s.height > most_picture_pixels)
            throw Error("its size is beyond what can be opened (" + std::to_string(most_picture_side) +
                        " px a side).");
        Picture p;
        p.width = s.width;
        p.height = s.height;
        p.channels = std::min(s.nchannels, s.nchannels >= 3 && s.alpha_channel != 3 ? 3 : 4);
        if (s.nchannels == 2 && s.alpha_channel != 1) p.channels = 1;
        TypeDesc type = TypeDesc::FLOAT;
        if (s.format.basetype == TypeDesc::UINT8)
            type = TypeDesc::UINT8, p.format = Picture::Format::u8;
        else if (s.format.basetype == TypeDesc::UINT16)
            type = TypeDesc::UINT16, p.format = Picture::Format::u16;
        else
            p.format = Picture::Format::f32;
        p.samples.resize(static_cast<std::size_t>(p.width) * p.height * p.channels * type.size());
        if (!in->read_image(0, 0, 0, p.channels, type, p.samples.data())) throw Error(in->geterror());
        // Floats come premultiplied out of an EXR; kept straight here.
        if (p.is_float() && p.has_alpha() && s.get_int_attribute("oiio:UnassociatedAlpha", 0) == 0) {
            auto* v = reinterpret_cast<float*>(p.samples.data());
            for (std::size_t i = 0, n = static_cast<std::size_t>(p.width) * p.height; i < n;
                 ++i, v += p.channels)
                for (int c = 0; c + 1 < p.channels; ++c)
                    if (v[p.channels - 1] > 0) v[c] /= v[p.channels - 1];
        }
        if (const auto* profile = s.find_attribute("ICCProfile"))
            icc.assign(static_cast<const char*>(profile->data()), profile->type().size());
        return p;
    }
    std::unique_ptr<PictureWriter> writer(const std::string& path, const std::string& format,
                                          const PictureSpec& spec) override {
        if (format == "webp") return std::make_unique<WebpWriter>(path, spec);
        return std::make_unique<Writer>(path, format, spec);
    }
    std::string description(const std::string& path) override {
        auto in = OIIO::ImageInput::open(path);
        return in ? std::string(in->spec().get_string_attribute("ImageDescription")) : std::string();
    }
};

} // namespace

extern "C" PictureModule* bathylux_picture_module() {
    static Module module;
    return &module;
}

} // namespace bathylux::files
