// Files a piece links to: kept inside, found again, read again when they change. See window.cpp.
#include <QBuffer>
#include <QFileDialog>
#include <QFileInfo>
#include <QRegularExpression>
#include <QSettings>

#include "app/controls/notice_bar.h"
#include "app/windows/embedded.h"
#include "app/windows/window.h"
#include "core/error.h"
#include "core/piece/references.h"

namespace bathylux {

files::Bytes pngOf(const QImage& image) {
    QByteArray data;
    QBuffer buffer(&data);
    buffer.open(QIODevice::WriteOnly);
    image.save(&buffer, "PNG");
    const auto* from = reinterpret_cast<const std::byte*>(data.constData());
    return {from, from + data.size()};
}

std::string freeName(const files::Store& store, const QString& wish) {
    const QFileInfo info(wish);
    QString stem = info.completeBaseName();
    stem.replace(QRegularExpression("[^A-Za-z0-9._-]+"), "-");
    if (stem.isEmpty()) stem = "picture";
    const QString suffix = info.suffix().isEmpty() ? "png" : info.suffix().toLower();
    std::string name = ("pictures/" + stem + "." + suffix).toStdString();
    for (int n = 2; store.embedded.contains(name); ++n)
        name = ("pictures/" + stem + "-" + QString::number(n) + "." + suffix).toStdString();
    return name;
}

void Window::embed(const QString& element) {
    const Element* e = desk_.document.element(element);
    if (!e) return;
    keepInside(files_of(*e), [&](Piece& p, const auto& rename) {
        change(p, element.toStdString(), [&](Element& changed) { rename_files(changed, rename); });
    });
}

void Window::embedEverything() {
    const Piece& piece = desk_.document.piece();
    std::vector<std::string> named = loose_files(piece);
    for_each_element(piece.elements, [&](const Element& e) {
        for (const std::string& f : files_of(e)) named.push_back(f);
    });
    keepInside(named, [](Piece& p, const auto& rename) { rename_all_files(p, rename); });
}

void Window::keepInside(
    const std::vector<std::string>& named,
    const std::function<void(Piece&, const std::function<std::string(const std::string&)>&)>& rename) {
    Document& doc = desk_.document;
    std::map<std::string, std::shared_ptr<const files::Bytes>> linked;
    for (const std::string& f : named)
        if (!doc.state().store.is_embedded(f)) linked[f] = doc.state().store.bytes_of(f);
    if (linked.empty()) {
        notices_->say(tr("Everything lies inside the piece already."));
        return;
    }
    doc.editState(tr("Keep inside"), [&](Piece& p, files::Store& store) {
        std::map<std::string, std::string> inside;
        for (const auto& [f, bytes] : linked) {
            inside[f] = freeName(store, QString::fromStdString(f));
            store.embedded[inside[f]] = bytes;
        }
        rename(p, [&](const std::string& f) {
            const auto found = inside.find(f);
            return found == inside.end() ? f : found->second;
        });
    });
}

void Window::relink(const QString& element) {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Find the file"), QSettings().value("folder").toString());
    if (path.isEmpty()) return;
    desk_.document.edit(tr("Relink"), [&](Piece& p) {
        change(p, element.toStdString(), [&](Element& e) {
            if (e.source.kind().find("file")) e.source = e.source.with("file", path.toStdString());
        });
    });
}

void Window::watchFiles() {
    const auto& store = desk_.document.state().store;
    std::vector<std::string> named = loose_files(desk_.document.piece());
    for_each_element(desk_.document.piece().elements, [&](const Element& e) {
        for (const std::string& f : files_of(e)) named.push_back(f);
    });
    std::vector<std::string> wanted;
    for (const std::string& f : named)
        if (!store.is_embedded(f)) wanted.push_back(store.path_of(f).string());
    std::sort(wanted.begin(), wanted.end());
    wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
    // An edit that names the same files asks the disk nothing.
    if (wanted == watched_) return;
    watched_ = wanted;
    if (const QStringList now = watcher_.files(); !now.isEmpty()) watcher_.removePaths(now);
    QStringList there;
    for (const std::string& f : watched_)
        if (QFileInfo::exists(qs(f))) there << qs(f);
    if (!there.isEmpty()) watcher_.addPaths(there);
}

void Window::fileChanged(const QString& path) {
    // Programs write in several goes, or put a new file in the old one's place: wait until it rests.
    QTimer::singleShot(250, this, [this, path] {
        if (std::find(watched_.begin(), watched_.end(), path.toStdString()) == watched_.end()) return;
        if (!QFileInfo::exists(path)) {
            tell(tr("%1 is gone. Bring it back, or choose another file for what shows it.")
                     .arg(QFileInfo(path).fileName()));
            desk_.document.filesChanged();
            return;
        }
        if (!watcher_.files().contains(path)) watcher_.addPath(path);
        desk_.document.filesChanged();
        QString element;
        for_each_element(desk_.document.piece().elements, [&](const Element& e) {
            for (const std::string& f : files_of(e))
                if (desk_.document.state().store.path_of(f).string() == path.toStdString())
                    element = QString::fromStdString(e.id);
        });
        QList<NoticeBar::Offer> offers;
        if (!element.isEmpty())
            offers = {{tr("keep it inside the piece"), [this, element] { guarded([&] { embed(element); }); }},
                      {tr("choose another"), [this, element] { guarded([&] { relink(element); }); }}};
        notices_->say(tr("%1 changed on disk and was read again.").arg(QFileInfo(path).fileName()), offers);
    });
}

} // namespace bathylux
