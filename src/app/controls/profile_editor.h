#pragma once
#include <QWidget>

#include "app/controls/controls.h"

#include "core/step/points.h"
#include "core/step/profile.h"

namespace bathylux {

/// The cross-sections to choose from, drawn, with one's own curve last.
class ProfileStrip : public QWidget {
    Q_OBJECT
  public:
    explicit ProfileStrip(QWidget* parent = nullptr);
    void setProfile(const Profile& profile);
    QSize sizeHint() const override { return {260, 30}; }

  signals:
    void picked(const Profile& profile);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    QRect cell(int i) const;
    void pick(int i);
    Profile profile_;
};

/// An own profile as a curve: drag points, click between them for a new one, double-click or Delete to
/// take one away, arrow keys to nudge the chosen one.
class CurveEditor : public QWidget {
    Q_OBJECT
  public:
    explicit CurveEditor(QWidget* parent = nullptr);
    void setProfile(const Profile& profile);
    /// The same of a curve that turns only at its points (MonotoneCurve).
    void setPoints(const Points& points);
    /// How often each value that goes in occurs, drawn behind the curve.
    void setCounts(std::vector<int> counts);
    QSize sizeHint() const override { return {260, 120}; }

  signals:
    void strokeBegan();
    void changed(const Profile& profile);
    void strokeEnded();

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
    QRectF field() const;
    QPointF toScreen(std::pair<float, float> p) const;
    void movePoint(int i, float x, float y);
    void removePoint(int i);
    int pointAt(QPointF at) const;

    bool monotone_ = false;
    std::vector<int> counts_;
    Profile profile_;
    int held_ = -1, chosen_ = 0;
    bool pressed_ = false;
};

} // namespace bathylux
