#pragma once
#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/colour/blend.h"
#include "core/piece/kind.h"
#include "core/piece/step_kind.h"

namespace bathylux {

// The piece is a value: an edit makes a new one, undo keeps old ones. Members named `rest` hold what the
// file said beyond what this version knows; it is written back untouched.

/// One placement carries an element's colour, height and coverage alike. Scale comes before turn.
struct Placement {
    float x = 0, y = 0;             // canvas px, where the source's centre lies
    float turn = 0;                 // degrees, counter-clockwise as seen
    float scale_u = 1, scale_v = 1; // negative mirrors
    Edge edge = Edge::none;         // what a picture shows past its own rim
    Json rest;

    static constexpr std::string_view id = "placement", name = "Placement", help = "Where the element lies";
    static const std::array<Parameter, 6> parameters;
    /// Source px about the source's centre → canvas px.
    Affine matrix() const;
};

/// How an element's height joins what lies below.
enum class HeightMode : std::uint8_t { add, subtract, higher, lower, replace, carve };

/// What is read off an element that serves as a map: its coverage, the brightness of its art, its height or
/// its slope.
enum class MapOf : std::uint8_t { alpha, tone, height, slope };

/// A quantity 0…1 taken from another element, wherever that lies: a mask, or where a step works. Heights
/// count from the element's lowest to its highest place, slopes from level to upright.
struct MapRef {
    std::string element; // its id
    MapOf of = MapOf::tone;
    float low = 0, high = 1; // the tone window: values from low to high become 0 to 1
    bool sink = false;       // white hides instead of shows
    Json rest;

    static constexpr std::string_view id = "map", name = "Map",
                                      help = "A quantity taken from another element";
    static const std::array<Parameter, 5> parameters;
};

/// How an element joins what lies below it.
struct Mix {
    BlendMode blend = BlendMode::normal;
    float opacity = 1; // of colour only
    HeightMode height = HeightMode::add;
    bool visible = true;
    bool linear = false; // blend in linear light rather than sRGB-encoded
    bool clip = false;   // shows only where the element below it (the next that is not clipped) does
    std::optional<MapRef> mask;
    Json rest;

    static constexpr std::string_view id = "mix", name = "Mixing",
                                      help = "How the element joins what lies below";
    static const std::array<Parameter, 6> parameters;
};

/// A property of the surface driven by another element: where the map is black the property has the value
/// `black`, where it is white its own.
struct SurfaceMap {
    std::string parameter; // id of one of Surface's numbers
    float black = 0;
    std::optional<MapRef> map; // none: as if it were not there
};

/// What the material is like: glTF 2.0 metallic-roughness with KHR_materials_specular, _clearcoat and _sheen.
struct Surface {
    float roughness = 0.5f, metallic = 0;
    float specular = 1;                      // of what is no metal: specularFactor
    float coat = 0, coat_roughness = 0.1f;   // clearcoatFactor, clearcoatRoughnessFactor
    float sheen = 0, sheen_roughness = 0.5f; // sheenColorFactor = sheen × lerp(white, base, sheen_tint)
    float sheen_tint = 0.5f;
    float own_color = 0; // how much of `color` replaces the art's own
    Color color{0.8f, 0.8f, 0.8f, 1};
    std::vector<SurfaceMap> maps{}; // at most one a property
    Json rest{};

    static constexpr std::string_view id = "surface", name = "Surface",
                                      help = "How the material takes the light";
    static const std::array<Parameter, 10> parameters;
    const SurfaceMap* map_of(std::string_view parameter) const;
};

struct Step {
    std::string id;
    bool on = true;
    Described what; // its kind is a StepKind
    Json rest;
    std::optional<MapRef> map = {}; // where, and how strongly, it works

    const StepKind& kind() const { return static_cast<const StepKind&>(what.kind()); }
};

struct Element {
    std::string id, name;
    Described source;
    Json source_rest;
    Placement placement;
    Mix mix;
    std::optional<Surface> surface; // none: leaves the surface below as it is
    std::vector<Step> steps;
    std::vector<Element> elements; // of a group, back to front
    Json rest;

    bool is_group() const { return source.is("group"); }
};

struct Light {
    std::string id, name;
    bool on = true;
    Described what;
    Json rest;
    bool alone = false; // while any light is, the others are dark
    std::string tied{}; // id of the element it goes with: places are then px about that element's centre,
                        // before its own scale and turn; "": the canvas's
};

struct Canvas {
    float width = 1280, height = 800; // whole px
    float px_per_mm = 12;
    Color background{0, 0, 0, 0};
    std::optional<std::pair<float, float>> height_range; // none: auto
    Edge edge = Edge::clamp;                             // `repeat`: the canvas is a tile
    float draft = 0; // degrees a die's walls must lean at least; 0: no die
    float mesh = 0;  // mm: the finest mesh or dot the relief will be made with; 0: none stated
    Json rest;

    static constexpr std::string_view id = "canvas", name = "Canvas",
                                      help = "Size, scale and ground of the piece";
    static const std::array<Parameter, 6> parameters;
    int columns() const { return static_cast<int>(width); }
    int rows() const { return static_cast<int>(height); }
};

struct Ambient {
    Color color{1, 1, 1, 1};
    float intensity = 0.1f;
    bool occlusion = false; // grooves see less of it
    float strength = 1, radius = 0;
    Json rest;

    static constexpr std::string_view id = "ambient", name = "Ambient light",
                                      help = "Light from everywhere at once";
    static const std::array<Parameter, 5> parameters;
};

/// What one looks through: set-ups of light kept side by side. The one in use lies in the piece itself; its
/// place in the list keeps only its name.
struct Take {
    std::string id, name;
    std::vector<Light> lights{};
    Ambient ambient{};
    float exposure = 0;
    bool keep_flat_color = false;
    Json rest{};
};

/// How bright light is rolled off before it is shown: not at all; above 0.7 only; along an S.
enum class RollOff : std::uint8_t { none, gentle, film };

/// The line along which the drawer shows the relief's profile, canvas px.
struct SectionLine {
    Vec2 a, b;
};

struct Piece {
    Canvas canvas;
    std::vector<Element> elements; // back to front
    Surface surface;               // where no element says otherwise
    std::vector<Light> lights;
    Ambient ambient;
    float exposure = 0; // stops
    bool keep_flat_color = false;
    RollOff roll_off = RollOff::none;
    float relight = 1; // strength of the lit picture over the flat one
    BlendMode relight_blend = BlendMode::normal;
    std::vector<Take> takes; // empty, or with the one in use among them
    std::string take;        // id of the one in use
    std::optional<SectionLine> section;
    std::vector<float> guides_x, guides_y; // canvas px
    bool newer = false;                    // written by a later version: to look at, not to change
    Json rest;

    static constexpr std::string_view id = "piece", name = "Piece", help = "Exposure and colour of the whole";
    static const std::array<Parameter, 5> parameters;
};

/// The element of that id anywhere in the tree, or null.
const Element* find_element(const std::vector<Element>& elements, std::string_view id);
Element* find_element(std::vector<Element>& elements, std::string_view id);
/// The list that directly holds that element, or null.
std::vector<Element>* find_siblings(std::vector<Element>& elements, std::string_view id);
/// Calls `visit` for every element, parents before their children.
void for_each_element(const std::vector<Element>& elements, const std::function<void(const Element&)>& visit);
/// The same piece lit by one of its takes; the one in use goes to its place in the list. Unknown ids change
/// nothing.
void use_take(Piece& piece, std::string_view id);

/// An id that starts like `wish` (letters, digits, dashes) and that no element, step or light of the piece
/// has.
std::string free_id(const Piece& piece, std::string_view wish);

} // namespace bathylux
