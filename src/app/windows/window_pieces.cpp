// New, open, save and leave; what is kept aside. See window.cpp for the window itself.
#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QPushButton>
#include <QScopedValueRollback>
#include <QSettings>
#include <QStackedWidget>

#include "app/controls/notice_bar.h"
#include "app/document/behind.h"
#include "app/windows/embedded.h"
#include "app/windows/new_dialog.h"
#include "app/windows/window.h"
#include "core/error.h"
#include "core/piece/codec.h"

namespace bathylux {

namespace {

/// The lit picture as it was last shown, small; empty while none was shown whole.
QImage lastLit(const Frame* frame, const Piece& piece) {
    if (!frame || frame->right.isNull() || frame->shot.right != View::lit) return {};
    const Shot& s = frame->shot;
    const bool whole = s.region.width() >= piece.canvas.columns() * s.scale - 1 &&
                       s.region.height() >= piece.canvas.rows() * s.scale - 1;
    if (!whole || s.coarse || s.join || s.showClipped || s.onion || s.state.piece.get() != &piece) return {};
    return frame->right.scaled(320, 320, Qt::KeepAspectRatio, Qt::SmoothTransformation);
}

/// A file's name as one would say it: "last-tram-home" is "Last tram home".
QString spoken(QString name) {
    name.replace('-', ' ');
    return name.left(1).toUpper() + name.mid(1);
}

Document::State stateOf(files::Opened&& opened) {
    return {std::make_shared<const Piece>(std::move(opened.piece)), std::move(opened.store)};
}

} // namespace

void Window::newPiece() {
    NewDialog dialog(this);
    if (dialog.exec() != QDialog::Accepted || !mayLeave()) return;
    notices_->clear();
    desk_.document.replace(
        {std::make_shared<const Piece>(freshPiece(dialog.columns(), dialog.rows(), dialog.perMm())), {}}, {});
    showPiece();
}

void Window::ask() {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Open"), QSettings().value("folder").toString(),
                                     tr("Pieces (*.bathylux *.json);;All files (*)"));
    if (!path.isEmpty() && mayLeave()) openPath(path);
}

bool Window::openPath(const QString& path) {
    try {
        files::Opened opened = files::open_piece(path.toStdString());
        notices_->clear();
        QStringList told;
        for (const std::string& t : opened.told) told << qs(t);
        desk_.document.replace(stateOf(std::move(opened)), path);
        showPiece();
        noteRecent(path);
        if (desk_.document.readOnly())
            told << tr("%1 was made by a newer version of Bathylux. It is open to look at; to change it, "
                       "update Bathylux.")
                        .arg(QFileInfo(path).fileName());
        if (!told.isEmpty()) tell(told.join(" "));
        return true;
    } catch (const Error& e) {
        awaited();
        tell(QString::fromUtf8(e.what()));
        if (!desk_.open) QMessageBox::warning(this, tr("Could not open"), QString::fromUtf8(e.what()));
        return false;
    }
}

bool Window::openDemo(const QString& path) {
    try {
        files::Opened opened = files::open_piece(path.toStdString());
        // It becomes one's own: its pictures travel with it.
        files::embed_all(opened);
        const auto hint = member_text(opened.piece.rest, "try");
        // Said first, so that the table has its size when it asks for its picture.
        notices_->clear();
        if (hint) notices_->say(qs(*hint));
        table_->parentWidget()->layout()->activate();
        const QString last = opened.piece.elements.empty() ? QString() : qs(opened.piece.elements.back()->id);
        desk_.document.replace(stateOf(std::move(opened)), {}, spoken(QFileInfo(path).completeBaseName()),
                               last);
        showPiece();
        return true;
    } catch (const Error& e) {
        tell(QString::fromUtf8(e.what()));
        return false;
    }
}

void Window::noteRecent(const QString& path) {
    QSettings s;
    QStringList recent = s.value("recent").toStringList();
    const QString full = QFileInfo(path).absoluteFilePath();
    recent.removeAll(full);
    recent.prepend(full);
    while (recent.size() > 10) recent.removeLast();
    s.setValue("recent", recent);
    s.setValue("folder", QFileInfo(path).absolutePath());
}

bool Window::saveTo(const QString& path) {
    Document& doc = desk_.document;
    try {
        files::Bytes thumbnail;
        if (!path.endsWith(".json", Qt::CaseInsensitive)) {
            QImage small = lastLit(desk_.frame.get(), doc.piece());
            if (small.isNull()) {
                Evaluator evaluator(0);
                small = litPicture(evaluator,
                                   {doc.state().piece, desk_.renderer.resolver().resolve(
                                                           doc.piece(), doc.state().store, doc.frame())},
                                   QSize(320, 320));
            }
            thumbnail = pngOf(small);
        }
        files::save_piece(doc.piece(), doc.state().store, path.toStdString(), thumbnail);
        doc.adoptSaved(QFileInfo(path).absoluteFilePath());
        aside_.forget();
        noteRecent(path);
        notices_->say(tr("Saved as %1.").arg(QFileInfo(path).fileName()));
        return true;
    } catch (const Error& e) {
        notices_->say(QString::fromUtf8(e.what()), {{tr("save as…"), [this] { saveAs(); }}}, true);
        return false;
    }
}

bool Window::save() { return desk_.document.path().isEmpty() ? saveAs() : saveTo(desk_.document.path()); }

bool Window::saveAs() {
    const QString start = desk_.document.path().isEmpty()
                              ? QSettings().value("folder", QDir::homePath()).toString() + "/" +
                                    desk_.document.title() + ".bathylux"
                              : desk_.document.path();
    QString path = QFileDialog::getSaveFileName(this, tr("Save the piece"), start,
                                                tr("Piece (*.bathylux);;Bare piece (*.json)"));
    if (path.isEmpty()) return false;
    if (QFileInfo(path).suffix().isEmpty()) path += ".bathylux";
    return saveTo(path);
}

bool Window::mayLeave() {
    if (!desk_.open || desk_.document.isClean() || desk_.document.readOnly()) return true;
    // Quick hands ask twice: the box that is open already is the one to answer.
    if (askingToLeave_) return false;
    const QScopedValueRollback asking(askingToLeave_, true);
    QMessageBox box(QMessageBox::Question, tr("Unsaved work"),
                    tr("“%1” has changes that are not saved.").arg(desk_.document.title()),
                    QMessageBox::Save | QMessageBox::Cancel, this);
    QPushButton* drop = box.addButton(tr("Close without saving"), QMessageBox::DestructiveRole);
    box.setDefaultButton(QMessageBox::Save);
    box.setEscapeButton(QMessageBox::Cancel);
    box.exec();
    if (box.clickedButton() == box.button(QMessageBox::Save)) return save();
    return box.clickedButton() == static_cast<QAbstractButton*>(drop);
}

// --- keeping unsaved work aside ---

void Window::keepAside() {
    const Document& doc = desk_.document;
    if (!desk_.open || doc.isClean() || doc.readOnly() || doc.inStroke()) return;
    // A state is a value: it is written behind the window as it was now.
    behind(
        this,
        [this, state = doc.state(), path = doc.path()] { return aside_.keep(state, path), state.piece; },
        [this](const std::shared_ptr<const Piece>& kept) {
            // Saved in the meantime: the copy is of no more use.
            if (desk_.document.isClean() && desk_.document.state().piece == kept) aside_.forget();
        });
}

void Window::offerRecovered() {
    const QList<Aside::Lost> lost = Aside::lost();
    if (lost.isEmpty()) return;
    const Aside::Lost& first = lost.front();
    const QString name =
        first.original.isEmpty() ? tr("an unsaved piece") : QFileInfo(first.original).fileName();
    if (!desk_.open) showPiece();
    recovery_->say(tr("Bathylux ended without being closed. Work on %1 was kept aside at %2.")
                       .arg(name, first.when.toString("hh:mm, d MMMM")),
                   {{tr("take it up"), [this, first] { guarded([&] { takeUp(first); }); }},
                    {tr("throw it away"),
                     [this, first] {
                         Aside::throwAway(first);
                         offerRecovered(); // the next, if there is one
                     }}},
                   true);
}

void Window::takeUp(const Aside::Lost& lost) {
    if (!mayLeave()) return offerRecovered();
    desk_.document.replace(stateOf(files::open_piece(lost.file.toStdString())), lost.original);
    desk_.document.markRecovered();
    showPiece();
    // The old copy goes when the new one is safe.
    aside_.keep(desk_.document.state(), lost.original);
    Aside::throwAway(lost);
    refreshTitle();
    offerRecovered();
}

} // namespace bathylux
