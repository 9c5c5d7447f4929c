#pragma once
#include <initializer_list>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace bathylux::cli {

/// Wrong usage: why. Ends with 2 and the usage.
struct Usage {
    std::string why;
};

/// What was typed, taken away piece by piece; what is left in the end was not known.
class Arguments {
  public:
    explicit Arguments(std::vector<std::string> args) : args_(std::move(args)) {}
    bool flag(const std::string& name);
    /// Throws Usage where its value is missing.
    std::optional<std::string> option(const std::string& name);
    /// What follows an option, up to the next one.
    std::vector<std::string> list(const std::string& name);
    /// The one thing left that is no option. Throws Usage where there is none, or more.
    std::string only(const char* what);
    /// Throws Usage where something is left.
    void done() const;

  private:
    std::vector<std::string> args_;
};

/// Which of the choices an option's value names. Throws Usage, naming them.
template <class T>
T one_of(const std::string& option, const std::string& value,
         std::initializer_list<std::pair<const char*, T>> choices) {
    std::string all;
    for (const auto& [name, result] : choices) {
        if (value == name) return result;
        all += (all.empty() ? "" : ", ") + std::string(name);
    }
    throw Usage{option + " takes " + all + ", not " + value};
}

/// From 0 to a million. Throws Usage.
int whole_number(const std::string& option, const std::string& text);
/// From `least` up, as a decimal number. Throws Usage.
double number_from(double least, const std::string& option, const std::string& text, double most = 1e6);
/// What commas part.
std::vector<std::string> listed(const std::string& text);

} // namespace bathylux::cli
