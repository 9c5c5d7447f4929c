#include "app/windows/canvas_dialog.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>
#include <QRadioButton>
#include <QSpinBox>
#include <QVBoxLayout>

#include "app/controls/controls.h"
#include "app/controls/theme.h"

namespace bathylux {

CanvasDialog::CanvasDialog(Desk& desk, QWidget* parent) : QDialog(parent) {
    setWindowTitle(tr("Canvas and ground"));
    setMinimumWidth(420);
    const Piece& piece = desk.document.piece();
    const Canvas& c = piece.canvas;
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(20, 16, 20, 16);
    all->setSpacing(12);
    auto* title = new QLabel(tr("Canvas and ground"), this);
    title->setStyleSheet("font-size: 20px; font-weight: 600;");
    all->addWidget(title);
    auto* form = new QFormLayout;
    form->setHorizontalSpacing(18);
    form->setVerticalSpacing(8);
    form->setLabelAlignment(Qt::AlignLeft);
    const auto spin = [&](int value, const QString& name) {
        auto* s = new QSpinBox(this);
        s->setRange(1, 16384);
        s->setValue(value);
        s->setSuffix(" px");
        s->setAccessibleName(name);
        s->setButtonSymbols(QAbstractSpinBox::NoButtons);
        return s;
    };
    auto* width = spin(c.columns(), tr("Width"));
    auto* height = spin(c.rows(), tr("Height"));
    width->setObjectName("canvasWidth");
    height->setObjectName("canvasHeight");
    auto* perMm = new QDoubleSpinBox(this);
    perMm->setButtonSymbols(QAbstractSpinBox::NoButtons);
    perMm->setRange(0.001, 10000);
    perMm->setDecimals(3);
    perMm->setValue(c.px_per_mm);
    perMm->setAccessibleName(tr("Pixels per mm"));
    auto* millimetres = new QLabel(this);
    millimetres->setStyleSheet("color: " + Theme::current().second.name());
    const auto say = [=] {
        millimetres->setText(tr("%1 × %2 mm")
                                 .arg(width->value() / perMm->value(), 0, 'f', 1)
                                 .arg(height->value() / perMm->value(), 0, 'f', 1));
    };
    for (auto* s : {width, height}) connect(s, &QSpinBox::valueChanged, this, say);
    connect(perMm, &QDoubleSpinBox::valueChanged, this, say);
    say();
    form->addRow(tr("Width"), width);
    form->addRow(tr("Height"), height);
    form->addRow(tr("Pixels per mm"), perMm);
    form->addRow(QString(), millimetres);
    auto* keep = new QRadioButton(tr("What is on it keeps its size, about the middle"), this);
    auto* scale = new QRadioButton(tr("What is on it is scaled along, heights too"), this);
    keep->setChecked(true);
    scale->setObjectName("scaleAlong");
    auto* way = new QVBoxLayout;
    way->addWidget(keep);
    way->addWidget(scale);
    form->addRow(tr("A new size"), way);
    auto* ground = new ColorPatch(tr("Ground"), desk.document, this);
    ground->setColor(c.background);
    form->addRow(tr("Ground"), ground);
    const auto share = [&](float value, const QString& name) {
        auto* s = new QDoubleSpinBox(this);
        s->setRange(0, 1);
        s->setSingleStep(0.05);
        s->setValue(value);
        s->setAccessibleName(name);
        s->setButtonSymbols(QAbstractSpinBox::NoButtons);
        return s;
    };
    auto* rough = share(piece.surface.roughness, tr("Ground roughness"));
    auto* metal = share(piece.surface.metallic, tr("Ground metallic"));
    form->addRow(tr("Roughness"), rough);
    form->addRow(tr("Metallic"), metal);
    auto* own = new QCheckBox(tr("state the range of heights"), this);
    own->setChecked(c.height_range.has_value());
    auto* low = new QDoubleSpinBox(this);
    auto* high = new QDoubleSpinBox(this);
    const auto known = c.height_range.value_or(desk.frame ? desk.frame->range : std::pair{0.0f, 16.0f});
    for (auto* s : {low, high})
        s->setRange(-100000, 100000), s->setButtonSymbols(QAbstractSpinBox::NoButtons), s->setSuffix(" px"),
            s->setEnabled(own->isChecked());
    low->setValue(known.first);
    high->setValue(known.second);
    low->setAccessibleName(tr("Lowest height"));
    high->setAccessibleName(tr("Highest height"));
    connect(own, &QCheckBox::toggled, low, &QWidget::setEnabled);
    connect(own, &QCheckBox::toggled, high, &QWidget::setEnabled);
    auto* range = new QHBoxLayout;
    range->addWidget(low);
    range->addWidget(high);
    form->addRow(tr("Black to white"), own);
    form->addRow(QString(), range);
    auto* tile = new QCheckBox(tr("a tile: its edges meet"), this);
    tile->setChecked(c.edge == Edge::repeat);
    form->addRow(tr("Edges"), tile);
    // What the relief will be made with: the checks look for what that cannot show.
    const auto making = [&](const Parameter* p, double value, const QString& suffix, const QString& none,
                            const char* id) {
        auto* s = new QDoubleSpinBox(this);
        s->setRange(p->range.low, p->range.high);
        s->setDecimals(p->range.high > 50 ? 1 : 2);
        s->setSuffix(suffix);
        s->setSpecialValueText(none);
        s->setValue(value);
        s->setToolTip(qs(p->help));
        s->setAccessibleName(qs(p->help));
        s->setObjectName(id);
        s->setButtonSymbols(QAbstractSpinBox::NoButtons);
        return s;
    };
    const auto of_canvas = [](std::string_view id) {
        return &*std::find_if(Canvas::parameters.begin(), Canvas::parameters.end(),
                              [&](const Parameter& p) { return p.id == id; });
    };
    auto* draft = making(of_canvas("draft"), c.draft, tr("°"), tr("no die"), "canvasDraft");
    auto* mesh = making(of_canvas("mesh"), c.mesh, tr(" mm"), tr("not stated"), "canvasMesh");
    form->addRow(tr("A die's walls lean"), draft);
    form->addRow(tr("Finest mesh"), mesh);
    all->addLayout(form);
    auto* trouble = new QLabel(tr("Black has to be lower than white."), this);
    trouble->setObjectName("trouble");
    trouble->setStyleSheet("color: " + Theme::current().signal.name());
    all->addWidget(trouble);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
    buttons->button(QDialogButtonBox::Ok)->setDefault(true);
    const auto judge = [=] {
        const bool good = !own->isChecked() || high->value() > low->value();
        trouble->setVisible(!good);
        buttons->button(QDialogButtonBox::Ok)->setEnabled(good);
    };
    connect(own, &QCheckBox::toggled, this, judge);
    for (auto* s : {low, high}) connect(s, &QDoubleSpinBox::valueChanged, this, judge);
    judge();
    // A box shows fewer digits than a number may have: only what was changed is taken.
    QHash<QDoubleSpinBox*, double> at_first;
    for (auto* box : findChildren<QDoubleSpinBox*>()) at_first[box] = box->value();
    all->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, [=, &desk, this] {
        desk.document.edit(tr("Set canvas"), [&](Piece& p) {
            const int w = width->value(), h = height->value();
            if (w != p.canvas.columns() || h != p.canvas.rows()) {
                if (scale->isChecked()) {
                    // By the side that asks for less, then cut or widened to what was said.
                    bathylux::resize(p, std::min(double(w) / p.canvas.width, double(h) / p.canvas.height));
                }
                const int x = (p.canvas.columns() - w) / 2, y = (p.canvas.rows() - h) / 2;
                crop(p, {x, y, x + w, y + h});
            }
            for (const auto& [box, number] : {std::pair{perMm, &p.canvas.px_per_mm},
                                              {rough, &p.surface.roughness},
                                              {metal, &p.surface.metallic},
                                              {draft, &p.canvas.draft},
                                              {mesh, &p.canvas.mesh}})
                if (box->value() != at_first.value(box)) *number = static_cast<float>(box->value());
            p.canvas.background = ground->color();
            p.canvas.edge = tile->isChecked() ? Edge::repeat : Edge::clamp;
            if (!own->isChecked())
                p.canvas.height_range.reset();
            else if (!p.canvas.height_range || low->value() != at_first.value(low) ||
                     high->value() != at_first.value(high))
                p.canvas.height_range = {static_cast<float>(low->value()), static_cast<float>(high->value())};
        });
        accept();
    });
}

} // namespace bathylux
