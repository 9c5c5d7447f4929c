#pragma once
#include <QString>
#include <set>
#include <tuple>
#include <vector>

#include "app/document/desk.h"
#include "app/document/running.h"
#include "core/piece/pose.h"

namespace bathylux {

/// One line of what moves: a number or colour with its keys or what it follows, or a clip.
struct Track {
    enum class Kind { keys, link, clip };
    Kind kind = Kind::keys;
    std::string path;   // of the number; of a clip, its element's id
    std::string owner;  // what is chosen by its name: an element or a light
    QString name, what; // "Strip", "across"
    const Parameter* parameter = nullptr;
    bool color = false;
    std::optional<Keys> keys{}; // of those that have some
    friend bool operator==(const Track&, const Track&) = default;
};

/// Everything that moves, in the order of the makings: elements front first, then the finish, lights, the
/// rest.
std::vector<Track> tracks_of(const Piece& piece);

/// A key by where it stands.
struct KeyAt {
    std::string path;
    double frame = 0;
    bool operator==(const KeyAt&) const = default;
    friend bool operator<(const KeyAt& a, const KeyAt& b) {
        return std::tie(a.path, a.frame) < std::tie(b.path, b.frame);
    }
};
using ChosenKeys = std::set<KeyAt>;

/// What the hand does to chosen keys, as new keys by their track; frames come out whole. A key that comes to
/// stand on another replaces it.
struct KeysMoved {
    double frames = 0, value = 0;  // moved by; value only of numbers
    double stretch = 1, about = 0; // and before that, stretched about a frame
};
using ChangedKeys =
    std::map<std::string, std::pair<Keys, std::vector<double>>>; // and where the chosen stand now
ChangedKeys moved(const Piece& piece, const ChosenKeys& chosen, const KeysMoved& how);
/// Run backwards between the first and the last of them, easings too.
ChangedKeys reversed(const Piece& piece, const ChosenKeys& chosen);
/// Without them; a track without keys is left out of what moves.
void remove_keys(Piece& piece, const ChosenKeys& chosen);

} // namespace bathylux
