#pragma once
#include <QPainter>
#include <QTimer>
#include <QWidget>
#include <optional>

#include "app/controls/theme.h"
#include "core/field/geometry.h"

namespace bathylux {

/// A ring about a place of the canvas, for a while: there is what was told of.
class PlaceRing {
  public:
    explicit PlaceRing(QWidget* on) : on_(on) {
        away_.setSingleShot(true);
        away_.setInterval(3500);
        QObject::connect(&away_, &QTimer::timeout, on, [this] {
            at_.reset();
            on_->update();
        });
    }
    void show(Vec2 canvas) {
        at_ = canvas;
        away_.start();
        on_->update();
    }
    std::optional<Vec2> at() const { return at_; }
    static void paint(QPainter& p, QPointF at) {
        p.setBrush(Qt::NoBrush);
        for (const QPen& pen : {QPen(Theme::current().window, 4), QPen(Theme::current().signal, 2)}) {
            p.setPen(pen);
            p.drawEllipse(at, 16, 16);
        }
    }

  private:
    QWidget* on_;
    std::optional<Vec2> at_;
    QTimer away_;
};

} // namespace bathylux
