#include "app/controls/notice_bar.h"

#include <QGuiApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QToolButton>

#include "app/controls/controls.h"
#include "app/controls/theme.h"

namespace bathylux {

NoticeBar::NoticeBar(QWidget* parent, bool lasting) : QWidget(parent), lasting_(lasting) {
    box_ = new QHBoxLayout(this);
    box_->setContentsMargins(14, 2, 6, 2);
    label_ = new QLabel(this);
    label_->setWordWrap(true);
    label_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    box_->addWidget(label_, 1);
    auto* close = new QToolButton(this);
    close->setIcon(icon("x"));
    close->setAccessibleName(tr("Put the notice away"));
    connect(close, &QToolButton::clicked, this, &NoticeBar::clear);
    box_->addWidget(close);
    close->setVisible(!lasting);
    leaves_.setSingleShot(true);
    connect(&leaves_, &QTimer::timeout, this, &NoticeBar::leave);
    waits_.setSingleShot(true);
    connect(&waits_, &QTimer::timeout, this, &NoticeBar::settle);
    hide();
}

void NoticeBar::settle() {
    // What the hand drags would slip from under it, were all moved by a bar that comes or goes.
    if (QGuiApplication::mouseButtons() != Qt::NoButton) return waits_.start(100);
    if (!wanted_) return clear();
    show();
    if (!trouble_ && buttons_.isEmpty() && !lasting_) leaves_.start(6000);
}

void NoticeBar::leave() {
    wanted_ = false;
    for (QWidget* b : buttons_) b->setEnabled(false);
    settle();
}

void NoticeBar::say(const QString& text, const QList<Offer>& offers, bool trouble, quint64 edit) {
    empty();
    wanted_ = true, trouble_ = trouble, edit_ = edit;
    label_->setText(text);
    setAccessibleName(text);
    for (const Offer& o : offers) {
        auto* b = linkButton(o.words, this);
        b->setObjectName("offer");
        connect(b, &QToolButton::clicked, this, [this, take = o.take] {
            clear();
            take();
        });
        box_->insertWidget(box_->count() - 1, b);
        buttons_ << b;
    }
    update();
    settle();
}

void NoticeBar::editOnTop(quint64 edit) {
    if (edit_ != 0 && edit != edit_) leave();
}

void NoticeBar::empty() {
    leaves_.stop(), waits_.stop();
    wanted_ = false, edit_ = 0;
    for (QWidget* b : buttons_) {
        b->hide();
        b->deleteLater();
    }
    buttons_.clear();
    label_->clear();
}

void NoticeBar::clear() {
    empty();
    hide();
}

QString NoticeBar::text() const { return label_->text(); }

void NoticeBar::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    p.fillRect(rect(), t.panel);
    p.fillRect(QRect(0, 0, 3, height()), trouble_ ? t.signal : t.accent);
}

} // namespace bathylux
