#pragma once
#include <QDateTime>
#include <QList>
#include <QString>

#include "app/document/document.h"

namespace bathylux {

/// Unsaved work, kept aside while it is open, so that a window that ends without being closed loses at most a
/// minute. Every window holds a lock on its own copy for as long as it lives, which the system lets go of
/// however it ends: what nobody holds was left behind.
class Aside {
  public:
    Aside();
    ~Aside();
    Aside(const Aside&) = delete;

    struct Lost {
        QString file, original; // the copy, and the piece it is of ("" when that was never saved)
        QDateTime when;
    };
    /// What earlier windows left behind, newest first.
    static QList<Lost> lost();
    static void throwAway(const Lost& lost);

    /// Writes a copy, whole or not at all; called behind the window. Throws Error.
    void keep(const Document::State& state, const QString& original) const;
    void forget();
    QString file() const { return file_; }

  private:
    QString file_;
    int lock_ = -1;
};

} // namespace bathylux
