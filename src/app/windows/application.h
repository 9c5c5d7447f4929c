#pragma once
#include <QApplication>
#include <functional>

namespace bathylux {

/// The last net: what no one else caught while an event was handled becomes a sentence, and the program goes
/// on.
class Application : public QApplication {
  public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override;
    std::function<void(const QString&)> tell; // where to
};

} // namespace bathylux
