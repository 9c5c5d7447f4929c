#include "app/table/brush_row.h"

#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QSaveFile>
#include <QStandardPaths>
#include <QToolButton>

#include "app/controls/controls.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/theme.h"
#include "app/document/behind.h"
#include "core/error.h"
#include "files/pictures.h"

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
    box->setSpacing(7);
    work_ = new DropList(this);
    work_->setObjectName("brushWork");
    work_->setAccessibleName(tr("The brush"));
    static const QMap<QString, QString> words{
        {"raise", tr("Raise")},   {"lower", tr("Lower")},     {"level", tr("Level")},
        {"smooth", tr("Smooth")}, {"flatten", tr("Flatten")}, {"pattern", tr("Pattern")},
        {"hide", tr("Hide")},     {"reveal", tr("Reveal")},   {"ink", tr("Ink")},
        {"lift", tr("Lift ink")}, {"push", tr("Push")},       {"swell", tr("Swell")},
        {"thin", tr("Thin")},     {"turn", tr("Turn")},       {"smooth out", tr("Smooth out")},
        {"settle", tr("Settle")}};
    for (const auto name : brush_work_names) work_->addItem(words.value(spoken(name)));
    work_->setMaximumWidth(76);
    box->addWidget(work_);
    motif_ = new DropList(this);
    motif_->setObjectName("brushMotif");
    motif_->setAccessibleName(tr("The pattern"));
    for (const auto name : motif_names) motif_->addItem(spoken(name));
    box->addWidget(motif_);
    tip_ = new DropList(this);
    tip_->setObjectName("brushTip");
    tip_->setAccessibleName(tr("The tip"));
    tip_->setToolTip(tr("What one press of the brush covers"));
    tip_->setMaximumWidth(76);
    box->addWidget(tip_);
    ink_ = new ColorPatch(tr("Ink"), desk.document, this);
    ink_->setApart();
    ink_->setColor(painter.brush.color);
    box->addWidget(ink_);
    on_ = new QLabel(this);
    on_->setStyleSheet("color: " + Theme::current().second.name());
    on_->setMinimumWidth(44);
    box->addWidget(on_, 1);
    box->addWidget(scale("size", &Brush::size, 66));
    box->addWidget(scale("hardness", &Brush::hardness, 88));
    box->addWidget(scale("flow", &Brush::flow, 66));
    box->addWidget(scale("spacing", &Brush::spacing, 60));
    box->addWidget(scale("turns", &Brush::turns, 60));
    box->addWidget(scale("scatter", &Brush::scatter, 66));
    box->addWidget(scale("height", &Brush::height, 76));
    box->addWidget(scale("ceiling", &Brush::ceiling, 70));
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
    connect(tip_, &QComboBox::activated, this, &BrushRow::takeTip);
    connect(ink_, &ColorPatch::picked, this, [this](const Color& c) {
        painter_.brush.color = c;
        emit changed();
    });
    fillTips();
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

namespace {

QString ownTips() { return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/tips"; }

std::shared_ptr<const Tip> readTip(const QString& file) {
    QFile f(file);
    if (!f.open(QIODevice::ReadOnly))
        throw Error(QObject::tr("%1 cannot be read: %2").arg(file, f.errorString()).toStdString());
    const QByteArray bytes = f.readAll();
    const auto* first = reinterpret_cast<const std::byte*>(bytes.constData());
    const Picture p = files::read_picture({first, static_cast<std::size_t>(bytes.size())},
                                          QFileInfo(file).fileName().toStdString());
    return std::make_shared<const Tip>(p);
}

/// A copy of a picture among one's own tips: the one that is there already, or under a name that is free. The
/// picture itself where that cannot be made.
QString keptAmongTips(const QString& file) {
    QDir().mkpath(ownTips());
    const QFileInfo info(file);
    QFile from(file);
    if (!from.open(QIODevice::ReadOnly)) return file;
    const QByteArray bytes = from.readAll();
    for (int n = 1; n < 100; ++n) {
        const QString name =
            info.completeBaseName() + (n > 1 ? QString("-%1").arg(n) : QString()) + "." + info.suffix();
        QFile to(ownTips() + "/" + name);
        if (to.exists()) {
            if (to.open(QIODevice::ReadOnly) && to.readAll() == bytes) return to.fileName();
            continue;
        }
        QSaveFile written(to.fileName());
        if (!written.open(QIODevice::WriteOnly) || written.write(bytes) != bytes.size() || !written.commit())
            break;
        return to.fileName();
    }
    return file;
}

} // namespace

/// Round, those that are shipped, those that were made of pictures, and a way to more of them.
void BrushRow::fillTips() {
    tip_->clear();
    tips_ = {{}, ":/tips/splash.png", ":/tips/leaf.png", ":/tips/hatch.png", ":/tips/chalk.png"};
    tip_->addItems({tr("Round"), tr("Splash"), tr("Leaf"), tr("Hatch"), tr("Chalk")});
    for (const QFileInfo& f : QDir(ownTips()).entryInfoList(QDir::Files, QDir::Name)) {
        tips_ << f.absoluteFilePath();
        tip_->addItem(f.completeBaseName());
    }
    tip_->addItem(tr("From a picture…"));
}

void BrushRow::takeTip(int i) {
    if (i < tips_.size()) return useTip(tips_[i]);
    const QString chosen = QFileDialog::getOpenFileName(
        window(), tr("A picture as a tip"), {},
        tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.exr);;All files (*)"));
    refresh();
    if (!chosen.isEmpty()) useTip(chosen);
}

/// Takes a tip in the hand; one from elsewhere is kept among the others.
void BrushRow::useTip(const QString& file) {
    const auto take = [this](const QString& from, std::shared_ptr<const Tip> tip) {
        tipFile_ = from;
        painter_.brush.tip = std::move(tip);
        // A picture of a leaf is set down, not smeared.
        painter_.brush.spacing = from.isEmpty() ? Brush().spacing : std::max(painter_.brush.spacing, 0.6f);
        fillTips();
        refresh();
        emit changed();
    };
    if (file.isEmpty()) return take({}, nullptr);
    struct Taken {
        QString file, trouble;
        std::shared_ptr<const Tip> tip;
    };
    behind(
        this,
        [file, known = tips_.contains(file)]() -> Taken {
            try {
                const auto tip = readTip(file);
                return {known ? file : keptAmongTips(file), {}, tip};
            } catch (const std::exception& e) {
                return {file, QString::fromUtf8(e.what()), nullptr};
            }
        },
        [this, take](const Taken& taken) {
            if (taken.tip) return take(taken.file, taken.tip);
            refresh();
            emit desk_.document.refused(taken.trouble);
        });
}

void BrushRow::refresh() {
    const BrushWork work = painter_.brush.work;
    work_->setCurrentIndex(static_cast<int>(work));
    motif_->setCurrentIndex(static_cast<int>(painter_.brush.pattern.motif));
    motif_->setVisible(work == BrushWork::pattern);
    const bool drifts = works_on_drift(work), shaped = painter_.brush.tip != nullptr && !drifts;
    tip_->setVisible(!drifts);
    tip_->setCurrentIndex(std::max(0, static_cast<int>(tips_.indexOf(tipFile_))));
    ink_->setVisible(work == BrushWork::ink);
    on_->setVisible(!shaped); // its line is full then
    ink_->setColor(painter_.brush.color);
    on_->setText(on_->fontMetrics().elidedText(tr("on %1").arg(painter_.on()), Qt::ElideRight,
                                               std::max(drifts ? 190 : 44, on_->width())));
    on_->setToolTip(tr("Paints on %1").arg(painter_.on()));
    const bool gives = work == BrushWork::raise || work == BrushWork::lower || work == BrushWork::pattern;
    for (const auto& [s, member] : scales_) {
        s->setValue(painter_.brush.*member);
        if (member == &Brush::height) s->setVisible(gives);
        if (member == &Brush::hardness) s->setVisible(!shaped);
        if (member == &Brush::spacing || member == &Brush::turns || member == &Brush::scatter)
            s->setVisible(shaped);
        if (member == &Brush::ceiling) s->setVisible(gives && !shaped);
    }
}

} // namespace bathylux
