#include "core/make/clip_source.h"

#include <algorithm>
#include <cmath>

#include "core/make/picture_source.h"

namespace bathylux {

Bundle ClipSource::give(const SourceContext& context) const {
    if (!context.asset || !context.asset->picture) return {};
    return picture_bundle(context, *context.asset);
}

int clip_frame(const ClipSource& clip, const ClipTimes& times, double frame, const Rate& rate) {
    const double end = clip.last > 0 ? std::min(double(clip.last), times.length) : times.length,
                 begin = std::min(double(clip.first), times.length);
    // A time that a container rounded up has begun all the same.
    const double forgiven =
        1e-9 + std::min(0.999 * times.tick, 0.25 * times.length / double(times.begins.size()));
    const auto begun_by = [&](double t) {
        const auto after = std::upper_bound(times.begins.begin(), times.begins.end(), t + forgiven);
        return std::max<std::ptrdiff_t>(after - times.begins.begin(), 1) - 1;
    };
    // The frames of the part in use: from the one shown where it is cut in to the last begun before out.
    const std::ptrdiff_t first = begun_by(begin);
    const auto before_end = std::lower_bound(times.begins.begin(), times.begins.end(), end - forgiven);
    const std::ptrdiff_t last = std::max<std::ptrdiff_t>(before_end - times.begins.begin() - 1, first);
    const double length = std::max(end - begin, 1e-9);
    const double way = (frame - double(clip.start)) * double(rate.seconds) / double(rate.frames) * clip.speed;
    double t = (clip.speed < 0 ? end : begin) + way;
    const bool within =
        t >= begin - forgiven && (t < end - forgiven || (clip.speed < 0 && t <= end + forgiven));
    if (!within) switch (clip.past) {
        case Past::nothing: return -1;
        case Past::hold: return static_cast<int>(t < begin ? first : last);
        case Past::repeat:
            t -= begin;
            t -= length * std::floor((t + forgiven) / length);
            t += begin;
            break;
        case Past::bounce: {
            // By frames, so that those at the ends show once.
            const auto n = last - first;
            if (n == 0) return static_cast<int>(first);
            const double each = length / static_cast<double>(n + 1);
            auto i = static_cast<long long>(std::floor((t - begin + forgiven) / each)) % (2 * n);
            if (i < 0) i += 2 * n;
            return static_cast<int>(first + (i > n ? 2 * n - i : i));
        }
        }
    return static_cast<int>(std::clamp(begun_by(t), first, last));
}

} // namespace bathylux
