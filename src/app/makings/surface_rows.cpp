// The surface on an element's card: its controls, materials to start from, and what is driven by other
// elements.
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/controls.h"
#include "app/document/kept.h"
#include "app/makings/element_card.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "core/piece/surface_starts.h"

namespace bathylux {

void ElementCard::addSurface(QVBoxLayout* to, const Element& e) {
    Document& doc = desk_.document;
    addFold(
        to, "surface", tr("Surface"),
        [this]() -> QString {
            const Element* now = element();
            if (!now || !now->surface) return tr("as below it");
            const Surface& s = *now->surface;
            QStringList says{tr("roughness %1").arg(said(s.roughness).c_str())};
            if (s.transmission > 0)
                says.prepend(tr("seen through %1 %, bends %2, %3 px thick")
                                 .arg(said(100 * s.transmission).c_str(), said(s.ior).c_str(),
                                      said(s.thickness).c_str()));
            if (now->surface->metallic > 0)
                says << tr("metallic %1").arg(said(now->surface->metallic).c_str());
            if (now->surface->coat > 0) says << tr("clear coat");
            if (now->surface->sheen > 0) says << tr("sheen");
            return says.join(", ");
        },
        [&](QVBoxLayout* box) {
            static const Surface standard;
            auto* row = new QWidget(this);
            auto* h = new QHBoxLayout(row);
            h->setContentsMargins(0, 0, 0, 0);
            h->addWidget(new QLabel(tr("A surface of its own"), row), 1);
            auto* own = new Switch(tr("A surface of its own"), row);
            own->setOn(e.surface.has_value());
            h->addWidget(own);
            box->addWidget(row);
            connect(own, &Switch::toggled, this, [&doc](bool on) {
                doc.edit(tr("Change surface"), [&](Piece& p) {
                    for (const QString& id : doc.chosen())
                        change(p, id.toStdString(), [&](Element& changed) {
                            changed.surface = on ? std::optional(p.surface) : std::nullopt;
                        });
                });
            });
            auto* start = linkButton(tr("start from ▾"), this);
            start->setObjectName("surfaceStarts");
            start->setPopupMode(QToolButton::InstantPopup);
            auto* starts = new QMenu(start);
            connect(starts, &QMenu::aboutToShow, this, [this, starts] { fillSurfaceStarts(starts); });
            start->setMenu(starts);
            box->addWidget(start, 0, Qt::AlignRight);
            if (!e.surface) return;
            for (const Parameter& p : Surface::parameters)
                // What is driven by another element counts, whatever its number is.
                if (counts(Surface::parameters, &*e.surface, p) || e.surface->map_of(p.when))
                    add(box, p, p.get(&standard), inSurface(p));
            addSurfaceMaps(box, e);
        });
}

void ElementCard::fillSurfaceStarts(QMenu* menu) {
    Document& doc = desk_.document;
    menu->clear();
    const auto use = [&doc](const Surface& surface) {
        doc.edit(tr("Change surface"), [&](Piece& p) {
            for (const QString& id : doc.chosen())
                change(p, id.toStdString(), [&](Element& e) {
                    // Maps go on driving what they drove.
                    auto maps = e.surface ? e.surface->maps : std::vector<SurfaceMap>{};
                    e.surface = surface;
                    if (e.surface->maps.empty()) e.surface->maps = std::move(maps);
                });
        });
    };
    for (const SurfaceStart& s : surface_starts())
        menu->addAction(qs(s.name), this, [use, &s] { use(s.surface); });
    const QStringList names = KeptByName("surfaces").names();
    if (!names.isEmpty()) menu->addSeparator();
    for (const QString& name : names)
        menu->addAction(name, this, [use, name, &doc] {
            try {
                use(surface_from_text(KeptByName("surfaces").get(name)));
            } catch (const std::exception& e) {
                emit doc.refused(
                    tr("The surface %1 cannot be used: %2").arg(name, QString::fromUtf8(e.what())));
            }
        });
    menu->addSeparator();
    QAction* keep = menu->addAction(tr("Keep this surface…"), this, [this, &doc] {
        const Element* before = element();
        if (!before || !before->surface) return;
        // Maps are elements of this piece alone.
        Surface kept = *before->surface;
        kept.maps.clear();
        bool good = false;
        const QString name =
            QInputDialog::getText(window(), tr("Keep this surface"), tr("Name"), QLineEdit::Normal, {}, &good)
                .trimmed();
        if (!good || name.isEmpty()) return;
        if (!KeptByName("surfaces").put(name, text_of(kept)))
            emit doc.refused(
                tr("The surface could not be kept: the folder for settings cannot be written to."));
    });
    keep->setEnabled(element() && element()->surface);
    if (names.isEmpty()) return;
    QMenu* forget = menu->addMenu(tr("Forget"));
    for (const QString& name : names)
        forget->addAction(name, [name] { KeptByName("surfaces").remove(name); });
}

/// What of a surface is driven by another element, and a way to have more of it driven.
void ElementCard::addSurfaceMaps(QVBoxLayout* to, const Element& e) {
    Document& doc = desk_.document;
    static const Parameter black = number<&SurfaceMap::black>(
        "black", "Where black", Unit::ratio, {0, 1, 0, 1}, "The value where the map is black");
    for (const SurfaceMap& m : e.surface->maps) {
        if (!m.map) continue;
        const auto p = std::find_if(Surface::parameters.begin(), Surface::parameters.end(),
                                    [&](const Parameter& q) { return q.id == m.parameter; });
        addMap(to, tr("%1 from").arg(qs(p->name)), tr("constant"), surfaceMapPlace(m.parameter));
        const auto entry = [id = m.parameter](const Element& of) -> const SurfaceMap* {
            if (!of.surface) return nullptr;
            for (const SurfaceMap& s : of.surface->maps)
                if (s.parameter == id) return &s;
            return nullptr;
        };
        add(to, black, Value(0.0),
            {[entry](const Element& of) -> std::optional<Value> {
                 const SurfaceMap* s = entry(of);
                 return s ? std::optional(black.get(s)) : std::nullopt;
             },
             [entry](Element& of, const Value& v) {
                 if (const SurfaceMap* s = entry(of)) black.set(const_cast<SurfaceMap*>(s), v);
             }});
    }
    auto* drive = linkButton(tr("drive by a map ▾"), this);
    drive->setObjectName("driveByMap");
    drive->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(drive);
    connect(menu, &QMenu::aboutToShow, this, [this, menu, &doc, id = e.id] {
        menu->clear();
        const Element* now = element();
        if (!now || !now->surface) return;
        for (const Parameter& p : Surface::parameters) {
            if (p.type != Parameter::Type::number || now->surface->map_of(p.id)) continue;
            QMenu* by = menu->addMenu(qs(p.name));
            for_each_element(doc.piece().elements, [&](const Element& m) {
                if (m.id == id || !may_read(doc.piece(), id, m.id)) return;
                by->addAction(nameOf(m), this, [&doc, id, which = m.id, parameter = std::string(p.id)] {
                    doc.edit(tr("Drive the surface by a map"), [&](Piece& piece) {
                        change(piece, id, [&](Element& changed) {
                            if (!changed.surface) return;
                            MapRef ref;
                            ref.element = which;
                            std::erase_if(changed.surface->maps,
                                          [&](const SurfaceMap& s) { return s.parameter == parameter; });
                            changed.surface->maps.push_back({parameter, 0, ref});
                        });
                    });
                });
            });
            by->setEnabled(!by->isEmpty());
        }
    });
    drive->setMenu(menu);
    to->addWidget(drive, 0, Qt::AlignRight);
}

} // namespace bathylux
