#include "files/type.h"

#include <QDir>
#include <QFontDatabase>
#include <QFontMetricsF>
#include <QGlyphRun>
#include <QPainterPath>
#include <QRawFont>
#include <QTextLayout>

#include "core/field/hash.h"

// At global scope, as Qt asks of resources in static libraries.
static void init_font_resource() { Q_INIT_RESOURCE(fonts); }

namespace bathylux::files {

namespace {

constexpr int em = 1000; // letters are shaped at this size, unhinted, and scaled
constexpr auto stand_in = "League Spartan";

struct Line {
    QPainterPath path;
    double advance = 0;
};

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
        for (qsizetype i = 0; i < indexes.size(); ++i) {
            QPainterPath glyph = raw.pathForGlyph(indexes[i]);
            glyph.translate(positions[i].x(), positions[i].y() - baseline);
            out.path.addPath(glyph);
        }
    }
    return out;
}

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

Asset type_asset(const TypeSource& type) {
    load_shipped_fonts();
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

    const QStringList texts = QString::fromStdString(type.text).split('\n');
    std::vector<Line> lines;
    double width = 0;
    for (const QString& t : texts) {
        lines.push_back(shaped(t, font, spacing));
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
        add_path(builder, QTransform::fromTranslate(x, y).map(lines[i].path));
    }
    const Outline outline = builder.finish(FillRule::nonzero).transformed(Affine::scaling(scale, scale));
    if (!outline.empty()) out.layers.push_back({outline, type.color});
    out.width = width * scale;
    out.height = height * scale;
    Hash h;
    h << type.text << type.font << known << type.size << type.weight << type.italic
      << static_cast<int>(type.align) << type.spacing << type.leading << to_string(type.color);
    out.hash = h.value();
    return out;
}

} // namespace bathylux::files
