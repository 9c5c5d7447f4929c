#include "app/windows/new_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QSettings>
#include <QSignalBlocker>
#include <QSpinBox>
#include <QVBoxLayout>

#include "app/controls/theme.h"
#include "core/piece/codec.h"

namespace bathylux {

namespace {

struct Preset {
    const char* name;
    int width, height;
    double perMm;
};
// Paper sizes are ISO 216, at 300 px an inch.
constexpr Preset presets[] = {
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "Screen"), 1920, 1080, 12},
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "Screen, 4K"), 3840, 2160, 12},
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "Square"), 2048, 2048, 12},
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "Texture tile"), 1024, 1024, 12},
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "Sprite"), 128, 128, 12},
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "A4, upright"), 2480, 3508, 300 / 25.4},
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "A4, lying"), 3508, 2480, 300 / 25.4},
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "A3, upright"), 3508, 4961, 300 / 25.4},
    {QT_TRANSLATE_NOOP("bathylux::NewDialog", "A3, lying"), 4961, 3508, 300 / 25.4},
};

} // namespace

NewDialog::NewDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle(tr("New piece"));
    setMinimumWidth(400);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(20, 16, 20, 16);
    all->setSpacing(12);
    auto* title = new QLabel(tr("New piece"), this);
    title->setStyleSheet("font-size: 20px; font-weight: 600;");
    all->addWidget(title);
    const QSettings s;
    auto* preset = new QComboBox(this);
    preset->setAccessibleName(tr("Size"));
    preset->addItem(tr("As last time"));
    for (const Preset& p : presets) preset->addItem(tr(p.name));
    const auto side = [&](int value, const QString& name, const char* id) {
        auto* box = new QSpinBox(this);
        box->setRange(1, most_canvas_side);
        box->setSuffix(" px");
        box->setValue(value);
        box->setAccessibleName(name);
        box->setObjectName(id);
        box->setButtonSymbols(QAbstractSpinBox::NoButtons);
        connect(box, &QSpinBox::valueChanged, this, &NewDialog::say);
        return box;
    };
    width_ = side(s.value("newWidth", 1600).toInt(), tr("Width"), "newWidth");
    height_ = side(s.value("newHeight", 1000).toInt(), tr("Height"), "newHeight");
    perMm_ = new QDoubleSpinBox(this);
    perMm_->setRange(0.001, 10000);
    perMm_->setDecimals(3);
    perMm_->setSuffix(tr(" px/mm"));
    perMm_->setValue(s.value("newPerMm", 12).toDouble());
    perMm_->setAccessibleName(tr("Pixels per mm"));
    perMm_->setButtonSymbols(QAbstractSpinBox::NoButtons);
    const auto length = [&](const QString& name, QSpinBox* px) {
        auto* box = new QDoubleSpinBox(this);
        box->setRange(0.01, 100000);
        box->setSuffix(" mm");
        box->setAccessibleName(name);
        box->setButtonSymbols(QAbstractSpinBox::NoButtons);
        connect(box, &QDoubleSpinBox::valueChanged, this,
                [this, px](double mm) { px->setValue(qRound(mm * perMm_->value())); });
        return box;
    };
    across_ = length(tr("Width in mm"), width_);
    down_ = length(tr("Height in mm"), height_);
    connect(perMm_, &QDoubleSpinBox::valueChanged, this, &NewDialog::say);
    connect(preset, &QComboBox::activated, this, [this](int i) {
        if (i == 0) return;
        const Preset& p = presets[i - 1];
        perMm_->setValue(p.perMm), width_->setValue(p.width), height_->setValue(p.height);
    });
    auto* form = new QFormLayout;
    form->setHorizontalSpacing(18);
    form->setVerticalSpacing(8);
    form->setLabelAlignment(Qt::AlignLeft);
    const auto row = [&](const QString& label, QWidget* a, QWidget* b) {
        auto* both = new QHBoxLayout;
        both->addWidget(a, 1);
        both->addWidget(b, 1);
        form->addRow(label, both);
    };
    form->addRow(tr("Size"), preset);
    row(tr("Width"), width_, across_);
    row(tr("Height"), height_, down_);
    form->addRow(tr("Scale"), perMm_);
    all->addLayout(form);
    says_ = new QLabel(this);
    says_->setStyleSheet("color: " + Theme::current().second.name());
    all->addWidget(says_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
    buttons->button(QDialogButtonBox::Ok)->setText(tr("Create"));
    all->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, [this] {
        QSettings kept;
        kept.setValue("newWidth", columns());
        kept.setValue("newHeight", rows());
        kept.setValue("newPerMm", perMm());
        accept();
    });
    say();
}

void NewDialog::say() {
    for (auto [px, mm] : {std::pair{width_, across_}, {height_, down_}}) {
        const QSignalBlocker quiet(mm);
        if (!mm->hasFocus()) mm->setValue(px->value() / perMm());
    }
    says_->setText(tr("%1 megapixels").arg(columns() * double(rows()) / 1e6, 0, 'f', 1));
}

int NewDialog::columns() const { return width_->value(); }
int NewDialog::rows() const { return height_->value(); }
double NewDialog::perMm() const { return perMm_->value(); }

} // namespace bathylux
