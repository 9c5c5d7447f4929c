#pragma once
#include <QTimer>
#include <QWidget>

#include "app/document/desk.h"

class QLabel;
class QSpinBox;
class QToolButton;

namespace bathylux {

/// The frames of a piece that moves: to and fro, played, with their neighbours shining through.
class TimeStrip : public QWidget {
    Q_OBJECT
  public:
    explicit TimeStrip(Desk& desk, QWidget* parent = nullptr);
    int frames() const { return frames_; }
    void step(int by);
    void play(bool on);

  signals:
    void moved();

  private:
    void refresh();
    Desk& desk_;
    int frames_ = 1;
    QTimer timer_;
    QLabel* says_;
    QToolButton *play_, *onion_;
    QSpinBox* rate_;
};

} // namespace bathylux
