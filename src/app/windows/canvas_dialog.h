#pragma once
#include <QDialog>

#include "app/document/desk.h"

namespace bathylux {

/// Size and scale of the canvas, its ground, the stated height range, and whether it is a tile.
class CanvasDialog : public QDialog {
    Q_OBJECT
  public:
    CanvasDialog(Desk& desk, QWidget* parent);
};

} // namespace bathylux
