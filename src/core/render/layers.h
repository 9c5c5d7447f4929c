#pragma once
#include "core/render/graph.h"
#include "core/render/obstruction.h"

namespace bathylux {

/// Lights a list of elements. Where nothing shows through anything and no group is lit by itself, that is the
/// light on all of them joined. Where something does, the list falls into layers, lit back to front: what
/// lies below a see-through element is lit as a picture of its own and seen through it, bent; a group lit by
/// itself is laid over what is lit so far; what follows is lit on its own and laid over that. What throws
/// shadow is the same for all: everything that light does not go through.
///
/// A group that only keeps elements together (no steps, nothing mixed) takes part with its elements. Any
/// other takes part as a whole: seen through where its elements are.
class Layers {
  public:
    /// How an element takes part.
    enum class Part { lit, laid_over, seen_through };
    /// What of a list is lit, laid over or seen through in one go.
    struct Sheet {
        Part part;
        OperationPtr relief;              // everything up to it; its heights are what light falls on
        OperationPtr colors{};            // what of it is this sheet's; null: all
        const Element* element = nullptr; // what is laid over, or seen through; null: several
        OperationPtr own{}, clip{};       // that by itself, and what cuts it, where something does
        bool plain = false;               // seen through: it has the piece's surface
    };
    /// Back to front; the first is always lit. `solid`: what throws shadow.
    struct Sheets {
        std::vector<Sheet> list;
        OperationPtr solid;
    };

    explicit Layers(Graph& graph) : graph_(graph) {}

    /// Whether a list has to be lit in more than one go.
    bool fall_apart(const Elements& list) const;
    /// Colour (linear, premultiplied) and coverage of all of the piece.
    OperationPtr picture();
    /// How a list on a ground comes apart. Its operations hold as long as the graph.
    Sheets sheets(const OperationPtr& ground, const Elements& list, const Placed& parent);
    /// The same of all of the piece.
    Sheets sheets();
    /// What is laid over by itself: colour and coverage, as much as its opacity leaves.
    OperationPtr flat(const Sheet& sheet) {
        return graph_.joined_one(nothing(), *sheet.element, sheet.own, sheet.clip);
    }
    /// The picture of a group's elements on nothing, as what the group gives.
    OperationPtr of_group(const Element& group, const Placed& within);

  private:
    struct Item {
        const Elements& list;
        std::size_t index;
        Placed parent;
        Part part;
        const Element& element() const { return *list[index]; }
    };
    bool seen_through(const Element& e) const;
    bool apart(const Element& e) const;
    void gather(std::vector<Item>& to, const Elements& list, const Placed& parent) const;
    /// What throws shadow, and the same at other scales.
    struct Solid {
        OperationPtr relief;
        HeightsAt heights_at;
    };
    /// Colour and coverage of a list on level ground. `relief`: all of it joined.
    OperationPtr picture(const Color& ground, const Elements& list, const Placed& parent,
                         const OperationPtr& relief);
    /// The heights of what throws shadow of a list, which lies so at this scale.
    HeightsAt heights_of(const Color& ground, const Elements& list, const Placed& parent) const;
    /// `colors`: what is lit, where that is not all of the relief; null: all.
    OperationPtr light(const OperationPtr& relief, const OperationPtr& colors, const Solid& solid);
    OperationPtr laid_over(const OperationPtr& below, const OperationPtr& top);
    OperationPtr see_through(const Sheet& sheet, const OperationPtr& below, const Solid& solid);
    Lighting by_itself();

    Graph& graph_;
};

} // namespace bathylux
