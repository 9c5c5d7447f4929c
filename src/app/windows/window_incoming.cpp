// Files that come in by picker, drop, paste or command line: read behind the window, one after the other.
#include <QFile>
#include <QFileInfo>
#include <QImageReader>
#include <QRegularExpression>

#include "app/controls/notice_bar.h"
#include "app/document/behind.h"
#include "app/document/numbered.h"
#include "app/windows/window.h"
#include "core/error.h"
#include "core/make/clip_source.h"
#include "core/make/drawing_source.h"
#include "core/make/picture_source.h"
#include "core/make/recognise.h"
#include "core/make/sprites.h"
#include "core/piece/edit.h"
#include "core/piece/starts.h"
#include "files/map_says.h"
#include "files/recipe_file.h"

namespace bathylux {

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

bool isPiece(const QString& path) {
    const QString suffix = QFileInfo(path).suffix().toLower();
    return suffix == "bathylux" || suffix == "json";
}

/// What is read as a clip: by its ending, and of those that still pictures have too, by what it holds.
bool isFilm(const QString& path) {
    const QString ending = QFileInfo(path).suffix().toLower();
    if (QStringList{"webm", "mp4", "mov", "mkv", "m4v", "apng"}.contains(ending)) return true;
    if (!QStringList{"gif", "webp", "png"}.contains(ending)) return false;
    QImageReader reader(path);
    if (ending == "gif") return reader.supportsAnimation() && reader.imageCount() > 1;
    // The chunks that say so stand before the first picture.
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly)) return false;
    const QByteArray head = file.read(256);
    return ending == "webp" ? head.startsWith("RIFF") && head.contains("ANIM") : head.contains("acTL");
}

} // namespace

/// What was found in a file.
struct Window::Read {
    Incoming from;
    std::shared_ptr<const Asset> asset; // null: a drawing's or a sprite's are in its source
    Recognised seen;
    std::optional<files::MapSays> says;
    std::pair<int, int> grid{1, 1};
};

void Window::addFiles(const QStringList& paths, std::optional<Vec2> at) {
    QStringList rest;
    for (const QString& p : paths)
        if (p.endsWith(files::recipe_ending, Qt::CaseInsensitive))
            takeRecipe(p);
        else if (!isPiece(p))
            rest << p;
        else if (mayLeave())
            openPath(p);
    const QStringList frames = rest.size() > 2 ? numberedFrames(rest) : QStringList();
    if (!frames.isEmpty()) {
        // As many as no sprite has, or as large as the canvas: a clip.
        const QSize size = QImageReader(frames.front()).size();
        const Canvas& c = desk_.document.piece().canvas;
        const bool clip =
            frames.size() > 32 || (size.width() >= c.width / 2 && size.height() >= c.height / 2);
        incoming_.push_back({frames, at, clip ? "clip" : "sprites"});
    } else
        for (const QString& p : rest) incoming_.push_back({{p}, at, {}});
    if (!rest.isEmpty()) readNext();
}

void Window::readNext() {
    if (incoming_.isEmpty() || reading_) return;
    reading_ = true;
    if (!desk_.open) showPiece();
    const Incoming one = incoming_.front();
    const auto piece = desk_.document.pieceNumber();
    behind(
        this,
        [one, &resolver = desk_.renderer.resolver(), store = desk_.document.state().store] {
            // What is thrown is kept, so that the next file has its turn whatever this one is.
            std::pair<Read, std::string> out;
            try {
                Read& r = out.first;
                r.from = one;
                const bool film = one.paths.size() == 1 && isFilm(one.paths.front());
                if (one.as == "clip" || film) {
                    ClipSource c;
                    for (const QString& p : one.paths)
                        c.files.push_back(QFileInfo(p).absoluteFilePath().toStdString());
                    if (film) c.file = c.files.front(), c.files.clear();
                    r.asset = resolver.resolve(Described(source_kind("clip"), c), store);
                } else if (one.paths.size() > 1) {
                    SpritesSource s;
                    for (const QString& p : one.paths)
                        s.files.push_back(QFileInfo(p).absoluteFilePath().toStdString());
                    r.asset = resolver.resolve(Described(source_kind("sprites"), s), store);
                } else {
                    const QString path = QFileInfo(one.paths.front()).absoluteFilePath();
                    const std::string file = path.toStdString();
                    const bool drawing = path.endsWith(".svg", Qt::CaseInsensitive);
                    // Read once: the renderer finds it where it was put.
                    r.asset =
                        resolver.resolve(drawing ? Described(source_kind("svg"), SvgSource{file})
                                                 : Described(source_kind("picture"), PictureSource{file}),
                                         store);
                    if (r.asset->picture) {
                        r.seen = recognise(*r.asset->picture);
                        r.grid = guessed_grid(*r.asset->picture);
                        r.says = files::map_said(files::picture_description(file));
                    }
                }
                if (!r.asset->trouble.empty()) out.second = r.asset->trouble;
            } catch (const std::exception& e) {
                out.second = e.what();
            }
            return out;
        },
        [this, piece](const std::pair<Read, std::string>& read) {
            reading_ = false;
            if (!incoming_.isEmpty()) incoming_.removeFirst();
            guarded([&] {
                if (!read.second.empty()) throw Error(read.second);
                // Another piece was opened meanwhile: it was not asked to take this.
                if (desk_.document.pieceNumber() == piece) takeIn(read.first);
            });
            readNext();
        });
}

void Window::takeIn(const Read& read) {
    if (read.from.as == "clip" || (read.from.paths.size() == 1 && isFilm(read.from.paths.front())))
        return addClip(read);
    if (read.from.paths.size() > 1) return addFrames(read);
    Document& doc = desk_.document;
    const QFileInfo info(read.from.paths.front());
    const QString name = info.fileName();
    const bool drawing = !read.asset->picture;
    using As = Taken::As;
    const auto add = [this, read, info, drawing](As as) {
        Taken t;
        t.file = info.absoluteFilePath().toStdString();
        t.name = info.completeBaseName().toStdString();
        t.picture = read.asset->picture.get();
        t.as = as;
        if (read.says) t.height_range = read.says->height_range, t.green_up = read.says->green_up;
        std::string id;
        const bool first = desk_.document.piece().elements.empty();
        desk_.document.edit(drawing ? tr("Add drawing") : tr("Add picture"), [&](Piece& p) {
            if (first && as == As::height && read.says && read.says->px_per_mm)
                p.canvas.px_per_mm = std::clamp(*read.says->px_per_mm, 0.001f, 10000.0f);
            id = add_element(p, taken_in(t, p, read.from.at));
        });
        if (id.empty()) return;
        desk_.document.choose({QString::fromStdString(id)});
        if (first) table_->fit();
    };
    const QString told = read.from.as;
    const bool own_height = read.says && read.says->what == "height";
    const bool normals =
        told == "normals" ||
        (told.isEmpty() && ((read.says && read.says->what == "normals") || read.seen.what == Guess::normals));
    add(drawing             ? As::drawing
        : told == "sprites" ? As::sprites
        : normals           ? As::normals
        : own_height        ? As::height
                            : As::picture);
    if (drawing || !told.isEmpty()) return;
    // What it was taken for is said, and the other way is one click, as long as nothing was done since.
    const quint64 edit = doc.topEdit();
    const auto instead = [this, add](As as) {
        return [this, add, as] {
            desk_.document.history().undo();
            guarded([&] { add(as); });
        };
    };
    const auto [columns, rows] = read.grid;
    if (normals)
        notices_->say(tr("%1 is a normal map%2: its height was worked out from it.")
                          .arg(name)
                          .arg(read.seen.green == Green::up ? tr(" whose green points up")
                               : read.seen.green == Green::down
                                   ? tr(" whose green points down")
                                   : tr("; which way its green points could not be "
                                        "told")),
                      {{tr("take it as a picture"), instead(As::picture)}}, false, edit);
    else if (read.seen.what == Guess::height)
        notices_->say(tr("%1 looks like a height map: its values became height.").arg(name));
    else if (columns * rows > 1)
        notices_->say(tr("%1 looks like a sheet of %2 × %3 sprites.").arg(name).arg(columns).arg(rows),
                      {{tr("cut it into frames"), instead(As::sprites)}}, false, edit);
}

void Window::addFrames(const Read& read) {
    const QStringList& paths = read.from.paths;
    std::vector<std::string> files;
    for (const QString& p : paths) files.push_back(QFileInfo(p).absoluteFilePath().toStdString());
    QString name = QFileInfo(paths.front()).completeBaseName().remove(QRegularExpression("[-_. ]*\\d+$"));
    if (name.isEmpty()) name = tr("Sprites");
    std::string id;
    desk_.document.edit(tr("Add sprites"), [&](Piece& p) {
        id = add_element(p, taken_in(files, name.toStdString(), read.asset->width, read.asset->height, p));
    });
    if (id.empty()) return;
    desk_.document.choose({QString::fromStdString(id)});
    table_->fit();
    notices_->say(tr("%1 numbered files became the frames of one sprite.").arg(paths.size()));
}

void Window::addClip(const Read& read) {
    const QStringList& paths = read.from.paths;
    ClipSource clip;
    for (const QString& p : paths) clip.files.push_back(QFileInfo(p).absoluteFilePath().toStdString());
    if (paths.size() == 1) clip.file = clip.files.front(), clip.files.clear();
    QString name = QFileInfo(paths.front()).completeBaseName();
    if (paths.size() > 1) name.remove(QRegularExpression("[-_. ]*\\d+$"));
    const double seconds = read.asset->seconds;
    std::string id;
    const bool first = desk_.document.piece().elements.empty();
    desk_.document.edit(tr("Add clip"), [&](Piece& p) {
        Element e = started(source_kind("clip"), p);
        e.source = Described(source_kind("clip"), clip);
        e.name = name.toStdString();
        const double w = read.asset->width, h = read.asset->height;
        if (first) {
            p.canvas.width = static_cast<float>(std::clamp(w, 16.0, 16384.0));
            p.canvas.height = static_cast<float>(std::clamp(h, 16.0, 16384.0));
            e.placement.x = p.canvas.width / 2, e.placement.y = p.canvas.height / 2;
        } else if (w > 0 && h > 0) {
            // As large as fits, unless it is smaller.
            const double k = std::min({1.0, p.canvas.width / w, p.canvas.height / h});
            e.placement.scale_u = e.placement.scale_v = static_cast<float>(k);
        }
        if (read.from.at)
            e.placement.x = static_cast<float>(read.from.at->x),
            e.placement.y = static_cast<float>(read.from.at->y);
        if (!p.time) {
            Timing t;
            if (seconds > 0)
                t.frames =
                    std::clamp(static_cast<int>(std::lround(seconds * t.rate.a_second())), 1, most_frames);
            p.time = t;
        }
        id = add_element(p, std::move(e));
    });
    if (id.empty()) return;
    desk_.document.choose({QString::fromStdString(id)});
    if (first) table_->fit();
    notices_->say(seconds > 0 ? tr("%1 runs for %2 s.").arg(name).arg(seconds, 0, 'f', 2)
                              : tr("%1 numbered pictures became a clip.").arg(paths.size()));
}

} // namespace bathylux
