#pragma once
#include <QHash>
#include <QImage>
#include <memory>

#include "app/document/document.h"
#include "app/document/ready_frames.h"
#include "app/document/renderer.h"
#include "core/piece/edit.h"

namespace bathylux {

/// What the rooms of the window share: the document, the renderer and what it made last.
struct Desk {
    explicit Desk(std::shared_ptr<files::Resolver> resolver) : renderer(std::move(resolver)) {}
    Document document;
    Renderer renderer;
    std::shared_ptr<Frame> frame;    // the newest sharp or coarse picture
    QHash<QString, QImage> pictures; // small pictures by element
    QObject* window = nullptr;       // who outlives all rooms
    bool onion = false;              // neighbours of the frame shine through
    bool playing = false;
    bool open = false; // a piece was taken in or begun: before, no picture and no card is made
    ReadyFrames ready{renderer.budget()}; // pictures of frames, to be shown again without being made
    Vec2 soundingAt{-1, -1};              // canvas px, under the pointer; negative: none

    /// All that a picture is computed from, as far as files have been read.
    Scene scene() const {
        static const auto nothing = std::make_shared<const Assets>();
        return {document.state().piece, frame && frame->assets ? frame->assets : nothing, document.frame()};
    }
    const Asset* asset(const std::string& element) const {
        if (!frame || !frame->assets) return nullptr;
        const auto found = frame->assets->find(element);
        return found == frame->assets->end() ? nullptr : found->second.get();
    }
};

inline QString qs(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}
inline Ids toIds(const QStringList& list) {
    Ids out;
    for (const QString& s : list) out.push_back(s.toStdString());
    return out;
}
inline QStringList fromIds(const Ids& list) {
    QStringList out;
    for (const auto& s : list) out << QString::fromStdString(s);
    return out;
}
inline QString nameOf(const Element& e) { return QString::fromStdString(e.name.empty() ? e.id : e.name); }
inline QString nameOf(const Mood& m) { return QString::fromStdString(m.name.empty() ? m.id : m.name); }
inline QString nameOf(const Light& l) { return QString::fromStdString(l.name.empty() ? l.id : l.name); }

} // namespace bathylux
