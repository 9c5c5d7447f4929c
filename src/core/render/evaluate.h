#pragma once
#include <functional>
#include <list>
#include <mutex>
#include <stop_token>
#include <unordered_map>

#include "core/piece/bundle.h"
#include "core/render/join.h"
#include "core/render/scene.h"

namespace bathylux {

/// Evaluates pieces: pure functions of the scene, the region and the scale, whose results are kept by a
/// hash of exactly those, up to a budget of bytes (0 keeps nothing). May be used from several threads.
class Evaluator : public Memo {
  public:
    explicit Evaluator(std::size_t budget_bytes = 256u << 20) : budget_(budget_bytes) {}

    using Progress = std::function<void(double)>; // 0…1

    /// All elements joined, on the canvas's ground, over `region` (device px at `scale`, within the canvas).
    /// Heights are canvas px at every scale. Throws Cancelled when asked to stop.
    Bundle relief(const Scene& scene, Region region, double scale, std::stop_token stop = {},
                  const Progress& progress = {});

    /// One element by itself (its source and steps, not mixed), over the part of `region` it can reach.
    /// `steps`: how many of its steps to take; −1 for all. Empty region: it gives nothing there.
    Bundle element(const Scene& scene, std::string_view id, Region region, double scale,
                   std::stop_token stop = {}, int steps = -1);

    /// What an element serves as a map, 0…1, over a region of the canvas.
    Field map(const Scene& scene, const MapRef& ref, Region region, double scale, std::stop_token stop = {});

    std::shared_ptr<const Plane> plane(std::uint64_t key, const std::function<Plane()>& make) override;

  private:
    struct Frame; // one evaluation's circumstances
    struct Kept {
        std::uint64_t key;
        std::shared_ptr<const void> what;
        std::size_t bytes;
    };

    Bundle own(const Frame& frame, const Element& element, const Placed& parent, Region region, int steps);
    Bundle stepped(const Frame& frame, const Element& element, const Placed& placed, Region region,
                   int steps);
    Bundle source(const Frame& frame, const Element& element, const Placed& placed, Region region);
    Bundle shapes(const Frame& frame, const std::vector<Layer>& layers, std::uint64_t hash, const Affine& map,
                  Region region);
    Bundle picture(const Frame& frame, const Element& element, const Asset& asset, const Affine& map,
                   Region region);
    Bundle computed(const Frame& frame, const Element& element, const Placed& placed, Region region);
    Bundle normal_map(const Frame& frame, const Element& element, const Asset& asset, const Placed& placed,
                      Region region);
    void join_element(const Frame& frame, const std::vector<Element>& list, std::size_t i,
                      const Placed& parent, Region region, Bundle& below);
    Field map(const Frame& frame, const MapRef& ref, Region region);
    void give_surface(const Frame& frame, const Surface& surface, Bundle& out);
    Bundle group(const Frame& frame, const Element& element, const Placed& placed, Region region);

    template <class T> std::shared_ptr<const T> find(std::uint64_t key);
    void keep(std::uint64_t key, std::shared_ptr<const void> what, std::size_t bytes);

    std::mutex mutex_;
    std::size_t budget_, bytes_ = 0;
    std::list<Kept> used_; // most recently used first
    std::unordered_map<std::uint64_t, std::list<Kept>::iterator> index_;
    std::vector<std::uint64_t> last_elements_; // hashes of the elements of the last whole evaluation
};

/// Names everything that the relief of a scene depends on, lights left out: equal values, equal relief.
std::uint64_t relief_hash(const Scene& scene);

} // namespace bathylux
