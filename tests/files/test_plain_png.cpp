#include <QBuffer>
#include <QColorSpace>
#include <QImageWriter>
#include <QtTest>
#include <random>

#include "core/error.h"
#include "files/pictures.h"
#include "files/plain_png.h"
#include "run.h"

using namespace bathylux;
using files::is_plain_png;

/// PNGs read without Qt hold what Qt wrote into them; all others go the other way and hold it, too.
class TestPlainPng : public QObject {
    Q_OBJECT

    static std::span<const std::byte> bytes_of(const QByteArray& a) {
        return std::as_bytes(std::span(a.constData(), static_cast<std::size_t>(a.size())));
    }
    static Picture read(const QByteArray& png) { return files::read_picture(bytes_of(png), "a.png"); }
    static QByteArray written(const QImage& image, int compression = 50) {
        QBuffer buffer;
        buffer.open(QIODevice::WriteOnly);
        QImageWriter writer(&buffer, "png");
        writer.setCompression(compression);
        writer.write(image);
        return buffer.data();
    }
    static QImage scribbled(int width, int height, QImage::Format format, unsigned seed) {
        std::mt19937 random(seed);
        QImage out(width, height, format);
        const int bytes = (width * out.depth() + 7) / 8;
        for (int y = 0; y < height; ++y)
            for (int i = 0; i < bytes; ++i)
                // Runs and noise: every filter of the format has its turn.
                out.scanLine(y)[i] = static_cast<uchar>(y % 3 ? random() : (i / 7 + y) * 5);
        return out;
    }
    /// The same file with a chunk before its samples.
    static QByteArray with_chunk(QByteArray png, const QByteArray& name, const QByteArray& holds) {
        QByteArray chunk(4, 0);
        chunk[3] = static_cast<char>(holds.size());
        chunk += name + holds + QByteArray(4, 0); // libpng passes over one that does not add up
        return png.insert(33, chunk);
    }

  private slots:
    void samples_are_those_that_were_written() {
        struct Kind {
            QImage::Format format, seen;
            int channels, bytes;
        };
        for (const Kind& k : {Kind{QImage::Format_Grayscale8, QImage::Format_Grayscale8, 1, 1},
                              Kind{QImage::Format_Grayscale16, QImage::Format_Grayscale16, 1, 2},
                              Kind{QImage::Format_RGB888, QImage::Format_RGB888, 3, 1},
                              Kind{QImage::Format_RGBA8888, QImage::Format_RGBA8888, 4, 1},
                              Kind{QImage::Format_RGBA64, QImage::Format_RGBA64, 4, 2}})
            for (const QSize size : {QSize(1, 1), QSize(37, 23), QSize(128, 3), QSize(5, 200)})
                for (const int compression : {0, 50, 100}) {
                    const QImage image = scribbled(size.width(), size.height(), k.format, 7 + size.width());
                    const QByteArray png = written(image, compression);
                    QVERIFY(is_plain_png(bytes_of(png)));
                    const Picture p = read(png);
                    QCOMPARE(QSize(p.width, p.height), size);
                    QCOMPARE(p.channels, k.channels);
                    QCOMPARE(p.bits(), 8 * k.bytes);
                    const int row = size.width() * k.channels * k.bytes;
                    for (int y = 0; y < size.height(); ++y)
                        QVERIFY(std::memcmp(&p.samples[static_cast<std::size_t>(y) * row],
                                            image.constScanLine(y), static_cast<std::size_t>(row)) == 0);
                }
    }

    void others_are_read_all_the_same() {
        // A palette, one bit, and three 16-bit channels as Qt writes them.
        const QImage image = scribbled(31, 17, QImage::Format_RGB888, 3);
        const QImage indexed = image.convertToFormat(QImage::Format_Indexed8),
                     mono = image.convertToFormat(QImage::Format_Mono);
        for (const QImage& other : {indexed, mono}) {
            const QByteArray png = written(other);
            QVERIFY(!is_plain_png(bytes_of(png)));
            const Picture p = read(png);
            for (int y = 0; y < 17; ++y)
                for (int x = 0; x < 31; ++x)
                    QCOMPARE(qRound(255 * p.stored(x, y, 0)), qRed(other.pixel(x, y)));
        }
        // What says that its colours are others than sRGB is not plain, unless it says sRGB as well.
        const QByteArray png = written(image), gamma("\x00\x00\xb1\x8f", 4), tall("\x00\x01\x86\xa0", 4);
        for (const QByteArray& g : {gamma, tall}) {
            QVERIFY(!is_plain_png(bytes_of(with_chunk(png, "gAMA", g))));
            QVERIFY(is_plain_png(bytes_of(with_chunk(with_chunk(png, "gAMA", g), "sRGB", QByteArray(1, 0)))));
        }
        QVERIFY(is_plain_png(bytes_of(with_chunk(png, "tEXt", "Comment"))));
        for (const char* name : {"iCCP", "tRNS", "sBIT", "cICP", "eXIf", "abCd"})
            QVERIFY(!is_plain_png(bytes_of(with_chunk(png, name, "what"))));
        QImage wide = image;
        wide.setColorSpace(QColorSpace(QColorSpace::Primaries::SRgb, 1.8f));
        const QByteArray profiled = written(wide);
        QVERIFY(!is_plain_png(bytes_of(profiled)));
        const Picture p = read(profiled);
        QVERIFY(p.samples == read(png).samples && !p.color_samples.empty());
    }

    void damage_is_told() {
        const QByteArray png = written(scribbled(60, 40, QImage::Format_RGB888, 9));
        const auto says = [](const QByteArray& bytes) -> std::string {
            try {
                read(bytes);
            } catch (const Error& e) {
                return e.what();
            }
            return "";
        };
        QCOMPARE(says(png), std::string());
        // All but the end mark is needed.
        for (qsizetype size = 1; size < png.size() - 20; size += 131) {
            const std::string why = says(png.left(size));
            QVERIFY2(why.starts_with("a.png is not a picture that can be read: "), why.c_str());
        }
        for (qsizetype at = 60; at < png.size() - 30; at += 211) {
            QByteArray bent = png;
            bent[at] = static_cast<char>(bent[at] ^ 0x10);
            QVERIFY(says(bent).find("damaged") != std::string::npos);
        }
        QByteArray huge = png;
        huge[16] = 0x7f;
        QVERIFY(says(huge).find("beyond what can be opened") != std::string::npos);
    }
};

BATHYLUX_TEST(TestPlainPng)
#include "test_plain_png.moc"
