#include "app/drawer/drawer.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollArea>
#include <QStackedWidget>
#include <QToolButton>

#include "app/controls/column_area.h"
#include "app/controls/controls.h"
#include "app/controls/theme.h"
#include "app/document/running.h"
#include "core/error.h"
#include "core/piece/pose.h"
#include "core/render/develop.h"
#include "core/render/sounding.h"
#include "core/step/height.h"
#include "files/section_svg.h"

namespace bathylux {

namespace {

QString shown(double v, int decimals) {
    QString s = QString::number(v, 'f', decimals);
    if (s.toDouble() == 0) s.remove('-');
    return s.replace('-', QChar(0x2212));
}

} // namespace

SectionView::SectionView(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setMouseTracking(true);
    setMinimumSize(240, 90);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    setAccessibleName(tr("Section"));
}

void SectionView::setMillimetres(bool on) {
    millimetres_ = on;
    update();
}

QRectF SectionView::plot() const { return QRectF(rect()).adjusted(38, 8, -8, -20); }

void SectionView::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::current();
    QPainter p(this);
    const QRectF r = plot();
    p.fillRect(r, t.well);
    const auto& f = desk_.frame;
    const auto& line = desk_.document.piece().section;
    p.setFont(Theme::words(12));
    if (!line || !f || !f->relief || f->relief->region.empty()) {
        p.setPen(t.second);
        p.drawText(r.adjusted(8, 0, -8, 0), Qt::AlignCenter | Qt::TextWordWrap,
                   line ? tr("Waiting for the relief…")
                        : tr("Take the section tool and draw a line across the table."));
        return;
    }
    const int count = std::clamp(static_cast<int>(r.width()), 32, 4096);
    const Profile1D profile = profile_along(*f->relief, f->shot.scale, *line, count);
    if (profile.heights.empty() || profile.length < 1) return;
    const auto [low_it, high_it] = std::minmax_element(profile.heights.begin(), profile.heights.end());
    const double unit = millimetres_ ? desk_.document.piece().canvas.px_per_mm : 1;
    double low = *low_it / unit, high = *high_it / unit;
    const double pad = std::max((high - low) * 0.16, 1.0 / unit);
    low -= pad, high += pad;
    const auto y_of = [&](double h) { return r.bottom() - (h - low) / (high - low) * r.height(); };
    const auto x_of = [&](double share) { return r.left() + share * r.width(); };

    // Rulers: heights at the left, way along the line below.
    p.setFont(Theme::numbers(10));
    const double step = 2 * double(round_contour_step(static_cast<float>(low), static_cast<float>(high)));
    for (double h = std::ceil(low / step) * step; h <= high; h += step) {
        p.setPen(QPen(t.line, 1, Qt::DotLine));
        p.drawLine(QPointF(r.left(), y_of(h)), QPointF(r.right(), y_of(h)));
        p.setPen(t.second);
        p.drawText(QRectF(0, y_of(h) - 7, 32, 14), Qt::AlignRight | Qt::AlignVCenter,
                   QString::fromStdString(said(h)).replace('-', QChar(0x2212)));
    }
    const double length = profile.length / unit;
    double along = std::pow(10, std::floor(std::log10(length / 4)));
    for (double k : {1.0, 2.0, 5.0, 10.0})
        if (length / (k * along) <= 8) {
            along *= k;
            break;
        }
    for (double d = 0; d <= length + 1e-6; d += along) {
        const double x = x_of(d / length);
        p.setPen(t.second);
        p.drawLine(QPointF(x, r.bottom()), QPointF(x, r.bottom() + 4));
        const bool last = d + along > length;
        const QString text = QString::fromStdString(said(d)) + (last ? (millimetres_ ? " mm" : " px") : "");
        const double w = p.fontMetrics().horizontalAdvance(text) + 2;
        // The last figure stays within, however near the end its place is.
        const double left = std::min(x - w / 2, width() - w - 2);
        p.drawText(QRectF(left, r.bottom() + 4, w, 14), Qt::AlignHCenter | Qt::AlignTop, text);
    }
    p.setRenderHint(QPainter::Antialiasing);
    QPainterPath top;
    for (int i = 0; i < count; ++i) {
        const QPointF q(x_of(static_cast<double>(i) / (count - 1)), y_of(profile.heights[i] / unit));
        if (i == 0)
            top.moveTo(q);
        else
            top.lineTo(q);
    }
    QPainterPath body = top;
    body.lineTo(r.bottomRight());
    body.lineTo(r.bottomLeft());
    body.closeSubpath();
    QColor fill = t.depth;
    fill.setAlpha(64);
    p.fillPath(body, fill);
    p.setPen(QPen(t.depth, 1.5));
    p.drawPath(top);
    p.setFont(Theme::words(11));
    p.setPen(t.accent);
    p.drawText(QRectF(r.left() + 6, r.top() + 2, 20, 14), Qt::AlignLeft, "A");
    p.drawText(QRectF(r.right() - 26, r.top() + 2, 20, 14), Qt::AlignRight, "B");
    if (profile.steepest > 1) {
        const double share = profile.steepest_at / profile.length;
        const auto i = std::clamp(static_cast<int>(share * (count - 1)), 0, count - 1);
        const QPointF at(x_of(share), y_of(profile.heights[i] / unit));
        p.setPen(QPen(t.signal, 1.4));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(at, 5, 5);
        const QString text = tr("steepest %1°").arg(qRound(profile.steepest));
        const double w = p.fontMetrics().horizontalAdvance(text);
        p.drawText(QPointF(std::clamp(at.x() - w / 2, r.left() + 22, r.right() - w - 22), r.top() + 12),
                   text);
    }
    if (hover_ >= 0) {
        const int i = std::clamp(static_cast<int>(hover_ * (count - 1)), 0, count - 1);
        const double x = x_of(hover_), h = profile.heights[i] / unit;
        p.setPen(QPen(t.accent, 1));
        p.drawLine(QPointF(x, r.top() + 16), QPointF(x, r.bottom())); // below what is written there
        p.setBrush(t.accent);
        p.drawEllipse(QPointF(x, y_of(h)), 3, 3);
        const QString text = shown(h, millimetres_ ? 2 : 1) + (millimetres_ ? " mm" : " px");
        p.setFont(Theme::soundings(12));
        const double w = p.fontMetrics().horizontalAdvance(text) + 10;
        const QRectF box(x + 8 + w > r.right() ? x - 8 - w : x + 8,
                         std::clamp(y_of(h) - 22, r.top() + 16, r.bottom() - 18), w, 18);
        p.fillRect(box, t.panel);
        p.setPen(t.text);
        p.drawText(box, Qt::AlignCenter, text);
    }
}

std::string sectionDrawing(const Scene& scene, const QString& title) {
    const auto& line = scene.piece->section;
    if (!line) return {};
    // From a fresh look at full scale, whatever the table shows.
    const Canvas& c = scene.piece->canvas;
    Box box;
    for (const Vec2 p : {line->a, line->b}) box.add(p), box.add(p + Vec2{1, 1});
    const Region all = canvas_region(c, 1), part = intersect(grow(covering(box), 2), all);
    if (part.empty())
        throw Error(
            QObject::tr("The section line lies outside the canvas: draw it across the table.").toStdString());
    Evaluator evaluator(0);
    const Bundle relief = evaluator.relief(scene, part, 1);
    const int count = std::clamp(static_cast<int>(2 * length(line->b - line->a)), 32, 20000);
    return files::section_svg(profile_along(relief, 1, *line, count), c.px_per_mm,
                              (title + ", " + QObject::tr("section A to B")).toStdString());
}

void SectionView::mouseMoveEvent(QMouseEvent* e) {
    const QRectF r = plot();
    const auto& line = desk_.document.piece().section;
    hover_ = line && r.contains(e->position()) ? (e->position().x() - r.left()) / r.width() : -1;
    if (hover_ >= 0) emit pointed(line->a + hover_ * (line->b - line->a));
    update();
}

void SectionView::leaveEvent(QEvent*) {
    hover_ = -1;
    update();
}

Drawer::Drawer(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    const Theme& t = Theme::current();
    setObjectName("drawer");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#drawer { border-top: 1px solid " + t.line.name() + "; }");
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 1, 0, 0);
    all->setSpacing(0);
    auto* top = top_ = new QHBoxLayout;
    top->setContentsMargins(14, 2, 10, 0);
    top->setSpacing(10);
    const auto tab = [&](const QString& words, const char* name, Page page) {
        auto* b = new QToolButton(this);
        b->setText(words.toUpper());
        b->setFont(Theme::heads());
        b->setObjectName(name);
        b->setAccessibleName(words);
        b->setCheckable(true);
        b->setCursor(Qt::PointingHandCursor);
        b->setStyleSheet(
            QString(
                "QToolButton { border: none; border-radius: 0; padding: 3px 0; color: %1; font-size: 11px; "
                "font-weight: 600; background: transparent; border-bottom: 2px solid transparent; } "
                "QToolButton:checked { color: %2; border-bottom: 2px solid %3; } "
                "QToolButton:focus { color: %3; }")
                .arg(t.second.name(), t.text.name(), t.accent.name()));
        connect(b, &QToolButton::clicked, this, [this, page] { showPage(page); });
        top->addWidget(b);
        return b;
    };
    sectionTab_ = tab(tr("Section"), "sectionTab", Page::section);
    timeTab_ = tab(tr("Time"), "timeTab", Page::time);
    timeTab_->hide();
    sectionTab_->setChecked(true);
    auto* units = linkButton(tr("px"), this);
    units->setObjectName("sectionUnits");
    units->setToolTip(tr("Rulers in px or mm"));
    top->addWidget(units);
    auto* drawing = linkButton(tr("as a drawing…"), this);
    drawing->setObjectName("sectionDrawing");
    drawing->setToolTip(tr("Exports the section with its dimensions as SVG"));
    top->addWidget(drawing);
    ofSection_ = {units, drawing};
    connect(drawing, &QToolButton::clicked, this, &Drawer::drawingAsked);
    top->addStretch(1);
    count_ = new QLabel(this);
    count_->setAlignment(Qt::AlignCenter);
    top->addWidget(count_);
    fold_ = new QToolButton(this);
    fold_->setObjectName("foldDrawer");
    fold_->setIcon(icon("chevron-down"));
    fold_->setAccessibleName(tr("Fold the drawer"));
    fold_->setToolTip(tr("Fold the drawer away"));
    top->addWidget(fold_);
    all->addLayout(top);

    body_ = new QStackedWidget(this);
    auto* sectionBody = new QWidget(body_);
    body_->addWidget(sectionBody);
    auto* box = new QHBoxLayout(sectionBody);
    box->setContentsMargins(6, 0, 14, 6);
    box->setSpacing(14);
    section_ = new SectionView(desk_, body_);
    box->addWidget(section_, 1);
    auto* side = new QVBoxLayout;
    side->setSpacing(2);
    side->addWidget(headLabel(tr("Soundings"), body_));
    const auto line = [&](const QString& name) {
        auto* row = new QHBoxLayout;
        row->addWidget(new QLabel(name, body_));
        auto* value = new QLabel(QString::fromUtf8("—"), body_);
        value->setAlignment(Qt::AlignRight);
        value->setFont(Theme::soundings(13));
        value->setStyleSheet("font-style: italic; font-size: 13px;");
        row->addWidget(value, 1);
        side->addLayout(row);
        return value;
    };
    height_ = line(tr("Height"));
    slope_ = line(tr("Slope"));
    normal_ = line(tr("Normal"));
    side->addSpacing(4);
    side->addWidget(headLabel(tr("Checks"), body_));
    auto* scroll = columnArea(body_);
    checksHolder_ = insideOf(scroll, "checks");
    checks_ = new QVBoxLayout(checksHolder_);
    checks_->setContentsMargins(0, 0, 0, 0);
    checks_->setSpacing(0);
    scroll->setWidget(checksHolder_);
    checksHolder_->setAutoFillBackground(false);
    side->addWidget(scroll, 1);
    auto* sideHolder = new QWidget(body_);
    sideHolder->setLayout(side);
    side->setContentsMargins(0, 0, 0, 0);
    sideHolder->setFixedWidth(256);
    box->addWidget(sideHolder);
    all->addWidget(body_, 1);
    body_->setFixedHeight(188);

    connect(fold_, &QToolButton::clicked, this, [this] { setFolded(!folded_); });
    connect(units, &QToolButton::clicked, this, [this, units] {
        section_->setMillimetres(!section_->millimetres());
        units->setText(section_->millimetres() ? tr("mm") : tr("px"));
    });
    connect(section_, &SectionView::pointed, this, [this](Vec2 at) {
        desk_.soundingAt = at;
        showSounding();
    });
    connect(&desk_.renderer, &Renderer::framed, this, [this] {
        section_->update();
        showSounding();
    });
    connect(&desk_.document, &Document::changed, section_, qOverload<>(&QWidget::update));
    connect(&desk_.renderer, &Renderer::checked, this,
            [this](const std::shared_ptr<std::vector<Finding>>& findings) {
                findings_ = *findings;
                checked_ = true;
                showFindings();
            });
    showFindings();
}

void Drawer::setTime(QWidget* strip, const QList<QWidget*>& details, QWidget* tracks) {
    ofTime_ = details;
    for (QWidget* w : ofTime_) w->hide();
    top_->insertWidget(top_->indexOf(count_), strip);
    body_->addWidget(tracks);
    const auto refresh = [this] {
        const bool now = runs(desk_.document.piece(), desk_.frame ? desk_.frame->assets.get() : nullptr);
        timeTab_->setVisible(now);
        // What begins to move is shown; what no longer does has nothing to show.
        if (now && !ran_ && moves(desk_.document.piece())) showPage(Page::time);
        if (!now && page() == Page::time) showPage(Page::section);
        ran_ = now;
    };
    connect(&desk_.document, &Document::changed, this, refresh);
    connect(&desk_.renderer, &Renderer::framed, this, refresh);
    refresh();
}

Drawer::Page Drawer::page() const { return body_->currentIndex() == 1 ? Page::time : Page::section; }

void Drawer::showPage(Page page) {
    sectionTab_->setChecked(page == Page::section);
    timeTab_->setChecked(page == Page::time);
    body_->setCurrentIndex(page == Page::time ? 1 : 0);
    body_->setFixedHeight(page == Page::time ? 222 : 188); // four tracks and the ruler
    for (QWidget* w : ofSection_) w->setVisible(page == Page::section);
    for (QWidget* w : ofTime_) w->setVisible(page == Page::time);
    setFolded(false);
}

void Drawer::setFolded(bool folded) {
    folded_ = folded;
    body_->setVisible(!folded);
    fold_->setIcon(icon(folded ? "chevron-right" : "chevron-down"));
    fold_->setToolTip(folded ? tr("Open the drawer") : tr("Fold the drawer away"));
}

void Drawer::showSounding() {
    const auto& f = desk_.frame;
    const Canvas& c = desk_.document.piece().canvas;
    const auto s = f && f->relief && desk_.soundingAt.x >= 0
                       ? sound(*f->relief, f->shot.scale, c.edge, desk_.soundingAt)
                       : std::nullopt;
    if (!s) {
        for (QLabel* l : {height_, slope_, normal_}) l->setText(QString::fromUtf8("—"));
        return;
    }
    height_->setText(tr("%1 px · %2 mm").arg(shown(s->height, 1), shown(s->height / c.px_per_mm, 2)));
    slope_->setText(shown(s->slope, 0) + QString::fromUtf8("°"));
    normal_->setText(shown(s->normal[0], 2) + "  " + shown(s->normal[1], 2) + "  " + shown(s->normal[2], 2));
}

namespace {

QPixmap dot(const QColor& color, bool full, double ratio) {
    QPixmap out(QSize(12, 16) * ratio);
    out.setDevicePixelRatio(ratio);
    out.fill(Qt::transparent);
    QPainter p(&out);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(color, 1.4));
    p.setBrush(full ? QBrush(color) : Qt::NoBrush);
    p.drawEllipse(QPointF(6, 8), 3.6, 3.6);
    return out;
}

} // namespace

Sentence::Sentence(const QString& text, QWidget* parent) : QAbstractButton(parent) {
    setText(text);
    setAccessibleName(text);
    setToolTip(text);
    setFocusPolicy(Qt::TabFocus);
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
}

QSize Sentence::sizeHint() const { return {120, heightForWidth(120)}; }

int Sentence::heightForWidth(int width) const {
    return fontMetrics()
        .boundingRect(QRect(0, 0, std::max(width, 40), 4000), Qt::TextWordWrap, text())
        .height();
}

void Sentence::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = Theme::current();
    p.setPen(underMouse() && receivers(SIGNAL(clicked(bool))) ? t.accent : t.text);
    p.drawText(rect(), Qt::TextWordWrap | Qt::AlignTop, text());
    if (hasFocus()) p.drawRect(rect().adjusted(0, 0, -1, -1));
}

void Drawer::showFindings() {
    const Theme& t = Theme::current();
    while (QLayoutItem* item = checks_->takeAt(0)) {
        if (item->widget()) item->widget()->deleteLater();
        delete item;
    }
    const auto line = [&](const QColor& color, const QString& text, QWidget* extra) {
        auto* row = new QWidget(checksHolder_);
        auto* box = new QHBoxLayout(row);
        box->setContentsMargins(0, 1, 0, 1);
        box->setSpacing(6);
        auto* mark = new QLabel(row);
        mark->setPixmap(dot(color, extra != nullptr, devicePixelRatioF()));
        mark->setFixedSize(12, 16);
        box->addWidget(mark, 0, Qt::AlignTop);
        auto* say = new Sentence(text, row);
        box->addWidget(say, 1);
        if (extra) {
            extra->setParent(row);
            box->addWidget(extra, 0, Qt::AlignTop);
        }
        checks_->addWidget(row);
        return say;
    };
    for (std::size_t i = 0; i < findings_.size(); ++i) {
        const Finding& f = findings_[i];
        QToolButton* mend = linkButton(tr("mend"), checksHolder_);
        mend->setObjectName("mend");
        mend->setToolTip(QString::fromStdString(f.fix_says));
        mend->setVisible(static_cast<bool>(f.fix));
        Sentence* say = line(t.signal, QString::fromStdString(f.says), mend);
        say->setObjectName("finding");
        connect(say, &Sentence::clicked, this, [this, at = f.at, check = f.check] {
            emit placeAsked(at);
            emit faultAsked(QString::fromStdString(check));
        });
        connect(mend, &QToolButton::clicked, this, [this, fix = f.fix, says = f.fix_says] {
            const QString words = QString::fromStdString(says);
            desk_.document.edit(words.left(1).toUpper() + words.mid(1), fix);
        });
    }
    const auto clear = [&](const char* check, const QString& words) {
        if (checked_ && std::none_of(findings_.begin(), findings_.end(),
                                     [&](const Finding& f) { return f.check == check; }))
            line(t.depth, words, nullptr);
    };
    if (!checked_ && findings_.empty()) {
        auto* wait = new QLabel(tr("Looked for when the hand rests"), checksHolder_);
        wait->setStyleSheet("color: " + t.second.name());
        checks_->addWidget(wait);
    }
    clear("cliff", tr("No jagged edges"));
    clear("flattened", tr("No flattened heights"));
    clear("terraces", tr("No stair-steps"));
    if (desk_.document.piece().canvas.edge == Edge::repeat) clear("edges_do_not_meet", tr("Edges meet"));
    if (desk_.document.piece().canvas.draft > 0) clear("die_wall", tr("Walls fit the die"));
    if (desk_.document.piece().canvas.mesh > 0) clear("finer_than_mesh", tr("Nothing finer than the mesh"));
    if (desk_.document.piece().solid) clear("finer_than_solid", tr("Nothing finer than the solid's mesh"));
    // The light over the skin; that of the view is told beside the lights.
    clear("clipped_light",
          desk_.document.piece().solid ? tr("No clipped light, seen flat") : tr("No clipped light"));
    checks_->addStretch(1);
    count_->setText(findings_.empty() ? (checked_ ? tr("checks clear") : QString())
                                      : tr("%n check(s)", nullptr, static_cast<int>(findings_.size()))
                                            .replace("check(s)", findings_.size() == 1 ? "check" : "checks"));
    count_->setStyleSheet(findings_.empty()
                              ? "color: " + t.second.name()
                              : QString("background: %1; color: %2; border-radius: 7px; padding: 1px 8px;")
                                    .arg(t.signal.name(), t.dark ? "#1b1f22" : "#ffffff"));
}

} // namespace bathylux
