#include "app/makings/map_rows.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/controls/chosen.h"
#include "app/controls/controls.h"
#include "app/controls/theme.h"
#include "app/controls/tone_window.h"
#include "app/document/behind.h"
#include "app/makings/counted.h"
#include "app/makings/what_comes_in.h"
#include "core/piece/references.h"

namespace bathylux {

namespace {

constexpr int bins = 128;

/// How often each value of a map occurs over the canvas, before its tone window; from a small picture of it.
std::vector<int> histogramOf(const Scene& scene, MapRef ref) {
    std::vector<int> out(bins, 0);
    ref.low = 0, ref.high = 1, ref.sink = false;
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

/// The parameters of a map that gives one number: what gives two is not offered.
const std::array<Parameter, 6>& ofOneNumber() {
    static const std::array<Parameter, 6> out = [] {
        auto parameters = MapRef::parameters;
        for (Parameter& p : parameters)
            if (p.id == "of") {
                constexpr auto single = static_cast<std::size_t>(MapOf::red_green);
                p.choices = p.choices.first(single), p.words = p.words.first(single);
            }
        return parameters;
    }();
    return out;
}

/// Has every chosen element that may without a circle read this; none: nothing.
void takeMap(Document& doc, const QString& label, const MapPlace& place, const std::optional<MapRef>& ref) {
    doc.edit(!ref ? QObject::tr("Take the map away") : QObject::tr("Set: %1").arg(label.toLower()),
             [&](Piece& p) {
                 for (const QString& which : doc.chosen()) {
                     const std::string id = which.toStdString();
                     if (ref && !ref->element.empty() && !may_read(p, id, ref->element)) continue;
                     change(p, id, [&](Element& e) {
                         if (place.get(e)) place.set(e, ref);
                     });
                 }
             });
}

} // namespace

void addMapRows(QVBoxLayout* to, Desk& desk, const std::string& element, const QString& label,
                const QString& none, const MapPlace& place, QWidget* parent,
                const std::function<void(ParameterControl*)>& keep,
                std::vector<std::function<void()>>& refreshers, bool pairs) {
    Document& doc = desk.document;
    const Element* e = doc.element(QString::fromStdString(element));
    const auto now = e ? place.get(*e) : std::nullopt;
    if (!now) return;
    const bool itself = *now && (*now)->element.empty();
    const Element* map = *now && !itself ? find_element(doc.piece().elements, (*now)->element) : nullptr;
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
    if (itself) box->addWidget(new QLabel(QObject::tr("itself"), row));
    auto* take = linkButton(map || itself ? QObject::tr("change") : none, row);
    take->setObjectName("takeMap");
    take->setAccessibleName(label);
    take->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(take);
    QObject::connect(menu, &QMenu::aboutToShow, menu, [menu, &desk, &doc, element, none, place, label] {
        menu->clear();
        menu->addAction(none, menu, [&doc, label, place] { takeMap(doc, label, place, std::nullopt); });
        menu->addAction(QObject::tr("itself"), menu,
                        [&doc, label, place] { takeMap(doc, label, place, MapRef{}); });
        menu->addSeparator();
        for_each_element(doc.piece().elements, [&](const Element& m) {
            QAction* a = menu->addAction(nameOf(m), menu, [&desk, &doc, menu, label, place, id = m.id] {
                const Element* source = find_element(doc.piece().elements, id);
                if (!source) return;
                MapRef ref;
                ref.element = id;
                if (!source->kind().gives.has(channel::tone)) ref.of = MapOf::alpha;
                takeMap(doc, label, place, ref);
                if (ref.of != MapOf::tone) return;
                // Arrives stretched to the map's own range.
                const quint64 edit = doc.topEdit();
                behind(
                    desk.window, [scene = desk.scene(), ref] { return rangeOf(histogramOf(scene, ref)); },
                    [&doc, label, place, ref, edit](std::pair<double, double> range) {
                        if (doc.topEdit() != edit) return;
                        MapRef stretched = ref;
                        stretched.low = static_cast<float>(range.first),
                        stretched.high = static_cast<float>(range.second);
                        doc.amend([&](Piece& p) {
                            for (const QString& which : doc.chosen())
                                change(p, which.toStdString(), [&](Element& c) {
                                    if (const auto was = place.get(c);
                                        was && *was && (*was)->element == ref.element)
                                        place.set(c, stretched);
                                });
                        });
                    });
            });
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
    if (!map && !itself) return;

    static const MapRef standard;
    const auto control = [&](std::string_view id) {
        for (const Parameter& p : pairs ? MapRef::parameters : ofOneNumber()) {
            if (p.id != id) continue;
            auto* made = makeControl(p, p.get(&standard), ofChosen(doc, p, inMap(place, p)), doc, parent);
            to->addWidget(made);
            keep(made);
        }
    };
    if (!(*now)->on) control("on"); // switched off where it closed a circle
    control("of");
    if ((*now)->of == MapOf::slopes) return; // they have no window
    auto* window = new ToneWindow(parent);
    window->setAccessibleName(QObject::tr("Tone window of the map"));
    const auto reference = [&doc, element, place]() -> std::optional<MapRef> {
        const Element* c = doc.element(QString::fromStdString(element));
        auto at = c ? place.get(*c) : std::nullopt;
        // What it reads of itself is counted as it comes out in the end.
        if (at && *at && (*at)->element.empty()) (*at)->element = element;
        return at ? *at : std::nullopt;
    };
    const auto show = [window, reference, &desk] {
        const auto ref = reference();
        if (!ref) return;
        window->setWindow(ref->low, ref->high);
        if (desk.document.inStroke()) return; // counted when the hand rests
        const std::uint64_t what = name_before(desk.scene(), ref->element, -1);
        countAnew(window, QString::number(static_cast<int>(ref->of)) + " " + QString::number(what),
                  [scene = desk.scene(), r = *ref] { return histogramOf(scene, r); });
    };
    show();
    refreshers.push_back(show);
    const auto set = [&doc, place](double low, double high) {
        doc.edit(QObject::tr("Change tone window"), [&](Piece& piece) {
            for (const QString& which : doc.chosen())
                change(piece, which.toStdString(), [&](Element& c) {
                    auto at = place.get(c);
                    if (!at || !*at) return;
                    (*at)->low = static_cast<float>(low), (*at)->high = static_cast<float>(high);
                    place.set(c, *at);
                });
        });
    };
    tieStroke(window, doc);
    QObject::connect(window, &ToneWindow::windowChanged, window, set);
    QObject::connect(window, &ToneWindow::stretchAsked, window, [window, set, reference, &desk] {
        if (const auto ref = reference())
            behind(
                window, [scene = desk.scene(), r = *ref] { return rangeOf(histogramOf(scene, r)); },
                [set](std::pair<double, double> range) { set(range.first, range.second); });
    });
    to->addWidget(window);
    control("sink");
}

} // namespace bathylux
