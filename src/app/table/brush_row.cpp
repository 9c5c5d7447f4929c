#include "app/table/brush_row.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>

#include "app/controls/controls.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/theme.h"

namespace bathylux {

namespace {
QString spoken(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size())).replace('_', ' ');
}
} // namespace

BrushRow::BrushRow(Desk& desk, Painter& painter, QWidget* parent)
    : QWidget(parent), desk_(desk), painter_(painter) {
    setObjectName("brushRow");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#brushRow { border-bottom: 1px solid " + Theme::current().line.name() + "; }");
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(12, 1, 8, 1);
    box->setSpacing(10);
    work_ = new DropList(this);
    work_->setObjectName("brushWork");
    work_->setAccessibleName(tr("The brush"));
    static const QMap<QString, QString> words{{"raise", tr("Raise")},     {"lower", tr("Lower")},
                                              {"level", tr("Level")},     {"smooth", tr("Smooth")},
                                              {"flatten", tr("Flatten")}, {"pattern", tr("Pattern")},
                                              {"hide", tr("Hide")},       {"reveal", tr("Reveal")}};
    for (const auto name : brush_work_names) work_->addItem(words.value(spoken(name)));
    box->addWidget(work_);
    motif_ = new DropList(this);
    motif_->setObjectName("brushMotif");
    motif_->setAccessibleName(tr("The pattern"));
    for (const auto name : motif_names) motif_->addItem(spoken(name));
    box->addWidget(motif_);
    on_ = new QLabel(this);
    on_->setStyleSheet("color: " + Theme::current().second.name());
    on_->setMinimumWidth(40);
    box->addWidget(on_, 1);
    box->addWidget(scale("size", &Brush::size, 82));
    box->addWidget(scale("hardness", &Brush::hardness, 96));
    box->addWidget(scale("flow", &Brush::flow, 66));
    box->addWidget(scale("height", &Brush::height, 78));
    box->addWidget(scale("ceiling", &Brush::ceiling, 78));
    const auto mirror = [&](const char* icon_name, const QString& name, bool Painter::*member) {
        auto* b = new QToolButton(this);
        b->setIcon(icon(icon_name));
        b->setIconSize({16, 16});
        b->setFixedSize(26, 24);
        b->setCheckable(true);
        b->setToolTip(name);
        b->setAccessibleName(name);
        connect(b, &QToolButton::toggled, this, [this, member](bool on) {
            painter_.*member = on;
            emit changed();
        });
        box->addWidget(b);
    };
    mirror("flip-horizontal-2", tr("Mirrored left and right"), &Painter::mirrorAcross);
    mirror("flip-vertical-2", tr("Mirrored above and below"), &Painter::mirrorDown);
    connect(work_, &QComboBox::activated, this, [this](int i) {
        painter_.brush.work = static_cast<BrushWork>(i);
        refresh();
        emit changed();
    });
    connect(motif_, &QComboBox::activated, this,
            [this](int i) { painter_.brush.pattern.motif = static_cast<Motif>(i); });
    connect(&desk_.document, &Document::choiceChanged, this, &BrushRow::refresh);
    refresh();
}

RuledScale* BrushRow::scale(const char* id, float Brush::*member, int width) {
    const auto found = std::find_if(Brush::parameters.begin(), Brush::parameters.end(),
                                    [&](const Parameter& p) { return p.id == id; });
    RuledScale::Look look;
    look.name = spoken(found->name);
    look.unit = spoken(symbol(found->unit));
    look.low = found->range.low, look.high = found->range.high;
    look.floor = found->range.floor, look.ceiling = found->range.ceiling;
    look.standard = Brush().*member;
    look.percent = found->unit == Unit::ratio;
    look.decimals = found->unit == Unit::ratio ? 2 : 0;
    look.pxPerMm = desk_.document.piece().canvas.px_per_mm;
    auto* s = new RuledScale(look, this);
    s->setFixedWidth(width);
    s->setToolTip(spoken(found->help));
    connect(s, &RuledScale::valueChanged, this, [this, member](double v) {
        painter_.brush.*member = static_cast<float>(v);
        refresh();
        emit changed();
    });
    scales_.append({s, member});
    return s;
}

void BrushRow::refresh() {
    const BrushWork work = painter_.brush.work;
    work_->setCurrentIndex(static_cast<int>(work));
    motif_->setCurrentIndex(static_cast<int>(painter_.brush.pattern.motif));
    motif_->setVisible(work == BrushWork::pattern);
    on_->setText(on_->fontMetrics().elidedText(tr("on %1").arg(painter_.on()), Qt::ElideRight,
                                               std::max(40, on_->width())));
    on_->setToolTip(tr("Paints on %1").arg(painter_.on()));
    const bool gives = work == BrushWork::raise || work == BrushWork::lower || work == BrushWork::pattern;
    for (const auto& [s, member] : scales_) {
        s->setValue(painter_.brush.*member);
        if (member == &Brush::height) s->setVisible(gives);
        if (member == &Brush::ceiling) s->setVisible(gives);
    }
}

} // namespace bathylux
