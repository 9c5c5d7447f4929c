#pragma once
#include "app/controls/controls.h"

namespace bathylux {

/// Where in an element something lives: read from it, or written into one that is being changed. None where
/// the element has no such thing.
template <class T> struct Place {
    std::function<std::optional<T>(const Element&)> get;
    std::function<void(Element&, const T&)> set;
    /// The path that `--set` takes, of a value; of a map, that of its parts up to their names. "": none.
    std::function<std::string(const Element&)> path{};
};

// A parameter of an element's source, of its placement or mixing, of its surface.
Place<Value> inSource(const SourceKind& kind, const Parameter& parameter);
Place<Value> inPlacement(const Parameter& parameter);
Place<Value> inMixing(const Parameter& parameter);
Place<Value> inSurface(const Parameter& parameter);

/// A step told so that several elements can have one like it: the n-th of its kind.
struct StepPlace {
    const StepKind* kind = nullptr;
    int nth = 0;

    static StepPlace of(const Element& element, const Step& step);
    int index(const Element& element) const; // −1: it has none
};
Place<Value> inStep(const StepPlace& step, const Parameter& parameter);
/// What every step has beside its kind's own: its share.
Place<Value> inAnyStep(const StepPlace& step, const Parameter& parameter);

/// A map that an element may have; the outer optional is none where it cannot have one.
using MapPlace = Place<std::optional<MapRef>>;
MapPlace maskPlace();
MapPlace stepMapPlace(const StepPlace& step);
/// A map that is one of the step's own parameters.
MapPlace parameterMapPlace(const StepPlace& step, const Parameter& parameter);
MapPlace surfaceMapPlace(const std::string& parameter);
Place<Value> inMap(const MapPlace& map, const Parameter& parameter);

/// Ties a control to the same place in every chosen element: one value for all, none where they differ.
Binding ofChosen(Document& document, const Parameter& parameter, Place<Value> place);

} // namespace bathylux
