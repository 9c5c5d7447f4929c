#pragma once
#include <QJsonDocument>
#include <QJsonObject>
#include <string>
#include <string_view>

namespace bathylux::files {

// Small JSON that is no piece: descriptions, reports, what is kept between runs.

/// A float as the shortest decimal that reads as the same float.
double number(double value);
inline QString text(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}
inline std::string written(const QJsonObject& object, bool pretty = true) {
    return QJsonDocument(object)
        .toJson(pretty ? QJsonDocument::Indented : QJsonDocument::Compact)
        .toStdString();
}

} // namespace bathylux::files
