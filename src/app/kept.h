#pragma once
#include <QString>
#include <QStringList>

#include "core/piece/parameter.h"

namespace bathylux {

/// What one keeps to start from again in other pieces: surfaces and arrangements of lights, by name, in a
/// file of the user's configuration, written at once and whole. A file that cannot be read counts as empty
/// and is set aside.
class Kept {
  public:
    explicit Kept(const QString& kind) : kind_(kind) {}
    QStringList names() const;
    Json get(const QString& name) const;
    /// False when the file could not be written.
    bool put(const QString& name, const Json& what) const;
    bool remove(const QString& name) const;

  private:
    QString path() const;
    Json read() const;
    bool write(const Json& all) const;
    QString kind_;
};

} // namespace bathylux
