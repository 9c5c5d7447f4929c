#pragma once
#include <memory>

#include "app/document/renderer.h"

namespace bathylux {

/// Pictures of frames as the table shows them, to be played again without being made.
class ReadyFrames {
  public:
    /// They count as what lasts in a budget.
    explicit ReadyFrames(std::shared_ptr<Budget> budget) : budget_(std::move(budget)) {}
    /// What a picture of a frame depends on beside the frame.
    static quint64 look(const Shot& shot);

    void keep(quint64 look, int frame, const Frame& picture);
    std::shared_ptr<const Frame> find(quint64 look, int frame);
    /// Whether that frame is there, of the look that was kept last.
    bool has(int frame) const { return budget_->has(key(look_, frame)); }

  private:
    static quint64 key(quint64 look, int frame);
    std::shared_ptr<Budget> budget_;
    quint64 look_ = 0;
};

} // namespace bathylux
