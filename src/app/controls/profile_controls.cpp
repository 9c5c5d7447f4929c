#include "app/controls/profile_controls.h"

#include <QVBoxLayout>

#include "app/controls/profile_editor.h"
#include "app/document/desk.h"

namespace bathylux {

namespace {

class ProfileControl : public ParameterControl {
  public:
    ProfileControl(const Parameter& p, Binding binding, Document& document, QWidget* parent)
        : ParameterControl(parent), binding_(std::move(binding)) {
        auto* box = new QVBoxLayout(this);
        box->setContentsMargins(0, 2, 0, 4);
        box->setSpacing(4);
        strip_ = new ProfileStrip(this);
        strip_->setAccessibleName(qs(p.name));
        curve_ = new CurveEditor(this);
        box->addWidget(strip_);
        box->addWidget(curve_);
        setToolTip(qs(p.help));
        connect(strip_, &ProfileStrip::picked, this,
                [this](const Profile& profile) { binding_.set(profile); });
        tieStroke(curve_, document);
        connect(curve_, &CurveEditor::changed, this,
                [this](const Profile& profile) { binding_.set(profile); });
        setFocusProxy(strip_);
        refresh();
    }
    void refresh() override {
        const auto v = binding_.get();
        const Profile now = v ? std::get<Profile>(*v) : Profile();
        strip_->setProfile(now);
        curve_->setVisible(now.shape == Profile::Shape::own);
        if (now.shape == Profile::Shape::own) curve_->setProfile(now);
    }

  private:
    Binding binding_;
    ProfileStrip* strip_;
    CurveEditor* curve_;
};

/// A curve over 0…1: the editor of profiles, whose curve is always an own one.
class CurveControl : public ParameterControl {
  public:
    CurveControl(const Parameter& p, Binding binding, Document& document, QWidget* parent)
        : ParameterControl(parent), binding_(std::move(binding)) {
        auto* box = new QVBoxLayout(this);
        box->setContentsMargins(0, 2, 0, 4);
        curve_ = new CurveEditor(this);
        curve_->setAccessibleName(qs(p.name));
        box->addWidget(curve_);
        tieStroke(curve_, document);
        connect(curve_, &CurveEditor::changed, this,
                [this](const Profile& profile) { binding_.set(profile.points); });
        setFocusProxy(curve_);
        refresh();
    }
    void refresh() override {
        const auto v = binding_.get();
        curve_->setPoints(v ? std::get<Points>(*v) : Points{{0.0f, 0.0f}, {1.0f, 1.0f}});
    }

  private:
    Binding binding_;
    CurveEditor* curve_;
};

} // namespace

ParameterControl* makeProfileControl(const Parameter& p, Binding binding, Document& document,
                                     QWidget* parent) {
    return new ProfileControl(p, std::move(binding), document, parent);
}
ParameterControl* makeCurveControl(const Parameter& p, Binding binding, Document& document, QWidget* parent) {
    return new CurveControl(p, std::move(binding), document, parent);
}

} // namespace bathylux
