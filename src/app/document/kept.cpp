#include "app/document/kept.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QSaveFile>
#include <QStandardPaths>

namespace bathylux {

QString KeptByName::path() const {
    return QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + "/" + kind_ + ".json";
}

QJsonObject KeptByName::read() const {
    QFile file(path());
    if (!file.open(QIODevice::ReadOnly)) return {};
    const QJsonDocument all = QJsonDocument::fromJson(file.readAll());
    if (all.isObject()) return all.object();
    // Somebody's work may still be in there.
    file.close();
    QFile::remove(path() + ".damaged");
    QFile::rename(path(), path() + ".damaged");
    return {};
}

bool KeptByName::write(const QJsonObject& all) const {
    QDir().mkpath(QFileInfo(path()).absolutePath());
    QSaveFile file(path());
    if (!file.open(QIODevice::WriteOnly)) return false;
    file.write(QJsonDocument(all).toJson());
    return file.commit();
}

QStringList KeptByName::names() const { return read().keys(); }

std::string KeptByName::get(const QString& name) const {
    const QJsonValue value = read()[name];
    return value.isObject() ? QJsonDocument(value.toObject()).toJson(QJsonDocument::Compact).toStdString()
                            : std::string();
}

bool KeptByName::put(const QString& name, const std::string& what) const {
    QJsonObject all = read();
    all[name] = QJsonDocument::fromJson(QByteArray::fromStdString(what)).object();
    return write(all);
}

bool KeptByName::remove(const QString& name) const {
    QJsonObject all = read();
    all.remove(name);
    return write(all);
}

} // namespace bathylux
