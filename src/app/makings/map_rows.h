#pragma once
#include <functional>

#include "app/controls/chosen.h"
#include "app/document/desk.h"

class QVBoxLayout;
class QWidget;

namespace bathylux {

/// A line that names the element a mask or a step reads, opens it, lets another be taken or none; below it,
/// while there is one, what is read off it and its tone window over a histogram. Controls made are handed to
/// `keep`. `pairs`: who reads it takes two numbers too.
void addMapRows(QVBoxLayout* to, Desk& desk, const std::string& element, const QString& label,
                const QString& none, const MapPlace& place, QWidget* parent,
                const std::function<void(ParameterControl*)>& keep,
                std::vector<std::function<void()>>& refreshers, bool pairs = false);

} // namespace bathylux
