#pragma once
#include <QWidget>

#include "app/document/desk.h"

namespace bathylux {

/// How often each brightness occurs in the lit picture, black to white; the share that clips in the signal
/// colour.
class LightHistogram : public QWidget {
    Q_OBJECT
  public:
    explicit LightHistogram(Desk& desk, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {200, 44}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Desk& desk_;
    LightCounts shown_;
};

} // namespace bathylux
