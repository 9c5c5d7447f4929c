#pragma once
#include <QString>
#include <optional>

namespace bathylux {

/// What a person types where a number belongs: a number, a small sum ("24/2", "3 mm + 2"), with the units
/// mm (× pxPerMm), px, ° and % (÷ 100). None when it is not one.
std::optional<double> evaluateSum(const QString& text, double pxPerMm);

} // namespace bathylux
