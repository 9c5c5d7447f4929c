#pragma once
#include <QMap>
#include <QPointer>
#include <QWidget>

#include "app/makings/body_card.h"
#include "app/makings/element_card.h"
#include "app/makings/element_head.h"

class QVBoxLayout;

namespace bathylux {

/// The elements of the piece, one line each, the open one as a card; and what dragging them means.
class ElementList : public QWidget {
    Q_OBJECT
  public:
    ElementList(Desk& desk, const Folds& folds, QWidget* parent = nullptr);
    /// What decides which widgets there are; values alone do not.
    static QString signature(const Desk& desk, const Folds& folds);
    /// Shows what the piece says now.
    void refresh();
    QWidget* card() const { return card_; }
    ElementHead* openHead() const { return openHead_; }
    QWidget* stepButton() const { return card_ ? card_->stepButton() : nullptr; }

  signals:
    void stepAsked();
    void elementMenu(const QPoint& global);
    void stepMenu(const QString& step, const QPoint& global);
    void embedAsked(const QString& element);
    void relinkAsked(const QString& element);
    void foldAsked(const QString& key);
    void canvasAsked();

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void add(const Elements& list, int depth);
    void addFinish();
    void addGround();
    void showGround();
    void addLine(const Element& e, const ElementHead::Face& face);
    void addHead(ElementHead* head);
    void click(const QString& id, Qt::KeyboardModifiers modifiers);
    void watchDrag(QWidget* handle, const QString& kind, const QString& id);
    void dragTo(const QPoint& global);
    void dragStepTo(const QPoint& global);
    void showDrop(QRect where);
    void drop();
    void endDrag();

    Desk& desk_;
    const Folds& folds_;
    QVBoxLayout* box_;
    QPointer<ElementCard> card_;
    QPointer<ElementHead> openHead_;
    BodyCard* body_ = nullptr;
    ElementHead* ground_ = nullptr;
    std::vector<ElementHead*> heads_; // children of this, front first
    struct Drag {
        QString kind, id; // "element" or "step"
        QPoint pressed;
        bool moving = false;
        QString group; // where it would land
        int index = -1;
    } drag_;
    QWidget* dropLine_;
};

} // namespace bathylux
