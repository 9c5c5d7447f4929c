#include "app/time/time_strip.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QSpinBox>
#include <QToolButton>

#include "app/controls/controls.h"
#include "app/controls/theme.h"
#include "files/export.h"

namespace bathylux {

TimeStrip::TimeStrip(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(2);
    box->addWidget(headLabel(tr("Time"), this));
    box->addSpacing(6);
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
    says_->setMinimumWidth(44);
    says_->setAlignment(Qt::AlignCenter);
    box->addWidget(says_);
    rate_ = new QSpinBox(this);
    rate_->setRange(1, 60);
    rate_->setValue(8);
    rate_->setSuffix(tr(" a second"));
    rate_->setButtonSymbols(QAbstractSpinBox::NoButtons);
    rate_->setAccessibleName(tr("Frames a second"));
    rate_->setFixedWidth(84);
    box->addWidget(rate_);
    onion_ = button("layers", tr("Neighbours shine through"), "frameOnion");
    onion_->setCheckable(true);
    connect(onion_, &QToolButton::toggled, this, [this](bool on) {
        desk_.onion = on;
        emit moved();
    });
    connect(rate_, &QSpinBox::valueChanged, this, [this](int n) { timer_.setInterval(1000 / n); });
    timer_.setInterval(125);
    connect(&timer_, &QTimer::timeout, this, [this] {
        // A frame that is still being made is waited for: none is left out.
        if (desk_.renderer.idle()) step(1);
    });
    connect(&desk_.renderer, &Renderer::framed, this, &TimeStrip::refresh);
    connect(&desk_.document, &Document::titleChanged, this, [this] {
        if (desk_.document.history().count() == 0) play_->setChecked(false), desk_.frameNumber = 0;
    });
    refresh();
}

void TimeStrip::step(int by) {
    if (frames_ < 2) return;
    desk_.frameNumber = ((desk_.frameNumber + by) % frames_ + frames_) % frames_;
    refresh();
    emit moved();
}

void TimeStrip::play(bool on) {
    play_->setIcon(icon(on ? "pause" : "play"));
    play_->setToolTip(on ? tr("Pause") : tr("Play"));
    on ? timer_.start() : timer_.stop();
}

void TimeStrip::refresh() {
    frames_ = desk_.frame && desk_.frame->assets
                  ? files::frame_count({desk_.document.state().piece, desk_.frame->assets, 0})
                  : 1;
    setVisible(frames_ > 1);
    if (frames_ < 2 && play_->isChecked()) play_->setChecked(false);
    if (frames_ > 1 && desk_.frameNumber >= frames_) desk_.frameNumber = 0;
    says_->setText(QString("%1 / %2").arg(desk_.frameNumber + 1).arg(frames_));
}

} // namespace bathylux
