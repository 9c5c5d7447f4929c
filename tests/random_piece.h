#pragma once
// Pieces nobody would make: every kind of thing beside and within every other, drawn from a seed.
#include <functional>
#include <random>

#include "support.h"

namespace bathylux {

class RandomPiece {
  public:
    explicit RandomPiece(unsigned seed) : random_(seed) {}

    /// Some elements, in groups and reading one another, with steps, surfaces, lights and finish, some of it
    /// moving.
    Piece piece();
    /// A body for it to lie on, without a file, and from where it is seen.
    Solid solid();
    /// One thing of it changed, as a control would.
    Piece changed(const Piece& piece);

  private:
    double share() { return std::uniform_real_distribution<>(0, 1)(random_); }
    int whole(int from, int to) { return std::uniform_int_distribution(from, to)(random_); }
    bool once_in(int n) { return whole(1, n) == 1; }
    template <class List> decltype(auto) any(const List& list) {
        return list[static_cast<std::size_t>(whole(0, static_cast<int>(list.size()) - 1))];
    }

    Value value(const Parameter& p, const Value& now, bool perspective);
    Described described(const Kind& kind, int changes_one_in);
    template <class T> void set_some(T& thing, int one_in);
    std::optional<MapRef> map(bool pairs);
    void move_something(Described& what, Motions& motions);
    Steps steps(std::span<const StepKind> kinds, int most);
    Element element(int depth);
    Light light();

    std::mt19937 random_;
    Canvas canvas_;
    std::vector<std::string> ids_; // that may be read by what comes next
    int made_ = 0;
};

/// With what files would give its elements.
Scene scene_with_assets(Piece piece);

/// A piece that fails, made as small as it gets with `fails` still saying so.
Piece smallest(Piece piece, const std::function<bool(const Piece&)>& fails);

} // namespace bathylux
