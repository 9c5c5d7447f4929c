#pragma once
#include <QPixmap>
#include <QUrl>
#include <QWidget>

namespace bathylux {

/// The empty table: what gets depth, and the shelf of demo pieces. It is furnished when it is first seen.
class FirstPage : public QWidget {
    Q_OBJECT
  public:
    explicit FirstPage(QWidget* parent = nullptr);

  signals:
    void makeAsked(const QString& kind);
    void openAsked();
    void demoAsked(const QString& path);
    void filesDropped(const QList<QUrl>& files);

  protected:
    void showEvent(QShowEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    void furnish();
};

/// Where the shipped demo pieces lie, or "".
QString demoFolder();
/// The shelf's picture of a demo piece.
QPixmap shelfPicture(const QString& name);

} // namespace bathylux
