#pragma once
#include <QWidget>
#include <map>

#include "app/document/desk.h"

namespace bathylux {

/// The sky over the art as a disc: overhead in the middle, the horizon as its rim, up on the canvas at the
/// top. Far lights are dots, lamps diamonds and strips bars, seen from the middle of the canvas; skies are
/// rings round the horizon. All but those are dragged, several at once.
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
    Stroke stroke_;
    double radius() const;
    QPointF middle() const;
    QPointF at(double angle, double elevation) const;
    Vec2 standpoint() const;
    std::vector<std::string> lightsAt(QPointF p) const;
    void turnAll(double angle, double elevation);
    Desk& desk_;
    std::string held_;
    std::map<std::string, Described> grabbed_; // what is turned, on the canvas, as the drag began
    bool moved_ = false, wasChosen_ = false;
    Vec2 from_; // the standpoint while dragging
};

} // namespace bathylux
