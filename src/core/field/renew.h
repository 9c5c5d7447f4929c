#pragma once
#include <algorithm>

#include "core/field/parallel.h"
#include "core/field/plane.h"

namespace bathylux {

/// Makes every row of a field, `width` × `height` px, anew from what it was: `make(y, from, to)`, where both
/// may be the same memory. Fields that share its plane keep it, and it is not copied first.
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

/// A field whose rows are changed one after the other, each by itself: what they were is laid into the new
/// plane where they are asked for, not before.
class RowsAnew {
  public:
    RowsAnew(Field& field, int width, int height)
        : was_(field.alone() ? Field() : field), from_(was_, width) {
        copies_ = !field.alone();
        if (copies_) field = Field(Plane(width, height));
        to_ = &field.writable(width, height);
    }
    /// Once a row.
    float* row(int y) const {
        if (copies_) std::copy_n(from_(y), to_->width(), to_->row(y));
        return to_->row(y);
    }

  private:
    Field was_;
    Rows from_;
    bool copies_;
    Plane* to_;
};

} // namespace bathylux
