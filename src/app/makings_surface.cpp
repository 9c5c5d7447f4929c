// The surface on an element's card: materials to start from, and what is driven by other elements.
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/chosen.h"
#include "app/controls.h"
#include "app/kept.h"
#include "app/makings.h"
#include "app/map_rows.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "core/piece/surface_starts.h"

namespace bathylux {

namespace {
QString qs(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size())); }
} // namespace

void Makings::fillSurfaceStarts(QMenu* menu) {
    Document& doc = desk_.document;
    menu->clear();
    const auto use = [&doc](const Surface& surface) {
        doc.edit(tr("Change surface"), [&](Piece& p) {
            for (const QString& id : doc.chosen())
                if (Element* e = find_element(p.elements, id.toStdString())) {
                    // Maps go on driving what they drove.
                    auto maps = e->surface ? e->surface->maps : std::vector<SurfaceMap>{};
                    e->surface = surface;
                    if (e->surface->maps.empty()) e->surface->maps = std::move(maps);
                }
        });
    };
    for (const SurfaceStart& s : surface_starts())
        menu->addAction(qs(s.name), this, [use, &s] { use(s.surface); });
    const QStringList names = Kept("surfaces").names();
    if (!names.isEmpty()) menu->addSeparator();
    for (const QString& name : names)
        menu->addAction(name, this, [use, name, &doc] {
            try {
                use(surface_from_json(Kept("surfaces").get(name)));
            } catch (const std::exception& e) {
                emit doc.refused(
                    tr("The surface %1 cannot be used: %2").arg(name, QString::fromUtf8(e.what())));
            }
        });
    menu->addSeparator();
    const Element* open = doc.openElement();
    QAction* keep = menu->addAction(tr("Keep this surface…"), this, [this, &doc] {
        const Element* e = doc.openElement();
        bool good = false;
        const QString name =
            QInputDialog::getText(this, tr("Keep this surface"), tr("Name"), QLineEdit::Normal, {}, &good)
                .trimmed();
        if (!good || name.isEmpty() || !e || !e->surface) return;
        // Maps are elements of this piece alone.
        Surface kept = *e->surface;
        kept.maps.clear();
        if (!Kept("surfaces").put(name, to_json(kept)))
            emit doc.refused(
                tr("The surface could not be kept: the folder for settings cannot be written to."));
    });
    keep->setEnabled(open && open->surface);
    if (names.isEmpty()) return;
    QMenu* forget = menu->addMenu(tr("Forget"));
    for (const QString& name : names) forget->addAction(name, [name] { Kept("surfaces").remove(name); });
}

/// What of a surface is driven by another element, and a way to have more of it driven.
void Makings::addSurfaceMaps(QVBoxLayout* to, const Element& element, QWidget* frame) {
    Document& doc = desk_.document;
    static const Parameter black = number<&SurfaceMap::black>(
        "black", "Where black", Unit::ratio, {0, 1, 0, 1}, "The value where the map is black");
    for (const SurfaceMap& m : element.surface->maps) {
        if (!m.map) continue;
        const auto p = std::find_if(Surface::parameters.begin(), Surface::parameters.end(),
                                    [&](const Parameter& q) { return q.id == m.parameter; });
        const auto entry = [id = m.parameter](Element& e) -> SurfaceMap* {
            if (!e.surface) return nullptr;
            for (SurfaceMap& s : e.surface->maps)
                if (s.parameter == id) return &s;
            return nullptr;
        };
        addMapRows(
            to, desk_, element.id, tr("%1 from").arg(qs(p->name)), tr("constant"),
            [entry](Element& e) {
                SurfaceMap* s = entry(e);
                return s ? &s->map : nullptr;
            },
            frame, [this](ParameterControl* c) { controls_.push_back(c); }, refreshers_);
        addControl(to, makeControl(black, Value(0.0),
                                   ofChosen(doc, black,
                                            [entry](Element& e) {
                                                return Place{nullptr, entry(e)};
                                            }),
                                   doc, frame));
    }
    auto* add = linkButton(tr("drive by a map ▾"), frame);
    add->setObjectName("driveByMap");
    add->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(add);
    connect(menu, &QMenu::aboutToShow, this, [this, menu, &doc, id = element.id] {
        menu->clear();
        const Element* e = find_element(doc.piece().elements, id);
        if (!e || !e->surface) return;
        for (const Parameter& p : Surface::parameters) {
            if (p.type != Parameter::Type::number || e->surface->map_of(p.id)) continue;
            QMenu* by = menu->addMenu(qs(p.name));
            for_each_element(doc.piece().elements, [&](const Element& m) {
                if (m.id == id || !may_read(doc.piece(), id, m.id)) return;
                by->addAction(nameOf(m), this, [&doc, id, which = m.id, p = std::string(p.id)] {
                    doc.edit(tr("Drive the surface by a map"), [&](Piece& piece) {
                        Element* to_change = find_element(piece.elements, id);
                        MapRef ref;
                        ref.element = which;
                        std::erase_if(to_change->surface->maps,
                                      [&](const SurfaceMap& s) { return s.parameter == p; });
                        to_change->surface->maps.push_back({p, 0, ref});
                    });
                });
            });
            by->setEnabled(!by->isEmpty());
        }
    });
    add->setMenu(menu);
    to->addWidget(add, 0, Qt::AlignRight);
}

} // namespace bathylux
