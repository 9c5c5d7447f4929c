#pragma once
#include "core/make/source_kind.h"

namespace bathylux {

/// A picture file: photograph, scan, drawing, existing map.
struct PictureSource {
    std::string file;

    static constexpr std::string_view id = "picture", name = "Picture", help = "A picture file";
    static constexpr bool has_rim = true;
    static constexpr Channels gives = channel::color | channel::tone;
    static constexpr std::array parameters{
        bathylux::file<&PictureSource::file>("file", "File", "PNG, JPEG, TIFF, WebP or EXR"),
    };

    Bundle give(const SourceContext& context) const;
};

/// A picture, or one of its frames, where a source's placement lays it: colour, coverage and stored samples.
/// With edge `none` the rim of an opaque picture is an outline.
Bundle picture_bundle(const SourceContext& context, const Asset& asset);

} // namespace bathylux
