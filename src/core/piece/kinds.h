#pragma once
#include <span>

#include "core/light/lights.h"
#include "core/make/source_kind.h"
#include "core/step/step_kind.h"

namespace bathylux {

// The table of kinds: everything a piece can be made of, in the order pickers show it. A new kind is a line
// in kinds.cpp.

std::span<const SourceKind> source_kinds();
std::span<const StepKind> step_kinds();
std::span<const StepKind> finish_kinds(); // steps behind the light
std::span<const LightKind> light_kinds();

/// The kind of that id, or null.
const SourceKind* find_source_kind(std::string_view id);
const StepKind* find_step_kind(std::string_view id);
const StepKind* find_finish_kind(std::string_view id);
const LightKind* find_light_kind(std::string_view id);

/// The kind of that id, of steps one of either sort; throws Error where there is none.
const SourceKind& source_kind(std::string_view id);
const StepKind& step_kind(std::string_view id);
const LightKind& light_kind(std::string_view id);

/// The kind of a described source, step or light.
const SourceKind& source_kind_of(const Described& source);
const StepKind& step_kind_of(const Described& step);
const LightKind& light_kind_of(const Described& light);

} // namespace bathylux
