#include <QPainter>
#include <QSvgRenderer>
#include <QtTest>
#include <random>

#include "core/field/srgb.h"
#include "files/svg.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace drawn {

constexpr int across = 120, down = 90;

/// Drawings nobody would make: all that is drawn in one, turned, stretched, one over the other.
class Scribble {
  public:
    explicit Scribble(unsigned seed) : random_(seed) {}

    QString drawing() {
        QString defs, shapes;
        for (int i = 0; i < 2; ++i)
            defs +=
                QString(
                    "<linearGradient id='g%1' x1='0' y1='0' x2='1' y2='%2'><stop offset='0' stop-color='%3'/>"
                    "<stop offset='1' stop-color='%4'/></linearGradient>")
                    .arg(i)
                    .arg(between(-1, 1))
                    .arg(color(), color());
        for (int i = 0, n = 1 + upto(5); i < n; ++i) shapes += shape(2);
        return QString("<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 %1 %2' width='%1' "
                       "height='%2'><defs>%3</defs>%4</svg>")
            .arg(across)
            .arg(down)
            .arg(defs, shapes);
    }

  private:
    int upto(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
    double between(double low, double down) { return low + (down - low) * upto(1001) / 1000.0; }
    QString color() { return QString("#%1").arg(upto(1 << 24), 6, 16, QChar('0')); }
    QString at() { return QString("%1 %2 ").arg(between(-10, across + 10)).arg(between(-10, down + 10)); }
    /// Dashes only of what is straight: along curves their ends lie where a painter's own pieces of them end.
    QString paint(bool straight = false) {
        const bool outlined = upto(2) == 0, filled = !outlined || upto(3) == 0;
        QString out = QString(" fill='%1'")
                          .arg(!filled        ? "none"
                               : upto(4) == 0 ? QString("url(#g%1)").arg(upto(2))
                                              : color());
        if (upto(2) == 0) out += " fill-rule='evenodd'";
        if (outlined) {
            const char* joins[] = {"miter", "round", "bevel"};
            const char* caps[] = {"butt", "round", "square"};
            out += QString(" stroke='%1' stroke-width='%2' stroke-linejoin='%3' stroke-linecap='%4'")
                       .arg(color())
                       .arg(between(1, 9))
                       .arg(joins[upto(3)], caps[upto(3)]);
            if (straight && upto(3) == 0)
                out += QString(" stroke-dasharray='%1 %2'").arg(between(3, 12)).arg(between(3, 12));
        }
        return out;
    }
    QString shape(int deep) {
        switch (upto(deep > 0 ? 8 : 7)) {
        case 0:
            return QString("<rect x='%1' y='%2' width='%3' height='%4' rx='%5'%6/>")
                .arg(between(0, 80))
                .arg(between(0, 60))
                .arg(between(5, 60))
                .arg(between(5, 50))
                .arg(upto(2) * between(1, 8))
                .arg(paint());
        case 1:
            return QString("<circle cx='%1' cy='%2' r='%3'%4/>")
                .arg(between(10, 110))
                .arg(between(10, 80))
                .arg(between(3, 40))
                .arg(paint());
        case 2:
            return QString("<ellipse cx='%1' cy='%2' rx='%3' ry='%4'%5/>")
                .arg(between(10, 110))
                .arg(between(10, 80))
                .arg(between(3, 50))
                .arg(between(3, 40))
                .arg(paint());
        case 3:
        case 4: {
            QString points;
            for (int i = 0, n = 3 + upto(4); i < n; ++i) points += at();
            return QString("<%1 points='%2'%3/>").arg(upto(2) ? "polygon" : "polyline", points, paint(true));
        }
        case 5:
            return QString("<line x1='%1' y1='%2' x2='%3' y2='%4' stroke='%5' stroke-width='%6'/>")
                .arg(between(0, across))
                .arg(between(0, down))
                .arg(between(0, across))
                .arg(between(0, down))
                .arg(color())
                .arg(between(1, 9));
        case 6: {
            QString path = "M" + at();
            for (int i = 0, n = 2 + upto(3); i < n; ++i)
                path += upto(2) ? "C" + at() + at() + at() : upto(2) ? "Q" + at() + at() : "L" + at();
            return QString("<path d='%1%2'%3/>").arg(path, upto(2) ? "z" : "", paint());
        }
        default: {
            QString inside;
            for (int i = 0, n = 1 + upto(3); i < n; ++i) inside += shape(deep - 1);
            return QString("<g transform='translate(%1 %2) rotate(%3) scale(%4 %5)'>%6</g>")
                .arg(between(-10, 40))
                .arg(between(-10, 30))
                .arg(between(-40, 40))
                .arg(between(0.5, 1.4))
                .arg(between(0.5, 1.4))
                .arg(inside);
        }
        }
    }
    std::mt19937 random_;
};

/// The drawing as Qt paints it: each shape by the area of every px that it covers, over those before it.
QImage painted(const QByteArray& svg) {
    QImage out(across, down, QImage::Format_RGBA8888_Premultiplied);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    painter.setRenderHint(QPainter::Antialiasing);
    QSvgRenderer(svg).render(&painter, QRectF(0, 0, across, down));
    return out;
}

} // namespace drawn

using namespace drawn;

/// Drawings taken as outlines are what another painter makes of them.
class TestDrawings : public QObject {
    Q_OBJECT
  private slots:
    void drawings_are_what_a_painter_paints() {
        int seen = 0, colors = 0;
        for (unsigned seed = 0; seed < 120; ++seed) {
            const QByteArray svg = Scribble(seed).drawing().toUtf8();
            const QImage want = painted(svg);
            Asset asset;
            const std::string trouble = trouble_of([&] {
                asset = files::svg_asset(
                    std::as_bytes(std::span(svg.constData(), static_cast<std::size_t>(svg.size()))), "d.svg");
            });
            if (!trouble.empty()) {
                // Nothing in it, or too little, can be seen.
                QVERIFY2(trouble.find("holds no") != std::string::npos, trouble.c_str());
                continue;
            }
            QCOMPARE(asset.width, double(across));
            Scene scene = scene_of(
                piece_json(across, down, R"({"id": "d", "source": {"kind": "svg", "file": "d.svg"}})"));
            scene.assets =
                std::make_shared<const Assets>(Assets{{"d", std::make_shared<const Asset>(asset)}});
            const Bundle is = relief_of(scene);
            double sum = 0;
            int apart = 0;
            const auto px = [&](int x, int y, int c) { return want.constScanLine(y)[4 * x + c] / 255.0; };
            for (int y = 0; y < down; ++y)
                for (int x = 0; x < across; ++x) {
                    const double off = std::abs(is.coverage.at(x, y) - px(x, y, 3));
                    sum += off, apart += off > 0.2;
                    seen += px(x, y, 3) > 0.5;
                    if (x < 1 || y < 1 || x >= across - 1 || y >= down - 1) continue;
                    // Colour where nothing begins or ends near by.
                    bool level = true;
                    for (int j = -1; j <= 1; ++j)
                        for (int i = -1; i <= 1; ++i)
                            for (int c = 0; c < 4; ++c)
                                level = level && px(x + i, y + j, 3) > 0.999 &&
                                        std::abs(px(x + i, y + j, c) - px(x, y, c)) < 0.02;
                    if (!level) continue;
                    ++colors;
                    for (int c = 0; c < 3; ++c)
                        QVERIFY2(std::abs(srgb_encode(is.color[c].at(x, y)) - px(x, y, c)) < 0.03,
                                 qPrintable(QString("seed %1 at %2, %3: %4 instead of %5\n%6")
                                                .arg(seed)
                                                .arg(x)
                                                .arg(y)
                                                .arg(srgb_encode(is.color[c].at(x, y)))
                                                .arg(px(x, y, c))
                                                .arg(QString(svg))));
                }
            QVERIFY2(sum / (across * down) < 0.006 && apart <= 80,
                     qPrintable(QString("seed %1: %2 a px, %3 px\n%4")
                                    .arg(seed)
                                    .arg(sum / (across * down))
                                    .arg(apart)
                                    .arg(QString(svg))));
        }
        QVERIFY(seen > 100000 && colors > 50000);
    }

    void a_picture_within_a_drawing_is_part_of_it() {
        QImage dot(4, 4, QImage::Format_RGB32);
        dot.fill(QColor(200, 100, 50));
        QByteArray png;
        QBuffer to(&png);
        to.open(QIODevice::WriteOnly);
        dot.save(&to, "PNG");
        const QByteArray svg =
            "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' width='60' "
            "height='40'>"
            "<rect width='60' height='40' fill='#203040'/><image x='20' y='10' width='20' height='20' "
            "xlink:href='data:image/png;base64," +
            png.toBase64() + "'/></svg>";
        const Asset a = files::svg_asset(
            std::as_bytes(std::span(svg.constData(), static_cast<std::size_t>(svg.size()))), "d.svg");
        Scene scene =
            scene_of(piece_json(60, 40, R"({"id": "d", "source": {"kind": "svg", "file": "d.svg"}})"));
        scene.assets = std::make_shared<const Assets>(Assets{{"d", std::make_shared<const Asset>(a)}});
        const Bundle is = relief_of(scene);
        const int inside[3] = {200, 100, 50}, beside[3] = {0x20, 0x30, 0x40};
        for (int c = 0; c < 3; ++c) {
            QVERIFY(std::abs(srgb_encode(is.color[c].at(30, 20)) - inside[c] / 255.0) < 0.01);
            QVERIFY(std::abs(srgb_encode(is.color[c].at(10, 20)) - beside[c] / 255.0) < 0.01);
        }
    }
};
BATHYLUX_TEST(TestDrawings)
#include "test_drawings.moc"
