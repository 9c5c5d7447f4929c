#include "app/windows/solid_export_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QSpinBox>
#include <QVBoxLayout>

#include "app/controls/theme.h"
#include "app/windows/export_form.h"

namespace bathylux {

SolidExportDialog::SolidExportDialog(Desk& desk, What what, QWidget* parent)
    : QDialog(parent), desk_(desk), what_(what) {
    const Piece& piece = desk.document.piece();
    const Canvas& c = piece.canvas;
    const Body body = piece.solid.value_or(Solid()).body;
    const QString name = what == What::picture     ? tr("Picture of the solid")
                         : what == What::turntable ? tr("Turntable")
                                                   : tr("Mesh");
    ExportForm form(*this, name,
                    what == What::picture ? tr("As the camera sees it now. PNG, WebP or TIFF; EXR keeps "
                                               "all the light, and depth and normals beside it.")
                    : what == What::turntable
                        ? tr("Once round it, a numbered picture for every step.")
                        : tr("STL, OBJ and PLY in millimetres; GLB in metres, with base colour, normals, "
                             "roughness and metallic as textures."));
    if (what != What::mesh) {
        form.whole("width", tr("Width"), c.columns(), 16, files::most_solid_side, " px");
        form.whole("height", tr("Height"), c.rows(), 16, files::most_solid_side, " px");
        form.whole("samples", tr("Samples a px"), 64, 1, files::most_samples);
        if (what == What::turntable) form.whole("frames", tr("Pictures once round"), 36, 2, 3600);
        if (what == What::picture) {
            auto* layers = new QCheckBox(tr("depth and normals as layers (EXR)"), this);
            layers->setObjectName("layers");
            form.rows->addRow(tr("Beside it"), layers);
        }
    } else {
        auto* fineness =
            form.real("fineness", tr("Between points"), body.fineness / c.px_per_mm, 0.001, 1000, 3, " mm");
        auto* error = form.real("error", tr("Leave out up to"), 0, 0, 100, 3, " mm");
        error->setSpecialValueText(tr("nothing"));
        auto* points = new QLabel(this);
        points->setStyleSheet("color: " + Theme::current().second.name());
        form.rows->addRow(QString(), points);
        const auto say = [=] {
            const double step = fineness->value() * c.px_per_mm;
            const double n = (c.width / step + 1) * (c.height / step + 1);
            points->setText(n > 16e6 ? tr("more than 16 million points: too many")
                                     : tr("about %1 points before any are left out")
                                           .arg(QLocale().toString(std::round(n), 'f', 0)));
        };
        connect(fineness, &QDoubleSpinBox::valueChanged, this, say);
        say();
        auto* closed = new QCheckBox(tr("closed below, with a base"), this);
        closed->setObjectName("closed");
        closed->setChecked(!body.is_whole());
        form.rows->addRow(tr("For printing"), closed);
        auto* base = form.real("base", tr("Base under height 0"), 2, 0.001, 1000, 2, " mm");
        connect(closed, &QCheckBox::toggled, base, &QWidget::setEnabled);
        base->setEnabled(closed->isChecked());
        auto* texture = new QComboBox(this);
        texture->setObjectName("texture");
        texture->setAccessibleName(tr("Textures"));
        for (const int px : {512, 1024, 2048, 4096, 8192}) texture->addItem(tr("%1 px").arg(px), px);
        texture->setCurrentIndex(2);
        form.rows->addRow(tr("Textures (GLB)"), texture);
    }
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel, this);
    auto* go = buttons->addButton(tr("Export…"), QDialogButtonBox::AcceptRole);
    go->setDefault(true);
    form.all->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, &SolidExportDialog::ask);
}

files::SolidExport SolidExportDialog::picture() const {
    files::SolidExport how;
    how.width = findChild<QSpinBox*>("width")->value();
    how.height = findChild<QSpinBox*>("height")->value();
    how.samples = findChild<QSpinBox*>("samples")->value();
    if (const auto* layers = findChild<QCheckBox*>("layers"); layers && layers->isChecked())
        how.views = {files::SolidView::lit, files::SolidView::depth, files::SolidView::normals};
    return how;
}

files::MeshExport SolidExportDialog::mesh() const {
    files::MeshExport how;
    how.fineness = findChild<QDoubleSpinBox*>("fineness")->value() * desk_.document.piece().canvas.px_per_mm;
    how.error_mm = findChild<QDoubleSpinBox*>("error")->value();
    if (findChild<QCheckBox*>("closed")->isChecked())
        how.base_mm = findChild<QDoubleSpinBox*>("base")->value();
    how.texture = findChild<QComboBox*>("texture")->currentData().toInt();
    return how;
}

int SolidExportDialog::frames() const { return findChild<QSpinBox*>("frames")->value(); }

void SolidExportDialog::ask() {
    const bool layers = what_ == What::picture && picture().views.size() > 1;
    const QString ending = what_ == What::mesh ? ".glb" : layers ? ".exr" : ".png";
    const QString start = QSettings().value("folder", QDir::homePath()).toString() + "/" +
                          desk_.document.title() + (what_ == What::turntable ? "-round" : "") + ending;
    QString path = QFileDialog::getSaveFileName(this, windowTitle(), start,
                                                what_ == What::mesh ? tr("Meshes (*.glb *.stl *.obj *.ply)")
                                                : layers            ? tr("Pictures with layers (*.exr)")
                                                         : tr("Pictures (*.png *.webp *.tif *.exr)"));
    if (path.isEmpty()) return;
    if (QFileInfo(path).suffix().isEmpty()) path += ending;
    accept();
    if (what_ == What::mesh)
        emit meshAsked(path, mesh());
    else if (what_ == What::turntable)
        emit turntableAsked(path, picture(), frames());
    else
        emit pictureAsked(path, picture());
}

} // namespace bathylux
