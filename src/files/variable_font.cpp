#include "files/variable_font.h"

#include <QRawFont>
#include <hb-ot.h>

#include <algorithm>
#include <cmath>

namespace bathylux::files {

namespace {

template <auto Destroy> struct With {
    template <class T> void operator()(T* p) const { Destroy(p); }
};
using Face = std::unique_ptr<hb_face_t, With<hb_face_destroy>>;
using Font = std::unique_ptr<hb_font_t, With<hb_font_destroy>>;
using Buffer = std::unique_ptr<hb_buffer_t, With<hb_buffer_destroy>>;
using Pen = std::unique_ptr<hb_draw_funcs_t, With<hb_draw_funcs_destroy>>;

constexpr double parts = 64; // positions are whole numbers; so many of them are a font px

hb_blob_t* table_of(hb_face_t*, hb_tag_t tag, void* font) {
    char name[5] = {};
    hb_tag_to_string(tag, name);
    const QByteArray table = static_cast<const QRawFont*>(font)->fontTable(name);
    return hb_blob_create(table.constData(), static_cast<unsigned>(table.size()), HB_MEMORY_MODE_DUPLICATE,
                          nullptr, nullptr);
}

QPointF at(float x, float y) { return {x / parts, -y / parts}; }
QPainterPath& path(void* p) { return *static_cast<QPainterPath*>(p); }

/// What draws a letter into a path.
Pen pen() {
    Pen out(hb_draw_funcs_create());
    hb_draw_funcs_set_move_to_func(
        out.get(),
        [](hb_draw_funcs_t*, void* p, hb_draw_state_t*, float x, float y, void*) {
            path(p).moveTo(at(x, y));
        },
        nullptr, nullptr);
    hb_draw_funcs_set_line_to_func(
        out.get(),
        [](hb_draw_funcs_t*, void* p, hb_draw_state_t*, float x, float y, void*) {
            path(p).lineTo(at(x, y));
        },
        nullptr, nullptr);
    hb_draw_funcs_set_quadratic_to_func(
        out.get(),
        [](hb_draw_funcs_t*, void* p, hb_draw_state_t*, float cx, float cy, float x, float y, void*) {
            path(p).quadTo(at(cx, cy), at(x, y));
        },
        nullptr, nullptr);
    hb_draw_funcs_set_cubic_to_func(
        out.get(),
        [](hb_draw_funcs_t*, void* p, hb_draw_state_t*, float ax, float ay, float bx, float by, float x,
           float y, void*) { path(p).cubicTo(at(ax, ay), at(bx, by), at(x, y)); },
        nullptr, nullptr);
    hb_draw_funcs_set_close_path_func(
        out.get(), [](hb_draw_funcs_t*, void* p, hb_draw_state_t*, void*) { path(p).closeSubpath(); },
        nullptr, nullptr);
    return out;
}

} // namespace

struct VariableFont::Shaper {
    QRawFont raw; // whose tables it reads
    Face face;
    Font font;
    std::vector<hb_ot_var_axis_info_t> axes;
};

std::optional<VariableFont> VariableFont::of(const QRawFont& font, double em, const Place& place) {
    if (!font.isValid() || font.fontTable("fvar").isEmpty()) return std::nullopt;
    auto s = std::make_shared<Shaper>();
    s->raw = font;
    s->face.reset(hb_face_create_for_tables(table_of, &s->raw, nullptr));
    unsigned n = hb_ot_var_get_axis_count(s->face.get());
    if (n == 0 || n > 64) return std::nullopt;
    s->axes.resize(n);
    hb_ot_var_get_axis_infos(s->face.get(), 0, &n, s->axes.data());
    s->font.reset(hb_font_create(s->face.get()));
    const int scale = static_cast<int>(std::lround(em * parts));
    hb_font_set_scale(s->font.get(), scale, scale);
    // HarfBuzz holds them within what the axes reach.
    const hb_variation_t stands[] = {
        {HB_OT_TAG_VAR_AXIS_WEIGHT, static_cast<float>(place.weight)},
        {HB_OT_TAG_VAR_AXIS_WIDTH, static_cast<float>(place.stretch)},
        {HB_OT_TAG_VAR_AXIS_SLANT, static_cast<float>(-place.slant)},
        {HB_OT_TAG_VAR_AXIS_OPTICAL_SIZE, static_cast<float>(place.optical)},
    };
    hb_font_set_variations(s->font.get(), stands, static_cast<unsigned>(std::size(stands)));
    VariableFont out;
    out.shaper_ = std::move(s);
    return out;
}

bool VariableFont::has(const char* axis) const {
    const hb_tag_t tag = hb_tag_from_string(axis, -1);
    return std::any_of(shaper_->axes.begin(), shaper_->axes.end(),
                       [&](const hb_ot_var_axis_info_t& a) { return a.tag == tag; });
}

std::optional<Line> VariableFont::line(const QString& text, double spacing) const {
    Line out;
    if (text.isEmpty()) return out;
    const Buffer buffer(hb_buffer_create());
    hb_buffer_add_utf16(buffer.get(), reinterpret_cast<const std::uint16_t*>(text.utf16()),
                        static_cast<int>(text.size()), 0, static_cast<int>(text.size()));
    hb_buffer_guess_segment_properties(buffer.get());
    // Letters that are set apart do not grow together (CSS Text 3, letter-spacing).
    const hb_feature_t apart[] = {{HB_TAG('l', 'i', 'g', 'a'), 0, 0, static_cast<unsigned>(-1)},
                                  {HB_TAG('c', 'l', 'i', 'g'), 0, 0, static_cast<unsigned>(-1)}};
    hb_shape(shaper_->font.get(), buffer.get(), apart, spacing != 0 ? 2 : 0);
    unsigned n = 0;
    const hb_glyph_info_t* infos = hb_buffer_get_glyph_infos(buffer.get(), &n);
    const hb_glyph_position_t* places = hb_buffer_get_glyph_positions(buffer.get(), &n);
    static const Pen draws = pen();
    for (unsigned i = 0; i < n; ++i) {
        if (infos[i].codepoint == 0) return std::nullopt;
        Glyph g;
        hb_font_get_glyph_shape(shaper_->font.get(), infos[i].codepoint, draws.get(), &g.path);
        g.x = out.advance + places[i].x_offset / parts, g.y = -places[i].y_offset / parts;
        g.advance = places[i].x_advance / parts;
        out.advance += g.advance;
        // Marks stand with their letter.
        if (i + 1 < n && infos[i + 1].cluster != infos[i].cluster) out.advance += spacing;
        out.glyphs.push_back(std::move(g));
    }
    return out;
}

} // namespace bathylux::files
