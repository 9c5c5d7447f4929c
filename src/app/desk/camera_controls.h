#pragma once
#include "app/controls/controls.h"
#include "app/document/desk.h"

class QMenu;
class QToolButton;
class QVBoxLayout;

namespace bathylux {

class StepRow;

/// From where the solid is seen, what it stands on, and what is behind it; there only while the piece lies on
/// a solid.
class CameraControls : public QWidget {
    Q_OBJECT
  public:
    explicit CameraControls(Desk& desk, QWidget* parent = nullptr);

  private:
    void refresh();
    void fillCameras(QMenu* menu);
    ParameterControl* add(const Parameter& parameter, const Value& standard,
                          std::function<void*(Solid&)> pick, const char* where);

    Desk& desk_;
    QVBoxLayout* box_;
    QToolButton* cameras_;
    StepRow* fold_;
    std::vector<std::pair<ParameterControl*, std::function<bool(const Solid&)>>>
        controls_; // and when they count
    bool open_ = false;
};

} // namespace bathylux
