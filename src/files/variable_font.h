#pragma once
#include <QPainterPath>
#include <QString>

#include <memory>
#include <optional>
#include <vector>

class QRawFont;

namespace bathylux::files {

/// One letter of a line: its outline about its origin on the baseline, where that stands, and its advance.
/// Lengths in font px, y down.
struct Glyph {
    QPainterPath path;
    double x = 0, y = 0, advance = 0;
};
struct Line {
    std::vector<Glyph> glyphs;
    double advance = 0;
};

/// A font whose outlines run along axes (OpenType, `fvar`), at a place on each. Shaped and drawn by HarfBuzz,
/// with the tables of a font that Qt found.
class VariableFont {
  public:
    /// Where it stands on its axes, as CSS Fonts 4 names them; what a font has no axis for is left.
    struct Place {
        double weight = 400;  // wght
        double stretch = 100; // wdth, percent
        double slant = 0;     // degrees forwards; −slnt
        double optical = 0;   // opsz, px
    };
    /// `em`: px of the size it is shaped at. None where the font has no axes.
    static std::optional<VariableFont> of(const QRawFont& font, double em, const Place& place);
    bool has(const char* axis) const;
    /// A line, `spacing` added after every letter but the last; none where it lacks one of the letters.
    std::optional<Line> line(const QString& text, double spacing) const;

  private:
    struct Shaper;
    std::shared_ptr<const Shaper> shaper_;
};

} // namespace bathylux::files
