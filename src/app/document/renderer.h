#pragma once
#include <QImage>
#include <QObject>
#include <atomic>
#include <optional>

#include "app/document/document.h"
#include "app/document/newest_first.h"
#include "core/check/checks.h"
#include "core/render/views.h"
#include "files/resolve.h"

namespace bathylux {

/// What the table wants to show.
struct Shot {
    Document::State state;
    double scale = 1; // device px per canvas px
    Region region;    // device px, within the canvas
    View left = View::height, right = View::lit;
    std::string leftMood, rightMood; // of lit views; "": the mood in use
    bool grey = false;               // heights in plain grey
    double contourStep = 0;          // canvas px; 0: a round one that fits
    bool join = false;               // the piece scrolled by half, so that its edges meet in the middle
    bool showClipped = false;        // in the lit picture, where a channel is over 1
    int frame = 0;                   // how many frames on sprites are
    bool onion = false;              // their neighbours shine through
    std::string knocked;             // the element whose open step takes of its shape: what goes is hatched
    int knockedStep = -1;
    quint64 saying = 0;      // Document::sayingFlat() of its piece
    quint64 pieceNumber = 0; // of the document's pieces; another has other small pictures
    bool coarse = false;     // while something moves
};

/// How often each brightness occurs in a lit picture, encoded 0…1, by its brightest channel; and what share
/// clips.
struct LightCounts {
    std::array<int, 96> counts{};
    double clipped = 0;
    bool empty = true;
};
LightCounts count_light(const Strip& lit);

/// What the renderer made of it.
struct Frame {
    Shot shot;
    QImage left, right;
    std::shared_ptr<const Bundle> relief; // covers the region, at the shot's scale
    std::shared_ptr<const Assets> assets;
    std::pair<float, float> range; // of the whole piece, canvas px
    double contourStep = 0;
    double milliseconds = 0;
    LightCounts light; // of the lit picture, the right one where both are; empty where none is
};

/// All that is kept while the window is open: results, pictures of clips, frames ready to be played.
constexpr std::size_t window_budget = std::size_t{768} << 20;

/// Does the work behind the window: one thread, newest request first; then small pictures of the elements;
/// then, when all rests, the checks. Signals arrive in the window's thread.
class Renderer : public QObject {
    Q_OBJECT
  public:
    explicit Renderer(std::shared_ptr<files::Resolver> resolver = nullptr, QObject* parent = nullptr);

    /// The request's number.
    quint64 request(const Shot& shot) { return worker_.ask(shot); }
    /// Shows a picture that was made before.
    void show(std::shared_ptr<Frame> frame) { emit framed(std::move(frame)); }
    /// That request is still to be answered: it was not overtaken by another, nor given up.
    bool making(quint64 request) const { return worker_.awaited(request); }
    /// Gives up the work under way; what is shown stays.
    void cancel() { worker_.giveUp(); }
    /// Nothing to do and nothing under way but checks.
    bool idle() const { return worker_.idle(); }
    /// 0…1 of the work under way, and how long it has taken, in ms.
    std::pair<double, double> progress() const;
    files::Resolver& resolver() { return *resolver_; }
    const std::shared_ptr<Budget>& budget() const { return resolver_->budget(); }
    /// What was computed is shared with others who look at the piece.
    Evaluator& evaluator() { return evaluator_; }

  signals:
    void framed(std::shared_ptr<bathylux::Frame> frame);
    void pictured(const QString& element, const QImage& picture);
    void checked(std::shared_ptr<std::vector<bathylux::Finding>> findings);
    void failed(const QString& why);

  private:
    void answer(const Shot& shot);
    /// In the window's thread.
    template <class What> void say(What what) {
        QMetaObject::invokeMethod(this, std::move(what), Qt::QueuedConnection);
    }
    std::shared_ptr<Frame> render(const Shot& shot);
    void hatchWhatGoes(QImage& image, const Scene& scene, const Shot& shot);
    void paintElements(const Shot& shot);

    std::shared_ptr<files::Resolver> resolver_;
    Evaluator evaluator_;
    std::atomic<double> done_ = 0;
    std::map<QString, std::uint64_t> pictured_; // what each element's small picture shows
    quint64 picturedPiece_ = 0;
    std::uint64_t rangeOf_ = 0;
    std::pair<float, float> range_{0, 0};
    NewestFirst<Shot> worker_; // last: it uses the others
};

/// A small picture of a piece, lit; for thumbnails.
QImage litPicture(Evaluator& evaluator, const Scene& scene, QSize box);
QImage toImage(const struct Pixels& pixels);

} // namespace bathylux
