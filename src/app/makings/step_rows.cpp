// The steps on an element's card, each a line that says what it does; the open one with its controls.
#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/profile_editor.h"
#include "app/controls/step_row.h"
#include "app/controls/theme.h"
#include "app/controls/tone_window.h"
#include "app/document/behind.h"
#include "app/makings/counted.h"
#include "app/makings/element_card.h"
#include "app/makings/what_comes_in.h"
#include "core/colour/ramp.h"
#include "core/relief/tones.h"

namespace bathylux {

void ElementCard::addSteps(QVBoxLayout* to, const Element& e) {
    auto* top = new QHBoxLayout;
    top->setContentsMargins(6, 6, 0, 2);
    top->addWidget(headLabel(tr("Steps"), this));
    top->addStretch(1);
    auto* add_button = linkButton(tr("+ Step"), this);
    add_button->setObjectName("addStep");
    stepButton_ = add_button;
    connect(add_button, &QToolButton::clicked, this, &ElementCard::stepAsked);
    top->addWidget(add_button);
    to->addLayout(top);
    for (const Step& step : e.steps) addStep(to, e, step);
    if (!e.steps.empty()) return;
    auto* hint = new QLabel(
        e.id == finish_id ? tr("What lies over the lit picture: add a curve, a gleam, a vignette, grain.")
                          : tr("No steps yet: add one to give it depth."),
        this);
    hint->setWordWrap(true);
    hint->setStyleSheet("color: " + Theme::current().second.name());
    hint->setContentsMargins(6, 2, 0, 2);
    to->addWidget(hint);
}

namespace {
/// What a step does, and by how much less where that is not all of it.
QString sayings(const Step& s) {
    QString out = QString::fromStdString(s.what.says());
    if (s.share < 1)
        out += (out.isEmpty() ? "" : ", ") + QObject::tr("%1 % of it").arg(qs(said(100 * s.share)));
    return out;
}
} // namespace

void ElementCard::addStep(QVBoxLayout* to, const Element& e, const Step& step) {
    const Theme& t = Theme::current();
    Document& doc = desk_.document;
    const std::string element_id = e.id, id = step.id;
    const QString name = QString::fromStdString(id);
    const bool open = doc.openStepId() == name;
    auto* holder = new QWidget(this);
    holder->setObjectName("stepHolder");
    holder->setAttribute(Qt::WA_StyledBackground);
    if (open) holder->setStyleSheet(QString("#stepHolder { background: %1; }").arg(t.raised.name()));
    auto* box = new QVBoxLayout(holder);
    box->setContentsMargins(0, 0, 0, open ? 6 : 0);
    box->setSpacing(1);
    auto* row = new StepRow(true, holder);
    const auto show = [this, row, id, name] {
        const Step* s = element() ? find_step(element()->steps, id) : nullptr;
        if (s) row->setFace(qs(s->kind().name), sayings(*s), s->on, desk_.document.openStepId() == name);
    };
    show();
    refreshers_.push_back(show);
    stepRows_.emplace_back(name, row);
    box->addWidget(row);
    connect(row, &StepRow::clicked, this, [&doc, name, open] { doc.setOpenStep(open ? QString() : name); });
    connect(row, &StepRow::toggled, this, [&doc, element_id, id](bool on) {
        doc.edit(on ? tr("Switch step on") : tr("Switch step off"),
                 [&](Piece& p) { change_step(p, element_id, id, [&](Step& s) { s.on = on; }); });
    });
    connect(row, &StepRow::menuAsked, this, [this, name](const QPoint& at) { emit stepMenu(name, at); });
    connect(row, &StepRow::removeAsked, this, [&doc, element_id, id] {
        doc.edit(tr("Delete step"), [&](Piece& p) {
            change(p, element_id, [&](Element& changed) {
                std::erase_if(changed.steps, [&](const Step& s) { return s.id == id; });
            });
        });
    });
    to->addWidget(holder);
    if (!open) return;
    auto* inner = new QVBoxLayout;
    inner->setContentsMargins(6, 0, 6, 0);
    inner->setSpacing(1);
    box->addLayout(inner);

    const StepPlace place = StepPlace::of(e, step);
    const auto defaults = step.kind().made();
    static const Step standard;
    const Asset* asset = desk_.asset(e.id);
    // A picture's tones are windowed over their histogram instead of by two numbers.
    const bool window = step.what.as<Tones>() && asset && asset->picture && !asset->picture->is_float();
    for (const Rank rank : {Rank::first, Rank::sight})
        for (const Parameter& p : step.kind().parameters) {
            if (p.rank != rank || !step.what.counts(p)) continue;
            if (window && (p.id == "low" || p.id == "high")) {
                if (p.id == "low") addToneWindow(inner, e, step);
                continue;
            }
            if (p.type == Parameter::Type::map) {
                addMap(inner, qs(p.name), tr("none"), parameterMapPlace(place, p), step.kind().takes_pairs);
                continue;
            }
            auto* control = add(inner, p, p.get(defaults.get()), inStep(place, p));
            if (p.type == Parameter::Type::curve) countBehind(control, id);
            if (p.type == Parameter::Type::stops)
                showMixing(control, [this, id]() -> const Described* {
                    const Step* s = element() ? find_step(element()->steps, id) : nullptr;
                    return s ? &s->what : nullptr;
                });
        }
    if (step.what.as<Ramp>()) addRampFit(inner, e, step);
    if (step.kind().by_hand) {
        auto* hint = new QLabel(
            step.kind().drifts
                ? tr("Take the brush (B), choose Push, Swell, Thin or Turn, and drag on the table.")
                : tr("Take the brush (B) and paint on the table."),
            holder);
        hint->setWordWrap(true);
        hint->setStyleSheet("color: " + t.second.name());
        inner->addWidget(hint);
    }
    for (const Parameter& p : Step::parameters) add(inner, p, p.get(&standard), inAnyStep(place, p));
    addMap(inner, tr("Works where"), tr("everywhere"), stepMapPlace(place));
}

/// Draws behind a curve how often what goes into it occurs; counted anew when that, or
/// the channel, has changed and the hand rests.
void ElementCard::countBehind(ParameterControl* curve, const std::string& id) {
    auto* editor = curve ? curve->findChild<CurveEditor*>() : nullptr;
    if (!editor) return;
    const auto show = [this, editor, id] {
        const Element* e = element();
        const Step* s = e ? find_step(e->steps, id) : nullptr;
        if (!s || desk_.document.inStroke()) return;
        const int step = index_of_step(e->steps, id);
        const std::uint64_t what = name_before(desk_.scene(), e->id, step);
        const Parameter* which = s->kind().find("channel");
        const auto of = which ? std::get<std::string>(s->what.get(*which)) : std::string();
        const auto known = std::find(channel_names.begin(), channel_names.end(), of);
        const Channel channel = known == channel_names.end()
                                    ? Channel::luma
                                    : static_cast<Channel>(known - channel_names.begin());
        countAnew(editor, QString::fromStdString(of) + " " + QString::number(what),
                  [scene = desk_.scene(), element = e->id, step, channel] {
                      return tones_before(scene, element, step, channel);
                  });
    };
    show();
    refreshers_.push_back(show);
}

/// Fits a ramp to what comes in: its first and last colour to the least and the most of what it goes by.
void ElementCard::addRampFit(QVBoxLayout* to, const Element& e, const Step& step) {
    auto* fit = linkButton(tr("fit to what comes in"), this);
    fit->setObjectName("fitRamp");
    to->addWidget(fit, 0, Qt::AlignRight);
    connect(fit, &QToolButton::clicked, this, [this, fit, owner = e.id, id = step.id] {
        const Element* now = element();
        const Step* s = now ? find_step(now->steps, id) : nullptr;
        const auto* ramp = s ? s->what.as<Ramp>() : nullptr;
        if (!ramp) return;
        behind(
            fit,
            [scene = desk_.scene(), owner, of = ramp->of, at = index_of_step(now->steps, id)] {
                return ramp_range_before(scene, owner, at, of);
            },
            [this, owner, id](std::pair<double, double> range) {
                if (!(range.first < range.second)) return;
                desk_.document.edit(tr("Fit the ramp"), [&](Piece& p) {
                    change_step(p, owner, id, [&](Step& changed) {
                        changed.what = changed.what.with("low", range.first).with("high", range.second);
                    });
                });
            });
    });
}

void ElementCard::addToneWindow(QVBoxLayout* to, const Element& e, const Step& step) {
    Document& doc = desk_.document;
    const std::shared_ptr<const Picture> picture = desk_.asset(e.id)->picture;
    const StepPlace place = StepPlace::of(e, step);
    auto* tones = new ToneWindow(this);
    const auto now = [this, id = step.id]() -> const Tones* {
        const Step* s = element() ? find_step(element()->steps, id) : nullptr;
        return s ? s->what.as<Tones>() : nullptr;
    };
    const auto show = [this, tones, now, picture] {
        const Tones* t = now();
        if (!t) return;
        countAnew(tones, QString::number(static_cast<int>(t->channel)),
                  [picture, channel = t->channel] { return tone_histogram(*picture, channel, 128); });
        tones->setWindow(t->low, t->high);
    };
    show();
    refreshers_.push_back(show);
    const auto set = [&doc, place](double low, double high) {
        doc.edit(tr("Change tone window"), [&](Piece& piece) {
            for (const QString& which : doc.chosen())
                change(piece, which.toStdString(), [&](Element& changed) {
                    if (const int i = place.index(changed); i >= 0)
                        changed.steps[i] = changed.steps[i].with(
                            [&](Step& s) { s.what = s.what.with("low", low).with("high", high); });
                });
        });
    };
    tieStroke(tones, doc);
    connect(tones, &ToneWindow::windowChanged, this, set);
    connect(tones, &ToneWindow::stretchAsked, this, [this, tones, set, now, picture] {
        const Tones* t = now();
        if (!t) return;
        behind(
            tones, [picture, channel = t->channel] { return tone_range(*picture, channel); },
            [set](std::pair<float, float> range) { set(range.first, range.second); });
    });
    to->addWidget(tones);
}

} // namespace bathylux
