#include "app/document/painter.h"

#include <QObject>
#include <filesystem>
#include <unordered_map>

#include "core/bend/pushed.h"
#include "core/paint/paint_source.h"
#include "core/piece/edit.h"
#include "core/piece/references.h"
#include "core/relief/by_hand.h"

namespace bathylux {

namespace {

/// Canvas px → source px about the element's centre.
std::optional<Affine> toSource(const Placed& parent, const Element& e) {
    const Affine m = placed_within(parent, e).to_device;
    return m.invertible() ? std::optional(m.inverse()) : std::nullopt;
}
std::optional<Affine> toSource(const Piece& piece, const Element& e) {
    const auto parent = parent_placed(piece, e.id);
    return parent ? toSource(*parent, e) : std::nullopt;
}

int frameOf(const Desk& desk, const Element& e) {
    if (!desk.frame || !desk.frame->assets) return 0;
    return shown_frame({desk.document.state().piece, desk.frame->assets, desk.document.frame()}, e);
}

/// The relief under the brush, made a tile at a time as it is asked for.
struct GroundTiles {
    Scene scene;
    std::string element; // its own height before the strokes; empty: the whole relief
    int steps = -1;
    Affine to_canvas; // painting px → canvas px
    double rise = 1;  // canvas px for each px of painted height
    Evaluator evaluator{128u << 20};
    std::unordered_map<std::uint64_t, std::vector<float>> tiles;

    static constexpr int side = 64;
    float at(int x, int y) {
        const int tx = x >= 0 ? x / side : -((side - 1 - x) / side),
                  ty = y >= 0 ? y / side : -((side - 1 - y) / side);
        const auto key =
            static_cast<std::uint64_t>(static_cast<std::uint32_t>(tx)) << 32 | static_cast<std::uint32_t>(ty);
        auto& t = tiles[key];
        if (t.empty()) fill(t, tx * side, ty * side);
        return t[static_cast<std::size_t>(y - ty * side) * side + x - tx * side];
    }
    void fill(std::vector<float>& t, int x0, int y0) {
        t.assign(static_cast<std::size_t>(side) * side, 0.0f);
        const Box box =
            transformed(Box{double(x0), double(y0), double(x0 + side), double(y0 + side)}, to_canvas);
        const Region all = canvas_region(scene.piece->canvas, 1),
                     part = intersect(grow(covering(box), 2), all);
        if (part.empty()) return;
        const Bundle b = element.empty() ? evaluator.relief(scene, part, 1)
                                         : evaluator.element(scene, element, part, 1, steps);
        if (b.region.empty() || !b.gives_height) return;
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) {
                const Vec2 c = to_canvas({x0 + x + 0.5, y0 + y + 0.5});
                const int i = std::clamp(static_cast<int>(std::floor(c.x)), b.region.x0, b.region.x1 - 1) -
                              b.region.x0,
                          j = std::clamp(static_cast<int>(std::floor(c.y)), b.region.y0, b.region.y1 - 1) -
                              b.region.y0;
                t[static_cast<std::size_t>(y) * side + x] =
                    b.height.at(i, j) * b.weight.at(i, j) / static_cast<float>(rise);
            }
    }
};

QString editName(BrushWork work) {
    switch (work) {
    case BrushWork::raise: return QObject::tr("Raise by hand");
    case BrushWork::lower: return QObject::tr("Lower by hand");
    case BrushWork::level: return QObject::tr("Level by hand");
    case BrushWork::smooth: return QObject::tr("Smooth by hand");
    case BrushWork::flatten: return QObject::tr("Flatten by hand");
    case BrushWork::pattern: return QObject::tr("Bring up a pattern");
    case BrushWork::hide: return QObject::tr("Hide by hand");
    case BrushWork::reveal: return QObject::tr("Reveal by hand");
    case BrushWork::ink: return QObject::tr("Paint with ink");
    case BrushWork::lift: return QObject::tr("Lift ink");
    case BrushWork::push: return QObject::tr("Push by hand");
    case BrushWork::swell: return QObject::tr("Swell by hand");
    case BrushWork::thin: return QObject::tr("Thin by hand");
    case BrushWork::turn: return QObject::tr("Turn by hand");
    case BrushWork::smooth_out: return QObject::tr("Smooth out what was pushed");
    case BrushWork::settle: return QObject::tr("Settle what was pushed");
    }
    return {};
}

} // namespace

std::string freeStrokes(const files::Store& store, const std::string& wish) {
    const auto at = wish.find("{frame}");
    const std::string stem = at == std::string::npos ? wish : wish.substr(0, at);
    for (int n = 1;; ++n) {
        const std::string number = n == 1 ? std::string() : std::to_string(n) + "-",
                          start = "strokes/" + number + stem, name = "strokes/" + number + wish;
        // With frames every name that begins so is taken.
        const auto has = [&](const auto& map) {
            if (at == std::string::npos) return map.contains(name);
            const auto found = map.lower_bound(start);
            return found != map.end() && found->first.starts_with(start);
        };
        std::error_code ignored;
        bool there = has(store.paintings) || has(store.embedded) ||
                     std::filesystem::exists(store.path_of(name), ignored);
        if (at != std::string::npos && !store.folder.empty())
            for (const auto& f : std::filesystem::directory_iterator(store.folder / "strokes", ignored))
                there = there || f.path().filename().string().starts_with(number + stem);
        if (!there) return name;
    }
}

const Element* Painter::open() const {
    const Element* e = desk_.document.openElement();
    return e && e->id != finish_id ? e : nullptr;
}

std::optional<Painter::Target> Painter::target() const {
    const Element* e = open();
    if (!e) return std::nullopt;
    const auto parent = parent_placed(desk_.document.piece(), e->id);
    const auto to_source = parent ? toSource(*parent, *e) : std::nullopt;
    if (!to_source) return std::nullopt;
    // Ink lies in a file of its own, and on painted layers alone.
    const auto* layer = e->source.as<PaintSource>();
    auto strokes = strokes_of(*e);
    const auto drifts = [&](const std::string& file) {
        return std::any_of(e->steps.begin(), e->steps.end(), [&](const Step& s) {
            const auto* pushed = s.what.as<Pushed>();
            return pushed && pushed->file == file;
        });
    };
    std::erase_if(strokes, [&](const auto& s) {
        const bool is_ink = layer && s.name == layer->ink;
        return is_ink != works_on_ink(brush.work) || drifts(s.name) != works_on_drift(brush.work);
    });
    if (strokes.empty()) return std::nullopt;
    const auto& [file, density, own_rise] = strokes.back();
    // Groups make heights larger, too. What is laid down flat is painted as it is.
    const double rise = parent->rise * own_rise;
    return Target{e->id, file, density, Affine::scaling(density, density) * *to_source,
                  std::abs(rise) > 1e-6 ? rise : 1};
}

/// What the stroke is kept in, made where it is not there yet.
Painter::Target Painter::makeTarget() {
    Document& doc = desk_.document;
    std::string id;
    doc.editState(edit_, [&](Piece& p, files::Store& store) {
        const bool inks = works_on_ink(brush.work);
        if (const Element* on = open(); on && inks && on->source.is("paint")) {
            id = on->id;
            change(p, id,
                   [&](Element& e) { e.source = e.source.with("ink", freeStrokes(store, id + "-ink.exr")); });
            return;
        }
        if (const Element* on = open(); on && !inks) {
            id = on->id;
            ByHand hand;
            // One painted px is about one of the canvas.
            const auto to_source = toSource(p, *on);
            hand.density =
                to_source ? static_cast<float>(std::clamp(1 / to_source->mean_scale(), 0.01, 100.0)) : 1.0f;
            if (works_on_drift(brush.work)) {
                // A step that has no strokes yet takes these.
                const StepKind& kind = step_kind(Pushed::id);
                const Pushed pushed{freeStrokes(store, id + "-push.exr"), hand.density};
                change(p, id, [&](Element& e) {
                    for (auto& s : e.steps)
                        if (const auto* empty = s->what.as<Pushed>(); empty && empty->file.empty()) {
                            s = s.with([&](Step& step) {
                                step.what = step.what.with("file", pushed.file)
                                                .with("density", double(pushed.density));
                            });
                            return;
                        }
                    add_step(e, {.what = Described(kind, pushed)}, place_for(e, kind));
                });
                return;
            }
            hand.file = freeStrokes(store, on->kind().framed ? id + "-{frame}.exr" : id + ".exr");
            change(p, id, [&](Element& e) {
                if (e.kind().by_hand)
                    e.source = e.source.with("file", hand.file);
                else
                    add_step(e, {.what = Described(step_kind("by_hand"), hand)});
            });
            return;
        }
        Element e;
        e.id = free_id(p, "painted");
        e.name = QObject::tr("Painted layer").toStdString();
        e.placement.x = p.canvas.width / 2, e.placement.y = p.canvas.height / 2;
        PaintSource layer;
        (inks ? layer.ink : layer.file) = freeStrokes(store, e.id + (inks ? "-ink.exr" : ".exr"));
        e.source = Described(source_kind("paint"), layer);
        // Ink colours what lies below, and what it is laid on.
        if (inks) e.name = QObject::tr("Ink").toStdString(), e.mix.blend = BlendMode::multiply;
        id = add_element(p, std::move(e), open() ? open()->id : std::string());
    });
    if (!open() || open()->id != id) doc.choose({QString::fromStdString(id)});
    return target().value_or(Target{});
}

/// Copies of an element share its strokes until one of them is painted on.
void Painter::partStrokes() {
    Document& doc = desk_.document;
    int users = 0;
    for_each_element(doc.piece().elements, [&](const Element& e) {
        for (const auto& [file, density, rise] : strokes_of(e)) users += file == at_->file;
    });
    if (users < 2) return;
    std::string own;
    doc.editState(edit_, [&](Piece& p, files::Store& store) {
        own = freeStrokes(store, at_->file.substr(at_->file.rfind('/') + 1));
        for (int f = 0; f < 4096; ++f) {
            const std::string from = strokes_file(at_->file, f);
            if (desk_.frame && desk_.frame->assets)
                if (const auto kept = desk_.frame->assets->find(painting_key(from));
                    kept != desk_.frame->assets->end() && kept->second->painting)
                    store.paintings[strokes_file(own, f)] = kept->second->painting;
            if (from == at_->file) break; // one file for all frames
        }
        change(p, at_->element, [&](Element& e) { rename_strokes(e, at_->file, own); });
    });
    at_->file = own;
}

Ground Painter::groundOf(const Target& t) const {
    if (brush.work != BrushWork::level && brush.work != BrushWork::smooth && brush.work != BrushWork::flatten)
        return {};
    auto tiles = std::make_shared<GroundTiles>();
    tiles->scene = {desk_.document.state().piece,
                    desk_.frame ? desk_.frame->assets : std::make_shared<const Assets>(),
                    desk_.document.frame()};
    tiles->to_canvas = t.to_painting.inverse();
    tiles->rise = t.rise;
    const Element* e = find_element(desk_.document.piece().elements, t.element);
    if (e && !e->kind().by_hand) {
        tiles->element = t.element;
        tiles->steps = static_cast<int>(e->steps.size());
        for (int i = 0; i < static_cast<int>(e->steps.size()); ++i)
            if (const auto* hand = e->steps[i]->what.as<ByHand>(); hand && hand->file == t.file)
                tiles->steps = i;
    } else {
        auto without = std::make_shared<Piece>(desk_.document.piece());
        change(*without, t.element, [](Element& layer) { layer.mix.visible = false; });
        tiles->scene.piece = without;
    }
    return [tiles](int x, int y) { return tiles->at(x, y); };
}

bool Painter::begin(Vec2 canvas, float pressure, bool onward, QString& why) {
    Document& doc = desk_.document;
    if (doc.readOnly()) {
        why = QObject::tr(
            "This piece was made by a newer version of Bathylux. It can be looked at, not changed.");
        return false;
    }
    const bool hides = brush.work == BrushWork::hide || brush.work == BrushWork::reveal;
    if (hides && (!open() || open()->kind().by_hand)) {
        why = QObject::tr("Choose the element to hide parts of, then paint.");
        return false;
    }
    if (works_on_drift(brush.work) && !open()) {
        why = QObject::tr("Choose the element to push, then push it.");
        return false;
    }
    if (brush.work == BrushWork::lift && !target()) {
        why = QObject::tr("There is no ink on this: choose a layer that has some, then lift it.");
        return false;
    }
    hold_ = doc.stroke();
    edit_ = editName(brush.work);
    at_ = target();
    if (!at_ || at_->file.empty()) {
        at_ = makeTarget();
        last_.reset();
    }
    partStrokes();
    const Element* e = find_element(doc.piece().elements, at_->element);
    if (!e || at_->file.empty()) {
        hold_.end();
        why = QObject::tr("This element is scaled to nothing: there is no place to paint on.");
        return false;
    }
    name_ = strokes_file(at_->file, frameOf(desk_, *e));
    Painting painting(at_->density);
    const auto& own = doc.state().store.paintings;
    if (const auto found = own.find(name_); found != own.end())
        painting = *found->second;
    else if (desk_.frame && desk_.frame->assets)
        if (const auto kept = desk_.frame->assets->find(painting_key(name_));
            kept != desk_.frame->assets->end() && kept->second->painting)
            painting = *kept->second->painting;
    Brush b = brush;
    const double scale = at_->to_painting.mean_scale();
    b.size = static_cast<float>(b.size * scale);
    b.pattern.size = static_cast<float>(b.pattern.size * scale);
    if (!works_on_drift(b.work)) {
        b.height = static_cast<float>(b.height / at_->rise);
        b.ceiling = static_cast<float>(std::abs(b.ceiling / at_->rise));
    }
    BrushStroke::Mirrors mirrors;
    if (mirrorAcross) mirrors.x = 0.0;
    if (mirrorDown) mirrors.y = 0.0;
    stroke_ = std::make_unique<BrushStroke>(std::move(painting), b, groundOf(*at_), mirrors);
    if (onward && last_) stroke_->to(at_->to_painting(*last_), pressure);
    move(canvas, pressure);
    return true;
}

void Painter::move(Vec2 canvas, float pressure) {
    if (!stroke_) return;
    last_ = canvas;
    if (!stroke_->to(at_->to_painting(canvas), pressure).empty()) show();
}

void Painter::show() {
    auto now = std::make_shared<const Painting>(stroke_->painting());
    desk_.document.editState(edit_, [&](Piece&, files::Store& store) { store.paintings[name_] = now; });
}

void Painter::end() {
    if (!stroke_) return;
    stroke_.reset();
    hold_.end();
}

QString Painter::on() const {
    const Element* e = open();
    if (!e && works_on_drift(brush.work)) return QObject::tr("nothing yet: choose an element");
    if (!e || (works_on_ink(brush.work) && !e->source.is("paint"))) return QObject::tr("a new painted layer");
    return nameOf(*e);
}

std::function<Vec2(Vec2)> Painter::drift() const {
    const auto at = stroke_ ? at_ : target();
    const Element* e = open();
    if (!at || !e || !works_on_drift(brush.work)) return {};
    const std::string name = strokes_file(at->file, frameOf(desk_, *e));
    std::shared_ptr<const Painting> painting;
    const auto& own = desk_.document.state().store.paintings;
    if (const auto found = own.find(name); found != own.end())
        painting = found->second;
    else if (desk_.frame && desk_.frame->assets)
        if (const auto kept = desk_.frame->assets->find(painting_key(name));
            kept != desk_.frame->assets->end())
            painting = kept->second->painting;
    if (!painting) return {};
    const Affine back = at->to_painting.inverse();
    const double density = at->density;
    return [painting, to = at->to_painting, back, density](Vec2 canvas) {
        const Vec2 q = to(canvas);
        const int x = static_cast<int>(std::floor(q.x)), y = static_cast<int>(std::floor(q.y));
        return back.direction(density * Vec2{painting->height(x, y), painting->hidden(x, y)});
    };
}

std::optional<Vec2> Painter::axes() const {
    const Element* e = open();
    const Canvas& c = desk_.document.piece().canvas;
    if (!e) return Vec2{c.width / 2.0, c.height / 2.0};
    const auto to_source = toSource(desk_.document.piece(), *e);
    return to_source ? std::optional(to_source->inverse()({0, 0})) : std::nullopt;
}

} // namespace bathylux
