#pragma once
#include "app/controls/controls.h"

namespace bathylux {

/// A number on a ruled scale; where it may move, with the mark that says so and, where it follows, what.
ParameterControl* makeNumberControl(const Parameter& parameter, double standard, Binding binding,
                                    Document& document, QWidget* parent);

} // namespace bathylux
