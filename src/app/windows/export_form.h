#pragma once
#include <QDialog>
#include <QFormLayout>
#include <QSpinBox>
#include <QVBoxLayout>

namespace bathylux {

/// How the dialogs that ask what goes out are laid out: a head, what it is about, and rows.
struct ExportForm {
    ExportForm(QDialog& dialog, const QString& name, const QString& about);
    QVBoxLayout* all;
    QFormLayout* rows;

    QSpinBox* whole(const char* id, const QString& label, int value, int low, int high,
                    const QString& unit = {});
    QDoubleSpinBox* real(const char* id, const QString& label, double value, double low, double high,
                         int decimals, const QString& unit = {});

  private:
    template <class Box> Box* number(Box* box, const char* id, const QString& label, const QString& unit);
    QDialog& dialog_;
};

} // namespace bathylux
