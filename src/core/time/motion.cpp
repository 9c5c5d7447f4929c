#include "core/time/motion.h"

#include <algorithm>
#include <cmath>

#include "core/field/oklab.h"

namespace bathylux {

Color mixed_in_oklab(const Color& a, const Color& b, double t) {
    const auto lab = [](const Color& c) {
        return to_oklab(srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b));
    };
    const Lab p = lab(a), q = lab(b);
    const auto alpha = static_cast<float>(std::clamp(a.a + t * (double(b.a) - a.a), 0.0, 1.0));
    if (!(alpha > 0)) return {0, 0, 0, 0};
    const auto mix = [&](float u, float v) {
        return static_cast<float>((u * double(a.a) + t * (v * double(b.a) - u * double(a.a))) / alpha);
    };
    const auto rgb = from_oklab({mix(p.lightness, q.lightness), mix(p.a, q.a), mix(p.b, q.b)});
    const auto shown = [](float v) { return std::clamp(srgb_encode(v), 0.0f, 1.0f); };
    return {shown(rgb[0]), shown(rgb[1]), shown(rgb[2]), alpha};
}

double Keys::folded(double frame) const {
    const double first = list.front().frame, last = list.back().frame, span = last - first;
    if (frame <= first) return first;
    if (frame <= last || span <= 0 || after == After::hold) return std::min(frame, last);
    const double past = std::fmod(frame - first, after == After::repeat ? span : 2 * span);
    return first + (past > span ? 2 * span - past : past);
}

Moved Keys::at(double frame) const {
    const double f = folded(frame);
    const auto next =
        std::upper_bound(list.begin(), list.end(), f, [](double v, const Key& k) { return v < k.frame; });
    if (next == list.begin()) return list.front().value;
    const Key& a = *(next - 1);
    if (next == list.end()) return a.value;
    const double t = a.easing.at((f - a.frame) / (next->frame - a.frame));
    if (const auto* from = std::get_if<double>(&a.value)) {
        const double to = std::get<double>(next->value);
        return *from + t * (to - *from);
    }
    if (t == 0) return a.value;
    return mixed_in_oklab(std::get<Color>(a.value), std::get<Color>(next->value), t);
}

int Keys::key_on(double frame) const {
    for (std::size_t i = 0; i < list.size(); ++i)
        if (std::abs(list[i].frame - frame) < 1e-6) return static_cast<int>(i);
    return -1;
}

void set_key(Keys& keys, double frame, const Moved& value) {
    if (const int i = keys.key_on(frame); i >= 0) {
        keys.list[static_cast<std::size_t>(i)].value = value;
        return;
    }
    auto at = std::upper_bound(keys.list.begin(), keys.list.end(), frame,
                               [](double v, const Key& k) { return v < k.frame; });
    Key made{frame, value, {}};
    if (at != keys.list.begin()) made.easing = (at - 1)->easing;
    keys.list.insert(at, made);
}

void add_to(Hash& hash, const Motions& motions) {
    const auto add_value = [&](const Moved& v) {
        if (const auto* n = std::get_if<double>(&v))
            hash << *n;
        else {
            const Color& c = std::get<Color>(v);
            hash << c.r << c.g << c.b << c.a;
        }
    };
    // Nothing that moves leaves the hash as it is: still pieces keep theirs.
    for (const auto& [name, motion] : motions) {
        hash << name << static_cast<int>(motion.index());
        if (const auto* keys = std::get_if<Keys>(&motion)) {
            hash << static_cast<int>(keys->after) << keys->list.size();
            for (const Key& k : keys->list) {
                hash << k.frame << static_cast<int>(k.easing.kind) << k.easing.x1 << k.easing.y1
                     << k.easing.x2 << k.easing.y2 << k.easing.count << static_cast<int>(k.easing.jump);
                add_value(k.value);
            }
        } else {
            const Link& link = std::get<Link>(motion);
            hash << link.to << link.gain << link.offset;
        }
    }
}

} // namespace bathylux
