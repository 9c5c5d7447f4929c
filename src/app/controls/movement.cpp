#include "app/controls/movement.h"

#include "app/document/desk.h"

namespace bathylux {

namespace {

QString tidy(double v) {
    QString s = QString::number(v, 'g', 4);
    return s.replace('-', QChar(0x2212));
}

} // namespace

Mark mark_of(const Document& document, const std::string& path) {
    if (path.empty()) return Mark::none;
    const NumberThere there = number_there(document.piece(), path);
    if (!there.parameter) return Mark::none;
    if (!there.motion) return Mark::still;
    const auto* keys = std::get_if<Keys>(there.motion);
    if (!keys) return Mark::link;
    return keys->key_on(document.frame()) >= 0 ? Mark::key_here : Mark::keys;
}

QString called(const Piece& piece, const std::string& path) {
    const NumberThere there = number_there(piece, path);
    if (!there.parameter) return QObject::tr("nothing (%1)").arg(QString::fromStdString(path));
    const QString what = qs(there.parameter->name).toLower();
    const auto dot = path.find('.');
    if (dot == std::string::npos) return QObject::tr("All light, %1").arg(what);
    const std::string owner = path.substr(0, dot);
    if (const Element* e = find_element(piece.elements, owner)) {
        const auto next = path.find('.', dot + 1);
        const Step* step =
            next == std::string::npos ? nullptr : find_step(e->steps, path.substr(dot + 1, next - dot - 1));
        return step ? QObject::tr("%1, %2, %3").arg(nameOf(*e), qs(step->kind().name).toLower(), what)
                    : QObject::tr("%1, %2").arg(nameOf(*e), what);
    }
    if (const Light* l = find_light(piece, owner)) return QObject::tr("%1, %2").arg(nameOf(*l), what);
    const QString place = owner == finish_id                 ? QObject::tr("Finish")
                          : owner == "ambient"               ? QObject::tr("Ambient light")
                          : owner == "surface"               ? QObject::tr("Surface")
                          : path.starts_with("solid.camera") ? QObject::tr("Camera")
                          : path.starts_with("solid.ground") ? QObject::tr("Ground")
                                                             : QObject::tr("Body");
    return QObject::tr("%1, %2").arg(place, what);
}

QString follows(const Piece& piece, const std::string& path) {
    const Motion* motion = motion_of(piece, path);
    const auto* link = motion ? std::get_if<Link>(motion) : nullptr;
    if (!link) return {};
    QString out = QObject::tr("follows %1").arg(called(piece, link->to));
    if (link->gain != 1) out += QString::fromUtf8(", × ") + tidy(link->gain);
    if (link->offset != 0)
        out +=
            (link->offset > 0 ? QString(", + ") : QString::fromUtf8(", − ")) + tidy(std::abs(link->offset));
    return out;
}

void toggle_key(Document& document, const std::string& path) {
    const NumberThere there = number_there(document.piece(), path);
    if (!there.parameter) return;
    const QString what = qs(there.parameter->name).toLower();
    const Motion* motion = there.motion;
    Keys keys;
    if (motion && std::holds_alternative<Link>(*motion)) return;
    if (motion) keys = std::get<Keys>(*motion);
    if (const int i = keys.key_on(document.frame()); i >= 0) {
        keys.list.erase(keys.list.begin() + i);
        document.edit(QObject::tr("Take away a key of %1").arg(what), [&](Piece& p) {
            set_motion(p, path, keys.list.empty() ? std::nullopt : std::optional<Motion>(keys));
        });
        return;
    }
    const auto* n = std::get_if<double>(&there.value);
    set_key(keys, document.frame(), n ? Moved(*n) : Moved(std::get<Color>(there.value)));
    document.edit(QObject::tr("Set a key of %1").arg(what), [&](Piece& p) {
        if (!p.time) p.time.emplace();
        set_motion(p, path, keys);
    });
}

void follow(Document& document, const std::string& path, const Link& link) {
    document.edit(QObject::tr("Follow a number"), [&](Piece& p) {
        if (!p.time) p.time.emplace();
        set_motion(p, path, link);
    });
}

void stand_still(Document& document, const std::string& path) {
    document.edit(QObject::tr("Move no more"), [&](Piece& p) { set_motion(p, path, std::nullopt); });
}

} // namespace bathylux
