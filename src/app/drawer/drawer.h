#pragma once
#include <QAbstractButton>
#include <QWidget>

#include "app/document/desk.h"

class QHBoxLayout;
class QLabel;
class QStackedWidget;
class QToolButton;
class QVBoxLayout;

namespace bathylux {

/// The relief's profile along the section line as an SVG drawing; empty where there is no line. Throws Error.
std::string sectionDrawing(const Scene& scene, const QString& title);

/// The relief's profile along the section line, drawn with rulers.
class SectionView : public QWidget {
    Q_OBJECT
  public:
    explicit SectionView(Desk& desk, QWidget* parent = nullptr);
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

/// A sentence of a check, in as many lines as it needs; a click goes to its place.
class Sentence : public QAbstractButton {
    Q_OBJECT
  public:
    Sentence(const QString& text, QWidget* parent);
    QSize sizeHint() const override;
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;

  protected:
    void paintEvent(QPaintEvent*) override;
    void enterEvent(QEnterEvent*) override { update(); }
    void leaveEvent(QEvent*) override { update(); }
};

/// Below the table: section, soundings, checks. Folds away to a line in which the checks' count stays.
class Drawer : public QWidget {
    Q_OBJECT
  public:
    explicit Drawer(Desk& desk, QWidget* parent = nullptr);
    void setFolded(bool folded);
    bool folded() const { return folded_; }
    void showSounding();
    /// Puts the strip of a piece that moves into the drawer's head, and its tracks beside the section.
    /// `details`: of the strip, what is of use beside the tracks alone.
    void setTime(QWidget* strip, const QList<QWidget*>& details, QWidget* tracks);
    enum class Page { section, time };
    void showPage(Page page);
    Page page() const;
    SectionView& section() { return *section_; }
    const std::vector<Finding>& findings() const { return findings_; }

  signals:
    void placeAsked(Vec2 at);
    /// What of the relief a check finds fault with is to be shown, wherever it lies.
    void faultAsked(const QString& check);
    void drawingAsked();

  private:
    void showFindings();
    Desk& desk_;
    bool folded_ = false;
    QStackedWidget* body_;
    QToolButton *sectionTab_, *timeTab_;
    QList<QWidget*> ofSection_, ofTime_; // in the head
    bool ran_ = false;
    SectionView* section_;
    QHBoxLayout* top_;
    QLabel *height_, *slope_, *normal_, *count_;
    QToolButton* fold_;
    QVBoxLayout* checks_;
    QWidget* checksHolder_ = nullptr;
    std::vector<Finding> findings_;
    bool checked_ = false;
};

} // namespace bathylux
