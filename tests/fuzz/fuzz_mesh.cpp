// Whatever bytes a mesh is made of, by whichever name: it is read, or refused with an Error; nothing else. The first
// byte says the name. See scripts/fuzz.sh.
#include <array>

#include "core/error.h"
#include "files/meshes.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    using namespace bathylux;
    if (size < 2) return 0;
    static constexpr std::array names{"m.stl", "m.ply", "m.obj", "m.glb", "m.gltf"};
    const auto bytes = std::as_bytes(std::span(data + 1, size - 1));
    try {
        (void)files::read_mesh(bytes, names[data[0] % names.size()]);
    } catch (const Error&) {
    }
    return 0;
}
