#include "app/controls/chosen.h"

namespace bathylux {

namespace {

/// A parameter of a plain struct within an element.
template <class Get> Place<Value> inPlain(const Parameter& p, Get part, const char* where) {
    return {
        [&p, part](const Element& e) -> std::optional<Value> { return p.get(part(const_cast<Element&>(e))); },
        [&p, part](Element& e, const Value& v) { p.set(part(e), v); },
        [&p, where](const Element& e) { return e.id + where + std::string(p.id); }};
}

} // namespace

Place<Value> inSource(const SourceKind& kind, const Parameter& p) {
    return {
        [&](const Element& e) { return &e.kind() == &kind ? std::optional(e.source.get(p)) : std::nullopt; },
        [&](Element& e, const Value& v) {
            if (&e.kind() == &kind) e.source = e.source.with(p, v);
        },
        [&](const Element& e) {
            return &e.kind() == &kind ? e.id + ".source." + std::string(p.id) : std::string();
        }};
}
Place<Value> inPlacement(const Parameter& p) {
    return inPlain(
        p, [](Element& e) -> void* { return &e.placement; }, ".placement.");
}
Place<Value> inMixing(const Parameter& p) {
    return inPlain(
        p, [](Element& e) -> void* { return &e.mix; }, ".mix.");
}
Place<Value> inSurface(const Parameter& p) {
    return {
        [&](const Element& e) { return e.surface ? std::optional(p.get(&*e.surface)) : std::nullopt; },
        [&](Element& e, const Value& v) {
            if (e.surface) p.set(&*e.surface, v);
        },
        [&](const Element& e) { return e.surface ? e.id + ".surface." + std::string(p.id) : std::string(); }};
}

StepPlace StepPlace::of(const Element& e, const Step& step) {
    StepPlace out{&step.kind(), 0};
    for (const Step& s : e.steps) {
        if (s.id == step.id) break;
        if (&s.kind() == out.kind) ++out.nth;
    }
    return out;
}
int StepPlace::index(const Element& e) const {
    int left = nth;
    for (std::size_t i = 0; i < e.steps.size(); ++i)
        if (&e.steps[i]->kind() == kind && left-- == 0) return static_cast<int>(i);
    return -1;
}

namespace {

std::function<std::string(const Element&)> pathInStep(const StepPlace& place, const std::string& name) {
    return [place, name](const Element& e) {
        const int i = place.index(e);
        return i < 0 ? std::string() : e.id + "." + e.steps[static_cast<std::size_t>(i)]->id + "." + name;
    };
}

} // namespace

Place<Value> inStep(const StepPlace& place, const Parameter& p) {
    return {[place, &p](const Element& e) -> std::optional<Value> {
                const int i = place.index(e);
                return i < 0 ? std::nullopt : std::optional(e.steps[i]->what.get(p));
            },
            [place, &p](Element& e, const Value& v) {
                if (const int i = place.index(e); i >= 0)
                    e.steps[i] = e.steps[i].with([&](Step& s) { s.what = s.what.with(p, v); });
            },
            pathInStep(place, std::string(p.id))};
}

Place<Value> inAnyStep(const StepPlace& place, const Parameter& p) {
    return {[place, &p](const Element& e) -> std::optional<Value> {
                const int i = place.index(e);
                return i < 0 ? std::nullopt : std::optional(p.get(&*e.steps[i]));
            },
            [place, &p](Element& e, const Value& v) {
                if (const int i = place.index(e); i >= 0)
                    e.steps[i] = e.steps[i].with([&](Step& s) { p.set(&s, v); });
            },
            pathInStep(place, std::string(p.id))};
}

MapPlace maskPlace() {
    return {[](const Element& e) { return std::optional(e.mix.mask); },
            [](Element& e, const std::optional<MapRef>& m) { e.mix.mask = m; },
            [](const Element& e) { return e.mix.mask ? e.id + ".mix.mask." : std::string(); }};
}
MapPlace stepMapPlace(const StepPlace& place) {
    return {[place](const Element& e) -> std::optional<std::optional<MapRef>> {
                const int i = place.index(e);
                return i < 0 ? std::nullopt : std::optional(e.steps[i]->map);
            },
            [place](Element& e, const std::optional<MapRef>& m) {
                if (const int i = place.index(e); i >= 0)
                    e.steps[i] = e.steps[i].with([&](Step& s) { s.map = m; });
            },
            pathInStep(place, "map.")};
}
MapPlace parameterMapPlace(const StepPlace& place, const Parameter& p) {
    const auto in = inStep(place, p);
    return {[in](const Element& e) -> std::optional<std::optional<MapRef>> {
                const auto v = in.get(e);
                return v ? std::optional(std::get<std::optional<MapRef>>(*v)) : std::nullopt;
            },
            [in](Element& e, const std::optional<MapRef>& m) { in.set(e, m); },
            pathInStep(place, std::string(p.id) + ".")};
}
MapPlace surfaceMapPlace(const std::string& parameter) {
    return {[parameter](const Element& e) -> std::optional<std::optional<MapRef>> {
                if (!e.surface) return std::nullopt;
                for (const SurfaceMap& m : e.surface->maps)
                    if (m.parameter == parameter) return m.map;
                return std::nullopt;
            },
            [parameter](Element& e, const std::optional<MapRef>& map) {
                if (!e.surface) return;
                for (SurfaceMap& m : e.surface->maps)
                    if (m.parameter == parameter) m.map = map;
                std::erase_if(e.surface->maps, [](const SurfaceMap& m) { return !m.map; });
            }};
}
Place<Value> inMap(const MapPlace& place, const Parameter& p) {
    return {[place, &p](const Element& e) -> std::optional<Value> {
                const auto map = place.get(e);
                return map && *map ? std::optional(p.get(&**map)) : std::nullopt;
            },
            [place, &p](Element& e, const Value& v) {
                auto map = place.get(e);
                if (!map || !*map) return;
                p.set(&**map, v);
                place.set(e, *map);
            },
            [place, &p](const Element& e) {
                const std::string map = place.path ? place.path(e) : std::string();
                return map.empty() ? map : map + std::string(p.id);
            }};
}

Binding ofChosen(Document& doc, const Parameter& p, Place<Value> place) {
    Binding b;
    b.get = [&doc, place]() -> std::optional<Value> {
        std::optional<Value> out;
        for (const QString& id : doc.chosen()) {
            const Element* e = doc.element(id);
            const auto v = e ? place.get(*e) : std::nullopt;
            if (!v) continue;
            if (out && !(*out == *v)) return std::nullopt;
            out = v;
        }
        return out;
    };
    b.set = [&doc, &p, place](const Value& v) {
        const QString name =
            QString::fromUtf8(p.name.data(), static_cast<qsizetype>(p.name.size())).toLower();
        doc.edit(QObject::tr("Change %1").arg(name), [&](Piece& piece) {
            for (const QString& id : doc.chosen())
                change(piece, id.toStdString(), [&](Element& e) { place.set(e, v); });
        });
    };
    b.path = [&doc, place]() -> std::string {
        // Of several, the one that is open.
        const Element* e = doc.openElement();
        return e && place.path ? place.path(*e) : std::string();
    };
    return b;
}

} // namespace bathylux
