#pragma once
#include <QListWidget>

namespace bathylux {

/// Pictures side by side, each with a name and a line below it, to choose among.
class PictureTiles : public QListWidget {
    Q_OBJECT
  public:
    explicit PictureTiles(QSize picture, QWidget* parent = nullptr);
    void addTile(const QString& name, const QString& about, const QVariant& kept);
    void setPicture(int row, const QImage& image);
    void setTrouble(int row, const QString& why);
    QSize pictureSize() const { return picture_; }

  private:
    QSize picture_;
};

} // namespace bathylux
