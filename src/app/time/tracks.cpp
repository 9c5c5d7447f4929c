#include "app/time/tracks.h"

#include <algorithm>
#include <cmath>

#include "app/controls/movement.h"
#include "core/make/clip_source.h"
#include "files/export.h"

namespace bathylux {

std::vector<Track> tracks_of(const Piece& piece) {
    std::vector<Track> elements, others;
    for_each_element(piece.elements, [&](const Element& e) {
        if (!e.source.is("clip")) return;
        Track t;
        t.kind = Track::Kind::clip, t.path = t.owner = e.id, t.name = nameOf(e), t.what = QObject::tr("clip");
        elements.push_back(t);
    });
    for_each_part(piece, [&](const MovingPart& part) {
        for (const auto& [name, motion] : *part.motions) {
            const auto p = std::find_if(part.parameters.begin(), part.parameters.end(),
                                        [&](const Parameter& q) { return q.id == name; });
            if (p == part.parameters.end()) continue;
            Track t;
            t.kind = std::holds_alternative<Link>(motion) ? Track::Kind::link : Track::Kind::keys;
            t.path = part.path + name;
            t.owner = part.path.substr(0, part.path.find('.'));
            t.parameter = &*p;
            t.color = p->type == Parameter::Type::color;
            if (const auto* keys = std::get_if<Keys>(&motion)) t.keys = *keys;
            const QString whole = called(piece, t.path);
            const auto comma = whole.indexOf(", ");
            t.name = whole.left(comma), t.what = whole.mid(comma + 2);
            (find_element(piece.elements, t.owner) ? elements : others).push_back(std::move(t));
        }
    });
    // Front first, as the makings have them.
    std::vector<std::string> order;
    for_each_element(piece.elements, [&](const Element& e) { order.push_back(e.id); });
    std::stable_sort(elements.begin(), elements.end(), [&](const Track& a, const Track& b) {
        return std::find(order.begin(), order.end(), a.owner) >
               std::find(order.begin(), order.end(), b.owner);
    });
    elements.insert(elements.end(), others.begin(), others.end());
    return elements;
}

namespace {

const Keys* keys_of(const Piece& piece, const std::string& path) {
    const Motion* motion = motion_of(piece, path);
    return motion ? std::get_if<Keys>(motion) : nullptr;
}

std::map<std::string, std::vector<double>> by_track(const ChosenKeys& chosen) {
    std::map<std::string, std::vector<double>> out;
    for (const KeyAt& k : chosen) out[k.path].push_back(k.frame);
    return out;
}

bool among(const std::vector<double>& frames, double frame) {
    return std::any_of(frames.begin(), frames.end(), [&](double f) { return std::abs(f - frame) < 1e-6; });
}

/// Keys parted into those of some frames and the others.
std::pair<std::vector<Key>, Keys> parted(const Keys& keys, const std::vector<double>& frames) {
    std::vector<Key> those;
    Keys others = keys;
    for (const Key& k : keys.list)
        if (among(frames, k.frame)) those.push_back(k);
    std::erase_if(others.list, [&](const Key& k) { return among(frames, k.frame); });
    return {those, others};
}

/// Keys of two lists in one, those of the second in place of what stands where they do.
Keys merged(Keys stay, std::vector<Key> come) {
    for (const Key& k : come)
        std::erase_if(stay.list, [&](const Key& s) { return std::abs(s.frame - k.frame) < 1e-6; });
    stay.list.insert(stay.list.end(), come.begin(), come.end());
    std::sort(stay.list.begin(), stay.list.end(),
              [](const Key& a, const Key& b) { return a.frame < b.frame; });
    stay.list.erase(
        std::unique(stay.list.begin(), stay.list.end(),
                    [](const Key& a, const Key& b) { return std::abs(a.frame - b.frame) < 1e-6; }),
        stay.list.end());
    return stay;
}

} // namespace

ChangedKeys moved(const Piece& piece, const ChosenKeys& chosen, const KeysMoved& how) {
    ChangedKeys out;
    for (const auto& [path, frames] : by_track(chosen)) {
        const Keys* keys = keys_of(piece, path);
        if (!keys) continue;
        auto [come, stay] = parted(*keys, frames);
        std::vector<double> now;
        for (Key& k : come) {
            k.frame = std::round(how.about + how.stretch * (k.frame - how.about) + how.frames);
            if (auto* n = std::get_if<double>(&k.value)) *n += how.value;
            now.push_back(k.frame);
        }
        out[path] = {merged(std::move(stay), std::move(come)), now};
    }
    return out;
}

ChangedKeys reversed(const Piece& piece, const ChosenKeys& chosen) {
    double first = 1e30, last = -1e30;
    for (const KeyAt& k : chosen) first = std::min(first, k.frame), last = std::max(last, k.frame);
    ChangedKeys out;
    for (const auto& [path, frames] : by_track(chosen)) {
        const Keys* keys = keys_of(piece, path);
        if (!keys) continue;
        auto [come, stay] = parted(*keys, frames);
        if (come.empty()) continue;
        std::vector<double> now;
        for (Key& k : come) k.frame = first + last - k.frame, now.push_back(k.frame);
        // What led from one to the next leads back from that; what the last of them led on to stays.
        const Easing on = come.back().easing;
        for (std::size_t i = come.size(); i-- > 1;) come[i].easing = bathylux::reversed(come[i - 1].easing);
        come.front().easing = on;
        out[path] = {merged(std::move(stay), std::move(come)), now};
    }
    return out;
}

void remove_keys(Piece& piece, const ChosenKeys& chosen) {
    for (const auto& [path, frames] : by_track(chosen)) {
        const Keys* keys = keys_of(piece, path);
        if (!keys) continue;
        const Keys left = parted(*keys, frames).second;
        set_motion(piece, path, left.list.empty() ? std::nullopt : std::optional<Motion>(left));
    }
}

} // namespace bathylux
