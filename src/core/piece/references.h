#pragma once
#include <string>
#include <vector>

#include "core/piece/piece.h"

namespace bathylux {

/// The ids of the elements that an element reads: as masks and maps that are switched on, and by its
/// described parts. Not of its children.
std::vector<std::string> read_by(const Element& element);
/// The same with every id replaced, switched on or not, its children's too.
void rename_references(Element& element, const std::function<std::string(const std::string&)>& rename);

/// An element's masks and maps of what is not `there` go, switched on or not.
void forget_lost_maps(Element& element, const std::function<bool(const std::string&)>& there);
/// The same, of what its described parts read too, and its children.
void forget_lost(Element& element, const std::function<bool(const std::string&)>& there);

/// The ids in the paths that links name, replaced.
void rename_links(Motions& motions, const std::function<std::string(const std::string&)>& rename);

/// The files that an element's source and steps name; strokes apart (see strokes_of), empty names left out.
std::vector<std::string> files_of(const Element& element);
/// The same with every name replaced.
void rename_files(Element& element, const std::function<std::string(const std::string&)>& rename);

/// The files that lights name, those of the moods that wait among them, and the body.
std::vector<std::string> loose_files(const Piece& piece);
void rename_loose_files(Piece& piece, const std::function<std::string(const std::string&)>& rename);

/// Every file that anything in the piece names, strokes apart.
void rename_all_files(Piece& piece, const std::function<std::string(const std::string&)>& rename);

/// A file in which strokes are kept: painted px per px of the element, and how high a painted px comes to lie
/// there (1 where they are no heights).
struct StrokesFile {
    std::string name;
    double density = 1, rise = 1;
    friend bool operator==(const StrokesFile&, const StrokesFile&) = default;
};
/// Those of an element.
std::vector<StrokesFile> strokes_of(const Element& element);
/// Has an element's strokes kept in another file.
void rename_strokes(Element& element, const std::string& from, const std::string& to);

/// Where elements read one another in a circle (children count as read by their group): a sentence that names
/// them, or "".
std::string cycle_in(const Piece& piece);
/// Throws that sentence as an Error.
void refuse_cycles(const Piece& piece);
/// Switches off every map or mask that closes a circle; says of each whose it was and what it read. Throws
/// Error where the circle goes through a twin or a group lit by itself.
std::vector<std::string> open_circles(Piece& piece);

/// The element whose picture an element is: itself, or what a twin shows, through twins of twins; null where
/// that is not there.
const Element* shown_by(const Piece& piece, const Element& element);

/// The elements that read `id`, and finish_id where the finish does.
std::vector<std::string> users_of(const Piece& piece, std::string_view id);
/// Whether `element` may read `map` without a circle.
bool may_read(const Piece& piece, std::string_view element, std::string_view map);

} // namespace bathylux
