#pragma once
#include <QString>
#include <functional>

#include "app/document.h"
#include "core/piece/lights.h"

namespace bathylux {

/// Changes all chosen lights as one edit. They are handed over as they lie on the canvas, and given back in
/// their own coordinates where they go with an element.
void changeLights(Document& document, const QString& name,
                  const std::function<Described(const Light&, Described onCanvas)>& change);

/// What the lights of a piece look like on the chart, in the list and on the art.
enum class LightMark { dot, diamond, bar, arch };
LightMark markOf(const Described& what);
Color colorOf(const Described& what);

} // namespace bathylux
