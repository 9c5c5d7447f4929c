#pragma once
#include <QImage>
#include <QWidget>

#include "core/field/srgb.h"

namespace bathylux {

/// A colour as the eye orders it: lightness 0…1, chroma from grey, hue in degrees (OKLCh, Ottosson 2020).
struct Lch {
    double lightness = 0, chroma = 0, hue = 0;
};
constexpr double most_chroma = 0.33; // what a screen can show of the strongest colours
Lch toLch(const Color& color);
/// What cannot be shown keeps lightness and hue.
Color fromLch(const Lch& lch, float alpha = 1);
bool canBeShown(const Lch& lch);

/// A drawing of colours by which the hand pulls one.
class LchControl : public QWidget {
    Q_OBJECT
  public:
    LchControl(const QString& name, int height, QWidget* parent);
    void setLch(const Lch& lch);
    QSize sizeHint() const override { return {260, height()}; }

  signals:
    void strokeBegan();
    void changed(const bathylux::Lch& lch);
    void strokeEnded();

  protected:
    /// What is set, in words.
    virtual QString says() const = 0;
    /// The hand is there.
    virtual void pull(QPointF at) = 0;
    void take(const Lch& lch);
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
    Lch lch_;

  private:
    bool pulling_ = false;
};

/// All colours of one hue: grey at the left, stronger to the right, light at the top. What no screen can show
/// is hatched.
class ChromaField : public LchControl {
    Q_OBJECT
  public:
    explicit ChromaField(QWidget* parent = nullptr);

  protected:
    QString says() const override;
    void pull(QPointF at) override;
    void paintEvent(QPaintEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    QRect field() const { return rect().adjusted(0, 2, -1, -3); }
    void put(double chroma, double lightness);
    QImage drawn_;
    double drawnHue_ = -1;
};

/// All hues along a rule.
class HueRule : public LchControl {
    Q_OBJECT
  public:
    explicit HueRule(QWidget* parent = nullptr);

  protected:
    QString says() const override;
    void pull(QPointF at) override;
    void paintEvent(QPaintEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    void put(double hue);
};

/// Small squares of colour to take from.
class Swatches : public QWidget {
    Q_OBJECT
  public:
    explicit Swatches(const QString& name, QWidget* parent = nullptr);
    void setColors(std::vector<Color> colors);
    QSize sizeHint() const override;
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;

  signals:
    void picked(const bathylux::Color& color);
    /// A right click on one.
    void menuAsked(int index, const QPoint& global);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    static constexpr int side = 24; // with the gap
    int columns(int width) const { return std::max(1, width / side); }
    QRect cell(int i) const;
    int at(QPoint p) const;
    std::vector<Color> colors_;
    int chosen_ = 0;
};

} // namespace bathylux
