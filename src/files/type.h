#pragma once
#include <QStringList>

#include "core/make/type_source.h"
#include "core/step/picture.h"

class QPainterPath;

namespace bathylux::files {

/// Makes the shipped fonts known to Qt. Needs a QGuiApplication; calling it again does nothing.
void load_shipped_fonts();

/// Typed words as outlines about the middle of their box: as wide as the longest line's advance, as high
/// as its lines at their distance. A font that is not there is told in `trouble` and stood in for.
/// `path`: the outline that it runs along, null for none; its longest contour is taken. Throws Error where
/// that has no length.
Asset type_asset(const TypeSource& type, const Outline* path = nullptr);

/// Appends a path of Qt's to an outline builder, as it is (quadratics are raised to cubics by Qt).
void add_path(OutlineBuilder& builder, const QPainterPath& path);

} // namespace bathylux::files
