#include "app/controls/number_control.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/movement.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/theme.h"
#include "app/document/desk.h"

namespace bathylux {

namespace {

class NumberControl : public ParameterControl {
  public:
    NumberControl(const Parameter& p, double standard, Binding binding, Document& document, QWidget* parent)
        : ParameterControl(parent), binding_(std::move(binding)), document_(document) {
        RuledScale::Look look;
        look.name = qs(p.name);
        look.unit = qs(symbol(p.unit));
        look.low = p.range.low, look.high = p.range.high;
        look.floor = std::max(-1e6, p.range.floor), look.ceiling = std::min(1e6, p.range.ceiling);
        look.standard = standard;
        look.whole = p.type == Parameter::Type::whole;
        look.upDown = p.said == Said::up_down;
        look.percent = p.said == Said::percent;
        look.decimals = p.unit == Unit::px || p.unit == Unit::degrees ? 1 : 2;
        look.pxPerMm = document.piece().canvas.px_per_mm;
        // The scale of a place on the canvas ends where the canvas does.
        if (p.said == Said::across_canvas) look.high = document.piece().canvas.width;
        if (p.said == Said::down_canvas) look.high = document.piece().canvas.height;
        scale_ = new RuledScale(look, this);
        auto* box = new QVBoxLayout(this);
        box->setContentsMargins(0, 0, 0, 0);
        box->addWidget(scale_);
        setToolTip(qs(p.help));
        tieStroke(scale_, document);
        connect(scale_, &RuledScale::valueChanged, this, [this](double v) { binding_.set(v); });
        setFocusProxy(scale_);
        if (binding_.path) {
            mark_ = new MotionMark(document, binding_.path, this);
            mark_->move(QFontMetrics(Theme::words()).horizontalAdvance(look.name) + 5, 0);
            scale_->setContextMenuPolicy(Qt::NoContextMenu);
            // While somebody asks for a number to follow, pointing at this one answers.
            scale_->installEventFilter(this);
            connect(&document, &Document::numberAskBegan, this, qOverload<>(&QWidget::update));
            connect(&document, &Document::numberAskEnded, this, qOverload<>(&QWidget::update));
        }
        refresh();
    }
    void refresh() override {
        const auto v = binding_.get();
        scale_->setValue(v ? std::optional(std::get<double>(*v)) : std::nullopt);
        if (!mark_) return;
        mark_->refresh();
        const QString words = follows(document_.piece(), mark_->path());
        if (words.isEmpty() && !link_) return;
        if (!link_) {
            link_ = linkButton({}, this);
            link_->setObjectName("follows");
            link_->setToolTip(tr("How it follows, and no more"));
            QSizePolicy narrow(QSizePolicy::Ignored, QSizePolicy::Fixed);
            link_->setSizePolicy(narrow);
            layout()->addWidget(link_);
            connect(link_, &QToolButton::clicked, this,
                    [this] { mark_->openMenu(link_->mapToGlobal(QPoint(0, link_->height()))); });
        }
        link_->setVisible(!words.isEmpty());
        link_->setText(words);
    }

  protected:
    bool eventFilter(QObject*, QEvent* e) override {
        if (e->type() == QEvent::ContextMenu) {
            mark_->openMenu(static_cast<QContextMenuEvent*>(e)->globalPos());
            return true;
        }
        // Here K sets a key, whatever it does elsewhere in the window.
        if (keepsKey(e, Qt::Key_K)) return true;
        if (e->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(e)->key() == Qt::Key_K &&
            static_cast<QKeyEvent*>(e)->modifiers() == Qt::NoModifier) {
            toggle_key(document_, mark_->path());
            return true;
        }
        if (!document_.numberAsked() || e->type() != QEvent::MouseButtonPress) return false;
        document_.giveNumber(mark_->path());
        return true;
    }
    void paintEvent(QPaintEvent*) override {
        if (!mark_ || !document_.numberAsked()) return;
        QPainter p(this);
        p.setPen(QPen(Theme::current().accent, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }

  private:
    Binding binding_;
    Document& document_;
    RuledScale* scale_;
    MotionMark* mark_ = nullptr;
    QToolButton* link_ = nullptr;
};

} // namespace

ParameterControl* makeNumberControl(const Parameter& p, double standard, Binding binding, Document& document,
                                    QWidget* parent) {
    return new NumberControl(p, standard, std::move(binding), document, parent);
}

} // namespace bathylux
