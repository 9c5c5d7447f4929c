#pragma once
#include "app/controls.h"

namespace bathylux {

/// Where in an element a parameter lives: in something described (a source, a step), or in a plain struct
/// that carries `parameters` (placement, mixing, surface). Neither: the element has no such thing.
struct Place {
    Described* described = nullptr;
    void* plain = nullptr;
};

/// Ties a control to the same place in every chosen element: one value for all, none where they differ.
Binding ofChosen(Document& document, const Parameter& parameter, std::function<Place(Element&)> place);

} // namespace bathylux
