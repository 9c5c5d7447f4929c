#pragma once
#include <QtTest>
#include <QtWidgets>

#include "app/controls/notice_bar.h"
#include "app/controls/theme.h"
#include "app/drawer/drawer.h"
#include "app/makings/makings.h"
#include "app/time/time_strip.h"
#include "app/windows/first_page.h"
#include "app/windows/window.h"
#include "core/light/lights.h"
#include "core/make/sprites.h"
#include "core/make/type_source.h"
#include "core/relief/bevel.h"
#include "core/relief/tones.h"
#include "files/type.h"

namespace bathylux {

#ifdef __SANITIZE_ADDRESS__
constexpr int patience = 8; // all is slower there
#else
constexpr int patience = 1;
#endif

/// The real window, driven by mouse and keys.
class DrivenWindow {
  protected:
    QTemporaryDir dir_;
    std::unique_ptr<Window> window_;

    const Piece& piece() const { return window_->desk().document.piece(); }
    Document& document() const { return window_->desk().document; }
    Table& table() const { return window_->table(); }
    /// Waits until what is shown is sharp and of the piece as it is now.
    bool settled() const {
        return QTest::qWaitFor(
            [&] {
                const auto& f = window_->desk().frame;
                return f && !f->shot.coarse && f->shot.state.piece == document().state().piece &&
                       window_->desk().renderer.idle();
            },
            60000 * patience);
    }
    /// Takes files in and waits until they are read and shown.
    bool tookIn(const QStringList& paths) const {
        window_->addFiles(paths);
        return QTest::qWaitFor([&] { return !window_->readingFiles(); }, 15000 * patience) && settled();
    }
    template <class T> T* control(const QString& name) const {
        for (T* w : window_->findChildren<T*>())
            if (w->accessibleName() == name && w->isVisible()) return w;
        return nullptr;
    }
    void drag(QWidget* w, QPointF from, QPointF to, Qt::KeyboardModifiers m = {}) const {
        const auto send = [&](QEvent::Type type, QPointF p, Qt::MouseButton b, Qt::MouseButtons bs) {
            QMouseEvent e(type, p, w->mapToGlobal(p), b, bs, m);
            QApplication::sendEvent(w, &e);
        };
        send(QEvent::MouseMove, from, Qt::NoButton, Qt::NoButton);
        send(QEvent::MouseButtonPress, from, Qt::LeftButton, Qt::LeftButton);
        for (int i = 1; i <= 8; ++i)
            send(QEvent::MouseMove, from + (to - from) * i / 8.0, Qt::NoButton, Qt::LeftButton);
        send(QEvent::MouseButtonRelease, to, Qt::LeftButton, Qt::NoButton);
    }
    /// A demo piece, or "plate": a plate, a frame and two lines of type, which the demo pieces may grow away
    /// from.
    void begin(const QString& demo = "plate") {
        window_ = std::make_unique<Window>();
        window_->show();
        if (!demo.isEmpty())
            QVERIFY(window_->openDemo(demoFolder() + (demo == "plate" ? "/../tests/pieces/" : "/") + demo +
                                      ".json"));
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
        if (!demo.isEmpty()) QVERIFY(settled());
    }

    static void prepare() {
        files::load_shipped_fonts();
        Theme::apply(*qApp, true);
    }
    void end() {
        if (!window_) return;
        document().history().setClean();
        window_.reset();
    }
};

} // namespace bathylux
