#pragma once
#include <stdexcept>
#include <string>
#include <string_view>

namespace bathylux {

/// What the user is told when something cannot be done: one sentence saying what, which file or element,
/// and what to do. Thrown where it is found, caught at the edge (window, command line).
struct Error : std::runtime_error {
    using std::runtime_error::runtime_error;
};

/// Thrown out of a computation whose stop token was asked to stop. Never shown.
struct Cancelled : std::exception {
    const char* what() const noexcept override { return "cancelled"; }
};

/// A word of the user's, as a sentence quotes it: in quotation marks, cut where it runs long.
inline std::string in_quotes(std::string_view text) {
    std::string out(1, '"');
    out.append(text.substr(0, 60));
    out.push_back('"');
    return out;
}

} // namespace bathylux
