#include "core/colour/blur.h"

#include <cmath>
#include <vector>

#include "core/colour/recolour.h"
#include "core/field/line_mean.h"

namespace bathylux {

namespace {

constexpr double unseen = 0.05; // σ in px, below which nothing changes

Plane evenly(const Plane& in, Region have, Region wanted, double sigma, Edge edge) {
    return sigma > unseen ? gaussian(in, have, wanted, sigma, edge) : extended(in, have, wanted, edge);
}

/// σ at every px of a region, where it grows across a box.
class Growing {
  public:
    Growing(double from, double to, double along, const Context& context)
        : from_(from), to_(to), to_box_(context.box_to_device.inverse()), middle_(context.box.centre()) {
        const double turn = along * radians_per_degree;
        direction_ = {std::cos(turn), -std::sin(turn)};
        length_ = std::max(1e-9, std::abs(direction_.x) * context.box.width() +
                                     std::abs(direction_.y) * context.box.height());
    }
    double operator()(Vec2 p) const {
        const double t = 0.5 + dot(to_box_(p) - middle_, direction_) / length_;
        return from_ + std::clamp(t, 0.0, 1.0) * (to_ - from_);
    }

  private:
    double from_, to_, length_;
    Affine to_box_;
    Vec2 middle_, direction_{};
};

/// The σ that a row of even blurs has: fine steps between the least and the most.
std::vector<double> levels_between(double least, double most) {
    std::vector<double> out;
    constexpr double ratio = 1.15;
    for (double s = std::max(least, 0.3); s < most; s *= ratio) out.push_back(s);
    if (least < 0.3) out.insert(out.begin(), 0.0);
    if (out.empty() || out.back() < most) out.push_back(most);
    return out;
}

/// Every px blurred by its own σ: between two even blurs, in σ².
Plane growing(const Plane& in, Region have, Region wanted, const Plane& sigma,
              const std::vector<double>& levels, Edge edge) {
    Plane out(wanted.width(), wanted.height()), lower = evenly(in, have, wanted, levels[0], edge);
    for (std::size_t k = 0; k + 1 < levels.size(); ++k) {
        Plane upper = evenly(in, have, wanted, levels[k + 1], edge);
        const auto a = static_cast<float>(levels[k]), b = static_cast<float>(levels[k + 1]);
        const bool first = k == 0, last = k + 2 == levels.size();
        parallel_rows(0, wanted.height(), [&](int y) {
            const float *s = sigma.row(y), *low = lower.row(y), *high = upper.row(y);
            float* to = out.row(y);
            for (int x = 0; x < wanted.width(); ++x) {
                if ((!first && s[x] < a) || (!last && s[x] >= b)) continue;
                const float t = std::clamp((s[x] * s[x] - a * a) / (b * b - a * a), 0.0f, 1.0f);
                to[x] = low[x] + t * (high[x] - low[x]);
            }
        });
        lower = std::move(upper);
    }
    return out;
}

} // namespace

Bundle Blur::apply(const Bundle& below, const Context& context) const {
    const double sigma = radius * context.length, line = length * context.length;
    const bool grows = radius_to >= 0 && radius_to != radius && context.box_to_device.invertible();
    if (!grows && !(sigma > unseen) && !(line > 0)) return cropped(below, context.region);
    const Region have = below.region, want = context.region;
    const Edge edge = context.canvas_edge;
    const double turn = angle * radians_per_degree;
    const Vec2 way{line * std::cos(turn), -line * std::sin(turn)};

    // Where a line is smeared too, the Gaussian comes first, over what the line will read.
    const Region between = line > 0 ? intersect(grow(want, line_reach(line)), have) : want;
    Plane sigmas;
    std::vector<double> levels;
    if (grows) {
        const Growing at(sigma, radius_to * context.length, along, context);
        sigmas = Plane(between.width(), between.height());
        // The same levels whatever part is asked for.
        const double to = radius_to * context.length, least = std::min(sigma, to), most = std::max(sigma, to);
        parallel_rows(0, between.height(), [&](int y) {
            for (int x = 0; x < between.width(); ++x)
                sigmas(x, y) = static_cast<float>(at({between.x0 + x + 0.5, between.y0 + y + 0.5}));
        });
        levels = levels_between(least, most);
    }
    Bundle out = to_recolour(below, want);
    const auto blurred = [&](const Field& f) -> Field {
        if (f.is_constant()) return f;
        Plane made = grows ? growing(f.plane(), have, between, sigmas, levels, edge)
                           : evenly(f.plane(), have, between, sigma, edge);
        return line > 0 ? Field(line_mean(made, between, want, way, edge)) : Field(std::move(made));
    };
    for (int c = 0; c < 3; ++c) out.color[c] = blurred(below.color[c]);
    out.coverage = blurred(below.coverage);
    out.silhouette.reset();
    if (!out.coverage.is_constant())
        out.coverage_hash =
            (Hash() << "blurred" << below.coverage_hash << radius << angle << length << radius_to << along
                    << context.length << want.x0 << want.y0 << want.x1 << want.y1)
                .value();
    return out;
}

std::string Blur::says() const {
    std::string out = said(radius) + " px";
    if (radius_to >= 0) out += ", growing to " + said(radius_to) + " px";
    if (length > 0) out += ", along " + said(length) + " px at " + said(angle) + "°";
    return out;
}

} // namespace bathylux
