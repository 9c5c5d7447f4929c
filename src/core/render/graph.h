#pragma once
#include <map>

#include "core/piece/piece.h"
#include "core/render/operation.h"
#include "core/render/scene.h"

namespace bathylux {

/// The operations that a scene comes to at one scale. Building it computes nothing.
class Graph {
  public:
    /// Throws Error where elements read one another in a circle.
    Graph(const Scene& scene, double scale);

    /// All elements joined on the canvas's ground. Heights are canvas px at every scale.
    OperationPtr relief();
    /// One element by itself: its source and steps (the first so many; −1: all), not mixed. Throws Error
    /// where there is none of that id.
    OperationPtr element(std::string_view id, int steps = -1);
    /// The same with its mask: what of it is seen, before it joins what lies below.
    OperationPtr shown(std::string_view id);
    /// What an element serves as a map, 0…1, as the tone of the result. `itself`: what a map without an
    /// element reads. Throws Error where there is nothing to be read.
    OperationPtr map(const MapRef& ref, const OperationPtr& itself = nullptr);

    /// The piece's finish over a picture (colour and coverage) of the whole canvas.
    OperationPtr finish(OperationPtr picture);

    Region canvas() const { return canvas_; }

  private:
    struct Found {
        const Element* element = nullptr;
        Placed parent{};
    };
    const Found* find(std::string_view id) const;
    bool readable(const MapRef& ref) const;
    void place(const Elements& list, const Placed& parent);

    OperationPtr source(const Element& e, const Placed& placed);
    OperationPtr stepped(const Element& e, const Placed& placed, int steps);
    OperationPtr step(const OperationPtr& below, const Element& e, const Step& step, const Placed& placed);
    OperationPtr surfaced(OperationPtr own, const Element& e);
    OperationPtr own(const Element& e, const Placed& parent);
    OperationPtr masked(const Element& e, const Placed& parent);
    OperationPtr joined(OperationPtr below, const Elements& list, const Placed& parent, bool root = false);

    Scene scene_;
    double scale_;
    Region canvas_;
    std::map<std::string, Found, std::less<>> found_;
    std::map<std::string, OperationPtr, std::less<>> own_, masked_; // by element
};

/// Whether an element of it gives a height of its own, as far as can be told without computing it.
bool gives_height(const Element& element);

} // namespace bathylux
