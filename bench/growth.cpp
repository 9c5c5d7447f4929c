// How the cost of light grows with lights, pixels and cores: one table in Markdown, made in one run.
#include <tbb/global_control.h>

#include <chrono>
#include <cmath>
#include <iomanip>
#include <sstream>

#include "cases.h"
#include "core/light/lights.h"
#include "core/render/lighting.h"

namespace bathylux {

namespace {

using Clock = std::chrono::steady_clock;

double least_of(int rounds, const std::function<void()>& run) {
    double best = 1e12;
    for (int i = 0; i < rounds; ++i) {
        const auto start = Clock::now();
        run();
        best = std::min(best, std::chrono::duration<double, std::milli>(Clock::now() - start).count());
    }
    return best;
}

Bundle relief_of(int w, int h) {
    Plane height(w, h);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x)
            height(x, y) =
                10 + 6 * std::sin(0.031f * static_cast<float>(x)) * std::cos(0.023f * static_cast<float>(y)) +
                2 * std::sin(0.21f * static_cast<float>(x + y));
    Bundle b;
    b.region = {0, 0, w, h};
    b.color = {0.6f, 0.5f, 0.4f};
    b.coverage = 1.0f;
    b.height = Field(std::move(height));
    b.roughness = 0.4f, b.metallic = 0.5f;
    return b;
}

Lighting lamps(int count, int w, int h, bool shadow) {
    Piece p;
    for (int i = 0; i < count; ++i) {
        PointLight l;
        l.x = static_cast<float>(w) * (0.5f + 0.3f * std::cos(static_cast<float>(i) * 2.4f));
        l.y = static_cast<float>(h) * (0.5f + 0.3f * std::sin(static_cast<float>(i) * 2.4f));
        l.z = 0.2f * static_cast<float>(w), l.distance = 0.3f * static_cast<float>(w);
        l.shadow = shadow, l.size = shadow ? 0.015f * static_cast<float>(w) : 0;
        p.lights.push_back(Light{"l" + std::to_string(i), "", true, Described(light_kind("point"), l), {}});
    }
    return lighting_of(p);
}

Lighting sun() {
    Piece p;
    DirectionalLight d;
    d.elevation = 30, d.shadow = true, d.size = 2;
    p.lights = {Light{"sun", "", true, Described(light_kind("directional"), d), {}}};
    return lighting_of(p);
}

} // namespace

std::string growth_table() {
    std::ostringstream out;
    out << std::fixed << std::setprecision(1);
    const auto shaded = [](const Bundle& b, const Lighting& l) {
        return [&b, l] { shade(b, b.region, 1, Edge::clamp, l); };
    };
    const Bundle full = relief_of(1920, 1080);
    const double g = least_of(9, yardstick());
    const auto row = [&](const std::string& name, double ms) {
        out << "| " << name << " | " << ms << " | " << ms / g << " |\n";
    };
    out << "Yardstick G: " << g << " ms.\n\n| 1920 × 1080 | ms | G |\n|---|---|---|\n";
    for (const int n : {1, 2, 4, 8, 16})
        row(std::to_string(n) + " lamps", least_of(5, shaded(full, lamps(n, 1920, 1080, false))));
    for (const int n : {1, 2, 4, 8, 16})
        row(std::to_string(n) + " lamps, soft shadows",
            least_of(n > 4 ? 1 : 2, shaded(full, lamps(n, 1920, 1080, true))));
    for (const int cores : {1, 2}) {
        const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, cores);
        const std::string on = cores == 1 ? ", one core" : ", two cores";
        row("4 lamps" + on, least_of(3, shaded(full, lamps(4, 1920, 1080, false))));
        row("far light of 2°, soft shadow" + on, least_of(3, shaded(full, sun())));
        row("lamp, soft shadow" + on, least_of(2, shaded(full, lamps(1, 1920, 1080, true))));
    }
    out << "\n| megapixels | 4 lamps, ms | ns a px | far light with soft shadow, ms | ns a px "
           "|\n|---|---|---|---|---|\n";
    for (const int side : {1024, 2048, 4096, 8192}) {
        const Bundle b = relief_of(side, side);
        const double px = static_cast<double>(side) * side;
        const int rounds = side > 2048 ? 1 : 3;
        const double four = least_of(rounds, shaded(b, lamps(4, side, side, false))),
                     far = least_of(rounds, shaded(b, sun()));
        out << "| " << side * side / (1024 * 1024) << " | " << four << " | " << four * 1e6 / px << " | "
            << far << " | " << far * 1e6 / px << " |\n";
    }
    return out.str();
}

} // namespace bathylux
