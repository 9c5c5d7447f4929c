#pragma once
#include <QWidget>

#include "app/document/painter.h"

class QComboBox;
class QLabel;

namespace bathylux {

class ColorPatch;
class RuledScale;

/// One row above the table while a brush is in the hand: what it works on and how.
class BrushRow : public QWidget {
    Q_OBJECT
  public:
    BrushRow(Desk& desk, Painter& painter, QWidget* parent = nullptr);
    /// Shows what the painter holds now.
    void refresh();
    /// Takes a picture as the brush's tip ("": round); one from elsewhere is kept among the others.
    void useTip(const QString& file);

  signals:
    void changed();

  private:
    RuledScale* scale(const char* id, float Brush::*member, int width);
    void fillTips();
    void takeTip(int i);
    Desk& desk_;
    Painter& painter_;
    QLabel* on_;
    QComboBox *work_, *motif_, *tip_;
    ColorPatch* ink_;
    QString tipFile_;
    QStringList tips_; // files, in the order of the list; "" for round
    QList<std::pair<RuledScale*, float Brush::*>> scales_;
};

} // namespace bathylux
