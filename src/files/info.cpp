#include "files/info.h"

#include <QJsonArray>
#include <cstring>

#include "core/check/checks.h"
#include "core/error.h"
#include "core/make/recognise.h"
#include "core/render/views.h"
#include "files/json.h"
#include "files/resolve.h"
#include "files/svg.h"

namespace bathylux::files {

namespace {

QJsonObject piece_info(const std::filesystem::path& path) {
    const Opened opened = open_piece(path);
    if (opened.piece.newer)
        throw Error(path.string() + " was made by a newer version of Bathylux: update this one.");
    Resolver resolver;
    const Scene scene{std::make_shared<const Piece>(opened.piece),
                      resolver.resolve(opened.piece, opened.store)};
    Resolver::refuse_trouble(opened.piece, *scene.assets);
    Evaluator evaluator(64u << 20);
    const auto range = stated_range(evaluator, scene, 1);
    QJsonArray checks;
    for (const Finding& f : check_piece(evaluator, scene))
        checks.append(QJsonObject{
            {"check", text(f.check)}, {"says", text(f.says)}, {"x", number(f.at.x)}, {"y", number(f.at.y)}});
    return {{"width", opened.piece.canvas.columns()},
            {"height", opened.piece.canvas.rows()},
            {"channels", 4},
            {"bits", 32},
            {"guess", "piece"},
            {"green", "none"},
            {"range", QJsonArray{number(range.first), number(range.second)}},
            {"checks", checks}};
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
    return {{"width", p.width},
            {"height", p.height},
            {"channels", p.channels},
            {"bits", p.bits()},
            {"guess", guesses[static_cast<int>(r.what)]},
            {"green", greens[static_cast<int>(r.green)]},
            {"range", QJsonArray{number(r.low), number(r.high)}},
            {"checks", checks}};
}

} // namespace

std::string file_info(const std::filesystem::path& path) { return written(info_of(path)); }

} // namespace bathylux::files
