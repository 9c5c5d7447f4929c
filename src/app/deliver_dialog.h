#pragma once
#include <QDialog>

#include "app/desk.h"
#include "files/deliver.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QDoubleSpinBox;

namespace bathylux {

/// What to write, and how: view, format, depth, scale, green, place.
class DeliverDialog : public QDialog {
    Q_OBJECT
  public:
    DeliverDialog(Desk& desk, View view, QWidget* parent);

  signals:
    void deliverAsked(const QString& path, const bathylux::files::Delivery& how);

  private:
    void update_choices();
    void proposePath();
    View view() const;
    QString ending() const;
    Desk& desk_;
    QComboBox *view_, *format_, *bits_, *green_;
    QDoubleSpinBox* scale_;
    QLineEdit* path_;
    QLabel *says_, *greenLabel_, *bitsLabel_;
    bool pathTouched_ = false;
};

} // namespace bathylux
