#pragma once
#include <QFrame>
#include <QIcon>
#include <QList>

class QLineEdit;
class QListWidget;

namespace bathylux {

/// A short list that opens by a button or a key, narrowed by typing, taken with Return or a click.
class PickList : public QFrame {
    Q_OBJECT
  public:
    struct Entry {
        QString id, name, help, group, shortcut;
        QString icon;
        bool enabled = true;
    };
    PickList(const QString& prompt, QList<Entry> entries, QWidget* parent);
    /// Opens below (or above) a point of the screen.
    void openAt(const QPoint& global, int width = 300);

  signals:
    void picked(const QString& id);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void fill();
    void fitHeight();
    void take();
    QList<Entry> entries_;
    QLineEdit* edit_;
    QListWidget* list_;
};

} // namespace bathylux
