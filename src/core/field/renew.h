#pragma once
#include "core/field/parallel.h"
#include "core/field/plane.h"

namespace bathylux {

/// Makes every row of a field, `width` × `height` px, anew from what it was: `make(y, from, to)`, where both may
/// be the same memory. Fields that share its plane keep it, and it is not copied first.
template <class Make> void renew(Field& field, int width, int height, const Make& make) {
    if (field.alone()) {
        Plane& plane = field.writable(width, height);
        parallel_rows(0, height, [&](int y) { make(y, plane.row(y), plane.row(y)); });
        return;
    }
    Plane out(width, height);
    const Rows was(field, width);
    parallel_rows(0, height, [&](int y) { make(y, was(y), out.row(y)); });
    field = Field(std::move(out));
}

} // namespace bathylux
