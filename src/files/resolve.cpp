#include "files/resolve.h"

#include <set>

#include "core/error.h"
#include "core/field/hash.h"
#include "core/piece/codec.h"
#include "core/piece/sources.h"
#include "files/svg.h"
#include "files/type.h"

namespace bathylux::files {

namespace {

Asset picture_asset(std::span<const std::byte> bytes, const std::string& name) {
    Asset out;
    out.picture = std::make_shared<const Picture>(read_picture(bytes, name));
    out.width = out.picture->width;
    out.height = out.picture->height;
    out.hash = out.picture->hash;
    return out;
}

} // namespace

/// Names a source and the state of its file.
std::string Resolver::key_of(const Element& e, const Store& store, const std::string& file) {
    std::string key = to_json(e).at("source").dump();
    if (file.empty()) return key;
    if (const auto found = store.embedded.find(file); found != store.embedded.end()) {
        auto& [bytes, hash] = hashes_[found->second.get()];
        if (bytes.lock() != found->second) {
            bytes = found->second;
            hash = Hash().bytes(found->second->data(), found->second->size()).value();
        }
        return key + "|" + std::to_string(hash);
    }
    std::error_code error;
    const auto path = store.path_of(file);
    const auto size = std::filesystem::file_size(path, error);
    const auto time = std::filesystem::last_write_time(path, error).time_since_epoch().count();
    return key + "|" + path.string() + "|" + std::to_string(error ? 0 : size) + "|" +
           std::to_string(error ? 0 : time);
}

std::shared_ptr<const Asset> Resolver::resolve(const Described& source, const Store& store) {
    const std::lock_guard lock(mutex_);
    Element e;
    e.source = source;
    return resolve_one(e, store);
}

std::shared_ptr<const Asset> Resolver::resolve_one(const Element& e, const Store& store) {
    std::string file;
    if (const auto* p = e.source.as<PictureSource>()) file = p->file;
    if (const auto* s = e.source.as<SvgSource>()) file = s->file;
    const std::string key = key_of(e, store, file);
    if (const auto found = kept_.find(key); found != kept_.end()) return found->second;
    auto out = std::make_shared<Asset>();
    try {
        if (const auto* t = e.source.as<TypeSource>())
            *out = type_asset(*t);
        else if (file.empty())
            out->trouble = "No file has been chosen yet.";
        else {
            const auto bytes = store.bytes_of(file);
            *out = e.source.is("svg") ? svg_asset(*bytes, file) : picture_asset(*bytes, file);
        }
    } catch (const Error& error) {
        out->trouble = error.what();
        out->hash = Hash().operator<<(out->trouble).value();
    }
    kept_[key] = out;
    return out;
}

std::shared_ptr<const Assets> Resolver::resolve(const Piece& piece, const Store& store) {
    const std::lock_guard lock(mutex_);
    auto out = std::make_shared<Assets>();
    std::set<std::shared_ptr<const Asset>> used;
    for_each_element(piece.elements, [&](const Element& e) {
        if (!e.source.is("type") && !e.source.is("picture") && !e.source.is("svg")) return;
        const auto asset = resolve_one(e, store);
        (*out)[e.id] = asset;
        used.insert(asset);
    });
    // What no undo of the near past will ask for again is let go.
    std::erase_if(hashes_, [](const auto& h) { return h.second.first.expired(); });
    if (kept_.size() > used.size() + 32)
        std::erase_if(kept_, [&](const auto& k) { return !used.contains(k.second); });
    return out;
}

void Resolver::refuse_trouble(const Piece& piece, const Assets& assets) {
    for_each_element(piece.elements, [&](const Element& e) {
        const auto found = assets.find(e.id);
        if (found != assets.end() && !found->second->trouble.empty())
            throw Error("Element \"" + e.id + "\": " + found->second->trouble);
    });
}

} // namespace bathylux::files
