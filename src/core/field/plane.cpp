#include "core/field/plane.h"

#include <bit>

#include "core/field/parallel.h"
#include "core/field/plane_memory.h"

namespace bathylux {

namespace {

constexpr int alignment = 64;
constexpr int floats_per_line = alignment / sizeof(float);
using plane_memory::huge_page;

/// Large planes are a whole number of huge pages, smaller ones of 16ths of the next power of two: sizes
/// repeat.
std::size_t bytes_for(int stride, int height) {
    const std::size_t size = sizeof(float) * static_cast<std::size_t>(stride) * std::max(height, 0);
    const std::size_t part =
        size < huge_page ? std::max<std::size_t>(alignment, std::bit_ceil(size) / 16) : huge_page;
    return (size + part - 1) / part * part;
}

} // namespace

void detail::FreePlane::operator()(float* p) const { plane_memory::give(p, size); }

Plane::Plane(int width, int height) : width_(width), height_(height) {
    stride_ = (width + floats_per_line - 1) / floats_per_line * floats_per_line;
    const std::size_t size = bytes_for(stride_, height);
    if (size == 0) return;
    data_ = std::unique_ptr<float[], detail::FreePlane>(plane_memory::take(size), detail::FreePlane{size});
}

Plane::Plane(int width, int height, float value) : Plane(width, height) {
    parallel_rows(0, height, [&](int y) { std::fill_n(row(y), stride_, value); });
}

Plane::Plane(const Plane& other) : Plane(other.width_, other.height_) {
    if (data_) parallel_copy(other.data_.get(), bytes(), data_.get());
}

Plane& Plane::operator=(const Plane& other) {
    Plane copy(other);
    return *this = std::move(copy);
}

Plane& Field::writable(int width, int height) {
    if (!plane_)
        plane_ = std::make_shared<Plane>(width, height, constant_);
    else if (plane_.use_count() > 1)
        plane_ = std::make_shared<Plane>(*plane_);
    return *plane_;
}

Rows::Rows(const Field& field, int width) {
    if (field.is_constant())
        constant_.assign((width + floats_per_line - 1) / floats_per_line * floats_per_line, field.constant());
    else
        plane_ = &field.plane();
}

Plane extended(const Plane& plane, Region have, Region wanted, Edge edge) {
    Plane out(wanted.width(), wanted.height());
    const int inner0 = std::clamp(have.x0, wanted.x0, wanted.x1),
              inner1 = std::clamp(have.x1, inner0, wanted.x1);
    parallel_rows(0, wanted.height(), [&](int y) {
        const float* from = plane.row(wrapped(wanted.y0 + y - have.y0, have.height(), edge));
        float* to = out.row(y);
        for (int x = wanted.x0; x < inner0; ++x)
            to[x - wanted.x0] = from[wrapped(x - have.x0, have.width(), edge)];
        if (inner1 > inner0)
            std::memcpy(to + inner0 - wanted.x0, from + inner0 - have.x0, sizeof(float) * (inner1 - inner0));
        for (int x = inner1; x < wanted.x1; ++x)
            to[x - wanted.x0] = from[wrapped(x - have.x0, have.width(), edge)];
    });
    return out;
}

Field cropped(const Field& field, Region have, Region wanted) {
    if (field.is_constant() || have == wanted) return field;
    return Field(extended(field.plane(), have, wanted, Edge::clamp));
}

} // namespace bathylux
