#pragma once
#include <QWidget>

#include "app/controls/color_field.h"
#include "app/document/document.h"

class QLineEdit;
class QLabel;
class QToolButton;

namespace bathylux {

class RuledScale;

/// Where a colour is chosen, opened in place under its row: by hue, lightness and strength, by its code, from
/// the colours the piece has, from those kept, or off the table.
class ColorPicker : public QWidget {
    Q_OBJECT
  public:
    ColorPicker(const QString& name, Document& document, QWidget* parent = nullptr);
    void setColor(const Color& color);

  signals:
    void strokeBegan();
    void picked(const bathylux::Color& color);
    void strokeEnded();

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    void take(const Color& color);
    void takeLch(const Lch& lch);
    void show();
    void showSwatches();

    Document& document_;
    Color color_;
    Lch lch_; // its hue stays while the colour is a grey
    ChromaField* field_;
    HueRule* hue_;
    QLineEdit *code_, *numbers_[3];
    RuledScale* opacity_;
    QToolButton* dropper_;
    QLabel* keptLabel_;
    Swatches *used_, *kept_;
};

/// The colours kept by this person, in order.
std::vector<Color> keptColors();
void keepColors(const std::vector<Color>& colors);

/// Puts a widget into the column that holds `row`, right under the line `row` is in; where there is none, in
/// a small window of its own under it.
void openUnder(QWidget* row, QWidget* what);
void openApart(QWidget* row, QWidget* what);

} // namespace bathylux
