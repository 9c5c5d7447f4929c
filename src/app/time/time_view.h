#pragma once
#include <QWidget>

#include "app/time/tracks.h"

namespace bathylux {

class TimeStrip;

/// What moves, as sections through time: frames along, the value up. Keys are soundings on them; a stretch is
/// bent by pulling its ends; clips are bars, trimmed by theirs.
class TimeView : public QWidget {
    Q_OBJECT
  public:
    TimeView(Desk& desk, TimeStrip& strip, QWidget* parent = nullptr);

    const std::vector<Track>& tracks() const { return tracks_; }
    const ChosenKeys& chosen() const { return chosen_; }
    // Where things are on the widget.
    double xOf(double frame) const;
    QRectF rowOf(int track) const;
    QPointF pointOf(int track, const Key& key) const;

    void removeChosen();
    void copyChosen();
    void paste();
    void reverseChosen();

  signals:
    void refused(const QString& why);

  protected:
    bool event(QEvent*) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    enum class Hold { none, ruler, keys, frame, bendFrom, bendTo, clip, clipIn, clipOut };
    struct Reach {
        double low = 0, high = 1;
    };

    void refresh();
    QRectF plot() const;
    double frameAt(double x) const;
    int trackAt(double y) const;
    const Keys* keysOf(int track) const;
    double valueAt(int track, double frame) const;
    Reach reachOf(int track) const;
    double yOf(int track, double value) const;
    std::optional<KeyAt> keyAt(QPointF p) const;
    /// The stretch whose ends can be pulled: from a single chosen key to the next.
    std::optional<std::pair<int, std::size_t>> bent() const;
    std::array<QPointF, 2> bendPoints(int track, std::size_t key) const;
    struct ClipBar {
        double from = 0, to = 0; // frames
        double in = 0, out = 0, speed = 1, seconds = 0;
    };
    std::optional<ClipBar> clipOf(int track) const;
    void put(const QString& name, const ChangedKeys& keys);
    void bend(QPointF p);
    void dragClip(double frames);
    void addTrackMenu(QPoint at);
    static int rulerHeightOf();
    static int rowHeightOf();
    void paintRuler(QPainter& p);
    void paintTrack(QPainter& p, int track);
    void paintClip(QPainter& p, int track);
    void setAfter(int track, After after);
    void setEasing(const Easing& easing);
    QString figure(int track, double value) const;

    Desk& desk_;
    TimeStrip& strip_;
    std::vector<Track> tracks_;
    mutable std::map<int, Reach> reaches_;                        // from the lowest to the highest, by track
    mutable std::map<std::string, std::vector<double>> followed_; // what follows, over all frames
    ChosenKeys chosen_;
    std::string open_; // the path of the track that is open
    double scroll_ = 0;
    Hold hold_ = Hold::none;
    Stroke stroke_;
    QPointF pressed_, at_;
    bool dragged_ = false;
    KeyAt held_;
    double heldValue_ = 0;
    ClipBar heldClip_;
    std::shared_ptr<const Piece> before_; // as it was when the hand took hold
    ChosenKeys chosenBefore_;
    std::vector<std::pair<std::string, Keys>> copied_;
};

} // namespace bathylux
