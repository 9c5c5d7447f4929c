#pragma once
#include "app/controls/controls.h"
#include "app/document/desk.h"

namespace bathylux {

/// Changes the piece's solid; one that has none gets one.
template <class Change> void editSolid(Document& doc, const QString& name, Change change) {
    doc.edit(name, [&](Piece& piece) {
        if (!piece.solid) piece.solid.emplace();
        change(*piece.solid);
    });
}

/// Ties a control to a parameter of the piece's solid. `pick`:
/// the part of the solid the parameter belongs to, `where` its path.
template <class Pick> Binding ofSolid(Document& doc, const Parameter& p, Pick pick, std::string where) {
    Binding b;
    b.get = [&doc, &p, pick]() -> std::optional<Value> {
        Solid now = doc.piece().solid.value_or(Solid());
        return p.get(pick(now));
    };
    b.set = [&doc, &p, pick](const Value& v) {
        editSolid(doc, QObject::tr("Change %1").arg(qs(p.name).toLower()),
                  [&](Solid& s) { p.set(pick(s), v); });
    };
    b.path = [&p, where = std::move(where)] { return where + std::string(p.id); };
    return b;
}

} // namespace bathylux
