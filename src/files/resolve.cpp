#include "files/resolve.h"

#include <atomic>
#include <set>

#include "core/error.h"
#include "core/field/hash.h"
#include "core/light/lights.h"
#include "core/make/picture_source.h"
#include "core/make/recognise.h"
#include "core/make/shapes.h"
#include "core/make/sprites.h"
#include "core/make/type_source.h"
#include "core/paint/paint_source.h"
#include "core/piece/codec.h"
#include "core/piece/pose.h"
#include "core/piece/references.h"
#include "files/films.h"
#include "files/meshes.h"
#include "files/painting_file.h"
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

std::shared_ptr<const Asset> asset_of(Picture picture) {
    auto out = std::make_shared<Asset>();
    out->width = picture.width, out->height = picture.height, out->hash = picture.hash;
    out->picture = std::make_shared<const Picture>(std::move(picture));
    return out;
}

Asset sprites_asset(const SpritesSource& s, const Store& store) {
    Asset out;
    Hash hash;
    const auto take = [&](Picture picture, int x, int y) {
        out.width = std::max(out.width, double(picture.width));
        out.height = std::max(out.height, double(picture.height));
        hash << picture.hash;
        out.frames.push_back({asset_of(std::move(picture)), x, y});
    };
    if (!s.files.empty()) {
        // Files of their own come to lie side by side on a sheet.
        for (const std::string& f : s.files) {
            Picture p = read_picture(*store.bytes_of(f), f);
            const int x = out.sheet_width;
            out.sheet_width += p.width, out.sheet_height = std::max(out.sheet_height, p.height);
            take(std::move(p), x, 0);
        }
    } else {
        const Picture sheet = read_picture(*store.bytes_of(s.file), s.file);
        out.sheet_width = sheet.width, out.sheet_height = sheet.height;
        try {
            for (const Region& r : sprite_frames(sheet, s)) take(part_of(sheet, r), r.x0, r.y0);
        } catch (const Error& e) {
            throw Error(s.file + ": " + e.what());
        }
    }
    out.hash = hash.value();
    out.about = std::to_string(out.frames.size()) + " frames";
    return out;
}

} // namespace

/// Names what is made of a source and the state of its file. Pictures are the same whatever is done with
/// them.
std::string Resolver::key_of(const Element& e, const Store& store, const std::string& file) {
    const bool read_as_it_is = e.source.is("picture") || e.source.is("normals");
    std::string key = read_as_it_is ? std::string(e.source.kind().id) : std::to_string(e.source.hash());
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
    if (const auto* clip = source.as<ClipSource>())
        return resolve_clip(e, static_cast<int>(clip->start), Timing{}.rate, store);
    return resolve_one(e, store);
}

std::shared_ptr<const Asset> Resolver::resolve_one(const Element& e, const Store& store) {
    const std::vector<std::string> files = files_of(e);
    const std::string file = files.empty() ? std::string() : files.front();
    std::string key = key_of(e, store, file);
    for (std::size_t i = 1; i < files.size(); ++i) key += "|" + key_of(e, store, files[i]);
    if (const auto found = kept_.find(key); found != kept_.end()) return found->second;
    auto out = std::make_shared<Asset>();
    try {
        if (const auto* t = e.source.as<TypeSource>())
            *out = type_asset(*t);
        else if (const auto* sprites = e.source.as<SpritesSource>(); sprites && !file.empty())
            *out = sprites_asset(*sprites, store);
        else if (file.empty())
            out->trouble = "No file has been chosen yet.";
        else {
            const auto bytes = store.bytes_of(file);
            *out = e.source.is("svg") ? svg_asset(*bytes, file) : picture_asset(*bytes, file);
            if (e.source.is("normals")) {
                const Green green = recognise(*out->picture).green;
                out->about = green == Green::up     ? "green up"
                             : green == Green::down ? "green down"
                                                    : "green unsure";
            }
        }
    } catch (const Error& error) {
        out->trouble = error.what();
        out->hash = Hash().operator<<(out->trouble).value();
    }
    kept_[key] = out;
    return out;
}

/// Letters that run along the outline of another element.
std::shared_ptr<const Asset> Resolver::resolve_along(const Element& e, const Piece& piece,
                                                     const Store& store) {
    const TypeSource& type = *e.source.as<TypeSource>();
    auto out = std::make_shared<Asset>();
    try {
        const Element* along = find_element(piece.elements, type.path);
        if (!along)
            throw Error("there is no element " + in_quotes(type.path) + " that the letters could run along.");
        Outline outline;
        if (const auto* r = along->source.as<RectangleSource>())
            outline = rectangle_outline(r->width, r->height, r->corner);
        else if (const auto* o = along->source.as<EllipseSource>())
            outline = ellipse_outline(o->width, o->height);
        else if (along->source.is("svg"))
            for (const Layer& l : resolve_one(*along, store)->layers)
                outline.contours.insert(outline.contours.end(), l.outline.contours.begin(),
                                        l.outline.contours.end());
        else
            throw Error("letters run along a drawing, an ellipse or a rectangle, and " +
                        in_quotes(along->name.empty() ? along->id : along->name) + " is none.");
        const Placement& p = along->placement;
        outline = outline.transformed(Affine::turning(p.turn) * Affine::scaling(p.scale_u, p.scale_v));
        Hash h;
        h << e.source.hash();
        for (const auto& contour : outline.contours)
            for (const Curve& c : contour) {
                h << static_cast<int>(c.kind) << c.t0 << c.t1;
                for (Vec2 q : c.p) h << q.x << q.y;
            }
        const std::string key = "along|" + std::to_string(h.value());
        if (const auto found = kept_.find(key); found != kept_.end()) return found->second;
        *out = type_asset(type, &outline);
        out->hash = h.value();
        kept_[key] = out;
    } catch (const Error& error) {
        out->trouble = error.what();
        out->hash = Hash().operator<<(out->trouble).value();
    }
    return out;
}

std::shared_ptr<const Asset> Resolver::resolve_strokes(const std::string& file, double density, bool ink,
                                                       const Store& store) {
    auto out = std::make_shared<Asset>();
    if (const auto found = store.paintings.find(file); found != store.paintings.end()) {
        out->painting = found->second;
        out->hash = found->second->hash();
        return out;
    }
    Element e;
    PaintSource source{file, static_cast<float>(density), ink ? file : std::string()};
    e.source = Described(source_kind("paint"), source);
    const std::string key = key_of(e, store, file);
    if (const auto found = kept_.find(key); found != kept_.end()) return found->second;
    try {
        out->painting =
            std::make_shared<const Painting>(read_painting(*store.bytes_of(file), file, density, ink));
        out->hash = out->painting->hash();
    } catch (const Error& error) {
        out->trouble = error.what();
        out->hash = Hash().operator<<(out->trouble).value();
    }
    kept_[key] = out;
    return out;
}

std::shared_ptr<const Asset> Resolver::resolve_mesh(const std::string& file, const Store& store) {
    Element e;
    e.source = Described(source_kind("picture"), PictureSource{file});
    const std::string key = "mesh " + key_of(e, store, file);
    if (const auto found = kept_.find(key); found != kept_.end()) return found->second;
    auto out = std::make_shared<Asset>();
    try {
        out->mesh = read_mesh(*store.bytes_of(file), file);
        out->hash = out->mesh->hash;
    } catch (const Error& error) {
        out->trouble = error.what();
        out->hash = Hash().operator<<(out->trouble).value();
    }
    kept_[key] = out;
    return out;
}

namespace {

/// Whether files or words have to be read before such a source gives anything.
bool is_resolved(const Kind& kind) {
    using Type = Parameter::Type;
    return !kind.by_hand &&
           std::any_of(kind.parameters.begin(), kind.parameters.end(), [](const Parameter& p) {
               return p.type == Type::file || p.type == Type::files || p.type == Type::font;
           });
}

} // namespace

Scene Resolver::scene(const Piece& piece, const Store& store, int frame) {
    auto now = std::make_shared<const Piece>(posed(piece, frame));
    auto assets = resolve(*now, store, frame);
    return {std::move(now), std::move(assets), frame};
}

/// A clip that is open, or what is wrong with it.
struct Resolver::KeptClip {
    std::unique_ptr<Clip> clip; // null: pictures of their own
    std::vector<double> begins; // of those
    int width = 0, height = 0;
    double length = 0, tick = 0;
    std::string trouble;
    bool used = false;
    std::uint64_t number = ++opened; // of all that were ever opened
    static inline std::atomic<std::uint64_t> opened = 0;
    ClipTimes times() const {
        return clip ? ClipTimes{clip->begins, clip->length, clip->tick} : ClipTimes{begins, length, tick};
    }
};

Resolver::KeptClip& Resolver::kept_clip(const Element& e, const Rate& rate, const Store& store) {
    const auto& source = *e.source.as<ClipSource>();
    // What it is cut to and how fast it runs leaves its file open.
    Element plain;
    plain.source = Described(source_kind("picture"), PictureSource{source.file});
    std::string key = to_string(rate) + "|" + key_of(plain, store, source.file);
    for (const std::string& f : source.files) key += "|" + key_of(plain, store, f);
    std::shared_ptr<KeptClip>& kept = clips_[key];
    if (!kept) {
        kept = std::make_shared<KeptClip>();
        try {
            if (!source.files.empty()) {
                const double each = static_cast<double>(rate.seconds) / static_cast<double>(rate.frames);
                for (std::size_t i = 0; i < source.files.size(); ++i)
                    kept->begins.push_back(static_cast<double>(i) * each);
                kept->length = static_cast<double>(source.files.size()) * each;
            } else if (source.file.empty())
                kept->trouble = "No film has been chosen yet.";
            else {
                kept->clip = store.is_embedded(source.file)
                                 ? open_clip(store.bytes_of(source.file), source.file)
                                 : open_clip(store.path_of(source.file), source.file);
                kept->width = kept->clip->width, kept->height = kept->clip->height;
                kept->length = kept->clip->length;
            }
        } catch (const Error& error) {
            kept->trouble = error.what();
        }
    }
    kept->used = true;
    return *kept;
}

std::shared_ptr<const Asset> Resolver::resolve_clip(const Element& e, int frame, const Rate& rate,
                                                    const Store& store) {
    const auto& source = *e.source.as<ClipSource>();
    KeptClip& kept = kept_clip(e, rate, store);
    auto out = std::make_shared<Asset>();
    const auto troubled = [&](const std::string& why) {
        out->trouble = why;
        out->hash = Hash().operator<<(why).value();
        return out;
    };
    if (!kept.trouble.empty()) return troubled(kept.trouble);
    const int index = clip_frame(source, kept.times(), frame, rate);
    const auto file_asset = [&](int i) {
        Element picture;
        picture.source =
            Described(source_kind("picture"), PictureSource{source.files[static_cast<std::size_t>(i)]});
        return resolve_one(picture, store);
    };
    if (!kept.clip && kept.width == 0) {
        const auto one = file_asset(0);
        if (!one->trouble.empty()) return troubled(one->trouble);
        kept.width = one->picture->width, kept.height = one->picture->height;
    }
    if (index < 0) {
        // Nothing, as large as the clip is.
        Picture none;
        none.width = none.height = 1, none.channels = 4;
        none.samples.resize(4);
        none.seal();
        *out = *asset_of(std::move(none));
    } else if (!kept.clip) {
        const auto one = file_asset(index);
        if (!one->trouble.empty()) return troubled(one->trouble);
        *out = *one;
    } else {
        Hash h;
        h << "clip" << kept.number << index;
        try {
            *out = *std::static_pointer_cast<const Asset>(budget_->kept(h.value(), [&] {
                const std::shared_ptr<const Asset> shown = asset_of(kept.clip->frame(index));
                return Kept{shown, shown->picture->bytes()};
            }));
        } catch (const Error& error) {
            return troubled(source.file + ": " + error.what());
        }
    }
    out->width = kept.width, out->height = kept.height, out->seconds = kept.length;
    return out;
}

std::shared_ptr<const Assets> Resolver::resolve(const Piece& piece, const Store& store, int frame) {
    const std::lock_guard lock(mutex_);
    for (auto& [key, clip] : clips_) clip->used = false;
    const Rate rate = piece.time.value_or(Timing{}).rate;
    auto out = std::make_shared<Assets>();
    std::set<std::shared_ptr<const Asset>> used;
    for_each_element(piece.elements, [&](const Element& e) {
        const auto* layer = e.source.as<PaintSource>();
        for (const auto& [file, density, rise] : strokes_of(e)) {
            const auto strokes = resolve_strokes(file, density, layer && layer->ink == file, store);
            (*out)[painting_key(file)] = strokes;
            if (e.kind().by_hand && std::get<std::string>(e.source.get("file")) == file)
                (*out)[e.id] = strokes;
            used.insert(strokes);
        }
        if (is_resolved(e.kind())) {
            const auto* type = e.source.as<TypeSource>();
            const auto asset = e.source.is("clip")           ? resolve_clip(e, frame, rate, store)
                               : type && !type->path.empty() ? resolve_along(e, piece, store)
                                                             : resolve_one(e, store);
            (*out)[e.id] = asset;
            used.insert(asset);
        }
        for (const auto& [file, density, rise] : strokes_of(e)) {
            const bool by_frame = file.find("{frame}") != std::string::npos;
            const int frames =
                by_frame && out->contains(e.id) ? static_cast<int>((*out)[e.id]->frames.size()) : 1;
            for (int i = 0; i < frames; ++i) {
                const std::string name = strokes_file(file, i);
                // Frames that nobody painted on have no file.
                std::error_code ignored;
                if (by_frame && !store.paintings.contains(name) && !store.is_embedded(name) &&
                    !std::filesystem::exists(store.path_of(name), ignored))
                    continue;
                const auto strokes = resolve_strokes(name, density, layer && layer->ink == file, store);
                (*out)[painting_key(name)] = strokes;
                if (e.kind().by_hand && std::get<std::string>(e.source.get("file")) == file)
                    (*out)[e.id] = strokes;
                used.insert(strokes);
            }
        }
    });
    for_each_light(piece, [&](const Light& l) {
        const auto* sky = l.what.as<SkyLight>();
        if (!sky || sky->scene != SkyScene::file) return;
        Element e;
        e.source = Described(source_kind("picture"), PictureSource{sky->file});
        const auto asset = resolve_one(e, store);
        (*out)[panorama_key(l.id)] = asset;
        used.insert(asset);
    });
    if (piece.solid && piece.solid->body.kind == BodyKind::mesh && !piece.solid->body.file.empty()) {
        const auto asset = resolve_mesh(piece.solid->body.file, store);
        (*out)[std::string(body_key)] = asset;
        used.insert(asset);
    }
    // What no undo of the near past will ask for again is let go.
    std::erase_if(hashes_, [](const auto& h) { return h.second.first.expired(); });
    if (clips_.size() > 8) std::erase_if(clips_, [](const auto& c) { return !c.second->used; });
    if (kept_.size() > used.size() + 32)
        std::erase_if(kept_, [&](const auto& k) { return !used.contains(k.second); });
    return out;
}

void Resolver::refuse_trouble(const Piece& piece, const Assets& assets) {
    for (const Light& l : piece.lights)
        if (const auto found = assets.find(panorama_key(l.id));
            found != assets.end() && !found->second->trouble.empty())
            throw Error("Light \"" + l.id + "\": " + found->second->trouble);
    if (const auto found = assets.find(body_key); found != assets.end() && !found->second->trouble.empty())
        throw Error("The solid's body: " + found->second->trouble);
    for_each_element(piece.elements, [&](const Element& e) {
        const auto found = assets.find(e.id);
        if (found != assets.end() && !found->second->trouble.empty())
            throw Error("Element \"" + e.id + "\": " + found->second->trouble);
        for (const auto& [file, density, rise] : strokes_of(e))
            if (const auto s = assets.find(painting_key(file));
                s != assets.end() && !s->second->trouble.empty())
                throw Error("Element \"" + e.id + "\": " + s->second->trouble);
    });
}

} // namespace bathylux::files
