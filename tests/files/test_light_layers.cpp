// The light taken apart as OpenRaster, laid together again as any viewer would: each layer by the mode that
// the file's own list gives it (W3C Compositing and Blending Level 1), in double.
#include <QImage>
#include <QTemporaryDir>
#include <QXmlStreamReader>
#include <QtTest>
#include <zip.h>

#include "core/piece/codec.h"
#include "core/render/lit_parts.h"
#include "files/export_parts.h"
#include "files/resolve.h"
#include "run.h"

using namespace bathylux;

namespace {

QByteArray entry(zip_t* zip, const QString& name) {
    zip_stat_t stat;
    if (zip_stat(zip, name.toUtf8().constData(), 0, &stat) != 0) return {};
    QByteArray bytes(static_cast<qsizetype>(stat.size), 0);
    zip_file_t* f = zip_fopen(zip, name.toUtf8().constData(), 0);
    zip_fread(f, bytes.data(), stat.size);
    zip_fclose(f);
    return bytes;
}

struct OraLayer {
    QString name, mode;
    QImage image;
};

/// From below.
std::vector<OraLayer> layers_in(zip_t* zip) {
    std::vector<OraLayer> out;
    QXmlStreamReader xml(entry(zip, "stack.xml"));
    while (!xml.atEnd())
        if (xml.readNext() == QXmlStreamReader::StartElement && xml.name() == u"layer") {
            const auto a = xml.attributes();
            out.insert(out.begin(), {a.value("name").toString(), a.value("composite-op").toString(),
                                     QImage::fromData(entry(zip, a.value("src").toString()))
                                         .convertToFormat(QImage::Format_ARGB32)});
        }
    return out;
}

/// Premultiplied.
using Px = std::array<double, 4>;

Px px_of(QRgb v) {
    const double a = qAlpha(v) / 255.0;
    return {a * qRed(v) / 255.0, a * qGreen(v) / 255.0, a * qBlue(v) / 255.0, a};
}

Px over(const QString& mode, const Px& s, const Px& b) {
    Px out{};
    for (std::size_t c = 0; c < 4; ++c) {
        if (mode == "svg:src-over") out[c] = s[c] + b[c] * (1 - s[3]);
        if (mode == "svg:plus") out[c] = std::min(1.0, s[c] + b[c]);
        if (mode == "svg:multiply") out[c] = s[c] * (1 - b[3]) + b[c] * (1 - s[3]) + s[c] * b[c];
        if (mode == "svg:dst-in") out[c] = b[c] * s[3];
    }
    return out;
}

} // namespace

class TestLightLayers : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    std::vector<OraLayer> written(const std::string& background, const std::string& finish, QImage& merged) {
        std::string json =
            "{'bathylux': 1, 'canvas': {'width': 120, 'height': 90" + background +
            "}, 'elements': [{'id': 'dome', 'source': {'kind': 'ellipse', 'width': 90, 'height': 60, "
            "'color': "
            "'#c09060'}, 'steps': [{'kind': 'bevel', 'width': 20, 'rise': 22}], 'mix': {'opacity': 0.8}}], "
            "'ambient': {'intensity': 0.3, 'occlusion': true}, 'lights': [{'id': 'sun', 'kind': "
            "'directional', 'elevation': 25, 'shadow': true}]" +
            finish + "}";
        std::replace(json.begin(), json.end(), '\'', '"');
        files::Resolver resolver;
        Evaluator evaluator(resolver.budget());
        const std::filesystem::path path = dir_.filePath("light.ora").toStdString();
        files::export_parts(evaluator, resolver.scene(piece_from_text(json), {}, 0), path, 1);
        int bad = 0;
        zip_t* zip = zip_open(path.c_str(), ZIP_RDONLY, &bad);
        auto out = layers_in(zip);
        merged = QImage::fromData(entry(zip, "mergedimage.png")).convertToFormat(QImage::Format_ARGB32);
        zip_discard(zip);
        return out;
    }

  private slots:
    void a_viewer_shows_the_lit_picture_data() {
        QTest::addColumn<QString>("background");
        QTest::addColumn<QString>("finish");
        QTest::addColumn<QStringList>("names");
        const QStringList light{"ambient", "occlusion", "diffuse", "highlights", "shadow"};
        const QString opaque = ", 'background': '#607080'",
                      gleam = ", 'finish': [{'id': 'g', 'kind': 'gleam', 'above': 0.3, 'radius': 6}]";
        QTest::newRow("opaque") << opaque << "" << light;
        QTest::newRow("opaque, finished") << opaque << gleam << light + QStringList{"finish"};
        QTest::newRow("of a shape") << ""
                                    << "" << light + QStringList{"shape"};
        QTest::newRow("of a shape, finished") << "" << gleam << light + QStringList{"finish", "shape"};
    }

    void a_viewer_shows_the_lit_picture() {
        QFETCH(QString, background);
        QFETCH(QString, finish);
        QFETCH(QStringList, names);
        QImage merged;
        const auto layers = written(background.toStdString(), finish.toStdString(), merged);
        QStringList there;
        for (const OraLayer& l : layers) there << l.name;
        QCOMPARE(there, names);
        double worst = 0;
        int half = 0; // px that are neither there nor not
        for (int y = 0; y < merged.height(); ++y)
            for (int x = 0; x < merged.width(); ++x) {
                Px shown{0, 0, 0, 0};
                for (const OraLayer& l : layers) shown = over(l.mode, px_of(l.image.pixel(x, y)), shown);
                const Px want = px_of(merged.pixel(x, y));
                for (std::size_t c = 0; c < 4; ++c)
                    worst = std::max(worst, 255 * std::abs(shown[c] - want[c]));
                half += want[3] > 0.1 && want[3] < 0.9;
            }
        QVERIFY2(worst < 2, qPrintable(QString::number(worst)));
        QCOMPARE(half > 1000, background.isEmpty());
    }
};

BATHYLUX_TEST(TestLightLayers)
#include "test_light_layers.moc"
