#include "core/render/solid_sheets.h"

#include "core/render/layers.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

void take_colors(Bundle& to, const Bundle& from) {
    for (int c = 0; c < 3; ++c) to.color[c] = extended_with_nothing(from.color[c], from.region, to.region);
    to.coverage = extended_with_nothing(from.coverage, from.region, to.region);
}

} // namespace

SolidSheets solid_sheets(Evaluator& evaluator, const Scene& scene, double scale, bool around, bool down) {
    SolidSheets out;
    Graph graph(scene, scale);
    Layers layers(graph);
    if (!layers.fall_apart(scene.piece->elements)) return out;
    const Layers::Sheets sheets = layers.sheets();
    const Region canvas = graph.canvas();
    const auto given = [&](const OperationPtr& op) {
        Bundle b = evaluator.run(op, canvas, canvas, channel::all);
        return b.region == canvas ? b : extended_with_nothing(b, canvas);
    };
    const auto kept = [&](std::uint64_t hash, auto&& make) {
        const auto key = (Hash() << "sheet" << hash << scale << around << down).value();
        return std::static_pointer_cast<const TexelMap>(evaluator.budget().kept(key, [&] {
            auto made =
                std::make_shared<const TexelMap>(std::make_shared<const Bundle>(make()), scale, around, down);
            const std::size_t bytes = made->bytes();
            return Kept{std::move(made), bytes};
        }));
    };
    bool through = false;
    for (const Layers::Sheet& s : sheets.list) {
        SolidSheet sheet;
        if (s.part == Layers::Part::laid_over) {
            sheet.part = SolidSheet::Part::laid_over;
            const OperationPtr flat = layers.flat(s);
            sheet.texels = kept(flat->hash, [&] { return given(flat); });
            sheet.blend = s.element->mix.blend, sheet.linear = s.element->mix.linear;
        } else if (s.part == Layers::Part::lit) {
            Hash h;
            h << s.relief->hash;
            if (s.colors) h << s.colors->hash;
            sheet.texels = kept(h.value(), [&] {
                Bundle b = given(s.relief);
                if (s.colors) take_colors(b, given(s.colors));
                return b;
            });
        } else {
            through = true;
            sheet.part = SolidSheet::Part::seen_through;
            sheet.opacity = s.element->mix.opacity;
            sheet.blend = s.element->mix.blend, sheet.linear = s.element->mix.linear;
            Hash h;
            h << "own" << s.own->hash << s.plain;
            if (s.plain) h << content_hash(scene.piece->surface);
            if (s.clip) h << s.clip->hash;
            const auto own = [&] {
                Bundle b = given(s.own);
                if (s.plain) set_surface(b, scene.piece->surface);
                if (s.clip) {
                    const Bundle shape = given(s.clip);
                    limit(b, shape.coverage);
                }
                if (!b.gives_height) b.height = 0.0f;
                return b;
            };
            sheet.own = kept(h.value(), own);
            h << s.relief->hash;
            sheet.texels = kept(h.value(), [&] {
                Bundle b = given(s.relief);
                take_colors(b, own());
                return b;
            });
        }
        out.list.push_back(std::move(sheet));
    }
    if (through) {
        out.solid = kept(sheets.solid->hash, [&] { return given(sheets.solid); });
    }
    return out;
}

} // namespace bathylux
