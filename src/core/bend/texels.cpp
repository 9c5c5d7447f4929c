#include "core/bend/texels.h"

#include <algorithm>
#include <array>
#include <span>

#include "core/bend/texels_simd.h"
#include "core/field/parallel.h"
#include "core/field/side_by_side_simd.h"

namespace bathylux {

namespace {

/// Two rows of `width` px of four floats each, halved.
void halve_side_by_side(const float* a, const float* b, int width, float* to) {
    for (int x = 0; x < (width + 1) / 2; ++x) {
        const std::ptrdiff_t i = std::ptrdiff_t{8} * x,
                             j = std::ptrdiff_t{4} * std::min(2 * x + 1, width - 1);
        for (int c = 0; c < 4; ++c) *to++ = 0.25f * (a[i + c] + a[j + c] + b[i + c] + b[j + c]);
    }
}

Texels::Level halved(const Texels::Level& l) {
    Texels::Level out{(l.width + 1) / 2, (l.height + 1) / 2, {}};
    for (const Plane& from : l.groups) {
        Plane& px = out.groups.emplace_back(4 * out.width, out.height);
        parallel_rows(0, out.height, [&](int y) {
            halve_side_by_side(from.row(2 * y), from.row(std::min(2 * y + 1, l.height - 1)), l.width,
                               px.row(y));
        });
    }
    return out;
}

} // namespace

Texels::Texels(const std::vector<TexelField>& fields, Region have, Region region, Edge edge,
               const Survey& survey)
    : have_(have), region_(region), edge_(edge), alone_(fields.size() % 4 == 1 && !survey.scattered) {
    const Field nothing(0.0f);
    for (std::size_t i = 0; i < (fields.size() + 3) / 4 * 4; ++i) {
        rows_.emplace_back(i < fields.size() ? *fields[i].of : nothing, have.width());
        counted_by_.push_back(i < fields.size() ? fields[i].counted_by : -1);
    }
    levels_.push_back({region.width(), region.height(), {}});
    for (std::size_t g = 0; survey.scattered && g < groups(); ++g) {
        Plane& px = levels_[0].groups.emplace_back(4 * region.width(), region.height());
        parallel_rows(0, region.height(), [&](int y) { lay(g, y, 0, region.width(), px.row(y)); });
    }
    for (int i = 0; i < survey.halvings && (levels_.back().width > 1 || levels_.back().height > 1); ++i)
        levels_.push_back(levels_.back().groups.empty() ? first_halving() : halved(levels_.back()));
}

template <std::size_t fields> void Texels::lay(std::size_t group, int y, int x0, int x1, float* to) const {
    constexpr int n = static_cast<int>(fields);
    const int w = region_.width(), h = region_.height(), row = wrapped(y, h, edge_) + region_.y0 - have_.y0;
    if ((edge_ == Edge::none && (y < 0 || y >= h)) || row < 0 || row >= have_.height()) {
        std::fill_n(to, n * (x1 - x0), 0.0f);
        return;
    }
    std::array<const float*, fields> from{}, times{};
    for (std::size_t c = 0; c < fields; ++c) {
        from[c] = rows_[4 * group + c](row);
        const int by = counted_by_[4 * group + c];
        if (by >= 0) times[c] = rows_[static_cast<std::size_t>(by)](row);
    }
    const int shift = region_.x0 - have_.x0, first = std::max(0, -shift),
              end = std::min(w, have_.width() - shift);
    const int inner = std::clamp(first, x0, x1), outer = std::clamp(end, inner, x1);
    const auto value = [&](std::size_t c, int x) { return times[c] ? from[c][x] * times[c][x] : from[c][x]; };
    const auto singly = [&](int begin, int until) {
        for (int x = begin; x < until; ++x) {
            const int at = edge_ == Edge::none ? x : wrapped(x, w, edge_);
            const bool there = at >= first && at < end;
            for (std::size_t c = 0; c < fields; ++c)
                to[n * (x - x0) + static_cast<int>(c)] = there ? value(c, at + shift) : 0.0f;
        }
    };
    singly(x0, inner);
    singly(outer, x1);
    if (inner == outer) return;
    const int begin = inner + shift, count = outer - inner;
    float* const out = to + std::ptrdiff_t{n} * (inner - x0);
    for (std::size_t c = 0; c < fields; ++c) from[c] += begin, times[c] += times[c] ? begin : 0;
    if constexpr (fields == 4)
        lay_side_by_side(from, times, count, out);
    else if (times[0])
        lay_product(from[0], times[0], count, out);
    else
        std::copy_n(from[0], count, out);
}

void Texels::lay(std::size_t group, int y, int x0, int x1, float* to) const { lay<4>(group, y, x0, x1, to); }
void Texels::lay_alone(std::size_t group, int y, int x0, int x1, float* to) const {
    lay<1>(group, y, x0, x1, to);
}

Texels::Level Texels::first_halving() const {
    const int w = region_.width(), h = region_.height();
    Level out{(w + 1) / 2, (h + 1) / 2, {}};
    for (std::size_t g = 0; g < groups(); ++g) {
        Plane& px = out.groups.emplace_back(4 * out.width, out.height);
        parallel_blocks(0, out.height, 16, [&](int y0, int y1) {
            std::vector<float> upper(static_cast<std::size_t>(w) * 4), lower(upper.size());
            for (int y = y0; y < y1; ++y) {
                lay(g, 2 * y, 0, w, upper.data()), lay(g, std::min(2 * y + 1, h - 1), 0, w, lower.data());
                halve_side_by_side(upper.data(), lower.data(), w, px.row(y));
            }
        });
    }
    return out;
}

std::vector<Plane> read_at(const Texels& texels, const Looks& looks, const Survey& survey, int planes) {
    const std::size_t across =
        static_cast<std::size_t>((looks.region.width() + read_columns_at_once - 1) / read_columns_at_once);
    std::vector<Plane> out;
    out.reserve(static_cast<std::size_t>(planes));
    for (int i = 0; i < planes; ++i) out.emplace_back(looks.region.width(), looks.region.height());
    const bool empty = texels.region().empty() || texels.groups() == 0;
    parallel_blocks(0, looks.region.height(), read_rows_at_once, [&](int y0, int y1) {
        if (!empty)
            read_rows(texels, looks, y0, y1,
                      std::span(survey.blocks)
                          .subspan(across * static_cast<std::size_t>(y0 / read_rows_at_once), across),
                      out);
        else
            for (Plane& p : out)
                for (int y = y0; y < y1; ++y) std::fill_n(p.row(y), p.width(), 0.0f);
    });
    return out;
}

} // namespace bathylux
