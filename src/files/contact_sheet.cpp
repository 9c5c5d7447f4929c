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
    return picture_of(look(evaluator, scene, view, all, scale), view, all.width(), all.height());
}

SmallPicture picture_of(const Strip& strip, View view, int width, int height) {
    Pixels px;
    if (view == View::height) {
        const auto [low, high] = range_of(strip.channels[0]);
        px = develop_height(strip.channels[0], width, height, {low, high, round_contour_step(low, high)});
    } else if (view == View::normals)
        px = develop_normals({strip.channels[0], strip.channels[1], strip.channels[2]}, width, height);
    else if (is_color(view))
        px = develop_color({strip.channels[0], strip.channels[1], strip.channels[2]}, strip.channels[3],
                           width, height);
    else
        px = develop_height(strip.channels[0], width, height, {0, 1, 0, true});
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
    if (alternatives.empty()) throw Error("There are no alternatives to show.");
    Evaluator evaluator;
    sheet_of(
        static_cast<int>(alternatives.size()),
        [&](int i) {
            return small_picture(evaluator, scene_of(alternatives[static_cast<std::size_t>(i)].piece), view,
                                 side);
        },
        [&](int i) { return std::to_string(i) + "  " + alternatives[static_cast<std::size_t>(i)].says; },
        columns, path);
}

void sheet_of(int count, const std::function<SmallPicture(int)>& picture,
              const std::function<std::string(int)>& says, int columns, const std::filesystem::path& path) {
    constexpr int gap = 12, line = 20;
    columns = std::clamp(columns, 1, count);
    QImage sheet;
    int cell_w = 0, cell_h = 0;
    for (int i = 0; i < count; ++i) {
        const SmallPicture p = picture(i);
        if (sheet.isNull()) {
            cell_w = p.width + gap, cell_h = p.height + line + gap;
            const int rows = (count + columns - 1) / columns;
            sheet = QImage(columns * cell_w + gap, rows * cell_h + gap, QImage::Format_ARGB32_Premultiplied);
            sheet.fill(QColor("#22272a"));
        }
        QPainter painter(&sheet);
        const int x = gap + i % columns * cell_w, y = gap + i / columns * cell_h;
        painter.drawImage(x, y,
                          QImage(p.rgba.data(), p.width, p.height, 4 * p.width, QImage::Format_RGBA8888));
        load_shipped_fonts();
        QFont font("Cabin");
        font.setPixelSize(13);
        painter.setFont(font);
        painter.setPen(QColor("#eae4d6"));
        const QString text = QString::fromStdString(says(i));
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
