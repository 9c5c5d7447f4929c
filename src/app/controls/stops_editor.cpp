#include "app/controls/stops_editor.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/color_picker.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/theme.h"
#include "app/document/kept.h"
#include "core/error.h"
#include "core/piece/codec.h"

namespace bathylux {

namespace {
constexpr float closest = 0.001f; // stops stay so far apart, and rise
}

StopsStrip::StopsStrip(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(48);
    setToolTip(
        tr("Drag a pointer to move its colour; double-click the strip for a new one; pull one off to take "
           "it away"));
}

void StopsStrip::setMixIn(MixIn mixIn) {
    if (mixIn_ == mixIn) return;
    mixIn_ = mixIn;
    update();
}

void StopsStrip::setStops(const Stops& stops) {
    if (held_ >= 0 && stops.size() != stops_.size()) return; // the hand has it
    stops_ = stops;
    chosen_ = std::clamp(chosen_, 0, static_cast<int>(stops_.size()) - 1);
    update();
}

void StopsStrip::choose(int i) {
    chosen_ = std::clamp(i, 0, static_cast<int>(stops_.size()) - 1);
    setAccessibleDescription(tr("colour %1 of %2, %3, at %4 %")
                                 .arg(chosen_ + 1)
                                 .arg(stops_.size())
                                 .arg(QString::fromStdString(to_string(stops_[chosen_].color)))
                                 .arg(qRound(100 * stops_[chosen_].at)));
    update();
    emit chosenChanged();
}

float StopsStrip::placeOf(int x) const {
    return std::clamp(static_cast<float>(x - strip().left()) / static_cast<float>(strip().width() - 1), 0.0f,
                      1.0f);
}
int StopsStrip::xOf(float place) const {
    return strip().left() + qRound(place * static_cast<float>(strip().width() - 1));
}
int StopsStrip::pointerAt(QPoint p) const {
    if (p.y() < strip().bottom() - 2) return -1;
    int best = -1, nearest = 9;
    for (int i = 0; i < static_cast<int>(stops_.size()); ++i)
        if (const int d = std::abs(xOf(stops_[i].at) - p.x()); d < nearest || (d == nearest && i == chosen_))
            nearest = d, best = i;
    return best;
}

void StopsStrip::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    const QRect s = strip();
    const MixedStops mixed(stops_, mixIn_);
    for (int x = s.left(); x <= s.right(); ++x) {
        const Color c = mixed.at(placeOf(x));
        if (c.a < 1) {
            p.setPen((x / 5) % 2 ? t.well : t.faint);
            p.drawLine(x, s.top(), x, s.bottom());
        }
        p.setPen(toQt(Color{std::clamp(c.r, 0.0f, 1.0f), std::clamp(c.g, 0.0f, 1.0f),
                            std::clamp(c.b, 0.0f, 1.0f), c.a}));
        p.drawLine(x, s.top(), x, s.bottom());
    }
    p.setPen(hasFocus() ? t.accent : t.line);
    p.drawRect(s.adjusted(-1, -1, 0, 0));
    p.setPen(t.faint);
    for (int k = 0; k <= 10; ++k) {
        const int x = xOf(static_cast<float>(k) / 10);
        p.drawLine(x, s.bottom() + 2, x, s.bottom() + (k % 5 == 0 ? 7 : 4));
    }
    p.setRenderHint(QPainter::Antialiasing);
    for (int i = 0; i < static_cast<int>(stops_.size()); ++i) {
        if (i == held_ && pulledOff_) continue;
        const double x = xOf(stops_[i].at) + 0.5, y = s.bottom() + 3;
        const QPolygonF flag{QPointF(x, y), QPointF(x + 6, y + 6), QPointF(x + 6, y + 18),
                             QPointF(x - 6, y + 18), QPointF(x - 6, y + 6)};
        Color c = stops_[i].color;
        c.a = 1;
        p.setPen(QPen(i == chosen_ ? t.accent : t.second, i == chosen_ ? 2 : 1));
        p.setBrush(toQt(c));
        p.drawPolygon(flag);
    }
}

void StopsStrip::moveTo(int i, float place) {
    const float low = i > 0 ? stops_[i - 1].at + closest : 0,
                high = i + 1 < static_cast<int>(stops_.size()) ? stops_[i + 1].at - closest : 1;
    if (low > high) return;
    stops_[i].at = std::clamp(std::round(place * 1000) / 1000, low, high);
    choose(i);
    emit changed(stops_);
}

void StopsStrip::add(float place) {
    if (stops_.size() >= most_stops) return;
    const Color c = in_bytes(MixedStops(stops_, mixIn_).at(place));
    auto at = std::find_if(stops_.begin(), stops_.end(), [&](const Stop& s) { return s.at > place; });
    if ((at != stops_.end() && at->at - place < closest) ||
        (at != stops_.begin() && place - std::prev(at)->at < closest))
        return;
    at = stops_.insert(at, {place, c});
    choose(static_cast<int>(at - stops_.begin()));
    emit changed(stops_);
}

void StopsStrip::remove(int i) {
    if (stops_.size() < 2) return;
    stops_.erase(stops_.begin() + i);
    choose(std::min(i, static_cast<int>(stops_.size()) - 1));
    emit changed(stops_);
}

void StopsStrip::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    held_ = pointerAt(e->pos());
    pulledOff_ = false;
    if (held_ < 0) return;
    choose(held_);
    emit strokeBegan();
}

void StopsStrip::mouseMoveEvent(QMouseEvent* e) {
    if (held_ < 0 || !(e->buttons() & Qt::LeftButton)) return;
    const bool off = (e->pos().y() > height() + 18 || e->pos().y() < -18) && stops_.size() > 1;
    if (off != pulledOff_) pulledOff_ = off, update();
    setCursor(off ? Qt::ForbiddenCursor : Qt::ArrowCursor);
    if (!off) moveTo(held_, placeOf(e->pos().x()));
}

void StopsStrip::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    const int held = held_;
    held_ = -1;
    setCursor(Qt::ArrowCursor);
    if (held < 0) return;
    if (pulledOff_) remove(held);
    pulledOff_ = false;
    emit strokeEnded();
}

void StopsStrip::mouseDoubleClickEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    if (const int i = pointerAt(e->pos()); i >= 0) {
        choose(i);
        emit colorAsked();
        return;
    }
    add(placeOf(e->pos().x()));
}

void StopsStrip::keyPressEvent(QKeyEvent* e) {
    const float step = e->modifiers() & Qt::ShiftModifier ? 0.001f : 0.01f;
    const int last = static_cast<int>(stops_.size()) - 1;
    if (e->key() == Qt::Key_Left)
        moveTo(chosen_, stops_[chosen_].at - step);
    else if (e->key() == Qt::Key_Right)
        moveTo(chosen_, stops_[chosen_].at + step);
    else if (e->key() == Qt::Key_Up)
        choose(chosen_ == 0 ? last : chosen_ - 1);
    else if (e->key() == Qt::Key_Down)
        choose(chosen_ == last ? 0 : chosen_ + 1);
    else if (e->key() == Qt::Key_Delete || e->key() == Qt::Key_Backspace)
        remove(chosen_);
    else if (e->key() == Qt::Key_Insert) {
        const float here = stops_[chosen_].at, next = chosen_ < last ? stops_[chosen_ + 1].at : 1;
        add(next - here > 2 * closest ? (here + next) / 2 : here / 2);
    } else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Space)
        emit colorAsked();
    else
        QWidget::keyPressEvent(e);
}

namespace {

class StopsControl : public ParameterControl {
  public:
    StopsControl(const Parameter& p, Binding binding, Document& document, QWidget* parent)
        : ParameterControl(parent), parameter_(p), binding_(std::move(binding)) {
        auto* box = new QVBoxLayout(this);
        box->setContentsMargins(0, 2, 0, 4);
        box->setSpacing(2);
        auto* top = new QHBoxLayout;
        auto* label =
            new QLabel(QString::fromUtf8(p.name.data(), static_cast<qsizetype>(p.name.size())), this);
        top->addWidget(label);
        top->addStretch(1);
        auto* ramps = linkButton(tr("ramps"), this);
        ramps->setObjectName("keptRamps");
        ramps->setPopupMode(QToolButton::InstantPopup);
        auto* menu = new QMenu(ramps);
        ramps->setMenu(menu);
        connect(menu, &QMenu::aboutToShow, this, [this, menu] { fill(menu); });
        top->addWidget(ramps);
        box->addLayout(top);
        strip_ = new StopsStrip(this);
        strip_->setAccessibleName(label->text());
        box->addWidget(strip_);
        auto* row = new QHBoxLayout;
        row->setSpacing(8);
        RuledScale::Look look;
        look.name = tr("Place");
        look.low = look.floor = 0, look.high = look.ceiling = 1, look.standard = 0;
        look.percent = true, look.decimals = 1;
        place_ = new RuledScale(look, this);
        row->addWidget(place_, 1);
        patch_ = new ColorPatch(tr("Colour of the chosen stop"), document, this);
        row->addWidget(patch_);
        box->addLayout(row);
        setToolTip(QString::fromUtf8(p.help.data(), static_cast<qsizetype>(p.help.size())));

        tieStroke(strip_, document);
        tieStroke(place_, document);
        connect(strip_, &StopsStrip::changed, this, [this](const Stops& s) { binding_.set(s); });
        connect(strip_, &StopsStrip::chosenChanged, this, [this] { showChosen(); });
        connect(strip_, &StopsStrip::colorAsked, patch_, &ColorPatch::open);
        connect(place_, &RuledScale::valueChanged, this, [this](double v) {
            Stops s = strip_->stops();
            const auto i = static_cast<std::size_t>(strip_->chosen());
            const float low = i > 0 ? s[i - 1].at + closest : 0,
                        high = i + 1 < s.size() ? s[i + 1].at - closest : 1;
            if (low > high) return;
            s[i].at = std::clamp(static_cast<float>(v), low, high);
            binding_.set(s);
        });
        connect(patch_, &ColorPatch::opened, this, [this, &document] { stroke_ = document.stroke(); });
        connect(patch_, &ColorPatch::closed, this, [this] { stroke_.end(); });
        connect(patch_, &ColorPatch::picked, this, [this](const Color& c) {
            Stops s = strip_->stops();
            s[static_cast<std::size_t>(strip_->chosen())].color = c;
            binding_.set(s);
        });
        setFocusProxy(strip_);
        refresh();
    }
    void refresh() override {
        const auto v = binding_.get();
        if (v) strip_->setStops(std::get<Stops>(*v));
        strip_->setEnabled(v.has_value());
        showChosen();
    }

  private:
    void showChosen() {
        const Stop& s = strip_->stops()[static_cast<std::size_t>(strip_->chosen())];
        place_->setValue(s.at);
        patch_->setColor(s.color);
    }
    void fill(QMenu* menu) {
        menu->clear();
        const KeptByName kept("ramps");
        menu->addAction(tr("Turn it round"), this, [this] {
            Stops s = strip_->stops();
            std::reverse(s.begin(), s.end());
            for (Stop& stop : s) stop.at = 1 - stop.at;
            binding_.set(s);
        });
        menu->addAction(tr("Space evenly"), this, [this] {
            Stops s = strip_->stops();
            for (std::size_t i = 0; s.size() > 1 && i < s.size(); ++i)
                s[i].at = static_cast<float>(i) / static_cast<float>(s.size() - 1);
            binding_.set(s);
        });
        menu->addAction(tr("Keep this ramp…"), this, [this, kept] {
            bool good = false;
            const QString name =
                QInputDialog::getText(this, tr("Keep this ramp"), tr("Name"), QLineEdit::Normal, {}, &good);
            if (good && !name.trimmed().isEmpty())
                kept.put(name.trimmed(), "{\"stops\": " + text_of(Value(strip_->stops())) + "}");
        });
        const QStringList names = kept.names();
        if (names.isEmpty()) return;
        menu->addSeparator();
        auto* forget = new QMenu(tr("Forget"), menu);
        for (const QString& name : names) {
            Stops stops;
            try {
                stops = std::get<Stops>(value_from_text(parameter_, keptStops(kept.get(name))));
            } catch (const Error&) {
                continue; // changed by hand into something else
            }
            menu->addAction(pictureOf(stops), name, this, [this, stops] { binding_.set(stops); });
            forget->addAction(name, this, [kept, name] { kept.remove(name); });
        }
        menu->addSeparator();
        menu->addMenu(forget);
    }
    static std::string keptStops(const std::string& kept) {
        const QJsonObject o = QJsonDocument::fromJson(QByteArray::fromStdString(kept)).object();
        return QJsonDocument(o["stops"].toArray()).toJson(QJsonDocument::Compact).toStdString();
    }
    static QIcon pictureOf(const Stops& stops) {
        QPixmap picture(48, 14);
        QPainter p(&picture);
        const MixedStops mixed(stops, MixIn::encoded);
        for (int x = 0; x < 48; ++x) {
            Color c = mixed.at(static_cast<float>(x) / 47);
            c.a = 1;
            p.setPen(toQt(c));
            p.drawLine(x, 0, x, 13);
        }
        return QIcon(picture);
    }

    const Parameter& parameter_;
    Binding binding_;
    StopsStrip* strip_;
    RuledScale* place_;
    ColorPatch* patch_;
    Stroke stroke_;
};

} // namespace

ParameterControl* makeStopsControl(const Parameter& p, Binding binding, Document& document, QWidget* parent) {
    return new StopsControl(p, std::move(binding), document, parent);
}

} // namespace bathylux
