#include "core/make/sprites.h"

#include <cstring>
#include <numeric>

#include "core/error.h"
#include "core/make/picture_source.h"

namespace bathylux {

namespace {

constexpr int reach = 2; // px from one to the next that still make one island: a gap of one px

bool is_there(const Picture& p, int x, int y) { return !p.has_alpha() || p.stored(x, y, p.channels - 1) > 0; }

std::vector<Region> islands(const Picture& p) {
    // Union-find over px (Tarjan 1975), each joined with what was met before it within reach.
    const int w = p.width, h = p.height;
    std::vector<int> parent(static_cast<std::size_t>(w) * h, -1);
    const auto root = [&](int i) {
        while (parent[i] != i) i = parent[i] = parent[parent[i]];
        return i;
    };
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            if (!is_there(p, x, y)) continue;
            const int i = y * w + x;
            parent[i] = i;
            for (int dy = -reach; dy <= 0; ++dy)
                for (int dx = -reach; dx <= (dy < 0 ? reach : -1); ++dx) {
                    const int u = x + dx, v = y + dy;
                    if (u >= 0 && v >= 0 && u < w && parent[v * w + u] >= 0)
                        parent[root(v * w + u)] = root(i);
                }
        }
    std::vector<Region> boxes(parent.size());
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x)
            if (parent[y * w + x] >= 0) {
                Region& b = boxes[root(y * w + x)];
                b = b.empty() ? Region{x, y, x + 1, y + 1}
                              : Region{std::min(b.x0, x), std::min(b.y0, y), std::max(b.x1, x + 1),
                                       std::max(b.y1, y + 1)};
            }
    std::erase_if(boxes, [](const Region& b) { return b.empty(); });
    // Reading order: rows are islands whose heights overlap by half.
    std::sort(boxes.begin(), boxes.end(), [](const Region& a, const Region& b) { return a.y0 < b.y0; });
    std::vector<Region> out;
    while (!boxes.empty()) {
        const Region first = boxes.front();
        std::vector<Region> row;
        std::erase_if(boxes, [&](const Region& b) {
            const int shared = std::min(b.y1, first.y1) - std::max(b.y0, first.y0);
            if (2 * shared < std::min(b.height(), first.height())) return false;
            row.push_back(b);
            return true;
        });
        std::sort(row.begin(), row.end(), [](const Region& a, const Region& b) { return a.x0 < b.x0; });
        out.insert(out.end(), row.begin(), row.end());
    }
    return out;
}

} // namespace

std::vector<Region> sprite_frames(const Picture& p, const SpritesSource& s) {
    if (s.cut == SheetCut::islands) {
        auto out = islands(p);
        if (out.empty()) throw Error("the sheet is transparent all over: it has no islands to cut out.");
        return out;
    }
    const int columns = std::max(1, static_cast<int>(s.columns)),
              rows = std::max(1, static_cast<int>(s.rows)), margin = static_cast<int>(s.margin),
              spacing = static_cast<int>(s.spacing);
    const int w = (p.width - 2 * margin - (columns - 1) * spacing) / columns,
              h = (p.height - 2 * margin - (rows - 1) * spacing) / rows;
    if (w < 1 || h < 1)
        throw Error("a sheet of " + std::to_string(p.width) + " × " + std::to_string(p.height) +
                    " px has no room for " + std::to_string(columns) + " × " + std::to_string(rows) +
                    " frames: set fewer columns and rows.");
    std::vector<Region> out;
    for (int j = 0; j < rows; ++j)
        for (int i = 0; i < columns; ++i) {
            const int x = margin + i * (w + spacing), y = margin + j * (h + spacing);
            out.push_back({x, y, x + w, y + h});
        }
    return out;
}

Picture part_of(const Picture& p, Region r) {
    Picture out;
    out.width = r.width(), out.height = r.height(), out.channels = p.channels, out.format = p.format;
    const std::size_t pixel = static_cast<std::size_t>(p.channels) * p.bits() / 8;
    const auto copy = [&](const std::vector<std::byte>& from, std::vector<std::byte>& to) {
        if (from.empty()) return;
        to.resize(pixel * out.width * out.height);
        for (int y = 0; y < out.height; ++y)
            std::memcpy(&to[pixel * out.width * y],
                        &from[pixel * (static_cast<std::size_t>(r.y0 + y) * p.width + r.x0)],
                        pixel * out.width);
    };
    copy(p.samples, out.samples);
    copy(p.color_samples, out.color_samples);
    out.seal();
    return out;
}

std::pair<int, int> guessed_grid(const Picture& p) {
    if (!p.has_alpha()) return {1, 1};
    std::vector<int> across(p.width, 0), down(p.height, 0); // opaque px of every column and row
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x)
            if (is_there(p, x, y)) ++across[x], ++down[y];
    // The finest division whose lines all lie in the clear, with something in most cells' columns and rows.
    const auto divisions = [](const std::vector<int>& filled) {
        const int n = static_cast<int>(filled.size());
        int best = 1;
        for (int k = 2; k <= std::min(64, n / 8); ++k) {
            if (n % k) continue;
            bool clear = true;
            int full = 0;
            for (int i = 0; i < k; ++i) {
                if (i > 0) clear = clear && (filled[i * n / k] == 0 || filled[i * n / k - 1] == 0);
                full += std::accumulate(filled.begin() + i * n / k, filled.begin() + (i + 1) * n / k, 0) > 0;
            }
            if (clear && full == k) best = k;
        }
        return best;
    };
    return {divisions(across), divisions(down)};
}

Bundle SpritesSource::give(const SourceContext& context) const {
    const Asset* shown =
        context.asset ? context.asset->frame(context.frame + static_cast<int>(frame)) : nullptr;
    return shown ? picture_bundle(context, *shown) : Bundle{context.region};
}

} // namespace bathylux
