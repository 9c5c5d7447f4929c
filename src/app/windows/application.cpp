#include "app/windows/application.h"

#include <QAbstractItemView>
#include <QFileDialog>
#include <QMouseEvent>
#include <QWidget>
#include <new>
#include <utility>

#include "core/error.h"

namespace bathylux {

namespace {

/// Qt's own picker begins to rename what is chosen at F2, files and folders, and takes it at Enter, unasked.
/// While something is looked for nothing of the disk is changed at all; where it is written, a folder can
/// still be made, and renamed by its menu.
void onlyPick(QFileDialog& picker) {
    if (picker.acceptMode() == QFileDialog::AcceptOpen && picker.fileMode() != QFileDialog::Directory)
        picker.setOption(QFileDialog::ReadOnly);
    for (QAbstractItemView* list : picker.findChildren<QAbstractItemView*>())
        list->setEditTriggers(QAbstractItemView::NoEditTriggers);
}

} // namespace

void Application::letGo(const QMouseEvent& now) {
    const QPointer<QWidget> from = std::exchange(pressed_, nullptr);
    if (!from) return;
    const QPointF global = now.globalPosition();
    QMouseEvent release(QEvent::MouseButtonRelease, from->mapFromGlobal(global), global, button_,
                        Qt::NoButton, now.modifiers());
    sendEvent(from, &release);
}

void Application::watchButtons(QWidget* receiver, const QMouseEvent& event) {
    switch (event.type()) {
    case QEvent::MouseButtonPress:
    case QEvent::MouseButtonDblClick:
        if (event.buttons() != event.button()) break; // another one is down already
        letGo(event);
        pressed_ = receiver, button_ = event.button();
        break;
    case QEvent::MouseButtonRelease:
        if (event.buttons() == Qt::NoButton) pressed_ = nullptr;
        break;
    case QEvent::MouseMove:
        if (event.buttons() == Qt::NoButton) letGo(event);
        break;
    default: break;
    }
}

bool Application::notify(QObject* receiver, QEvent* event) {
    QString trouble;
    try {
        if (event->isPointerEvent() && receiver->isWidgetType())
            if (const auto* mouse = dynamic_cast<QMouseEvent*>(event))
                watchButtons(static_cast<QWidget*>(receiver), *mouse);
        if (event->type() == QEvent::Show)
            if (auto* picker = qobject_cast<QFileDialog*>(receiver)) onlyPick(*picker);
        return QApplication::notify(receiver, event);
    } catch (const Cancelled&) {
        return false; // one asked for it
    } catch (const Error& e) {
        trouble = QString::fromUtf8(e.what());
    } catch (const std::bad_alloc&) {
        trouble = tr("There is not enough memory for that; the piece is as it was.");
    } catch (const std::exception& e) {
        trouble = tr("That could not be done (%1); the piece is as it was.").arg(QString::fromUtf8(e.what()));
    } catch (...) {
        trouble = tr("That could not be done; the piece is as it was.");
    }
    if (tell) tell(trouble);
    return false;
}

} // namespace bathylux
