#pragma once
#include <QImage>
#include <QString>

#include "files/package.h"

namespace bathylux {

/// The picture as the bytes of a PNG.
files::Bytes pngOf(const QImage& image);
/// A name for an embedded file that no other has, of letters that every system takes.
std::string freeName(const files::Store& store, const QString& wish);

} // namespace bathylux
