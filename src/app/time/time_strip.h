#pragma once
#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>

#include "app/document/desk.h"

class QLabel;
class QToolButton;

namespace bathylux {

/// Of a piece that runs: play, loop, frame by frame and key by key, its rate and length.
class TimeStrip : public QWidget {
    Q_OBJECT
  public:
    explicit TimeStrip(Desk& desk, QWidget* parent = nullptr);
    int frames() const { return frames_; }
    void step(int by);
    void go(int frame);
    /// To the next key of anything, or the one before.
    void toKey(int direction);
    void play(bool on);
    bool playing() const { return desk_.playing; }
    void setSeconds(bool on);
    bool seconds() const { return seconds_; }
    /// What is played; the whole where it is empty.
    void setRange(int first, int last);
    std::pair<int, int> range() const;
    /// A frame as it is told: its number, or seconds.
    QString told(double frame) const;
    /// What of it matters beside the tracks alone.
    QList<QWidget*> details() const;

  signals:
    void moved();
    void toldOtherwise();

  private:
    void refresh();
    void tick();
    void askTiming();
    Desk& desk_;
    int frames_ = 1;
    QTimer timer_;
    QElapsedTimer clock_;
    int playedFrom_ = 0;
    bool seconds_ = false;
    std::optional<std::pair<int, int>> range_;
    QLabel* says_;
    QToolButton *play_, *loop_, *onion_, *rate_, *unit_;
};

} // namespace bathylux
