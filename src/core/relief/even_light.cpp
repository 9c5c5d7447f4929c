#include "core/relief/even_light.h"

#include <numeric>

#include "core/field/fourier.h"
#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/relief/tones.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// Height whose slope towards the light is −signal (least squares, damped). The signal fades to nothing in a
/// margin around the picture, so that the transform's ends meet.
Plane integrate_along(const Plane& signal, double angle_degrees) {
    const int w = signal.width(), h = signal.height(), margin = std::max(16, std::min({w, h, 512}) / 4);
    Spectrum s(fast_size(w + 2 * margin), fast_size(h + 2 * margin));
    parallel_rows(0, s.height(), [&](int y) {
        float* to = s.row(y);
        const int v = y - margin, oy = v < 0 ? -v : v >= h ? v - h + 1 : 0;
        const float* from = signal.row(std::clamp(v, 0, h - 1));
        for (int x = 0; x < s.width(); ++x) {
            const int u = x - margin, ox = u < 0 ? -u : u >= w ? u - w + 1 : 0;
            const float fade =
                std::max(0.0f, 1 - static_cast<float>(std::hypot(ox, oy)) / static_cast<float>(margin));
            to[x] = fade * from[std::clamp(u, 0, w - 1)];
        }
    });
    const double a = angle_degrees * radians_per_degree, lx = std::cos(a), ly = -std::sin(a); // y down
    s.filter([&](double wx, double wy) {
        const double along = wx * lx + wy * ly, all = wx * wx + wy * wy;
        if (all <= 0) return std::complex<double>(0);
        // ∂h/∂l = −s, so i along H = −S; damping 0.02 of the whole frequency.
        return std::complex<double>(0, along / (along * along + 0.02 * all));
    });
    Plane out(w, h);
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) out(x, y) = s.row(y + margin)[x + margin];
    });
    return out;
}

/// Stretched so that all but a hundredth at either end lies in 0…1.
void stretch(Plane& p) {
    std::vector<float> sample;
    const int step = std::max(1, static_cast<int>(std::sqrt(double(p.width()) * p.height() / 1e5)));
    for (int y = step / 2; y < p.height(); y += step)
        for (int x = step / 2; x < p.width(); x += step) sample.push_back(p(x, y));
    if (sample.empty()) return;
    std::sort(sample.begin(), sample.end());
    const float low = sample[sample.size() / 100], high = sample[sample.size() - 1 - sample.size() / 100];
    const float k = high > low ? 1 / (high - low) : 0;
    parallel_rows(0, p.height(), [&](int y) {
        for (int x = 0; x < p.width(); ++x) p(x, y) = (p(x, y) - low) * k;
    });
}

} // namespace

float light_angle(const Plane& t) {
    struct Sums {
        double xx = 0, xy = 0, yy = 0;
    };
    std::vector<Sums> of_rows(t.height());
    parallel_rows(1, t.height() - 1, [&](int y) {
        Sums s;
        for (int x = 1; x + 1 < t.width(); ++x) {
            const double gx = t(x + 1, y) - t(x - 1, y), gy = t(x, y - 1) - t(x, y + 1); // y up
            s.xx += gx * gx, s.xy += gx * gy, s.yy += gy * gy;
        }
        of_rows[y] = s;
    });
    double xx = 0, xy = 0, yy = 0;
    for (const Sums& s : of_rows) xx += s.xx, xy += s.xy, yy += s.yy;
    double angle = 0.5 * std::atan2(2 * xy, xx - yy) / radians_per_degree;
    if (angle < 0) angle += 180; // from above
    return static_cast<float>(angle);
}

Bundle EvenLight::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const Region r = out.region;
    Plane tone = tone_plane(out, Channel::luma);
    const int w = r.width(), h = r.height();
    std::vector<double> of_rows(h);
    parallel_rows(0, h, [&](int y) { of_rows[y] = std::accumulate(tone.row(y), tone.row(y) + w, 0.0); });
    double mean = std::accumulate(of_rows.begin(), of_rows.end(), 0.0);
    mean = std::max(1e-4, mean / std::max(1.0, double(w) * h));
    if (amount > 0) {
        const double sigma = std::max(1.0, size * context.length / 2);
        const Plane light = gaussian(tone, r, r, sigma, context.canvas_edge);
        parallel_rows(0, h, [&](int y) {
            for (int x = 0; x < w; ++x) {
                const auto even = static_cast<float>(tone(x, y) / std::max(0.02f, light(x, y)) * mean);
                tone(x, y) += amount * (even - tone(x, y));
            }
        });
    }
    if (shading > 0) {
        // Very fine grain says nothing about the light.
        const Plane calm = gaussian(tone, r, r, std::max(0.6, context.length), context.canvas_edge);
        const float from = find_angle ? light_angle(calm) : angle;
        Plane signal(w, h);
        parallel_rows(0, h, [&](int y) {
            for (int x = 0; x < w; ++x) signal(x, y) = static_cast<float>(tone(x, y) / mean - 1);
        });
        Plane height = integrate_along(signal, from);
        // Waves wider than the light's size are the light's.
        const Plane slow =
            gaussian(height, r, r, std::max(2.0, size * context.length / 2), context.canvas_edge);
        parallel_rows(0, h, [&](int y) {
            for (int x = 0; x < w; ++x) height(x, y) -= slow(x, y);
        });
        stretch(height);
        parallel_rows(0, h, [&](int y) {
            for (int x = 0; x < w; ++x) tone(x, y) += shading * (height(x, y) - tone(x, y));
        });
    }
    out.tone = Field(std::move(tone));
    return out;
}

std::string EvenLight::says() const {
    std::string out = amount > 0 ? "slower than " + said(size) + " px" : "";
    if (shading > 0)
        out += (out.empty() ? "" : ", ") + std::string("slanting ") + said(100 * shading) + " %" +
               (find_angle ? "" : " from " + said(angle) + "°");
    return out.empty() ? "nothing" : out;
}

} // namespace bathylux
