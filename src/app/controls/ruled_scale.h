#pragma once
#include <QWidget>
#include <optional>

class QLineEdit;

namespace bathylux {

/// A number on a ruled scale: name, figure with its unit, hairline with ticks, a pointer.
///
/// Drag anywhere on it (Shift: ten times finer), arrow keys step (Page keys: ten times), typing opens the
/// figure for a number or a small sum (what is none stays there to be mended), a double click goes back to
/// the default.
class RuledScale : public QWidget {
    Q_OBJECT
  public:
    struct Look {
        QString name, unit;
        double low = 0, high = 1;           // what the ticks show
        double floor = -1e6, ceiling = 1e6; // what may be typed
        double standard = 0;                // the default
        int decimals = 2;
        bool whole = false;
        bool upDown = false;  // "up 11 px" and "down 4 px" rather than a sign
        bool percent = false; // shown times a hundred
        double pxPerMm = 1;
    };
    explicit RuledScale(Look look, QWidget* parent = nullptr);

    /// None: several things are chosen and differ.
    void setValue(std::optional<double> value);
    std::optional<double> value() const { return value_; }
    QString figure() const;

    QSize sizeHint() const override { return {200, 34}; }
    QSize minimumSizeHint() const override { return {80, 34}; }

  signals:
    void strokeBegan();
    void valueChanged(double value);
    void strokeEnded();

  protected:
    bool event(QEvent*) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override;
    void focusOutEvent(QFocusEvent*) override;
    void enterEvent(QEnterEvent*) override;
    void leaveEvent(QEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    bool eventFilter(QObject*, QEvent*) override;

  private:
    static bool opensFigure(const QKeyEvent* e);
    double position(double value) const; // 0…1 along the scale
    double step() const;
    void put(double value);
    void openFigure(const QString& start = {});
    void closeFigure(bool take);
    std::optional<double> read(const QString& text) const;
    /// Whether what stands in the open figure is one.
    bool typed() const;
    void sayUnread();

    Look look_;
    std::optional<double> value_;
    bool dragging_ = false, moved_ = false, hovered_ = false;
    QPointF last_;
    double exact_ = 0; // of a drag, before rounding
    QLineEdit* edit_ = nullptr;
};

} // namespace bathylux
