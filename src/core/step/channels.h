#pragma once

namespace bathylux {

/// What of a bundle is asked for, or given. Coverage goes along with everything.
struct Channels {
    unsigned bits = 0;

    constexpr bool has(Channels c) const { return (bits & c.bits) != 0; }
    friend constexpr Channels operator|(Channels a, Channels b) { return {a.bits | b.bits}; }
    friend constexpr Channels operator&(Channels a, Channels b) { return {a.bits & b.bits}; }
    friend constexpr bool operator==(Channels, Channels) = default;
};

namespace channel {
inline constexpr Channels coverage{1}, color{2}, height{4}, // with its weight
    tone{8},                                                // what steps that read tones as stored need
    surface{16},                                            // all properties of the material
    worn{32},                                               // what a wear took
    all{63};
} // namespace channel

} // namespace bathylux
