#pragma once
#include <QDialog>

#include "app/document/desk.h"
#include "files/export_film.h"

class QComboBox;
class QSpinBox;

namespace bathylux {

/// Asks what of the piece goes out as a film, as numbered pictures or as a sheet of small ones.
class FilmExportDialog : public QDialog {
    Q_OBJECT
  public:
    enum class As { film, pictures, sheet };
    FilmExportDialog(Desk& desk, QWidget* parent);

    files::FilmOrder order() const;
    As as() const;
    bool resumes() const;
    /// The ending of what is asked for.
    QString ending() const;

  signals:
    void asked(const QString& path, const bathylux::files::FilmOrder& order,
               bathylux::FilmExportDialog::As as, bool resume);

  private:
    void ask();
    Desk& desk_;
    QComboBox *format_, *view_;
    QSpinBox *first_, *last_, *scale_, *samples_;
    class QCheckBox* resume_;
};

} // namespace bathylux
