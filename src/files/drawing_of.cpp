#include <charconv>
#include <cmath>

#include "files/svg.h"

namespace bathylux::files {

namespace {

std::string svg_figure(double v) {
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, static_cast<float>(v)).ptr;
    return {text, end};
}
std::string svg_point(Vec2 p) { return svg_figure(p.x) + " " + svg_figure(p.y); }

/// An elliptical arc as cubics of at most a quarter turn each (within 3e-4 of its radius).
std::string svg_arc(const Curve& c) {
    const int parts =
        std::max(1, static_cast<int>(std::ceil(std::abs(c.t1 - c.t0) / (std::numbers::pi / 2) - 1e-9)));
    const double step = (c.t1 - c.t0) / parts, k = 4.0 / 3 * std::tan(step / 4);
    std::string out;
    for (int i = 0; i < parts; ++i) {
        const double a = c.t0 + i * step, b = a + step;
        const Vec2 p = c.at(a), q = c.at(b);
        out += "C" + svg_point(p + k * c.first_derivative(a)) + " " +
               svg_point(q - k * c.first_derivative(b)) + " " + svg_point(q);
    }
    return out;
}

} // namespace

std::vector<std::byte> drawing_of(const Asset& asset) {
    // Whole px, as readers of drawings take them; about the same middle.
    const double w = std::ceil(std::max(1.0, asset.width)), h = std::ceil(std::max(1.0, asset.height));
    std::string out = "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"" + svg_figure(w) + "\" height=\"" +
                      svg_figure(h) + "\" viewBox=\"" + svg_figure(-w / 2) + " " + svg_figure(-h / 2) + " " +
                      svg_figure(w) + " " + svg_figure(h) + "\">\n";
    for (const Layer& layer : asset.layers) {
        out += "<path fill=\"" + to_string(layer.color).substr(0, 7) + "\"";
        if (layer.outline.rule == FillRule::evenodd) out += " fill-rule=\"evenodd\"";
        out += " d=\"";
        for (const auto& contour : layer.outline.contours) {
            if (contour.empty()) continue;
            const Curve& first = contour.front();
            out += "M" + svg_point(first.kind == Curve::Kind::arc ? first.at(first.t0) : first.p[0]);
            for (const Curve& c : contour) switch (c.kind) {
                case Curve::Kind::line: out += "L" + svg_point(c.p[1]); break;
                case Curve::Kind::quadratic: out += "Q" + svg_point(c.p[1]) + " " + svg_point(c.p[2]); break;
                case Curve::Kind::cubic:
                    out += "C" + svg_point(c.p[1]) + " " + svg_point(c.p[2]) + " " + svg_point(c.p[3]);
                    break;
                case Curve::Kind::arc: out += svg_arc(c); break;
                }
            out += "Z";
        }
        out += "\"/>\n";
    }
    out += "</svg>\n";
    const auto* bytes = reinterpret_cast<const std::byte*>(out.data());
    return {bytes, bytes + out.size()};
}

} // namespace bathylux::files
