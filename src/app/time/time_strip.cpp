#include "app/time/time_strip.h"

#include <QDialog>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSpinBox>
#include <QToolButton>
#include <cmath>

#include "app/controls/controls.h"
#include "app/controls/theme.h"
#include "app/time/tracks.h"

namespace bathylux {

TimeStrip::TimeStrip(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(2);
    const auto button = [&](const char* name, const QString& words, const char* object) {
        auto* b = new QToolButton(this);
        b->setIcon(icon(name));
        b->setFixedSize(26, 24);
        b->setToolTip(words);
        b->setAccessibleName(words);
        b->setObjectName(object);
        box->addWidget(b);
        return b;
    };
    connect(button("chevron-left", tr("One frame back"), "frameBack"), &QToolButton::clicked, this,
            [this] { step(-1); });
    play_ = button("play", tr("Play"), "framePlay");
    play_->setCheckable(true);
    connect(play_, &QToolButton::toggled, this, &TimeStrip::play);
    connect(button("chevron-right", tr("One frame on"), "frameOn"), &QToolButton::clicked, this,
            [this] { step(1); });
    says_ = new QLabel(this);
    says_->setFont(Theme::numbers(12));
    says_->setMinimumWidth(64);
    says_->setAlignment(Qt::AlignCenter);
    box->addWidget(says_);
    rate_ = linkButton({}, this);
    rate_->setObjectName("timing");
    rate_->setToolTip(tr("Frames a second, and how many there are"));
    connect(rate_, &QToolButton::clicked, this, &TimeStrip::askTiming);
    box->addWidget(rate_);
    loop_ = linkButton(tr("loop"), this);
    loop_->setObjectName("loop");
    loop_->setToolTip(tr("Starts again at its end"));
    connect(loop_, &QToolButton::clicked, this, [this] {
        desk_.document.edit(tr("Loop"), [](Piece& p) {
            Timing t = p.time.value_or(Timing{});
            t.loop = !t.loop;
            p.time = t;
        });
    });
    box->addWidget(loop_);
    unit_ = linkButton(tr("frames"), this);
    unit_->setObjectName("timeUnit");
    unit_->setToolTip(tr("Times in frames or seconds"));
    connect(unit_, &QToolButton::clicked, this, [this] { setSeconds(!seconds_); });
    box->addWidget(unit_);
    onion_ = button("layers", tr("Neighbours shine through"), "frameOnion");
    onion_->setCheckable(true);
    connect(onion_, &QToolButton::toggled, this, [this](bool on) {
        desk_.onion = on;
        emit moved();
    });
    timer_.setTimerType(Qt::PreciseTimer);
    connect(&timer_, &QTimer::timeout, this, &TimeStrip::tick);
    connect(&desk_.renderer, &Renderer::framed, this, &TimeStrip::refresh);
    connect(&desk_.document, &Document::changed, this, &TimeStrip::refresh);
    connect(&desk_.document, &Document::titleChanged, this, [this] {
        if (desk_.document.history().count() == 0) play_->setChecked(false), range_.reset();
    });
    refresh();
}

QList<QWidget*> TimeStrip::details() const { return {rate_, loop_, unit_}; }

std::pair<int, int> TimeStrip::range() const {
    if (!range_) return {0, frames_ - 1};
    const int last = std::clamp(range_->second, 0, frames_ - 1);
    return {std::clamp(range_->first, 0, last), last};
}

void TimeStrip::setRange(int first, int last) {
    range_.reset();
    if (first < last && (first > 0 || last < frames_ - 1)) range_ = {first, last};
    emit toldOtherwise();
}

QString TimeStrip::told(double frame) const {
    if (!seconds_) return QString::number(qRound(frame));
    const double rate = desk_.document.piece().time.value_or(Timing{}).rate.a_second();
    return QString::number(frame / rate, 'f', 2);
}

void TimeStrip::setSeconds(bool on) {
    seconds_ = on;
    refresh();
    emit toldOtherwise();
}

void TimeStrip::go(int frame) {
    if (frames_ < 2) return;
    frame = std::clamp(frame, 0, frames_ - 1);
    if (frame == desk_.document.frame()) return;
    desk_.document.setFrame(frame);
    refresh();
}

void TimeStrip::step(int by) {
    if (frames_ > 1) go(((desk_.document.frame() + by) % frames_ + frames_) % frames_);
}

void TimeStrip::toKey(int direction) {
    const double now = desk_.document.frame();
    std::optional<double> nearest;
    for_each_part(desk_.document.piece(), [&](const MovingPart& part) {
        for (const auto& [name, motion] : *part.motions)
            if (const auto* keys = std::get_if<Keys>(&motion))
                for (const Key& k : keys->list)
                    if ((k.frame - now) * direction > 0.5 &&
                        (!nearest || std::abs(k.frame - now) < std::abs(*nearest - now)))
                        nearest = k.frame;
    });
    if (nearest) go(qRound(*nearest));
}

void TimeStrip::play(bool on) {
    if (play_->isChecked() != on) return play_->setChecked(on);
    play_->setIcon(icon(on ? "pause" : "play"));
    play_->setToolTip(on ? tr("Pause") : tr("Play"));
    if (on == desk_.playing) return;
    desk_.playing = on;
    if (!on) {
        timer_.stop();
        emit moved(); // sharp again
        return;
    }
    const auto [first, last] = range();
    playedFrom_ = desk_.document.frame();
    if (playedFrom_ < first || playedFrom_ >= last) playedFrom_ = first;
    clock_.start();
    const Timing timing = desk_.document.piece().time.value_or(Timing{});
    timer_.start(std::max(1, qRound(500 / timing.rate.a_second())));
}

/// In real time: frames that would come late are left out, unless one is still being made.
void TimeStrip::tick() {
    const Timing timing = desk_.document.piece().time.value_or(Timing{});
    const auto [first, last] = range();
    const int span = last - first + 1;
    int frame =
        playedFrom_ + static_cast<int>(std::floor(double(clock_.elapsed()) / 1000 * timing.rate.a_second()));
    if (frame > last && !timing.loop) {
        go(last);
        return play(false);
    }
    frame = first + (frame - first) % span;
    if (frame == desk_.document.frame() || !desk_.renderer.idle()) return;
    go(frame);
}

void TimeStrip::askTiming() {
    const Timing now = desk_.document.piece().time.value_or(Timing{.frames = std::max(1, frames_)});
    QDialog dialog(window());
    dialog.setObjectName("timingDialog");
    dialog.setWindowTitle(tr("Rate and length"));
    auto* form = new QFormLayout(&dialog);
    auto* rate = new QLineEdit(
        QString::fromStdString(now.rate.seconds == 1 ? std::to_string(now.rate.frames) : to_string(now.rate)),
        &dialog);
    rate->setAccessibleName(tr("Frames a second"));
    rate->setToolTip(tr("A number or a fraction, as 24000/1001"));
    auto* frames = new QSpinBox(&dialog);
    frames->setRange(1, most_frames);
    frames->setValue(now.frames);
    frames->setAccessibleName(tr("Frames"));
    form->addRow(tr("Frames a second"), rate);
    form->addRow(tr("Frames"), frames);
    auto* wrong = new QLabel(&dialog);
    wrong->setStyleSheet("color: " + Theme::current().signal.name());
    wrong->hide();
    form->addRow(wrong);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, &dialog);
    for (QAbstractButton* b : buttons->buttons()) b->setIcon({});
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, [&] {
        if (rate_from_text(rate->text().trimmed().toStdString())) return dialog.accept();
        wrong->setText(tr("Frames a second are a number or a fraction, as 24 or 24000/1001."));
        wrong->show();
    });
    if (dialog.exec() != QDialog::Accepted) return;
    const auto to = rate_from_text(rate->text().trimmed().toStdString());
    desk_.document.edit(tr("Rate and length"), [&](Piece& p) {
        p.time = Timing{*to, frames->value(), now.loop};
    });
}

void TimeStrip::refresh() {
    const Piece& piece = desk_.document.piece();
    const Assets* assets = desk_.frame ? desk_.frame->assets.get() : nullptr;
    frames_ = frames_of(piece, assets);
    setVisible(runs(piece, assets));
    if (frames_ < 2 && play_->isChecked()) play_->setChecked(false);
    if (frames_ > 1 && desk_.document.frame() >= frames_) desk_.document.setFrame(0);
    const Timing timing = piece.time.value_or(Timing{});
    says_->setText(QString("%1 / %2").arg(told(desk_.document.frame()), told(frames_)));
    const double rate = timing.rate.a_second();
    rate_->setText(tr("%1 a second").arg(QString::number(rate, 'f', rate == std::round(rate) ? 0 : 3)));
    loop_->setText(timing.loop ? tr("loop") : tr("once"));
    unit_->setText(seconds_ ? tr("seconds") : tr("frames"));
    bool sprites = false;
    for_each_element(piece.elements, [&](const Element& e) { sprites |= e.kind().framed; });
    onion_->setVisible(sprites);
}

} // namespace bathylux
