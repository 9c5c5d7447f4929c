#include "core/error.h"
#include "core/piece/lights.h"
#include "core/piece/sources.h"

namespace bathylux {

namespace {
constexpr Kind sources[] = {describe<TypeSource>(),      describe<PictureSource>(), describe<SvgSource>(),
                            describe<RectangleSource>(), describe<EllipseSource>(), describe<FormSource>(),
                            describe<NoiseSource>(),     describe<PatternSource>(), describe<NormalsSource>(),
                            describe<SpritesSource>(),   describe<PaintSource>(),   describe<GroupSource>()};
constexpr Kind lights[] = {describe<DirectionalLight>(), describe<PointLight>(), describe<SpotLight>(),
                           describe<StripLight>(), describe<SkyLight>()};

const Kind* find(std::span<const Kind> kinds, std::string_view id) {
    for (const Kind& k : kinds)
        if (k.id == id) return &k;
    return nullptr;
}
const Kind& known(const Kind* kind, std::string_view id) {
    if (!kind) throw Error(in_quotes(id) + " is not a kind this version knows.");
    return *kind;
}
} // namespace

std::span<const Kind> source_kinds() { return sources; }
const Kind* find_source_kind(std::string_view id) { return find(sources, id); }
const Kind& source_kind(std::string_view id) { return known(find_source_kind(id), id); }
std::span<const Kind> light_kinds() { return lights; }
const Kind* find_light_kind(std::string_view id) { return find(lights, id); }
const Kind& light_kind(std::string_view id) { return known(find_light_kind(id), id); }

} // namespace bathylux
