#pragma once
#include <QAction>
#include <QHash>
#include <QKeySequence>
#include <QList>
#include <QObject>
#include <functional>

class QMenu;
class QMenuBar;
class QWidget;

namespace bathylux {

class Document;

/// What has to be there for an action to make sense.
enum class Needs { nothing, piece, elements, steps, group, lights };

/// One thing a person can do: a line of the table from which menus, keys, the finder and what is enabled are
/// made. Code knows it by its id; the text may be in any language.
struct ActionRow {
    QString menu; // "View", or "View/Contour lines"; its text is shown as it is
    QString id;   // "" : a line between actions
    QString text;
    QKeySequence key{};
    Needs needs = Needs::piece;
    std::function<void()> run{};
};

class Actions : public QObject {
    Q_OBJECT
  public:
    explicit Actions(QWidget* window);
    /// Makes the menus and the actions; `guarded` calls what one asked for and tells what went wrong.
    void build(QMenuBar* bar, const QList<ActionRow>& rows,
               const std::function<void(const std::function<void()>&)>& guarded);
    QAction* find(const QString& id) const { return actions_.value(id); }
    QMenu* menu(const QString& path) const { return menus_.value(path); }
    /// In the order of the table.
    const QList<QAction*>& all() const { return order_; }
    /// Puts in an action made elsewhere (undo and redo).
    void take(const QString& id, QAction* action, Needs needs);
    void refresh(const Document& document, bool started);

  private:
    QMenu* menuAt(QMenuBar* bar, const QString& path);
    QWidget* window_;
    QHash<QString, QAction*> actions_;
    QHash<QString, QMenu*> menus_;
    QHash<QAction*, Needs> needs_;
    QList<QAction*> order_;
};

} // namespace bathylux
