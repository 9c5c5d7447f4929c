#pragma once
#include <QTimer>
#include <QWidget>

#include "app/solid/solid_renderer.h"
#include "app/table/table.h"

class QToolButton;

namespace bathylux {

/// The solid on the table: the side of the seam that shows it. Dragging turns it, the wheel brings it nearer;
/// lights are walked around it, the label is laid where one wants it, the brush works where it meets the
/// skin.
class SolidPane : public QWidget {
    Q_OBJECT
  public:
    SolidPane(Desk& desk, Table& table);

    const SolidFrame* frame() const { return frame_.get(); }
    /// Sharp, and of the piece as it is now.
    bool settled() const;
    void setPlacing(bool placing);
    bool placing() const { return placing_; }
    /// Looks straight at it from one of its six sides: degrees round to the right, and up.
    void lookFrom(double turn, double tilt);
    void keepCamera(const QString& name);
    void useCamera(int index);
    /// Rings a place of the canvas where it lies on the body.
    void showPlace(Vec2 canvas) { ring_.show(canvas); }
    /// Hatches what a check finds fault with over the body, or no more where it does so already.
    void showFault(const QString& check);
    QString shownFault() const { return fault_; }
    /// Where a point of the solid's space is on the pane.
    QPointF toScreen(Vec3 point) const;

  signals:
    void refused(const QString& why);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    enum class Hold { none, turn, pan, lamp, label, size, labelTurn, paint, element, measure };
    static constexpr int globeRadius = 20;

    void place();
    void request();
    void edit(const QString& name, const std::function<void(Solid&)>& change);
    Solid solid() const { return desk_.document.piece().solid.value_or(Solid()); }
    Sight sight() const;
    Sight sight(const Camera& camera) const;
    std::optional<Spot> spotAt(QPointF p) const;
    /// The u and v of the label's middle, and the canvas px, that lie under the hand, where what it took hold
    /// of goes along at its height.
    std::optional<Vec2> heldLabelAt(QPointF p) const;
    std::optional<Vec2> heldCanvasAt(QPointF p) const;
    /// The light whose head lies there, and where heads lie.
    std::string lampAt(QPointF p) const;
    std::optional<Vec3> headOf(const Light& light) const;
    Hold holdAt(QPointF p);
    QPointF globe() const;
    std::optional<std::array<QPointF, 4>> labelCorners() const;
    std::optional<QPointF> turnHandle() const;
    /// The chosen element that is seen there, if the hand may take it.
    std::string elementAt(const Spot& spot);
    void paintMeasure(QPainter& p);
    void paintRing(QPainter& p);
    void paintFault(QPainter& p);
    void paintAngles(QPainter& p);
    void dragLamp(QPointF p, Qt::KeyboardModifiers m);
    void drawLabelNet(QPainter& p);
    void paintLamps(QPainter& p);
    void paintGlobe(QPainter& p);
    void paintBrush(QPainter& p);

    Desk& desk_;
    Table& table_;
    SolidRenderer renderer_;
    std::shared_ptr<SolidFrame> frame_;
    QString trouble_;
    QToolButton* place_;
    QTimer sharpen_;
    bool resting_ = false, placing_ = false;
    Hold hold_ = Hold::none;
    Stroke stroke_;
    QPointF pressed_, last_;
    std::optional<QPointF> pointer_;
    Solid grabbed_;
    std::unique_ptr<const Skin> level_; // what the hand moves over, where it took hold of the relief
    Vec2 grip_;                         // from the label's middle to where it is held, px along the surface
    std::string lamp_;
    Vec3 grabbedHead_;
    Placing elements_;                         // what is chosen, as it was when the hand took it
    Vec2 heldAt_;                              // where, canvas px
    std::optional<std::pair<Vec3, Vec3>> way_; // that is measured
    Vec2 measuredTo_;                          // its end, canvas px
    PlaceRing ring_{this};
    QString fault_; // the check whose faults are hatched
    Evaluator picking_{desk_.renderer.budget()};
};

} // namespace bathylux
