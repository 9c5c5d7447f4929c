#include "cli/arguments.h"

#include <algorithm>
#include <charconv>

#include "core/step/step_kind.h"

namespace bathylux::cli {

bool Arguments::flag(const std::string& name) {
    const auto at = std::find(args_.begin(), args_.end(), name);
    if (at == args_.end()) return false;
    args_.erase(at);
    return true;
}

std::optional<std::string> Arguments::option(const std::string& name) {
    const auto at = std::find(args_.begin(), args_.end(), name);
    if (at == args_.end()) return std::nullopt;
    if (at + 1 == args_.end()) throw Usage{name + " needs a value"};
    std::string value = *(at + 1);
    args_.erase(at, at + 2);
    return value;
}

std::vector<std::string> Arguments::list(const std::string& name) {
    std::vector<std::string> out;
    const auto at = std::find(args_.begin(), args_.end(), name);
    if (at == args_.end()) return out;
    auto end = at + 1;
    for (; end != args_.end() && !end->starts_with("-"); ++end) out.push_back(*end);
    args_.erase(at, end);
    return out;
}

std::string Arguments::only(const char* what) {
    if (args_.empty()) throw Usage{std::string("name ") + what};
    std::string first = args_.front();
    args_.erase(args_.begin());
    if (!first.empty() && first[0] == '-') throw Usage{"unknown option " + first};
    done();
    return first;
}

void Arguments::done() const {
    if (!args_.empty()) throw Usage{"unexpected " + args_.front()};
}

namespace {

/// All of a text as a number, whatever the machine's language; null where it is none.
template <class T> std::optional<T> number_of(const std::string& text) {
    T value{};
    const char* end = text.data() + text.size();
    const auto [at, error] = std::from_chars(text.data(), end, value);
    if (error != std::errc{} || at != end) return std::nullopt;
    return value;
}

} // namespace

int whole_number(const std::string& option, const std::string& text) {
    const auto n = number_of<int>(text);
    if (!n || *n < 0 || *n > 1000000) throw Usage{option + " takes whole numbers from 0"};
    return *n;
}

double number_from(double least, const std::string& option, const std::string& text, double most) {
    const auto v = number_of<double>(text);
    if (!v || !(*v >= least) || *v > most)
        throw Usage{option + " takes a number from " + said(least) + " to " + said(most)};
    return *v;
}

std::vector<std::string> listed(const std::string& text) {
    std::vector<std::string> out;
    for (std::string rest = text; !rest.empty();) {
        const auto comma = std::min(rest.find(','), rest.size());
        out.push_back(rest.substr(0, comma));
        rest.erase(0, comma + 1);
    }
    return out;
}

} // namespace bathylux::cli
