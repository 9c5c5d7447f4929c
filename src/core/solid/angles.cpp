#include "core/solid/angles.h"

namespace bathylux {

const std::array<Parameter, 2> BodyAngles::parameters = {
    number<&BodyAngles::round>("round", "Round the body", Unit::degrees, {-180, 180}, "Round to the right"),
    number<&BodyAngles::up>("up", "Up the body", Unit::degrees, {-90, 90, -90, 90}, "Up from the middle")};

} // namespace bathylux
