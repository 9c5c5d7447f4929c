#include "files/package.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#include <zip.h>

#include <cerrno>
#include <cstring>
#include <set>

#include "core/error.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "files/painting_file.h"
#include "files/zip.h"

namespace bathylux::files {

namespace {

namespace fs = std::filesystem;

bool climbs(const std::string& name) {
    const fs::path p(name);
    if (p.is_absolute() || name.find('\\') != std::string::npos || name.find('\0') != std::string::npos)
        return true;
    for (const auto& part : p)
        if (part == "..") return true;
    return false;
}

struct ZipCloser {
    void operator()(zip_t* z) const { zip_discard(z); }
    void operator()(zip_file_t* f) const { zip_fclose(f); }
};

Bytes read_entry(zip_t* zip, zip_uint64_t index, std::uint64_t size, const std::string& what) {
    const std::unique_ptr<zip_file_t, ZipCloser> file(zip_fopen_index(zip, index, 0));
    if (!file) throw Error(what + " is damaged: " + zip_strerror(zip) + ".");
    Bytes out(size);
    std::uint64_t done = 0;
    while (done < size) {
        const auto n = zip_fread(file.get(), out.data() + done, size - done);
        if (n <= 0) throw Error(what + " is damaged: a part of it cannot be unpacked.");
        done += static_cast<std::uint64_t>(n);
    }
    std::byte more{};
    // One byte further also makes libzip compare the check sum.
    if (zip_fread(file.get(), &more, 1) != 0)
        throw Error(what + " is damaged: a part of it does not match its check sum or stated size.");
    return out;
}

std::string_view text_of(const Bytes& bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

template <class F> auto naming(const fs::path& path, F&& f) {
    try {
        return f();
    } catch (const Error& e) {
        const std::string what = e.what();
        throw Error(what.starts_with(path.string()) ? what : path.string() + ": " + what);
    }
}

/// Opens bytes as an archive; null where they are none.
std::unique_ptr<zip_t, ZipCloser> archive(const Bytes& bytes) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    std::unique_ptr<zip_t, ZipCloser> zip(source ? zip_open_from_source(source, ZIP_RDONLY, &error)
                                                 : nullptr);
    if (!zip && source) zip_source_free(source);
    return zip;
}

Opened open_package(const Bytes& bytes, const fs::path& path) {
    const std::string what = path.string();
    const auto zip = archive(bytes);
    if (!zip) throw Error(what + " is damaged: it cannot be opened as a package.");
    const auto count = zip_get_num_entries(zip.get(), 0);
    if (count > most_entries)
        throw Error(what + " holds more than " + std::to_string(most_entries) + " files.");
    Opened out;
    bool found = false;
    std::uint64_t total = 0;
    for (zip_int64_t i = 0; i < count; ++i) {
        zip_stat_t stat;
        if (zip_stat_index(zip.get(), i, 0, &stat) != 0 || !(stat.valid & ZIP_STAT_NAME) ||
            !(stat.valid & ZIP_STAT_SIZE))
            throw Error(what + " is damaged: its list of files cannot be read.");
        const std::string name = stat.name;
        if (name.ends_with('/')) continue;
        if (climbs(name))
            throw Error(what + " holds a file whose path leads out of it (" + name.substr(0, 60) +
                        "); it was not opened.");
        total += stat.size;
        if (total > most_unpacked_bytes)
            throw Error(what + " unpacks to more than 2 GiB; it was not opened.");
        if (stat.size > (1u << 20) && (!(stat.valid & ZIP_STAT_COMP_SIZE) ||
                                       stat.size / std::max<std::uint64_t>(1, stat.comp_size) > most_ratio))
            throw Error(what + " holds a file packed beyond belief (" + name.substr(0, 60) +
                        "); it was not opened.");
        if (name == "thumbnail.png") continue;
        Bytes entry = read_entry(zip.get(), i, stat.size, what);
        if (name == "piece.json") {
            out.piece = piece_from_text(text_of(entry));
            found = true;
        } else {
            out.store.embedded[name] = std::make_shared<const Bytes>(std::move(entry));
        }
    }
    if (!found) throw Error(what + " is no Bathylux package: there is no piece.json in it.");
    return out;
}

std::string full_name(const fs::path& path) { return fs::absolute(path).lexically_normal().string(); }

void sync_folder(const fs::path& folder) {
    if (const int fd = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY); fd >= 0) {
        ::fsync(fd);
        ::close(fd);
    }
}

Bytes packed(const std::string& json, const Store& store, const Bytes& thumbnail) {
    std::vector<ZipEntry> entries{{"piece.json", std::as_bytes(std::span(json)), true}};
    if (!thumbnail.empty()) entries.push_back({"thumbnail.png", thumbnail});
    for (const auto& [name, bytes] : store.embedded)
        entries.push_back({name, *bytes, name.ends_with(".svg")});
    return zipped(entries);
}

} // namespace

fs::path Store::path_of(const std::string& file) const {
    const fs::path p(file);
    return p.is_absolute() ? p : folder / p;
}

std::shared_ptr<const Bytes> Store::bytes_of(const std::string& file) const {
    if (const auto found = embedded.find(file); found != embedded.end()) return found->second;
    return std::make_shared<const Bytes>(read_file(path_of(file)));
}

Bytes thumbnail_of(const fs::path& path) {
    int code = 0;
    const std::unique_ptr<zip_t, ZipCloser> zip(zip_open(path.c_str(), ZIP_RDONLY, &code));
    zip_stat_t stat;
    if (!zip || zip_stat(zip.get(), "thumbnail.png", 0, &stat) != 0 || !(stat.valid & ZIP_STAT_SIZE) ||
        stat.size > (16u << 20))
        return {};
    try {
        return read_entry(zip.get(), stat.index, stat.size, path.string());
    } catch (const Error&) {
        return {}; // whoever opens the piece is told
    }
}

Opened open_piece(const fs::path& path) {
    const Bytes bytes = read_file(path);
    return naming(path, [&] {
        const bool zip = bytes.size() >= 4 && std::memcmp(bytes.data(), "PK\x03\x04", 4) == 0;
        Opened out = zip ? open_package(bytes, path) : Opened{piece_from_text(text_of(bytes)), {}};
        out.store.folder = fs::absolute(path).parent_path();
        rename_all_files(out.piece, [&](const std::string& f) {
            return f.empty() || out.store.is_embedded(f) ? f : full_name(out.store.path_of(f));
        });
        for (const std::string& circle : open_circles(out.piece))
            out.told.push_back(path.filename().string() + ": elements read one another in a circle; that " +
                               circle + " was switched off.");
        return out;
    });
}

std::string relative_name(const std::string& file, const fs::path& folder) {
    const fs::path full(file), near = full.lexically_relative(fs::absolute(folder).lexically_normal());
    int climbs = 0;
    for (const auto& part : near) climbs += part == "..";
    return near.empty() || climbs > 2 ? file : near.generic_string();
}

void embed_all(Opened& opened) {
    std::map<std::string, std::string> inside;
    rename_all_files(opened.piece, [&](const std::string& f) -> std::string {
        if (f.empty() || opened.store.is_embedded(f)) return f;
        if (const auto known = inside.find(f); known != inside.end()) return known->second;
        std::string name = relative_name(f, opened.store.folder);
        if (fs::path(name).is_absolute() || name.starts_with(".."))
            name = "pictures/" + fs::path(f).filename().string();
        for (int n = 2; opened.store.embedded.contains(name); ++n)
            name = "pictures/" + std::to_string(n) + "-" + fs::path(f).filename().string();
        opened.store.embedded[name] = opened.store.bytes_of(f);
        return inside[f] = name;
    });
    for_each_element(opened.piece.elements, [&](const Element& e) {
        for (const auto& [f, density, rise] : strokes_of(e))
            if (!opened.store.is_embedded(f) && f.find("{frame}") == std::string::npos)
                opened.store.embedded[f] = opened.store.bytes_of(f);
    });
}

void write_atomically(const fs::path& path, std::span<const std::byte> bytes) {
    const auto failed = [&](const char* doing) {
        return Error(path.string() + " could not be " + doing + ": " + std::strerror(errno) +
                     ". The old file is untouched.");
    };
    // A link is followed, so that it stays a link.
    std::error_code ignored;
    fs::path target = fs::is_symlink(path, ignored) ? fs::canonical(path, ignored) : path;
    if (target.empty()) target = path;
    std::string part = (target.parent_path() / ("." + target.filename().string() + ".XXXXXX")).string();
    const int fd = ::mkstemp(part.data());
    if (fd < 0) throw failed("saved");
    std::size_t done = 0;
    bool good = true;
    while (good && done < bytes.size()) {
        const auto n = ::write(fd, bytes.data() + done, bytes.size() - done);
        if (n < 0 && errno == EINTR) continue;
        good = n > 0;
        done += static_cast<std::size_t>(std::max<ssize_t>(n, 0));
    }
    fs::perms rights =
        fs::perms::owner_read | fs::perms::owner_write | fs::perms::group_read | fs::perms::others_read;
    if (fs::exists(target, ignored)) rights = fs::status(target, ignored).permissions();
    good = good && ::fchmod(fd, static_cast<mode_t>(rights)) == 0 && ::fsync(fd) == 0;
    good = ::close(fd) == 0 && good;
    if (!good || ::rename(part.c_str(), target.c_str()) != 0) {
        const int why = errno;
        ::unlink(part.c_str());
        errno = why;
        throw failed("saved");
    }
    sync_folder(target.parent_path().empty() ? "." : target.parent_path());
}

void save_piece(const Piece& piece, const Store& store, const fs::path& path, const Bytes& thumbnail) {
    // Only what some source or step names travels along; strokes always do.
    std::set<std::string> named, strokes;
    for_each_element(piece.elements, [&](const Element& e) {
        for (const std::string& f : files_of(e)) named.insert(f);
        for (const auto& [f, density, rise] : strokes_of(e)) {
            const auto at = f.find("{frame}");
            if (at == std::string::npos) {
                strokes.insert(f);
                continue;
            }
            // Of frames, those that were painted on.
            for (int i = 0; i < 4096; ++i) {
                const std::string name = f.substr(0, at) + std::to_string(i) + f.substr(at + 7);
                std::error_code ignored;
                if (store.paintings.contains(name) || store.is_embedded(name) ||
                    fs::exists(store.path_of(name), ignored))
                    strokes.insert(name);
            }
        }
    });
    for (const std::string& f : loose_files(piece)) named.insert(f);
    Store used{store.folder, {}, {}};
    for (const auto& [name, bytes] : store.embedded)
        if (named.contains(name) || strokes.contains(name)) used.embedded[name] = bytes;
    for (const std::string& name : strokes) {
        if (const auto found = store.paintings.find(name); found != store.paintings.end())
            used.embedded[name] = std::make_shared<const Bytes>(painting_file(*found->second));
        else if (!used.embedded.contains(name)) {
            // Strokes that are not to be had are told when the piece is opened; they keep nobody from saving.
            std::error_code ignored;
            if (fs::exists(store.path_of(name), ignored)) used.embedded[name] = store.bytes_of(name);
        }
    }
    Piece written = piece;
    const fs::path folder = fs::absolute(path).parent_path();
    rename_all_files(written, [&](const std::string& f) {
        return f.empty() || store.is_embedded(f) ? f : relative_name(full_name(store.path_of(f)), folder);
    });
    const std::string json = bathylux::text_of(written);
    if (path.extension() == ".json") {
        for (const auto& [name, bytes] : used.embedded) {
            std::error_code ignored;
            fs::create_directories((path.parent_path() / name).parent_path(), ignored);
            write_atomically(path.parent_path() / name, *bytes);
        }
        return write_atomically(path, std::as_bytes(std::span(json)));
    }
    write_atomically(path, packed(json, used, thumbnail));
}

} // namespace bathylux::files
