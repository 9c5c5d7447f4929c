#pragma once
#include <QWidget>

#include "app/controls/controls.h"

namespace bathylux {

class Switch;

/// A line that says what a step (or a folded part of a card) does; a click opens it, a switch turns it off.
class StepRow : public QWidget {
    Q_OBJECT
  public:
    StepRow(bool withSwitch, QWidget* parent);
    void setFace(const QString& name, const QString& says, bool on, bool open);
    Switch* onSwitch() const { return switch_; }
    QSize sizeHint() const override { return {200, 28}; }

  signals:
    void clicked();
    void toggled(bool on);
    void menuAsked(const QPoint& global);
    void removeAsked();

  protected:
    bool event(QEvent* e) override { return (switch_ && keepsKey(e)) || QWidget::event(e); }
    void paintEvent(QPaintEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
    void enterEvent(QEnterEvent*) override { hovered_ = true, update(); }
    void leaveEvent(QEvent*) override { hovered_ = false, update(); }

  private:
    QString name_, says_;
    bool on_ = true, open_ = false, hovered_ = false;
    Switch* switch_ = nullptr;
};

} // namespace bathylux
