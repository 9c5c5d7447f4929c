#include "files/section_svg.h"

#include <algorithm>
#include <cmath>
#include <sstream>

#include "core/step/step_kind.h"

namespace bathylux::files {

namespace {

double round_step(double range, int wanted) {
    const double rough = std::max(1e-6, range / wanted),
                 power = std::pow(10.0, std::floor(std::log10(rough)));
    for (double k : {1.0, 2.0, 5.0})
        if (rough <= k * power) return k * power;
    return 10 * power;
}

std::string escaped(const std::string& text) {
    std::string out;
    for (char c : text) out += c == '&' ? "&amp;" : c == '<' ? "&lt;" : c == '>' ? "&gt;" : std::string(1, c);
    return out;
}

} // namespace

std::string section_svg(const Profile1D& p, double px_per_mm, const std::string& title) {
    const double k = 1 / px_per_mm, length = p.length * k;
    const auto [low_it, high_it] = std::minmax_element(p.heights.begin(), p.heights.end());
    const double low = p.heights.empty() ? 0 : *low_it * k, high = p.heights.empty() ? 0 : *high_it * k;
    // Margins in mm that hold rulers and figures whatever the size of the piece.
    const double text = std::max(length / 60, 0.8), margin = 7 * text;
    const double width = length + 2 * margin, height = (high - low) + 2 * margin;
    const auto x = [&](double mm) { return margin + mm; };
    const auto y = [&](double mm) { return margin + high - mm; };
    std::ostringstream s;
    s.precision(6);
    s << "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"" << width << "mm\" height=\"" << height
      << "mm\" viewBox=\"0 0 " << width << ' ' << height << "\" font-family=\"sans-serif\" font-size=\""
      << text << "\">\n";
    s << "<title>" << escaped(title) << "</title>\n";
    const double line = text / 14;
    s << "<g fill=\"none\" stroke=\"#23282b\" stroke-width=\"" << line << "\">\n";
    s << "<path id=\"profile\" stroke=\"#1f7f74\" stroke-width=\"" << 1.6 * line << "\" d=\"";
    const auto n = p.heights.size();
    for (std::size_t i = 0; i < n; ++i)
        s << (i ? " L" : "M") << x(length * static_cast<double>(i) / static_cast<double>(n - 1)) << ' '
          << y(p.heights[i] * k);
    s << "\"/>\n";
    // Rulers along the foot and up the left side.
    const double foot = y(low) + 2 * text, side = margin - 2 * text;
    s << "<path d=\"M" << x(0) << ' ' << foot << " H" << x(length) << " M" << side << ' ' << y(low) << " V"
      << y(high) << "\"/>\n";
    std::ostringstream figures;
    figures.precision(6);
    const double along = round_step(length, 8), up = round_step(std::max(high - low, 1e-3), 4);
    for (double d = 0; d <= length + 1e-9; d += along) {
        s << "<path d=\"M" << x(d) << ' ' << foot << " v" << text / 2 << "\"/>\n";
        figures << "<text x=\"" << x(d) << "\" y=\"" << foot + 1.7 * text << "\" text-anchor=\"middle\">"
                << said(d) << "</text>\n";
    }
    for (double h = std::ceil(low / up) * up; h <= high + 1e-9; h += up) {
        s << "<path d=\"M" << side << ' ' << y(h) << " h" << -text / 2 << "\"/>\n";
        figures << "<text x=\"" << side - text << "\" y=\"" << y(h) + 0.35 * text << "\" text-anchor=\"end\">"
                << said(h) << "</text>\n";
    }
    if (p.steepest > 1) {
        const double at = p.steepest_at * k;
        const auto i = std::min(n - 1, static_cast<std::size_t>(p.steepest_at / std::max(p.length, 1e-9) *
                                                                static_cast<double>(n - 1)));
        s << "<circle id=\"steepest\" stroke=\"#b4402a\" cx=\"" << x(at) << "\" cy=\"" << y(p.heights[i] * k)
          << "\" r=\"" << text / 2 << "\"/>\n";
        figures << "<text fill=\"#b4402a\" x=\"" << x(at) << "\" y=\"" << y(high) - 1.2 * text
                << "\" text-anchor=\"middle\">" << std::lround(p.steepest) << "°</text>\n";
    }
    s << "</g>\n<g fill=\"#23282b\">\n" << figures.str();
    s << "<text id=\"length\" x=\"" << x(length / 2) << "\" y=\"" << foot + 3.6 * text
      << "\" text-anchor=\"middle\">" << said(length) << " mm (" << said(p.length) << " px)</text>\n";
    s << "<text id=\"rise\" x=\"" << x(length) + text << "\" y=\"" << (y(low) + y(high)) / 2 << "\">"
      << said(high - low) << " mm</text>\n";
    s << "<text x=\"" << x(0) << "\" y=\"" << margin - 3 * text << "\">" << escaped(title) << "</text>\n";
    s << "</g>\n</svg>\n";
    return s.str();
}

} // namespace bathylux::files
