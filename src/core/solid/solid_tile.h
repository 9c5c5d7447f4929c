#pragma once
#include <limits>

#include "core/solid/solid_picture.h"
#include "core/solid/spread.h"

namespace bathylux {

// What one tile of a solid's picture is made with; of use to nobody else.
namespace solid_tile {

constexpr int block_width = 32, block_height = 8, block_area = block_width * block_height;
constexpr int most_layers = 4;                  // see-through ones, one behind the other
constexpr int most_goes = 24;                   // of sheets, on all of those
constexpr int first_sky_rays = 4, sky_rays = 1; // of the first sample, and of those that follow
constexpr int unsteady_sky_rays = 8;            // where every sample has to do by itself
constexpr float open_after = 8;                 // rays that all saw the sky: then no more are asked
constexpr int first_samples = 2; // after each of them px ask no more whether a lamp is seen …
constexpr int sure_around = 2;   // … where all px so far about them, in the tile, say the same
constexpr float seen_by_all = 1e6f, seen_by_none = -1e6f; // instead of how many saw it, where they do
constexpr float error_allowed = 0.012f; // of a px's mean: with that it takes no more samples …
constexpr float error_of_few = 0.004f; // … and with less where few samples say so: as much for each but one
constexpr float edge_apart = 0.1f;     // px beside each other: an edge may lie in them that no sample met yet
constexpr double lifted = 0.02;        // px that rays set out above where the skin was met
constexpr float never_met = std::numeric_limits<float>::infinity();

/// Px of a tile, a bit each, a word a row.
struct Mask {
    std::array<std::uint32_t, block_height> rows{};
    void set(int i) { rows[i / block_width] |= 1u << i % block_width; }
    bool operator[](int i) const { return rows[i / block_width] >> i % block_width & 1; }
    /// Those that have all about them set too, so many px far, as far as a tile of that size goes.
    Mask with_all_around(int reach, int width, int height) const;
};
static_assert(block_width == 32);

/// The places of a tile that are lit, side by side.
struct Lot {
    static constexpr int most = block_area + 16;
    using Row = std::array<float, most>;
    int count = 0;
    std::array<int, most> px;
    std::array<float, most> weight;
    std::array<Vec3, most> from; // where rays set out
    std::array<Vec3, most> normal;
    std::array<bool, most> ground, steady; // steady: what samples agreed on of that px holds for it
    std::array<float, most> art;           // how much of the flat art it shows, of what has no sheets
    std::array<int, most> record;          // where its light goes; −1: straight into the picture
    std::array<Row, 3> n, place, right, up, towards, level, base, out;
    Row roughness, metallic, specular, coat, coat_roughness, sheen, sheen_roughness, sheen_tint, open;
    std::vector<Row> seen;
    bool coated = false, soft = false;
};

/// One of the things seen through a px, where sheets lie one over the other: v becomes light + lets × v.
struct Record {
    std::array<float, 3> light{}; // premultiplied by how much it covers
    float cover = 0;
    std::array<float, 4> lets{1, 1, 1, 1}; // of what lies below: red, green, blue, coverage
    int before = -1;                       // what lies in front of it
    bool of_sheet = false;                 // a sheet's: what it covers is known before it is lit
    const SolidSheet* mixed_as = nullptr;  // it is mixed with what lies below as that sheet is
};

/// How far a look has come in the sheets that lie one over the other.
struct Under {
    int last = -1;       // its latest record
    int sheet = -1;      // the next to look at; −1: it looks along its ray
    int go = -1;         // when it last looked
    bool chosen = false; // one of several ways was taken by chance
    float art = 1;       // how much of the flat art is still to be seen
    SkinFrame frame;
    Vec2 at;               // where it looks now, canvas px
    Vec3 along, from, met; // which way; where rays set out above the skin that was met; where that was
};

/// The ground as it is looked at: it fades into the backdrop far from what stands on it.
struct Floor {
    explicit Floor(const SolidScene& scene);
    float there(Vec3 p) const;
    Vec3 middle;
    double size;
    std::array<float, 3> color; // linear
};

} // namespace solid_tile

/// What a tile keeps from sample to sample, by px.
struct SolidPicture::Kept {
    using Row = std::array<float, solid_tile::block_area>;
    std::vector<int> taking;   // px that take more samples
    std::array<Row, 7> sums{}; // lit, art, coverage
    Row taken{};               // samples
    Row shown{}, squares{};    // what they show, summed, and the sum of its squares
    Row met{};                 // how many of the first met something that is lit there
    std::vector<Row> seen;     // of every lamp: how many of those saw it
    Row open{}, open_rays{};   // rays that saw the sky, and how many there were
    Row depth = of_nothing();  // of the px's middle, as are the normals
    std::array<Row, 3> normals{};

    static Row of_nothing() {
        Row out;
        out.fill(solid_tile::never_met);
        return out;
    }
};

/// One tile of the picture, one sample at a time.
struct SolidPicture::Tile {
    using Lot = solid_tile::Lot;
    using Record = solid_tile::Record;
    using Under = solid_tile::Under;

    Tile(const SolidScene& s, const Sight& through, const solid_tile::Floor& f, Kept& kept, Region r)
        : scene(s), sight(through), floor(f), to(kept), region(r) {}

    const SolidScene& scene;
    const Sight& sight;
    const solid_tile::Floor& floor;
    Kept& to;
    Region region;
    Lot lot;
    std::array<Ray, solid_tile::block_area> rays;
    std::array<float, solid_tile::block_area> left; // how much of each px is still to be seen
    std::vector<Record> records;                    // of sheets: what is seen, front to back
    std::vector<Under> under;                       // of each px, where that are any

    // Px of a tile are numbered as if it were whole, however much of it lies in the picture.
    int x_of(int i) const { return region.x0 + i % solid_tile::block_width; }
    int y_of(int i) const { return region.y0 + i / solid_tile::block_width; }
    Spread spread(int i) const {
        return {static_cast<std::uint64_t>(y_of(i)) << 20 | static_cast<std::uint64_t>(x_of(i))};
    }

    bool in_sheets() const { return !scene.sheets.empty(); }

    void sample(int number);
    /// Whether something is still to be seen behind what these rays met.
    bool look(int number, int go, std::span<const int> px);
    /// Px that are so, with all about them.
    template <class Is> solid_tile::Mask widely(Is&& is) const {
        solid_tile::Mask out;
        for (const int i : to.taking)
            if (is(i)) out.set(i);
        return out.with_all_around(solid_tile::sure_around, region.width(), region.height());
    }
    /// What so many first samples agree on, in a px and about it, holds: whether a lamp is seen, and that the
    /// sky is. Only half-shadow is looked at by all of them.
    void agree(int samples);
    void agree_on_sky();
    /// Takes no more samples where the mean of so many is known well enough, in a px and about it, and no
    /// edge lies there.
    void settle(int samples);
    /// What tells one sample of a px from another: the sum of all it shows.
    float shown(int i) const;
    /// The nearest shown lamp that a ray meets before `nearest`.
    const Lamp* body_met(const Ray& ray, float& nearest) const;
    void show(int i, const Lamp& l);
    /// Of what is seen through a px, so much is left behind what it met.
    void finish_with(int i, float share);
    int note(int i, Record seen);
    /// What the records of a px come to, from the last to the first.
    void put_together(int i);
    /// Looks on through the sheets, from the front, until one is to be lit. Whether there is more to be seen.
    bool descend(int i, std::uint32_t s, int go);
    /// Where a see-through sheet leads a look, and what it lets through of what is seen there.
    void go_through(int i, const SolidSheet& sheet, const std::array<float, 3>& base, Record& seen,
                    std::uint32_t s, std::uint32_t number);
    /// Where rays set out from a place of a sheet: above all that throws shadow there.
    Vec3 from_of(const Under& u, Vec3 place) const;
    int next(int i, Vec3 along, Vec3 place, Vec3 normal, Vec3 level, Vec3 from, float share);
    void paint(int k, const std::array<float, 3>& base, const Bundle& b, int x, int y, float share);
    /// The skin, covered by the canvas or bare. Whether it can be seen through.
    bool cover(int i, const Ray& ray, const Skin::Hit& hit, bool tell, int go);
    /// The ground, so much of it as is there.
    void stand(int i, const Ray& ray, Vec3 met, float there, bool tell);
    /// Traces what is asked of a lot's places, eight at a time: bits of those whose way is stopped.
    template <class Ask> void trace(Ask&& ask, Lot::Row& seen) const;
    /// Whether the lot's places see a lamp.
    void look_for(std::size_t lamp, std::uint32_t s, std::uint32_t layer);
    void light(std::uint32_t s, std::uint32_t layer);
    void pad();
    /// How much of the sky every place sees, cosine-weighted: the mean of what all samples so far saw from
    /// the px, for what it dims is no mean of what single rays would dim.
    void look_up(std::uint32_t s, std::uint32_t layer);
};

} // namespace bathylux
