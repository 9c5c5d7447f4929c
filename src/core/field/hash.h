#pragma once
#include <array>
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
        const auto word = [&p] {
            std::uint64_t v = 0;
            std::memcpy(&v, p, 8);
            p += 8;
            return v;
        };
        if (size >= 256) {
            // Four side by side: none waits for what came just before.
            std::array<std::uint64_t, 4> lanes{state_, ~state_, mixed(state_), mixed(~state_)};
            for (; size >= 32; size -= 32)
                for (std::uint64_t& lane : lanes) lane = mixed(lane ^ word()) + odd;
            for (const std::uint64_t lane : lanes) state_ = mixed(state_ ^ lane) + odd;
        }
        for (; size >= 8; size -= 8) state_ = mixed(state_ ^ word()) + odd;
        std::uint64_t tail = size;
        if (size > 0) std::memcpy(&tail, p, size);
        state_ = mixed(state_ ^ tail ^ (static_cast<std::uint64_t>(size) << 56)) + odd;
        return *this;
    }
    Hash& operator<<(std::string_view text) { return bytes(text.data(), text.size()); }
    template <class T>
    requires std::is_arithmetic_v<T> Hash& operator<<(T v) { return bytes(&v, sizeof v); }
    std::uint64_t value() const { return mixed(state_); }

  private:
    static constexpr std::uint64_t odd = 0x9e3779b97f4a7c15u;
    std::uint64_t state_ = 0x2545f4914f6cdd1du;
};

} // namespace bathylux
