#include "core/paint/painting.h"

#include "core/field/parallel.h"

namespace bathylux {

namespace {

std::uint64_t next_version() {
    static std::atomic<std::uint64_t> last{1};
    return ++last;
}

void halve(float* values) {
    for (int level = 1, n = Painting::side / 2; level < Painting::Tile::levels; ++level, n /= 2) {
        const float* from = values + Painting::Tile::offset(level - 1);
        float* to = values + Painting::Tile::offset(level);
        for (int y = 0; y < n; ++y)
            for (int x = 0; x < n; ++x) {
                const float* p = from + 2 * y * 2 * n + 2 * x;
                to[y * n + x] = 0.25f * (p[0] + p[1] + p[2 * n] + p[2 * n + 1]);
            }
    }
}

} // namespace

const Painting::Tile* Painting::tile(int tx, int ty) const {
    const int cx = floor_div(tx, chunk_side), cy = floor_div(ty, chunk_side);
    const auto found = chunks_.find({cx, cy});
    if (found == chunks_.end()) return nullptr;
    return found->second
        ->tiles[static_cast<std::size_t>((ty - cy * chunk_side) * chunk_side + tx - cx * chunk_side)]
        .get();
}

float Painting::height(int x, int y) const {
    const int tx = floor_div(x, side), ty = floor_div(y, side);
    const Tile* t = tile(tx, ty);
    return t ? t->height[static_cast<std::size_t>((y - ty * side) * side + x - tx * side)] : 0.0f;
}

float Painting::hidden(int x, int y) const {
    const int tx = floor_div(x, side), ty = floor_div(y, side);
    const Tile* t = tile(tx, ty);
    return t ? t->hidden[static_cast<std::size_t>((y - ty * side) * side + x - tx * side)] : 0.0f;
}

std::array<float, 4> Painting::ink(int x, int y) const {
    const int tx = floor_div(x, side), ty = floor_div(y, side);
    const Tile* t = tile(tx, ty);
    if (!t || t->ink.empty()) return {};
    const auto i = static_cast<std::size_t>((y - ty * side) * side + x - tx * side);
    return {t->ink[i], t->ink[i + Tile::size], t->ink[i + 2 * Tile::size], t->ink[i + 3 * Tile::size]};
}

Region Painting::bounds() const {
    Box all;
    for (const auto& [at, chunk] : chunks_)
        for (int i = 0; i < chunk_side * chunk_side; ++i)
            if (chunk->tiles[i]) {
                const int x = (at.first * chunk_side + i % chunk_side) * side,
                          y = (at.second * chunk_side + i / chunk_side) * side;
                all.add(Box{double(x), double(y), double(x + side), double(y + side)});
            }
    return covering(all);
}

std::size_t Painting::tiles() const {
    std::size_t n = 0;
    for (const auto& [at, chunk] : chunks_)
        for (const auto& t : chunk->tiles) n += t != nullptr;
    return n;
}

void Painting::change(Region area, const std::function<void(Tile&, int, int)>& work) {
    if (area.empty()) return;
    for (int ty = floor_div(area.y0, side); ty <= floor_div(area.y1 - 1, side); ++ty)
        for (int tx = floor_div(area.x0, side); tx <= floor_div(area.x1 - 1, side); ++tx) {
            const int cx = floor_div(tx, chunk_side), cy = floor_div(ty, chunk_side);
            auto& chunk = chunks_[{cx, cy}];
            if (!chunk)
                chunk = std::make_shared<Chunk>();
            else if (chunk.use_count() > 1)
                chunk = std::make_shared<Chunk>(*chunk);
            // Nobody else has it now.
            auto& held = const_cast<Chunk&>(*chunk).tiles[static_cast<std::size_t>(
                (ty - cy * chunk_side) * chunk_side + tx - cx * chunk_side)];
            if (!held)
                held = std::make_shared<Tile>();
            else if (held.use_count() > 1)
                held = std::make_shared<Tile>(*held);
            Tile& t = const_cast<Tile&>(*held);
            work(t, tx * side, ty * side);
            halve(t.height.data());
            if (t.hides) halve(t.hidden.data());
            for (int c = 0; c < 4 && !t.ink.empty(); ++c) halve(t.ink_plane(c));
            hides_ = hides_ || t.hides, inked_ = inked_ || !t.ink.empty();
        }
    version_ = next_version();
}

namespace {

/// Reads N quantities of a painting over a region: bilinear, from the halving at which a device px is about
/// one sample. `at` gives them from a tile and an index into its planes; `to` takes them at a px of the
/// region.
template <int N, class At, class To>
void read_painting(const Painting& p, const Affine& to_device, Region region, const At& values_at,
                   const To& to) {
    if (p.empty() || !to_device.invertible()) return;
    const Affine to_painting = Affine::scaling(p.density(), p.density()) * to_device.inverse();
    const int level =
        std::clamp(static_cast<int>(std::floor(std::log2(std::max(1.0, to_painting.max_scale() + 1e-9)))), 0,
                   Painting::Tile::levels - 1);
    const int n = Painting::side >> level, first = Painting::Tile::offset(level);
    const double k = 1.0 / (1 << level);
    const Affine map = Affine::translation(-0.5, -0.5) * Affine::scaling(k, k) * to_painting;
    const Region bounds = grow(p.bounds(), 2 << level);
    const Region touched = intersect(
        covering(transformed(Box{double(bounds.x0), double(bounds.y0), double(bounds.x1), double(bounds.y1)},
                             to_painting.inverse())),
        region);
    if (touched.empty()) return;
    using Values = std::array<float, N>;
    const bool unscaled = level == 0 && std::abs(std::abs(map.a) + std::abs(map.b) - 1) < 1e-9;
    parallel_rows(touched.y0, touched.y1, [&](int y) {
        int tx = INT_MIN, ty = INT_MIN;
        const Painting::Tile* tile = nullptr;
        const auto at = [&](int i, int j) -> Values {
            const int x = floor_div(i, n), v = floor_div(j, n);
            if (x != tx || v != ty) tile = p.tile(tx = x, ty = v);
            return tile ? values_at(*tile, first + (j - v * n) * n + i - x * n) : Values{};
        };
        for (int x = touched.x0; x < touched.x1; ++x) {
            Vec2 q = map({x + 0.5, y + 0.5});
            if (unscaled) {
                // Whole-pixel placements stay exact.
                for (double* c : {&q.x, &q.y})
                    if (std::abs(*c - std::round(*c)) < 1e-6) *c = std::round(*c);
            }
            const int i = static_cast<int>(std::floor(q.x)), j = static_cast<int>(std::floor(q.y));
            const auto fx = static_cast<float>(q.x - i), fy = static_cast<float>(q.y - j);
            Values sum = at(i, j);
            if (fx != 0 || fy != 0) {
                const Values b = at(i + 1, j), c = at(i, j + 1), d = at(i + 1, j + 1);
                for (std::size_t v = 0; v < N; ++v) {
                    const float top = sum[v] + fx * (b[v] - sum[v]), bottom = c[v] + fx * (d[v] - c[v]);
                    sum[v] = top + fy * (bottom - top);
                }
            }
            to(x - region.x0, y - region.y0, sum);
        }
    });
}

} // namespace

Painted painted(const Painting& p, const Affine& to_device, Region region, float rise) {
    Painted out{Plane(region.width(), region.height(), 0.0f),
                p.hides() ? Plane(region.width(), region.height(), 0.0f) : Plane()};
    read_painting<2>(
        p, to_device, region,
        [](const Painting::Tile& t, int i) {
            const auto k = static_cast<std::size_t>(i);
            return std::array{t.height[k], t.hides ? t.hidden[k] : 0.0f};
        },
        [&](int x, int y, const std::array<float, 2>& v) {
            out.height(x, y) = rise * v[0];
            if (out.hidden.width()) out.hidden(x, y) = std::clamp(v[1], 0.0f, 1.0f);
        });
    return out;
}

std::array<Plane, 2> drift_of(const Painting& p, const Affine& to_device, Region region) {
    std::array<Plane, 2> out;
    for (Plane& plane : out) plane = Plane(region.width(), region.height(), 0.0f);
    read_painting<2>(
        p, to_device, region,
        [](const Painting::Tile& t, int i) {
            const auto k = static_cast<std::size_t>(i);
            return std::array{t.height[k], t.hides ? t.hidden[k] : 0.0f};
        },
        [&](int x, int y, const std::array<float, 2>& v) { out[0](x, y) = v[0], out[1](x, y) = v[1]; });
    return out;
}

std::array<Plane, 4> ink_of(const Painting& p, const Affine& to_device, Region region) {
    std::array<Plane, 4> out;
    for (Plane& plane : out) plane = Plane(region.width(), region.height(), 0.0f);
    if (!p.inked()) return out;
    read_painting<4>(
        p, to_device, region,
        [](const Painting::Tile& t, int i) {
            std::array<float, 4> v{};
            for (std::size_t c = 0; c < 4 && !t.ink.empty(); ++c)
                v[c] = t.ink[c * Painting::Tile::size + static_cast<std::size_t>(i)];
            return v;
        },
        [&](int x, int y, const std::array<float, 4>& v) {
            for (std::size_t c = 0; c < 4; ++c) out[c](x, y) = v[c];
        });
    return out;
}

} // namespace bathylux
