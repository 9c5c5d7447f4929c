#pragma once
#include <QWidget>

#include "app/controls/controls.h"

#include "app/document/desk.h"

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
    /// Shows what the document holds, once a piece is open.
    void refresh();
    void addLight(const QString& kind);
    void removeLight();
    /// Replaces the lights by a plain situation to start from.
    void arrange(const QString& situation);
    static QList<QPair<QString, QString>> situations(); // id, words
    // Set-ups of light kept in the piece.
    void keepMood();
    void nextMood();
    void deleteMood();

  signals:
    void refused(const QString& why);

  private:
    void addControls(QVBoxLayout* to, const Light& light, QWidget* parent);
    QWidget* temperatureScale(QWidget* parent);
    void fillMoods(QMenu* menu);
    void goToMood(const std::string& id);
    void fillSituations(QMenu* menu);
    void keepArrangement();
    void arrangeKept(const QString& name);
    void rebuild();
    Desk& desk_;
    QScrollArea* scroll_;
    QString signature_;
    std::vector<LightRow*> rows_;
    std::vector<ParameterControl*> controls_, footer_;
    std::vector<std::function<void()>> refreshers_;
    std::function<void()> showMore_;
    bool moreOpen_ = false;
    QToolButton *add_, *moods_;
    LightHistogram* histogram_;
};

} // namespace bathylux
