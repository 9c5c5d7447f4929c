#include "app/desk/camera_controls.h"

#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/solid_edit.h"
#include "app/controls/step_row.h"
#include "app/controls/theme.h"

namespace bathylux {

namespace {

bool same(const Camera& a, const Camera& b) {
    return std::all_of(Camera::parameters.begin(), Camera::parameters.end(),
                       [&](const Parameter& p) { return p.get(&a) == p.get(&b); });
}

} // namespace

CameraControls::CameraControls(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
    setObjectName("cameraControls");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#cameraControls { border-top: 1px solid " + Theme::current().line.name() + "; }");
    box_ = new QVBoxLayout(this);
    box_->setContentsMargins(14, 8, 14, 8);
    box_->setSpacing(2);
    auto* top = new QHBoxLayout;
    top->addWidget(headLabel(tr("Camera"), this));
    top->addStretch(1);
    cameras_ = linkButton({}, this);
    cameras_->setObjectName("cameras");
    cameras_->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(cameras_);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] { fillCameras(menu); });
    cameras_->setMenu(menu);
    top->addWidget(cameras_);
    box_->addLayout(top);

    static const Solid standard;
    const auto camera = [](Solid& s) -> void* { return &s.camera; };
    const auto ground = [](Solid& s) -> void* { return &s.ground; };
    const auto always = [](const Solid&) { return true; };
    const auto of = [](std::span<const Parameter> all, std::string_view id) -> const Parameter& {
        return *std::find_if(all.begin(), all.end(), [&](const Parameter& p) { return p.id == id; });
    };
    for (const char* id : {"field", "distance"}) {
        const Parameter& p = of(Camera::parameters, id);
        controls_.emplace_back(add(p, p.get(&standard.camera), camera, "solid.camera."), always);
    }
    const Parameter& on = of(GroundPlane::parameters, "on");
    controls_.emplace_back(add(on, on.get(&standard.ground), ground, "solid.ground."), always);
    fold_ = new StepRow(false, this);
    box_->addWidget(fold_);
    connect(fold_, &StepRow::clicked, this, [this] {
        open_ = !open_;
        refresh();
    });
    for (const Parameter& p : Camera::parameters) {
        if (p.id == "field" || p.id == "distance") continue;
        controls_.emplace_back(
            add(p, p.get(&standard.camera), camera, "solid.camera."),
            [this, &p](const Solid& s) { return open_ && counts(Camera::parameters, &s.camera, p); });
    }
    for (const Parameter& p : GroundPlane::parameters) {
        if (p.id == "on") continue;
        controls_.emplace_back(add(p, p.get(&standard.ground), ground, "solid.ground."),
                               [this](const Solid& s) { return open_ && s.ground.on; });
    }
    const Parameter& backdrop = of(Body::parameters, "backdrop");
    controls_.emplace_back(
        add(
            backdrop, backdrop.get(&standard.body), [](Solid& s) -> void* { return &s.body; }, "solid."),
        [this](const Solid&) { return open_; });
    connect(&desk_.document, &Document::changed, this, &CameraControls::refresh);
    refresh();
}

ParameterControl* CameraControls::add(const Parameter& p, const Value& standard,
                                      std::function<void*(Solid&)> pick, const char* where) {
    auto* control =
        makeControl(p, standard, ofSolid(desk_.document, p, std::move(pick), where), desk_.document, this);
    box_->addWidget(control);
    return control;
}

void CameraControls::refresh() {
    const auto& solid = desk_.document.piece().solid;
    if (!solid) return hide();
    QString name = tr("free ▾");
    for (const KeptCamera& c : solid->cameras)
        if (same(c.camera, solid->camera)) name = tr("%1 ▾").arg(QString::fromStdString(c.name));
    cameras_->setText(name);
    fold_->setFace(
        tr("More"),
        open_ ? QString()
              : tr("turn %1°, tilt %2°").arg(qRound(solid->camera.turn)).arg(qRound(solid->camera.tilt)),
        true, open_);
    for (const auto& [control, counted] : controls_) {
        control->setVisible(counted(*solid));
        control->refresh();
    }
    show(); // last: what is folded away must not have made the window larger by then
}

void CameraControls::fillCameras(QMenu* menu) {
    menu->clear();
    Document& doc = desk_.document;
    const auto& solid = doc.piece().solid;
    if (!solid) return;
    const auto change = [&doc](const QString& name, const std::function<void(Solid&)>& work) {
        editSolid(doc, name, work);
    };
    const std::pair<const char*, std::pair<float, float>> sides[] = {
        {QT_TR_NOOP("From the front"), {0, 0}},  {QT_TR_NOOP("From the right"), {90, 0}},
        {QT_TR_NOOP("From behind"), {180, 0}},   {QT_TR_NOOP("From the left"), {-90, 0}},
        {QT_TR_NOOP("From above"), {0, 90}},     {QT_TR_NOOP("From below"), {0, -90}},
        {QT_TR_NOOP("Three quarters"), {24, 13}}};
    for (const auto& [name, angles] : sides)
        menu->addAction(tr(name), this, [change, angles = angles] {
            change(tr("Look from another side"), [angles](Solid& s) {
                s.camera.turn = angles.first, s.camera.tilt = angles.second, s.camera.roll = 0;
            });
        });
    if (!solid->cameras.empty()) menu->addSeparator();
    for (std::size_t i = 0; i < solid->cameras.size(); ++i)
        menu->addAction(QString::fromStdString(solid->cameras[i].name), this, [change, i] {
            change(tr("Look through another camera"), [i](Solid& s) {
                if (i < s.cameras.size()) s.camera = s.cameras[i].camera;
            });
        });
    menu->addSeparator();
    menu->addAction(tr("Keep this camera…"), this, [this, change] {
        bool good = false;
        const QString name =
            QInputDialog::getText(window(), tr("Keep this camera"), tr("Name"), QLineEdit::Normal, {}, &good)
                .trimmed();
        if (!good || name.isEmpty()) return;
        change(tr("Keep this camera"), [name = name.toStdString()](Solid& s) {
            for (KeptCamera& c : s.cameras)
                if (c.name == name) return void(c.camera = s.camera);
            s.cameras.push_back({name, s.camera});
        });
    });
    if (solid->cameras.empty()) return;
    QMenu* forget = menu->addMenu(tr("Forget"));
    for (const KeptCamera& c : solid->cameras)
        forget->addAction(QString::fromStdString(c.name), this, [change, name = c.name] {
            change(tr("Forget a camera"), [name](Solid& s) {
                std::erase_if(s.cameras, [&](const KeptCamera& k) { return k.name == name; });
            });
        });
}

} // namespace bathylux
