#include "app/document/ready_frames.h"

#include "core/field/hash.h"

namespace bathylux {

quint64 ReadyFrames::look(const Shot& s) {
    Hash h;
    h << s.saying << s.scale << s.region.x0 << s.region.y0 << s.region.x1 << s.region.y1
      << static_cast<int>(s.left) << static_cast<int>(s.right) << s.leftMood << s.rightMood << s.grey
      << s.contourStep << s.join << s.showClipped << s.onion << s.knocked << s.knockedStep << s.pieceNumber;
    return h.value();
}

quint64 ReadyFrames::key(quint64 look, int frame) {
    Hash h;
    h << "frame" << look << frame;
    return h.value();
}

void ReadyFrames::keep(quint64 look, int frame, const Frame& picture) {
    look_ = look;
    auto kept = std::make_shared<Frame>(picture);
    // What is only looked at needs neither the relief nor what it was made from.
    kept->relief.reset();
    kept->assets.reset();
    const auto bytes = static_cast<std::size_t>(kept->left.sizeInBytes() + kept->right.sizeInBytes());
    budget_->keep(key(look, frame), {kept, bytes}, Lasts::lasting);
}

std::shared_ptr<const Frame> ReadyFrames::find(quint64 look, int frame) {
    return std::static_pointer_cast<const Frame>(budget_->find(key(look, frame)));
}

} // namespace bathylux
