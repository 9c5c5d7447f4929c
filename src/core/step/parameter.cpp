#include "core/step/parameter.h"

#include <algorithm>
#include <cmath>

namespace bathylux {

std::string_view symbol(Unit unit) {
    switch (unit) {
    case Unit::px: return "px";
    case Unit::degrees: return "°";
    case Unit::stops: return "EV";
    case Unit::ratio:
    case Unit::none: break;
    }
    return "";
}

double held(const Parameter& p, double n) {
    n = std::clamp(n, p.range.floor, p.range.ceiling);
    return p.type == Parameter::Type::whole ? std::round(n) : n;
}

namespace {

bool is_value(const Value& v, std::string_view wanted) {
    if (const auto* text = std::get_if<std::string>(&v)) return *text == wanted;
    if (const auto* on = std::get_if<bool>(&v)) return wanted == (*on ? "true" : "false");
    if (const auto* n = std::get_if<double>(&v))
        return (wanted == ">0" && *n > 0) || (wanted == ">=0" && *n >= 0);
    return false;
}

/// What is regarded as its value while it has no say.
Value beginning(const Parameter& p) {
    if (p.type == Parameter::Type::choice) return std::string(p.choices.front());
    if (p.type == Parameter::Type::toggle) return false;
    return 0.0;
}

} // namespace

bool counts(std::span<const Parameter> parameters, const void* data, const Parameter& p) {
    if (p.when.empty()) return true;
    const auto other = std::find_if(parameters.begin(), parameters.end(),
                                    [&](const Parameter& q) { return q.id == p.when; });
    if (other == parameters.end()) return true;
    const Value now = counts(parameters, data, *other) ? other->get(data) : beginning(*other);
    for (std::string_view rest = p.is; !rest.empty();) {
        const auto bar = std::min(rest.find('|'), rest.size());
        if (is_value(now, rest.substr(0, bar))) return true;
        rest.remove_prefix(std::min(bar + 1, rest.size()));
    }
    return false;
}

std::string words_of(const Parameter& p, std::string_view choice) {
    for (std::size_t i = 0; i < p.choices.size() && i < p.words.size(); ++i)
        if (p.choices[i] == choice) return std::string(p.words[i]);
    std::string out(choice);
    for (char& c : out)
        if (c == '_' || c == '-') c = ' ';
    return out;
}

void add_to(Hash& h, const Value& value) {
    struct Adder {
        Hash& h;
        void operator()(double v) const { h << v; }
        void operator()(bool v) const { h << v; }
        void operator()(const std::string& v) const { h << v; }
        void operator()(const Color& v) const { h << v.r << v.g << v.b << v.a; }
        void operator()(const Profile& v) const {
            h << static_cast<int>(v.shape) << v.smooth;
            for (const auto& [x, y] : v.points) h << x << y;
        }
        void operator()(const Points& v) const {
            h << v.size();
            for (const auto& [x, y] : v) h << x << y;
        }
        void operator()(const Stops& v) const {
            h << v.size();
            for (const Stop& s : v) h << s.at, (*this)(s.color);
        }
        void operator()(const std::optional<MapRef>& v) const {
            h << v.has_value();
            if (v) h << content_hash(*v);
        }
        void operator()(const std::vector<double>& v) const {
            h << v.size();
            for (double d : v) h << d;
        }
        void operator()(const std::vector<std::string>& v) const {
            h << v.size();
            for (const std::string& t : v) h << t;
        }
    };
    h << value.index();
    std::visit(Adder{h}, value);
}

} // namespace bathylux
