#include "app/windows/export_form.h"

#include <QLabel>

#include "app/controls/theme.h"

namespace bathylux {

ExportForm::ExportForm(QDialog& dialog, const QString& name, const QString& about) : dialog_(dialog) {
    dialog.setWindowTitle(name);
    dialog.setMinimumWidth(440);
    all = new QVBoxLayout(&dialog);
    all->setContentsMargins(20, 16, 20, 16);
    all->setSpacing(12);
    auto* title = new QLabel(name, &dialog);
    title->setStyleSheet("font-size: 20px; font-weight: 600;");
    all->addWidget(title);
    auto* says = new QLabel(about, &dialog);
    says->setWordWrap(true);
    says->setStyleSheet("color: " + Theme::current().second.name());
    all->addWidget(says);
    rows = new QFormLayout;
    rows->setHorizontalSpacing(18);
    rows->setVerticalSpacing(8);
    rows->setLabelAlignment(Qt::AlignLeft);
    all->addLayout(rows);
}

template <class Box>
Box* ExportForm::number(Box* box, const char* id, const QString& label, const QString& unit) {
    box->setObjectName(id);
    box->setSuffix(unit);
    box->setAccessibleName(label);
    box->setButtonSymbols(QAbstractSpinBox::NoButtons);
    rows->addRow(label, box);
    return box;
}

QSpinBox* ExportForm::whole(const char* id, const QString& label, int value, int low, int high,
                            const QString& unit) {
    auto* s = new QSpinBox(&dialog_);
    s->setRange(low, high);
    s->setValue(value);
    return number(s, id, label, unit);
}

QDoubleSpinBox* ExportForm::real(const char* id, const QString& label, double value, double low, double high,
                                 int decimals, const QString& unit) {
    auto* s = new QDoubleSpinBox(&dialog_);
    s->setRange(low, high);
    s->setDecimals(decimals);
    s->setValue(value);
    return number(s, id, label, unit);
}

} // namespace bathylux
