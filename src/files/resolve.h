#pragma once
#include <map>
#include <mutex>

#include "core/make/clip_source.h"
#include "core/render/budget.h"
#include "core/render/scene.h"
#include "files/package.h"

namespace bathylux::files {

/// Turns what a piece names (type, pictures, drawings) into assets, and keeps them while they are
/// unchanged: a file is read again when its size or time of change differs. May be used from any thread.
class Resolver {
  public:
    /// `budget`: where pictures of clips are kept that no piece shows just now.
    explicit Resolver(std::shared_ptr<Budget> budget) : budget_(std::move(budget)) {}
    explicit Resolver(std::size_t budget_bytes = std::size_t{64} << 20)
        : Resolver(std::make_shared<Budget>(budget_bytes)) {}
    const std::shared_ptr<Budget>& budget() const { return budget_; }

    /// What cannot be had becomes an asset whose `trouble` says why. Of clips, the picture that is shown at
    /// that frame of the piece.
    std::shared_ptr<const Assets> resolve(const Piece& piece, const Store& store, int frame = 0);
    /// The piece as it is at a frame, with its assets: all that a picture of it is computed from.
    Scene scene(const Piece& piece, const Store& store, int frame = 0);

    /// The asset of one source, as it would be for an element that has it.
    std::shared_ptr<const Asset> resolve(const Described& source, const Store& store);

    /// Throws Error with the first trouble found, naming the element.
    static void refuse_trouble(const Piece& piece, const Assets& assets);

  private:
    std::shared_ptr<const Asset> resolve_one(const Element& element, const Store& store);
    struct KeptClip;
    KeptClip& kept_clip(const Element& element, const Rate& rate, const Store& store);
    std::shared_ptr<const Asset> resolve_clip(const Element& element, int frame, const Rate& rate,
                                              const Store& store);
    std::shared_ptr<const Asset> resolve_mesh(const std::string& file, const Store& store);
    std::shared_ptr<const Asset> resolve_along(const Element& type, const Piece& piece, const Store& store);
    std::shared_ptr<const Asset> resolve_strokes(const std::string& file, double density, bool ink,
                                                 const Store& store);
    std::string key_of(const Element& element, const Store& store, const std::string& file);
    std::shared_ptr<Budget> budget_;
    std::mutex mutex_;
    std::map<std::string, std::shared_ptr<const Asset>> kept_;
    std::map<std::string, std::shared_ptr<KeptClip>> clips_; // by what names their files
    std::map<const Bytes*, std::pair<std::weak_ptr<const Bytes>, std::uint64_t>> hashes_; // of embedded files
};

} // namespace bathylux::files
