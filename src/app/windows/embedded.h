#pragma once
#include <QString>

#include "files/package.h"

namespace bathylux {

/// A name for an embedded file that no other has, of letters that every system takes.
std::string freeName(const files::Store& store, const QString& wish);

} // namespace bathylux
