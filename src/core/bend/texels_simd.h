#pragma once
#include <span>
#include <vector>

#include "core/bend/texels.h"

namespace bathylux {

/// What is read at once: what a block of so many px looks at is at hand, in the nearest cache but one.
constexpr int read_rows_at_once = 32, read_columns_at_once = 256;
/// Rows y0 … y1 of read_at, counted within looks.region, at most so many; `blocks` are those of the survey.
void read_rows(const Texels& texels, const Looks& looks, int y0, int y1, std::span<const Span> blocks,
               std::vector<Plane>& to);

/// What the px of some rows look at.
struct RowsSurvey {
    float longest = 0;        // longest side of a footprint, squared
    bool halvings = false;    // whether some may be read from a halving
    std::vector<Span> blocks; // what each block reads
};
/// What looks outside `most` does not count: there is nothing to be read.
RowsSurvey survey_rows(const Looks& looks, int y0, int y1, Region most);

} // namespace bathylux
