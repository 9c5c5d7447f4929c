#pragma once
#include "app/controls/controls.h"

namespace bathylux {

/// A profile: the named cross-sections to pick from, and one's own as a curve.
ParameterControl* makeProfileControl(const Parameter& parameter, Binding binding, Document& document,
                                     QWidget* parent);
/// A curve over 0…1 by its points.
ParameterControl* makeCurveControl(const Parameter& parameter, Binding binding, Document& document,
                                   QWidget* parent);

} // namespace bathylux
