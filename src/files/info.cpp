#include "files/info.h"

#include <QJsonArray>
#include <cstring>

#include "core/check/checks.h"
#include "core/error.h"
#include "core/make/recognise.h"
#include "core/piece/pose.h"
#include "core/render/views.h"
#include "files/films.h"
#include "files/json.h"
#include "files/map_says.h"
#include "files/resolve.h"
#include "files/svg.h"

namespace bathylux::files {

namespace {

QJsonObject piece_info(const std::filesystem::path& path) {
    const Opened opened = open_piece(path);
    if (opened.piece.newer)
        throw Error(path.string() + " was made by a newer version of Bathylux: update this one.");
    Resolver resolver;
    const Scene scene = resolver.scene(opened.piece, opened.store);
    Resolver::refuse_trouble(opened.piece, *scene.assets);
    Evaluator evaluator(resolver.budget());
    const auto range = stated_range(evaluator, scene, 1);
    QJsonArray checks;
    for (const Finding& f : check_piece(evaluator, scene))
        checks.append(QJsonObject{
            {"check", text(f.check)}, {"says", text(f.says)}, {"x", number(f.at.x)}, {"y", number(f.at.y)}});
    QJsonObject out{{"width", opened.piece.canvas.columns()},
                    {"height", opened.piece.canvas.rows()},
                    {"channels", 4},
                    {"bits", 32},
                    {"guess", "piece"},
                    {"green", "none"},
                    {"range", QJsonArray{number(range.first), number(range.second)}},
                    {"checks", checks}};
    if (moves(opened.piece) || opened.piece.time) {
        const Timing time = opened.piece.time.value_or(Timing{});
        out["time"] =
            QJsonObject{{"rate", text(to_string(time.rate))}, {"frames", time.frames}, {"loop", time.loop}};
    }
    return out;
}

QJsonObject clip_info(Clip& clip) {
    return {{"width", clip.width},
            {"height", clip.height},
            {"channels", clip.has_alpha ? 4 : 3},
            {"bits", clip.frame(0).bits()},
            {"guess", "clip"},
            {"green", "none"},
            {"range", QJsonArray{0, 1}},
            {"checks", QJsonArray()},
            {"time", QJsonObject{{"frames", clip.frames()}, {"seconds", number(clip.length)}}}};
}

/// Whether libav, or what reads animated WebP, is asked.
bool is_clip(const Bytes& bytes) {
    const auto at = [&](std::size_t from, std::string_view magic) {
        return bytes.size() >= from + magic.size() &&
               std::memcmp(bytes.data() + from, magic.data(), magic.size()) == 0;
    };
    return at(0, "\x1a\x45\xdf\xa3") || at(4, "ftyp") || at(4, "moov") || at(4, "wide") || at(0, "GIF8") ||
           (at(0, "RIFF") && at(8, "WEBPVP8X") && bytes.size() > 20 &&
            std::to_integer<int>(bytes[20] & std::byte{2})) ||
           (at(0, "\x89PNG") && at(37, "acTL")) || (at(0, "\x89PNG") && at(58, "acTL"));
}

QJsonObject info_of(const std::filesystem::path& path) {
    const Bytes bytes = read_file(path);
    const auto starts = [&](std::string_view magic) {
        return bytes.size() >= magic.size() && std::memcmp(bytes.data(), magic.data(), magic.size()) == 0;
    };
    std::size_t first = 0;
    while (first < bytes.size() && std::isspace(std::to_integer<unsigned char>(bytes[first]))) ++first;
    const bool json = first < bytes.size() && bytes[first] == std::byte{'{'};
    if (starts("PK\x03\x04") || json) return piece_info(path);
    if (first < bytes.size() && bytes[first] == std::byte{'<'}) {
        const Asset a = svg_asset(bytes, path.string());
        return {{"width", number(a.width)},
                {"height", number(a.height)},
                {"channels", 4},
                {"bits", 8},
                {"guess", "picture"},
                {"green", "none"},
                {"range", QJsonArray{0, 1}},
                {"checks", QJsonArray()}};
    }
    if (is_clip(bytes))
        if (const auto clip = open_clip(path, path.string()); clip->frames() > 1) return clip_info(*clip);
    const Picture p = read_picture(bytes, path.string());
    const Recognised r = recognise(p);
    static constexpr const char* guesses[] = {"picture", "height", "normals"};
    static constexpr const char* greens[] = {"none", "up", "down", "unsure"};
    QJsonArray checks;
    if (r.green == Green::down)
        checks.append(QJsonObject{
            {"check", "flipped_green"},
            {"says", "The green channel points down: read upwards, slopes would not fit together"},
            {"x", p.width / 2},
            {"y", p.height / 2}});
    QJsonObject out{{"width", p.width},
                    {"height", p.height},
                    {"channels", p.channels},
                    {"bits", p.bits()},
                    {"guess", guesses[static_cast<int>(r.what)]},
                    {"green", greens[static_cast<int>(r.green)]},
                    {"range", QJsonArray{number(r.low), number(r.high)}},
                    {"checks", checks}};
    // What says what it is needs no guess.
    if (const auto says = map_said(picture_description(path))) {
        out["says"] = text(says->what);
        out["guess"] = says->what == "height" || says->what == "normals" ? text(says->what) : "picture";
        out["green"] = says->green_up ? *says->green_up ? "up" : "down" : "none";
        if (const auto px = says->height_range)
            out["height_range"] = QJsonArray{number(px->first), number(px->second)};
        if (says->px_per_mm) out["px_per_mm"] = number(*says->px_per_mm);
    }
    return out;
}

} // namespace

std::string file_info(const std::filesystem::path& path) { return written(info_of(path)); }

} // namespace bathylux::files
