#pragma once
#include <memory>
#include <span>
#include <vector>

#include "core/field/geometry.h"

namespace bathylux {

namespace detail {
/// Hands a plane's memory back.
struct FreePlane {
    std::size_t size = 0;
    void operator()(float* p) const;
};
} // namespace detail

/// A picture of floats, rows one after the other. Rows start on 64-byte boundaries and may be read and
/// written up to `stride()` floats, so that a vector kernel need not treat the end of a row apart.
class Plane {
  public:
    Plane() = default;
    /// Contents are not initialised.
    Plane(int width, int height);
    Plane(int width, int height, float value);
    Plane(const Plane& other);
    Plane& operator=(const Plane& other);
    Plane(Plane&&) noexcept = default;
    Plane& operator=(Plane&&) noexcept = default;

    int width() const { return width_; }
    int height() const { return height_; }
    int stride() const { return stride_; }
    std::size_t bytes() const { return sizeof(float) * stride_ * height_; }
    float* row(int y) { return data_.get() + static_cast<std::size_t>(y) * stride_; }
    const float* row(int y) const { return data_.get() + static_cast<std::size_t>(y) * stride_; }
    float& operator()(int x, int y) { return row(y)[x]; }
    float operator()(int x, int y) const { return row(y)[x]; }

  private:
    int width_ = 0, height_ = 0, stride_ = 0;
    std::unique_ptr<float[], detail::FreePlane> data_;
};

/// A quantity over a region: the same number everywhere, or a plane. Copies share the plane.
class Field {
  public:
    Field(float constant = 0) : constant_(constant) {}
    Field(Plane plane) : plane_(std::make_shared<Plane>(std::move(plane))) {}

    bool is_constant() const { return !plane_; }
    float constant() const { return constant_; }
    const Plane& plane() const { return *plane_; }
    float at(int x, int y) const { return plane_ ? (*plane_)(x, y) : constant_; }
    std::size_t bytes() const { return plane_ ? plane_->bytes() : 0; }

    /// Whether both are known to be the same without a look at every px: one number, or one plane.
    friend bool same(const Field& a, const Field& b) {
        return a.plane_ == b.plane_ && (a.plane_ || a.constant_ == b.constant_);
    }

    /// The plane to write into, made (of the given size, filled with the constant) or unshared first.
    Plane& writable(int width, int height);
    /// Whether it has a plane that no other field shares.
    bool alone() const { return plane_ && plane_.use_count() == 1; }

  private:
    float constant_ = 0;
    std::shared_ptr<Plane> plane_;
};

/// Rows of a field as pointers, whichever kind the field is, readable up to the next multiple of 16. The
/// field must outlive it.
class Rows {
  public:
    Rows(const Field& field, int width);
    const float* operator()(int y) const { return plane_ ? plane_->row(y) : constant_.data(); }

  private:
    const Plane* plane_ = nullptr;
    std::vector<float> constant_;
};

/// The part `wanted` of a plane that covers `have`; what lies outside is taken from its edge as told.
Plane extended(const Plane& plane, Region have, Region wanted, Edge edge);

/// The part `wanted` of a field that covers `have`, which must contain it.
Field cropped(const Field& field, Region have, Region wanted);

} // namespace bathylux
