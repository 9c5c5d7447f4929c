#include "files/pictures.h"

#include <lcms2.h>
#include <unistd.h>

#include <QBuffer>
#include <QColorSpace>
#include <QDir>
#include <QImageReader>
#include <QTemporaryFile>
#include <cstring>
#include <fstream>
#include <mutex>

#include "core/error.h"
#include "files/module.h"
#include "files/plain_png.h"

namespace bathylux::files {

namespace {

PictureModule& module() {
    using Entry = PictureModule* (*)();
    static PictureModule* const loaded =
        reinterpret_cast<Entry>(module_entry("bathylux_pictures.so", "bathylux_picture_module",
                                             "The part that reads and writes TIFF, WebP and EXR"))();
    return *loaded;
}

template <class T> void copy_rows(const QImage& image, int channels, Picture& to) {
    to.channels = channels;
    const std::size_t row = sizeof(T) * channels * to.width;
    to.samples.reserve(row * static_cast<std::size_t>(to.height));
    for (int y = 0; y < to.height; ++y) {
        const auto* line = reinterpret_cast<const std::byte*>(image.constScanLine(y));
        if (image.depth() == static_cast<int>(8 * sizeof(T) * channels)) {
            to.samples.insert(to.samples.end(), line, line + row);
            continue;
        }
        // RGBX: leave the unused fourth out.
        to.samples.resize(row * (y + 1));
        for (int x = 0; x < to.width; ++x)
            std::memcpy(&to.samples[row * y + sizeof(T) * channels * x], line + sizeof(T) * 4 * x,
                        sizeof(T) * channels);
    }
}

/// Where its format has to be another one, the image is turned into that in its place, if Qt can.
Picture from_qt(QImage image) {
    Picture p;
    p.width = image.width();
    p.height = image.height();
    const bool deep = image.depth() > 32 || image.format() == QImage::Format_Grayscale16;
    const bool grey =
        image.format() == QImage::Format_Grayscale8 || image.format() == QImage::Format_Grayscale16 ||
        (!image.hasAlphaChannel() && image.format() == QImage::Format_Indexed8 && image.isGrayscale());
    if (deep) {
        p.format = Picture::Format::u16;
        if (grey)
            copy_rows<std::uint16_t>(image, 1, p);
        else if (image.hasAlphaChannel())
            copy_rows<std::uint16_t>(std::move(image).convertToFormat(QImage::Format_RGBA64), 4, p);
        else
            copy_rows<std::uint16_t>(std::move(image).convertToFormat(QImage::Format_RGBX64), 3, p);
    } else {
        if (grey)
            copy_rows<std::uint8_t>(std::move(image).convertToFormat(QImage::Format_Grayscale8), 1, p);
        else if (image.hasAlphaChannel())
            copy_rows<std::uint8_t>(std::move(image).convertToFormat(QImage::Format_RGBA8888), 4, p);
        else
            copy_rows<std::uint8_t>(std::move(image).convertToFormat(QImage::Format_RGBX8888), 3, p);
    }
    return p;
}

/// Turns colours of the embedded profile into sRGB (Little CMS); a profile that does not fit is left out.
void apply_profile(Picture& p, const std::string& icc) {
    if (icc.empty() || p.is_float()) return;
    cmsHPROFILE from = cmsOpenProfileFromMem(icc.data(), static_cast<cmsUInt32Number>(icc.size()));
    if (!from) return;
    cmsHPROFILE to = cmsCreate_sRGBProfile();
    const bool grey = p.channels < 3, deep = p.format == Picture::Format::u16;
    const bool fits = cmsGetColorSpace(from) == (grey ? cmsSigGrayData : cmsSigRgbData);
    // Grey stays grey: the green of the answer is as good as any.
    const cmsUInt32Number extra = EXTRA_SH(p.has_alpha() ? 1 : 0), bytes = BYTES_SH(deep ? 2 : 1);
    const cmsUInt32Number in =
        bytes | extra | CHANNELS_SH(grey ? 1 : 3) | COLORSPACE_SH(grey ? PT_GRAY : PT_RGB);
    cmsHPROFILE grey_to =
        grey ? cmsCreateGrayProfile(
                   cmsD50_xyY(),
                   cmsBuildParametricToneCurve(
                       nullptr, 4, std::array{2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045}.data()))
             : nullptr;
    if (fits)
        if (cmsHTRANSFORM t = cmsCreateTransform(from, in, grey ? grey_to : to, in,
                                                 INTENT_RELATIVE_COLORIMETRIC, cmsFLAGS_COPY_ALPHA)) {
            p.color_samples.resize(p.samples.size());
            cmsDoTransform(t, p.samples.data(), p.color_samples.data(),
                           static_cast<cmsUInt32Number>(p.width) * p.height);
            cmsDeleteTransform(t);
        }
    if (grey_to) cmsCloseProfile(grey_to);
    cmsCloseProfile(from);
    cmsCloseProfile(to);
    if (p.color_samples == p.samples) p.color_samples.clear();
}

std::string lower_ending(const std::filesystem::path& path) {
    std::string e = path.extension().string();
    for (char& c : e) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return e;
}

/// Writes beside the target and takes its place when whole.
class AtomicWriter : public PictureWriter {
  public:
    AtomicWriter(std::filesystem::path target, std::filesystem::path part,
                 std::unique_ptr<PictureWriter> inner)
        : target_(std::move(target)), part_(std::move(part)), inner_(std::move(inner)) {}
    ~AtomicWriter() override {
        inner_.reset();
        std::error_code ignored;
        if (!done_) std::filesystem::remove(part_, ignored);
    }
    void write(int rows, const void* samples) override {
        try {
            inner_->write(rows, samples);
        } catch (const Error& e) {
            throw Error(target_.string() + " could not be written: " + e.what());
        }
    }
    void finish() override {
        try {
            inner_->finish();
            std::filesystem::rename(part_, target_);
        } catch (const std::exception& e) {
            throw Error(target_.string() + " could not be written: " + e.what());
        }
        done_ = true;
    }

  private:
    std::filesystem::path target_, part_;
    std::unique_ptr<PictureWriter> inner_;
    bool done_ = false;
};

} // namespace

Bytes read_file(const std::filesystem::path& path, std::size_t most) {
    std::error_code error;
    if (std::filesystem::is_directory(path, error)) throw Error(path.string() + " is a folder, not a file.");
    std::ifstream in(path, std::ios::binary | std::ios::ate);
    if (!in)
        throw Error(path.string() + " cannot be opened: " +
                    (std::filesystem::exists(path, error) ? "you have no right to read it."
                                                          : "there is no such file."));
    const auto size = in.tellg();
    if (size < 0 || static_cast<std::size_t>(size) > most)
        throw Error(path.string() + " is larger than " + std::to_string(most >> 20) + " MiB.");
    Bytes out(static_cast<std::size_t>(size));
    in.seekg(0);
    if (!out.empty() && !in.read(reinterpret_cast<char*>(out.data()), size))
        throw Error(path.string() + " cannot be read to its end.");
    return out;
}

Picture read_picture(std::span<const std::byte> bytes, const std::string& name) {
    if (bytes.empty()) throw Error(name + " is empty.");
    const auto broken = [&](const std::string& why) {
        return Error(name + " is not a picture that can be read: " + why);
    };
    const auto starts = [&](std::string_view magic) {
        return bytes.size() >= magic.size() && std::memcmp(bytes.data(), magic.data(), magic.size()) == 0;
    };
    const auto refuse_beyond = [&](long long width, long long height) {
        if (width > most_picture_side || height > most_picture_side || width * height > most_picture_pixels)
            throw broken("it is " + std::to_string(width) + " × " + std::to_string(height) +
                         " px, beyond what can be opened.");
    };
    if (is_plain_png(bytes)) {
        const auto [width, height] = size_of_plain_png(bytes);
        refuse_beyond(width, height);
        try {
            Picture p = read_plain_png(bytes);
            p.seal();
            return p;
        } catch (const Error& e) {
            throw broken("it is cut short or damaged (" + std::string(e.what()) + ").");
        }
    }
    const bool png = starts("\x89PNG");
    if (png || starts("\xff\xd8\xff")) {
        QByteArray data = QByteArray::fromRawData(reinterpret_cast<const char*>(bytes.data()),
                                                  static_cast<qsizetype>(bytes.size()));
        QBuffer buffer(&data);
        QImageReader reader(&buffer, png ? "png" : "jpeg"); // said, no other reader is looked for
        reader.setAutoTransform(true);
        const QSize size = reader.size();
        refuse_beyond(size.width(), size.height());
        QImageReader::setAllocationLimit(0); // the size was looked at above
        QImage image;
        if (!reader.read(&image))
            throw broken("it is cut short or damaged (" + reader.errorString().toStdString() + ").");
        const QColorSpace space = image.colorSpace();
        Picture p = from_qt(std::move(image));
        if (space.isValid() && space != QColorSpace(QColorSpace::SRgb))
            apply_profile(p, space.iccProfile().toStdString());
        p.seal();
        return p;
    }
    // OpenImageIO reads files by name: give it one.
    QTemporaryFile file(QDir::tempPath() + "/bathylux-XXXXXX" + QString::fromStdString(lower_ending(name)));
    if (!file.open() ||
        file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size())) !=
            static_cast<qint64>(bytes.size()) ||
        !file.flush())
        throw Error(name + " cannot be unpacked: there is no room in " + QDir::tempPath().toStdString() +
                    ".");
    std::string icc;
    try {
        Picture p = module().read(file.fileName().toStdString(), icc);
        apply_profile(p, icc);
        p.seal();
        return p;
    } catch (const Error& e) {
        std::string why = e.what();
        // The temporary name tells nobody anything.
        for (std::size_t at = 0; (at = why.find(file.fileName().toStdString())) != std::string::npos;)
            why.replace(at, file.fileName().toStdString().size(), name);
        throw broken(why);
    }
}

std::unique_ptr<PictureWriter> write_picture(const std::filesystem::path& path, const PictureSpec& spec) {
    const std::string ending = lower_ending(path);
    const std::string format = ending == ".png"                        ? "png"
                               : ending == ".tif" || ending == ".tiff" ? "tiff"
                               : ending == ".webp"                     ? "webp"
                               : ending == ".exr"                      ? "openexr"
                                                                       : "";
    if (format.empty()) throw Error(path.string() + ": pictures are written as .png, .tif, .webp or .exr.");
    if (format == "png" && spec.bits == 32)
        throw Error(path.string() + ": PNG holds 8 or 16 bits; choose TIFF or EXR for floats.");
    if (format == "webp" && spec.bits != 8)
        throw Error(path.string() + ": WebP holds 8 bits; choose PNG, TIFF or EXR for more.");
    std::filesystem::path part = path;
    part.replace_filename("." + path.stem().string() + "." + std::to_string(getpid()) + ".part" + ending);
    try {
        return std::make_unique<AtomicWriter>(path, part, module().writer(part.string(), format, spec));
    } catch (const Error& e) {
        std::error_code ignored;
        std::filesystem::remove(part, ignored);
        throw Error(path.string() + " could not be written: " + e.what());
    }
}

std::string picture_description(const std::filesystem::path& path) {
    return module().description(path.string());
}

} // namespace bathylux::files
