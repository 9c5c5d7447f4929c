#include "app/solid/solid_renderer.h"

#include <QElapsedTimer>

#include "app/controls/theme.h"
#include "core/check/faults.h"
#include "core/render/develop.h"

namespace bathylux {

SolidRenderer::SolidRenderer(Renderer& renderer, QObject* parent)
    : QObject(parent), renderer_(renderer),
      worker_([this](const SolidAsk& ask) { look(ask); },
              [this](const QString& why) {
                  QMetaObject::invokeMethod(
                      this, [this, why] { emit failed(why); }, Qt::QueuedConnection);
              }) {
    qRegisterMetaType<std::shared_ptr<bathylux::SolidFrame>>();
}

void SolidRenderer::look(const SolidAsk& ask) {
    QElapsedTimer timer;
    timer.start();
    const Scene scene{ask.state.piece,
                      renderer_.resolver().resolve(*ask.state.piece, ask.state.store, ask.frame), ask.frame};
    Evaluator& evaluator = renderer_.evaluator();
    const SolidScene solid = solid_scene(evaluator, scene, ask.coarse);
    const double share = ask.coarse ? coarseShare_ : 1;
    const int w = std::max(1, qRound(ask.size.width() * share)),
              h = std::max(1, qRound(ask.size.height() * share));
    SolidPicture picture(w, h);
    QImage faulty;
    for (const int until : ask.coarse ? std::vector{1} : std::vector{1, 3, 8, SolidFrame::most}) {
        QElapsedTimer pass;
        pass.start();
        picture.add(solid, until - picture.samples());
        // As fine as keeps up with the hand.
        if (until == 1) {
            const double full = static_cast<double>(pass.elapsed()) / (share * share);
            coarseShare_ = std::clamp(std::sqrt(35.0 / std::max(1.0, full)), 0.25, 0.75);
        }
        if (!ask.coarse && faulty.isNull()) faulty = faults(ask, scene, solid);
        auto frame = std::make_shared<SolidFrame>();
        frame->faults = faulty;
        frame->ask = ask;
        frame->scene = solid;
        frame->samples = picture.samples();
        const Bundle lit = finished_solid(evaluator, scene, solid, picture);
        frame->image = toImage(develop_color({lit.color[0], lit.color[1], lit.color[2]}, lit.coverage, w, h));
        frame->milliseconds = static_cast<double>(timer.elapsed());
        QMetaObject::invokeMethod(
            this, [this, frame] { emit pictured(frame); }, Qt::QueuedConnection);
    }
}

/// Hatched where the relief is at fault, at half the picture's size.
QImage SolidRenderer::faults(const SolidAsk& ask, const Scene& scene, const SolidScene& solid) {
    const auto fault = fault_of(*scene.piece, ask.fault);
    if (!fault) return {};
    if (fault_.of != scene.piece || fault_.check != ask.fault)
        fault_ = {scene.piece, ask.fault, fault_map(renderer_.evaluator(), scene, *fault)};
    const int w = std::max(1, ask.size.width() / 2), h = std::max(1, ask.size.height() / 2);
    const auto seen = canvas_seen(solid, w, h);
    const QRgb ink = Theme::current().signal.rgb();
    QImage out(w, h, QImage::Format_ARGB32_Premultiplied);
    out.fill(Qt::transparent);
    for (int y = 0; y < h; ++y) {
        auto* to = reinterpret_cast<QRgb*>(out.scanLine(y));
        for (int x = 0; x < w; ++x) {
            const float cx = seen[0](x, y), cy = seen[1](x, y);
            if (!(cx >= 0) || !(cy >= 0)) continue;
            const int i = std::min(fault_.map.width() - 1, static_cast<int>(cx)),
                      j = std::min(fault_.map.height() - 1, static_cast<int>(cy));
            if (fault_.map(i, j) > 0)
                to[x] = qPremultiply(qRgba(qRed(ink), qGreen(ink), qBlue(ink), (x + y) % 4 < 2 ? 235 : 90));
        }
    }
    return out;
}

} // namespace bathylux
