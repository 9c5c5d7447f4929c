#pragma once
#include <QApplication>
#include <QPointer>
#include <functional>

class QMouseEvent;
class QWidget;

namespace bathylux {

/// The last net: what no one else caught while an event was handled becomes a sentence, and the program goes
/// on; and a mouse button that was let go where nobody told of it, since another window had the pointer, is
/// let go as soon as the pointer shows without it. Nothing on the disk is renamed or removed by a stray key
/// while a file is picked.
class Application : public QApplication {
  public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override;
    std::function<void(const QString&)> tell; // where to

  private:
    void watchButtons(QWidget* receiver, const QMouseEvent& event);
    void letGo(const QMouseEvent& now);
    QPointer<QWidget> pressed_; // what the first button that is down was pressed on
    Qt::MouseButton button_{};
};

} // namespace bathylux
