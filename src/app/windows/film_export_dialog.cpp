#include "app/windows/film_export_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QPushButton>
#include <QSettings>
#include <QSpinBox>
#include <QStandardItemModel>
#include <QVBoxLayout>

#include "app/controls/controls.h"
#include "app/controls/theme.h"
#include "app/document/running.h"
#include "app/windows/export_form.h"

namespace bathylux {

namespace {
// What is shown beside the views.
constexpr int solid_view = -1, parts_view = -2;
} // namespace

FilmExportDialog::FilmExportDialog(Desk& desk, QWidget* parent) : QDialog(parent), desk_(desk) {
    setObjectName("filmDialog");
    const Piece& piece = desk.document.piece();
    const int frames = frames_of(piece, desk.frame ? desk.frame->assets.get() : nullptr);
    ExportForm form(*this, tr("Film"), tr("Transparency is kept in all of them."));
    format_ = new DropList(this);
    format_->setObjectName("filmFormat");
    format_->setAccessibleName(tr("As"));
    format_->addItem(tr("WebM, small, for the web"), ".webm");
    format_->addItem(tr("MOV, ProRes 4444, to go on with"), ".mov");
    format_->addItem(tr("APNG, every bit kept"), ".apng");
    format_->addItem(tr("WebP, animated"), ".webp");
    format_->addItem(tr("Numbered pictures"), ".png");
    format_->addItem(tr("A sheet of small pictures"), ".png");
    form.rows->addRow(tr("As"), format_);
    view_ = new DropList(this);
    view_->setObjectName("filmView");
    view_->setAccessibleName(tr("Shows"));
    for (const auto& [view, name] : {std::pair{View::lit, tr("Lit picture")},
                                     {View::art, tr("Art")},
                                     {View::height, tr("Height")},
                                     {View::normals, tr("Normals")},
                                     {View::occlusion, tr("Occlusion")},
                                     {View::unfinished, tr("Lit, unfinished")}})
        view_->addItem(name, static_cast<int>(view));
    view_->addItem(tr("Light, taken apart"), parts_view);
    if (piece.solid) view_->addItem(tr("The solid, as its camera sees it"), solid_view);
    if (piece.solid) view_->setCurrentIndex(view_->count() - 1);
    form.rows->addRow(tr("Shows"), view_);
    first_ = form.whole("filmFirst", tr("First frame"), 0, 0, most_frames);
    last_ = form.whole("filmLast", tr("Last frame"), std::max(0, frames - 1), 0, most_frames);
    scale_ = form.whole("filmScale", tr("Size"), 100, 1, 400, tr(" %"));
    samples_ = form.whole("filmSamples", tr("Samples a px"), 32, 1, 1024);
    resume_ = new QCheckBox(tr("Leave pictures that are there already"), this);
    form.rows->addRow(QString(), resume_);
    const auto fit = [this, rows = form.rows] {
        const bool round = view_->currentData().toInt() == solid_view;
        samples_->setVisible(round);
        rows->labelForField(samples_)->setVisible(round);
        resume_->setVisible(as() == As::pictures);
        // A sheet shows one view.
        auto* views = qobject_cast<QStandardItemModel*>(view_->model());
        for (int i = 0; i < view_->count(); ++i)
            if (view_->itemData(i).toInt() == parts_view) views->item(i)->setEnabled(as() != As::sheet);
        if (as() == As::sheet && view_->currentData().toInt() == parts_view) view_->setCurrentIndex(0);
    };
    connect(view_, &QComboBox::currentIndexChanged, this, fit);
    connect(format_, &QComboBox::currentIndexChanged, this, fit);
    fit();
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel, this);
    auto* go = buttons->addButton(tr("Export…"), QDialogButtonBox::AcceptRole);
    go->setObjectName("filmExport");
    for (QAbstractButton* b : buttons->buttons()) b->setIcon({});
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, &FilmExportDialog::ask);
    form.all->addWidget(buttons);
}

FilmExportDialog::As FilmExportDialog::as() const {
    const int i = format_->currentIndex();
    return i == format_->count() - 1 ? As::sheet : i == format_->count() - 2 ? As::pictures : As::film;
}
bool FilmExportDialog::resumes() const { return as() == As::pictures && resume_->isChecked(); }
QString FilmExportDialog::ending() const { return format_->currentData().toString(); }

files::FilmOrder FilmExportDialog::order() const {
    files::FilmOrder out;
    out.first = first_->value(), out.last = std::max(first_->value(), last_->value());
    out.scale = scale_->value() / 100.0;
    const int view = view_->currentData().toInt();
    if (view == parts_view) {
        out.parts = true;
        return out;
    }
    if (view >= 0) {
        out.view = static_cast<View>(view);
        return out;
    }
    const Region size = canvas_region(desk_.document.piece().canvas, out.scale);
    out.solid = files::SolidExport{};
    out.solid->width = size.width(), out.solid->height = size.height(),
    out.solid->samples = samples_->value();
    return out;
}

void FilmExportDialog::ask() {
    const QString start = QSettings().value("folder", QDir::homePath()).toString() + "/" +
                          desk_.document.title() + (as() == As::sheet ? "-frames" : "") + ending();
    QString path = QFileDialog::getSaveFileName(this, tr("Export the film"), start);
    if (path.isEmpty()) return;
    if (QFileInfo(path).suffix().isEmpty()) path += ending();
    QSettings().setValue("folder", QFileInfo(path).absolutePath());
    emit asked(path, order(), as(), resumes());
    accept();
}

} // namespace bathylux
