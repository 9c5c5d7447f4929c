#pragma once
#include <map>
#include <memory>

#include "app/document/renderer.h"

namespace bathylux {

/// Pictures of frames as the table shows them, kept as long as neither the piece nor the look at it changes;
/// those longest unused go where they would take too much.
class ReadyFrames {
  public:
    /// What a picture of a frame depends on beside the frame.
    static quint64 look(const Shot& shot);

    void keep(quint64 look, int frame, const Frame& picture);
    std::shared_ptr<Frame> find(quint64 look, int frame);
    /// Whether that frame is there, of the look that was kept last.
    bool has(int frame) const { return kept_.contains(frame); }
    void clear() { kept_.clear(), bytes_ = 0; }

  private:
    static constexpr std::size_t most = std::size_t{384} << 20; // bytes
    struct Kept {
        std::shared_ptr<Frame> frame;
        std::size_t bytes = 0;
        quint64 used = 0;
    };
    quint64 look_ = 0, uses_ = 0;
    std::size_t bytes_ = 0;
    std::map<int, Kept> kept_;
};

} // namespace bathylux
