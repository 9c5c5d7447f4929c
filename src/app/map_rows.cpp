#include "app/map_rows.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/chosen.h"
#include "app/controls.h"
#include "app/theme.h"
#include "app/tone_window.h"
#include "core/piece/references.h"

namespace bathylux {

namespace {

constexpr int bins = 128;

/// How often each value of a map occurs over the canvas, before its tone window; from a small picture of it.
std::vector<int> histogramOf(const Desk& desk, MapRef ref) {
    std::vector<int> out(bins, 0);
    if (!desk.frame || !desk.frame->assets) return out;
    ref.low = 0, ref.high = 1, ref.sink = false;
    const Scene scene{desk.document.state().piece, desk.frame->assets, desk.frameNumber};
    const Canvas& c = scene.piece->canvas;
    const double scale = std::min(1.0, 160.0 / std::max(c.width, c.height));
    const Region all = canvas_region(c, scale);
    try {
        Evaluator evaluator(0);
        const Field f = evaluator.map(scene, ref, all, scale);
        for (int y = 0; y < all.height(); ++y)
            for (int x = 0; x < all.width(); ++x)
                ++out[std::clamp(static_cast<int>(f.at(x, y) * bins), 0, bins - 1)];
    } catch (const std::exception&) {
        // A map that cannot be had shows no histogram; the table says why.
    }
    return out;
}

std::pair<double, double> rangeOf(const std::vector<int>& counts) {
    long long total = 0;
    for (int n : counts) total += n;
    int low = 0, high = bins - 1;
    for (long long sum = 0; low < bins - 1 && (sum += counts[low]) <= total / 200;) ++low;
    for (long long sum = 0; high > low && (sum += counts[high]) <= total / 200;) --high;
    return {static_cast<double>(low) / bins, static_cast<double>(high + 1) / bins};
}

} // namespace

void addMapRows(QVBoxLayout* to, Desk& desk, const std::string& element, const QString& label,
                const QString& none, const MapPlace& place, QWidget* parent,
                const std::function<void(ParameterControl*)>& keep,
                std::vector<std::function<void()>>& refreshers) {
    Document& doc = desk.document;
    const Element* e = find_element(doc.piece().elements, element);
    auto* now = e ? place(const_cast<Element&>(*e)) : nullptr;
    if (!now) return;
    const Element* map = *now ? find_element(doc.piece().elements, (*now)->element) : nullptr;
    auto* row = new QWidget(parent);
    row->setMinimumHeight(26);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(0, 1, 0, 1);
    box->setSpacing(6);
    box->addWidget(new QLabel(label, row));
    box->addStretch(1);
    if (map) {
        const QString id = QString::fromStdString(map->id);
        auto* picture = new QLabel(row);
        picture->setPixmap(QPixmap::fromImage(desk.pictures.value(id))
                               .scaled(32, 20, Qt::KeepAspectRatio, Qt::SmoothTransformation));
        box->addWidget(picture);
        auto* open = linkButton(nameOf(*map), row);
        open->setObjectName("openMap");
        open->setToolTip(QObject::tr("Goes to this map"));
        QObject::connect(open, &QToolButton::clicked, row, [&doc, id] { doc.choose({id}); });
        box->addWidget(open);
    }
    auto* take = linkButton(map ? QObject::tr("change") : none, row);
    take->setObjectName("takeMap");
    take->setAccessibleName(label);
    take->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(take);
    QObject::connect(menu, &QMenu::aboutToShow, menu, [menu, &desk, &doc, element, none, place, label] {
        menu->clear();
        const auto set = [&desk, &doc, element, place, label](const std::string& id) {
            MapRef ref;
            ref.element = id;
            if (const Element* m = find_element(doc.piece().elements, id);
                m && !m->source.is("picture") && !m->source.is("noise") && !m->source.is("pattern"))
                ref.of = MapOf::alpha;
            // Arrives stretched to the map's own range.
            if (!id.empty() && ref.of == MapOf::tone) {
                const auto [low, high] = rangeOf(histogramOf(desk, ref));
                ref.low = static_cast<float>(low), ref.high = static_cast<float>(high);
            }
            doc.edit(id.empty() ? QObject::tr("Take the map away")
                                : QObject::tr("Set: %1").arg(label.toLower()),
                     [&](Piece& p) {
                         for (const QString& which : doc.chosen())
                             if (Element* c = find_element(p.elements, which.toStdString()))
                                 if (auto* at = place(*c)) {
                                     if (id.empty())
                                         at->reset();
                                     else if (may_read(p, c->id, id))
                                         *at = ref;
                                 }
                     });
        };
        menu->addAction(none, menu, [set] { set({}); });
        menu->addSeparator();
        for_each_element(doc.piece().elements, [&](const Element& m) {
            QAction* a = menu->addAction(nameOf(m), menu, [set, id = m.id] { set(id); });
            // What would read itself in a circle is shown, but cannot be taken.
            const bool may = may_read(doc.piece(), element, m.id);
            a->setEnabled(may);
            if (!may && m.id != element)
                a->setToolTip(QObject::tr("It reads this element already: that would be a circle."));
            if (m.id == element) a->setVisible(false);
        });
        menu->setToolTipsVisible(true);
    });
    take->setMenu(menu);
    box->addWidget(take);
    to->addWidget(row);
    if (!map) return;

    static const MapRef standard;
    const auto plain = [place](Element& c) {
        auto* at = place(c);
        return Place{nullptr, at && *at ? &**at : nullptr};
    };
    for (const Parameter& p : MapRef::parameters)
        if (p.id == "of" || p.id == "sink") {
            auto* control = makeControl(p, p.get(&standard), ofChosen(doc, p, plain), doc, parent);
            to->addWidget(control);
            keep(control);
            if (p.id != "of") continue;
            auto* window = new ToneWindow(parent);
            window->setAccessibleName(QObject::tr("Tone window of the map"));
            const auto reference = [&doc, element, place]() -> std::optional<MapRef> {
                const Element* c = find_element(doc.piece().elements, element);
                auto* at = c ? place(const_cast<Element&>(*c)) : nullptr;
                return at ? *at : std::nullopt;
            };
            const auto show = [window, reference, &desk] {
                const auto ref = reference();
                if (!ref) return;
                // Counted again when another quantity or another element is read.
                const QString of = QString::fromStdString(ref->element) +
                                   QString::number(static_cast<int>(ref->of)) + (desk.frame ? "1" : "0");
                if (window->property("of").toString() != of) {
                    window->setProperty("of", of);
                    window->setCounts(histogramOf(desk, *ref));
                }
                window->setWindow(ref->low, ref->high);
            };
            show();
            refreshers.push_back(show);
            const auto set = [&doc, place](double l, double h) {
                doc.edit(QObject::tr("Change tone window"), [&](Piece& piece) {
                    for (const QString& which : doc.chosen())
                        if (Element* c = find_element(piece.elements, which.toStdString()))
                            if (auto* at = place(*c); at && *at)
                                (*at)->low = static_cast<float>(l), (*at)->high = static_cast<float>(h);
                });
            };
            QObject::connect(window, &ToneWindow::strokeBegan, window, [&doc] { doc.beginStroke(); });
            QObject::connect(window, &ToneWindow::strokeEnded, window, [&doc] { doc.endStroke(); });
            QObject::connect(window, &ToneWindow::windowChanged, window, set);
            QObject::connect(window, &ToneWindow::stretchAsked, window, [set, reference, &desk] {
                if (const auto ref = reference()) {
                    const auto [l, h] = rangeOf(histogramOf(desk, *ref));
                    set(l, h);
                }
            });
            to->addWidget(window);
        }
}

} // namespace bathylux
