#pragma once
#include <QWidget>
#include <vector>

namespace bathylux {

/// The outline of a histogram that stands on a field's lower edge. Roots of the counts: rare tones stay
/// visible beside common ones.
QPainterPath histogramShape(const std::vector<int>& counts, const QRectF& field);

/// The histogram of a picture's tones with the window that becomes height: drag either end, or the middle
/// to slide both; double-click stretches it to the picture's own range.
class ToneWindow : public QWidget {
    Q_OBJECT
  public:
    explicit ToneWindow(QWidget* parent = nullptr);
    void setCounts(std::vector<int> counts);
    void setWindow(double low, double high);
    QSize sizeHint() const override { return {260, 92}; }

  signals:
    void strokeBegan();
    void windowChanged(double low, double high);
    void strokeEnded();
    void stretchAsked();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    double x(double tone) const;
    double tone(double x) const;
    enum class Hold { none, low, high, both } hold_ = Hold::none;
    std::vector<int> counts_;
    double low_ = 0, high_ = 1, grabbed_ = 0, grabbedLow_ = 0, grabbedHigh_ = 1;
};

} // namespace bathylux
