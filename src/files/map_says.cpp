#include "files/map_says.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <algorithm>
#include <cmath>

#include "files/json.h"

namespace bathylux::files {

std::string map_says(const Piece& piece, const Export& how, bool whole_numbers,
                     std::pair<float, float> range) {
    QJsonObject out{{"bathylux", text(view_names[static_cast<std::size_t>(how.view)])},
                    {"px_per_mm", number(piece.canvas.px_per_mm)}};
    if (how.view == View::height && whole_numbers)
        out["height_range"] = QJsonArray{number(range.first), number(range.second)};
    if (how.view == View::height) out["unit"] = "px";
    if (how.view == View::slope) out["unit"] = whole_numbers ? "90 degrees" : "degrees";
    if (how.view == View::curvature) out["unit"] = whole_numbers ? "0.5 + 2 per px" : "per px";
    if (how.view == View::normals) out["green"] = how.green_up ? "up" : "down";
    return written(out, false);
}

std::optional<MapSays> map_said(const std::string& description) {
    const QJsonObject o = QJsonDocument::fromJson(QByteArray::fromStdString(description)).object();
    if (!o["bathylux"].isString()) return std::nullopt;
    MapSays out{o["bathylux"].toString().toStdString()};
    const auto finite = [](const QJsonValue& v) { return v.isDouble() && std::abs(v.toDouble()) < 1e6; };
    if (const QJsonArray r = o["height_range"].toArray(); r.size() == 2 && finite(r[0]) && finite(r[1]))
        out.height_range = {static_cast<float>(r[0].toDouble()), static_cast<float>(r[1].toDouble())};
    if (finite(o["px_per_mm"]))
        out.px_per_mm = std::clamp(static_cast<float>(o["px_per_mm"].toDouble()), 0.001f, 10000.0f);
    if (const QString green = o["green"].toString(); green == "up" || green == "down")
        out.green_up = green == "up";
    return out;
}

} // namespace bathylux::files
