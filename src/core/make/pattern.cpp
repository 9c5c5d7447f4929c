#include "core/make/pattern.h"

#include <numbers>

#include "core/field/parallel.h"
#include "core/step/step_kind.h"

namespace bathylux {

namespace {

constexpr float half_turn = std::numbers::pi_v<float>; // in radians

/// A place in a motif: whole cells and the way into one, and what varies.
struct Place {
    float x, y;         // in cells; a cell is `size` wide and size × stretch high
    int wrap_u, wrap_v; // cells after which the motif repeats; 0: never
    std::uint32_t seed;
    float gap, round, vary;

    static int floor(float v) { return static_cast<int>(std::floor(v)); }
    /// A random number 0…1 of a cell.
    float random(int i, int j, std::uint32_t which) const {
        const auto wrap = [](int a, int n) { return n <= 0 ? a : ((a % n) + n) % n; };
        return lattice_value(wrap(i, wrap_u), wrap(j, wrap_v), seed * 31u + which);
    }
    /// How high a piece is: 1, less what varies.
    float tall(int i, int j) const { return 1 - 0.5f * vary * random(i, j, 1); }
};

/// The shoulder of a piece: 0 at its edge, 1 from `round` half-widths inwards, a quarter circle between.
float shoulder(float in, float round) {
    const float t = std::clamp(in / std::max(round, 0.06f), 0.0f, 1.0f);
    return std::sqrt(t * (2 - t));
}

/// A rectangle from the middle of its cell: half-widths a, b; how far in, in the shorter half-width.
float block(float dx, float dy, float a, float b, float round) {
    const float in = std::min(a - std::abs(dx), b - std::abs(dy));
    return in <= 0 ? 0 : shoulder(in / std::min(a, b), round);
}

float scales(const Place& whole) {
    Place p = whole;
    p.wrap_v *= 2; // two rows a cell
    // Rows of discs, every other one half a disc aside; a row covers the one below it.
    const int last = Place::floor(p.y * 2 + 1);
    for (int r = last - 2; r <= last + 1; ++r) {
        const float shift = r % 2 ? 0.5f : 0.0f;
        const int i = Place::floor(p.x - shift + 0.5f);
        const float dx = p.x - shift - static_cast<float>(i), dy = p.y - 0.5f * static_cast<float>(r);
        const float radius = 0.56f * (1 - 0.5f * p.gap), d = std::sqrt(dx * dx + dy * dy) / radius;
        if (d >= 1) continue;
        // It lies on the next row with its tip and sinks towards its root.
        const float along = 0.5f + 0.5f * dy / radius;
        return p.tall(i, r) * (0.15f + 0.85f * along) * (0.55f + 0.45f * shoulder(1 - d, p.round));
    }
    return 0;
}

float basket_weave(const Place& p) {
    const int i = Place::floor(p.x), j = Place::floor(p.y);
    const float fx = p.x - static_cast<float>(i) - 0.5f, fy = p.y - static_cast<float>(j) - 0.5f;
    const bool across = (i + j) % 2 == 0;
    const float along = across ? fx : fy, side = across ? fy : fx, half = 0.5f * (1 - p.gap);
    const float over = 0.45f + 0.55f * std::cos(half_turn * along);
    const float under = 0.45f * (1 - std::cos(half_turn * side)) *
                        shoulder((half - std::abs(along)) / half, p.round); // the strand that passes below
    const float top = std::abs(side) < half ? over * shoulder((half - std::abs(side)) / half, p.round) : 0;
    return p.tall(across ? 0 : i, across ? j : 0) * std::max(top, under);
}

float rivets(const Place& p) {
    const int i = Place::floor(p.x), j = Place::floor(p.y);
    const float fx = p.x - static_cast<float>(i) - 0.5f, fy = p.y - static_cast<float>(j) - 0.5f;
    const float radius = 0.42f * (1 - p.gap), d = std::sqrt(fx * fx + fy * fy) / radius;
    return d < 1 ? p.tall(i, j) * shoulder(1 - d, std::max(p.round, 0.1f)) : 0;
}

float ring_mesh(const Place& p) {
    // Two sheets of rings, the second half a cell aside; they lean opposite ways and so pass through each
    // other.
    float best = 0;
    for (int sheet = 0; sheet < 2; ++sheet) {
        const float shift = sheet ? 0.5f : 0.0f;
        const int i0 = Place::floor(p.x - shift), j0 = Place::floor(p.y - shift);
        for (int dj = 0; dj <= 1; ++dj)
            for (int di = 0; di <= 1; ++di) {
                const float dx = p.x - shift - static_cast<float>(i0 + di),
                            dy = p.y - shift - static_cast<float>(j0 + dj);
                constexpr float radius = 0.5f;
                const float tube = 0.15f * (1 - p.gap), off = std::sqrt(dx * dx + dy * dy) - radius;
                if (std::abs(off) >= tube) continue;
                const float lean = 0.5f + (sheet ? -0.5f : 0.5f) * dx / radius;
                const float body = std::sqrt(1 - off * off / (tube * tube));
                best = std::max(best, p.tall(i0 + di, j0 + dj) * (0.25f + 0.35f * lean + 0.4f * body));
            }
    }
    return best;
}

float hammered(const Place& p) {
    const int i = Place::floor(p.x), j = Place::floor(p.y);
    float nearest = 4;
    for (int dj = -1; dj <= 1; ++dj)
        for (int di = -1; di <= 1; ++di) {
            const float loose = 0.35f + 0.65f * p.vary;
            const float dx = static_cast<float>(i + di) + 0.5f +
                             loose * (p.random(i + di, j + dj, 2) - 0.5f) - p.x,
                        dy = static_cast<float>(j + dj) + 0.5f +
                             loose * (p.random(i + di, j + dj, 3) - 0.5f) - p.y;
            nearest = std::min(nearest, dx * dx + dy * dy);
        }
    return std::min(1.0f, 1.6f * nearest); // a bowl about every blow
}

float knurl(const Place& p) {
    const auto groove = [&](float t) {
        const float f = t - std::floor(t), in = 1 - std::abs(2 * f - 1);
        return std::clamp((in - p.gap) / (1 - p.gap), 0.0f, 1.0f);
    };
    const float h = std::min(groove(p.x + p.y), groove(p.x - p.y));
    return h + p.round * (std::sqrt(h * (2 - h)) - h);
}

float planks(const Place& whole) {
    Place p = whole;
    p.wrap_v /= 4; // boards are four cells long
    const int i = Place::floor(p.x);
    const float y = p.y / 4 + p.random(i, 0, 4);
    const int j = Place::floor(y);
    const float fx = p.x - static_cast<float>(i) - 0.5f, fy = (y - static_cast<float>(j) - 0.5f) * 4;
    const float edge = block(fx, fy, 0.5f * (1 - 0.4f * p.gap), 2 - 0.2f * p.gap, 0.25f * p.round + 0.02f);
    // Grain: lines along the board that wander a little.
    const float wander = 0.35f * std::sin(0.9f * p.y + 6 * p.random(i, j, 5));
    const float line = fx * 9 + wander,
                grain = 0.5f + 0.5f * std::sin(2 * half_turn * line + 5 * p.random(i, j, 6));
    return edge * (1 - 0.3f * p.vary * p.random(i, j, 1)) * (1 - 0.16f * p.vary * grain);
}

float setts(const Place& p) {
    const int j = Place::floor(p.y);
    const float x = p.x + (j % 2 ? 0.5f : 0.0f);
    const int i = Place::floor(x);
    const float fx = x - static_cast<float>(i) - 0.5f, fy = p.y - static_cast<float>(j) - 0.5f;
    const float a = 0.5f * (1 - p.gap) * (1 - 0.16f * p.vary * p.random(i, j, 2)),
                b = 0.5f * (1 - p.gap) * (1 - 0.16f * p.vary * p.random(i, j, 3));
    // Corners worn round: distance to a rectangle with round corners.
    const float corner = 0.5f * std::min(a, b), qx = std::abs(fx) - a + corner,
                qy = std::abs(fy) - b + corner;
    const float out =
        std::sqrt(std::max(qx, 0.0f) * std::max(qx, 0.0f) + std::max(qy, 0.0f) * std::max(qy, 0.0f)) +
        std::min(std::max(qx, qy), 0.0f) - corner;
    if (out >= 0) return 0;
    const float lean =
        1 + 0.35f * p.vary * ((p.random(i, j, 4) - 0.5f) * fx + (p.random(i, j, 5) - 0.5f) * fy);
    return std::min(1.0f, p.tall(i, j) * lean * shoulder(-out / std::min(a, b), std::max(p.round, 0.1f)));
}

float tread_plate(const Place& p) {
    const int i = Place::floor(p.x), j = Place::floor(p.y);
    const float fx = p.x - static_cast<float>(i) - 0.5f, fy = p.y - static_cast<float>(j) - 0.5f;
    const bool rising = (i + j) % 2 == 0;
    constexpr float k = std::numbers::sqrt2_v<float> / 2;
    const float along = k * (rising ? fx - fy : fx + fy), side = k * (rising ? fx + fy : fy - fx);
    // A lug: two arcs that meet in points.
    const float length = 0.48f, width = 0.15f * (1 - p.gap);
    const float t = along / length;
    if (std::abs(t) >= 1) return 0;
    const float half = width * (1 - t * t), in = half - std::abs(side);
    return in <= 0 ? 0 : shoulder(in / width, std::max(p.round, 0.1f));
}

float corduroy(const Place& p) {
    const int i = Place::floor(p.x);
    const float fx = p.x - static_cast<float>(i) - 0.5f, half = 0.5f * (1 - p.gap);
    const float rib =
        std::abs(fx) < half ? shoulder((half - std::abs(fx)) / half, std::max(p.round, 0.1f)) : 0;
    const float tuft = 0.5f + 0.5f * std::sin(2 * half_turn * (p.y * 6 + p.random(i, 0, 2)));
    return rib * (1 - 0.25f * p.vary * tuft);
}

float stipple(const Place& p) {
    const int i = Place::floor(p.x), j = Place::floor(p.y);
    float best = 0;
    for (int dj = -1; dj <= 1; ++dj)
        for (int di = -1; di <= 1; ++di) {
            const int a = i + di, b = j + dj;
            const float dx = static_cast<float>(a) + 0.5f + 0.7f * p.vary * (p.random(a, b, 2) - 0.5f) - p.x,
                        dy = static_cast<float>(b) + 0.5f + 0.7f * p.vary * (p.random(a, b, 3) - 0.5f) - p.y;
            const float radius = 0.38f * (1 - p.gap) * (1 - 0.6f * p.vary * p.random(a, b, 4));
            const float d = std::sqrt(dx * dx + dy * dy) / radius;
            if (d < 1) best = std::max(best, p.tall(a, b) * shoulder(1 - d, std::max(p.round, 0.1f)));
        }
    return best;
}

float honeycomb(const Place& p) {
    // Hexagons on two interleaved lattices; the nearer middle owns the place (y is in cells of √3).
    constexpr float root3 = std::numbers::sqrt3_v<float>;
    const float y = p.y * root3;
    const int i = Place::floor(p.x + 0.5f), j = Place::floor(p.y + 0.5f), k = Place::floor(p.x),
              l = Place::floor(p.y);
    const float ax = p.x - static_cast<float>(i), ay = y - static_cast<float>(j) * root3,
                bx = p.x - static_cast<float>(k) - 0.5f, by = y - (static_cast<float>(l) + 0.5f) * root3;
    const bool first = ax * ax + ay * ay < bx * bx + by * by;
    const float dx = std::abs(first ? ax : bx), dy = std::abs(first ? ay : by);
    const float out = std::max(dx, 0.5f * dx + 0.5f * root3 * dy); // 0.5 at the edge
    const float half = 0.5f * (1 - p.gap);
    return out >= half ? 0
                       : (1 - 0.5f * p.vary * p.random(first ? i : k, first ? j : l, first ? 1 : 2)) *
                             shoulder((half - out) / half, p.round);
}

float cross_hatch(const Place& p) {
    const auto line = [&](float t, float wobble) {
        const float f =
            t + 0.12f * p.vary * std::sin(wobble) - std::floor(t + 0.12f * p.vary * std::sin(wobble));
        const float off = std::abs(f - 0.5f), half = 0.5f * std::max(p.gap, 0.05f);
        return off >= half ? 1.0f : 1 - std::sqrt(1 - off * off / (half * half)) * (0.4f + 0.6f * p.round);
    };
    return std::min(line(p.x + p.y, 2 * half_turn * (p.x - p.y)),
                    line(p.x - p.y, 2 * half_turn * (p.x + p.y)));
}

float brick(const Place& whole) {
    Place p = whole;
    p.wrap_u /= 2; // bricks are two cells long
    const int j = Place::floor(p.y);
    const float x = p.x / 2 + (j % 2 ? 0.5f : 0.0f);
    const int i = Place::floor(x);
    const float fx = (x - static_cast<float>(i) - 0.5f) * 2, fy = p.y - static_cast<float>(j) - 0.5f;
    return p.tall(i, j) * block(fx, fy, 1 - 0.5f * p.gap, 0.5f - 0.5f * p.gap, 0.5f * p.round + 0.02f);
}

float relief(Motif motif, const Place& p) {
    switch (motif) {
    case Motif::scales: return scales(p);
    case Motif::basket_weave: return basket_weave(p);
    case Motif::rivets: return rivets(p);
    case Motif::ring_mesh: return ring_mesh(p);
    case Motif::hammered: return hammered(p);
    case Motif::knurl: return knurl(p);
    case Motif::planks: return planks(p);
    case Motif::setts: return setts(p);
    case Motif::tread_plate: return tread_plate(p);
    case Motif::corduroy: return corduroy(p);
    case Motif::stipple: return stipple(p);
    case Motif::honeycomb: return honeycomb(p);
    case Motif::cross_hatch: return cross_hatch(p);
    case Motif::brick: return brick(p);
    }
    return 0;
}

/// Cells after which a motif repeats, across and down.
std::pair<int, int> period_of(Motif motif) {
    switch (motif) {
    case Motif::basket_weave:
    case Motif::tread_plate:
    case Motif::brick: return {2, 2};
    case Motif::setts: return {1, 2};
    case Motif::planks: return {1, 4};
    default: return {1, 1};
    }
}

/// The height of a cell in widths, before it is stretched.
double natural_height(Motif motif) { return motif == Motif::honeycomb ? std::numbers::sqrt3 : 1; }

} // namespace

float pattern_at(const PatternSource& s, Vec2 at) {
    const double u = std::max(1.0f, s.size), v = u * std::max(0.01f, s.stretch) * natural_height(s.motif);
    return relief(s.motif, {static_cast<float>(at.x / u), static_cast<float>(at.y / v), 0, 0,
                            static_cast<std::uint32_t>(s.seed), s.gap, s.round, s.vary});
}

Plane pattern(const PatternSource& s, const Grid& grid) {
    double u = std::max(1.0f, s.size), v = u * std::max(0.01f, s.stretch) * natural_height(s.motif);
    int cells_u = 0, cells_v = 0;
    if (s.tile && !grid.tile.empty()) {
        const auto [pu, pv] = period_of(s.motif);
        cells_u = pu * std::max(1, static_cast<int>(std::lround(grid.tile.width() / (u * pu))));
        cells_v = pv * std::max(1, static_cast<int>(std::lround(grid.tile.height() / (v * pv))));
        u = grid.tile.width() / cells_u, v = grid.tile.height() / cells_v;
    }
    const int fine = std::clamp(static_cast<int>(std::ceil(grid.step - 0.01)), 1, 4);
    const Region r = grid.region;
    Plane out(r.width(), r.height());
    parallel_rows(0, r.height(), [&](int y) {
        float* to = out.row(y);
        for (int x = 0; x < r.width(); ++x) {
            float sum = 0;
            for (int b = 0; b < fine; ++b)
                for (int a = 0; a < fine; ++a) {
                    const Vec2 p =
                        grid.from_device({r.x0 + x + (a + 0.5) / fine, r.y0 + y + (b + 0.5) / fine});
                    sum += relief(s.motif,
                                  {static_cast<float>(p.x / u), static_cast<float>(p.y / v), cells_u, cells_v,
                                   static_cast<std::uint32_t>(s.seed), s.gap, s.round, s.vary});
                }
            to[x] = sum / static_cast<float>(fine * fine);
        }
    });
    return out;
}

Bundle PatternSource::give(const SourceContext& context) const {
    return computed_bundle(context, tile, [&](const Grid& grid) { return pattern(*this, grid); });
}
std::string PatternSource::says() const {
    std::string words(motif_names[static_cast<std::size_t>(motif)]);
    std::replace(words.begin(), words.end(), '_', ' ');
    return words + ", " + said(size) + " px";
}

} // namespace bathylux
