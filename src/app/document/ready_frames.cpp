#include "app/document/ready_frames.h"

#include <algorithm>

#include "core/field/hash.h"

namespace bathylux {

quint64 ReadyFrames::look(const Shot& s) {
    Hash h;
    h << s.saying << s.scale << s.region.x0 << s.region.y0 << s.region.x1 << s.region.y1
      << static_cast<int>(s.left) << static_cast<int>(s.right) << s.leftMood << s.rightMood << s.grey
      << s.contourStep << s.join << s.showClipped << s.onion << s.knocked << s.knockedStep << s.pieceNumber;
    return h.value();
}

void ReadyFrames::keep(quint64 look, int frame, const Frame& picture) {
    if (look != look_) clear();
    look_ = look;
    auto kept = std::make_shared<Frame>(picture);
    kept->relief.reset(); // what is only looked at needs none
    const auto bytes = static_cast<std::size_t>(kept->left.sizeInBytes() + kept->right.sizeInBytes());
    if (const auto before = kept_.find(frame); before != kept_.end()) bytes_ -= before->second.bytes;
    kept_[frame] = {kept, bytes, ++uses_};
    bytes_ += bytes;
    while (bytes_ > most && kept_.size() > 1) {
        const auto oldest = std::min_element(kept_.begin(), kept_.end(), [](const auto& a, const auto& b) {
            return a.second.used < b.second.used;
        });
        bytes_ -= oldest->second.bytes;
        kept_.erase(oldest);
    }
}

std::shared_ptr<Frame> ReadyFrames::find(quint64 look, int frame) {
    if (look != look_) return nullptr;
    const auto found = kept_.find(frame);
    if (found == kept_.end()) return nullptr;
    found->second.used = ++uses_;
    return found->second.frame;
}

} // namespace bathylux
