#include "app/kept.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSaveFile>
#include <QStandardPaths>

namespace bathylux {

QString Kept::path() const {
    return QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + "/" + kind_ + ".json";
}

Json Kept::read() const {
    QFile file(path());
    if (!file.open(QIODevice::ReadOnly)) return Json::object();
    Json all = Json::parse(file.readAll().toStdString(), nullptr, false);
    if (all.is_object()) return all;
    // Somebody's work may still be in there.
    file.close();
    QFile::remove(path() + ".damaged");
    QFile::rename(path(), path() + ".damaged");
    return Json::object();
}

bool Kept::write(const Json& all) const {
    QDir().mkpath(QFileInfo(path()).absolutePath());
    QSaveFile file(path());
    if (!file.open(QIODevice::WriteOnly)) return false;
    file.write(QByteArray::fromStdString(all.dump(2) + "\n"));
    return file.commit();
}

QStringList Kept::names() const {
    QStringList out;
    const Json all = read();
    for (const auto& [name, what] : all.items()) out << QString::fromStdString(name);
    return out;
}

Json Kept::get(const QString& name) const {
    const Json all = read();
    const auto found = all.find(name.toStdString());
    return found == all.end() ? Json() : *found;
}

bool Kept::put(const QString& name, const Json& what) const {
    Json all = read();
    all[name.toStdString()] = what;
    return write(all);
}

bool Kept::remove(const QString& name) const {
    Json all = read();
    all.erase(name.toStdString());
    return write(all);
}

} // namespace bathylux
