#pragma once
#include <cstdint>
#include <memory>
#include <utility>

namespace bathylux {

/// A value that never changes, shared by all who hold it, with the hash of its content, made once. An edit
/// makes a new one. `content_hash(const T&)` says what the content is.
template <class T> class Node {
  public:
    Node(T value) : sealed_(std::make_shared<const Sealed>(std::move(value))) {}

    const T& operator*() const { return sealed_->value; }
    const T* operator->() const { return &sealed_->value; }
    operator const T&() const { return sealed_->value; }
    std::uint64_t hash() const { return sealed_->hash; }

    /// The same with a change; the very same node where the change changes nothing.
    template <class F> Node with(F&& change) const {
        T copy = **this;
        change(copy);
        Node out(std::move(copy));
        return out.hash() == hash() ? *this : out;
    }

  private:
    struct Sealed {
        explicit Sealed(T v) : value(std::move(v)), hash(content_hash(value)) {}
        T value;
        std::uint64_t hash;
    };
    std::shared_ptr<const Sealed> sealed_;
};

} // namespace bathylux
