#include "core/render/lit_parts.h"

#include "core/field/parallel.h"

namespace bathylux {

namespace {

using Planes = std::array<Plane, 3>;

Planes planes_of(Strip& seen) {
    Planes out;
    for (int c = 0; c < 3; ++c)
        out[c] = std::move(seen.channels[c].writable(seen.region.width(), seen.region.height()));
    return out;
}

void take_away(Planes& from, const Planes& what) {
    for (int c = 0; c < 3; ++c)
        parallel_rows(0, from[c].height(), [&](int y) {
            for (int x = 0; x < from[c].width(); ++x) from[c](x, y) -= what[c](x, y);
        });
}

} // namespace

std::size_t parts_of(const Piece& piece) {
    const bool finished =
        std::any_of(piece.finish.begin(), piece.finish.end(), [](const Step& s) { return s.on; });
    return part_names.size() - (finished ? 0 : 1);
}

Scene without_bodies(const Scene& scene) {
    Scene out = scene;
    out.counted.bodies = false;
    return out;
}

LitParts lit_parts(Evaluator& evaluator, const Scene& scene, double scale, const Progress& progress) {
    const Region all = canvas_region(scene.piece->canvas, scale);
    Piece plain = *scene.piece, alone;
    plain.roll_off = RollOff::none;
    alone = plain;
    alone.relight = 1, alone.relight_blend = BlendMode::normal;
    const auto as_it_is = std::make_shared<const Piece>(std::move(plain)),
               not_laid_over = std::make_shared<const Piece>(std::move(alone));
    const std::size_t count = parts_of(*scene.piece);
    std::size_t made = 0;
    const auto seen = [&](const std::shared_ptr<const Piece>& piece, Counted counted, View view) {
        Scene now = scene;
        counted.bodies = false;
        now.piece = piece, now.counted = counted;
        Strip out = look(evaluator, now, view, all, scale, [&](double d) {
            if (progress) progress((static_cast<double>(made) + d) / static_cast<double>(count));
        });
        ++made;
        return out;
    };
    const auto light = [&](Counted counted) {
        Strip strip = seen(not_laid_over, counted, View::unfinished);
        return planes_of(strip);
    };
    LitParts out{all, {}, {}};
    Counted around;
    around.lamps = around.occlusion = false;
    out.parts.push_back(light(around));
    around.occlusion = true;
    out.parts.push_back(light(around));
    take_away(out.parts[1], out.parts[0]);
    Counted lamps;
    lamps.skies = lamps.ambient = lamps.shadow = lamps.highlights = false;
    out.parts.push_back(light(lamps));
    lamps.diffuse = false, lamps.highlights = true;
    out.parts.push_back(light(lamps));
    // What is missing from the whole is what the shadows take, and what is no sum of light.
    Strip whole = seen(as_it_is, {}, View::unfinished);
    out.coverage = whole.channels[3];
    Planes missing = planes_of(whole);
    if (count == part_names.size()) {
        Strip strip = seen(as_it_is, {}, View::lit);
        out.coverage = strip.channels[3];
        Planes finish = planes_of(strip);
        take_away(finish, missing);
        out.parts.push_back(std::move(finish));
    }
    for (std::size_t i = 0; i < 4; ++i) take_away(missing, out.parts[i]);
    out.parts.insert(out.parts.begin() + static_cast<std::ptrdiff_t>(Part::shadow), std::move(missing));
    return out;
}

} // namespace bathylux
