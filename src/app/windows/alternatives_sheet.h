#pragma once
#include <QDialog>

#include "app/document/desk.h"
#include "core/piece/alternatives.h"

class QLabel;
class QPushButton;

namespace bathylux {

class PictureTiles;
class SmallPictures;

/// A sheet of alternatives to a step of an element, or to all of its steps: one is taken, or several are kept
/// as pieces.
class AlternativesSheet : public QDialog {
    Q_OBJECT
  public:
    /// `step`: its id; empty for all.
    AlternativesSheet(Desk& desk, const std::string& element, const std::string& step, QWidget* parent);

    PictureTiles& tiles() { return *tiles_; }
    bool ready() const;
    void take();

  private:
    void fill();
    void keep();
    void refresh();

    Desk& desk_;
    std::string element_, step_;
    Vary vary_;
    int seed_ = 1;
    std::vector<Alternative> alternatives_;
    PictureTiles* tiles_;
    SmallPictures* pictures_;
    QPushButton *take_, *keep_;
};

} // namespace bathylux
