#pragma once
#include <QPointer>
#include <QWidget>

#include "app/desk.h"

class QMenu;
class QScrollArea;
class QVBoxLayout;

class QLabel;

namespace bathylux {

class ElementHead;
class ParameterControl;

/// What the piece is made of, front first. The chosen element opens where it is into a card.
class Makings : public QWidget {
    Q_OBJECT
  public:
    explicit Makings(Desk& desk, QWidget* parent = nullptr);

    /// Opens the short list of steps under the chosen element's card.
    void askForStep();
    void askForElement();
    void rename();
    void setFooter(const QString& text);

  signals:
    void addElement(const QString& kind);
    void addStep(const QString& kind);
    void elementMenu(const QPoint& global);
    void stepMenu(int step, const QPoint& global);
    void embedAsked(const QString& element);
    void relinkAsked(const QString& element);

  protected:
    void resizeEvent(QResizeEvent*) override;
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void rebuild();
    void refresh();
    QString signature() const;
    void addElements(const std::vector<Element>& list, int depth);
    QWidget* card(const Element& element, int depth);
    void addFold(QVBoxLayout* to, const QString& key, const QString& name, std::function<QString()> says,
                 const std::function<void(QVBoxLayout*)>& fill);
    void addSteps(QVBoxLayout* to, const Element& element);
    void fillSurfaceStarts(QMenu* menu);
    void addSurfaceMaps(QVBoxLayout* to, const Element& element, QWidget* frame);
    void addControl(QVBoxLayout* to, ParameterControl* control);
    void clickElement(const QString& id, Qt::KeyboardModifiers modifiers);
    void watchDrag(QWidget* handle, const QString& kind, const QString& id);
    void dragTo(const QPoint& global);
    void drop();
    void placeSticky();

    Desk& desk_;
    QScrollArea* scroll_;
    QWidget* inside_ = nullptr;
    QVBoxLayout* list_ = nullptr;
    QLabel* footer_;
    QWidget* addButton_;
    QWidget* stepButton_ = nullptr;
    QWidget* cardWidget_ = nullptr;
    ElementHead* sticky_ = nullptr;
    QString signature_;
    std::vector<ElementHead*> heads_;
    std::vector<ParameterControl*> controls_;
    std::vector<std::function<void()>> refreshers_;
    QMap<QString, bool> folds_;
    struct Drag {
        QString kind, id; // "element" or "step"
        QPoint pressed;
        bool moving = false;
        QString group; // where it would land
        int index = -1;
    } drag_;
    QWidget* dropLine_;
    std::vector<QPair<int, QWidget*>> stepRows_;
};

} // namespace bathylux
