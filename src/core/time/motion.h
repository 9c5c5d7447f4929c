#pragma once
#include <map>
#include <string>
#include <variant>
#include <vector>

#include "core/field/hash.h"
#include "core/field/srgb.h"
#include "core/time/easing.h"

namespace bathylux {

/// What can move: a number, or a colour.
using Moved = std::variant<double, Color>;

/// A value at a frame, and how it leads on to the next.
struct Key {
    double frame = 0;
    Moved value = 0.0;
    Easing easing{};
    friend bool operator==(const Key&, const Key&) = default;
};

/// What a value does past its last key: it stays, starts again at the first (the last key's frame shows its
/// own value), or runs back and forth.
enum class After { hold, repeat, bounce };
inline constexpr std::string_view after_names[] = {"hold", "repeat", "bounce"};

/// Keys ascend; at least one, all of one sort.
struct Keys {
    std::vector<Key> list;
    After after = After::hold;

    /// Numbers between keys by their easing; colours mixed so in OKLab (Ottosson 2020), premultiplied.
    Moved at(double frame) const;
    /// Within the keys: the frame whose value is shown.
    double folded(double frame) const;
    /// The index of the key on that very frame, or −1.
    int key_on(double frame) const;
    friend bool operator==(const Keys&, const Keys&) = default;
};

/// Follows another number: its value × gain + offset.
struct Link {
    std::string to; // the path that `--set` takes
    double gain = 1, offset = 0;
    friend bool operator==(const Link&, const Link&) = default;
};

using Motion = std::variant<Keys, Link>;
/// The parameters of one thing that move, by their ids.
using Motions = std::map<std::string, Motion, std::less<>>;

constexpr std::size_t most_keys = 65536;

/// A key at a frame of `keys`, its value replaced where one is there; a new one takes on how the stretch it
/// falls in was eased.
void set_key(Keys& keys, double frame, const Moved& value);

Color mixed_in_oklab(const Color& a, const Color& b, double t);
void add_to(Hash& hash, const Motions& motions);

} // namespace bathylux
