#pragma once
#include <vector>

#include "core/bend/texels.h"

namespace bathylux {

/// Rows y0 … y1 of read_at, counted within looks.region.
void read_rows(const Texels& texels, const Looks& looks, int y0, int y1, std::vector<Plane>& to);

/// What the px of a row see.
struct RowSeen {
    float longest = 0;     // longest side of a footprint, squared
    bool halvings = false; // whether some may be read from a halving
};
RowSeen seen_in_row(const Looks& looks, int y);

} // namespace bathylux
