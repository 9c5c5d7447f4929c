#pragma once
#include <cstdint>
#include <cstring>
#include <string_view>
#include <type_traits>

namespace bathylux {

/// Mixes bits so that every input bit reaches every output bit (finaliser of SplitMix64, Steele et al. 2014).
constexpr std::uint64_t mixed(std::uint64_t z) {
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9u;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebu;
    return z ^ (z >> 31);
}

/// A running content hash; equal content gives equal hashes on every machine of the same byte order.
class Hash {
  public:
    Hash& bytes(const void* data, std::size_t size) {
        const auto* p = static_cast<const unsigned char*>(data);
        while (size >= 8) {
            std::uint64_t v = 0;
            std::memcpy(&v, p, 8);
            state_ = mixed(state_ ^ v) + 0x9e3779b97f4a7c15u;
            p += 8, size -= 8;
        }
        std::uint64_t tail = size;
        if (size > 0) std::memcpy(&tail, p, size);
        state_ = mixed(state_ ^ tail ^ (static_cast<std::uint64_t>(size) << 56)) + 0x9e3779b97f4a7c15u;
        return *this;
    }
    Hash& operator<<(std::string_view text) { return bytes(text.data(), text.size()); }
    template <class T>
    requires std::is_arithmetic_v<T> Hash& operator<<(T v) { return bytes(&v, sizeof v); }
    std::uint64_t value() const { return mixed(state_); }

  private:
    std::uint64_t state_ = 0x2545f4914f6cdd1du;
};

} // namespace bathylux
