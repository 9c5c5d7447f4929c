#include "app/windows/actions.h"

#include <QMenu>
#include <QMenuBar>

#include "app/document/document.h"

namespace bathylux {

Actions::Actions(QWidget* window) : QObject(window), window_(window) {}

QMenu* Actions::menuAt(QMenuBar* bar, const QString& path) {
    if (QMenu* known = menus_.value(path)) return known;
    const auto slash = path.lastIndexOf('/');
    QMenu* made =
        slash < 0 ? bar->addMenu(path) : menuAt(bar, path.left(slash))->addMenu(path.mid(slash + 1));
    return menus_[path] = made;
}

void Actions::build(QMenuBar* bar, const QList<ActionRow>& rows,
                    const std::function<void(const std::function<void()>&)>& guarded) {
    for (const ActionRow& row : rows) {
        QMenu* menu = menuAt(bar, row.menu);
        if (row.id.isEmpty()) {
            menu->addSeparator();
            continue;
        }
        if (!row.run) {
            // Made elsewhere, and shown here.
            if (QAction* known = find(row.id)) menu->addAction(known);
            continue;
        }
        auto* a = new QAction(row.text, window_);
        a->setObjectName(row.id);
        if (!row.key.isEmpty()) a->setShortcut(row.key);
        a->setShortcutContext(Qt::WindowShortcut);
        connect(a, &QAction::triggered, this, [guarded, run = row.run] { guarded(run); });
        menu->addAction(a);
        window_->addAction(a);
        Q_ASSERT(!actions_.contains(row.id));
        actions_[row.id] = a;
        needs_[a] = row.needs;
        order_ << a;
    }
}

void Actions::take(const QString& id, QAction* action, Needs needs) {
    action->setObjectName(id);
    actions_[id] = action;
    needs_[action] = needs;
    order_ << action;
}

void Actions::refresh(const Document& doc, bool started) {
    const Element* open = doc.openElement();
    const bool some = started && open && open->id != finish_id, has_steps = started && open;
    for (auto it = needs_.begin(); it != needs_.end(); ++it) {
        if (it.key()->objectName() == "undo" || it.key()->objectName() == "redo")
            continue; // the history's own
        switch (it.value()) {
        case Needs::nothing: break;
        case Needs::piece: it.key()->setEnabled(started); break;
        case Needs::elements: it.key()->setEnabled(some); break;
        case Needs::steps: it.key()->setEnabled(has_steps); break;
        case Needs::group: it.key()->setEnabled(some && open && open->is_group()); break;
        case Needs::lights: it.key()->setEnabled(started && doc.light()); break;
        }
    }
    // Edits of a piece that may only be looked at do nothing; saving under another name stays.
    if (QAction* save = find("save"); save && doc.readOnly()) save->setEnabled(false);
}

} // namespace bathylux
