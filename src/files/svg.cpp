#include "files/svg.h"

#include <QImage>
#include <QPaintEngine>
#include <QPainter>
#include <QPainterPath>
#include <QSvgRenderer>
#include <QXmlStreamReader>
#include <map>
#include <set>

#include "core/error.h"
#include "core/field/hash.h"
#include "files/type.h"

namespace bathylux::files {

namespace {

constexpr std::size_t most_bytes = 16u << 20;
constexpr int most_depth = 200;
constexpr double most_shapes = 2e5; // after every <use> is expanded
constexpr int color_side = 2048;    // px of the picture that holds gradients

/// What can be said of a drawing before it is drawn: how large it becomes once shapes that use shapes are
/// expanded, and whether it reaches outside itself.
class Inspection {
  public:
    Inspection(const QByteArray& data, const std::string& name) : name_(name) {
        QXmlStreamReader xml(data);
        std::vector<int> open;
        while (!xml.atEnd()) {
            switch (xml.readNext()) {
            case QXmlStreamReader::DTD:
                if (!xml.entityDeclarations().isEmpty() || xml.text().contains(QLatin1String("<!ENTITY")))
                    throw refused(
                        "it declares entities of its own, which are not read. Save it as plain SVG.");
                break;
            case QXmlStreamReader::StartElement: {
                if (open.empty() && xml.name() != QLatin1String("svg"))
                    throw refused("it is not an SVG drawing.");
                if (static_cast<int>(open.size()) >= most_depth)
                    throw refused("it is nested more than " + std::to_string(most_depth) + " deep.");
                const int node = static_cast<int>(nodes_.size());
                nodes_.push_back({});
                if (!open.empty()) nodes_[open.back()].children.push_back(node);
                open.push_back(node);
                read_attributes(xml, node);
                break;
            }
            case QXmlStreamReader::EndElement: open.pop_back(); break;
            default: break;
            }
        }
        if (xml.hasError())
            throw refused("line " + std::to_string(xml.lineNumber()) + ": " +
                          xml.errorString().toStdString() + ".");
        if (nodes_.empty()) throw refused("it is not an SVG drawing.");
        std::set<int> path;
        if (size_of(0, path) > most_shapes)
            throw refused("it unfolds to more than " + std::to_string(static_cast<int>(most_shapes)) +
                          " shapes.");
    }

  private:
    struct Node {
        std::vector<int> children;
        std::string uses;
        double size = -1;
    };

    Error refused(const std::string& why) const {
        return Error(name_ + " cannot be read as a drawing: " + why);
    }

    void read_attributes(const QXmlStreamReader& xml, int node) {
        for (const auto& a : xml.attributes()) {
            const QString value = a.value().toString().trimmed();
            if (a.name() == QLatin1String("id")) ids_[value.toStdString()] = node;
            if (a.name() == QLatin1String("href")) {
                if (value.startsWith('#')) {
                    if (xml.name() == QLatin1String("use")) nodes_[node].uses = value.mid(1).toStdString();
                } else if (!value.startsWith("data:image/") && xml.name() != QLatin1String("a"))
                    throw refused("it refers to “" + value.left(60).toStdString() +
                                  "” outside itself. Embed what it needs.");
            }
        }
    }

    double size_of(int node, std::set<int>& path) {
        Node& n = nodes_[node];
        if (n.size >= 0) return n.size;
        if (!path.insert(node).second) throw refused("its shapes use one another in a circle.");
        double size = 1;
        for (int c : std::vector<int>(n.children)) size += size_of(c, path);
        if (const auto used = ids_.find(n.uses); !n.uses.empty() && used != ids_.end())
            size += size_of(used->second, path);
        path.erase(node);
        return nodes_[node].size = std::min(size, 1e12);
    }

    const std::string& name_;
    std::vector<Node> nodes_;
    std::map<std::string, int> ids_;
};

/// Takes down what Qt would paint, as outlines.
class Recorder : public QPaintEngine {
  public:
    Recorder() : QPaintEngine(QPaintEngine::AllFeatures) {}
    bool begin(QPaintDevice*) override { return true; }
    bool end() override { return true; }
    Type type() const override { return QPaintEngine::User; }
    void updateState(const QPaintEngineState& s) override {
        if (s.state() & DirtyTransform) transform_ = s.transform();
        if (s.state() & DirtyPen) pen_ = s.pen();
        if (s.state() & DirtyBrush) brush_ = s.brush();
        if (s.state() & DirtyOpacity) opacity_ = s.opacity();
    }
    void drawPath(const QPainterPath& path) override {
        if (brush_.style() != Qt::NoBrush)
            add(brush_, fill_rule(path), [&](OutlineBuilder& b) { add_path(b, transform_.map(path)); });
        if (strokes()) {
            QPainterPathStroker stroker(pen_);
            stroker.setCurveThreshold(0.01);
            const QPainterPath outline = transform_.map(stroker.createStroke(path));
            add(pen_.brush(), FillRule::nonzero, [&](OutlineBuilder& b) { add_path(b, outline); });
        }
    }
    void drawEllipse(const QRectF& r) override {
        const auto ring = [&](OutlineBuilder& b, double grow) {
            const QPointF c = transform_.map(r.center()),
                          u = transform_.map(r.center() + QPointF(r.width() / 2 + grow, 0)) - c,
                          v = transform_.map(r.center() + QPointF(0, r.height() / 2 + grow)) - c;
            b.arc({c.x(), c.y()}, {u.x(), u.y()}, {v.x(), v.y()}, 0, 2 * std::numbers::pi);
            b.close();
        };
        if (brush_.style() != Qt::NoBrush)
            add(brush_, FillRule::nonzero, [&](OutlineBuilder& b) { ring(b, 0); });
        if (!strokes()) return;
        const double half = pen_.widthF() / 2;
        // A ring of even width round a circle is two circles; other strokes are left to the stroker.
        if (pen_.style() == Qt::SolidLine && std::abs(r.width() - r.height()) < 1e-9 && r.width() / 2 > half)
            add(pen_.brush(), FillRule::evenodd, [&](OutlineBuilder& b) { ring(b, half), ring(b, -half); });
        else {
            QPainterPath path;
            path.addEllipse(r);
            const QBrush fill = std::exchange(brush_, Qt::NoBrush);
            drawPath(path);
            brush_ = fill;
        }
    }
    void drawEllipse(const QRect& r) override { drawEllipse(QRectF(r)); }
    void drawPolygon(const QPointF* points, int count, PolygonDrawMode mode) override {
        QPainterPath path;
        path.addPolygon(QPolygonF(QList<QPointF>(points, points + count)));
        if (mode != PolylineMode) path.closeSubpath();
        path.setFillRule(mode == WindingMode ? Qt::WindingFill : Qt::OddEvenFill);
        const QBrush fill = brush_;
        if (mode == PolylineMode) brush_ = Qt::NoBrush;
        drawPath(path);
        brush_ = fill;
    }
    void drawPixmap(const QRectF& r, const QPixmap&, const QRectF&) override { add_picture(r); }
    void drawImage(const QRectF& r, const QImage&, const QRectF&, Qt::ImageConversionFlags) override {
        add_picture(r);
    }

    std::vector<Layer> layers;
    bool needs_picture = false;

  private:
    /// Where nothing is stroked the pen may be solid, and its brush paint nothing.
    bool strokes() const {
        return pen_.style() != Qt::NoPen && pen_.brush().style() != Qt::NoBrush && pen_.widthF() > 0;
    }
    static FillRule fill_rule(const QPainterPath& p) {
        return p.fillRule() == Qt::WindingFill ? FillRule::nonzero : FillRule::evenodd;
    }
    void add_picture(const QRectF& r) {
        needs_picture = true;
        QPainterPath path;
        path.addRect(r);
        add(QBrush(Qt::gray), FillRule::nonzero,
            [&](OutlineBuilder& b) { add_path(b, transform_.map(path)); });
    }
    void add(const QBrush& brush, FillRule rule, const std::function<void(OutlineBuilder&)>& build) {
        QColor color = brush.color();
        if (const QGradient* g = brush.gradient()) {
            needs_picture = true;
            color = g->stops().isEmpty() ? Qt::gray : g->stops().front().second;
        }
        const double alpha = color.alphaF() * opacity_;
        if (alpha <= 0 && !brush.gradient()) return;
        if (alpha < 0.999) needs_picture = true;
        OutlineBuilder builder;
        build(builder);
        Outline outline = builder.finish(rule);
        if (!outline.empty())
            layers.push_back({std::move(outline), {color.redF(), color.greenF(), color.blueF(), 1}});
    }

    QTransform transform_;
    QPen pen_;
    QBrush brush_;
    double opacity_ = 1;
};

class RecordingDevice : public QPaintDevice {
  public:
    explicit RecordingDevice(QSize size) : size_(size) {}
    QPaintEngine* paintEngine() const override { return &engine; }
    mutable Recorder engine;

  protected:
    int metric(PaintDeviceMetric m) const override {
        switch (m) {
        case PdmWidth: return size_.width();
        case PdmHeight: return size_.height();
        case PdmDepth: return 32;
        case PdmNumColors: return 0x7fffffff;
        case PdmDevicePixelRatio: return 1;
        case PdmDevicePixelRatioScaled: return static_cast<int>(devicePixelRatioFScale());
        case PdmWidthMM: return size_.width() * 254 / 960;
        case PdmHeightMM: return size_.height() * 254 / 960;
        default: return 96;
        }
    }

  private:
    QSize size_;
};

} // namespace

Asset svg_asset(std::span<const std::byte> bytes, const std::string& name) {
    if (bytes.size() > most_bytes) throw Error(name + " is larger than 16 MiB, too large for a drawing.");
    const QByteArray data(reinterpret_cast<const char*>(bytes.data()), static_cast<qsizetype>(bytes.size()));
    [[maybe_unused]] const Inspection inspected(data, name); // throws
    QSvgRenderer renderer(data);
    if (!renderer.isValid()) throw Error(name + " cannot be read as a drawing: nothing in it can be drawn.");
    QSizeF size = renderer.defaultSize();
    if (renderer.viewBoxF().isValid() && !renderer.viewBoxF().isEmpty() && !size.isValid())
        size = renderer.viewBoxF().size();
    if (size.isEmpty() || size.width() > 1e5 || size.height() > 1e5)
        throw Error(name + " cannot be read as a drawing: it states no usable size.");

    RecordingDevice device(size.toSize());
    QPainter painter(&device);
    renderer.render(&painter, QRectF(QPointF(), size));
    painter.end();
    if (device.engine.layers.empty()) throw Error(name + " holds no filled or stroked shape.");

    Asset out;
    out.width = size.width();
    out.height = size.height();
    const Affine centre = Affine::translation(-out.width / 2, -out.height / 2);
    for (Layer& layer : device.engine.layers)
        out.layers.push_back({layer.outline.transformed(centre), layer.color});
    if (device.engine.needs_picture) {
        QSizeF side = size.scaled(color_side, color_side, Qt::KeepAspectRatio);
        QImage image(side.toSize().expandedTo({1, 1}), QImage::Format_RGBA8888_Premultiplied);
        image.fill(Qt::transparent);
        QPainter on(&image);
        renderer.render(&on, QRectF(QPointF(), QSizeF(image.size())));
        on.end();
        image.convertTo(QImage::Format_RGBA8888);
        auto picture = std::make_shared<Picture>();
        picture->width = image.width(), picture->height = image.height(), picture->channels = 4;
        picture->samples.resize(4ull * image.width() * image.height());
        for (int y = 0; y < image.height(); ++y)
            std::memcpy(&picture->samples[4ull * image.width() * y], image.constScanLine(y),
                        4ull * image.width());
        picture->seal();
        out.picture = picture;
    }
    out.hash = Hash().bytes(bytes.data(), bytes.size()).value();
    return out;
}

} // namespace bathylux::files
