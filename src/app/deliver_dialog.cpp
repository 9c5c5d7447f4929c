#include "app/deliver_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QStandardPaths>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls.h"
#include "app/theme.h"

namespace bathylux {

DeliverDialog::DeliverDialog(Desk& desk, View view, QWidget* parent) : QDialog(parent), desk_(desk) {
    setWindowTitle(tr("Deliver"));
    setMinimumWidth(460);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(20, 16, 20, 16);
    all->setSpacing(12);
    auto* title = new QLabel(tr("Deliver"), this);
    title->setStyleSheet("font-size: 20px; font-weight: 600;");
    all->addWidget(title);
    auto* form = new QFormLayout;
    form->setHorizontalSpacing(18);
    form->setVerticalSpacing(8);
    form->setLabelAlignment(Qt::AlignLeft);
    view_ = new DropList(this);
    for (const auto& [v, name] : {std::pair{View::lit, tr("Lit picture")},
                                  {View::art, tr("Art, unlit")},
                                  {View::height, tr("Height map")},
                                  {View::normals, tr("Normal map")}})
        view_->addItem(name, static_cast<int>(v));
    view_->setCurrentIndex(view_->findData(static_cast<int>(view)));
    format_ = new DropList(this);
    bits_ = new DropList(this);
    green_ = new DropList(this);
    green_->addItem(tr("up (glTF)"), true);
    green_->addItem(tr("down"), false);
    scale_ = new QDoubleSpinBox(this);
    scale_->setButtonSymbols(QAbstractSpinBox::NoButtons);
    scale_->setRange(1, 800);
    scale_->setDecimals(1);
    scale_->setValue(100);
    scale_->setSuffix(" %");
    path_ = new QLineEdit(this);
    auto* place = new QHBoxLayout;
    place->addWidget(path_, 1);
    auto* choose = linkButton(tr("choose…"), this);
    place->addWidget(choose);
    form->addRow(tr("What"), view_);
    form->addRow(tr("Format"), format_);
    bitsLabel_ = new QLabel(tr("Depth"), this);
    form->addRow(bitsLabel_, bits_);
    greenLabel_ = new QLabel(tr("Green points"), this);
    form->addRow(greenLabel_, green_);
    form->addRow(tr("Scale"), scale_);
    form->addRow(tr("To"), place);
    all->addLayout(form);
    says_ = new QLabel(this);
    says_->setWordWrap(true);
    says_->setStyleSheet("color: " + Theme::current().second.name());
    all->addWidget(says_);
    auto* buttons = new QDialogButtonBox(this);
    auto* deliver = buttons->addButton(tr("Deliver"), QDialogButtonBox::AcceptRole);
    deliver->setDefault(true);
    deliver->setObjectName("deliverNow");
    buttons->addButton(tr("Leave it"), QDialogButtonBox::RejectRole);
    all->addWidget(buttons);
    const std::pair<QWidget*, QString> names[] = {{view_, tr("What")},   {format_, tr("Format")},
                                                  {bits_, tr("Depth")},  {green_, tr("Green points")},
                                                  {scale_, tr("Scale")}, {path_, tr("To")}};
    for (const auto& [w, name] : names) w->setAccessibleName(name);

    connect(view_, &QComboBox::currentIndexChanged, this, &DeliverDialog::update_choices);
    connect(format_, &QComboBox::currentIndexChanged, this, &DeliverDialog::update_choices);
    connect(bits_, &QComboBox::currentIndexChanged, this, &DeliverDialog::update_choices);
    connect(scale_, &QDoubleSpinBox::valueChanged, this, &DeliverDialog::update_choices);
    connect(path_, &QLineEdit::textEdited, this, [this] { pathTouched_ = true; });
    connect(choose, &QToolButton::clicked, this, [this] {
        const QString path = QFileDialog::getSaveFileName(this, tr("Deliver to"), path_->text());
        if (path.isEmpty()) return;
        path_->setText(QFileInfo(path).suffix().isEmpty() ? path + ending() : path);
        pathTouched_ = true;
    });
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, [this] {
        files::Delivery how;
        how.view = this->view();
        how.scale = scale_->value() / 100;
        how.bits = bits_->currentData().toInt();
        how.green_up = green_->currentData().toBool();
        QString path = path_->text();
        if (path.startsWith("~/")) path = QDir::homePath() + path.mid(1);
        emit deliverAsked(path, how);
        accept();
    });
    update_choices();
}

View DeliverDialog::view() const { return static_cast<View>(view_->currentData().toInt()); }
QString DeliverDialog::ending() const { return format_->currentData().toString(); }

void DeliverDialog::update_choices() {
    const QSignalBlocker a(format_), b(bits_);
    const QString format = format_->currentData().toString();
    const int bits = bits_->currentData().toInt();
    const bool lit = view() == View::lit || view() == View::art;
    format_->clear();
    format_->addItem("PNG", ".png");
    format_->addItem("TIFF", ".tif");
    if (lit) format_->addItem("WebP", ".webp");
    format_->addItem(tr("EXR, floats"), ".exr");
    format_->setCurrentIndex(std::max(0, format_->findData(format)));
    bits_->clear();
    const QString e = ending();
    if (e == ".exr")
        bits_->addItem(tr("32 bits, floats"), 32);
    else if (e == ".webp")
        bits_->addItem(tr("8 bits"), 8);
    else {
        if (view() == View::height)
            bits_->addItem(tr("16 bits"), 16), bits_->addItem(tr("8 bits"), 8);
        else
            bits_->addItem(tr("8 bits"), 8), bits_->addItem(tr("16 bits"), 16);
        if (e == ".tif") bits_->addItem(tr("32 bits, floats"), 32);
    }
    bits_->setCurrentIndex(std::max(0, bits_->findData(bits)));
    green_->setVisible(view() == View::normals);
    greenLabel_->setVisible(view() == View::normals);
    const Canvas& c = desk_.document.piece().canvas;
    const Region size = canvas_region(c, scale_->value() / 100);
    QString says = tr("%1 × %2 px.").arg(size.width()).arg(size.height());
    if (view() == View::height && desk_.frame) {
        if (bits_->currentData().toInt() == 32)
            says += tr(" Heights in canvas px, as they are.");
        else
            says += tr(" Black is %1 px, white %2 px; the range is written into the file.")
                        .arg(desk_.frame->range.first, 0, 'f', 2)
                        .arg(desk_.frame->range.second, 0, 'f', 2);
    }
    if (lit)
        says += bits_->currentData().toInt() == 32 ? tr(" Linear light, premultiplied, unclamped.")
                                                   : tr(" sRGB, with alpha.");
    says_->setText(says);
    proposePath();
}

void DeliverDialog::proposePath() {
    static const std::map<View, QString> names{
        {View::lit, "lit"}, {View::art, "art"}, {View::height, "height"}, {View::normals, "normals"}};
    if (pathTouched_) {
        // One's own name keeps; its ending follows the format.
        const QFileInfo info(path_->text());
        path_->setText(info.path() + "/" + info.completeBaseName() + ending());
        return;
    }
    QString folder = desk_.document.path().isEmpty()
                         ? QStandardPaths::writableLocation(QStandardPaths::PicturesLocation)
                         : QFileInfo(desk_.document.path()).absolutePath();
    if (folder.isEmpty() || !QDir(folder).exists()) folder = QDir::homePath();
    path_->setText(folder + "/" + desk_.document.title() + "-" + names.at(view()) + ending());
}

} // namespace bathylux
