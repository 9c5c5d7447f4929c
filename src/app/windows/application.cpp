#include "app/windows/application.h"

#include <new>

#include "core/error.h"

namespace bathylux {

bool Application::notify(QObject* receiver, QEvent* event) {
    QString trouble;
    try {
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
