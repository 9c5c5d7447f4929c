#pragma once
#include <QColor>
#include <QFont>
#include <QIcon>
#include <QPixmap>

class QApplication;

namespace bathylux {

/// The colours of the chart room, by role. Text reaches 4.5:1 on window, panel and well, marks 3:1.
struct Theme {
    bool dark = true;
    QColor window, panel, well, raised, line;
    QColor text, second, faint;
    QColor accent, onAccent, signal, depth;
    QColor selection; // ground of the chosen card
    /// What the hand holds on the art itself, which is the same picture by day and by night.
    static QColor onArt() { return QColor("#e2a83b"); }

    static const Theme& current();
    /// "night chart" or "day chart"; restyles the whole application.
    static void apply(QApplication& app, bool dark);

    static QFont words(int px = 13, int weight = QFont::Normal);
    static QFont numbers(int px = 12);
    static QFont soundings(int px = 12);
    /// Small letterspaced capitals of section heads.
    static QFont heads();
};

/// An icon of the shipped set, drawn in a colour of the theme.
QPixmap iconPixmap(const QString& name, const QColor& color, int px, qreal ratio);
QIcon icon(const QString& name);

} // namespace bathylux
