#pragma once
#include <QWidget>

#include "app/desk.h"
#include "app/time_strip.h"

class QLabel;
class QToolButton;
class QVBoxLayout;

namespace bathylux {

/// The relief's profile along the section line, drawn with rulers.
class SectionView : public QWidget {
    Q_OBJECT
  public:
    explicit SectionView(Desk& desk, QWidget* parent = nullptr);
    /// The profile as a drawing; empty while there is none.
    std::string drawing() const;
    void setMillimetres(bool on);
    bool millimetres() const { return millimetres_; }

  signals:
    void pointed(Vec2 canvas);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

  private:
    QRectF plot() const;
    Desk& desk_;
    bool millimetres_ = false;
    double hover_ = -1; // 0…1 along the line
};

/// Below the table: section, soundings, checks. Folds away to a line in which the checks' count stays.
class Drawer : public QWidget {
    Q_OBJECT
  public:
    explicit Drawer(Desk& desk, QWidget* parent = nullptr);
    void setFolded(bool folded);
    bool folded() const { return folded_; }
    void showSounding();
    TimeStrip& time() { return *time_; }
    SectionView& section() { return *section_; }
    const std::vector<Finding>& findings() const { return findings_; }

  signals:
    void placeAsked(Vec2 at);
    void drawingAsked();
    void foldedChanged();

  private:
    void showFindings();
    Desk& desk_;
    bool folded_ = false;
    QWidget* body_;
    SectionView* section_;
    TimeStrip* time_;
    QLabel *height_, *slope_, *normal_, *count_;
    QToolButton* fold_;
    QVBoxLayout* checks_;
    QWidget* checksHolder_ = nullptr;
    std::vector<Finding> findings_;
    bool checked_ = false;
};

} // namespace bathylux
