#pragma once
#include <QWidget>

#include "app/controls/controls.h"
#include "app/document/desk.h"

class QLineEdit;

namespace bathylux {

/// One light: its dot (a click switches it), name, intensity.
class LightRow : public QWidget {
    Q_OBJECT
  public:
    LightRow(Desk& desk, const std::string& id, QWidget* parent);
    QSize sizeHint() const override { return {200, 34}; }
    const std::string& id() const { return id_; }

  protected:
    bool event(QEvent* e) override { return keepsKey(e) || keepsKey(e, Qt::Key_K) || QWidget::event(e); }
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

    void resizeEvent(QResizeEvent*) override;

  private:
    Stroke stroke_;
    const Light* light() const;
    QRectF scale() const;
    void setIntensity(double v);
    Desk& desk_;
    std::string id_;
    bool dragging_ = false;
    QPointF last_;
    double exact_ = 0;
    QLineEdit* edit_ = nullptr;
    MotionMark* mark_; // of its intensity
};

} // namespace bathylux
