#include "app/document/renderer.h"

#include <QElapsedTimer>
#include <QPainter>

#include "core/error.h"
#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "core/render/develop.h"
#include "core/render/heap.h"
#include "core/step/height.h"
#include "files/export.h"

namespace bathylux {

namespace {

constexpr QSize thumbSize(62, 40); // twice that in px, for dense screens

QImage develop(View view, const Strip& s, const Frame& frame) {
    const int w = s.region.width(), h = s.region.height();
    switch (view) {
    case View::height: {
        ChartStyle style{frame.range.first, frame.range.second, static_cast<float>(frame.contourStep),
                         frame.shot.grey};
        return toImage(develop_height(s.channels[0], w, h, style));
    }
    case View::normals: return toImage(develop_normals({s.channels[0], s.channels[1], s.channels[2]}, w, h));
    case View::art:
    case View::lit:
    case View::unfinished:
        return toImage(develop_color({s.channels[0], s.channels[1], s.channels[2]}, s.channels[3], w, h));
    case View::occlusion:
    case View::slope:
    case View::curvature:
    case View::roughness:
    case View::metallic:
    case View::mask: {
        // Black none, white in full, as the map holds it.
        Field share = s.channels[0];
        Plane& p = share.writable(w, h);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) p(x, y) = as_share(view, p(x, y));
        return toImage(develop_height(share, w, h, {0, 1, 0, true}));
    }
    }
    return {};
}

/// Fills with the signal colour where some channel of the straight colour is over 1.
void markClipped(QImage& image, const Strip& s) {
    const int w = s.region.width();
    const Rows r(s.channels[0], w), g(s.channels[1], w), b(s.channels[2], w), a(s.channels[3], w);
    for (int y = 0; y < s.region.height(); ++y) {
        auto* row = reinterpret_cast<QRgb*>(image.scanLine(y));
        for (int x = 0; x < w; ++x)
            if (std::max({r(y)[x], g(y)[x], b(y)[x]}) > a(y)[x] && a(y)[x] > 0) row[x] = qRgb(228, 102, 76);
    }
}

/// So that what was at the edges lies in the middle.
QImage scrolledByHalf(const QImage& from) {
    QImage out(from.size(), from.format());
    const int w = from.width(), h = from.height(), dx = w / 2, dy = h / 2;
    for (int y = 0; y < h; ++y) {
        const uchar* row = from.constScanLine((y + dy) % h);
        std::memcpy(out.scanLine(y), row + 4 * dx, 4ull * (w - dx));
        std::memcpy(out.scanLine(y) + 4ull * (w - dx), row, 4ull * dx);
    }
    return out;
}

} // namespace

QImage toImage(const Pixels& pixels) {
    // QImage's rows start on four bytes, and so do ours.
    const QImage view(reinterpret_cast<const uchar*>(pixels.argb.data()), pixels.width, pixels.height,
                      4 * pixels.width, QImage::Format_ARGB32_Premultiplied);
    return view.copy();
}

QImage litPicture(Evaluator& evaluator, const Scene& scene, QSize box) {
    const Canvas& c = scene.piece->canvas;
    const double scale = std::min({1.0, box.width() / double(c.width), box.height() / double(c.height)});
    const Region all = canvas_region(c, scale);
    const Strip s = look(evaluator, scene, View::lit, all, scale);
    return toImage(develop_color({s.channels[0], s.channels[1], s.channels[2]}, s.channels[3], all.width(),
                                 all.height()));
}

Renderer::Renderer(std::shared_ptr<files::Resolver> resolver, QObject* parent)
    : QObject(parent),
      resolver_(resolver ? std::move(resolver) : std::make_shared<files::Resolver>(window_budget)),
      evaluator_(resolver_->budget()),
      worker_([this](const Shot& shot) { answer(shot); },
              [this](const QString& why) { say([this, why] { emit failed(why); }); }) {
    qRegisterMetaType<std::shared_ptr<bathylux::Frame>>();
    qRegisterMetaType<std::shared_ptr<std::vector<bathylux::Finding>>>();
}

std::pair<double, double> Renderer::progress() const { return {done_, worker_.milliseconds()}; }

void Renderer::answer(const Shot& shot) {
    done_ = 0;
    const auto frame = render(shot);
    say([this, frame] { emit framed(frame); });
    if (shot.coarse) return;
    worker_.answered();
    paintElements(shot);
    // Checks wait until the hand has rested a while.
    if (worker_.calledWithin(std::chrono::milliseconds(350))) return;
    const Scene scene{shot.state.piece, frame->assets, shot.frame};
    const Canvas& canvas = shot.state.piece->canvas;
    // A very large piece is looked at in hundreds of tiles: what holes they leave would add up.
    std::optional<NoHoles> tidy;
    if (static_cast<double>(canvas.width) * canvas.height > 64e6) tidy.emplace();
    auto findings = std::make_shared<std::vector<Finding>>(check_piece(evaluator_, scene));
    say([this, findings] { emit checked(findings); });
}

/// Hatches, over a view, what a step that knocks a background out takes away.
void Renderer::hatchWhatGoes(QImage& image, const Scene& scene, const Shot& shot) {
    if (!find_element(scene.piece->elements, shot.knocked)) return;
    const Bundle before = evaluator_.element(scene, shot.knocked, shot.region, shot.scale, shot.knockedStep),
                 after =
                     evaluator_.element(scene, shot.knocked, shot.region, shot.scale, shot.knockedStep + 1);
    const Region r = intersect(before.region, shot.region);
    for (int y = r.y0; y < r.y1; ++y) {
        auto* row = reinterpret_cast<QRgb*>(image.scanLine(y - shot.region.y0)) - shot.region.x0;
        for (int x = r.x0; x < r.x1; ++x) {
            const float was = before.coverage.at(x - before.region.x0, y - before.region.y0);
            const bool in = !after.region.empty() && x >= after.region.x0 && y >= after.region.y0 &&
                            x < after.region.x1 && y < after.region.y1;
            const float gone =
                was - (in ? after.coverage.at(x - after.region.x0, y - after.region.y0) : 0.0f);
            if (gone <= 0.02f) continue;
            // Lines of the signal colour, six px apart, over a thin wash of it.
            const int k = qRound(255 * std::min(1.0f, gone) * ((x + y) % 6 < 2 ? 0.75f : 0.22f));
            const QRgb p = row[x];
            const auto mix = [&](int to, int from) { return (to * k + from * (255 - k)) / 255; };
            row[x] = qRgba(mix(228, qRed(p)), mix(102, qGreen(p)), mix(76, qBlue(p)), mix(255, qAlpha(p)));
        }
    }
}

LightCounts count_light(const Strip& lit) {
    LightCounts out;
    const int w = lit.region.width(), h = lit.region.height();
    const int step = std::max(1, static_cast<int>(std::sqrt(double(w) * h / 60000)));
    long long all = 0, over = 0;
    for (int y = 0; y < h; y += step)
        for (int x = 0; x < w; x += step) {
            const float a = lit.channels[3].at(x, y);
            if (a <= 0) continue;
            float v = 0;
            for (int c = 0; c < 3; ++c) v = std::max(v, lit.channels[c].at(x, y) / a);
            ++all, over += v > 1.0005f;
            const int bins = static_cast<int>(out.counts.size());
            ++out.counts[std::clamp(static_cast<int>(fast_srgb_encode(std::min(v, 1.0f)) * bins), 0,
                                    bins - 1)];
        }
    out.empty = all == 0;
    out.clipped = all ? static_cast<double>(over) / all : 0;
    return out;
}

std::shared_ptr<Frame> Renderer::render(const Shot& shot) {
    QElapsedTimer timer;
    timer.start();
    auto frame = std::make_shared<Frame>();
    frame->shot = shot;
    const Piece& piece = *shot.state.piece;
    frame->assets = resolver_->resolve(piece, shot.state.store, shot.frame);
    const Scene scene{shot.state.piece, frame->assets, shot.frame};

    const std::uint64_t relief = relief_hash(scene);
    // A side may be lit by another mood than the one in use.
    const auto lit_by = [&](const std::string& mood) {
        if (mood.empty() || mood == piece.mood) return scene;
        auto other = std::make_shared<Piece>(piece);
        use_mood(*other, mood);
        return Scene{other, frame->assets, shot.frame};
    };
    const Scene left = lit_by(shot.leftMood), right = lit_by(shot.rightMood);
    // The relief is kept between questions: moving a light lights only.
    frame->relief = std::make_shared<const Bundle>(
        evaluator_.relief(scene, shot.region, shot.scale, [this](double d) { done_ = 0.6 * d; }));

    if (piece.canvas.height_range)
        frame->range = *piece.canvas.height_range;
    else if (shot.region == canvas_region(piece.canvas, shot.scale))
        frame->range = range_of(frame->relief->height), rangeOf_ = relief, range_ = frame->range;
    else {
        if (rangeOf_ != relief) {
            const double small =
                std::min(1.0, std::sqrt(2.5e5 / (double(piece.canvas.width) * piece.canvas.height)));
            range_ = range_of(
                evaluator_.relief(scene, canvas_region(piece.canvas, small), small, {}, channel::height)
                    .height);
            rangeOf_ = relief;
        }
        frame->range = range_;
    }
    frame->contourStep = shot.contourStep > 0
                             ? shot.contourStep
                             : double(round_contour_step(frame->range.first, frame->range.second));

    const auto seen = [&](View view, const Scene& of, bool count) {
        const Strip s = look(evaluator_, of, view, shot.region, shot.scale);
        QImage image = develop(view, s, *frame);
        if (is_lit(view) && count) frame->light = count_light(s);
        if (is_lit(view) && shot.showClipped) markClipped(image, s);
        return image;
    };
    const int frames = shot.onion && !shot.coarse ? files::frame_count(scene) : 1;
    const auto picture = [&](View view, const Scene& of) {
        QImage image = seen(view, of, true);
        // Neighbours of a frame shine through, faintly.
        if (frames > 1 && is_color(view)) {
            QPainter p(&image);
            for (const int by : {-1, 1}) {
                Scene other = of;
                other.frame += by;
                p.setOpacity(0.22);
                p.drawImage(0, 0, seen(view, other, false));
            }
        }
        if (!shot.knocked.empty() && is_color(view)) hatchWhatGoes(image, scene, shot);
        if (shot.join) image = scrolledByHalf(image);
        return image;
    };
    frame->left = picture(shot.left, left);
    done_ = 0.8;
    const bool same = shot.left == shot.right && (shot.left != View::lit || shot.leftMood == shot.rightMood);
    frame->right = same ? frame->left : picture(shot.right, right);
    frame->milliseconds = static_cast<double>(timer.nsecsElapsed()) / 1e6;
    return frame;
}

void Renderer::paintElements(const Shot& shot) {
    const Scene scene{shot.state.piece, resolver_->resolve(*shot.state.piece, shot.state.store, shot.frame),
                      shot.frame};
    const Lighting lighting = lighting_of(scene);
    if (picturedPiece_ != shot.pieceNumber) pictured_.clear(), picturedPiece_ = shot.pieceNumber;
    Graph graph(scene, 1);
    for_each_element(shot.state.piece->elements, [&](const Element& e) {
        stop_here();
        const std::uint64_t shows = (Hash() << graph.element(e.id)->hash << lighting.exposure).value();
        const QString id = QString::fromStdString(e.id);
        if (const auto found = pictured_.find(id); found != pictured_.end() && found->second == shows) return;

        const Box box = element_box(scene, e, root_placed(1));
        const Canvas& canvas = shot.state.piece->canvas;
        const double w = std::clamp(box.width(), 1.0, double(canvas.width)),
                     ht = std::clamp(box.height(), 1.0, double(canvas.height));
        const double scale =
            std::min(1.0, 0.94 * std::min(2.0 * thumbSize.width() / w, 2.0 * thumbSize.height() / ht));
        const Region all = canvas_region(canvas, scale);
        const Vec2 c = box.empty() ? Vec2{canvas.width / 2.0, canvas.height / 2.0} : box.centre();
        const int x = static_cast<int>(c.x * scale) - thumbSize.width(),
                  y = static_cast<int>(c.y * scale) - thumbSize.height();
        const Region part = intersect({x, y, x + 2 * thumbSize.width(), y + 2 * thumbSize.height()}, all);
        QImage image(2 * thumbSize, QImage::Format_ARGB32_Premultiplied);
        image.fill(Qt::transparent);
        if (!part.empty()) {
            const Bundle b = evaluator_.element(scene, e.id, part, scale);
            if (!b.region.empty()) {
                const Strip s = view_of(View::lit, b, b.region, scale, canvas.edge, lighting);
                const QImage lit = toImage(develop_color({s.channels[0], s.channels[1], s.channels[2]},
                                                         s.channels[3], b.region.width(), b.region.height()));
                for (int row = 0; row < lit.height(); ++row)
                    if (const int to = b.region.y0 - y + row; to >= 0 && to < image.height())
                        if (const int at = b.region.x0 - x; at >= 0 && at + lit.width() <= image.width())
                            memcpy(image.scanLine(to) + 4 * at, lit.constScanLine(row), 4ull * lit.width());
            }
        }
        pictured_[id] = shows;
        QMetaObject::invokeMethod(
            this, [this, id, image] { emit pictured(id, image); }, Qt::QueuedConnection);
    });
}

} // namespace bathylux
