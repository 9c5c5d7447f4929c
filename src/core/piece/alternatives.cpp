#include "core/piece/alternatives.h"

#include <cmath>
#include <set>

#include "core/error.h"
#include "core/make/noise.h"
#include "core/piece/references.h"

namespace bathylux {

namespace {

enum class Sort { none, seed, angle, strength };

Sort sort_of(const Described& what, const Parameter& p) {
    if (p.id == "seed") return Sort::seed;
    if (p.type != Parameter::Type::number || !what.counts(p) || p.rank == Rank::hidden) return Sort::none;
    if (p.unit == Unit::degrees) return Sort::angle;
    return std::get<double>(what.get(p)) != 0 ? Sort::strength : Sort::none;
}

/// Numbers drawn one after the other, 0…1.
class Chance {
  public:
    Chance(int which, int seed) : which_(which), seed_(static_cast<std::uint32_t>(seed)) {}
    double next() { return lattice_value(which_, drawn_++, seed_); }

  private:
    int which_, drawn_ = 0;
    std::uint32_t seed_;
};

std::string lower(std::string_view name) {
    std::string out(name);
    if (!out.empty() && out[0] >= 'A' && out[0] <= 'Z') out[0] = static_cast<char>(out[0] - 'A' + 'a');
    return out;
}

void varied(Described& what, const Vary& vary, Chance& chance, std::string& says) {
    for (const Parameter& p : what.kind().parameters) {
        const Sort sort = sort_of(what, p);
        if (sort == Sort::none) continue;
        const double draw = chance.next(), was = std::get<double>(what.get(p));
        double is = was;
        if (sort == Sort::seed && vary.seeds) is = std::floor(draw * 10000);
        if (sort == Sort::angle && vary.angles) is = was + std::round((draw - 0.5) * 120);
        if (sort == Sort::strength && vary.strengths) {
            is = was * std::exp2(2 * draw - 1);
            // Figures as one would set them: two digits.
            const double digit = std::pow(10.0, std::floor(std::log10(std::abs(is))) - 1);
            is = std::clamp(std::round(is / digit) * digit, std::min(p.range.low, was),
                            std::max(p.range.high, was));
        }
        is = held(p, is);
        if (is == was) continue;
        what = what.with(p, is);
        says += (says.empty() ? "" : ", ") + lower(p.name) + " " +
                (p.said == Said::percent ? said(100 * is) + " %" : said(is)) +
                (p.unit == Unit::px        ? " px"
                 : p.unit == Unit::degrees ? "°"
                                           : "");
    }
}

/// The elements that a step reads, or that all steps of an element do.
std::set<std::string> read_by_steps(const Piece& piece, const Element& e, std::string_view step) {
    Element only = e;
    only.mix = {}, only.surface.reset();
    if (!step.empty()) std::erase_if(only.steps, [&](const Step& s) { return s.id != step; });
    std::set<std::string> out;
    for (const std::string& id : read_by(only))
        if (id != e.id && find_element(piece.elements, id)) out.insert(id);
    return out;
}

const Element& owner_of(const Piece& piece, std::string_view id, std::string_view step) {
    const Element* e = find_element(piece.elements, id);
    if (!e) throw Error("There is no element " + in_quotes(id) + ".");
    if (!step.empty() && !find_step(e->steps, step))
        throw Error("Element " + in_quotes(id) + " has no step " + in_quotes(step) + ".");
    return *e;
}

} // namespace

std::vector<Alternative> alternatives_to(const Piece& piece, std::string_view id, std::string_view step,
                                         const Vary& vary, int count, int seed) {
    const Element& e = owner_of(piece, id, step);
    const auto read = read_by_steps(piece, e, step);
    std::vector<Alternative> out{{piece, "as it is"}};
    for (int k = 1; k < count; ++k) {
        Alternative now{piece, {}};
        Chance chance(k, seed);
        change(now.piece, id, [&](Element& changed) {
            for (auto& s : changed.steps)
                if (s->on && (step.empty() || s->id == step))
                    s = s.with([&](Step& one) { varied(one.what, vary, chance, now.says); });
            if (step.empty()) varied(changed.source, {vary.seeds, false, false}, chance, now.says);
        });
        for (const std::string& other : read)
            change(now.piece, other, [&](Element& changed) {
                const Vary seeds{vary.seeds, false, false};
                const std::string before = now.says;
                varied(changed.source, seeds, chance, now.says);
                // What has no seed is another one when it is turned.
                if (!vary.seeds || now.says != before || !changed.kind().has_rim) return;
                const double turn = std::floor(chance.next() * 360);
                changed.placement.turn = static_cast<float>(turn);
                now.says +=
                    (now.says.empty() ? "" : ", ") + std::string("grain turned to ") + said(turn) + "°";
            });
        if (now.says.empty()) now.says = "as it is";
        out.push_back(std::move(now));
    }
    return out;
}

Vary what_varies(const Piece& piece, std::string_view id, std::string_view step) {
    const Element& e = owner_of(piece, id, step);
    Vary out{false, false, false};
    const auto look = [&](const Described& what) {
        for (const Parameter& p : what.kind().parameters) {
            const Sort sort = sort_of(what, p);
            out.seeds = out.seeds || sort == Sort::seed;
            out.angles = out.angles || sort == Sort::angle;
            out.strengths = out.strengths || sort == Sort::strength;
        }
    };
    for (const Step& s : e.steps)
        if (s.on && (step.empty() || s.id == step)) look(s.what);
    if (step.empty()) out.seeds = out.seeds || e.source.kind().find("seed");
    for (const std::string& other : read_by_steps(piece, e, step)) {
        const Element* read = find_element(piece.elements, other);
        out.seeds = out.seeds || read->source.kind().find("seed") || read->kind().has_rim;
    }
    return out;
}

Vary most_telling(const Vary& can) {
    return {can.seeds, !can.seeds && can.angles, !can.seeds && !can.angles && can.strengths};
}

} // namespace bathylux
