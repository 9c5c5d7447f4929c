#include "app/windows/export_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QToolButton>
#include <QVBoxLayout>
#include <set>

#include "app/controls/controls.h"
#include "app/controls/theme.h"
#include "app/document/running.h"

namespace bathylux {

namespace {

const std::pair<View, const char*> maps[] = {
    {View::lit, QT_TRANSLATE_NOOP("ExportDialog", "Lit picture")},
    {View::unfinished, QT_TRANSLATE_NOOP("ExportDialog", "Lit picture, unfinished")},
    {View::art, QT_TRANSLATE_NOOP("ExportDialog", "Art, base colour")},
    {View::height, QT_TRANSLATE_NOOP("ExportDialog", "Height map")},
    {View::normals, QT_TRANSLATE_NOOP("ExportDialog", "Normal map")},
    {View::occlusion, QT_TRANSLATE_NOOP("ExportDialog", "Occlusion")},
    {View::slope, QT_TRANSLATE_NOOP("ExportDialog", "Slope")},
    {View::curvature, QT_TRANSLATE_NOOP("ExportDialog", "Curvature")},
    {View::roughness, QT_TRANSLATE_NOOP("ExportDialog", "Roughness")},
    {View::metallic, QT_TRANSLATE_NOOP("ExportDialog", "Metallic")},
    {View::mask, QT_TRANSLATE_NOOP("ExportDialog", "Mask")}};

} // namespace

ExportDialog::ExportDialog(Desk& desk, View view, QWidget* parent) : QDialog(parent), desk_(desk) {
    setWindowTitle(tr("Export"));
    setMinimumWidth(540);
    if (desk.frame && desk.frame->assets)
        frameCount_ = frames_of(desk.document.piece(), desk.frame->assets.get());
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(20, 16, 20, 16);
    all->setSpacing(10);
    auto* title = new QLabel(tr("Export"), this);
    title->setStyleSheet("font-size: 20px; font-weight: 600;");
    all->addWidget(title);

    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(14);
    grid->setVerticalSpacing(0); // all of it fits a screen of 700 px
    grid->setColumnStretch(0, 1);
    int line = 0;
    for (const auto& [v, name] : maps) {
        // Without a finish it is the lit picture itself.
        if (v == View::unfinished && desk.document.piece().finish.empty()) continue;
        Row row{v, new QCheckBox(tr(name), this), new DropList(this), new DropList(this)};
        row.tick->setObjectName("map-" + QString::fromUtf8(view_names[static_cast<int>(v)].data()));
        row.tick->setChecked(v == view);
        row.tick->setMinimumHeight(26);
        row.format->addItem("PNG", ".png");
        row.format->addItem("TIFF", ".tif");
        if (is_color(v)) row.format->addItem("WebP", ".webp");
        row.format->addItem(tr("EXR, floats"), ".exr");
        row.format->setAccessibleName(tr("Format of %1").arg(tr(name)));
        row.bits->setAccessibleName(tr("Depth of %1").arg(tr(name)));
        row.format->setObjectName(row.tick->objectName() + "-format");
        row.bits->setObjectName(row.tick->objectName() + "-bits");
        grid->addWidget(row.tick, line, 0);
        grid->addWidget(row.format, line, 1);
        grid->addWidget(row.bits, line, 2);
        ++line;
        connect(row.tick, &QCheckBox::toggled, this, &ExportDialog::refresh);
        connect(row.format, &QComboBox::currentIndexChanged, this, &ExportDialog::refresh);
        connect(row.bits, &QComboBox::currentIndexChanged, this, &ExportDialog::refresh);
        rows_.push_back(row);
    }
    all->addLayout(grid);
    layers_ = new QCheckBox(tr("All ticked as the layers of one EXR"), this);
    layers_->setObjectName("asLayers");
    all->addWidget(layers_);
    auto* taken_apart = new QHBoxLayout;
    parts_ = new QCheckBox(tr("The lit picture's light, taken apart"), this);
    parts_->setToolTip(tr("Ambient, occlusion, diffuse light, highlights, shadow and finish as the layers of "
                          "one file; they add up "
                          "to the lit picture"));
    parts_->setObjectName("lightParts");
    parts_->setMinimumHeight(26);
    partsFormat_ = new DropList(this);
    partsFormat_->addItem("OpenRaster", ".ora");
    partsFormat_->addItem(tr("EXR, floats"), ".exr");
    partsFormat_->setAccessibleName(tr("Format of the light's parts"));
    taken_apart->addWidget(parts_, 1);
    taken_apart->addWidget(partsFormat_);
    all->addLayout(taken_apart);
    connect(parts_, &QCheckBox::toggled, this, &ExportDialog::refresh);
    connect(partsFormat_, &QComboBox::currentIndexChanged, this, &ExportDialog::refresh);

    auto* form = new QFormLayout;
    form->setHorizontalSpacing(18);
    form->setVerticalSpacing(8);
    form->setLabelAlignment(Qt::AlignLeft);
    green_ = new DropList(this);
    green_->addItem(tr("up (glTF)"), true);
    green_->addItem(tr("down"), false);
    greenLabel_ = new QLabel(tr("Green points"), this);
    form->addRow(greenLabel_, green_);
    scale_ = new QDoubleSpinBox(this);
    scale_->setButtonSymbols(QAbstractSpinBox::NoButtons);
    scale_->setRange(1, 800);
    scale_->setDecimals(1);
    scale_->setValue(100);
    scale_->setSuffix(" %");
    form->addRow(tr("Scale"), scale_);
    frames_ = new DropList(this);
    frames_->setObjectName("frames");
    frames_->addItem(tr("the one shown"), thisFrame);
    frames_->addItem(tr("all, each a file"), eachFrame);
    frames_->addItem(tr("all on one sheet, with a JSON index"), oneSheet);
    framesLabel_ = new QLabel(tr("Frames"), this);
    form->addRow(framesLabel_, frames_);
    framesLabel_->setVisible(frameCount_ > 1);
    frames_->setVisible(frameCount_ > 1);
    if (frameCount_ > 1) frames_->setCurrentIndex(2);
    chosenOnly_ = new QCheckBox(tr("Only what is chosen"), this);
    chosenOnly_->setObjectName("chosenOnly");
    chosenOnly_->setEnabled(!desk.document.chosen().isEmpty());
    chosenOnly_->setToolTip(
        tr("Without what lies around the chosen elements. What is switched off is never exported."));
    form->addRow(QString(), chosenOnly_);
    scheme_ = new QLineEdit(QSettings().value("scheme", "{piece}-{map}").toString(), this);
    scheme_->setToolTip(tr("{piece}, {map}, {frame} and {scale} are filled in"));
    scheme_->setObjectName("scheme");
    form->addRow(tr("Names"), scheme_);
    // Where one exported last; then beside the piece.
    QString start = QSettings().value("exportFolder").toString();
    if (start.isEmpty() || !QDir(start).exists())
        start = desk_.document.path().isEmpty()
                    ? QStandardPaths::writableLocation(QStandardPaths::PicturesLocation)
                    : QFileInfo(desk_.document.path()).absolutePath();
    if (start.isEmpty() || !QDir(start).exists()) start = QDir::homePath();
    folder_ = new QLineEdit(start, this);
    folder_->setObjectName("folder");
    auto* place = new QHBoxLayout;
    place->addWidget(folder_, 1);
    auto* choose = linkButton(tr("choose…"), this);
    place->addWidget(choose);
    form->addRow(tr("Into"), place);
    all->addLayout(form);
    says_ = new QLabel(this);
    says_->setWordWrap(true);
    says_->setObjectName("names");
    says_->setStyleSheet("color: " + Theme::current().second.name());
    says_->setMinimumHeight(52);
    says_->setAlignment(Qt::AlignTop);
    all->addWidget(says_);
    auto* buttons = new QDialogButtonBox(this);
    go_ = buttons->addButton(tr("Export"), QDialogButtonBox::AcceptRole);
    go_->setDefault(true);
    go_->setObjectName("exportNow");
    buttons->addButton(QDialogButtonBox::Cancel);
    all->addWidget(buttons);
    const std::pair<QWidget*, QString> names[] = {{green_, tr("Green points")},
                                                  {scale_, tr("Scale")},
                                                  {frames_, tr("Frames")},
                                                  {scheme_, tr("Names")},
                                                  {folder_, tr("Into")}};
    for (const auto& [w, name] : names) w->setAccessibleName(name);

    connect(layers_, &QCheckBox::toggled, this, &ExportDialog::refresh);
    connect(frames_, &QComboBox::currentIndexChanged, this, &ExportDialog::refresh);
    connect(scale_, &QDoubleSpinBox::valueChanged, this, &ExportDialog::refresh);
    connect(scheme_, &QLineEdit::textChanged, this, &ExportDialog::refresh);
    connect(folder_, &QLineEdit::textChanged, this, &ExportDialog::refresh);
    connect(choose, &QToolButton::clicked, this, [this] {
        const QString path = QFileDialog::getExistingDirectory(this, tr("Export into"), folder());
        if (!path.isEmpty()) folder_->setText(path);
    });
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, [this] {
        QSettings().setValue("scheme", scheme_->text());
        QSettings().setValue("exportFolder", folder());
        emit exportAsked(orders());
        accept();
    });
    refresh();
}

QString ExportDialog::folder() const {
    const QString path = folder_->text().trimmed();
    return path == "~" || path.startsWith("~/") ? QDir::homePath() + path.mid(1) : path;
}

std::vector<files::Order> ExportDialog::orders() const {
    std::vector<files::Order> out;
    const std::filesystem::path into = folder().toStdString();
    const std::string piece = desk_.document.title().toStdString(), scheme = scheme_->text().toStdString();
    const double scale = scale_->value() / 100;
    const Ids only = chosenOnly_->isChecked() ? toIds(desk_.document.chosen()) : Ids{};
    const auto how_of = [&](const Row& r) {
        files::Export how;
        how.view = r.view;
        how.scale = scale;
        how.bits = r.bits->currentData().toInt();
        how.green_up = green_->currentData().toBool();
        return how;
    };
    const int many = frames_->currentData().toInt();
    const int first = frameCount_ > 1 && many == eachFrame ? 0 : desk_.document.frame(),
              last = frameCount_ > 1 && many == eachFrame ? frameCount_ - 1 : first;
    const int named = last > first ? frameCount_ : 1;
    if (parts_->isChecked())
        for (int f = first; f <= last; ++f) {
            files::Order order;
            order.parts = true, order.how.scale = scale, order.frame = f, order.only = only;
            std::string name = scheme;
            if (const auto at = name.find("{map}"); at != std::string::npos) name.replace(at, 5, "light");
            order.path = into / files::file_name(name, piece, View::lit, f, named, scale,
                                                 partsFormat_->currentData().toString().toStdString());
            out.push_back(order);
        }
    if (layers_->isChecked()) {
        for (int f = first; f <= last; ++f) {
            files::Order order;
            for (const Row& r : rows_)
                if (r.tick->isChecked()) order.layers.push_back(how_of(r));
            if (order.layers.empty()) break;
            order.frame = f, order.only = only;
            // One file for all: the map's place in the name says so.
            std::string name = scheme;
            if (const auto at = name.find("{map}"); at != std::string::npos) name.replace(at, 5, "layers");
            order.path = into / files::file_name(name, piece, View::height, f, named, scale, ".exr");
            out.push_back(order);
        }
        return out;
    }
    for (const Row& r : rows_) {
        if (!r.tick->isChecked()) continue;
        const std::string ending = r.format->currentData().toString().toStdString();
        for (int f = first; f <= last; ++f) {
            files::Order order;
            order.how = how_of(r);
            order.frame = f, order.only = only;
            order.sheet = frameCount_ > 1 && many == oneSheet;
            order.path = into / files::file_name(scheme, piece, r.view, f, named, scale, ending);
            out.push_back(order);
        }
    }
    return out;
}

void ExportDialog::refresh() {
    bool normals = false, any = parts_->isChecked();
    partsFormat_->setEnabled(parts_->isChecked());
    for (Row& r : rows_) {
        const QSignalBlocker blocked(r.bits);
        const int bits = r.bits->currentData().toInt();
        const QString e = r.format->currentData().toString();
        r.bits->clear();
        if (e == ".exr")
            r.bits->addItem(tr("32 bits, floats"), 32);
        else if (e == ".webp")
            r.bits->addItem(tr("8 bits"), 8);
        else {
            const bool fine = r.view == View::height || r.view == View::curvature;
            for (const int b : fine ? std::array{16, 8} : std::array{8, 16})
                r.bits->addItem(tr("%1 bits").arg(b), b);
            if (e == ".tif") r.bits->addItem(tr("32 bits, floats"), 32);
        }
        r.bits->setCurrentIndex(std::max(0, r.bits->findData(bits)));
        const bool on = r.tick->isChecked();
        r.format->setEnabled(on && !layers_->isChecked());
        r.bits->setEnabled(on && !layers_->isChecked());
        any = any || on;
        normals = normals || (on && r.view == View::normals);
    }
    green_->setEnabled(normals);
    greenLabel_->setEnabled(normals);
    const auto files = orders();
    // Two files of one name would leave only the last.
    std::set<std::string> names;
    for (const auto& o : files) names.insert(o.path.string());
    const bool clash = names.size() < files.size(), there = QDir(folder()).exists();
    go_->setEnabled(any && !clash && there);
    const Canvas& c = desk_.document.piece().canvas;
    const Region size = canvas_region(c, scale_->value() / 100);
    QString says;
    if (!any)
        says = tr("Tick what you want to have.");
    else if (!there)
        says = tr("The folder %1 does not exist.").arg(folder());
    else if (clash)
        says = tr("Several files would have the same name: put {map} into it.");
    else {
        QStringList shown;
        for (const auto& o : files)
            if (shown.size() < 4) shown << QString::fromStdString(o.path.filename().string());
        says = files.size() == 1 ? shown.front() : tr("%1 files: %2").arg(files.size()).arg(shown.join(", "));
        if (files.size() > 4) says += tr(" and %1 more").arg(files.size() - 4);
        says += tr(". %1 × %2 px.").arg(size.width()).arg(size.height());
        int existing = 0;
        for (const auto& o : files) existing += std::filesystem::exists(o.path);
        if (existing)
            says += existing == 1 ? tr(" One is there already and will be replaced.")
                                  : tr(" %1 are there already and will be replaced.").arg(existing);
        const bool heights = std::any_of(rows_.begin(), rows_.end(), [](const Row& r) {
            return r.view == View::height && r.tick->isChecked() && r.bits->currentData().toInt() != 32;
        });
        if (heights && !layers_->isChecked() && desk_.frame)
            says += tr(" Heights: black is %1 px, white %2 px; the range is written into the file.")
                        .arg(desk_.frame->range.first, 0, 'f', 2)
                        .arg(desk_.frame->range.second, 0, 'f', 2);
    }
    says_->setText(says);
}

} // namespace bathylux
