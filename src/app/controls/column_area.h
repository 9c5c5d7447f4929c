#pragma once
#include <QScrollArea>

namespace bathylux {

/// An area for a column: as wide as there is room, scrolled up and down, passed over by the Tab key.
inline QScrollArea* columnArea(QWidget* parent) {
    auto* area = new QScrollArea(parent);
    area->setWidgetResizable(true);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setFocusPolicy(Qt::NoFocus);
    return area;
}
/// What it is to show, to be filled and set into it: without a background of its own.
inline QWidget* insideOf(QScrollArea* area, const QString& name) {
    auto* inside = new QWidget(area->viewport());
    inside->setObjectName(name);
    inside->setStyleSheet("#" + name + " { background: transparent; }");
    return inside;
}

} // namespace bathylux
