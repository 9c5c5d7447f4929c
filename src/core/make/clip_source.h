#pragma once
#include "core/make/source_kind.h"
#include "core/time/rate.h"

namespace bathylux {

/// What a clip shows before its part that is used and past it.
enum class Past : std::uint8_t { hold, repeat, bounce, nothing };
inline constexpr std::array<std::string_view, 4> past_names{"hold", "repeat", "bounce", "nothing"};

/// A film file, or numbered pictures at the piece's rate.
struct ClipSource {
    std::string file;
    std::vector<std::string> files;
    float start = 0;           // frame of the piece at which it begins
    float first = 0, last = 0; // "in" and "out": seconds from the clip's first frame; out 0: its end
    float speed = 1;
    Past past = Past::hold;

    static constexpr std::string_view id = "clip", name = "Clip",
                                      help = "A film, or pictures one after another";
    static constexpr bool has_rim = true;
    static constexpr Channels gives = channel::color | channel::tone;
    static constexpr std::array parameters{
        bathylux::file<&ClipSource::file>("file", "Film", "WebM, MP4, MOV, MKV, APNG, GIF or animated WebP"),
        file_list<&ClipSource::files>("files", "Pictures", "Or a picture a frame, in order"),
        number<&ClipSource::start>("start", "Starts at frame", Unit::none, {-96, 96, -1e6, 1e6},
                                   "Frame of the piece that shows where it is cut in"),
        number<&ClipSource::first>("in", "Cut in", Unit::none, {0, 60, 0, 1e6},
                                   "Seconds of the clip that are left out before"),
        number<&ClipSource::last>("out", "Cut out", Unit::none, {0, 60, 0, 1e6},
                                  "Second of the clip at which it ends; 0: where it ends itself"),
        number<&ClipSource::speed>("speed", "Speed", Unit::none, {-2, 2, -1000, 1000},
                                   "1: as it is; 0: it stands still; below: backwards, from its end"),
        choice<&ClipSource::past, past_names>("past", "Past its ends", "What shows before and after"),
    };

    Bundle give(const SourceContext& context) const;
};

/// When the frames of a clip begin, as far as is needed to say which is shown.
struct ClipTimes {
    std::span<const double> begins; // seconds from the first, ascending, at least one
    double length = 0;              // to the end of the last
    double tick = 0;                // what the times are rounded to
};

/// Which frame of a clip a frame of the piece shows; −1: none. Clip time is in + (n − start) ÷ rate × speed,
/// from out where speed is negative; shown is the last frame begun by then.
int clip_frame(const ClipSource& clip, const ClipTimes& times, double frame, const Rate& rate);

} // namespace bathylux
