#pragma once
#include <span>
#include <vector>

#include "core/bend/texels.h"

namespace bathylux {

/// Rows y0 … y1 of read_at, counted within looks.region, at most so many; `blocks` are those of the survey.
void read_rows(const Texels& texels, const Looks& looks, int y0, int y1, std::span<const Span> blocks,
               std::vector<Plane>& to);

} // namespace bathylux
