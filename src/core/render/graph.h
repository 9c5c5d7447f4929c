#pragma once
#include <deque>
#include <map>
#include <optional>

#include "core/piece/piece.h"
#include "core/render/lighting.h"
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

    /// What a step reads by a map of its own, straight: one number, or two, as red and green of the result,
    /// and where there is anything as its coverage.
    OperationPtr numbers(const MapRef& ref, const OperationPtr& itself);

    /// How far a step that bends has moved what is seen: canvas px to the right and down, as red and green.
    /// Throws Error where there is no such step.
    OperationPtr drift(std::string_view element, std::string_view step);

    /// The lit picture before its finish: colour (linear, premultiplied) and coverage. Nothing is rolled off,
    /// and no light's body is shown.
    OperationPtr picture();
    /// The piece's finish over a picture (colour and coverage, and height where asked for) of the whole
    /// canvas.
    OperationPtr finish(OperationPtr picture);
    /// Whether some of the finish reads the relief's height.
    bool finish_reads_height() const;

    Region canvas() const { return canvas_; }

  private:
    friend class Layers;
    struct Found {
        const Element* element = nullptr;
        Placed parent{};
    };
    const Found* find(std::string_view id) const;
    bool readable(const MapRef& ref) const;
    void place(const Elements& list, const Placed& parent);
    const Lighting& lighting();
    OperationPtr ground(const Color& color) const;

    OperationPtr source(const Element& e, const Placed& placed);
    OperationPtr stepped(const Element& e, const Placed& placed, int steps);
    /// Where a step's gradients run: the element's box, and the map it lies by.
    struct Frame {
        Box box;
        Affine to_device;
    };
    Frame frame_of(const Element& e, const Placed& placed) const;
    Frame canvas_frame() const;
    Context context_of(const Placed& placed, const Frame& frame, bool lit) const;
    std::shared_ptr<Operation> reading(const char* what, const MapRef& ref, const OperationPtr& itself);
    std::vector<OperationPtr> maps_of(const Step& step, const OperationPtr& below);
    /// The same for one of its steps, whose box those before it may have cut.
    Context context_at(const Element& e, const Placed& placed, std::size_t step);
    OperationPtr step(const OperationPtr& below, std::string_view of, const Step& step, Context context,
                      const Painting* painting);
    OperationPtr followed(const Element& twin, const Placed& placed);
    OperationPtr surfaced(OperationPtr own, const Element& e);
    OperationPtr own(const Element& e, const Placed& parent);
    OperationPtr masked(const Element& e, const Placed& parent);
    OperationPtr joined(OperationPtr below, const Elements& list, const Placed& parent, bool root = false);
    OperationPtr joined_one(OperationPtr below, const Elements& list, std::size_t i, const Placed& parent);
    OperationPtr joined_one(const OperationPtr& below, const Element& e, const OperationPtr& masked,
                            const OperationPtr& clip, bool stands = false);
    OperationPtr clip_of(const Elements& list, std::size_t i, const Placed& parent, bool& gone);
    using Key = std::pair<const Element*, std::uint64_t>;
    static Key key_of(const Element& e, const Placed& parent);

    Scene scene_;
    double scale_;
    Region canvas_;
    std::map<std::string, Found, std::less<>> found_;
    OperationPtr relief_;
    std::map<Key, OperationPtr> own_, masked_; // by element and where its list lies
    std::deque<Element> followed_;             // copies of what twins show, at their places
    std::optional<Lighting> lighting_;
};

/// Whether an element goes on as a picture that light does not touch again: a group lit by itself, or its
/// twin.
bool is_lit_picture(const Piece& piece, const Element& element);

/// The operation that gives nothing.
OperationPtr nothing();

/// Gives all of a bundle a surface, its maps left out.
void set_surface(Bundle& bundle, const Surface& surface);

} // namespace bathylux
