// Opening, saving, keeping aside, linked files and delivery. See window.cpp for the window itself.
#include <QApplication>
#include <QBuffer>
#include <QClipboard>
#include <QDateTime>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QRegularExpression>
#include <QSettings>
#include <QStandardPaths>
#include <signal.h>
#include <unistd.h>

#include "app/deliver_dialog.h"
#include "app/drawer.h"
#include "app/first_page.h"
#include "app/makings.h"
#include "app/notice_bar.h"
#include "app/numbered.h"
#include "app/window.h"
#include "core/check/recognise.h"
#include "core/error.h"
#include "core/make/sprites.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "core/piece/sources.h"
#include "core/relief/bevel.h"
#include "core/relief/raise.h"
#include "core/relief/soften.h"
#include "core/relief/tones.h"
#include "core/steps.h"

namespace bathylux {

namespace {

constexpr auto clipFormat = "application/x-bathylux-parts+json";

/// The file a source names, or "".
std::string fileOf(const Element& e) {
    const auto files = files_of(e);
    return files.empty() ? std::string() : files.front();
}

QString asideFolder() {
    QString base = qEnvironmentVariable("XDG_STATE_HOME"); // XDG Base Directory Specification
    if (base.isEmpty()) base = QDir::homePath() + "/.local/state";
    return base + "/bathylux/aside";
}

files::Bytes pngOf(const QImage& image) {
    QByteArray data;
    QBuffer buffer(&data);
    buffer.open(QIODevice::WriteOnly);
    image.save(&buffer, "PNG");
    const auto* from = reinterpret_cast<const std::byte*>(data.constData());
    return {from, from + data.size()};
}

/// A name for an embedded file that no other has.
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

/// Linked files are written relative to the piece's folder where they lie near it, otherwise in full.
std::string relinked(const std::string& file, const files::Store& store,
                     const std::filesystem::path& folder) {
    if (file.empty() || store.is_embedded(file)) return file;
    const auto full = std::filesystem::absolute(store.path_of(file)).lexically_normal();
    const auto near = full.lexically_relative(folder);
    int climbs = 0;
    for (const auto& part : near) climbs += part == "..";
    return near.empty() || climbs > 2 ? full.string() : near.generic_string();
}

/// A file's name as one would say it: "last-tram-home" is "Last tram home".
QString spoken(QString name) {
    name.replace('-', ' ');
    return name.left(1).toUpper() + name.mid(1);
}

} // namespace

void Window::newPiece() {
    if (!mayLeave()) return;
    started_ = false;
    desk_.pictures.clear();
    desk_.document.replace({std::make_shared<const Piece>(freshPiece()), {}}, {});
    middle_->setCurrentIndex(0);
    refreshActions();
    refreshTitle();
}

void Window::ask() {
    if (!mayLeave()) return;
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Open"), QSettings().value("folder").toString(),
                                     tr("Pieces (*.bathylux *.json);;All files (*)"));
    if (!path.isEmpty()) openPath(path);
}

bool Window::openPath(const QString& path) {
    try {
        files::Opened opened = files::open_piece(path.toStdString());
        notices_->clear();
        desk_.pictures.clear();
        desk_.document.replace(
            {std::make_shared<const Piece>(std::move(opened.piece)), std::move(opened.store)}, path);
        showPiece();
        noteRecent(path);
        if (desk_.document.readOnly())
            notices_->say(tr("%1 was made by a newer version of Bathylux. It is open to look at; to change "
                             "it, update Bathylux.")
                              .arg(QFileInfo(path).fileName()),
                          {}, true);
        return true;
    } catch (const Error& e) {
        notices_->say(QString::fromUtf8(e.what()), {}, true);
        if (!started_) QMessageBox::warning(this, tr("Could not open"), QString::fromUtf8(e.what()));
        return false;
    }
}

void Window::embedAll(files::Opened& opened) {
    for_each_element(opened.piece.elements, [&](const Element& e) {
        auto files = files_of(e);
        for (const auto& [f, density] : strokes_of(e)) files.push_back(f);
        for (const std::string& f : files)
            if (!f.empty() && !opened.store.is_embedded(f))
                opened.store.embedded[f] = opened.store.bytes_of(f);
    });
}

bool Window::openDemo(const QString& path) {
    try {
        files::Opened opened = files::open_piece(path.toStdString());
        // It becomes one's own: its pictures travel with it.
        embedAll(opened);
        QString hint;
        if (opened.piece.rest.is_object() && opened.piece.rest.contains("try"))
            hint = QString::fromStdString(opened.piece.rest["try"].get<std::string>());
        desk_.pictures.clear();
        desk_.document.replace(
            {std::make_shared<const Piece>(std::move(opened.piece)), std::move(opened.store)}, {},
            spoken(QFileInfo(path).completeBaseName()));
        showPiece();
        if (!desk_.document.piece().elements.empty())
            desk_.document.choose({QString::fromStdString(desk_.document.piece().elements.back().id)});
        if (!hint.isEmpty()) notices_->say(hint);
        return true;
    } catch (const Error& e) {
        notices_->say(QString::fromUtf8(e.what()), {}, true);
        return false;
    }
}

void Window::noteRecent(const QString& path) {
    QSettings s;
    QStringList recent = s.value("recent").toStringList();
    recent.removeAll(path);
    recent.prepend(path);
    while (recent.size() > 10) recent.removeLast();
    s.setValue("recent", recent);
    s.setValue("folder", QFileInfo(path).absolutePath());
}

bool Window::saveTo(const QString& path) {
    Document& doc = desk_.document;
    try {
        const auto folder = std::filesystem::absolute(path.toStdString()).parent_path();
        Piece piece = doc.piece();
        const std::function<void(std::vector<Element>&)> relink_all = [&](std::vector<Element>& list) {
            for (Element& e : list) {
                rename_files(e, [&](const std::string& f) { return relinked(f, doc.state().store, folder); });
                relink_all(e.elements);
            }
        };
        relink_all(piece.elements);
        rename_light_files(piece,
                           [&](const std::string& f) { return relinked(f, doc.state().store, folder); });
        Evaluator evaluator(0);
        files::Bytes thumbnail;
        if (!path.endsWith(".json"))
            thumbnail = pngOf(litPicture(
                evaluator,
                {doc.state().piece, desk_.renderer.resolver().resolve(doc.piece(), doc.state().store)},
                QSize(320, 320)));
        files::save_piece(piece, doc.state().store, path.toStdString(), thumbnail);
        // What links were rewritten is the state that was saved; it is not an edit of its own.
        doc.adoptSaved(std::move(piece), path);
        forgetAside();
        noteRecent(path);
        notices_->say(tr("Saved as %1.").arg(QFileInfo(path).fileName()));
        return true;
    } catch (const Error& e) {
        notices_->say(QString::fromUtf8(e.what()), {{tr("save as…"), [this] { saveAs(); }}}, true);
        return false;
    }
}

bool Window::save() {
    if (desk_.document.path().isEmpty()) return saveAs();
    return saveTo(desk_.document.path());
}

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
    if (!started_ || desk_.document.isClean() || desk_.document.readOnly()) return true;
    QMessageBox box(QMessageBox::Question, tr("Unsaved work"),
                    tr("“%1” has changes that are not saved.").arg(desk_.document.title()),
                    QMessageBox::NoButton, this);
    QPushButton* keep = box.addButton(tr("Save"), QMessageBox::AcceptRole);
    QPushButton* drop = box.addButton(tr("Leave without saving"), QMessageBox::DestructiveRole);
    box.addButton(tr("Stay"), QMessageBox::RejectRole);
    box.exec();
    if (box.clickedButton() == static_cast<QAbstractButton*>(keep)) return save();
    return box.clickedButton() == static_cast<QAbstractButton*>(drop);
}

// --- keeping unsaved work aside ---

QString Window::asidePath() const { return asideFolder() + "/" + QString::number(getpid()) + ".bathylux"; }

void Window::forgetAside() {
    if (asideFile_.isEmpty()) return;
    QFile::remove(asideFile_);
    QFile::remove(asideFile_ + ".from");
    asideFile_.clear();
}

void Window::keepAside() {
    const Document& doc = desk_.document;
    if (!started_ || doc.isClean() || doc.readOnly()) return;
    asideFile_ = asidePath();
    try {
        QDir().mkpath(asideFolder());
        // Links are kept in full, since the copy lies elsewhere.
        Piece piece = doc.piece();
        const std::function<void(std::vector<Element>&)> full = [&](std::vector<Element>& list) {
            for (Element& e : list) {
                rename_files(e, [&](const std::string& f) {
                    return doc.state().store.is_embedded(f)
                               ? f
                               : std::filesystem::absolute(doc.state().store.path_of(f)).string();
                });
                full(e.elements);
            }
        };
        full(piece.elements);
        files::save_piece(piece, doc.state().store, asideFile_.toStdString());
        const std::string from = doc.path().toStdString();
        files::write_atomically((asideFile_ + ".from").toStdString(), std::as_bytes(std::span(from)));
    } catch (const Error&) {
        // The piece itself is untouched and still open; the next minute tries again.
    }
}

void Window::offerRecovered() {
    for (const QFileInfo& info : QDir(asideFolder()).entryInfoList({"*.bathylux"}, QDir::Files, QDir::Time)) {
        const auto pid = static_cast<pid_t>(info.completeBaseName().toLongLong());
        if (pid <= 0 || (pid != getpid() && ::kill(pid, 0) == 0) || info.absoluteFilePath() == asideFile_)
            continue; // its window is still open
        const QString path = info.absoluteFilePath();
        QFile from(path + ".from");
        const QString original =
            from.open(QIODevice::ReadOnly) ? QString::fromUtf8(from.readAll()) : QString();
        const QString name = original.isEmpty() ? tr("an unsaved piece") : QFileInfo(original).fileName();
        if (!started_) showPiece();
        notices_->say(
            tr("Bathylux ended without being closed. Work on %1 was kept aside at %2.")
                .arg(name, info.lastModified().toString("hh:mm, d MMMM")),
            {{tr("take it up"),
              [this, path, original] {
                  try {
                      files::Opened opened = files::open_piece(path.toStdString());
                      if (!original.isEmpty())
                          opened.store.folder = QFileInfo(original).absolutePath().toStdString();
                      desk_.document.replace(
                          {std::make_shared<const Piece>(std::move(opened.piece)), std::move(opened.store)},
                          original);
                      desk_.document.markRecovered();
                      showPiece();
                      // The old copy goes when the new one is safe.
                      keepAside();
                      if (path != asideFile_) QFile::remove(path), QFile::remove(path + ".from");
                  } catch (const Error& e) {
                      notices_->say(QString::fromUtf8(e.what()), {}, true);
                  }
              }},
             {tr("throw it away"), [path] { QFile::remove(path), QFile::remove(path + ".from"); }}});
        return;
    }
}

// --- files as elements ---

void Window::addPictureElement(const std::string& file, const QString& name,
                               std::shared_ptr<const files::Bytes> embedded, std::optional<Vec2> at,
                               const Picture* picture, const QString& as) {
    Document& doc = desk_.document;
    const bool drawing = QString::fromStdString(file).endsWith(".svg", Qt::CaseInsensitive);
    std::string id;
    const bool first = doc.piece().elements.empty();
    Json about;
    if (picture && !embedded) try {
            about = Json::parse(files::picture_description(file), nullptr, false);
        } catch (const Error&) {
            // A picture that says nothing of itself is a picture.
        }
    doc.editState(drawing ? tr("Add drawing") : tr("Add picture"), [&](Piece& p, files::Store& store) {
        if (embedded) store.embedded[file] = embedded;
        Element e;
        e.id = free_id(p, name.toStdString());
        e.name = name.toStdString();
        double w = 0, h = 0;
        if (drawing) {
            e.source = Described(source_kind("svg"), SvgSource{file});
            e.steps.push_back({{}, true, Described(*find_step_kind("bevel")), {}});
        } else if (as == "normals") {
            NormalsSource n;
            n.file = file;
            // A map of our own says which way its green points.
            if (about.is_object() && about.value("bathylux", "") == "normals" &&
                about.value("green", "") != "")
                n.green = about.value("green", "") == "up" ? GreenSays::up : GreenSays::down;
            e.source = Described(source_kind("normals"), n);
            // Its blue is no colour: it gives height alone.
            e.mix.opacity = 0;
            if (picture) w = picture->width, h = picture->height;
            if (first && w > 0 && w <= most_canvas_side && h <= most_canvas_side)
                p.canvas.width = static_cast<float>(w), p.canvas.height = static_cast<float>(h);
        } else if (as == "sprites" && picture) {
            SpritesSource s;
            s.file = file;
            const auto [columns, rows] = guessed_grid(*picture);
            s.columns = static_cast<float>(columns), s.rows = static_cast<float>(rows);
            if (columns * rows == 1) s.cut = SheetCut::islands;
            e.source = Described(source_kind("sprites"), s);
            w = picture->width / std::max(1, columns), h = picture->height / std::max(1, rows);
            if (first)
                p.canvas.width = static_cast<float>(std::round(w)),
                p.canvas.height = static_cast<float>(std::round(h));
            Bevel bevel;
            bevel.width = static_cast<float>(std::round(std::min(w, h) * 0.12)),
            bevel.rise = static_cast<float>(std::round(std::min(w, h) * 0.07));
            Tones tones;
            tones.rise = static_cast<float>(std::round(std::min(w, h) * 0.04));
            e.steps.push_back({{}, true, Described(*find_step_kind("bevel"), bevel), {}});
            e.steps.push_back({{}, true, Described(*find_step_kind("tones"), tones), {}});
            e.steps.push_back({{}, true, Described(*find_step_kind("soften"), Soften{1}), {}});
        } else {
            e.source = Described(source_kind("picture"), PictureSource{file});
            if (picture) {
                w = picture->width, h = picture->height;
                if (first && w <= most_canvas_side && h <= most_canvas_side)
                    p.canvas.width = static_cast<float>(w), p.canvas.height = static_cast<float>(h);
                // The tone window arrives stretched to the picture's own range.
                Tones t;
                if (!picture->is_float()) std::tie(t.low, t.high) = tone_range(*picture, t.channel);
                const Recognised r = recognise(*picture);
                t.rise = r.what == Guess::height ? 40 : 8;
                if (picture->is_float()) t.low = r.low, t.high = std::max(r.high, r.low + 1e-6f);
                float lift = 0;
                // A map of our own says what its black and white are.
                if (about.is_object() && about.value("bathylux", "") == "height") {
                    if (about.contains("height_range") && about["height_range"].is_array() &&
                        about["height_range"].size() == 2) {
                        const auto low = about["height_range"][0].get<float>(),
                                   high = about["height_range"][1].get<float>();
                        t.low = 0, t.high = 1, t.rise = high - low, lift = low;
                    } else if (picture->is_float())
                        t.low = 0, t.high = 1, t.rise = 1;
                    if (first && about.contains("px_per_mm") && about["px_per_mm"].is_number())
                        p.canvas.px_per_mm = std::clamp(about["px_per_mm"].get<float>(), 0.001f, 10000.0f);
                    e.mix.opacity = 0;
                }
                e.steps.push_back({{}, true, Described(*find_step_kind("tones"), t), {}});
                if (lift != 0)
                    e.steps.push_back({{}, true, Described(*find_step_kind("raise"), Raise{lift}), {}});
            }
        }
        e.placement.x = at ? static_cast<float>(at->x) : p.canvas.width / 2;
        e.placement.y = at ? static_cast<float>(at->y) : p.canvas.height / 2;
        if (w > 0 && (w > p.canvas.width || h > p.canvas.height))
            e.placement.scale_u = e.placement.scale_v =
                static_cast<float>(std::min(p.canvas.width / w, p.canvas.height / h));
        id = add_element(p, std::move(e));
    });
    if (id.empty()) return;
    if (!started_) showPiece();
    doc.choose({QString::fromStdString(id)});
}

namespace {

/// Files that differ in one number alone: frames, in its order.
QStringList numberedFrames(const QStringList& paths) {
    static const QRegularExpression digits("^(.*?)(\\d+)(\\.[A-Za-z]+)$");
    QString stem;
    for (const QString& p : paths) {
        const auto m = digits.match(p);
        if (!m.hasMatch()) return {};
        const QString rest = m.captured(1) + m.captured(3);
        if (!stem.isEmpty() && rest != stem) return {};
        stem = rest;
    }
    return inNumberOrder(paths);
}

} // namespace

void Window::addFrames(const QStringList& paths) {
    SpritesSource s;
    for (const QString& p : paths) s.files.push_back(QFileInfo(p).absoluteFilePath().toStdString());
    const Described source(source_kind("sprites"), s);
    const auto asset = desk_.renderer.resolver().resolve(source, desk_.document.state().store);
    if (!asset->trouble.empty()) throw Error(asset->trouble);
    std::string id;
    desk_.document.edit(tr("Add sprites"), [&](Piece& p) {
        if (p.elements.empty())
            p.canvas.width = static_cast<float>(asset->width),
            p.canvas.height = static_cast<float>(asset->height);
        Element e;
        e.name = QFileInfo(paths.front())
                     .completeBaseName()
                     .remove(QRegularExpression("[-_. ]*\\d+$"))
                     .toStdString();
        if (e.name.empty()) e.name = tr("Sprites").toStdString();
        e.id = free_id(p, e.name);
        e.source = source;
        e.placement.x = p.canvas.width / 2, e.placement.y = p.canvas.height / 2;
        Bevel bevel;
        bevel.width = static_cast<float>(std::round(std::min(asset->width, asset->height) * 0.12));
        e.steps.push_back({{}, true, Described(*find_step_kind("bevel"), bevel), {}});
        id = add_element(p, std::move(e));
    });
    if (!started_) showPiece();
    desk_.document.choose({QString::fromStdString(id)});
}

void Window::addFiles(const QStringList& paths, std::optional<Vec2> at) {
    if (paths.size() > 2)
        if (const QStringList frames = numberedFrames(paths); !frames.isEmpty()) {
            try {
                addFrames(frames);
                notices_->say(tr("%1 numbered files became the frames of one sprite.").arg(frames.size()));
            } catch (const Error& e) {
                notices_->say(QString::fromUtf8(e.what()), {}, true);
            }
            return;
        }
    for (const QString& path : paths) {
        const QString suffix = QFileInfo(path).suffix().toLower();
        try {
            if (suffix == "bathylux" || suffix == "json") {
                if (mayLeave()) openPath(path);
                continue;
            }
            const std::string full = QFileInfo(path).absoluteFilePath().toStdString();
            const QString name = QFileInfo(path).completeBaseName();
            const bool drawing = suffix == "svg";
            const Described source = drawing ? Described(source_kind("svg"), SvgSource{full})
                                             : Described(source_kind("picture"), PictureSource{full});
            // Read once: the renderer finds it where it was put.
            const auto asset = desk_.renderer.resolver().resolve(source, desk_.document.state().store);
            if (!asset->trouble.empty()) throw Error(asset->trouble);
            const Recognised r = drawing ? Recognised{} : recognise(*asset->picture);
            const QString file_name = QFileInfo(path).fileName();
            addPictureElement(full, name, nullptr, at, drawing ? nullptr : asset->picture.get(),
                              r.what == Guess::normals ? "normals" : "");
            if (drawing) continue;
            // What it was taken for is said, and the other way is one click.
            const auto instead = [this, full, name, at, picture = asset->picture](const QString& as) {
                desk_.document.history().undo();
                addPictureElement(full, name, nullptr, at, picture.get(), as);
            };
            if (r.what == Guess::normals)
                notices_->say(tr("%1 is a normal map%2: its height was worked out from it.")
                                  .arg(file_name)
                                  .arg(r.green == Green::up ? tr(" whose green points up")
                                       : r.green == Green::down
                                           ? tr(" whose green points down")
                                           : tr("; which way its green points could not be told")),
                              {{tr("take it as a picture"), [instead] { instead("picture"); }}});
            if (const auto [columns, rows] = guessed_grid(*asset->picture);
                r.what == Guess::picture && columns * rows > 1)
                notices_->say(
                    tr("%1 looks like a sheet of %2 × %3 sprites.").arg(file_name).arg(columns).arg(rows),
                    {{tr("cut it into frames"), [instead] { instead("sprites"); }}});
            if (r.what == Guess::height)
                notices_->say(tr("%1 looks like a height map: its values became height.")
                                  .arg(QFileInfo(path).fileName()));
        } catch (const Error& e) {
            notices_->say(QString::fromUtf8(e.what()), {}, true);
        }
    }
}

void Window::embed(const QString& element) {
    const Element* e = find_element(desk_.document.piece().elements, element.toStdString());
    if (!e) return;
    keepInside(files_of(*e), [&](Piece& p, const auto& rename) {
        rename_files(*find_element(p.elements, element.toStdString()), rename);
    });
}

void Window::embedPanoramas() {
    keepInside(light_files(desk_.document.piece()),
               [](Piece& p, const auto& rename) { rename_light_files(p, rename); });
}

void Window::keepInside(
    const std::vector<std::string>& named,
    const std::function<void(Piece&, const std::function<std::string(const std::string&)>&)>& rename) {
    Document& doc = desk_.document;
    std::map<std::string, std::shared_ptr<const files::Bytes>> linked;
    try {
        for (const std::string& f : named)
            if (!doc.state().store.is_embedded(f)) linked[f] = doc.state().store.bytes_of(f);
    } catch (const Error& error) {
        notices_->say(QString::fromUtf8(error.what()), {}, true);
        return;
    }
    if (linked.empty()) return;
    doc.editState(tr("Keep inside"), [&](Piece& p, files::Store& store) {
        std::map<std::string, std::string> inside;
        for (const auto& [f, bytes] : linked) {
            const std::string name = freeName(store, QString::fromStdString(f));
            store.embedded[name] = bytes;
            inside[f] = name;
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
        Element* e = find_element(p.elements, element.toStdString());
        e->source = e->source.with("file", path.toStdString());
    });
}

void Window::watchFiles() {
    QStringList wanted;
    const auto& store = desk_.document.state().store;
    for_each_element(desk_.document.piece().elements, [&](const Element& e) {
        for (const std::string& f : files_of(e)) {
            if (store.is_embedded(f)) continue;
            const QString path = QString::fromStdString(store.path_of(f).string());
            if (QFileInfo::exists(path) && !wanted.contains(path)) wanted << path;
        }
    });
    const QStringList now = watcher_.files();
    for (const QString& p : now)
        if (!wanted.contains(p)) watcher_.removePath(p);
    for (const QString& p : wanted)
        if (!now.contains(p)) watcher_.addPath(p);
}

void Window::fileChanged(const QString& path) {
    // Programs write in several goes, or put a new file in the old one's place: wait until it rests.
    QTimer::singleShot(250, this, [this, path] {
        watchFiles();
        if (!QFileInfo::exists(path)) {
            notices_->say(tr("%1 is gone. What it showed is kept until the piece is closed only if it is "
                             "brought back; its place stays.")
                              .arg(QFileInfo(path).fileName()),
                          {}, true);
            table_->requestFrame();
            return;
        }
        QString element;
        for_each_element(desk_.document.piece().elements, [&](const Element& e) {
            if (const std::string f = fileOf(e);
                !f.empty() && desk_.document.state().store.path_of(f).string() == path.toStdString())
                element = QString::fromStdString(e.id);
        });
        if (element.isEmpty()) return;
        table_->requestFrame();
        notices_->say(tr("%1 changed on disk and was read again.").arg(QFileInfo(path).fileName()),
                      {{tr("keep it inside the piece"), [this, element] { embed(element); }},
                       {tr("choose another"), [this, element] { relink(element); }}});
    });
}

// --- delivery ---

void Window::deliver(View view) {
    auto* d = new DeliverDialog(desk_, view, this);
    d->setAttribute(Qt::WA_DeleteOnClose);
    connect(d, &DeliverDialog::deliverAsked, this, &Window::deliverAll);
    d->open();
}

void Window::deliverTo(const QString& path, const files::Delivery& how) {
    files::Order order;
    order.path = path.toStdString();
    order.how = how;
    order.frame = desk_.frameNumber;
    deliverAll({order});
}

void Window::deliverAll(const std::vector<files::Order>& orders) {
    if (orders.empty()) return;
    if (delivering_) {
        notices_->say(tr("Something is being delivered already; stop it first, or wait."), {}, true);
        return;
    }
    if (delivery_.joinable()) delivery_.join();
    delivering_ = true;
    delivered_ = 0;
    const Document::State state = desk_.document.state();
    delivery_ = std::jthread([this, orders, state](std::stop_token stop) {
        QString trouble;
        bool stopped = false;
        std::size_t done = 0;
        try {
            const Scene scene{state.piece, desk_.renderer.resolver().resolve(*state.piece, state.store)};
            Evaluator evaluator(files::looks_at_the_whole(*state.piece) || orders.size() > 1 ? 512u << 20
                                                                                             : 0);
            for (const files::Order& order : orders) {
                files::carry_out(evaluator, scene, order, stop, [&](double d) {
                    delivered_ = (static_cast<double>(done) + d) / static_cast<double>(orders.size());
                });
                ++done;
            }
        } catch (const Cancelled&) {
            stopped = true;
        } catch (const std::exception& e) {
            trouble = QString::fromUtf8(e.what());
        }
        QMetaObject::invokeMethod(
            this,
            [this, orders, trouble, stopped, done] {
                delivering_ = false;
                if (stopped)
                    notices_->say(done == 0 ? tr("Delivery stopped; nothing was written.")
                                            : tr("Delivery stopped; %1 of %2 files were written.")
                                                  .arg(done)
                                                  .arg(orders.size()));
                else if (!trouble.isEmpty())
                    notices_->say(trouble, {}, true);
                else if (orders.size() == 1)
                    notices_->say(
                        tr("Delivered %1.").arg(QString::fromStdString(orders.front().path.string())));
                else
                    notices_->say(
                        tr("Delivered %1 files into %2.")
                            .arg(orders.size())
                            .arg(QString::fromStdString(orders.front().path.parent_path().string())));
            },
            Qt::QueuedConnection);
    });
}

void Window::deliverSection() {
    const std::string drawing = drawer_->section().drawing();
    if (drawing.empty()) {
        notices_->say(
            tr("There is no section yet: take the section tool (S) and draw a line across the table."), {},
            true);
        return;
    }
    const QString start = QSettings().value("folder", QDir::homePath()).toString() + "/" +
                          desk_.document.title() + "-section.svg";
    QString path =
        QFileDialog::getSaveFileName(this, tr("Deliver the section"), start, tr("Drawings (*.svg)"));
    if (path.isEmpty()) return;
    if (QFileInfo(path).suffix().isEmpty()) path += ".svg";
    files::write_atomically(path.toStdString(), std::as_bytes(std::span(drawing)));
    notices_->say(tr("Delivered %1.").arg(path));
}

// --- clipboard ---

void Window::copy() {
    const Document& doc = desk_.document;
    const Ids ids = outermost(doc.piece(), toIds(doc.chosen()));
    if (ids.empty()) return;
    copiedStrokes_.clear();
    Json elements = Json::array(), files_json = Json::object();
    QStringList words;
    for (const std::string& id : ids) {
        const Element* e = find_element(doc.piece().elements, id);
        elements.push_back(to_json(*e));
        if (const auto* t = e->source.as<TypeSource>()) words << QString::fromStdString(t->text);
        for_each_element({*e}, [&](const Element& inner) {
            for (const std::string& f : files_of(inner)) {
                if (const auto found = doc.state().store.embedded.find(f);
                    found != doc.state().store.embedded.end())
                    files_json[f] = QByteArray(reinterpret_cast<const char*>(found->second->data()),
                                               static_cast<qsizetype>(found->second->size()))
                                        .toBase64()
                                        .toStdString();
                else
                    files_json[f] =
                        Json{{"path", std::filesystem::absolute(doc.state().store.path_of(f)).string()}};
            }
            // Strokes go along within this window, as they are.
            for (const auto& [f, density] : strokes_of(inner))
                for (int i = 0; desk_.frame && desk_.frame->assets && i < 4096; ++i) {
                    const std::string one = strokes_file(f, i);
                    if (const auto found = desk_.frame->assets->find(painting_key(one));
                        found != desk_.frame->assets->end() && found->second->painting)
                        copiedStrokes_[one] = found->second->painting;
                    if (one == f) break; // one file for all frames
                }
        });
    }
    auto* mime = new QMimeData;
    const std::string text = Json{{"elements", elements}, {"files", files_json}}.dump();
    mime->setData(clipFormat, QByteArray::fromStdString(text));
    if (!words.isEmpty()) mime->setText(words.join('\n'));
    QApplication::clipboard()->setMimeData(mime);
    pasted_ = 0;
}

void Window::paste() {
    if (const QMimeData* mime = QApplication::clipboard()->mimeData()) pasteData(mime);
}

/// Brings the copied strokes of a pasted element along, under a name of their own where theirs is taken by
/// others.
void Window::takeStrokes(Element& e, files::Store& store) const {
    for (const auto& [f, density] : strokes_of(e)) {
        const auto same = [&](const std::string& name, const std::shared_ptr<const Painting>& painting) {
            if (!desk_.frame || !desk_.frame->assets) return false;
            const auto found = desk_.frame->assets->find(painting_key(name));
            return found != desk_.frame->assets->end() && found->second->painting &&
                   found->second->painting->hash() == painting->hash();
        };
        std::map<int, std::shared_ptr<const Painting>> mine;
        bool shared = true;
        for (int i = 0; i < 4096; ++i) {
            const std::string one = strokes_file(f, i);
            if (const auto found = copiedStrokes_.find(one); found != copiedStrokes_.end()) {
                mine[i] = found->second;
                shared = shared && same(one, found->second);
            }
            if (one == f) break;
        }
        // Beside its original a copy shares them, until one is painted on.
        if (mine.empty() || shared) continue;
        const std::string own = freeStrokes(store, f.substr(f.rfind('/') + 1));
        for (const auto& [i, painting] : mine) store.paintings[strokes_file(own, i)] = painting;
        rename_strokes(e, f, own);
    }
}

void Window::pasteData(const QMimeData* mime, std::optional<Vec2> at) {
    Document& doc = desk_.document;
    if (mime->hasFormat(clipFormat)) {
        const Json parts = parse_json(mime->data(clipFormat).toStdString());
        Ids made;
        ++pasted_;
        doc.editState(
            parts.contains("steps") ? tr("Paste steps") : tr("Paste"), [&](Piece& p, files::Store& store) {
                if (parts.contains("steps")) {
                    for (const QString& id : doc.chosen())
                        if (Element* e = find_element(p.elements, id.toStdString()))
                            for (const Json& s : parts["steps"]) e->steps.push_back(step_from_json(s));
                    return;
                }
                std::map<std::string, std::string> renamed;
                const Json carried = parts.value("files", Json::object()),
                           copied = parts.value("elements", Json::array());
                for (const auto& [name, packed] : carried.items()) {
                    if (packed.is_object()) {
                        renamed[name] = packed.value("path", name);
                        continue;
                    }
                    const QByteArray raw =
                        QByteArray::fromBase64(QByteArray::fromStdString(packed.get<std::string>()));
                    const auto* from = reinterpret_cast<const std::byte*>(raw.constData());
                    const files::Bytes bytes(from, from + raw.size());
                    const auto same = store.embedded.find(name);
                    std::string to = name;
                    if (same != store.embedded.end() && *same->second != bytes)
                        to = freeName(store, QString::fromStdString(name));
                    if (!store.embedded.contains(to))
                        store.embedded[to] = std::make_shared<const files::Bytes>(bytes);
                    renamed[name] = to;
                }
                const std::string above =
                    doc.chosen().isEmpty() ? std::string() : doc.chosen().back().toStdString();
                for (const Json& j : copied) {
                    Element e = element_from_json(j, p.canvas);
                    const std::function<void(Element&)> point = [&](Element& x) {
                        rename_files(x, [&](const std::string& f) {
                            const auto found = renamed.find(f);
                            return found == renamed.end() ? f : found->second;
                        });
                        takeStrokes(x, store);
                        for (Element& c : x.elements) point(c);
                    };
                    point(e);
                    // A copy beside its original is seen to be one.
                    if (find_element(p.elements, e.id))
                        e.placement.x += 16.0f * pasted_, e.placement.y += 16.0f * pasted_;
                    made.push_back(add_element(p, std::move(e), made.empty() ? above : made.back()));
                }
            });
        if (!made.empty()) {
            if (!started_) showPiece();
            doc.choose(fromIds(made));
        }
        return;
    }
    if (mime->hasImage()) {
        const QImage image = qvariant_cast<QImage>(mime->imageData());
        if (image.isNull()) return;
        auto bytes = std::make_shared<const files::Bytes>(pngOf(image));
        const std::string name = freeName(doc.state().store, "pasted.png");
        const Picture picture = files::read_picture(*bytes, name);
        addPictureElement(name, tr("Pasted picture"), bytes, at, &picture);
    } else if (mime->hasUrls()) {
        QStringList paths;
        for (const QUrl& u : mime->urls())
            if (u.isLocalFile()) paths << u.toLocalFile();
        addFiles(paths, at);
    } else if (mime->hasText() && !mime->text().trimmed().isEmpty()) {
        addElement("type");
        const std::string text = mime->text().left(2000).toStdString();
        const QString id = doc.chosen().isEmpty() ? QString() : doc.chosen().back();
        doc.edit(tr("Paste words"), [&](Piece& p) {
            if (Element* e = find_element(p.elements, id.toStdString()))
                e->source = e->source.with("text", text);
        });
    }
}

void Window::stepAction(const QString& what, int i) {
    Document& doc = desk_.document;
    const Element* e = doc.openElement();
    if (!e || i < 0 || i >= static_cast<int>(e->steps.size())) return;
    if (what == "copy") {
        auto* mime = new QMimeData;
        mime->setData(clipFormat,
                      QByteArray::fromStdString(Json{{"steps", Json::array({to_json(e->steps[i])})}}.dump()));
        QApplication::clipboard()->setMimeData(mime);
        return;
    }
    const std::string id = e->id;
    const int last = static_cast<int>(e->steps.size()) - 1;
    if ((what == "up" && i == 0) || (what == "down" && i == last)) return;
    const QString name = what == "duplicate" ? tr("Duplicate step")
                         : what == "delete"  ? tr("Delete step")
                                             : tr("Reorder steps");
    doc.edit(name, [&](Piece& p) {
        auto& steps = find_element(p.elements, id)->steps;
        if (what == "duplicate") {
            Step copy = steps[i];
            copy.id.clear();
            steps.insert(steps.begin() + i + 1, copy);
        } else if (what == "delete")
            steps.erase(steps.begin() + i);
        else
            std::swap(steps[i], steps[what == "up" ? i - 1 : i + 1]);
    });
}

} // namespace bathylux
