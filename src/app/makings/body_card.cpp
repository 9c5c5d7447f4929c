#include "app/makings/body_card.h"

#include <QButtonGroup>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/solid_edit.h"
#include "app/controls/step_row.h"
#include "app/controls/theme.h"
#include "app/makings/element_head.h"
#include "core/piece/starts.h"
#include "core/piece/surface_starts.h"
#include "core/step/step_kind.h"

namespace bathylux {

namespace {

const Parameter& parameter(std::string_view id) {
    return *std::find_if(Body::parameters.begin(), Body::parameters.end(),
                         [&](const Parameter& p) { return p.id == id; });
}

/// "cylinder, Ø 72 mm".
QString says(const Solid* solid, const Canvas& canvas) {
    if (!solid) return QObject::tr("none yet: the piece lies flat");
    const Body& b = solid->body;
    const auto mm = [&](double px) {
        return QString::fromStdString(said(std::round(10 * px / canvas.px_per_mm) / 10));
    };
    switch (b.kind) {
    case BodyKind::plane: return QObject::tr("plane, as large as the canvas");
    case BodyKind::cylinder: return QObject::tr("cylinder, Ø %1 mm").arg(mm(2 * b.radius));
    case BodyKind::sphere: return QObject::tr("sphere, Ø %1 mm").arg(mm(2 * b.radius));
    case BodyKind::box:
        return QObject::tr("box, %1 × %2 × %3 mm").arg(mm(b.width), mm(b.height), mm(b.depth));
    case BodyKind::mesh:
        return b.file.empty() ? QObject::tr("mesh: choose a file")
                              : QString::fromStdString(b.file).section('/', -1);
    }
    return {};
}

constexpr std::array<std::pair<const char*, const char*>, 5> kindIcons{
    {{"solid-plane", QT_TRANSLATE_NOOP("BodyCard", "Plane")},
     {"solid-cylinder", QT_TRANSLATE_NOOP("BodyCard", "Cylinder")},
     {"solid-sphere", QT_TRANSLATE_NOOP("BodyCard", "Sphere")},
     {"solid-box", QT_TRANSLATE_NOOP("BodyCard", "Box")},
     {"solid-mesh", QT_TRANSLATE_NOOP("BodyCard", "Your own mesh")}}};

} // namespace

BodyCard::BodyCard(Desk& desk, bool open, bool surfaceOpen, QWidget* parent)
    : QWidget(parent), desk_(desk), head_(new ElementHead(this)), open_(open) {
    const Theme& t = Theme::current();
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(open ? 3 : 0, open ? 1 : 0, open ? 1 : 0, open ? 8 : 0);
    box->setSpacing(0);
    box->addWidget(head_);
    connect(head_, &ElementHead::clicked, this, [this] { emit foldAsked("body"); });
    if (open) {
        setObjectName("card");
        setAttribute(Qt::WA_StyledBackground);
        setStyleSheet(QString("#card { background: %1; border: 1px solid %2; border-left: 3px solid %2; }")
                          .arg(t.selection.name(), t.accent.name()));
        auto* inner = new QVBoxLayout;
        inner->setContentsMargins(8, 2, 10, 0);
        inner->setSpacing(1);
        box->addLayout(inner);
        inner->addWidget(kinds());
        if (const Solid* s = solid()) {
            const auto part = [&](const QString& name, std::initializer_list<const char*> ids) {
                const bool any = std::any_of(ids.begin(), ids.end(), [&](const char* id) {
                    return counts(Body::parameters, &s->body, parameter(id));
                });
                if (!any) return;
                if (!name.isEmpty()) {
                    inner->addSpacing(8);
                    inner->addWidget(headLabel(name, this));
                }
                for (const char* id : ids)
                    if (counts(Body::parameters, &s->body, parameter(id))) add(inner, parameter(id));
            };
            part({}, {"file", "radius", "width", "height", "depth", "round", "smooth"});
            part(tr("Label"), {"wrap", "u", "v", "turn", "scale", "scale_u", "scale_v", "repeat"});
            part(tr("Relief"), {"relief", "shift", "fineness"});
            inner->addSpacing(8);
            inner->addWidget(headLabel(tr("The body itself"), this));
            add(inner, parameter("color"));
            addSurface(inner, surfaceOpen);
            auto* remove = linkButton(tr("lie flat again"), this);
            connect(remove, &QToolButton::clicked, this, [this] {
                desk_.document.edit(tr("Take off the body"), [](Piece& p) { p.solid.reset(); });
            });
            inner->addWidget(remove, 0, Qt::AlignRight);
        }
    }
    refresh();
}

const Solid* BodyCard::solid() const {
    const auto& s = desk_.document.piece().solid;
    return s ? &*s : nullptr;
}

QString BodyCard::signature(const Desk& desk) {
    const auto& s = desk.document.piece().solid;
    if (!s) return "flat";
    QString out = QString::number(static_cast<int>(s->body.kind));
    for (const Parameter& p : Body::parameters) out += counts(Body::parameters, &s->body, p) ? '1' : '0';
    for (const Parameter& p : Surface::parameters)
        out += counts(Surface::parameters, &s->surface, p) ? '1' : '0';
    return out;
}

void BodyCard::refresh() {
    ElementHead::Face f;
    f.plain = true, f.fixed = true;
    f.id = "body", f.name = tr("Body");
    f.about = says(solid(), desk_.document.piece().canvas);
    f.open = open_, f.chosen = open_;
    head_->setFace(f);
    for (ParameterControl* c : controls_) c->refresh();
    for (const auto& r : refreshers_) r();
}

void BodyCard::add(QVBoxLayout* to, const Parameter& p) {
    static const Body standard;
    controls_.push_back(makeControl(p, p.get(&standard),
                                    ofSolid(desk_.document, p, [](Solid& s) -> void* { return &s.body; }, "solid."),
                                    desk_.document, this));
    to->addWidget(controls_.back());
}

QWidget* BodyCard::kinds() {
    auto* row = new QWidget(this);
    auto* h = new QHBoxLayout(row);
    h->setContentsMargins(0, 2, 0, 6);
    h->setSpacing(4);
    for (std::size_t i = 0; i < kindIcons.size(); ++i) {
        auto* b = new QToolButton(row);
        b->setCheckable(true);
        b->setIcon(icon(kindIcons[i].first));
        b->setIconSize({24, 24});
        b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        b->setToolTip(tr(kindIcons[i].second));
        b->setAccessibleName(tr(kindIcons[i].second));
        const auto kind = static_cast<BodyKind>(i);
        refreshers_.push_back([this, b, kind] { b->setChecked(solid() && solid()->body.kind == kind); });
        connect(b, &QToolButton::clicked, this, [this, kind] {
            desk_.document.edit(tr("Lay on a body"), [kind](Piece& p) {
                const Solid fresh = started_solid(kind, p.canvas);
                if (!p.solid) {
                    p.solid = fresh;
                    return;
                }
                // What was set stays; a size and a view that suit the new kind come along.
                Solid s = *p.solid;
                s.body.kind = kind;
                if (p.solid->body.kind == BodyKind::plane || kind == BodyKind::plane)
                    s.camera = fresh.camera, s.body.radius = fresh.body.radius,
                    s.body.width = fresh.body.width, s.body.height = fresh.body.height,
                    s.body.depth = fresh.body.depth, s.body.round = fresh.body.round, s.ground = fresh.ground;
                p.solid = s;
            });
        });
        h->addWidget(b);
    }
    return row;
}

void BodyCard::addSurface(QVBoxLayout* to, bool open) {
    auto* row = new StepRow(false, this);
    to->addWidget(row);
    connect(row, &StepRow::clicked, this, [this] { emit foldAsked("body-surface"); });
    refreshers_.push_back([this, row, open] {
        const Solid* s = solid();
        if (!s) return;
        row->setFace(tr("Surface"),
                     open ? QString()
                          : tr("roughness %1, metallic %2")
                                .arg(said(s->surface.roughness).c_str(), said(s->surface.metallic).c_str()),
                     true, open);
    });
    if (!open) return;
    auto* start = linkButton(tr("start from ▾"), this);
    start->setObjectName("bodySurfaceStarts");
    start->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(start);
    for (const SurfaceStart& s : surface_starts())
        menu->addAction(qs(s.name), this, [this, &s] {
            desk_.document.edit(tr("Change surface"), [&](Piece& p) {
                if (p.solid) p.solid->surface = s.surface;
            });
        });
    start->setMenu(menu);
    to->addWidget(start, 0, Qt::AlignRight);
    static const Surface standard{.roughness = 0.6f};
    for (const Parameter& p : Surface::parameters) {
        if (!counts(Surface::parameters, &solid()->surface, p)) continue;
        controls_.push_back(makeControl(
            p, p.get(&standard), ofSolid(desk_.document, p, [](Solid& s) -> void* { return &s.surface; }, "solid.surface."),
            desk_.document, this));
        to->addWidget(controls_.back());
    }
}

} // namespace bathylux
