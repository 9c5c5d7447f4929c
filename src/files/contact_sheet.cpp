#include "files/contact_sheet.h"

#include <QBuffer>
#include <QFont>
#include <QImage>
#include <QPainter>

#include "core/error.h"
#include "core/render/develop.h"
#include "files/package.h"
#include "files/type.h"

namespace bathylux::files {

SmallPicture small_picture(Evaluator& evaluator, const Scene& scene, View view, int side, const Box& part) {
    const Canvas& c = scene.piece->canvas;
    const double longest = part.empty() ? std::max(c.width, c.height) : std::max(part.width(), part.height());
    const double scale = std::min(1.0, side / std::max(1.0, longest));
    Region all = canvas_region(c, scale);
    if (!part.empty()) {
        const Region inside =
            intersect(all, covering({part.x0 * scale, part.y0 * scale, part.x1 * scale, part.y1 * scale}));
        if (!inside.empty()) all = inside;
    }
    const Strip strip = look(evaluator, scene, view, all, scale);
    Pixels px;
    if (view == View::height) {
        const auto [low, high] = range_of(strip.channels[0]);
        px = develop_height(strip.channels[0], all.width(), all.height(),
                            {low, high, round_contour_step(low, high)});
    } else if (view == View::normals)
        px = develop_normals({strip.channels[0], strip.channels[1], strip.channels[2]}, all.width(),
                             all.height());
    else if (is_color(view))
        px = develop_color({strip.channels[0], strip.channels[1], strip.channels[2]}, strip.channels[3],
                           all.width(), all.height());
    else
        px = develop_height(strip.channels[0], all.width(), all.height(), {0, 1, 0, true});
    const QImage shown(reinterpret_cast<const uchar*>(px.argb.data()), px.width, px.height,
                       QImage::Format_ARGB32_Premultiplied);
    const QImage straight = shown.convertToFormat(QImage::Format_RGBA8888);
    SmallPicture out{px.width, px.height, {}};
    for (int y = 0; y < px.height; ++y) {
        const uchar* row = straight.constScanLine(y);
        out.rgba.insert(out.rgba.end(), row, row + 4 * static_cast<std::ptrdiff_t>(px.width));
    }
    return out;
}

void contact_sheet(const std::vector<Alternative>& alternatives,
                   const std::function<Scene(const Piece&)>& scene_of, View view, int columns, int side,
                   const std::filesystem::path& path) {
    constexpr int gap = 12, line = 20;
    if (alternatives.empty()) throw Error("There are no alternatives to show.");
    columns = std::clamp(columns, 1, static_cast<int>(alternatives.size()));
    Evaluator evaluator;
    QImage sheet;
    int cell_w = 0, cell_h = 0;
    for (std::size_t i = 0; i < alternatives.size(); ++i) {
        const SmallPicture p = small_picture(evaluator, scene_of(alternatives[i].piece), view, side);
        if (sheet.isNull()) {
            cell_w = p.width + gap, cell_h = p.height + line + gap;
            const int rows = (static_cast<int>(alternatives.size()) + columns - 1) / columns;
            sheet = QImage(columns * cell_w + gap, rows * cell_h + gap, QImage::Format_ARGB32_Premultiplied);
            sheet.fill(QColor("#22272a"));
        }
        QPainter painter(&sheet);
        const int x = gap + static_cast<int>(i) % columns * cell_w,
                  y = gap + static_cast<int>(i) / columns * cell_h;
        painter.drawImage(x, y,
                          QImage(p.rgba.data(), p.width, p.height, 4 * p.width, QImage::Format_RGBA8888));
        load_shipped_fonts();
        QFont font("Cabin");
        font.setPixelSize(13);
        painter.setFont(font);
        painter.setPen(QColor("#eae4d6"));
        const QString text = QString::number(i) + "  " + QString::fromStdString(alternatives[i].says);
        painter.drawText(QRect(x, y + p.height, p.width, line), Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(text, Qt::ElideRight, p.width));
    }
    QByteArray png;
    QBuffer buffer(&png);
    buffer.open(QIODevice::WriteOnly);
    if (!sheet.save(&buffer, "PNG")) throw Error(path.string() + " could not be written.");
    write_atomically(path, std::as_bytes(std::span(png.constData(), static_cast<std::size_t>(png.size()))));
}

} // namespace bathylux::files
