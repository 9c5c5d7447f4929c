#pragma once
#include <QString>
#include <functional>

#include "app/document/document.h"
#include "core/piece/pose.h"

namespace bathylux {

/// What the mark at a scale's left end says of a number or colour.
enum class Mark { none, still, keys, key_here, link };

Mark mark_of(const Document& document, const std::string& path);

/// A number as a person would say where it is: "Lantern, intensity".
QString called(const Piece& piece, const std::string& path);
/// "follows Lantern, intensity, × −12"; "" where it does not.
QString follows(const Piece& piece, const std::string& path);

/// One edit each. A click on the mark: a first key, another key here, or the key here taken away.
void toggle_key(Document& document, const std::string& path);
void follow(Document& document, const std::string& path, const Link& link);
void stand_still(Document& document, const std::string& path);

} // namespace bathylux
