#pragma once
#include <vector>

#include "core/bend/survey.h"

namespace bathylux {

/// What the px of some rows look at.
struct RowsSurvey {
    float longest = 0;        // longest side of a footprint, squared
    bool halvings = false;    // whether some may be read from a halving
    Span span;                // all that is read
    std::vector<Span> blocks; // what each block reads, but for what it reads from halvings
};
/// What looks outside `most` does not count: there is nothing to be read.
RowsSurvey survey_rows(const Looks& looks, int y0, int y1, Region most);

} // namespace bathylux
