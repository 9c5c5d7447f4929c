#pragma once
#include <QString>
#include <functional>

#include "app/document/document.h"
#include "core/light/lights.h"

namespace bathylux {

/// Changes all chosen lights as one edit. They are handed over as they lie on the canvas, and given back in
/// their own coordinates where they go with an element.
void changeLights(Document& document, const QString& name,
                  const std::function<Described(const Light&, const Described& onCanvas)>& change);

/// What colour a light is, on the chart, in the list and on the art.
Color colorOf(const Described& what);

} // namespace bathylux
