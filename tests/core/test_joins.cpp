#include <QtTest>
#include <numbers>
#include <random>

#include "core/field/srgb.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace joining {

constexpr int across = 24, down = 18;

/// One px of what elements give, in double: colour linear and premultiplied.
struct Px {
    double color[3]{}, a = 0, height = 0, weight = 0;
    double rough = 0.5, metal = 0, surface = 0;
    bool gives_height = false;
};

/// What one reads of another: its alpha or its red as stored, in a window, swapped or not.
struct MapTo {
    int of = -1; // which of the readable ones; -1: none
    bool red = false, sink = false;
    double low = 0, top = 1;
};

/// A rectangle on whole px, or a group, and how it joins.
struct Member {
    int id = 0, x = 0, y = 0, w = 4, h = 4; // a rectangle's left top corner and size; a group's place
    int color[3]{};                         // 0…255
    bool raised = false, shiny = false;
    int rise = 0;
    double rough = 0.5, metal = 0;
    std::vector<Member> inside; // not empty: a group
    int blend = 0, how = 0;     // of colour, of height
    double opacity = 1;
    bool visible = true, linear = false, clip = false;
    MapTo mask, map, lift; // the latter limit a step that inverts the colour, and one that raises
    double share = 1, lifted = 1;
    bool inverted = false;
};

const std::array<const char*, 6> hows{"add", "subtract", "higher", "lower", "replace", "carve"};
const std::array<const char*, 12> blends{"normal",     "multiply",   "screen",      "overlay",
                                         "darken",     "lighten",    "color-dodge", "color-burn",
                                         "hard-light", "soft-light", "difference",  "exclusion"};

std::string hex(const int* c) {
    return QString("#%1%2%3")
        .arg(c[0], 2, 16, QChar('0'))
        .arg(c[1], 2, 16, QChar('0'))
        .arg(c[2], 2, 16, QChar('0'))
        .toStdString();
}

std::string json_of(const MapTo& m) {
    return QString(R"({"element": "m%1", "of": "%2", "low": %3, "high": %4, "sink": %5})")
        .arg(m.of)
        .arg(m.red ? "red" : "alpha")
        .arg(m.low)
        .arg(m.top)
        .arg(m.sink ? "true" : "false")
        .toStdString();
}

std::string json_of(const std::vector<Member>& list);

std::string json_of(const Member& n) {
    QString mix =
        QString(R"("blend": "%1", "height": "%2", "opacity": %3, "visible": %4, "linear": %5, "clip": %6)")
            .arg(blends[n.blend], hows[n.how])
            .arg(n.opacity)
            .arg(n.visible ? "true" : "false", n.linear ? "true" : "false", n.clip ? "true" : "false");
    if (n.mask.of >= 0) mix += QString(R"(, "mask": %1)").arg(QString::fromStdString(json_of(n.mask)));
    QStringList steps;
    if (n.inverted)
        steps << QString(R"({"kind": "invert", "share": %1%2})")
                     .arg(n.share)
                     .arg(n.map.of >= 0 ? R"(, "map": )" + QString::fromStdString(json_of(n.map))
                                        : QString());
    if (n.raised)
        steps << QString(R"({"kind": "raise", "amount": %1, "share": %2%3})")
                     .arg(n.rise)
                     .arg(n.lifted)
                     .arg(n.lift.of >= 0 ? R"(, "map": )" + QString::fromStdString(json_of(n.lift))
                                         : QString());
    const QString surface =
        n.shiny ? QString(R"("surface": {"roughness": %1, "metallic": %2},)").arg(n.rough).arg(n.metal)
                : QString();
    const bool group = !n.inside.empty();
    const QString place = group ? QString(R"({"x": %1, "y": %2})").arg(across / 2 + n.x).arg(down / 2 + n.y)
                                : QString(R"({"x": %1, "y": %2})").arg(n.x + n.w / 2.0).arg(n.y + n.h / 2.0);
    const QString source =
        group ? QString(R"("source": {"kind": "group"}, "elements": [%1],)")
                    .arg(QString::fromStdString(json_of(n.inside)))
              : QString(R"("source": {"kind": "rectangle", "width": %1, "height": %2, "color": "%3"},)")
                    .arg(n.w)
                    .arg(n.h)
                    .arg(QString::fromStdString(hex(n.color)));
    return QString(R"({"id": "e%1", %2 %3 "placement": %4, "mix": {%5}, "steps": [%6]})")
        .arg(n.id)
        .arg(source, surface, place, mix, steps.join(", "))
        .toStdString();
}

std::string json_of(const std::vector<Member>& list) {
    std::string out;
    for (const Member& n : list) out += (out.empty() ? "" : ",\n") + json_of(n);
    return out;
}

/// A px's centre on the canvas, and in the group that is looked at.
struct Place {
    double x, y, within_x, within_y;
    bool stands = false; // a group about it gives height
    Place in(const Member& group) const {
        return {x, y, within_x - group.x, within_y - group.y, stands || group.raised};
    }
};

/// The reference: every px by itself, formulas as docs/format.md and the standards write them.
class Reference {
  public:
    explicit Reference(const std::vector<Member>& maps) : maps_(maps) {}

    Px joined(Px below, const std::vector<Member>& list, const Place& at) const {
        for (std::size_t i = 0; i < list.size(); ++i) {
            if (!list[i].visible) continue;
            Px own = masked(list[i], at);
            double within = 1;
            if (list[i].clip) {
                std::size_t base = i;
                while (base > 0 && list[base].clip) --base;
                if (!list[base].clip) {
                    if (!list[base].visible) continue;
                    scale(own, within = masked(list[base], at).a);
                }
            }
            Member how = list[i];
            if (at.stands && !own.gives_height)
                own.gives_height = true, own.height = 0, own.weight = own.a, how.how = 0;
            below = over(below, own, how, within);
        }
        return below;
    }

  private:
    static double encode(double v) {
        return v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
    }
    static double decode(double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); }
    static void scale(Px& p, double m) {
        for (double& c : p.color) c *= m;
        p.a *= m, p.weight *= m, p.surface *= m;
    }
    static bool within(const Member& n, double x, double y) {
        return x >= n.x && x < n.x + n.w && y >= n.y && y < n.y + n.h;
    }
    double read(const MapTo& m, double x, double y) const {
        const Member& n = maps_[static_cast<std::size_t>(m.of)];
        // Where there is nothing, nothing is read, before it is swapped.
        double v = !within(n, x, y) ? 0 : m.red ? n.color[0] / 255.0 : 1;
        if (within(n, x, y)) v = std::clamp((v - m.low) / (m.top - m.low), 0.0, 1.0);
        return m.sink ? 1 - v : v;
    }
    Px own(const Member& n, const Place& at) const {
        Px p;
        if (!n.inside.empty()) {
            p = joined({}, n.inside, at.in(n));
        } else if (within(n, at.within_x, at.within_y)) {
            p.a = 1;
            for (int c = 0; c < 3; ++c) p.color[c] = decode(n.color[c] / 255.0);
        }
        if (n.inverted) {
            const double amount = n.share * (n.map.of >= 0 ? read(n.map, at.x, at.y) : 1);
            for (double& c : p.color)
                if (p.a > 0) c += amount * (p.a * decode(1 - encode(c / p.a)) - c);
        }
        if (n.raised) {
            if (!p.gives_height) p.weight = p.a;
            p.gives_height = true;
            p.height += n.lifted * (n.lift.of >= 0 ? read(n.lift, at.x, at.y) : 1) * n.rise;
        }
        if (n.shiny) p.rough = n.rough, p.metal = n.metal, p.surface = p.a;
        return p;
    }
    Px masked(const Member& n, const Place& at) const {
        Px p = own(n, at);
        if (n.mask.of >= 0) scale(p, read(n.mask, at.x, at.y));
        return p;
    }
    static double blended(int mode, double b, double s) {
        const auto multiply = [](double x, double y) { return x * y; };
        const auto screen = [](double x, double y) { return x + y - x * y; };
        const auto hard = [&](double x, double y) {
            return y <= 0.5 ? multiply(x, 2 * y) : screen(x, 2 * y - 1);
        };
        switch (mode) {
        case 1: return multiply(b, s);
        case 2: return screen(b, s);
        case 3: return hard(s, b);
        case 4: return std::min(b, s);
        case 5: return std::max(b, s);
        case 6: return b == 0 ? 0 : s == 1 ? 1 : std::min(1.0, b / (1 - s));
        case 7: return b == 1 ? 1 : s == 0 ? 0 : 1 - std::min(1.0, (1 - b) / s);
        case 8: return hard(b, s);
        case 9: {
            const double d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : std::sqrt(b);
            return s <= 0.5 ? b - (1 - 2 * s) * b * (1 - b) : b + (2 * s - 1) * (d - b);
        }
        case 10: return std::abs(b - s);
        case 11: return b + s - 2 * b * s;
        default: return s;
        }
    }
    static double combined(int how, double b, double s) {
        switch (how) {
        case 0: return b + s;
        case 1: return b - s;
        case 2: return std::max(b, s);
        case 3: return std::min(b, s);
        case 4: return s;
        default: return std::min(b, -s);
        }
    }
    /// Counted in the share of the px that is clipped to, or in what is there, where that is more.
    static Px over(Px b, const Px& s, const Member& n, double within) {
        const double m = s.a > 0 ? std::max(within, b.a) : 1;
        const double as = s.a * n.opacity / m, ab = b.a / m, ao = as + ab - as * ab;
        for (int c = 0; c < 3; ++c) {
            if (as <= 0) break;
            double cs = s.color[c] / s.a, cb = ab > 0 ? b.color[c] / b.a : 0;
            if (!n.linear) cs = encode(cs), cb = encode(cb);
            const double mixed =
                ((1 - ab) * as * cs + ab * as * blended(n.blend, cb, cs) + (1 - as) * ab * cb) / ao;
            b.color[c] = m * ao * (n.linear ? mixed : decode(mixed));
        }
        b.a = m * ao;
        if (s.gives_height && s.weight > 0) {
            const double k = std::max(within, b.weight), w = s.weight / k, wb = b.weight / k,
                         total = w + wb - w * wb;
            if (total > 0)
                b.height = (w * (wb * combined(n.how, b.height, s.height) +
                                 (1 - wb) * combined(n.how, 0, s.height)) +
                            (1 - w) * wb * b.height) /
                           total;
            b.weight = k * total, b.gives_height = true;
        }
        if (s.surface > 0) {
            const double k = std::max(within, b.surface), w = s.surface / k, wb = b.surface / k,
                         total = w + wb - w * wb;
            b.rough += w / total * (s.rough - b.rough), b.metal += w / total * (s.metal - b.metal);
            b.surface = k * total;
        }
        return b;
    }
    const std::vector<Member>& maps_;
};

class Draw {
  public:
    explicit Draw(unsigned seed) : random_(seed) {}
    int upto(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }
    bool one_in(int n) { return upto(n) == 0; }

    std::vector<Member> list(int most, int deep) {
        std::vector<Member> out(static_cast<std::size_t>(1 + upto(most)));
        for (Member& n : out) n = node(deep);
        return out;
    }
    Member node(int deep) {
        Member n;
        n.id = ++ids_;
        n.w = 2 + upto(14), n.h = 2 + upto(12), n.x = upto(across) - 5, n.y = upto(down) - 4;
        for (int& c : n.color) c = upto(256);
        n.raised = !one_in(3), n.rise = upto(19) - 9;
        n.shiny = one_in(2), n.rough = 0.1 * upto(11), n.metal = 0.25 * upto(5);
        if (deep > 0 && one_in(2)) n.inside = list(4, deep - 1), n.x = upto(9) - 4, n.y = upto(9) - 4;
        n.blend = one_in(2) ? 0 : upto(12), n.how = upto(6);
        n.opacity = one_in(2) ? 1 : 0.25 * upto(5);
        n.visible = !one_in(8), n.linear = one_in(3), n.clip = one_in(3);
        if (one_in(3)) n.mask = map();
        n.inverted = one_in(4);
        if (n.inverted && one_in(2)) n.map = map();
        if (one_in(4)) n.lift = map();
        n.share = one_in(2) ? 1 : 0.5, n.lifted = one_in(2) ? 1 : 0.25;
        return n;
    }
    MapTo map() { return {upto(2), one_in(2), one_in(3), 0.125 * upto(3), 1 - 0.125 * upto(3)}; }

  private:
    std::mt19937 random_;
    int ids_ = 0;
};

/// A light without size or shadow, as the glTF extension for punctual lights has it.
struct PlainLamp {
    int kind = 0; // 0 far away, 1 a point, 2 a spot
    double angle = 0, elevation = 45, x = 0, y = 0, z = 10, target_x = 0, target_y = 0, inner = 15,
           outer = 35;
    double intensity = 1, distance = 20;
    int color[3]{}, falloff = 2; // none, linear, square

    std::string json(int i) const {
        const char* kinds[] = {"directional", "point", "spot"};
        const char* falls[] = {"none", "linear", "square"};
        QString out = QString(R"({"id": "l%1", "kind": "%2", "intensity": %3, "color": "%4")")
                          .arg(i)
                          .arg(kinds[kind])
                          .arg(intensity)
                          .arg(QString::fromStdString(hex(color)));
        if (kind == 0)
            return (out + QString(R"(, "angle": %1, "elevation": %2})").arg(angle).arg(elevation))
                .toStdString();
        out += QString(R"(, "x": %1, "y": %2, "z": %3, "distance": %4, "falloff": "%5")")
                   .arg(x)
                   .arg(y)
                   .arg(z)
                   .arg(distance)
                   .arg(falls[falloff]);
        if (kind == 2)
            out += QString(R"(, "target_x": %1, "target_y": %2, "inner_cone": %3, "outer_cone": %4)")
                       .arg(target_x)
                       .arg(target_y)
                       .arg(inner)
                       .arg(outer);
        return (out + "}").toStdString();
    }
};

using Three = std::array<double, 3>;
double times(const Three& a, const Three& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
Three one_long(Three a) {
    const double n = std::sqrt(times(a, a));
    for (double& v : a) v /= n;
    return a;
}

/// What a level px sends straight up: glTF 2.0, appendix B, y up.
void add_light(const PlainLamp& lamp, const Px& px, double x, double y, const double* base, double* sum) {
    constexpr double degree = std::numbers::pi / 180;
    Three l;
    double reach = 1;
    if (lamp.kind == 0)
        l = {std::cos(lamp.angle * degree) * std::cos(lamp.elevation * degree),
             std::sin(lamp.angle * degree) * std::cos(lamp.elevation * degree),
             std::sin(lamp.elevation * degree)};
    else {
        const Three to{lamp.x - x, y - lamp.y, lamp.z - px.height};
        const double d = std::sqrt(times(to, to));
        l = one_long(to);
        reach = lamp.falloff == 0   ? 1
                : lamp.falloff == 1 ? lamp.distance / d
                                    : lamp.distance * lamp.distance / (d * d);
    }
    if (lamp.kind == 2) {
        const Three axis = one_long({lamp.x - lamp.target_x, lamp.target_y - lamp.y, lamp.z});
        const double inner = std::cos(lamp.inner * degree), outer = std::cos(lamp.outer * degree);
        const double share = std::clamp((times(axis, l) - outer) / (inner - outer), 0.0, 1.0);
        reach *= share * share;
    }
    const double nl = l[2];
    if (nl <= 0) return;
    const Three h = one_long({l[0], l[1], l[2] + 1});
    const double a = px.rough * px.rough, a2 = a * a, nh = h[2], vh = h[2];
    const double f = nh * nh * (a2 - 1) + 1, D = a2 / (std::numbers::pi * f * f);
    const double V = 0.5 / (nl * std::sqrt(a2 + (1 - a2)) + std::sqrt(nl * nl * (1 - a2) + a2));
    for (int c = 0; c < 3; ++c) {
        const double f0 = 0.04 + (base[c] - 0.04) * px.metal, F = f0 + (1 - f0) * std::pow(1 - vh, 5);
        const double sent = (1 - F) * (1 - px.metal) * base[c] / std::numbers::pi + F * D * V;
        const double color = lamp.color[c] / 255.0,
                     linear = color <= 0.04045 ? color / 12.92 : std::pow((color + 0.055) / 1.055, 2.4);
        sum[c] += std::numbers::pi * lamp.intensity * linear * reach * sent * nl;
    }
}

} // namespace joining

using namespace joining;

/// Whole trees of elements joined — groups, masks, clips, modes, maps of steps — against a reference that
/// knows nothing of tiles, bundles or floats.
class TestJoins : public QObject {
    Q_OBJECT
  private slots:
    void trees_join_as_the_formulas_say() {
        const int seeds = qEnvironmentVariableIsSet("BATHYLUX_PIECES")
                              ? qEnvironmentVariableIntValue("BATHYLUX_PIECES")
                              : 500;
        const int first = qEnvironmentVariableIntValue("BATHYLUX_SEED");
        int heights = 0, half = 0; // px that are not level; px that are half there
        for (int seed = first; seed < first + seeds; ++seed) {
            Draw draw(static_cast<unsigned>(seed));
            std::vector<Member> maps{draw.node(0), draw.node(0)};
            std::vector<Member> list = draw.list(6, 2);
            std::string elements;
            for (int i = 0; i < 2; ++i) {
                Member& m = maps[static_cast<std::size_t>(i)];
                m.visible = true, m.shiny = m.raised = m.inverted = false, m.mask = {}, m.w += 8;
                std::string one = json_of(m);
                one.replace(one.find("\"e"), 2 + std::to_string(m.id).size(), "\"m" + std::to_string(i));
                one.replace(one.find("\"visible\": true"), 15, "\"visible\": false");
                elements += one + ",\n";
            }
            elements += json_of(list);
            for (Member& m : maps) m.visible = false;
            list.insert(list.begin(), maps.begin(), maps.end());
            const std::string json = piece_json(across, down, elements);
            const Bundle seen = relief_of(scene_of(json));
            const Reference reference(maps);
            Px ground;
            ground.a = ground.weight = ground.surface = 1, ground.gives_height = true;
            const Color background = scene_of(json).piece->canvas.background;
            ground.color[0] = background.r * background.a, ground.color[1] = background.g * background.a,
            ground.color[2] = background.b * background.a;
            ground.a = background.a;
            for (int y = 0; y < down; ++y)
                for (int x = 0; x < across; ++x) {
                    const Px want = reference.joined(ground, list, {x + 0.5, y + 0.5, x + 0.5, y + 0.5});
                    const auto close = [&](double got, double wanted, double within, const char* what) {
                        if (std::abs(got - wanted) <= within) return true;
                        return QTest::qVerify(false, what,
                                              qPrintable(QString("seed %1 at %2, %3: %4 instead of %5\n%6")
                                                             .arg(seed)
                                                             .arg(x)
                                                             .arg(y)
                                                             .arg(got)
                                                             .arg(wanted)
                                                             .arg(QString::fromStdString(json))),
                                              __FILE__, __LINE__);
                    };
                    const auto at = [&](const Field& f) {
                        return double(f.is_constant() ? f.constant() : f.plane()(x, y));
                    };
                    for (int c = 0; c < 3; ++c)
                        if (!close(at(seen.color[c]), want.color[c], 2e-4, "colour")) return;
                    if (!close(at(seen.coverage), want.a, 1e-5, "coverage")) return;
                    if (!close(at(seen.height), want.height, 1e-4, "height")) return;
                    if (!close(at(seen.roughness), want.rough, 1e-5, "roughness")) return;
                    if (!close(at(seen.metallic), want.metal, 1e-5, "metallic")) return;
                    heights += want.height != 0, half += want.a > 0.01 && want.a < 0.99;
                }
        }
        QVERIFY(heights > seeds * 40 && half > seeds * 4); // it is about something
    }

    /// What all of it sends up under lamps, wherever it is level: joined first, then lit, whatever lies in
    /// groups.
    void trees_are_lit_as_the_formulas_say() {
        int lit = 0;
        for (unsigned seed = 0; seed < 150; ++seed) {
            Draw draw(seed + 7000);
            std::vector<Member> list = draw.list(5, 2);
            const std::function<void(std::vector<Member>&)> plain = [&](std::vector<Member>& members) {
                for (Member& m : members) {
                    m.mask = m.map = m.lift = {}, m.rough = 0.2 + 0.8 * m.rough;
                    plain(m.inside);
                }
            };
            plain(list);
            std::vector<PlainLamp> lamps(static_cast<std::size_t>(1 + draw.upto(3)));
            std::string lights;
            for (int i = 0; PlainLamp & l : lamps) {
                l.kind = draw.upto(3), l.falloff = draw.upto(3), l.angle = draw.upto(360),
                l.elevation = 15 + draw.upto(75);
                l.x = draw.upto(across), l.y = draw.upto(down), l.z = 35 + draw.upto(20),
                l.target_x = draw.upto(across), l.target_y = draw.upto(down);
                l.intensity = 0.25 * (1 + draw.upto(6)), l.distance = 20 + draw.upto(30);
                for (int& c : l.color) c = draw.upto(256);
                lights += (i ? ", " : "") + l.json(i), ++i;
            }
            const int stops = draw.upto(3) - 1;
            const double ambient = 0.1 * draw.upto(4);
            const std::string json =
                piece_json(across, down, json_of(list),
                           QString(R"("lights": [%1], "exposure": %2, "ambient": {"intensity": %3})")
                               .arg(QString::fromStdString(lights))
                               .arg(stops)
                               .arg(ambient)
                               .toStdString());
            const Scene scene = scene_of(json);
            Evaluator evaluator;
            const Strip seen = look(evaluator, scene, View::lit, {0, 0, across, down}, 1);
            const std::vector<Member> none;
            const Reference reference(none);
            Px ground;
            ground.weight = ground.surface = 1, ground.gives_height = true;
            const auto at = [&](int x, int y) {
                return reference.joined(ground, list, {x + 0.5, y + 0.5, x + 0.5, y + 0.5});
            };
            for (int y = 1; y + 1 < down; ++y)
                for (int x = 1; x + 1 < across; ++x) {
                    const Px px = at(x, y);
                    bool level = px.a > 0.05;
                    for (const auto& [i, j] : {std::pair{-1, 0}, {1, 0}, {0, -1}, {0, 1}})
                        level = level && std::abs(at(x + i, y + j).height - px.height) < 1e-9;
                    if (!level) continue;
                    double base[3], sum[3]{};
                    for (int c = 0; c < 3; ++c) base[c] = px.color[c] / px.a;
                    for (const PlainLamp& l : lamps) add_light(l, px, x + 0.5, y + 0.5, base, sum);
                    for (int c = 0; c < 3; ++c) {
                        const double want = px.a * (std::exp2(stops) * sum[c] + ambient * base[c]),
                                     got = seen.channels[c].at(x, y);
                        if (!(std::abs(got - want) < 3e-4 * (1 + want)))
                            QFAIL(qPrintable(QString("seed %1 at %2, %3: %4 instead of %5\n%6")
                                                 .arg(seed)
                                                 .arg(x)
                                                 .arg(y)
                                                 .arg(got)
                                                 .arg(want)
                                                 .arg(QString::fromStdString(json))));
                    }
                    ++lit;
                }
        }
        QVERIFY(lit > 3000);
    }
};
BATHYLUX_TEST(TestJoins)
#include "test_joins.moc"
