#pragma once
#include <QPointer>
#include <QWidget>

#include "app/controls/pick_list.h"
#include "app/document/desk.h"
#include "app/makings/element_list.h"

class QLabel;
class QScrollArea;

namespace bathylux {

/// What the piece is made of, front first. The chosen element opens where it is into a card.
///
/// The list is a view: it is made anew when what decides which widgets there are has changed, and what it was
/// made of is never asked for again; all it does names elements and steps by id.
class Makings : public QWidget {
    Q_OBJECT
  public:
    explicit Makings(Desk& desk, QWidget* parent = nullptr);

    /// Shows what the document holds, once a piece is open.
    void refresh();
    /// Opens the short list of steps under the chosen element's card.
    void askForStep();
    void askForElement();
    void rename();
    void setFooter(const QString& text);

  signals:
    void addElement(const QString& kind);
    void addStep(const QString& kind);
    void elementMenu(const QPoint& global);
    void stepMenu(const QString& step, const QPoint& global);
    void embedAsked(const QString& element);
    void relinkAsked(const QString& element);
    void canvasAsked();

  protected:
    void resizeEvent(QResizeEvent*) override;

  private:
    /// A list that goes with the piece.
    PickList* ask(const QString& prompt, const QList<PickList::Entry>& entries);
    void rebuild();
    void placeSticky();

    Desk& desk_;
    QScrollArea* scroll_;
    QPointer<ElementList> list_;
    QWidget* addButton_;
    QLabel* footer_;
    ElementHead* sticky_; // the open card's head, while that is scrolled out of sight
    QString signature_;
    Folds folds_;
    bool rebuilding_ = false;
};

} // namespace bathylux
