#pragma once
#include <functional>
#include <optional>

#include "app/desk.h"

class QVBoxLayout;
class QWidget;

namespace bathylux {

class ParameterControl;

/// Where a map lives in an element (its mask, or where one of its steps works); null: the element has no such
/// place.
using MapPlace = std::function<std::optional<MapRef>*(Element&)>;

/// A line that names the element a mask or a step reads, opens it, lets another be taken or none; below it,
/// while there is one, what is read off it and its tone window over a histogram. Controls made are handed to
/// `keep`.
void addMapRows(QVBoxLayout* to, Desk& desk, const std::string& element, const QString& label,
                const QString& none, const MapPlace& place, QWidget* parent,
                const std::function<void(ParameterControl*)>& keep,
                std::vector<std::function<void()>>& refreshers);

} // namespace bathylux
