#include "core/colour/fill.h"

#include "core/colour/recolour.h"

namespace bathylux {

Bundle Fill::apply(const Bundle& below, const Context& context) const {
    Bundle out = to_recolour(below, context.region);
    const float k = amount * color.a;
    const int w = out.region.width();
    const float to[3] = {color.r, color.g, color.b};
    const Rows alpha(below.region == out.region ? below.coverage : out.coverage, w);
    for (int c = 0; c < 3; ++c) {
        if (out.coverage.is_constant() && k == 1) {
            out.color[c] = Field(out.coverage.constant() * srgb_decode(to[c]));
            continue;
        }
        Plane& plane = out.color[c].writable(w, out.region.height());
        const float solid = srgb_decode(to[c]);
        parallel_rows(0, out.region.height(), [&](int y) {
            const float* a = alpha(y);
            for (int x = 0; x < w; ++x) {
                float& v = plane(x, y);
                if (k == 1)
                    v = solid * a[x];
                else if (a[x] > 0) {
                    const float old = fast_srgb_encode(v / a[x]);
                    v = a[x] * fast_srgb_decode(old + k * (to[c] - old));
                }
            }
        });
    }
    return out;
}

} // namespace bathylux
