#pragma once
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/piece/piece.h"

namespace bathylux {

/// One thing of a piece that has parameters: where it stands, by the path that `--set` takes without the
/// parameter ("lettering.bevel.", "lamp.", "solid.camera.", "" for the piece), and what of it moves.
struct MovingPart {
    std::string path;
    std::span<const Parameter> parameters;
    std::function<Value(const Parameter&)> get;
    const Motions* motions;
};
/// The same, to be changed.
struct ChangedPart {
    std::string path;
    std::span<const Parameter> parameters;
    std::function<Value(const Parameter&)> get;
    std::function<void(const Parameter&, const Value&)> set;
    Motions& motions;
};

void for_each_part(const Piece& piece, const std::function<void(const MovingPart&)>& visit);
/// Every part with something that moves; nodes without are left as they are.
void change_moving_parts(Piece& piece, const std::function<void(ChangedPart&)>& work);

/// Whether anything moves.
bool moves(const Piece& piece);

/// A number or colour named by its path; a step may be named by its kind. Good as long as the piece.
struct NumberThere {
    const Parameter* parameter = nullptr; // null: there is none
    std::string part;                     // the path of its part
    Value value;                          // as it is
    const Motion* motion = nullptr;       // what moves it; null where it is still
};
NumberThere number_there(const Piece& piece, std::string_view path);
inline const Motion* motion_of(const Piece& piece, std::string_view path) {
    return number_there(piece, path).motion;
}
/// Has it move in another way, or no more.
void set_motion(Piece& piece, std::string_view path, const std::optional<Motion>& motion);
/// The piece as it is at a frame: what has keys or follows has that value, held where its parameter ends. A
/// link to what is not there leaves the value as it is.
Piece posed(const Piece& piece, double frame);

/// A number at several frames, links followed; empty where there is none of that path.
std::vector<double> numbers_at(const Piece& piece, std::string_view path, std::span<const double> frames);

/// Takes what the hand changed of a piece posed at a frame (`before`) into what moves: a value that has keys
/// gets one there, one that follows another keeps its gain and gets another offset.
void keep_moved(const Piece& before, Piece& after, double frame);

/// Does `change`, which makes of each number a multiple of it and adds to it (as cropping and resizing do),
/// to what stands still and to all keys alike; what follows another number goes on following it.
void change_throughout(Piece& piece, const std::function<void(Piece&)>& change);

/// Numbers that follow one another in a circle: a sentence that names them, or "".
std::string link_circle_in(const Piece& piece);
void refuse_link_circles(const Piece& piece);
/// The links that lead to nothing, as "what → to".
std::vector<std::string> loose_links(const Piece& piece);

/// The last frame any key of the piece stands on; 0 where none does.
double last_key(const Piece& piece);

} // namespace bathylux
