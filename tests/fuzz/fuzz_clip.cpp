// Whatever bytes a clip is made of: it is read, or refused with an Error; nothing else. See scripts/fuzz.sh.
#include "core/error.h"
#include "files/films.h"

extern "C" bathylux::files::FilmModule* bathylux_film_module();

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    using namespace bathylux;
    const auto* from = reinterpret_cast<const std::byte*>(data);
    try {
        const auto clip = bathylux_film_module()->open({}, std::make_shared<const files::Bytes>(from, from + size));
        if (clip->frames() == 0 || double(clip->width) * clip->height > 1e6) return 0;
        // In no order.
        for (const int i : {clip->frames() - 1, 0, clip->frames() / 2}) (void)clip->frame(i);
    } catch (const Error&) {
    }
    return 0;
}
