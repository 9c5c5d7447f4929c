#include "files/type.h"

#include <QDir>
#include <QFontDatabase>
#include <QFontMetricsF>
#include <QGlyphRun>
#include <QPainterPath>
#include <QRawFont>
#include <QTextLayout>

#include <optional>

#include "core/error.h"
#include "core/field/hash.h"
#include "files/variable_font.h"

// At global scope, as Qt asks of resources in static libraries.
static void init_font_resource() { Q_INIT_RESOURCE(fonts); }

namespace bathylux::files {

namespace {

constexpr int em = 1000; // letters are shaped at this size, unhinted, and scaled
constexpr auto stand_in = "League Spartan";

Line shaped(const QString& text, const QFont& font, double spacing) {
    Line out;
    if (text.isEmpty()) return out;
    QTextLayout layout(text, font);
    layout.setCacheEnabled(true);
    layout.beginLayout();
    QTextLine line = layout.createLine();
    line.setLineWidth(1e9);
    layout.endLayout();
    out.advance = line.horizontalAdvance() - spacing; // nothing is added after the last letter
    const double baseline = line.ascent();
    for (const QGlyphRun& run : layout.glyphRuns()) {
        const auto indexes = run.glyphIndexes();
        const auto positions = run.positions();
        const QRawFont raw = run.rawFont();
        const auto advances = raw.advancesForGlyphIndexes(indexes);
        for (qsizetype i = 0; i < indexes.size(); ++i)
            out.glyphs.push_back({raw.pathForGlyph(indexes[i]), positions[i].x(), positions[i].y() - baseline,
                                  i < advances.size() ? advances[i].x() : 0});
    }
    return out;
}

/// The longest contour of an outline, walked by its length.
class Way {
  public:
    explicit Way(const Outline& outline) {
        for (const auto& contour : outline.contours) {
            Outline one;
            one.contours.push_back(contour);
            std::vector<Vec2> points;
            for (const Segment& s : flatten(one, 0.02).segments) {
                if (points.empty()) points.push_back(s.a);
                points.push_back(s.b);
            }
            std::vector<double> at{0};
            for (std::size_t i = 1; i < points.size(); ++i)
                at.push_back(at.back() + bathylux::length(points[i] - points[i - 1]));
            if (!points.empty() && at.back() > length()) points_ = std::move(points), at_ = std::move(at);
        }
    }
    double length() const { return at_.empty() ? 0 : at_.back(); }
    /// The place so far along it, and which way it goes there; past its end it goes round.
    std::pair<Vec2, Vec2> at(double s) const {
        s -= length() * std::floor(s / length());
        const auto after = std::upper_bound(at_.begin() + 1, at_.end() - 1, s) - at_.begin();
        const auto i = static_cast<std::size_t>(after);
        const Vec2 d = points_[i] - points_[i - 1];
        const double l = std::max(1e-12, at_[i] - at_[i - 1]);
        return {points_[i - 1] + ((s - at_[i - 1]) / l) * d, (1 / l) * d};
    }

  private:
    std::vector<Vec2> points_;
    std::vector<double> at_; // way to every point
};

} // namespace

void load_shipped_fonts() {
    static const bool done = [] {
        init_font_resource();
        for (const QString& name : QDir(":/fonts").entryList())
            QFontDatabase::addApplicationFont(":/fonts/" + name);
        return true;
    }();
    (void)done;
}

void add_path(OutlineBuilder& builder, const QPainterPath& path) {
    const auto point = [&](int i) {
        const auto e = path.elementAt(i);
        return Vec2{e.x, e.y};
    };
    for (int i = 0; i < path.elementCount(); ++i) switch (path.elementAt(i).type) {
        case QPainterPath::MoveToElement: builder.move_to(point(i)); break;
        case QPainterPath::LineToElement: builder.line_to(point(i)); break;
        case QPainterPath::CurveToElement:
            builder.cubic_to(point(i), point(i + 1), point(i + 2));
            i += 2;
            break;
        case QPainterPath::CurveToDataElement: break;
        }
}

Asset type_asset(const TypeSource& type, const Outline* path) {
    load_shipped_fonts();
    std::optional<Way> way;
    if (path) {
        way.emplace(*path);
        if (!(way->length() > 1e-6))
            throw Error(
                "the outline that the letters run along has no length. Let them run along another, or "
                "make it larger.");
    }
    Asset out;
    const QString family = QString::fromStdString(type.font);
    const bool known = QFontDatabase::hasFamily(family);
    QFont font(known ? family : QString(stand_in));
    if (!known)
        out.trouble = "The font “" + type.font +
                      "” is not installed; League Spartan stands in for it. Install it, or choose another.";
    font.setPixelSize(em);
    font.setWeight(static_cast<QFont::Weight>(std::clamp(static_cast<int>(type.weight), 1, 1000)));
    font.setItalic(type.italic);
    font.setHintingPreference(QFont::PreferNoHinting);
    font.setStyleStrategy(QFont::StyleStrategy(QFont::NoAntialias | QFont::ForceOutline));
    font.setKerning(true);
    const double scale = static_cast<double>(type.size) / em, spacing = type.spacing / scale;
    font.setLetterSpacing(QFont::AbsoluteSpacing, spacing);
    const auto varied = VariableFont::of(QRawFont::fromFont(font), em,
                                         {type.weight, 100 * double(type.stretch), type.slant, type.size});
    if (known && type.stretch != 1 && !(varied && varied->has("wdth")))
        out.about = type.font + " has no axis for its width";
    if (known && type.slant != 0 && !(varied && varied->has("slnt")))
        out.about = type.font + " has no axis for its slant";

    const QStringList texts = QString::fromStdString(type.text).split('\n');
    std::vector<Line> lines;
    double width = 0;
    for (const QString& t : texts) {
        auto line = varied ? varied->line(t, spacing) : std::nullopt;
        lines.push_back(line ? std::move(*line) : shaped(t, font, spacing));
        width = std::max(width, lines.back().advance);
    }
    const QFontMetricsF metrics(font);
    const double box = type.leading * em, height = box * static_cast<double>(lines.size());
    OutlineBuilder builder;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const double spare = width - lines[i].advance;
        const double x = (type.align == Align::left    ? 0
                          : type.align == Align::right ? spare
                                                       : spare / 2) -
                         width / 2;
        const double y = box * static_cast<double>(i) + (box - metrics.ascent() - metrics.descent()) / 2 +
                         metrics.ascent() - height / 2;
        if (!path) {
            for (const Glyph& g : lines[i].glyphs)
                add_path(builder, QTransform::fromTranslate(x + g.x, y + g.y).map(g.path));
            continue;
        }
        // In ems of the letters; a line further down stands further in.
        const double anchor = type.align == Align::left    ? 0
                              : type.align == Align::right ? lines[i].advance
                                                           : lines[i].advance / 2,
                     from = type.start * way->length() - anchor * scale, in = box * static_cast<double>(i);
        for (const Glyph& g : lines[i].glyphs) {
            const auto [p, d] = way->at(from + scale * (g.x + g.advance / 2));
            const QTransform stands(d.x, d.y, -d.y, d.x, p.x / scale, p.y / scale);
            add_path(builder, (QTransform::fromTranslate(-g.advance / 2, in + g.y) * stands).map(g.path));
        }
    }
    const Outline outline = builder.finish(FillRule::nonzero).transformed(Affine::scaling(scale, scale));
    if (!outline.empty()) out.layers.push_back({outline, type.color});
    out.width = width * scale;
    out.height = height * scale;
    if (path) {
        // The box about the path's centre that holds them.
        const Box b = outline.bounds();
        out.width = b.empty() ? 0 : 2 * std::max(std::abs(b.x0), std::abs(b.x1));
        out.height = b.empty() ? 0 : 2 * std::max(std::abs(b.y0), std::abs(b.y1));
    }
    Hash h;
    h << type.text << type.font << known << type.size << type.weight << type.stretch << type.slant
      << type.italic << static_cast<int>(type.align) << type.spacing << type.leading << to_string(type.color);
    out.hash = h.value();
    return out;
}

} // namespace bathylux::files
