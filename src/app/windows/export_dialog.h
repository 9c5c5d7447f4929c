#pragma once
#include <QDialog>

#include "app/document/desk.h"
#include "files/export.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QLineEdit;

namespace bathylux {

/// Which maps to write, and how: every ticked one in its own format and depth, or all as the layers of one
/// EXR; green, scale, frames, a scheme for the names and a preview of them.
class ExportDialog : public QDialog {
    Q_OBJECT
  public:
    /// `view` is ticked to begin with.
    ExportDialog(Desk& desk, View view, QWidget* parent);
    /// The files it would write now.
    std::vector<files::Order> orders() const;

  signals:
    void exportAsked(const std::vector<bathylux::files::Order>& orders);

  private:
    struct Row {
        View view;
        QCheckBox* tick;
        QComboBox *format, *bits;
    };
    enum Frames { thisFrame, eachFrame, oneSheet };
    void refresh();
    QString folder() const;

    Desk& desk_;
    std::vector<Row> rows_;
    QCheckBox *layers_, *parts_, *chosenOnly_;
    QComboBox* partsFormat_;
    QComboBox *green_, *frames_;
    QDoubleSpinBox* scale_;
    QLineEdit *scheme_, *folder_;
    QLabel *says_, *greenLabel_, *framesLabel_;
    QPushButton* go_;
    int frameCount_ = 1;
};

} // namespace bathylux
