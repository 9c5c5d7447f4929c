#pragma once
#include "app/controls/controls.h"
#include "app/document/desk.h"

namespace bathylux {

/// Ties a control to a parameter of the piece's solid; one that has none gets one when it is changed. `pick`:
/// the part of the solid the parameter belongs to, `where` its path.
template <class Pick> Binding ofSolid(Document& doc, const Parameter& p, Pick pick, std::string where) {
    Binding b;
    b.get = [&doc, &p, pick]() -> std::optional<Value> {
        Solid now = doc.piece().solid.value_or(Solid());
        return p.get(pick(now));
    };
    b.set = [&doc, &p, pick](const Value& v) {
        doc.edit(QObject::tr("Change %1").arg(qs(p.name).toLower()), [&](Piece& piece) {
            if (!piece.solid) piece.solid.emplace();
            p.set(pick(*piece.solid), v);
        });
    };
    b.path = [&p, where = std::move(where)] { return where + std::string(p.id); };
    return b;
}

} // namespace bathylux
