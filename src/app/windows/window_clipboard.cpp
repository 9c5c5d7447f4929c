// Copy and paste: parts of a piece, pictures, files, words. See window.cpp for the window itself.
#include <QApplication>
#include <QClipboard>
#include <QJsonDocument>
#include <QJsonObject>
#include <QMimeData>
#include <QUrl>

#include "app/document/behind.h"
#include "app/windows/embedded.h"
#include "app/windows/window.h"
#include "core/error.h"
#include "core/make/type_source.h"
#include "core/piece/codec.h"
#include "core/piece/edit.h"
#include "core/piece/references.h"
#include "core/piece/starts.h"
#include "core/render/scene.h"

namespace bathylux {

namespace {

// The parts as text, and the files they name: their bytes, or where they lie.
constexpr auto clipFormat = "application/x-bathylux-parts+json";

QMimeData* clipOf(const Parts& parts, const QJsonObject& files) {
    auto* mime = new QMimeData;
    mime->setData(clipFormat, QJsonDocument(QJsonObject{{"parts", qs(text_of(parts))}, {"files", files}})
                                  .toJson(QJsonDocument::Compact));
    return mime;
}

} // namespace

void Window::copy() {
    const Document& doc = desk_.document;
    const Ids ids = outermost(doc.piece(), toIds(doc.chosen()));
    if (ids.empty()) return;
    copiedStrokes_.clear();
    Parts parts;
    QJsonObject files;
    QStringList words;
    for (const std::string& id : ids) {
        const Element* e = find_element(doc.piece().elements, id);
        parts.elements.push_back(*e);
        if (const auto* t = e->source.as<TypeSource>()) words << qs(t->text);
        for_each_element({*e}, [&](const Element& inner) {
            for (const std::string& f : files_of(inner)) {
                const auto found = doc.state().store.embedded.find(f);
                if (found == doc.state().store.embedded.end())
                    files[qs(f)] = QJsonObject{{"path", qs(doc.state().store.path_of(f).string())}};
                else
                    files[qs(f)] =
                        QString::fromLatin1(QByteArray(reinterpret_cast<const char*>(found->second->data()),
                                                       static_cast<qsizetype>(found->second->size()))
                                                .toBase64());
            }
            // Strokes go along within this window, as they are.
            for (const auto& [f, density, rise] : strokes_of(inner))
                for (int i = 0; desk_.frame && desk_.frame->assets && i < 4096; ++i) {
                    const std::string one = strokes_file(f, i);
                    if (const auto found = desk_.frame->assets->find(painting_key(one));
                        found != desk_.frame->assets->end() && found->second->painting)
                        copiedStrokes_[one] = found->second->painting;
                    if (one == f) break; // one file for all frames
                }
        });
    }
    QMimeData* mime = clipOf(parts, files);
    if (!words.isEmpty()) mime->setText(words.join('\n'));
    QApplication::clipboard()->setMimeData(mime);
    pasted_ = 0;
}

void Window::copyStep(const Step& step) { QApplication::clipboard()->setMimeData(clipOf({{}, {step}}, {})); }

void Window::paste() {
    if (const QMimeData* mime = QApplication::clipboard()->mimeData()) pasteData(mime);
}

/// Brings the copied strokes of a pasted element along, under a name of their own where theirs is taken by
/// others.
void Window::takeStrokes(Element& e, files::Store& store) const {
    for (const auto& [f, density, rise] : strokes_of(e)) {
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

void Window::pasteParts(const QByteArray& clip) {
    Document& doc = desk_.document;
    const QJsonObject all = QJsonDocument::fromJson(clip).object();
    const Parts parts = parts_from_text(all["parts"].toString().toStdString(), doc.piece().canvas);
    if (!parts.steps.empty()) {
        if (doc.chosen().isEmpty())
            throw Error(tr("Choose the element that shall have these steps, then paste.").toStdString());
        doc.edit(tr("Paste steps"), [&](Piece& p) {
            for (const QString& id : doc.chosen())
                change(p, id.toStdString(), [&](Element& e) {
                    for (const Step& s : parts.steps)
                        if (e.id == finish_id ? find_finish_kind(s.kind().id) : find_step_kind(s.kind().id))
                            bathylux::add_step(e, s);
                });
        });
    }
    if (parts.elements.empty()) return;
    Ids made;
    ++pasted_;
    doc.editState(tr("Paste"), [&](Piece& p, files::Store& store) {
        std::map<std::string, std::string> renamed;
        const QJsonObject carried = all["files"].toObject();
        for (auto it = carried.begin(); it != carried.end(); ++it) {
            const std::string name = it.key().toStdString();
            if (it->isObject()) {
                renamed[name] = it->toObject()["path"].toString(it.key()).toStdString();
                continue;
            }
            const QByteArray raw = QByteArray::fromBase64(it->toString().toLatin1());
            const auto* from = reinterpret_cast<const std::byte*>(raw.constData());
            auto bytes = std::make_shared<const files::Bytes>(from, from + raw.size());
            const auto same = store.embedded.find(name);
            const bool taken = same != store.embedded.end() && *same->second != *bytes;
            renamed[name] = taken ? freeName(store, it.key()) : name;
            store.embedded.try_emplace(renamed[name], bytes);
        }
        std::vector<Element> elements = parts.elements;
        for (Element& e : elements) {
            rename_files(e, [&](const std::string& f) {
                const auto found = renamed.find(f);
                return found == renamed.end() ? f : found->second;
            });
            takeStrokes(e, store);
            change_all(e.elements, [&](Element& inner) { takeStrokes(inner, store); });
            // A copy beside its original is seen to be one.
            if (find_element(p.elements, e.id))
                e.placement.x += 16.0f * static_cast<float>(pasted_),
                    e.placement.y += 16.0f * static_cast<float>(pasted_);
        }
        made = add_elements(p, std::move(elements),
                            doc.chosen().isEmpty() ? std::string() : doc.chosen().back().toStdString());
    });
    if (made.empty()) return;
    if (!desk_.open) showPiece();
    doc.choose(fromIds(made));
}

/// A picture of many megapixels takes a while to be packed and looked through: that is done behind the
/// window.
void Window::pastePicture(const QImage& image, std::optional<Vec2> at) {
    struct Packed {
        std::shared_ptr<const files::Bytes> bytes;
        Picture picture;
    };
    behind(
        this,
        [image] {
            auto bytes = std::make_shared<const files::Bytes>(pngOf(image));
            return Packed{bytes, files::read_picture(*bytes, "pasted.png")};
        },
        [this, at, piece = desk_.document.pieceNumber()](const Packed& packed) {
            Document& doc = desk_.document;
            if (doc.pieceNumber() != piece) return; // another was opened meanwhile
            const std::string name = freeName(doc.state().store, "pasted.png");
            std::string id;
            doc.editState(tr("Paste picture"), [&](Piece& p, files::Store& store) {
                store.embedded[name] = packed.bytes;
                id = add_element(
                    p, taken_in({name, tr("Pasted picture").toStdString(), &packed.picture}, p, at));
            });
            if (id.empty()) return;
            if (!desk_.open) showPiece();
            doc.choose({QString::fromStdString(id)});
        });
}

void Window::pasteData(const QMimeData* mime, std::optional<Vec2> at) {
    Document& doc = desk_.document;
    if (mime->hasFormat(clipFormat)) return pasteParts(mime->data(clipFormat));
    if (mime->hasImage()) {
        const QImage image = qvariant_cast<QImage>(mime->imageData());
        if (image.isNull()) throw Error(tr("The picture that was pasted cannot be read.").toStdString());
        pastePicture(image, at);
    } else if (mime->hasUrls()) {
        QStringList paths;
        for (const QUrl& u : mime->urls())
            if (u.isLocalFile()) paths << u.toLocalFile();
        addFiles(paths, at);
    } else if (mime->hasText() && !mime->text().trimmed().isEmpty()) {
        const std::string text = mime->text().left(2000).toStdString();
        std::string id;
        doc.edit(tr("Paste words"), [&](Piece& p) {
            Element e = started(source_kind("type"), p);
            e.source = e.source.with("text", text);
            if (at) e.placement.x = static_cast<float>(at->x), e.placement.y = static_cast<float>(at->y);
            id = add_element(p, std::move(e));
        });
        if (id.empty()) return;
        if (!desk_.open) showPiece();
        doc.choose({QString::fromStdString(id)});
    }
}

} // namespace bathylux
