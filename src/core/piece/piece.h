#pragma once
#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/colour/blend.h"
#include "core/field/geometry.h"
#include "core/light/shade.h"
#include "core/piece/kinds.h"
#include "core/piece/node.h"
#include "core/solid/body.h"
#include "core/step/map_ref.h"
#include "core/time/rate.h"

namespace bathylux {

// What moves has keys or a link beside its value (Motions, by the parameter's id); the value is the one of
// the frame that the piece stands at (see pose.h).

// The piece is a value: an edit makes a new one, undo keeps old ones. Elements, steps and lights are nodes
// that pieces share: what an edit did not touch is the very same in both.

/// What the file said beyond what this version knows, as the text of a JSON object; "" for nothing. It is
/// written back untouched.
using Rest = std::string;

/// One placement carries an element's colour, height and coverage alike. Scale comes before turn.
struct Placement {
    float x = 0, y = 0;             // canvas px, where the source's centre lies
    float turn = 0;                 // degrees, counter-clockwise as seen
    float scale_u = 1, scale_v = 1; // negative mirrors
    Edge edge = Edge::none;         // what a picture shows past its own rim
    Rest rest;
    Motions motions;

    static constexpr std::string_view id = "placement", name = "Placement", help = "Where the element lies";
    static const std::array<Parameter, 6> parameters;
    /// Source px about the source's centre → canvas px.
    Affine matrix() const;
};

/// How an element's height joins what lies below.
enum class HeightMode : std::uint8_t { add, subtract, higher, lower, replace, carve };

/// How an element joins what lies below it.
struct Mix {
    BlendMode blend = BlendMode::normal;
    float opacity = 1; // of colour only
    HeightMode height = HeightMode::add;
    bool visible = true;
    bool linear = false; // blend in linear light rather than sRGB-encoded
    bool clip = false;   // shows only where the element below it (the next that is not clipped) does
    std::optional<MapRef> mask;
    Rest rest;
    Motions motions;

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

/// What the material is like: glTF 2.0 metallic-roughness with KHR_materials_specular, _clearcoat and _sheen,
/// and what shows through it.
struct Surface {
    float roughness = 0.5f, metallic = 0;
    float specular = 1;                      // of what is no metal: specularFactor
    float coat = 0, coat_roughness = 0.1f;   // clearcoatFactor, clearcoatRoughnessFactor
    float sheen = 0, sheen_roughness = 0.5f; // sheenColorFactor = sheen × lerp(white, base, sheen_tint)
    float sheen_tint = 0.5f;
    float own_color = 0; // how much of `color` replaces the art's own
    Color color = rgb(204, 204, 204);
    // KHR_materials_transmission, _ior and _volume: what lies below is seen through it, bent.
    float transmission = 0, ior = 1.5f;
    float thickness = 0; // canvas px
    Color attenuation_color = rgb(255, 255, 255);
    float attenuation_distance = 0; // canvas px; 0: nothing is held back
    std::vector<SurfaceMap> maps{}; // at most one a property
    Rest rest{};
    Motions motions{};

    static constexpr std::string_view id = "surface", name = "Surface",
                                      help = "How the material takes the light";
    static const std::array<Parameter, 15> parameters;
    const SurfaceMap* map_of(std::string_view parameter) const;
};

std::uint64_t content_hash(const Surface& surface);

struct Step {
    std::string id{}; // unique within its element
    bool on = true;
    Described what; // its kind is a StepKind
    Rest rest{};
    std::optional<MapRef> map = {}; // where, and how strongly, it works
    float share = 1;                // how much of it counts: before + share × map × (after − before)
    Motions motions = {};           // of its kind's parameters and its share

    /// What every step has beside its kind's own.
    static const std::array<Parameter, 1> parameters;

    const StepKind& kind() const { return step_kind_of(what); }
};
std::uint64_t content_hash(const Step& step);
using Steps = std::vector<Node<Step>>;

struct Element;
std::uint64_t content_hash(const Element& element);
using Elements = std::vector<Node<Element>>;

struct Element {
    std::string id, name;
    Described source;
    Rest source_rest{};
    Motions source_motions{};
    Placement placement{};
    Mix mix{};
    std::optional<Surface> surface{}; // none: leaves the surface below as it is
    Steps steps{};
    Elements elements{}; // of a group, back to front
    bool locked = false; // the hand cannot take it on the table
    Rest rest{};

    const SourceKind& kind() const { return source_kind_of(source); }
    bool is_group() const { return kind().holds_elements; }
};

/// Where a light of a solid stands: in its space, where a plane of the canvas's size would have it; over the
/// skin, at the place its canvas point comes to lie; before the camera, whichever way that looks.
enum class Stands : std::uint8_t { space, body, camera };
inline constexpr std::array<std::string_view, 3> stands_names{"space", "body", "camera"};

struct Light {
    std::string id, name;
    bool on = true;
    Described what;
    Rest rest{};
    bool alone = false; // while any light is, the others are dark
    std::string tied{}; // id of the element it goes with: places are then px about that element's centre,
                        // before its own scale and turn; "": the canvas's
    Stands stands = Stands::space; // of a solid
    Motions motions{};

    const LightKind& kind() const { return light_kind_of(what); }
};
std::uint64_t content_hash(const Light& light);
using Lights = std::vector<Node<Light>>;

struct Canvas {
    float width = 1280, height = 800; // whole px
    float px_per_mm = 12;
    Color background{0, 0, 0, 0};
    std::optional<std::pair<float, float>> height_range; // none: auto
    Edge edge = Edge::clamp;                             // `repeat`: the canvas is a tile
    float draft = 0; // degrees a die's walls must lean at least; 0: no die
    float mesh = 0;  // mm: the finest mesh or dot the relief will be made with; 0: none stated
    Rest rest;

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
    Rest rest;
    Motions motions;

    static constexpr std::string_view id = "ambient", name = "Ambient light",
                                      help = "Light from everywhere at once";
    static const std::array<Parameter, 5> parameters;
};

/// A set-up of light, kept beside others of the piece. The one in use lies in the piece itself; its place in
/// the list keeps only its name.
struct Mood {
    std::string id, name;
    Lights lights{};
    Ambient ambient{};
    float exposure = 0;
    bool keep_flat_color = false;
    Rest rest{};
};

/// A camera that is kept by its name.
struct KeptCamera {
    std::string name;
    Camera camera;
    Rest rest{};
};

/// The body that the piece lies on.
struct Solid {
    Body body;
    Surface surface{.roughness = 0.6f}; // of the body itself
    Camera camera;
    GroundPlane ground;
    std::vector<KeptCamera> cameras;
    Rest rest, camera_rest, ground_rest;
    Motions motions, camera_motions, ground_motions; // of the body, and of those
};
std::uint64_t content_hash(const Solid& solid);

/// The line along which the drawer shows the relief's profile, canvas px.
struct SectionLine {
    Vec2 a, b;
};

struct Piece {
    Canvas canvas;
    Elements elements; // back to front
    Surface surface;   // where no element says otherwise
    Lights lights;
    Ambient ambient;
    float exposure = 0; // stops
    bool keep_flat_color = false;
    RollOff roll_off = RollOff::none;
    float relight = 1; // strength of the lit picture over the flat one
    BlendMode relight_blend = BlendMode::normal;
    Steps finish;            // what lies over the lit picture, front last
    std::vector<Mood> moods; // empty, or with the one in use among them
    std::string mood;        // id of the one in use
    std::optional<Solid> solid;
    std::optional<SectionLine> section;
    std::vector<float> guides_x, guides_y; // canvas px
    bool newer = false;                    // written by a later version: to look at, not to change
    std::optional<Timing> time;            // how it runs
    Motions motions;                       // of exposure and the like
    Rest rest;

    static constexpr std::string_view id = "piece", name = "Piece", help = "Exposure and colour of the whole";
    static const std::array<Parameter, 5> parameters;
};

/// Names all that a piece says.
std::uint64_t content_hash(const Piece& piece);

/// The element of that id anywhere in the tree, or null.
const Element* find_element(const Elements& elements, std::string_view id);
/// What the finish is called where an element's id stands otherwise; no element has it.
inline constexpr std::string_view finish_id = "finish";
/// The finish as an element: its steps, and nothing else. `change` takes what was done to its steps, those
/// that cannot lie over the lit picture left out.
Element finish_element(const Piece& piece);
/// The steps of an element, or of the finish; null where there is no such element.
const Steps* steps_of(const Piece& piece, std::string_view owner);
/// The step of that id among others, or null; and where it stands, or −1.
const Step* find_step(const Steps& steps, std::string_view id);
int index_of_step(const Steps& steps, std::string_view id);
const Light* find_light(const Piece& piece, std::string_view id);
/// The list that directly holds that element, or null; and the id of the group it is the list of, "" for the
/// canvas and for elements there are none of.
const Elements* find_siblings(const Piece& piece, std::string_view id);
std::string group_of(const Piece& piece, std::string_view id);
/// What an element of a list is clipped to: where the next one behind it stands that is not clipped itself;
/// −1 where it is not clipped, or nothing lies behind it to be clipped to.
int clipped_to(const Elements& list, std::size_t index);
/// Calls `visit` for every element, parents before their children.
void for_each_element(const Elements& elements, const std::function<void(const Element&)>& visit);
/// Calls `visit` for every light, those of the moods that wait among them.
void for_each_light(const Piece& piece, const std::function<void(const Light&)>& visit);

// Changing one thing makes new nodes along the way to it. What is not there is not changed: false.

bool change(Elements& elements, std::string_view id, const std::function<void(Element&)>& work);
/// The same, and of finish_id the finish as an element.
bool change(Piece& piece, std::string_view id, const std::function<void(Element&)>& work);
/// `owner`: the id of an element, or finish_id.
bool change_steps(Piece& piece, std::string_view owner, const std::function<void(Steps&)>& work);
bool change_step(Piece& piece, std::string_view owner, std::string_view step,
                 const std::function<void(Step&)>& work);
bool change_light(Piece& piece, std::string_view id, const std::function<void(Light&)>& work);
/// Every element, children before their parents.
void change_all(Elements& elements, const std::function<void(Element&)>& work);
/// Every light, those of the moods that wait among them.
void change_all_lights(Piece& piece, const std::function<void(Light&)>& work);
/// The list of a group's elements, or with "" the canvas's.
bool change_list(Piece& piece, std::string_view group, const std::function<void(Elements&)>& work);

/// The same piece lit by one of its moods; the one in use goes to its place in the list. Unknown ids change
/// nothing.
void use_mood(Piece& piece, std::string_view id);

/// An id that starts like `wish` (letters, digits, dashes) and that no element or light of the piece has.
std::string free_id(const Piece& piece, std::string_view wish);
/// The same among the steps of an element.
std::string free_step_id(const Steps& steps, std::string_view wish);

} // namespace bathylux
