#pragma once
#include <QImage>
#include <functional>

#include "app/controls/picture_tiles.h"
#include "app/document/desk.h"

namespace bathylux {

/// A piece and the files it needs, and which part of it is shown (canvas px; empty: all).
struct Shown {
    Piece piece;
    files::Store store;
    Box part{};
};

/// Makes the pictures of tiles behind the window, one after the other; asked anew, it begins again and what
/// was under way is dropped. What cannot be made is told on its tile.
class SmallPictures : public QObject {
    Q_OBJECT
  public:
    SmallPictures(Desk& desk, PictureTiles& tiles) : QObject(&tiles), desk_(desk), tiles_(tiles) {}
    /// `shown`: called behind the window for every row; throws where there is nothing to show.
    void make(int rows, std::function<Shown(int)> shown);
    bool done() const { return next_ >= rows_; }

  private:
    void step();
    Desk& desk_;
    PictureTiles& tiles_;
    std::function<Shown(int)> shown_;
    int rows_ = 0, next_ = 0, round_ = 0;
};

} // namespace bathylux
