// Looks and parts that are set up at once: recipes, alternatives, reflections, a shape's edges.
#include "app/windows/alternatives_sheet.h"
#include "app/windows/recipe_shelf.h"
#include "app/windows/window.h"
#include "core/error.h"
#include "core/make/shapes.h"
#include "core/make/type_source.h"
#include "core/piece/set_ups.h"
#include "files/svg.h"

namespace bathylux {

void Window::openRecipes(const QString& choose) {
    auto* shelf = new RecipeShelf(desk_, this);
    shelf->setObjectName("recipeShelf");
    shelf->setAttribute(Qt::WA_DeleteOnClose);
    if (!choose.isEmpty()) shelf->fill(choose);
    shelf->open();
}

void Window::takeRecipe(const QString& file) {
    const QString kept = RecipeShelf::takenIn(file);
    if (!desk_.open)
        return tell(
            tr("The recipe is on the shelf now: open a piece, choose an element, then Make › Recipes."));
    openRecipes(kept);
}

void Window::openAlternatives(const QString& step) {
    const Element* e = desk_.document.openElement();
    if (!e || e->id == finish_id) return;
    if (e->steps.empty())
        throw Error(tr("%1 has no steps yet: there is nothing to vary.").arg(nameOf(*e)).toStdString());
    auto* sheet = new AlternativesSheet(desk_, e->id, step.toStdString(), this);
    sheet->setObjectName("alternativesSheet");
    sheet->setAttribute(Qt::WA_DeleteOnClose);
    sheet->open();
}

/// Sets something up for the open element, by the box it has now.
void Window::setUp(const QString& name,
                   const std::function<std::string(Piece&, const std::string&, const Box&)>& make) {
    Document& doc = desk_.document;
    const Element* e = doc.openElement();
    if (!e || e->id == finish_id) return;
    Box box = element_box(desk_.scene(), e->id);
    const Canvas& c = doc.piece().canvas;
    if (box.empty()) box = {0, 0, c.width, c.height};
    std::string made;
    doc.edit(name, [&, id = e->id](Piece& p) { made = make(p, id, box); });
    if (!made.empty()) doc.choose({QString::fromStdString(made)});
}

void Window::turnIntoDrawing() {
    Document& doc = desk_.document;
    const Element* e = doc.openElement();
    const Asset* asset = e ? desk_.asset(e->id) : nullptr;
    if (!e || !e->source.as<TypeSource>() || !asset || asset->layers.empty())
        throw Error(tr("Choose written words to turn them into a drawing.").toStdString());
    const auto drawing = std::make_shared<const files::Bytes>(files::drawing_of(*asset));
    doc.editState(tr("Turn words into a drawing"), [&, id = e->id](Piece& p, files::Store& store) {
        std::string name = "drawings/" + id + ".svg";
        for (int n = 2; store.is_embedded(name); ++n)
            name = "drawings/" + id + "-" + std::to_string(n) + ".svg";
        store.embedded[name] = drawing;
        change(p, id, [&](Element& words) {
            words.source = Described(source_kind("svg")).with("file", name);
            words.source_rest = {};
        });
    });
}

/// Has the open words run along the outline of another chosen element.
void Window::runAlong() {
    Document& doc = desk_.document;
    const Element *words = nullptr, *along = nullptr;
    for (const QString& id : doc.chosen()) {
        const Element* e = doc.element(id);
        if (e && e->source.as<TypeSource>() && !words)
            words = e;
        else if (e && (e->source.is("svg") || e->source.is("ellipse") || e->source.is("rectangle")))
            along = e;
    }
    if (!words || !along)
        throw Error(tr("Choose words, and with Shift the drawing, ellipse or rectangle they shall run along.")
                        .toStdString());
    doc.edit(tr("Run along a path"), [&, id = words->id, path = along->id](Piece& p) {
        const Element on = *find_element(p.elements, path);
        change(p, id, [&](Element& e) {
            // At the top of what begins at its right.
            e.source = e.source.with("path", path).with("start", on.source.is("ellipse") ? 0.75 : 0.0);
            e.placement.x = on.placement.x, e.placement.y = on.placement.y;
        });
    });
}

QList<ActionRow> Window::setUpRows() {
    const QString m = tr("Make"), s = m + "/" + tr("Set up");
    const auto edge = [this](const QString& name, std::string (*make)(Piece&, std::string_view, float),
                             double share) {
        return [this, name, make, share] {
            setUp(name, [&](Piece& p, const std::string& id, const Box& box) {
                return make(p, id,
                            static_cast<float>(
                                std::max(2.0, std::round(share * std::min(box.width(), box.height())))));
            });
        };
    };
    const auto rough = [this](bool multiplied, bool edges) {
        return [this, multiplied, edges] {
            setUp(tr("Roughen"), [&](Piece& p, const std::string& id, const Box& box) {
                const double side = std::min(box.width(), box.height());
                Roughening how;
                how.multiplied = multiplied;
                how.rise = multiplied ? 0.6f : static_cast<float>(std::max(1.0, std::round(side * 0.012)));
                how.size = static_cast<float>(std::max(4.0, std::round(side * 0.08)));
                how.edges = edges ? static_cast<float>(std::max(2.0, std::round(side * 0.06))) : 0.0f;
                return roughen(p, id, how);
            });
        };
    };
    return {
        {m, {}, {}},
        {m, "recipes", tr("Recipes…"), QKeySequence("Ctrl+R"), Needs::piece, [this] { openRecipes(); }},
        {m, "alternatives", tr("Alternatives…"), QKeySequence("Shift+A"), Needs::elements,
         [this] { openAlternatives(desk_.document.openStepId()); }},
        {s,
         "reflect",
         tr("Reflection on a floor"),
         {},
         Needs::elements,
         [this] {
             setUp(tr("Reflection on a floor"),
                   [](Piece& p, const std::string& id, const Box& b) { return reflect_on_floor(p, id, b); });
         }},
        {s,
         "water",
         tr("Mirrored in water"),
         {},
         Needs::elements,
         [this] {
             setUp(tr("Mirrored in water"),
                   [](Piece& p, const std::string& id, const Box& b) { return mirror_in_water(p, id, b); });
         }},
        {s, {}, {}},
        {s, "roughen", tr("Roughen all over"), {}, Needs::elements, rough(false, false)},
        {s, "roughen-rim", tr("Roughen near the edge"), {}, Needs::elements, rough(false, true)},
        {s,
         "roughen-in-proportion",
         tr("Roughen in proportion to height"),
         {},
         Needs::elements,
         rough(true, false)},
        {s, {}, {}},
        {s,
         "outline-element",
         tr("Outline as an element"),
         {},
         Needs::elements,
         edge(tr("Outline as an element"), &outline_of, 0.03)},
        {s,
         "inner-edge-element",
         tr("Inner edge as an element"),
         {},
         Needs::elements,
         edge(tr("Inner edge as an element"), &inner_edge_of, 0.03)},
        {s,
         "shadow-band",
         tr("Shadow band as an element"),
         {},
         Needs::elements,
         edge(tr("Shadow band as an element"), &shadow_band_of, 0.06)},
        {s, {}, {}},
        {s, "words-along", tr("Words along a path"), {}, Needs::elements, [this] { runAlong(); }},
        {s,
         "words-to-drawing",
         tr("Words into a drawing"),
         {},
         Needs::elements,
         [this] { turnIntoDrawing(); }},
        {m, {}, {}},
    };
}

} // namespace bathylux
