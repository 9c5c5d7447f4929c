#include "core/step/kind.h"

namespace bathylux {

Described::Described(const Kind& kind, std::shared_ptr<const void> data)
    : kind_(&kind), data_(std::move(data)) {
    Hash h;
    h << kind.id;
    for (const Parameter& p : kind.parameters) add_to(h, get(p));
    hash_ = h.value();
}

} // namespace bathylux
