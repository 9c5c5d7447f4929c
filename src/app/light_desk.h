#pragma once
#include <QWidget>

#include "app/controls.h"

#include "app/desk.h"

class QScrollArea;
class QVBoxLayout;

class QLineEdit;
class QMenu;
class QToolButton;

namespace bathylux {

class LightHistogram;
class LightRow;

/// The lights of the piece: sky chart, rows, the chosen one's controls; ambient light and exposure at the
/// foot.
class LightDesk : public QWidget {
    Q_OBJECT
  public:
    explicit LightDesk(Desk& desk, QWidget* parent = nullptr);
    void addLight(const QString& kind);
    void removeLight();
    /// Replaces the lights by a plain situation to start from.
    void arrange(const QString& situation);
    static QList<QPair<QString, QString>> situations(); // id, words
    // Set-ups of light kept in the piece.
    void keepTake();
    void nextTake();
    void deleteTake();

  signals:
    void refused(const QString& why);

  private:
    void addControls(QVBoxLayout* to, const Light& light, QWidget* parent);
    QWidget* temperatureScale(QWidget* parent);
    void fillTakes(QMenu* menu);
    void goToTake(const std::string& id);
    void fillSituations(QMenu* menu);
    void keepArrangement();
    void arrangeKept(const QString& name);
    void rebuild();
    void refresh();
    Desk& desk_;
    QScrollArea* scroll_;
    QString signature_;
    std::vector<LightRow*> rows_;
    std::vector<ParameterControl*> controls_, footer_;
    std::vector<std::function<void()>> refreshers_;
    std::function<void()> showMore_;
    bool moreOpen_ = false;
    QToolButton *add_, *takes_;
    LightHistogram* histogram_;
};

/// One light: its dot (a click switches it), name, intensity.
class LightRow : public QWidget {
    Q_OBJECT
  public:
    LightRow(Desk& desk, const std::string& id, QWidget* parent);
    QSize sizeHint() const override { return {200, 34}; }
    const std::string& id() const { return id_; }

  protected:
    bool event(QEvent* e) override { return (keepsDelete(e)) || QWidget::event(e); }
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    const Light* light() const;
    QRectF scale() const;
    void setIntensity(double v);
    Desk& desk_;
    std::string id_;
    bool dragging_ = false;
    QPointF last_;
    double exact_ = 0;
    QLineEdit* edit_ = nullptr;
};

} // namespace bathylux
