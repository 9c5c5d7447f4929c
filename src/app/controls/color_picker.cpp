#include "app/controls/color_picker.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/controls.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/theme.h"
#include "app/document/kept.h"
#include "core/error.h"
#include "core/piece/colors_in_use.h"

namespace bathylux {

std::vector<Color> keptColors() {
    std::vector<Color> out;
    const auto all = QJsonDocument::fromJson(QByteArray::fromStdString(KeptByName("colours").get("colours")));
    for (const auto& code : all.object()["kept"].toArray()) try {
            out.push_back(parse_color(code.toString().toStdString()));
        } catch (const Error&) {
            // A line that was changed by hand into something else.
        }
    return out;
}

void keepColors(const std::vector<Color>& colors) {
    QJsonArray all;
    for (const Color& c : colors) all << QString::fromStdString(to_string(c));
    const QJsonObject kept{{"kept", all}};
    KeptByName("colours").put("colours", QJsonDocument(kept).toJson(QJsonDocument::Compact).toStdString());
}

namespace {

/// The column among a layout and those in it that directly holds a widget, or a row that does; and which item
/// that is.
std::pair<QVBoxLayout*, int> columnOf(QLayout* layout, const QWidget* what) {
    for (int i = 0; layout && i < layout->count(); ++i) {
        QLayoutItem* item = layout->itemAt(i);
        auto* column = qobject_cast<QVBoxLayout*>(layout);
        if (item->widget() == what) return {column, i};
        if (!item->layout()) continue;
        if (const auto found = columnOf(item->layout(), what); found.first) return found;
        if (column && item->layout()->indexOf(what) >= 0) return {column, i};
    }
    return {};
}

} // namespace

void openUnder(QWidget* row, QWidget* what) {
    for (QWidget* at = row; at && at->parentWidget() && !at->isWindow(); at = at->parentWidget()) {
        const auto [column, i] = columnOf(at->parentWidget()->layout(), at);
        if (!column) continue;
        column->insertWidget(i + 1, what);
        what->show();
        return;
    }
    openApart(row, what);
}

void openApart(QWidget* row, QWidget* what) {
    // It stays while the table is clicked: that may be where the colour comes from.
    what->setParent(row->window(), Qt::Tool | Qt::FramelessWindowHint);
    what->setAttribute(Qt::WA_StyledBackground);
    what->setObjectName("apart");
    what->setStyleSheet(QString("#apart { background: %1; border: 1px solid %2; }")
                            .arg(Theme::current().panel.name(), Theme::current().line.name()));
    if (what->layout()) what->layout()->setContentsMargins(10, 8, 10, 10);
    what->setFixedWidth(300);
    what->adjustSize();
    what->move(row->mapToGlobal(QPoint(std::min(0, row->width() - 300), row->height() + 2)));
    what->show();
}

ColorPicker::ColorPicker(const QString& name, Document& document, QWidget* parent)
    : QWidget(parent), document_(document) {
    setObjectName("colorPicker");
    setAccessibleName(name);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 2, 0, 8);
    box->setSpacing(4);
    field_ = new ChromaField(this);
    hue_ = new HueRule(this);
    box->addWidget(field_);
    box->addWidget(hue_);

    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    code_ = new QLineEdit(this);
    code_->setObjectName("colorCode");
    code_->setAccessibleName(tr("Code"));
    code_->setFont(Theme::numbers());
    code_->setMaximumWidth(86);
    row->addWidget(code_);
    row->addStretch(1);
    const char* letters[3] = {"L", "C", "h"};
    const QString names[3] = {tr("Lightness, 0 to 100"), tr("Chroma, 0 to 0.33"), tr("Hue, degrees")};
    for (int i = 0; i < 3; ++i) {
        auto* label = new QLabel(letters[i], this);
        label->setStyleSheet("color: " + Theme::current().second.name());
        row->addWidget(label);
        numbers_[i] = new QLineEdit(this);
        numbers_[i]->setFont(Theme::numbers());
        numbers_[i]->setAccessibleName(names[i]);
        numbers_[i]->setToolTip(names[i]);
        numbers_[i]->setFixedWidth(i == 1 ? 42 : 36);
        row->addWidget(numbers_[i]);
        connect(numbers_[i], &QLineEdit::editingFinished, this, [this, i] {
            bool good = false;
            const double v = QLocale().toDouble(numbers_[i]->text(), &good);
            if (!good) return show();
            Lch lch = lch_;
            (i == 0 ? lch.lightness : i == 1 ? lch.chroma : lch.hue) = i == 0 ? v / 100 : v;
            if (lch.lightness != lch_.lightness || lch.chroma != lch_.chroma || lch.hue != lch_.hue)
                takeLch(lch);
        });
    }
    box->addLayout(row);

    RuledScale::Look look;
    look.name = tr("Opacity");
    look.low = look.floor = 0, look.high = look.ceiling = 1, look.standard = 1, look.percent = true;
    opacity_ = new RuledScale(look, this);
    box->addWidget(opacity_);

    auto* used = new QHBoxLayout;
    auto* usedLabel = new QLabel(tr("In use"), this);
    usedLabel->setStyleSheet("color: " + Theme::current().second.name());
    used->addWidget(usedLabel);
    used->addStretch(1);
    dropper_ = linkButton(tr("take off the table"), this);
    dropper_->setObjectName("dropper");
    dropper_->setCheckable(true);
    dropper_->setToolTip(tr("The next click on the table takes the colour it shows there; Esc leaves it"));
    used->addWidget(dropper_);
    box->addLayout(used);
    used_ = new Swatches(tr("Colours in use"), this);
    box->addWidget(used_);
    auto* kept = new QHBoxLayout;
    keptLabel_ = new QLabel(this);
    keptLabel_->setStyleSheet("color: " + Theme::current().second.name());
    kept->addWidget(keptLabel_);
    kept->addStretch(1);
    auto* keep = linkButton(tr("keep this one"), this);
    keep->setObjectName("keepColor");
    kept->addWidget(keep);
    box->addLayout(kept);
    kept_ = new Swatches(tr("Kept colours"), this);
    box->addWidget(kept_);

    for (LchControl* pulled : std::initializer_list<LchControl*>{field_, hue_}) {
        connect(pulled, &LchControl::strokeBegan, this, &ColorPicker::strokeBegan);
        connect(pulled, &LchControl::changed, this, &ColorPicker::takeLch);
        connect(pulled, &LchControl::strokeEnded, this, &ColorPicker::strokeEnded);
    }
    connect(opacity_, &RuledScale::strokeBegan, this, &ColorPicker::strokeBegan);
    connect(opacity_, &RuledScale::valueChanged, this, [this](double v) {
        color_.a = static_cast<float>(v);
        take(color_);
    });
    connect(opacity_, &RuledScale::strokeEnded, this, &ColorPicker::strokeEnded);
    connect(code_, &QLineEdit::editingFinished, this, [this] {
        QString text = code_->text().trimmed();
        if (!text.startsWith('#')) text.prepend('#');
        code_->setModified(false); // typed to its end: what it comes to stands there now
        try {
            const Color c = parse_color(text.toStdString());
            if (!(c == color_)) lch_ = toLch(c), take(c);
        } catch (const Error&) {
            show(); // what is no colour changes nothing
        }
    });
    const auto pick = [this](const Color& c) {
        Color with = c;
        with.a = color_.a;
        lch_ = toLch(with);
        take(with);
    };
    connect(used_, &Swatches::picked, this, pick);
    connect(kept_, &Swatches::picked, this, pick);
    connect(kept_, &Swatches::menuAsked, this, [this](int i, const QPoint& at) {
        auto* menu = passingMenu(this);
        menu->addAction(tr("Forget this colour"), this, [this, i] {
            auto all = keptColors();
            if (i < static_cast<int>(all.size())) all.erase(all.begin() + i);
            keepColors(all);
            showSwatches();
        });
        menu->popup(at);
    });
    connect(keep, &QToolButton::clicked, this, [this] {
        auto all = keptColors();
        Color c = color_;
        c.a = 1;
        std::erase(all, c);
        all.insert(all.begin(), c);
        if (all.size() > 48) all.resize(48);
        keepColors(all);
        showSwatches();
    });
    connect(dropper_, &QToolButton::toggled, this, [this, pick](bool on) {
        if (on)
            document_.askForColor(this, [pick](const Color& c) { pick(c); });
        else
            document_.askForColor(nullptr, {});
    });
    connect(&document_, &Document::colorAskEnded, dropper_, [this] { dropper_->setChecked(false); });
    connect(&document_, &Document::changed, this, [this] {
        if (!document_.inStroke()) showSwatches();
    });
    showSwatches();
}

void ColorPicker::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape && dropper_->isChecked())
        dropper_->setChecked(false);
    else if (e->key() == Qt::Key_Escape)
        close();
    else
        QWidget::keyPressEvent(e);
}

void ColorPicker::setColor(const Color& color) {
    if (!(in_bytes(color) == in_bytes(fromLch(lch_, color.a)))) {
        const Lch lch = toLch(color);
        // A grey has no hue of its own.
        const double hue = lch.chroma < 0.002 ? lch_.hue : lch.hue;
        lch_ = {lch.lightness, lch.chroma, hue};
    }
    color_ = color;
    show();
}

void ColorPicker::takeLch(const Lch& lch) {
    lch_ = {std::clamp(lch.lightness, 0.0, 1.0), std::clamp(lch.chroma, 0.0, 0.5),
            lch.hue - 360 * std::floor(lch.hue / 360)};
    if (lch.hue == 360) lch_.hue = 360; // the other end of the rule
    take(fromLch(lch_, color_.a));
}

void ColorPicker::take(const Color& color) {
    color_ = color;
    show();
    emit picked(color_);
}

void ColorPicker::show() {
    field_->setLch(lch_);
    hue_->setLch(lch_);
    opacity_->setValue(color_.a);
    if (!code_->hasFocus() || code_->text().isEmpty() || !code_->isModified())
        code_->setText(QString::fromStdString(to_string(color_)));
    const QString figures[3] = {QLocale().toString(100 * lch_.lightness, 'f', 0),
                                QLocale().toString(lch_.chroma, 'f', 2),
                                QLocale().toString(lch_.hue, 'f', 0)};
    for (int i = 0; i < 3; ++i) numbers_[i]->setText(figures[i]);
}

void ColorPicker::showSwatches() {
    auto used = colors_in_use(document_.piece());
    if (used.size() > 22) used.resize(22);
    used_->setColors(std::move(used));
    auto kept = keptColors();
    keptLabel_->setText(kept.empty() ? tr("Kept: none yet") : tr("Kept"));
    kept_->setVisible(!kept.empty());
    kept_->setColors(std::move(kept));
}

} // namespace bathylux
