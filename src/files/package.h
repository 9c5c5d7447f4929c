#pragma once
#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "core/paint/painting.h"
#include "core/piece/piece.h"
#include "files/pictures.h"

namespace bathylux::files {

/// The files a piece carries within itself, by the name its sources use.
using Embedded = std::map<std::string, std::shared_ptr<const Bytes>>;

/// Where the files that a piece names are found: within it first, then beside it.
struct Store {
    std::filesystem::path folder; // of the piece; empty while it has never been saved
    Embedded embedded;
    /// Strokes changed since the piece was opened, by the name of the file they will be kept in.
    std::map<std::string, std::shared_ptr<const Painting>> paintings;
    /// The path on disk of a file the piece names.
    std::filesystem::path path_of(const std::string& file) const;
    bool is_embedded(const std::string& file) const { return embedded.contains(file); }
    /// Its bytes; throws Error.
    std::shared_ptr<const Bytes> bytes_of(const std::string& file) const;
};

struct Opened {
    Piece piece;
    Store store;
    std::vector<std::string> told{}; // what had to be mended, a sentence each
};

/// Limits of a package: more is refused before it is unpacked.
constexpr int most_entries = 4096;
constexpr std::uint64_t most_unpacked_bytes = std::uint64_t{2} << 30;
constexpr std::uint64_t most_ratio = 2000; // unpacked to packed, of entries over 1 MiB: beyond it is a trap

/// Reads a `.bathylux` package (zip) or a bare piece.json. Throws Error that names the file. Linked files are
/// named in full, so that it does not matter where the piece is saved later. Where elements read one another
/// in a circle, what closes it is switched off and told.
Opened open_piece(const std::filesystem::path& path);

/// Takes every file the piece links to into it, where it can be had.
void embed_all(Opened& opened);

/// How a linked file is written in a piece that lies in `folder`: relative where it lies near, else in full.
std::string relative_name(const std::string& file, const std::filesystem::path& folder);

/// Saves as a package, or, where the path ends in .json, as bare JSON with the embedded files beside it.
/// Whoever opens the path sees the old piece or the new one, whole: the new file is written beside it,
/// flushed to disk and renamed. Linked files are named relative to the piece where they lie near.
/// `thumbnail`: a PNG, may be empty.
void save_piece(const Piece& piece, const Store& store, const std::filesystem::path& path,
                const Bytes& thumbnail = {});

/// The picture of a package as it was last saved; empty where it has none. Quick: nothing else is read.
Bytes thumbnail_of(const std::filesystem::path& path);

/// Writes bytes so that the path holds the old content or the new, never part of it. Throws Error.
void write_atomically(const std::filesystem::path& path, std::span<const std::byte> bytes);

} // namespace bathylux::files
