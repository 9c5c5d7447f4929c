#pragma once
#include <span>

#include "core/piece/step_kind.h"

namespace bathylux {

/// Every kind of step there is, in the order the picker shows them.
std::span<const StepKind> step_kinds();

/// The kind of that id, or null.
const StepKind* find_step_kind(std::string_view id);

} // namespace bathylux
