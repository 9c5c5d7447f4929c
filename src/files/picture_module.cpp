// The only file that knows OpenImageIO. Built as a module of its own: see pictures.h.
#include <OpenImageIO/imageio.h>

#include "core/error.h"
#include "files/pictures.h"

namespace bathylux::files {

namespace {

using OIIO::TypeDesc;

class Writer : public PictureWriter {
  public:
    Writer(const std::string& path, const std::string& format, const PictureSpec& spec) : spec_(spec), out_(OIIO::ImageOutput::create(format)) {
        if (!out_) throw Error("cannot write " + format + " files here.");
        type_ = spec.bits == 8 ? TypeDesc::UINT8 : spec.bits == 16 ? TypeDesc::UINT16 : TypeDesc::FLOAT;
        OIIO::ImageSpec s(spec.width, spec.height, spec.channels, type_);
        if (spec.channels == 4) s.alpha_channel = 3;
        if (!spec.premultiplied) s.attribute("oiio:UnassociatedAlpha", 1);
        s.attribute("oiio:ColorSpace", spec.bits == 32 ? "Linear" : "sRGB");
        s.attribute("Software", "Bathylux");
        if (!spec.description.empty()) s.attribute("ImageDescription", spec.description);
        s.attribute("png:compressionLevel", 5);
        s.attribute("compression", format == "tiff" ? "zip" : format == "openexr" ? "zip" : "lossless");
        if (!out_->open(path, s)) throw Error(out_->geterror());
    }
    void write(int rows, const void* samples) override {
        const std::size_t row = static_cast<std::size_t>(spec_.width) * spec_.channels * spec_.bits / 8;
        const auto* from = static_cast<const std::byte*>(samples);
        for (int i = 0; i < rows; ++i, ++y_)
            if (!out_->write_scanline(y_, 0, type_, from + i * row)) throw Error(out_->geterror());
    }
    void finish() override {
        if (!out_->close()) throw Error(out_->geterror());
    }

  private:
    PictureSpec spec_;
    std::unique_ptr<OIIO::ImageOutput> out_;
    TypeDesc type_;
    int y_ = 0;
};

class Module : public PictureModule {
  public:
    Picture read(const std::string& path, std::string& icc) override {
        OIIO::ImageSpec hints;
        hints.attribute("oiio:UnassociatedAlpha", 1);
        auto in = OIIO::ImageInput::open(path, &hints);
        if (!in) throw Error(OIIO::geterror());
        const OIIO::ImageSpec& s = in->spec();
        if (s.width < 1 || s.height < 1 || s.depth > 1 || s.width > most_picture_side || s.height > most_picture_side ||
            static_cast<long long>(s.width) * s.height > most_picture_pixels)
            throw Error("its size is beyond what can be opened (" + std::to_string(most_picture_side) + " px a side).");
        Picture p;
        p.width = s.width;
        p.height = s.height;
        p.channels = std::min(s.nchannels, s.nchannels >= 3 && s.alpha_channel != 3 ? 3 : 4);
        if (s.nchannels == 2 && s.alpha_channel != 1) p.channels = 1;
        TypeDesc type = TypeDesc::FLOAT;
        if (s.format.basetype == TypeDesc::UINT8) type = TypeDesc::UINT8, p.format = Picture::Format::u8;
        else if (s.format.basetype == TypeDesc::UINT16) type = TypeDesc::UINT16, p.format = Picture::Format::u16;
        else p.format = Picture::Format::f32;
        p.samples.resize(static_cast<std::size_t>(p.width) * p.height * p.channels * type.size());
        if (!in->read_image(0, 0, 0, p.channels, type, p.samples.data())) throw Error(in->geterror());
        // Floats come premultiplied out of an EXR; kept straight here.
        if (p.is_float() && p.has_alpha() && s.get_int_attribute("oiio:UnassociatedAlpha", 0) == 0) {
            auto* v = reinterpret_cast<float*>(p.samples.data());
            for (std::size_t i = 0, n = static_cast<std::size_t>(p.width) * p.height; i < n; ++i, v += p.channels)
                for (int c = 0; c + 1 < p.channels; ++c)
                    if (v[p.channels - 1] > 0) v[c] /= v[p.channels - 1];
        }
        if (const auto* profile = s.find_attribute("ICCProfile"))
            icc.assign(static_cast<const char*>(profile->data()), profile->type().size());
        return p;
    }
    std::unique_ptr<PictureWriter> writer(const std::string& path, const std::string& format, const PictureSpec& spec) override {
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
