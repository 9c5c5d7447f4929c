#pragma once
#include <QString>
#include <QStringList>
#include <string>

class QJsonObject;

namespace bathylux {

/// What one keeps to start from again in other pieces: surfaces and arrangements of lights, by name, in a
/// file of the user's configuration, written at once and whole. What is kept is JSON, as text. A file that
/// cannot be read counts as empty and is set aside.
class KeptByName {
  public:
    explicit KeptByName(const QString& kind) : kind_(kind) {}
    QStringList names() const;
    /// "" where there is none of that name.
    std::string get(const QString& name) const;
    /// False when the file could not be written.
    bool put(const QString& name, const std::string& what) const;
    bool remove(const QString& name) const;

  private:
    QString path() const;
    QJsonObject read() const;
    bool write(const QJsonObject& all) const;
    QString kind_;
};

} // namespace bathylux
