#pragma once
#include <QComboBox>
#include <QPointer>
#include <QWheelEvent>
#include <QWidget>
#include <functional>
#include <optional>

#include "app/document/document.h"
#include "core/step/parameter.h"

class QLabel;
class QMenu;
class QToolButton;

namespace bathylux {

/// Ties a control to a value of the piece. `get` gives none where several are chosen and differ.
struct Binding {
    std::function<std::optional<Value>()> get;
    std::function<void(const Value&)> set; // one edit of the document
    /// What the value is called where it may move (the path that `--set` takes); "" where it may not.
    std::function<std::string()> path{};
};

/// The mark at the left end of what may move: a ring where it has keys, a filled one where one stands on this
/// frame; a click sets a key or takes it away, its menu has the rest.
class MotionMark : public QWidget {
    Q_OBJECT
  public:
    MotionMark(Document& document, std::function<std::string()> path, QWidget* parent);
    void refresh();
    std::string path() const { return path_ ? path_() : std::string(); }
    bool moves() const { return mark_ > 1; }
    QSize sizeHint() const override { return {14, 18}; }
    void openMenu(QPoint global);

  protected:
    void paintEvent(QPaintEvent*) override;
    /// Kept: what it lies on must not take hold of what it will not see let go.
    void mousePressEvent(QMouseEvent* e) override { e->accept(); }
    void mouseReleaseEvent(QMouseEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void enterEvent(QEnterEvent*) override { update(); }
    void leaveEvent(QEvent*) override { update(); }

  private:
    Document& document_;
    std::function<std::string()> path_;
    int mark_ = 0;
};

/// A control for one parameter, made from its description alone.
class ParameterControl : public QWidget {
    Q_OBJECT
  public:
    using QWidget::QWidget;
    /// Shows what the piece says now.
    virtual void refresh() = 0;
};

/// Numbers get a ruled scale, switches a switch, choices a list, colours a patch, profiles their drawings.
ParameterControl* makeControl(const Parameter& parameter, const Value& standard, Binding binding,
                              Document& document, QWidget* parent);

/// An on/off switch.
class Switch : public QWidget {
    Q_OBJECT
  public:
    explicit Switch(const QString& name, QWidget* parent = nullptr);
    void setOn(bool on);
    QSize sizeHint() const override { return {26, 24}; }

  signals:
    void toggled(bool on);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    bool on_ = true;
};

class ColorPicker;

/// A patch of colour; a click opens the colour picker under its row, another closes it.
class ColorPatch : public QWidget {
    Q_OBJECT
  public:
    ColorPatch(const QString& name, Document& document, QWidget* parent = nullptr);
    ~ColorPatch() override;
    void setColor(const Color& color);
    Color color() const { return color_; }
    QSize sizeHint() const override { return {50, 24}; }
    /// Opens the picker where it is not open yet.
    void open();
    /// Where there is no column to open it in, it gets a small window of its own.
    void setApart() { apart_ = true; }

  signals:
    /// The hand takes hold of a colour, changes it, lets it go.
    void opened();
    void picked(const bathylux::Color& color);
    void closed();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    void choose();
    Document& document_;
    Color color_;
    QPointer<ColorPicker> picker_;
    bool apart_ = false;
};

/// A drop-down list with its mark drawn in the theme's colour, and which leaves the wheel to the panel.
class DropList : public QComboBox {
    Q_OBJECT
  public:
    using QComboBox::QComboBox;
    /// Where there is little room its words are cut short, rather than the panel grow.
    QSize minimumSizeHint() const override { return {72, QComboBox::minimumSizeHint().height()}; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void wheelEvent(QWheelEvent* e) override { e->ignore(); }
};

/// For the event() of a widget in which a key means something of its own: keeps what has it as a shortcut in
/// the window (Delete takes away elements) from getting it first.
bool keepsKey(QEvent* e, Qt::Key key = Qt::Key_Delete);

QColor toQt(const Color& color);
Color fromQt(const QColor& color);

/// While the hand holds something that says so (strokeBegan, strokeEnded), the document is in a stroke.
template <class W> void tieStroke(W* widget, Document& document) {
    auto held = std::make_shared<Stroke>();
    QObject::connect(widget, &W::strokeBegan, widget, [held, &document] { *held = document.stroke(); });
    QObject::connect(widget, &W::strokeEnded, widget, [held] { held->end(); });
}

/// A button that is only a coloured word.
QToolButton* linkButton(const QString& text, QWidget* parent);
/// A menu over `by`'s window that goes when it is closed; to be shown with popup(). Nobody waits for it, and
/// it stays when what is done from it makes `by` anew.
QMenu* passingMenu(const QWidget* by);
QLabel* headLabel(const QString& text, QWidget* parent);

} // namespace bathylux
