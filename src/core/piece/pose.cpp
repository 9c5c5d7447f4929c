#include "core/piece/pose.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "core/error.h"

namespace bathylux {

namespace {

bool moves_itself(const MapRef& m) { return !m.motions.empty(); }
bool moves_itself(const std::optional<MapRef>& m) { return m && moves_itself(*m); }

bool moves_itself(const Step& s) {
    if (!s.motions.empty() || moves_itself(s.map)) return true;
    for (const Parameter& p : s.kind().parameters)
        if (p.type == Parameter::Type::map && moves_itself(map_in(s.what, p))) return true;
    return false;
}

bool moves_itself(const Element& e) {
    return !e.source_motions.empty() || !e.placement.motions.empty() || !e.mix.motions.empty() ||
           moves_itself(e.mix.mask) || (e.surface && !e.surface->motions.empty()) ||
           std::any_of(e.steps.begin(), e.steps.end(), [](const Step& s) { return moves_itself(s); });
}
bool moves_within(const Element& e) {
    return moves_itself(e) || std::any_of(e.elements.begin(), e.elements.end(),
                                          [](const Element& c) { return moves_within(c); });
}

// Parts to be looked at.

using Visit = std::function<void(const MovingPart&)>;

template <class T>
void plain_part(const std::string& path, std::span<const Parameter> parameters, const T& from,
                const Motions& motions, const Visit& visit) {
    visit({path, parameters, [&from](const Parameter& p) { return p.get(&from); }, &motions});
}
void described_part(const std::string& path, const Described& what, const Motions& motions,
                    const Visit& visit) {
    visit({path, what.kind().parameters, [&what](const Parameter& p) { return what.get(p); }, &motions});
}

void parts_of(const Step& s, const std::string& path, const Visit& visit) {
    described_part(path, s.what, s.motions, visit);
    plain_part(path, Step::parameters, s, s.motions, visit);
    if (s.map) plain_part(path + "map.", MapRef::parameters, *s.map, s.map->motions, visit);
    for (const Parameter& p : s.kind().parameters)
        if (p.type == Parameter::Type::map)
            if (const auto& map = map_in(s.what, p))
                plain_part(path + std::string(p.id) + ".", MapRef::parameters, *map, map->motions, visit);
}

void parts_of(const Element& e, const Visit& visit, bool all_within = true) {
    const std::string path = e.id + ".";
    described_part(path + "source.", e.source, e.source_motions, visit);
    plain_part(path + "placement.", Placement::parameters, e.placement, e.placement.motions, visit);
    plain_part(path + "mix.", Mix::parameters, e.mix, e.mix.motions, visit);
    if (e.mix.mask)
        plain_part(path + "mix.mask.", MapRef::parameters, *e.mix.mask, e.mix.mask->motions, visit);
    if (e.surface) plain_part(path + "surface.", Surface::parameters, *e.surface, e.surface->motions, visit);
    for (const Step& s : e.steps) parts_of(s, path + s.id + ".", visit);
    if (!all_within) return;
    for (const Element& c : e.elements) parts_of(c, visit);
}

void visit_owned(const Piece& piece, std::optional<std::string_view> owner, const Visit& visit);

// Parts to be changed.

using PartWork = std::function<void(ChangedPart&)>;

template <class T>
void change_plain(const std::string& path, std::span<const Parameter> parameters, T& to, Motions& motions,
                  bool moving_only, const PartWork& work) {
    if (moving_only && motions.empty()) return;
    ChangedPart part{path, parameters, [&to](const Parameter& p) { return p.get(&to); },
                     [&to](const Parameter& p, const Value& v) { p.set(&to, v); }, motions};
    work(part);
}
void change_described(const std::string& path, Described& what, Motions& motions, bool moving_only,
                      const PartWork& work) {
    if (moving_only && motions.empty()) return;
    ChangedPart part{path, what.kind().parameters, [&what](const Parameter& p) { return what.get(p); },
                     [&what](const Parameter& p, const Value& v) { what = what.with(p, v); }, motions};
    work(part);
}

void change_in(Step& s, const std::string& path, bool moving_only, const PartWork& work) {
    change_described(path, s.what, s.motions, moving_only, work);
    change_plain(path, Step::parameters, s, s.motions, moving_only, work);
    if (s.map) change_plain(path + "map.", MapRef::parameters, *s.map, s.map->motions, moving_only, work);
    for (const Parameter& p : s.kind().parameters)
        if (p.type == Parameter::Type::map)
            if (auto map = map_in(s.what, p); map && !(moving_only && map->motions.empty())) {
                change_plain(path + std::string(p.id) + ".", MapRef::parameters, *map, map->motions,
                             moving_only, work);
                s.what = s.what.with(p, map);
            }
}

/// `moving_only`: parts with something that moves, children's too; else all of the element's own.
void change_in(Element& e, bool moving_only, const PartWork& work) {
    const std::string path = e.id + ".";
    change_described(path + "source.", e.source, e.source_motions, moving_only, work);
    change_plain(path + "placement.", Placement::parameters, e.placement, e.placement.motions, moving_only,
                 work);
    change_plain(path + "mix.", Mix::parameters, e.mix, e.mix.motions, moving_only, work);
    if (e.mix.mask)
        change_plain(path + "mix.mask.", MapRef::parameters, *e.mix.mask, e.mix.mask->motions, moving_only,
                     work);
    if (e.surface)
        change_plain(path + "surface.", Surface::parameters, *e.surface, e.surface->motions, moving_only,
                     work);
    for (auto& s : e.steps)
        if (!moving_only || moves_itself(*s))
            s = s.with([&](Step& step) { change_in(step, path + step.id + ".", moving_only, work); });
    for (auto& c : e.elements)
        if (moving_only && moves_within(*c))
            c = c.with([&](Element& child) { change_in(child, moving_only, work); });
}

const Parameter* find(std::span<const Parameter> parameters, std::string_view id) {
    for (const Parameter& p : parameters)
        if (p.id == id) return &p;
    return nullptr;
}

bool can_follow(const Parameter& p) {
    return p.type == Parameter::Type::number || p.type == Parameter::Type::whole;
}

/// Everything of a piece that has a number or colour, to be found by its path.
class Places {
  public:
    /// `owner`: all of the element or light of that name, or of what else begins a path; none: everything.
    explicit Places(const Piece& piece, std::optional<std::string_view> owner = {}) : piece_(piece) {
        visit_owned(piece, owner, [&](const MovingPart& part) {
            for (const Parameter& p : part.parameters)
                if (can_follow(p) || p.type == Parameter::Type::color)
                    all_.emplace(part.path + std::string(p.id),
                                 Found{part.path, &p, part.get, motion(*part.motions, p)});
        });
    }
    struct Found {
        std::string part;
        const Parameter* parameter;
        std::function<Value(const Parameter&)> get;
        const Motion* motion;
    };
    const Found* at(std::string_view path) const {
        if (const auto exact = all_.find(path); exact != all_.end()) return &exact->second;
        // A step may be named by its kind.
        const auto first = path.find('.');
        if (first == std::string_view::npos) return nullptr;
        const auto second = path.find('.', first + 1);
        if (second == std::string_view::npos) return nullptr;
        const Steps* steps = steps_of(piece_, path.substr(0, first));
        if (!steps) return nullptr;
        const std::string_view kind = path.substr(first + 1, second - first - 1);
        for (const Step& s : *steps)
            if (s.kind().id == kind) {
                const auto found = all_.find(std::string(path.substr(0, first + 1)) + s.id +
                                             std::string(path.substr(second)));
                return found == all_.end() ? nullptr : &found->second;
            }
        return nullptr;
    }
    const std::map<std::string, Found, std::less<>>& all() const { return all_; }

  private:
    static const Motion* motion(const Motions& motions, const Parameter& p) {
        const auto found = motions.find(p.id);
        return found == motions.end() ? nullptr : &found->second;
    }
    const Piece& piece_;
    std::map<std::string, Found, std::less<>> all_;
};

/// Numbers at a frame, links followed.
class AtFrame {
  public:
    AtFrame(const Piece& piece, double frame) : piece_(piece), frame_(frame) {}
    void to(double frame) { frame_ = frame; }

    /// What a motion gives; none where it leads to nothing, or back to itself.
    std::optional<Moved> of(const Motion& motion, int depth = 0) const {
        if (const auto* keys = std::get_if<Keys>(&motion)) return keys->at(frame_);
        const Link& link = std::get<Link>(motion);
        const auto n = number(link.to, depth + 1);
        if (!n) return std::nullopt;
        const double v = *n * link.gain + link.offset;
        return std::isfinite(v) ? std::optional<Moved>(v) : std::nullopt;
    }

    std::optional<double> number(std::string_view path, int depth) const {
        if (depth > 256) return std::nullopt;
        // Only who follows has to know all there is.
        if (!places_) places_.emplace(piece_);
        const Places::Found* found = places_->at(path);
        if (!found || !can_follow(*found->parameter)) return std::nullopt;
        if (found->motion)
            if (const auto v = of(*found->motion, depth))
                if (const auto* n = std::get_if<double>(&*v)) return held(*found->parameter, *n);
        return std::get<double>(found->get(*found->parameter));
    }

  private:
    const Piece& piece_;
    mutable std::optional<Places> places_;
    double frame_;
};

Value value_of(const Parameter& p, const Moved& v) {
    if (const auto* n = std::get_if<double>(&v)) return held(p, *n);
    return std::get<Color>(v);
}

bool fits(const Parameter& p, const Moved& v) {
    return std::holds_alternative<double>(v) ? can_follow(p) : p.type == Parameter::Type::color;
}

} // namespace

void for_each_part(const Piece& piece, const Visit& visit) { visit_owned(piece, {}, visit); }

namespace {

void visit_owned(const Piece& piece, std::optional<std::string_view> owner, const Visit& visit) {
    if (owner) {
        if (const Element* e = find_element(piece.elements, *owner)) return parts_of(*e, visit, false);
        if (const Light* l = find_light(piece, *owner))
            return described_part(l->id + ".", l->what, l->motions, visit);
    } else {
        for (const Element& e : piece.elements) parts_of(e, visit);
        for (const Light& l : piece.lights) described_part(l.id + ".", l.what, l.motions, visit);
    }
    for (const Step& s : piece.finish) parts_of(s, std::string(finish_id) + "." + s.id + ".", visit);
    plain_part("ambient.", Ambient::parameters, piece.ambient, piece.ambient.motions, visit);
    plain_part("surface.", Surface::parameters, piece.surface, piece.surface.motions, visit);
    plain_part("", Piece::parameters, piece, piece.motions, visit);
    if (!piece.solid) return;
    const Solid& s = *piece.solid;
    plain_part("solid.", Body::parameters, s.body, s.motions, visit);
    plain_part("solid.camera.", Camera::parameters, s.camera, s.camera_motions, visit);
    plain_part("solid.ground.", GroundPlane::parameters, s.ground, s.ground_motions, visit);
    plain_part("solid.surface.", Surface::parameters, s.surface, s.surface.motions, visit);
}

std::string_view owner_in(std::string_view path) { return path.substr(0, path.find('.')); }

void change_the_rest(Piece& piece, bool moving_only, const PartWork& work) {
    for (auto& s : piece.finish)
        if (!moving_only || moves_itself(*s))
            s = s.with([&](Step& step) {
                change_in(step, std::string(finish_id) + "." + step.id + ".", moving_only, work);
            });
    change_plain("ambient.", Ambient::parameters, piece.ambient, piece.ambient.motions, moving_only, work);
    change_plain("surface.", Surface::parameters, piece.surface, piece.surface.motions, moving_only, work);
    change_plain("", Piece::parameters, piece, piece.motions, moving_only, work);
    if (!piece.solid) return;
    Solid& s = *piece.solid;
    change_plain("solid.", Body::parameters, s.body, s.motions, moving_only, work);
    change_plain("solid.camera.", Camera::parameters, s.camera, s.camera_motions, moving_only, work);
    change_plain("solid.ground.", GroundPlane::parameters, s.ground, s.ground_motions, moving_only, work);
    change_plain("solid.surface.", Surface::parameters, s.surface, s.surface.motions, moving_only, work);
}

/// All parts of the element or light of that name, or of what belongs to neither.
void change_owned(Piece& piece, std::string_view owner, const PartWork& work) {
    if (change(piece.elements, owner, [&](Element& e) { change_in(e, false, work); })) return;
    if (change_light(piece, owner,
                     [&](Light& l) { change_described(l.id + ".", l.what, l.motions, false, work); }))
        return;
    change_the_rest(piece, false, work);
}

} // namespace

void change_moving_parts(Piece& piece, const PartWork& work) {
    for (auto& e : piece.elements)
        if (moves_within(*e)) e = e.with([&](Element& element) { change_in(element, true, work); });
    for (auto& l : piece.lights)
        if (!l->motions.empty())
            l = l.with([&](Light& light) {
                change_described(light.id + ".", light.what, light.motions, true, work);
            });
    change_the_rest(piece, true, work);
}

bool moves(const Piece& p) {
    const auto any = [](const auto& list, auto&& moving) {
        return std::any_of(list.begin(), list.end(), moving);
    };
    return any(p.elements, [](const Element& e) { return moves_within(e); }) ||
           any(p.finish, [](const Step& s) { return moves_itself(s); }) ||
           any(p.lights, [](const Light& l) { return !l.motions.empty(); }) || !p.ambient.motions.empty() ||
           !p.surface.motions.empty() || !p.motions.empty() ||
           (p.solid && (!p.solid->motions.empty() || !p.solid->camera_motions.empty() ||
                        !p.solid->ground_motions.empty() || !p.solid->surface.motions.empty()));
}

NumberThere number_there(const Piece& piece, std::string_view path) {
    const Places places(piece, owner_in(path));
    NumberThere out;
    if (const Places::Found* found = places.at(path)) {
        out.parameter = found->parameter, out.part = found->part, out.motion = found->motion;
        out.value = found->get(*found->parameter);
    }
    return out;
}

void set_motion(Piece& piece, std::string_view path, const std::optional<Motion>& motion) {
    const NumberThere where = number_there(piece, path);
    if (!where.parameter) return;
    const std::string part_path = where.part;
    const std::string name(where.parameter->id);
    change_owned(piece, owner_in(path), [&](ChangedPart& part) {
        if (part.path != part_path || !find(part.parameters, name)) return;
        if (motion)
            part.motions.insert_or_assign(name, *motion);
        else
            part.motions.erase(name);
    });
}

Piece posed(const Piece& piece, double frame) {
    if (!moves(piece)) return piece;
    const AtFrame at(piece, frame);
    Piece out = piece;
    change_moving_parts(out, [&](ChangedPart& part) {
        for (const auto& [name, motion] : part.motions)
            if (const Parameter* p = find(part.parameters, name))
                if (const auto v = at.of(motion); v && fits(*p, *v)) part.set(*p, value_of(*p, *v));
    });
    return out;
}

std::vector<double> numbers_at(const Piece& piece, std::string_view path, std::span<const double> frames) {
    std::vector<double> out;
    AtFrame at(piece, 0);
    for (const double f : frames) {
        at.to(f);
        if (const auto n = at.number(path, 0)) out.push_back(*n);
    }
    return out.size() == frames.size() ? out : std::vector<double>();
}

void keep_moved(const Piece& before, Piece& after, double frame) {
    if (!moves(after)) return;
    change_moving_parts(after, [&](ChangedPart& part) {
        const Places was(before, owner_in(part.path));
        for (auto& [name, motion] : part.motions) {
            const Parameter* p = find(part.parameters, name);
            const Places::Found* old = was.at(part.path + name);
            // Another motion than before is what was changed, not the value.
            if (!p || !old || !old->motion || !(*old->motion == motion)) continue;
            const Value now = part.get(*p);
            if (now == old->get(*p)) continue;
            if (auto* keys = std::get_if<Keys>(&motion)) {
                if (const auto* n = std::get_if<double>(&now))
                    set_key(*keys, frame, *n);
                else
                    set_key(*keys, frame, std::get<Color>(now));
            } else
                std::get<Link>(motion).offset += std::get<double>(now) - std::get<double>(old->get(*p));
        }
    });
    after = posed(after, frame);
}

namespace {

/// What a change makes of the numbers of a piece, told from two values of each that matters: of what moves,
/// and of what is followed.
class ChangedNumbers {
  public:
    ChangedNumbers(const Piece& before, const Piece& after, const std::function<void(Piece&)>& change)
        : was_(before), is_(after), other_(with_others(before)), changed_other_(done(change, other_)),
          other_was_(other_), other_is_(changed_other_) {}
    struct Rule {
        double scale = 1, shift = 0;
    };
    Rule rule(std::string_view path) const {
        const auto of = [&](const Places& places) {
            const Places::Found* f = places.at(path);
            return f && can_follow(*f->parameter) ? std::optional(std::get<double>(f->get(*f->parameter)))
                                                  : std::nullopt;
        };
        const auto was = of(was_), is = of(is_), other_was = of(other_was_), other_is = of(other_is_);
        if (!was || !is || !other_was || !other_is || *was == *other_was) return {};
        double scale = (*other_is - *is) / (*other_was - *was);
        if (std::abs(scale - 1) < 1e-6) scale = 1; // floats are no finer
        return {scale, *is - scale * *was};
    }

  private:
    static Piece done(const std::function<void(Piece&)>& change, Piece piece) {
        change(piece);
        return piece;
    }
    /// The piece with another value of each number that matters.
    Piece with_others(const Piece& before) const {
        std::set<std::string> numbers, owners;
        const auto matters = [&](const std::string& path) {
            const Places::Found* f = was_.at(path);
            if (!f || !can_follow(*f->parameter)) return;
            numbers.insert(f->part + std::string(f->parameter->id));
            owners.emplace(owner_in(f->part));
        };
        for (const auto& [path, found] : was_.all()) {
            if (!found.motion) continue;
            matters(path);
            if (const auto* link = std::get_if<Link>(found.motion)) matters(link->to);
        }
        Piece out = before;
        for (const std::string& owner : owners)
            change_owned(out, owner, [&](ChangedPart& part) {
                for (const Parameter& p : part.parameters)
                    if (numbers.contains(part.path + std::string(p.id))) {
                        const double v = std::get<double>(part.get(p)), step = std::max(1.0, std::abs(v)),
                                     up = held(p, v + step);
                        part.set(p, up != v ? up : held(p, v - step));
                    }
            });
        return out;
    }

    Places was_, is_;
    Piece other_, changed_other_;
    Places other_was_, other_is_;
};

/// Of the moods that wait nothing but what stands still.
void change_what_moves(Piece& piece, const std::function<void(Piece&)>& change) {
    if (!moves(piece)) return change(piece);
    const Piece before = piece;
    change(piece);
    const Piece after = piece;
    const ChangedNumbers changed(before, after, change);
    change_moving_parts(piece, [&](ChangedPart& part) {
        for (auto& [name, motion] : part.motions) {
            const Parameter* p = find(part.parameters, name);
            if (!p || !can_follow(*p)) continue;
            const auto [scale, shift] = changed.rule(part.path + name);
            if (auto* keys = std::get_if<Keys>(&motion)) {
                for (Key& k : keys->list)
                    if (auto* v = std::get_if<double>(&k.value)) *v = scale * *v + shift;
            } else {
                auto& link = std::get<Link>(motion);
                const auto to = changed.rule(link.to);
                if (to.scale == 0) continue;
                link.gain *= scale / to.scale;
                link.offset = scale * link.offset + shift - link.gain * to.shift;
            }
        }
    });
}

} // namespace

void change_throughout(Piece& piece, const std::function<void(Piece&)>& change) {
    const Piece before = piece;
    change_what_moves(piece, change);
    // The moods that wait: each as if it were the one in use.
    for (Mood& mood : piece.moods) {
        if (mood.id == piece.mood) continue;
        Piece other = before;
        use_mood(other, mood.id);
        if (!moves(other)) continue;
        change_what_moves(other, change);
        mood.lights = other.lights, mood.ambient = other.ambient;
    }
}

std::string link_circle_in(const Piece& piece) {
    if (!moves(piece)) return {};
    const Places places(piece);
    for (const auto& [path, found] : places.all()) {
        std::vector<std::string> trail{path};
        const Places::Found* at = &found;
        std::set<const Places::Found*> seen;
        while (at && at->motion && std::holds_alternative<Link>(*at->motion)) {
            if (!seen.insert(at).second) {
                std::string names;
                for (const std::string& name : trail) names += (names.empty() ? "" : " follows ") + name;
                return "Numbers follow one another in a circle: " + names + ". Take one of these links away.";
            }
            at = places.at(std::get<Link>(*at->motion).to);
            if (at) trail.push_back(at->part + std::string(at->parameter->id));
        }
    }
    return {};
}

void refuse_link_circles(const Piece& piece) {
    if (const std::string found = link_circle_in(piece); !found.empty()) throw Error(found);
}

std::vector<std::string> loose_links(const Piece& piece) {
    std::vector<std::string> out;
    if (!moves(piece)) return out;
    const Places places(piece);
    for (const auto& [path, found] : places.all())
        if (const auto* link = found.motion ? std::get_if<Link>(found.motion) : nullptr) {
            const Places::Found* to = places.at(link->to);
            if (!to || !can_follow(*to->parameter)) out.push_back(path + " → " + link->to);
        }
    return out;
}

double last_key(const Piece& piece) {
    double out = 0;
    if (!moves(piece)) return out;
    for_each_part(piece, [&](const MovingPart& part) {
        for (const auto& [name, motion] : *part.motions)
            if (const auto* keys = std::get_if<Keys>(&motion)) out = std::max(out, keys->list.back().frame);
    });
    return out;
}

} // namespace bathylux
