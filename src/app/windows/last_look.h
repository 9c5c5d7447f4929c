#pragma once
#include <QPixmap>
#include <QWidget>

namespace bathylux {

/// A piece as it was seen last, over the whole window, until it is made again. Without a picture: a calm
/// ground.
class LastLook : public QWidget {
    Q_OBJECT
  public:
    LastLook(QPixmap picture, QWidget* parent);
    bool empty() const { return picture_.isNull(); }
    /// Painted once.
    bool wasSeen() const { return seen_; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QPixmap picture_;
    bool seen_ = false;
};

} // namespace bathylux
