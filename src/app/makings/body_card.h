#pragma once
#include "app/controls/controls.h"
#include "app/document/desk.h"

class QVBoxLayout;

namespace bathylux {

class ElementHead;

/// The last line of the makings: what the piece lies on. A click opens it into a card.
class BodyCard : public QWidget {
    Q_OBJECT
  public:
    BodyCard(Desk& desk, bool open, bool surfaceOpen, QWidget* parent);
    /// What decides which controls there are.
    static QString signature(const Desk& desk);
    void refresh();

  signals:
    void foldAsked(const QString& key);

  private:
    void add(QVBoxLayout* to, const Parameter& parameter);
    QWidget* kinds();
    void addSurface(QVBoxLayout* to, bool open);
    const Solid* solid() const;

    Desk& desk_;
    ElementHead* head_;
    bool open_;
    std::vector<ParameterControl*> controls_;
    std::vector<std::function<void()>> refreshers_;
};

} // namespace bathylux
