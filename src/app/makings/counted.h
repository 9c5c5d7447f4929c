#pragma once
#include <QString>
#include <utility>
#include <vector>

#include "app/document/behind.h"

namespace bathylux {

/// Counts behind the window what a widget shows as a histogram, unless it shows just that. `of` names what is
/// counted; of two that were asked the later one counts, whichever is done last.
template <class Shown, class Count> void countAnew(Shown* shown, const QString& of, Count count) {
    if (shown->property("counted").toString() == of) return;
    shown->setProperty("counted", of);
    behind(shown, std::move(count), [shown, of](std::vector<int> counts) {
        if (shown->property("counted").toString() == of) shown->setCounts(std::move(counts));
    });
}

} // namespace bathylux
