#include "files/films.h"

#include <unistd.h>

#include <algorithm>
#include <array>
#include <fstream>

#include "core/error.h"
#include "files/module.h"
#include "files/sample_encoder.h"

namespace bathylux::files {

namespace {

FilmModule& film_module() {
    using Entry = FilmModule* (*)();
    static FilmModule* const loaded = reinterpret_cast<Entry>(
        module_entry("bathylux_films.so", "bathylux_film_module", "The part that reads and writes films"))();
    return *loaded;
}

/// Moves what was written to its place once it is whole, and takes it away otherwise.
class WholeFilm : public FilmWriter {
  public:
    WholeFilm(std::filesystem::path to, std::filesystem::path part, std::unique_ptr<FilmWriter> writer)
        : to_(std::move(to)), part_(std::move(part)), writer_(std::move(writer)) {}
    ~WholeFilm() override {
        writer_.reset();
        std::error_code ignored;
        std::filesystem::remove(part_, ignored);
    }
    void write(const std::uint16_t* rgba) override {
        guarded([&] { writer_->write(rgba); });
    }
    void finish() override {
        guarded([&] {
            writer_->finish();
            writer_.reset();
            std::error_code code;
            std::filesystem::rename(part_, to_, code);
            if (code) throw Error(code.message());
        });
    }

  private:
    template <class F> void guarded(F&& work) {
        try {
            work();
        } catch (const Error& e) {
            throw Error(to_.string() + " could not be written: " + e.what());
        }
    }
    std::filesystem::path to_, part_;
    std::unique_ptr<FilmWriter> writer_;
};

std::unique_ptr<Clip> checked(std::unique_ptr<Clip> clip) {
    if (clip->begins.empty()) throw Error("it holds no picture.");
    if (clip->width < 1 || clip->height < 1 || clip->width > most_picture_side ||
        clip->height > most_picture_side)
        throw Error("its pictures are larger than " + std::to_string(most_picture_side) + " px a side.");
    return clip;
}

std::unique_ptr<Clip> opened(const std::string& path, std::shared_ptr<const Bytes> bytes,
                             const std::string& name) {
    try {
        return checked(film_module().open(path, std::move(bytes)));
    } catch (const Error& e) {
        throw Error(name + " cannot be read as a clip: " + e.what());
    }
}

} // namespace

std::unique_ptr<Clip> open_clip(const std::filesystem::path& path, const std::string& name) {
    std::error_code code;
    if (!std::filesystem::is_regular_file(path, code))
        throw Error(name + " cannot be read: there is no such file.");
    // libav does not read animated WebP: what does wants it whole.
    std::array<char, 12> head{};
    std::ifstream(path, std::ios::binary).read(head.data(), head.size());
    const std::string_view begins(head.data(), head.size());
    if (begins.starts_with("RIFF") && begins.substr(8) == "WEBP")
        return opened({}, std::make_shared<const Bytes>(read_file(path)), name);
    return opened(path.string(), nullptr, name);
}
std::unique_ptr<Clip> open_clip(std::shared_ptr<const Bytes> bytes, const std::string& name) {
    return opened({}, std::move(bytes), name);
}

bool is_film(const std::filesystem::path& path) {
    const std::string ending = ending_of(path);
    return ending == ".webm" || ending == ".mov" || ending == ".apng" || ending == ".webp";
}

std::unique_ptr<FilmWriter> write_film(const std::filesystem::path& path, const FilmSpec& spec) {
    const std::string ending = ending_of(path);
    if (!is_film(path)) throw Error(path.string() + ": films are written as .webm, .mov, .apng or .webp.");
    std::filesystem::path part = path;
    part.replace_filename("." + path.stem().string() + "." + std::to_string(getpid()) + ".part" + ending);
    try {
        return std::make_unique<WholeFilm>(path, part, film_module().writer(part.string(), ending, spec));
    } catch (const Error& e) {
        std::error_code ignored;
        std::filesystem::remove(part, ignored);
        throw Error(path.string() + " could not be written: " + e.what());
    }
}

} // namespace bathylux::files
