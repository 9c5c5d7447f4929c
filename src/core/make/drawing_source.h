#pragma once
#include "core/make/source_kind.h"

namespace bathylux {

/// A vector drawing. Its extent is the drawing's own view box.
struct SvgSource {
    std::string file;

    static constexpr bool outlined = true;
    static constexpr std::string_view id = "svg", name = "Drawing", help = "A vector drawing";
    static constexpr std::array parameters{
        bathylux::file<&SvgSource::file>("file", "File", "SVG"),
    };

    Bundle give(const SourceContext& context) const;
};

} // namespace bathylux
