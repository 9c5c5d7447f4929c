#pragma once
#include <QWidget>

#include "app/controls/controls.h"
#include "core/step/stops.h"

namespace bathylux {

/// A ramp as a ruled strip of colour with pointers under it: drag them, double-click the strip to add one,
/// pull one off to take it away; arrow keys move the chosen one, Delete takes it away.
class StopsStrip : public QWidget {
    Q_OBJECT
  public:
    explicit StopsStrip(QWidget* parent = nullptr);
    void setStops(const Stops& stops);
    /// How colours in between are drawn.
    void setMixIn(MixIn mixIn);
    const Stops& stops() const { return stops_; }
    int chosen() const { return chosen_; }
    void choose(int i);
    QSize sizeHint() const override { return {260, 48}; }

  signals:
    void strokeBegan();
    void changed(const bathylux::Stops& stops);
    void strokeEnded();
    void chosenChanged();
    /// A pointer was double-clicked.
    void colorAsked();

  protected:
    bool event(QEvent* e) override { return keepsKey(e) || QWidget::event(e); }
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    QRect strip() const { return {7, 4, width() - 15, 20}; }
    float placeOf(int x) const;
    int xOf(float place) const;
    int pointerAt(QPoint p) const;
    void moveTo(int i, float place);
    void add(float place);
    void remove(int i);

    Stops stops_{{0, {}}};
    MixIn mixIn_ = MixIn::encoded;
    int chosen_ = 0, held_ = -1;
    bool pulledOff_ = false;
};

/// Stops with the chosen one's place and colour, and ramps kept by name.
ParameterControl* makeStopsControl(const Parameter& parameter, Binding binding, Document& document,
                                   QWidget* parent);

} // namespace bathylux
