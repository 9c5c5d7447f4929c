#pragma once
#include <QWidget>

#include "app/desk.h"

namespace bathylux {

/// The sky over the art as a disc: overhead in the middle, the horizon as its rim, up on the canvas at the
/// top. Far lights are dots, lamps are diamonds seen from the sounding point. All are dragged.
class SkyChart : public QWidget {
    Q_OBJECT
  public:
    explicit SkyChart(Desk& desk, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {220, 184}; }
    /// Where a light stands on the chart, in px.
    QPointF placeOf(const Light& light) const;

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    double radius() const;
    QPointF middle() const;
    QPointF at(double angle, double elevation) const;
    Vec2 standpoint() const;
    void put(const std::string& id, double angle, double elevation);
    Desk& desk_;
    std::string held_;
    bool moved_ = false, wasChosen_ = false;
    Vec2 from_; // the standpoint while dragging
};

} // namespace bathylux
