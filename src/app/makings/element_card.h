#pragma once
#include <QMap>
#include <QPointer>
#include <QWidget>
#include <functional>

#include "app/controls/chosen.h"
#include "app/document/desk.h"

class QMenu;
class QVBoxLayout;

namespace bathylux {

class ElementHead;

/// Which folded parts of a card are open, by their key.
using Folds = QMap<QString, bool>;

/// The open element: source, placement, mixing and mask, surface, then its steps in order. Made for an
/// element as it is; what it shows afterwards it looks up by ids.
class ElementCard : public QWidget {
    Q_OBJECT
  public:
    ElementCard(Desk& desk, const Element& element, const Folds& folds, ElementHead* head, QWidget* parent);
    /// What decides which controls there are.
    static QString signature(const Desk& desk, const Element& element);
    void refresh();
    QWidget* stepButton() const { return stepButton_; }
    /// The lines of its steps, by the step's id.
    const std::vector<std::pair<QString, QWidget*>>& stepRows() const { return stepRows_; }

  signals:
    void stepAsked();
    void stepMenu(const QString& step, const QPoint& global);
    void embedAsked(const QString& element);
    void relinkAsked(const QString& element);
    void foldAsked(const QString& key);

  private:
    const Element* element() const { return desk_.document.element(id_); }
    ParameterControl* add(QVBoxLayout* to, const Parameter& parameter, const Value& standard,
                          Place<Value> place);
    void showMixing(ParameterControl* stops, const std::function<const Described*()>& of);
    void countBehind(ParameterControl* curve, const std::string& step);
    void addFold(QVBoxLayout* to, const QString& key, const QString& name,
                 const std::function<QString()>& says, const std::function<void(QVBoxLayout*)>& fill);
    void addMap(QVBoxLayout* to, const QString& label, const QString& none, const MapPlace& place,
                bool pairs = false);
    void addSource(QVBoxLayout* to, const Element& e);
    void addFile(QVBoxLayout* to, const Element& e);
    void addFollowed(QVBoxLayout* to, const Parameter& parameter);
    void addAngles(QVBoxLayout* to, const Element& e);
    void addPlacement(QVBoxLayout* to, const Element& e);
    void addMixing(QVBoxLayout* to);
    void addUsers(QVBoxLayout* to, const Element& e);
    // surface_rows.cpp
    void addSurface(QVBoxLayout* to, const Element& e);
    void fillSurfaceStarts(QMenu* menu);
    void addSurfaceMaps(QVBoxLayout* to, const Element& e);
    // step_rows.cpp
    void addSteps(QVBoxLayout* to, const Element& e);
    void addStep(QVBoxLayout* to, const Element& e, const Step& step);
    void addRampFit(QVBoxLayout* to, const Element& e, const Step& step);
    void addToneWindow(QVBoxLayout* to, const Element& e, const Step& step);

    Desk& desk_;
    const Folds& folds_;
    QString id_;
    QWidget* stepButton_ = nullptr;
    std::vector<std::pair<QString, QWidget*>> stepRows_;
    std::vector<ParameterControl*> controls_; // children of this
    std::vector<std::function<void()>> refreshers_;
};

} // namespace bathylux
