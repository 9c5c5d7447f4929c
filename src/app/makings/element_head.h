#pragma once
#include <QImage>
#include <QWidget>

class QLineEdit;

namespace bathylux {

/// One element's line: its picture, name, what it is, and three glyphs for what it gives.
class ElementHead : public QWidget {
    Q_OBJECT
  public:
    struct Face {
        QString id, name, about;
        QImage picture;
        bool color = true, height = false, surface = false; // what it gives
        bool plain = false; // a line that is no element: no picture, gives nothing of its own
        bool fixed = false; // and cannot be switched off
        bool visible = true, open = false, chosen = false, trouble = false, locked = false;
        int depth = 0;
        friend bool operator==(const Face& a, const Face& b) {
            return a.id == b.id && a.name == b.name && a.about == b.about &&
                   a.picture.cacheKey() == b.picture.cacheKey() && a.color == b.color &&
                   a.height == b.height && a.surface == b.surface && a.visible == b.visible &&
                   a.open == b.open && a.chosen == b.chosen && a.trouble == b.trouble &&
                   a.locked == b.locked && a.depth == b.depth && a.plain == b.plain && a.fixed == b.fixed;
        }
    };
    explicit ElementHead(QWidget* parent = nullptr);
    void setFace(const Face& face);
    const Face& face() const { return face_; }
    /// Opens the name for typing.
    void rename();
    QSize sizeHint() const override { return {240, face_.open ? 56 : 40}; }

  signals:
    void clicked(const QString& id, Qt::KeyboardModifiers modifiers);
    void visibleToggled(const QString& id, bool visible);
    void renamed(const QString& id, const QString& name);
    void menuAsked(const QString& id, const QPoint& global);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    bool eventFilter(QObject*, QEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
    void enterEvent(QEnterEvent*) override { hovered_ = true, update(); }
    void leaveEvent(QEvent*) override { hovered_ = false, update(); }

  private:
    QRect eye() const;
    QRect nameRect() const;
    Face face_;
    bool hovered_ = false;
    QLineEdit* edit_ = nullptr;
};

} // namespace bathylux
