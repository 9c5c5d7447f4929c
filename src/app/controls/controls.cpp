#include "app/controls/controls.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFontDatabase>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPlainTextEdit>
#include <QStyleOptionComboBox>
#include <QStylePainter>
#include <QToolButton>

#include "app/controls/color_picker.h"
#include "app/controls/number_control.h"
#include "app/controls/profile_controls.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/stops_editor.h"
#include "app/controls/theme.h"
#include "app/document/numbered.h"

namespace bathylux {

bool keepsKey(QEvent* e, Qt::Key key) {
    if (e->type() != QEvent::ShortcutOverride) return false;
    const auto* pressed = static_cast<QKeyEvent*>(e);
    if (pressed->key() != key || pressed->modifiers() & ~Qt::KeypadModifier) return false;
    e->accept();
    return true;
}

QColor toQt(const Color& c) { return QColor::fromRgbF(c.r, c.g, c.b, c.a); }
Color fromQt(const QColor& c) {
    return {static_cast<float>(c.redF()), static_cast<float>(c.greenF()), static_cast<float>(c.blueF()),
            static_cast<float>(c.alphaF())};
}

QMenu* passingMenu(const QWidget* by) {
    auto* menu = new QMenu(by->window());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    return menu;
}

QToolButton* linkButton(const QString& text, QWidget* parent) {
    auto* b = new QToolButton(parent);
    b->setText(text);
    b->setProperty("link", true);
    b->setFocusPolicy(Qt::StrongFocus);
    b->setCursor(Qt::PointingHandCursor);
    return b;
}

QLabel* headLabel(const QString& text, QWidget* parent) {
    auto* l = new QLabel(text, parent);
    l->setFont(Theme::heads());
    l->setStyleSheet("color: " + Theme::current().second.name() + "; font-size: 11px; font-weight: 600;");
    return l;
}

void DropList::paintEvent(QPaintEvent*) {
    QStylePainter p(this);
    QStyleOptionComboBox option;
    initStyleOption(&option);
    option.currentText = fontMetrics().elidedText(option.currentText, Qt::ElideRight, width() - 30);
    p.drawComplexControl(QStyle::CC_ComboBox, option);
    p.drawControl(QStyle::CE_ComboBoxLabel, option);
    p.drawPixmap(width() - 19, (height() - 14) / 2,
                 iconPixmap("chevron-down", isEnabled() ? Theme::current().second : Theme::current().faint,
                            14, devicePixelRatioF()));
}

// --- switch ---

Switch::Switch(const QString& name, QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(name);
    setFixedSize(26, 24);
    setCursor(Qt::PointingHandCursor);
}

void Switch::setOn(bool on) {
    if (on_ == on) return;
    on_ = on;
    setAccessibleDescription(on ? tr("on") : tr("off"));
    update();
}

void Switch::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF track(2, 6, 22, 12);
    p.setPen(hasFocus() ? QPen(t.text, 1.2) : Qt::NoPen);
    p.setBrush(on_ ? t.accent : t.well);
    p.drawRoundedRect(track, 6, 6);
    p.setPen(Qt::NoPen);
    p.setBrush(on_ ? t.onAccent : t.second);
    p.drawEllipse(QPointF(on_ ? track.right() - 6 : track.left() + 6, track.center().y()), 4, 4);
}

void Switch::mouseReleaseEvent(QMouseEvent* e) {
    if (rect().contains(e->pos())) emit toggled(!on_);
}

void Switch::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space || e->key() == Qt::Key_Return)
        emit toggled(!on_);
    else
        QWidget::keyPressEvent(e);
}

// --- colour patch ---

ColorPatch::ColorPatch(const QString& name, Document& document, QWidget* parent)
    : QWidget(parent), document_(document) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(name);
    setFixedSize(50, 24);
    setCursor(Qt::PointingHandCursor);
}

// A picker without its patch would change nothing any more.
ColorPatch::~ColorPatch() { delete picker_; }

void ColorPatch::setColor(const Color& color) {
    color_ = color;
    setAccessibleDescription(QString::fromStdString(to_string(color)));
    if (picker_) picker_->setColor(color);
    update();
}

void ColorPatch::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    const QRect r = rect().adjusted(0, 4, -1, -4);
    if (color_.a < 1) {
        p.fillRect(r, t.well);
        p.fillRect(r, QBrush(t.faint, Qt::Dense6Pattern));
    }
    p.fillRect(r, toQt(color_));
    p.setPen(hasFocus() ? t.accent : t.line);
    p.drawRect(r);
}

void ColorPatch::mouseReleaseEvent(QMouseEvent* e) {
    if (rect().contains(e->pos())) choose();
}

void ColorPatch::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space || e->key() == Qt::Key_Return)
        choose();
    else
        QWidget::keyPressEvent(e);
}

void ColorPatch::choose() {
    if (!picker_) return open();
    picker_->deleteLater();
    picker_ = nullptr;
}

void ColorPatch::open() {
    if (picker_) return;
    picker_ = new ColorPicker(accessibleName(), document_);
    picker_->setAttribute(Qt::WA_DeleteOnClose);
    picker_->setColor(color_);
    connect(picker_, &ColorPicker::strokeBegan, this, &ColorPatch::opened);
    connect(picker_, &ColorPicker::strokeEnded, this, &ColorPatch::closed);
    connect(picker_, &ColorPicker::picked, this, [this](const Color& c) {
        color_ = c;
        update();
        emit picked(c);
    });
    apart_ ? openApart(this, picker_) : openUnder(this, picker_);
}

// --- controls by type ---

namespace {

QString name_of(const Parameter& p) {
    return QString::fromUtf8(p.name.data(), static_cast<qsizetype>(p.name.size()));
}
QString help_of(const Parameter& p) {
    return QString::fromUtf8(p.help.data(), static_cast<qsizetype>(p.help.size()));
}

/// Name on the left, something on the right.
class RowControl : public ParameterControl {
  public:
    RowControl(const Parameter& p, Binding binding, QWidget* parent)
        : ParameterControl(parent), binding_(std::move(binding)) {
        row_ = new QHBoxLayout(this);
        row_->setContentsMargins(0, 1, 0, 1);
        row_->setSpacing(8);
        label_ = new QLabel(name_of(p), this);
        row_->addWidget(label_);
        row_->addStretch(1);
        setToolTip(help_of(p));
        setMinimumHeight(26);
    }

  protected:
    template <class T> std::optional<T> now() const {
        const auto v = binding_.get();
        return v ? std::optional(std::get<T>(*v)) : std::nullopt;
    }
    Binding binding_;
    QHBoxLayout* row_;
    QLabel* label_;
};

class ToggleControl : public RowControl {
  public:
    ToggleControl(const Parameter& p, Binding binding, QWidget* parent)
        : RowControl(p, std::move(binding), parent) {
        switch_ = new Switch(name_of(p), this);
        row_->addWidget(switch_);
        connect(switch_, &Switch::toggled, this, [this](bool on) { binding_.set(on); });
        setFocusProxy(switch_);
        refresh();
    }
    void refresh() override { switch_->setOn(now<bool>().value_or(false)); }

  private:
    Switch* switch_;
};

class ChoiceControl : public RowControl {
  public:
    ChoiceControl(const Parameter& p, Binding binding, QWidget* parent)
        : RowControl(p, std::move(binding), parent), choices_(p.choices) {
        box_ = new DropList(this);
        box_->setAccessibleName(name_of(p));
        for (const auto c : choices_) box_->addItem(QString::fromStdString(words_of(p, c)));
        box_->setFocusPolicy(Qt::StrongFocus);
        row_->addWidget(box_);
        connect(box_, &QComboBox::activated, this, [this](int i) { binding_.set(std::string(choices_[i])); });
        setFocusProxy(box_);
        refresh();
    }
    void refresh() override {
        const auto v = now<std::string>();
        int index = -1;
        for (std::size_t i = 0; v && i < choices_.size(); ++i)
            if (choices_[i] == *v) index = static_cast<int>(i);
        box_->setCurrentIndex(index);
    }

  private:
    std::span<const std::string_view> choices_;
    QComboBox* box_;
};

class ColorControl : public RowControl {
  public:
    ColorControl(const Parameter& p, Binding binding, Document& document, QWidget* parent)
        : RowControl(p, std::move(binding), parent) {
        if (binding_.path) {
            mark_ = new MotionMark(document, binding_.path, this);
            row_->insertWidget(1, mark_);
        }
        code_ = new QLabel(this);
        code_->setFont(Theme::numbers());
        patch_ = new ColorPatch(name_of(p), document, this);
        row_->addWidget(code_);
        row_->addWidget(patch_);
        connect(patch_, &ColorPatch::opened, this, [this, &document] { stroke_ = document.stroke(); });
        connect(patch_, &ColorPatch::picked, this, [this](const Color& c) { binding_.set(c); });
        connect(patch_, &ColorPatch::closed, this, [this] { stroke_.end(); });
        setFocusProxy(patch_);
        refresh();
    }
    void refresh() override {
        const auto c = now<Color>();
        code_->setText(c ? QString::fromStdString(to_string(*c)) : QString::fromUtf8("—"));
        if (c) patch_->setColor(*c);
        if (mark_) mark_->refresh();
    }

  private:
    MotionMark* mark_ = nullptr;
    QLabel* code_;
    ColorPatch* patch_;
    Stroke stroke_;
};

/// Words without form. Whatever is pasted or dropped comes in as plain text: the toolkit's own way (6.4)
/// reads the first of its formats without asking whether there is one, and ends the program where there is
/// none.
class Words : public QPlainTextEdit {
  public:
    using QPlainTextEdit::QPlainTextEdit;

  protected:
    bool canInsertFromMimeData(const QMimeData* source) const override { return source && source->hasText(); }
    void insertFromMimeData(const QMimeData* source) override {
        if (!canInsertFromMimeData(source)) return;
        insertPlainText(source->text());
        ensureCursorVisible();
    }
};

class TextControl : public ParameterControl {
  public:
    TextControl(const Parameter& p, Binding binding, Document& document, QWidget* parent)
        : ParameterControl(parent), binding_(std::move(binding)), document_(document) {
        auto* box = new QVBoxLayout(this);
        box->setContentsMargins(0, 2, 0, 2);
        edit_ = new Words(this);
        edit_->setAccessibleName(name_of(p));
        edit_->setTabChangesFocus(true);
        edit_->setPlaceholderText(name_of(p));
        edit_->setFixedHeight(50);
        edit_->setVerticalScrollBarPolicy(Qt::ScrollBarAsNeeded);
        edit_->setLineWrapMode(QPlainTextEdit::NoWrap);
        edit_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        edit_->document()->setDocumentMargin(2);
        edit_->installEventFilter(this);
        box->addWidget(edit_);
        setToolTip(help_of(p));
        connect(edit_, &QPlainTextEdit::textChanged, this, [this] {
            if (!quiet_) binding_.set(edit_->toPlainText().toStdString());
        });
        setFocusProxy(edit_);
        refresh();
    }
    void refresh() override {
        const auto v = binding_.get();
        const QString text = v ? QString::fromStdString(std::get<std::string>(*v)) : QString();
        if (edit_->toPlainText() == text) return;
        quiet_ = true;
        edit_->setPlainText(text);
        quiet_ = false;
    }
    // What is typed in one go is one undo.
    bool eventFilter(QObject*, QEvent* e) override {
        if (e->type() == QEvent::FocusIn) stroke_ = document_.stroke();
        if (e->type() == QEvent::FocusOut) stroke_.end();
        // Undo belongs to the piece, which holds the text too.
        if (e->type() == QEvent::ShortcutOverride || e->type() == QEvent::KeyPress) {
            auto* key = static_cast<QKeyEvent*>(e);
            if (key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo)) {
                if (e->type() == QEvent::ShortcutOverride) e->ignore();
                return true;
            }
        }
        return false;
    }

  private:
    Binding binding_;
    Document& document_;
    QPlainTextEdit* edit_;
    bool quiet_ = false;
    Stroke stroke_;
};

class FontControl : public RowControl {
  public:
    FontControl(const Parameter& p, Binding binding, QWidget* parent)
        : RowControl(p, std::move(binding), parent) {
        box_ = new DropList(this);
        box_->setAccessibleName(name_of(p));
        box_->setEditable(true);
        box_->setInsertPolicy(QComboBox::NoInsert);
        box_->setMaxVisibleItems(16);
        box_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        box_->addItems(QFontDatabase::families());
        row_->setStretch(1, 0);
        row_->addWidget(box_, 3);
        connect(box_, &QComboBox::activated, this,
                [this](int i) { binding_.set(box_->itemText(i).toStdString()); });
        setFocusProxy(box_);
        refresh();
    }
    void refresh() override {
        const auto v = now<std::string>();
        box_->setEditText(v ? QString::fromStdString(*v) : QString::fromUtf8("—"));
    }

  private:
    QComboBox* box_;
};

/// The name of a file, cut in its middle where there is no room for all of it.
class FileName : public QLabel {
  public:
    using QLabel::QLabel;
    QSize minimumSizeHint() const override { return {40, QLabel::minimumSizeHint().height()}; }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setPen(Theme::current().second);
        p.drawText(rect(), Qt::AlignVCenter, fontMetrics().elidedText(text(), Qt::ElideMiddle, width()));
    }
};

class FileControl : public RowControl {
  public:
    FileControl(const Parameter& p, Binding binding, Document& document, QWidget* parent)
        : RowControl(p, std::move(binding), parent), document_(document) {
        name_ = new FileName(this);
        auto* change = linkButton(tr("choose…"), this);
        row_->setStretch(1, 0);
        row_->insertWidget(1, name_, 1);
        row_->addWidget(change);
        const bool mesh = p.help.find("STL") != std::string_view::npos;
        connect(change, &QToolButton::clicked, this, [this, mesh] {
            const QString pictures = tr(
                              "Pictures and drawings (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.exr *.svg)"),
                          meshes = tr("Meshes (*.glb *.gltf *.obj *.ply *.stl)");
            QString kind = mesh ? meshes : pictures;
            const QString path =
                QFileDialog::getOpenFileName(window(), tr("Choose a file"), QString(),
                                             pictures + ";;" + meshes + ";;" + tr("All files (*)"), &kind);
            if (!path.isEmpty()) binding_.set(path.toStdString());
        });
        refresh();
    }
    void refresh() override {
        const auto v = now<std::string>();
        const QString path = v ? QString::fromStdString(*v) : QString::fromUtf8("—");
        const QString short_name = path.section('/', -1);
        name_->setText(short_name.isEmpty() ? tr("none yet")
                       : document_.state().store.is_embedded(path.toStdString())
                           ? tr("%1, inside").arg(short_name)
                           : short_name);
        name_->setToolTip(path);
    }

  private:
    Document& document_;
    QLabel* name_;
};

/// A scale for each of a list of numbers.
class NumbersControl : public ParameterControl {
  public:
    NumbersControl(const Parameter& p, Binding binding, Document& document, QWidget* parent)
        : ParameterControl(parent), binding_(std::move(binding)), document_(document), parameter_(p) {
        auto* box = new QVBoxLayout(this);
        box->setContentsMargins(0, 2, 0, 2);
        box->setSpacing(0);
        scales_ = new QVBoxLayout;
        box->addLayout(scales_);
        auto* row = new QHBoxLayout;
        row->addStretch(1);
        auto* fewer = linkButton(tr("one fewer"), this);
        auto* more = linkButton(tr("one more"), this);
        row->addWidget(fewer);
        row->addWidget(more);
        box->addLayout(row);
        setToolTip(help_of(p));
        connect(more, &QToolButton::clicked, this, [this] {
            auto v = list();
            if (v.size() < 8) v.push_back(v.empty() ? 1.0 : v.back() / 2), binding_.set(v);
        });
        connect(fewer, &QToolButton::clicked, this, [this] {
            auto v = list();
            if (v.size() > 1) v.pop_back(), binding_.set(v);
        });
        refresh();
    }
    void refresh() override {
        const auto v = list();
        while (made_.size() > v.size()) delete made_.back(), made_.pop_back();
        while (made_.size() < v.size()) {
            const std::size_t i = made_.size();
            RuledScale::Look look;
            look.name = tr("%1 %2").arg(name_of(parameter_)).arg(i + 1);
            look.low = parameter_.range.low, look.high = parameter_.range.high;
            look.standard = std::pow(0.5, double(i));
            auto* scale = new RuledScale(look, this);
            tieStroke(scale, document_);
            connect(scale, &RuledScale::valueChanged, this, [this, i](double x) {
                auto now = list();
                if (i < now.size()) now[i] = x, binding_.set(now);
            });
            scales_->addWidget(scale);
            made_.push_back(scale);
        }
        for (std::size_t i = 0; i < v.size(); ++i) made_[i]->setValue(v[i]);
    }

  private:
    std::vector<double> list() const {
        const auto v = binding_.get();
        return v ? std::get<std::vector<double>>(*v) : std::vector<double>{};
    }
    Binding binding_;
    Document& document_;
    const Parameter& parameter_;
    QVBoxLayout* scales_;
    std::vector<RuledScale*> made_;
};

/// Several files in an order.
class FilesControl : public RowControl {
  public:
    FilesControl(const Parameter& p, Binding binding, QWidget* parent)
        : RowControl(p, std::move(binding), parent) {
        says_ = new QLabel(this);
        says_->setStyleSheet("color: " + Theme::current().second.name());
        auto* change = linkButton(tr("choose…"), this);
        row_->insertWidget(1, says_, 1);
        row_->addWidget(change);
        connect(change, &QToolButton::clicked, this, [this] {
            const QStringList paths = QFileDialog::getOpenFileNames(
                window(), tr("Choose the frames"), QString(),
                tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.exr);;All files (*)"));
            if (paths.isEmpty()) return;
            std::vector<std::string> files;
            for (const QString& f : inNumberOrder(paths)) files.push_back(f.toStdString());
            binding_.set(files);
        });
        refresh();
    }
    void refresh() override {
        const auto v = now<std::vector<std::string>>();
        says_->setText(!v ? QString::fromUtf8("—") : v->empty() ? tr("none") : tr("%1 files").arg(v->size()));
    }

  private:
    QLabel* says_;
};

} // namespace

ParameterControl* makeControl(const Parameter& p, const Value& standard, Binding binding, Document& document,
                              QWidget* parent) {
    using Type = Parameter::Type;
    switch (p.type) {
    case Type::number:
    case Type::whole:
        return makeNumberControl(p, std::get<double>(standard), std::move(binding), document, parent);
    case Type::toggle: return new ToggleControl(p, std::move(binding), parent);
    case Type::choice: return new ChoiceControl(p, std::move(binding), parent);
    case Type::text: return new TextControl(p, std::move(binding), document, parent);
    case Type::file: return new FileControl(p, std::move(binding), document, parent);
    case Type::font: return new FontControl(p, std::move(binding), parent);
    case Type::color: return new ColorControl(p, std::move(binding), document, parent);
    case Type::profile: return makeProfileControl(p, std::move(binding), document, parent);
    case Type::stops: return makeStopsControl(p, std::move(binding), document, parent);
    case Type::curve: return makeCurveControl(p, std::move(binding), document, parent);
    case Type::numbers: return new NumbersControl(p, std::move(binding), document, parent);
    case Type::files: return new FilesControl(p, std::move(binding), parent);
    case Type::element:
    case Type::map: break; // rows of their own: see makings/map_rows.h
    }
    return nullptr;
}

} // namespace bathylux
