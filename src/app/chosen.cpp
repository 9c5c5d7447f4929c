#include "app/chosen.h"

namespace bathylux {

Binding ofChosen(Document& doc, const Parameter& p, std::function<Place(Element&)> place) {
    Binding b;
    b.get = [&doc, &p, place]() -> std::optional<Value> {
        std::optional<Value> out;
        for (const QString& id : doc.chosen()) {
            // Read through the same door as written; nothing is changed here.
            auto* e = const_cast<Element*>(find_element(doc.piece().elements, id.toStdString()));
            const Place at = e ? place(*e) : Place{};
            if (!at.described && !at.plain) continue;
            const Value v = at.described ? at.described->get(p) : p.get(at.plain);
            if (out && !(*out == v)) return std::nullopt;
            out = v;
        }
        return out;
    };
    b.set = [&doc, &p, place](const Value& v) {
        const QString name =
            QString::fromUtf8(p.name.data(), static_cast<qsizetype>(p.name.size())).toLower();
        doc.edit(QObject::tr("Change %1").arg(name), [&](Piece& piece) {
            for (const QString& id : doc.chosen()) {
                Element* e = find_element(piece.elements, id.toStdString());
                const Place at = e ? place(*e) : Place{};
                if (at.described)
                    *at.described = at.described->with(p, v);
                else if (at.plain)
                    p.set(at.plain, v);
            }
        });
    };
    return b;
}

} // namespace bathylux
