#pragma once
#include <QDialog>

#include "core/piece/piece.h"

class QDoubleSpinBox;
class QLabel;
class QSpinBox;

namespace bathylux {

/// Asks for the size of a new canvas, in px or mm.
class NewDialog : public QDialog {
    Q_OBJECT
  public:
    explicit NewDialog(QWidget* parent);
    int columns() const;
    int rows() const;
    double perMm() const;

  private:
    void say();
    QSpinBox *width_, *height_;
    QDoubleSpinBox *across_, *down_, *perMm_; // mm
    QLabel* says_;
};

} // namespace bathylux
