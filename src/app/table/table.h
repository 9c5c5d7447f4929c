#pragma once
#include <QPointer>
#include <QTimer>
#include <QUrl>
#include <QWidget>

#include "app/document/desk.h"
#include "app/document/painter.h"
#include "app/document/placing.h"
#include "app/table/place_ring.h"
#include "core/render/streams.h"

class QMimeData;
class QToolButton;

namespace bathylux {

/// The table: the piece between two views, parted by a seam, and what the hand does on it.
class Table : public QWidget {
    Q_OBJECT
  public:
    enum class Tool { place, light, section, crop, paint };
    enum class Layout { seam, left, right, beside };

    explicit Table(Desk& desk, QWidget* parent = nullptr);

    void setTool(Tool tool);
    Tool tool() const { return tool_; }
    void setLayout(Layout layout);
    Layout layout() const { return layout_; }
    void setView(bool left, View view);
    /// The lit picture as one of the piece's moods has it, to be compared across the seam.
    void setMood(bool left, const std::string& mood);
    View view(bool left) const { return left ? left_ : right_; }
    /// The solid, on one side or, with the layout, on all of the table. Whoever shows it asks where that is.
    void setSolid(bool left);
    bool showsSolid(bool left) const { return left ? leftSolid_ : rightSolid_; }
    /// The part of the table that shows the solid, empty where none does.
    QRect solidRect() const;
    void setGrey(bool grey);
    bool grey() const { return grey_; }
    void fit();
    void setZoom(double zoom, QPointF about = {});
    double zoom() const { return zoom_; }
    void zoomBy(double factor);
    /// Brings a place of the canvas into sight and rings it.
    void showPlace(Vec2 at);
    /// Lays a net over the art that bends with it, while a key is held.
    void setNet(bool net);
    const Streams* streams() const { return streams_.what.get(); }
    /// Shows the piece without the chosen elements, while a key is held.
    void setWithout(bool without);
    /// Between contour lines, canvas px; 0: a round step that fits the piece.
    void setContourStep(double step);
    double contourStep() const { return contourStep_; }
    /// Lays the piece so that its edges meet in the middle, four of it around them.
    void setJoin(bool join);
    bool join() const { return join_; }
    /// Shows in the signal colour where light clips.
    void setShowClipped(bool show);
    bool showClipped() const { return showClipped_; }
    /// While a key is held the chosen light rides the pointer.
    void setFollowing(bool follow);
    bool following() const { return following_; }
    /// The group whose elements are taken hold of one by one; "": those right on the canvas.
    QString group() const { return group_; }
    void enterGroup(const QString& group);
    void leaveGroup();
    Painter& painter() { return painter_; }
    void acceptCrop();
    void cancelCrop();
    /// Asks the renderer for what is to be seen.
    void requestFrame();

    QPointF toScreen(Vec2 canvas, bool leftPane = true) const;
    Vec2 toCanvas(QPointF screen) const;
    /// What the picture shows there; of views that show no colour, the art's.
    std::optional<Color> colorUnder(QPointF screen) const;

  signals:
    void toolChanged();
    void viewChanged();
    void sidesMoved();
    void zoomChanged(double zoom);
    void soundingMoved();
    void filesDropped(const QList<QUrl>& files, Vec2 at);
    void dataDropped(const QMimeData* data, Vec2 at);
    void menuAsked(const QPoint& global);
    void cropProposed(bool active);
    void refused(const QString& why);
    void brushChanged();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void keyReleaseEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void leaveEvent(QEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;
    void tabletEvent(QTabletEvent*) override;
    bool event(QEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    enum class Hold {
        none,
        pan,
        seam,
        element,
        frame,
        scale,
        turn,
        pivot,
        lampFoot,
        lampHead,
        lampAim,
        lampEnd,
        sectionA,
        sectionB,
        sectionNew,
        sectionMove,
        guideX,
        guideY,
        cropEdge,
        cropNew,
        cropMove,
        paint,
        corner
    };

    // Places on screen.
    QRect field() const; // below the strip of view names
    QRect pane(bool left) const;
    bool paneAt(QPointF p) const; // true: the left one
    double seamX() const;
    QRectF canvasOnScreen(bool leftPane) const;
    /// What is shown may have changed: fitted anew, where it was, and made.
    void askAgain();
    void placeNames();
    QString nameOfSide(bool left) const;
    void keepInSight();

    // Painting (table_paint.cpp).
    void paintPane(QPainter& p, bool left);
    void paintRulers(QPainter& p, bool left);
    void paintSoundings(QPainter& p);
    void paintTip(QPainter& p, QPointF at, double radius);
    void paintLegend(QPainter& p);
    /// Where the scale of heights stands; empty where none is shown.
    QRect legend() const;
    void paintKeyBall(QPainter& p, bool left);
    void paintMissing(QPainter& p, bool left);
    void paintSection(QPainter& p, bool left);
    void paintLamps(QPainter& p);
    void paintFrame(QPainter& p, bool left);
    void paintCrop(QPainter& p);
    void paintBrush(QPainter& p, bool left);
    // Of what bends (table_bend.cpp).
    std::optional<std::string> streaming() const;
    void askStreams();
    void paintStreams(QPainter& p, bool left);
    void paintStreamScale(QPainter& p, bool left);
    void paintWorn(QPainter& p, bool left);
    void drawNet(QPainter& p, bool left, const std::function<Vec2(Vec2)>& carried,
                 std::optional<QPointF> about, double radius);
    void drawNets(QPainter& p, bool left);
    void paintCorners(QPainter& p, bool left);
    int cornerAt(QPointF p) const;
    void dragCorner(QPointF p);
    void paintSeam(QPainter& p);
    void frameReady(const std::shared_ptr<Frame>& frame);

    // Tools (table_tools.cpp).
    Hold holdAt(QPointF p);
    void updateCursor(QPointF p);
    void dragElements(QPointF p, Qt::KeyboardModifiers m);
    void takeLamp(QPointF p, Qt::KeyboardModifiers m);
    void dragLamp(QPointF p, Qt::KeyboardModifiers m);
    void followHand(QPointF p);
    void raiseLight(double factor);
    void dragSection(QPointF p, Qt::KeyboardModifiers m);
    void dragCrop(QPointF p);
    std::vector<std::string> elementsAt(Vec2 canvas);
    /// What is chosen and not locked.
    Ids movable() const;
    void pressElement(QPointF p, Qt::KeyboardModifiers m);
    void releaseElement();
    void paintChosenFrame(QPainter& p);
    // Of lights as they lie on the canvas (table_lights.cpp).
    QPointF lampFoot(const Described& light) const;
    QPointF lampHead(const Described& light) const;
    QPointF lampAim(const Described& light) const;
    QPointF stripEnd(const Described& light, bool far) const;
    /// The light under a place, and which part of it: foot, head, end or where it is aimed.
    std::string lampAt(QPointF p, Hold& part);
    std::vector<double> snapLines(bool x) const;

    static constexpr int namesHeight_ = 26; // the strip of view names

    Desk& desk_;
    Painter painter_{desk_};
    double pressure_ = 1, contourStep_ = 0;
    bool join_ = false, showClipped_ = false, following_ = false, net_ = false;
    /// Something made behind the window, and what names it; 0: nothing is asked for.
    template <class T> struct Behind {
        std::shared_ptr<const T> what{};
        std::uint64_t name = 0;
    };
    template <class T>
    void askFor(Behind<T>& shown, std::uint64_t name, std::function<std::shared_ptr<const T>()> make);
    Behind<Streams> streams_; // of what bends, while that is shown
    Behind<Field> worn_;      // what an open wear takes, over the canvas at wornScale_
    double wornScale_ = 1;
    std::optional<QPointF> pointer_; // where the brush is
    Tool tool_ = Tool::place;
    Layout layout_ = Layout::seam;
    View left_ = View::height, right_ = View::lit;
    bool leftSolid_ = false, rightSolid_ = false;
    std::string leftMood_, rightMood_; // of a lit view; "": the one in use
    bool grey_ = false, without_ = false, fitted_ = true;
    double zoom_ = 0.5; // logical px per canvas px
    Vec2 centre_;       // canvas px in the middle of a pane
    double seam_ = 0.5; // share of the field's width
    QToolButton *leftName_, *rightName_;

    std::shared_ptr<Frame> whole_, newest_; // a picture of all of it beneath, the newest on top
    quint64 asked_ = 0;
    std::pair<quint64, int> askedFor_{0, 0}; // look and frame of that
    std::shared_ptr<const Piece> sharpOf_;   // what it is a sharp picture of; null: of none
    double sharpMilliseconds_ = 0;
    QTimer sharpen_;
    bool resting_ = false;
    struct Mark {
        Vec2 at;
        QString text;
    };
    std::vector<Mark> marks_; // soundings that stand on the chart
    struct {
        std::shared_ptr<const Tip> of;
        int side = 0; // px
        QImage picture;
    } tip_; // as it is drawn under the pointer
    PlaceRing ring_{this};

    Hold hold_ = Hold::none;
    QPointF pressed_, last_;
    bool moved_ = false, spaceHeld_ = false;
    Placing placing_; // of what is chosen, as the drag began
    Stroke stroke_;   // of the document, while something is dragged
    Evaluator picking_{desk_.renderer.budget()};
    QString group_;
    std::vector<std::string> under_; // the pointer, when it was pressed, front first
    bool again_ = false;             // what is under it was chosen already: a click takes the next below
    Stroke followStroke_;
    int handle_ = -1;
    std::optional<Vec2> pivot_; // where one has put it
    std::string lamp_;
    std::map<std::string, Described> grabbedLights_; // on the canvas, as the drag began
    bool farEnd_ = false;                            // of a strip, which one is held
    QPointF grip_;                                   // from the pointer to what it holds
    SectionLine grabbedLine_;
    int guide_ = -1;
    Region crop_;
    Region grabbedCrop_;
    std::vector<QLineF> snapped_; // canvas px, drawn while snapping
};

} // namespace bathylux
