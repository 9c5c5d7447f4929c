#pragma once
#include <QImage>
#include <QObject>

#include "app/document/renderer.h"
#include "core/render/solid_view.h"

namespace bathylux {

/// What is asked of the solid's picture.
struct SolidAsk {
    Document::State state;
    int frame = 0;
    QSize size;              // px
    bool coarse = false;     // while something moves
    std::string fault{};     // the check whose faults are hatched
    std::uint64_t ready = 0; // under what it is kept to be played again; 0: it is not
};

/// A picture of the solid, as fine as it is so far.
struct SolidFrame {
    SolidAsk ask;
    QImage image;
    QImage faults;    // hatched over it, where something is at fault
    SolidScene scene; // what was looked at
    int samples = 0;  // of `most`
    static constexpr int most = 16;
    double milliseconds = 0; // since it was asked for
};

/// Looks at the solid behind the window: coarse while the hand moves, then sample by sample finer.
class SolidRenderer : public QObject {
    Q_OBJECT
  public:
    explicit SolidRenderer(Renderer& renderer, QObject* parent = nullptr);

    void request(const SolidAsk& ask) { worker_.ask(ask); }
    /// Nothing more is asked, and the last picture is as fine as it gets.
    bool idle() const { return worker_.idle(); }

  signals:
    void pictured(std::shared_ptr<bathylux::SolidFrame> frame);
    void failed(const QString& why);

  private:
    void look(const SolidAsk& ask);
    QImage faults(const SolidAsk& ask, const Scene& scene, const SolidScene& solid);

    Renderer& renderer_;
    struct {
        std::shared_ptr<const Piece> of;
        std::string check;
        Plane map;
    } fault_;                      // the last that was asked for; of the thread
    double coarseShare_ = 0.5;     // of the picture's sides, while something moves
    NewestFirst<SolidAsk> worker_; // last: it uses the others
};

} // namespace bathylux
