#pragma once
#include <vector>

#include "core/bend/texels.h"

namespace bathylux {

/// Rows y0 … y1 of read_at, counted within looks.region.
void read_rows(const Texels& texels, const Looks& looks, int y0, int y1, std::vector<Plane>& to);

/// The longest side of what any px of a row sees, squared.
float widest_seen(const Looks& looks, int y);

} // namespace bathylux
