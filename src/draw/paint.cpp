// Bundles of four by four rays, shaded where they meet; then fills and lines against the depths that were met.
#include "draw/paint.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "mesh/parallel.h"

namespace zither::draw {
namespace {

using mesh::Point;
using mesh::TriangleId;

// Where heights are compared, to either side: in pixels of a picture 600 high.
constexpr std::array<std::pair<float, float>, 8> around = {
    {{5, 0}, {3.5F, 3.5F}, {0, 5}, {-3.5F, 3.5F}, {12, 5}, {5, 12}, {-5, 12}, {-12, 5}}};

constexpr int side = 4;  // of a bundle of rays
static_assert(side * side == space::RayBundle::size);

// Lights that come with the eye: from the upper left, and a weaker one from the right. x right, y up, z to the eye.
const Eigen::Vector3f keyLight = Eigen::Vector3f(-0.35F, 0.55F, 0.75F).normalized();
const Eigen::Vector3f fillLight = Eigen::Vector3f(0.7F, -0.1F, 0.6F).normalized();

float smoothStep(float low, float high, float x) {
    const float t = std::clamp((x - low) / (high - low), 0.0F, 1.0F);
    return t * t * (3 - 2 * t);
}

// What of a triangle's looks is the same in each of its pixels.
struct Shade {
    TriangleId triangle = mesh::noIndex;
    bool faces = false;  // the eye sees its outside
    float light = 0.7F;
    Eigen::Vector3f normal = Eigen::Vector3f::UnitZ();  // towards the eye; of length 1
    float size = 0;                                     // in pixels, about
    std::array<float, 3> across{};  // by how much a barycentric coordinate changes from pixel to pixel
};

class Painter {
public:
    Painter(const Subject& subject, const Eye& eye)
        : subject_(subject), eye_(eye), into_(eye.into()), picture_(eye.width, eye.height, subject.inks.ground) {
        turn_ << eye.right.transpose(), eye.up.transpose(), -into_.transpose();
        turn_ /= eye.pixel;
        // Rays start before everything that there is.
        if (!subject.box.empty()) {
            const double reach = 0.6 * subject.box.diagonal();
            const double middle = (subject.box.centre() - eye.corner).dot(into_);
            start_ = middle - reach;
            through_ = 2 * reach;
        }
        const double view = 2 * eye.pixel * std::max(eye.width, eye.height);
        hidden_ = both(subject.hidden, subject.moved.hidden, bothHidden_);
        faint_ = subject.faint.empty() ? hidden_ : both(subject.faint, subject.moved.hidden, bothFaint_);
        constexpr double lifted = 6e-4;  // of what is in view
        lift_ = static_cast<float>(lifted * std::min(view, subject.box.empty() ? view : subject.box.diagonal()));
    }

    Picture run() {
        if (subject_.relief) skin_.resize(picture_.colours.size());
        if (subject_.rays && !subject_.box.empty()) {
            const int rows = (eye_.height + side - 1) / side;
            mesh::parallelFor(static_cast<std::size_t>(rows), 1,
                              [&](std::size_t row) { paintRow(side * static_cast<int>(row)); });
            if (subject_.relief) showRelief();
        }
        for (const Fill& fill : subject_.fills)
            for (std::size_t i = 0; i + 2 < fill.corners.size(); i += 3)
                paintFill({eye_.seen(fill.corners[i]), eye_.seen(fill.corners[i + 1]), eye_.seen(fill.corners[i + 2])},
                          fill);
        for (const Lines& lines : subject_.lines) paintLines(lines);
        return std::move(picture_);
    }

private:
    // ---- the surface

    // What lies behind what was met, layer by layer, each fainter.
    void paintLayers(int y) {
        constexpr int layers = 6;
        constexpr float covers = 0.42F;
        space::RayBundle rays;
        space::RayHits hits;
        Shade shade;
        rays.direction = into_;
        const double hair = 1e-7 * subject_.box.diagonal();
        for (int x = 0; x < eye_.width; x += side) {
            for (int i = 0; i < side * side; ++i) aim(rays, static_cast<std::size_t>(i), x + i % side, y + i / side);
            std::array<float, space::RayBundle::size> passes;
            passes.fill(1);
            std::array<Colour, space::RayBundle::size> seen;
            seen.fill(Colour::Zero());
            for (int layer = 0; layer < layers; ++layer) {
                meet(rays, hits, x, y);
                bool any = false;
                for (std::size_t k = 0; k < space::RayBundle::size; ++k) {
                    if (hits.triangle[k] == space::RayHits::none) continue;
                    any = true;
                    const TriangleId t(hits.triangle[k]);
                    if (shade.triangle != t) shade = shadeOf(*subject_.surface, t);
                    const int i = static_cast<int>(k);
                    const Colour colour = shownIn(x + i % side, y + i / side, shade, hits, k);
                    seen[k] += passes[k] * covers * colour;
                    passes[k] *= 1 - covers;
                    if (layer == 0) remember(picture_.at(x + i % side, y + i / side), shade, hits.along[k], false);
                    rays.near[k] = hits.along[k] + hair;
                }
                if (!any) break;
            }
            for (std::size_t k = 0; k < space::RayBundle::size; ++k) {
                const int i = static_cast<int>(k);
                if (passes[k] < 1)
                    picture_.colours[picture_.at(x + i % side, y + i / side)] =
                        seen[k] + passes[k] * subject_.inks.ground;
            }
        }
    }

    void paintRow(int y) {
        if (subject_.seeThrough) return paintLayers(y);
        space::RayBundle rays;
        space::RayHits hits;
        space::RayHits before;  // of what was moved
        Shade shade;
        rays.direction = into_;
        for (int x = 0; x < eye_.width; x += side) {
            for (int i = 0; i < side * side; ++i) aim(rays, static_cast<std::size_t>(i), x + i % side, y + i / side);
            meet(rays, hits, x, y);
            if (subject_.moved.surface) {
                subject_.moved.rays->meet(rays, before);
                paintMoved(x, y, rays, before, hits);
            }
            for (int i = 0; i < side * side; ++i) {
                const auto k = static_cast<std::size_t>(i);
                if (hits.triangle[k] == space::RayHits::none) continue;
                const TriangleId t(hits.triangle[k]);
                if (shade.triangle != t) shade = shadeOf(*subject_.surface, t);
                paintPixel(x + i % side, y + i / side, shade, hits, k, rays.from[k]);
            }
        }
    }

    // What rays of a bundle, of the pixels from (x, y) on, meet: of what is a ghost one pixel in five knows.
    void meet(const space::RayBundle& rays, space::RayHits& hits, int x, int y) const {
        subject_.rays->meet(rays, hits, faint_);
        if (subject_.faint.empty()) return;
        space::RayBundle ghosts = rays;
        for (int i = 0; i < side * side; ++i)
            if (!isGhostPixel(x + i % side, y + i / side)) ghosts.far[static_cast<std::size_t>(i)] = -1;
        space::RayHits through;
        subject_.rays->meet(ghosts, through, hidden_);
        for (std::size_t k = 0; k < space::RayBundle::size; ++k) {
            if (through.triangle[k] == space::RayHits::none) continue;
            hits.triangle[k] = through.triangle[k];
            hits.along[k] = through.along[k];
            hits.second[k] = through.second[k];
            hits.third[k] = through.third[k];
        }
    }

    // Flags of either; `room` is where both are kept where there are both.
    static std::span<const std::uint8_t> both(std::span<const std::uint8_t> a, std::span<const std::uint8_t> b,
                                              std::vector<std::uint8_t>& room) {
        if (a.empty() || b.empty()) return a.empty() ? b : a;
        room.assign(a.begin(), a.end());
        for (std::size_t i = 0; i < std::min(room.size(), b.size()); ++i) room[i] |= b[i];
        return room;
    }

    // Where what was moved lies before the rest: it is painted, and the rest is met no more.
    void paintMoved(int x, int y, const space::RayBundle& rays, const space::RayHits& moved, space::RayHits& hits) {
        for (int i = 0; i < side * side; ++i) {
            const auto k = static_cast<std::size_t>(i);
            if (moved.triangle[k] == space::RayHits::none) continue;
            if (hits.triangle[k] != space::RayHits::none && hits.along[k] < moved.along[k]) continue;
            hits.triangle[k] = space::RayHits::none;
            const TriangleId t(moved.triangle[k]);
            Shade shade = shadeOf(*subject_.moved.surface, t);
            shade.triangle = subject_.moved.sources[t];
            paintPixel(x + i % side, y + i / side, shade, moved, k, rays.from[k]);
        }
    }

    void aim(space::RayBundle& rays, std::size_t i, int x, int y) const {
        rays.from[i] = eye_.through(x, y) + start_ * into_;
        rays.near[i] = 0;
        rays.far[i] = x < eye_.width && y < eye_.height ? through_ : -1;
        for (const Left& left : subject_.left) clip(rays, i, left.across, left.along);
        // One pixel in five looks at what lies outside the slab as well.
        if (subject_.slab && !isGhostPixel(x, y)) clip(rays, i, subject_.slabAcross, *subject_.slab);
    }

    static bool isGhostPixel(int x, int y) { return (x + 2 * y) % 5 == 0; }

    void clip(space::RayBundle& rays, std::size_t i, const Point& across, const Stretch& stretch) const {
        if (!narrow(across.dot(rays.from[i]), across.dot(into_), stretch, rays.near[i], rays.far[i])) rays.far[i] = -1;
    }

    // What of a line, from `enter` to `leave` along it, lies within a stretch; false where that is nothing. `from` and
    // `way`: along the stretch's direction.
    [[nodiscard]] static bool narrow(double from, double way, const Stretch& stretch, double& enter, double& leave) {
        if (way == 0) return from >= stretch.low && from <= stretch.high;
        const double atLow = (stretch.low - from) / way;
        const double atHigh = (stretch.high - from) / way;
        enter = std::max(enter, std::min(atLow, atHigh));
        leave = std::min(leave, std::max(atLow, atHigh));
        return enter <= leave;
    }

    // Outside the slab.
    [[nodiscard]] bool isGhost(const Point& p) const {
        if (!subject_.slab) return false;
        const double along = subject_.slabAcross.dot(p);
        return along < subject_.slab->low || along > subject_.slab->high;
    }

    [[nodiscard]] Shade shadeOf(const mesh::Mesh& m, TriangleId t) const {
        const Point& a = m.corner(t, 0);
        // In pixels: right, up, towards the eye.
        const Eigen::Vector3f ab = (turn_ * (m.corner(t, 1) - a)).cast<float>();
        const Eigen::Vector3f ac = (turn_ * (m.corner(t, 2) - a)).cast<float>();
        const Eigen::Vector3f normal = ab.cross(ac);
        Shade shade;
        shade.triangle = t;
        shade.faces = normal.z() > 0;
        // Beyond what floats hold: far larger than the view.
        if (!std::isfinite(normal.squaredNorm())) return shade;
        const float unit = (shade.faces ? 1.0F : -1.0F) / std::max(normal.norm(), 1e-30F);
        shade.normal = unit * normal;
        shade.light = 0.40F + 0.56F * std::max(unit * normal.dot(keyLight), 0.0F) +
                      0.16F * std::max(unit * normal.dot(fillLight), 0.0F);
        // Twice the area on the screen.
        const float twice = std::abs(normal.z());
        shade.across = {(std::abs(ac.y() - ab.y()) + std::abs(ac.x() - ab.x())) / twice,
                        (std::abs(ac.y()) + std::abs(ac.x())) / twice, (std::abs(ab.y()) + std::abs(ab.x())) / twice};
        shade.size = 1 / std::max({shade.across[0], shade.across[1], shade.across[2]});
        return shade;
    }

    void paintPixel(int x, int y, const Shade& shade, const space::RayHits& hits, std::size_t k, const Point& from) {
        const std::size_t pixel = picture_.at(x, y);
        const double along = hits.along[k];
        Colour colour = shownIn(x, y, shade, hits, k);
        const bool ghost = isGhost(from + along * into_) || (!subject_.faint.empty() && subject_.faint[shade.triangle]);
        if (ghost) colour += 0.55F * (subject_.inks.ground - colour);
        picture_.colours[pixel] = colour;
        remember(pixel, shade, along, ghost);
    }

    // What the relief and the lines need to know of a pixel.
    void remember(std::size_t pixel, const Shade& shade, double along, bool ghost) {
        picture_.depths[pixel] = static_cast<float>(start_ + along);
        if (subject_.relief) skin_[pixel] = {shade.normal, ghost ? -1 : shade.size};
    }

    // The colour of a triangle in a pixel.
    [[nodiscard]] Colour shownIn(int x, int y, const Shade& shade, const space::RayHits& hits, std::size_t k) const {
        Colour base = subject_.coat.empty()                ? subject_.inks.clay
                      : subject_.coat[shade.triangle] == 0 ? tintOf(shade.triangle, hits.second[k], hits.third[k])
                                                           : coatOf(shade.triangle);
        float light = shade.light;
        if (!shade.faces && subject_.hatchInside) {
            base = (x + y) % 8 < 3 ? subject_.inks.hatch : subject_.inks.hatchPaper;
            light = 0.72F + 0.28F * light;
        }
        Colour colour = base * light;
        if (subject_.edges)
            colour += edgeStrength(shade, hits.second[k], hits.third[k]) * (subject_.inks.edge - colour);
        return colour;
    }

    // By how much the second and the third corner count.
    [[nodiscard]] Colour tintOf(TriangleId t, float second, float third) const {
        const Tint& tint = subject_.tint;
        if (tint.values.empty()) return subject_.inks.clay;
        const mesh::Triangle& tri = subject_.surface->triangles[t];
        const float value =
            (1 - second - third) * tint.values[tri[0]] + second * tint.values[tri[1]] + third * tint.values[tri[2]];
        const float width = tint.high > tint.low ? tint.high - tint.low : 1;
        const auto last = static_cast<float>(tint.ramp.size() - 1);
        const float x = std::clamp((value - tint.low) / width, 0.0F, 1.0F) * last;
        const auto i = std::min(static_cast<std::size_t>(x), tint.ramp.size() - 2);
        const float beyond = x - static_cast<float>(i);
        return (1 - beyond) * tint.ramp[i] + beyond * tint.ramp[i + 1];
    }

    [[nodiscard]] Colour coatOf(TriangleId t) const {
        const std::uint32_t c = subject_.coat[t];
        return Colour(static_cast<float>(c & 0xFF), static_cast<float>(c >> 8 & 0xFF),
                      static_cast<float>(c >> 16 & 0xFF)) /
               255.0F;
    }

    // Edges fade where triangles get smaller than a few pixels.
    static float edgeStrength(const Shade& shade, float second, float third) {
        const float strength = smoothStep(2.4F, 7.0F, shade.size);
        if (!(strength > 0)) return 0;
        const float nearest =
            std::min({(1 - second - third) / shade.across[0], second / shade.across[1], third / shade.across[2]});
        return 0.38F * strength * (1 - smoothStep(0.35F, 1.25F, nearest));
    }

    // ---- relief

    // What was painted in a pixel.
    struct Skin {
        Eigen::Vector3f normal = Eigen::Vector3f::UnitZ();
        float size = 0;  // of its triangle, in pixels; 0: nothing is there; negative: a ghost, which has no relief
    };

    // By how much the depth grows from a pixel to one beside or below it, where the surface goes on flat.
    [[nodiscard]] float slopeOf(const Skin& s, bool below) const {
        constexpr float grazing = 0.05F;
        const float way = below ? -s.normal.y() : s.normal.x();
        return way / std::max(s.normal.z(), grazing) * static_cast<float>(eye_.pixel);
    }

    // How strongly the line between two neighbours is drawn: above 0 on the first of them, below on the second.
    [[nodiscard]] float lineBetween(std::size_t p, std::size_t q, bool below) const {
        constexpr float outline = 0.62F;
        constexpr float crease = 0.42F;
        const Skin& a = skin_[p];
        const Skin& b = skin_[q];
        if (a.size == b.size && a.size <= 0) return 0;
        if (a.size < 0 || b.size < 0) return 0;
        if (a.size == 0 || b.size == 0) return b.size == 0 ? outline : -outline;
        const float step = picture_.depths[q] - picture_.depths[p];
        // The flatter of the two decides, so that what is seen edge on does not draw lines.
        const float jump = std::min(std::abs(step - slopeOf(a, below)), std::abs(step - slopeOf(b, below)));
        const auto pixel = static_cast<float>(eye_.pixel);
        constexpr float leastJump = 2.5F;
        if (jump > leastJump * pixel) {
            const float torn = outline * smoothStep(leastJump * pixel, 7 * pixel, jump);
            return step > 0 ? torn : -torn;
        }
        constexpr float cosGentle = 0.94F;  // 20 degrees
        constexpr float cosSharp = 0.82F;   // 35 degrees
        const float bend = a.normal.dot(b.normal);
        if (bend >= cosGentle) return 0;
        // Triangles as small as pixels have edges everywhere.
        const float large = smoothStep(1.5F, 4.0F, std::min(a.size, b.size));
        return crease * large * (1 - smoothStep(cosSharp, cosGentle, bend));
    }

    // Where heights are compared, in this picture.
    struct Across {
        int x = 0;
        int y = 0;
        std::ptrdiff_t pixels = 0;  // from one to the other in the row by row order
        float perLength = 0;        // one over the distance, in the part's unit
    };
    [[nodiscard]] std::array<Across, around.size()> acrossHere() const {
        std::array<Across, around.size()> all;
        const float reach = std::max(1.0F, static_cast<float>(eye_.height) / 600);
        for (std::size_t i = 0; i < all.size(); ++i) {
            all[i].x = static_cast<int>(std::lround(around[i].first * reach));
            all[i].y = static_cast<int>(std::lround(around[i].second * reach));
            all[i].pixels = static_cast<std::ptrdiff_t>(all[i].y) * eye_.width + all[i].x;
            all[i].perLength = 1 / (std::hypot(static_cast<float>(all[i].x), static_cast<float>(all[i].y)) *
                                    static_cast<float>(eye_.pixel));
        }
        return all;
    }

    // A pixel that lies deeper than the middle between those on either side of it is in a hollow.
    [[nodiscard]] float hollowAt(int x, int y, const std::array<Across, around.size()>& everywhere) const {
        const auto here = static_cast<std::ptrdiff_t>(picture_.at(x, y));
        const float depth = picture_.depths[static_cast<std::size_t>(here)];
        float sum = 0;
        for (const Across& a : everywhere) {
            if (x + a.x < 0 || x - a.x < 0 || x + a.x >= eye_.width || x - a.x >= eye_.width || y - a.y < 0 ||
                y + a.y >= eye_.height)
                continue;
            const auto p = static_cast<std::size_t>(here + a.pixels);
            const auto q = static_cast<std::size_t>(here - a.pixels);
            if (skin_[p].size <= 0 || skin_[q].size <= 0) continue;
            const float deeper = (depth - 0.5F * (picture_.depths[p] + picture_.depths[q])) * a.perLength;
            sum += std::clamp(deeper, -1.0F, 1.0F);
        }
        return sum / static_cast<float>(around.size());
    }

    void showRelief() {
        const auto everywhere = acrossHere();
        const auto width = static_cast<std::size_t>(eye_.width);
        // Of each pixel: the line to the one beside it, and to the one below.
        std::vector<std::array<float, 2>> lines(picture_.colours.size(), {0, 0});
        std::vector<float> light(picture_.colours.size(), 1);
        mesh::parallelFor(static_cast<std::size_t>(eye_.height), 16, [&](std::size_t row) {
            const int y = static_cast<int>(row);
            for (int x = 0; x < eye_.width; ++x) {
                const std::size_t p = picture_.at(x, y);
                if (x + 1 < eye_.width) lines[p][0] = lineBetween(p, p + 1, false);
                if (y + 1 < eye_.height) lines[p][1] = lineBetween(p, p + width, true);
                if (skin_[p].size <= 0) continue;
                // Facets alone make heights and hollows of their own, which are none.
                constexpr float facets = 0.02F;
                light[p] = 1 - 0.55F * std::max(0.0F, hollowAt(x, y, everywhere) - facets);
            }
        });
        mesh::parallelFor(static_cast<std::size_t>(eye_.height), 16, [&](std::size_t row) {
            const int y = static_cast<int>(row);
            for (int x = 0; x < eye_.width; ++x) {
                const std::size_t p = picture_.at(x, y);
                if (skin_[p].size <= 0) continue;
                float ink = std::max(lines[p][0], lines[p][1]);
                if (x > 0) ink = std::max(ink, -lines[p - 1][0]);
                if (y > 0) ink = std::max(ink, -lines[p - width][1]);
                Colour& colour = picture_.colours[p];
                colour *= light[p];
                if (ink > 0) colour += ink * (subject_.inks.crease - colour);
            }
        });
    }

    // ---- over it

    // Corners in pixels and depths.
    void paintFill(const std::array<Point, 3>& c, const Fill& fill) {
        const double twice =
            (c[1].x() - c[0].x()) * (c[2].y() - c[0].y()) - (c[2].x() - c[0].x()) * (c[1].y() - c[0].y());
        if (twice == 0) return;
        const auto [top, bottom] = std::minmax({c[0].y(), c[1].y(), c[2].y()});
        const auto [first, last] = std::minmax({c[0].x(), c[1].x(), c[2].x()});
        for (int y = within(std::ceil(top), eye_.height); y <= within(std::floor(bottom), eye_.height - 1); ++y)
            for (int x = within(std::ceil(first), eye_.width); x <= within(std::floor(last), eye_.width - 1); ++x) {
                const double second =
                    ((x - c[0].x()) * (c[2].y() - c[0].y()) - (c[2].x() - c[0].x()) * (y - c[0].y())) / twice;
                const double third =
                    ((c[1].x() - c[0].x()) * (y - c[0].y()) - (x - c[0].x()) * (c[1].y() - c[0].y())) / twice;
                if (second < 0 || third < 0 || second + third > 1) continue;
                const auto depth =
                    static_cast<float>(c[0].z() + second * (c[1].z() - c[0].z()) + third * (c[2].z() - c[0].z()));
                const std::size_t pixel = picture_.at(x, y);
                if (depth > picture_.depths[pixel] + lift_) continue;
                if (!isLeft(eye_.through(x, y) + depth * into_, fill.endOf)) continue;
                picture_.depths[pixel] = depth;
                picture_.colours[pixel] = fill.ink;
            }
    }

    [[nodiscard]] bool isLeft(const Point& p, const std::optional<std::size_t>& endOf) const {
        for (std::size_t i = 0; i < subject_.left.size(); ++i) {
            const Left& left = subject_.left[i];
            const double along = left.across.dot(p);
            if (endOf != i && (along < left.along.low || along > left.along.high)) return false;
        }
        return true;
    }

    // A number as that of a pixel, however far off it is: at least 0, at most the bound.
    static int within(double value, int bound) { return static_cast<int>(std::clamp(value, 0.0, bound + 0.0)); }

    // A segment in pixels and depths.
    struct Seen {
        Eigen::Vector3f from;
        Eigen::Vector3f to;
    };

    // Of segments shorter than a pixel one in each pixel is drawn: however many there are, they cost no more than the
    // picture has pixels.
    void paintLines(const Lines& lines) {
        std::vector<std::uint8_t> dotted(picture_.colours.size(), 0);
        inked_.assign(picture_.colours.size(), 0);
        for (const Seen& s : seenOf(lines)) {
            if (!std::isfinite(s.from.x())) continue;
            if ((s.to - s.from).head<2>().squaredNorm() < 1 && !isNewDot(0.5F * (s.from + s.to), dotted)) continue;
            paintLine(lines, s.from.cast<double>(), s.to.cast<double>());
        }
    }

    [[nodiscard]] bool isNewDot(const Eigen::Vector3f& at, std::vector<std::uint8_t>& dotted) const {
        const int x = std::clamp(static_cast<int>(std::floor(at.x() + 0.5F)), 0, eye_.width - 1);
        const int y = std::clamp(static_cast<int>(std::floor(at.y() + 0.5F)), 0, eye_.height - 1);
        std::uint8_t& dot = dotted[picture_.at(x, y)];
        // What is hidden may stand before what is seen.
        const std::uint8_t mark = isSeen(x, y, at.z()) ? 2 : 1;
        if (dot >= mark) return false;
        dot = mark;
        return true;
    }

    // Segments in pixels and depths; infinite where nothing of one is in the picture.
    [[nodiscard]] std::vector<Seen> seenOf(const Lines& lines) const {
        std::vector<Seen> all(lines.points.size() / 6);
        const Point origin = eye_.seen(lines.origin);
        Eigen::Matrix3d turn;
        turn << eye_.right.transpose() / eye_.pixel, -eye_.up.transpose() / eye_.pixel, into_.transpose();
        const auto isBeside = [&](double a, double b, int size) {
            return std::max(a, b) < -double{lines.width} || std::min(a, b) > double{lines.width} + size - 1;
        };
        mesh::parallelFor(all.size(), 4096, [&](std::size_t i) {
            const float* p = &lines.points[6 * i];
            Point from(p[0], p[1], p[2]);
            Point to(p[3], p[4], p[5]);
            const bool there = cutTo(from, to, lines);
            from = turn * from + origin;
            to = turn * to + origin;
            if (!there || isBeside(from.x(), to.x(), eye_.width) || isBeside(from.y(), to.y(), eye_.height))
                all[i].from.setConstant(std::numeric_limits<float>::infinity());
            else
                all[i] = {from.cast<float>(), to.cast<float>()};
        });
        return all;
    }

    // Shortens a segment, about the origin of its lines, to what sections leave; false where that is nothing.
    [[nodiscard]] bool cutTo(Point& from, Point& to, const Lines& lines) const {
        double enter = 0;
        double leave = 1;
        for (std::size_t i = 0; i < subject_.left.size(); ++i) {
            const Left& left = subject_.left[i];
            if (lines.endOf != i &&
                !narrow(left.across.dot(from + lines.origin), left.across.dot(to - from), left.along, enter, leave))
                return false;
        }
        const Point start = from;
        const Point whole = to - from;
        from = start + enter * whole;
        to = start + leave * whole;
        return true;
    }

    [[nodiscard]] bool isSeen(int x, int y, double depth) const {
        return depth <= picture_.depths[picture_.at(x, y)] + lift_;
    }

    // Every pixel that it covers in part, once; ends are round.
    void paintLine(const Lines& lines, const Point& from, const Point& to) {
        const double half = 0.5 * lines.width + 0.5;
        const double left = std::min(from.x(), to.x()) - half;
        const double right = std::max(from.x(), to.x()) + half;
        const double top = std::min(from.y(), to.y()) - half;
        const double bottom = std::max(from.y(), to.y()) + half;
        if (right < 0 || bottom < 0 || left > eye_.width - 1 || top > eye_.height - 1) return;
        const double dx = to.x() - from.x();
        const double dy = to.y() - from.y();
        const double square = dx * dx + dy * dy;
        // Row by row where it is steep, column by column else: a few pixels each, however long it is.
        const bool steep = std::abs(dy) > std::abs(dx);
        const double main = steep ? dy : dx;
        const double thick = square > 0 ? half * std::sqrt(square) / std::max(std::abs(main), 1e-300) : half;
        const int first = within(std::ceil(steep ? top : left), steep ? eye_.height : eye_.width);
        const int last = within(std::floor(steep ? bottom : right), (steep ? eye_.height : eye_.width) - 1);
        const int bound = steep ? eye_.width : eye_.height;
        for (int a = first; a <= last; ++a) {
            const double t = main == 0 ? 0 : std::clamp((a - (steep ? from.y() : from.x())) / main, 0.0, 1.0);
            const double middle = steep ? from.x() + t * dx : from.y() + t * dy;
            const int low = within(std::ceil(middle - thick), bound);
            const int high = within(std::floor(middle + thick), bound - 1);
            for (int b = low; b <= high; ++b) {
                const int x = steep ? b : a;
                const int y = steep ? a : b;
                const double on =
                    square > 0 ? std::clamp(((x - from.x()) * dx + (y - from.y()) * dy) / square, 0.0, 1.0) : 0.0;
                const double offX = x - from.x() - on * dx;
                const double offY = y - from.y() - on * dy;
                const double away = std::sqrt(offX * offX + offY * offY);
                const double covered = std::min(1.0, half - away);
                if (covered > 0) blend(lines, x, y, from.z() + on * (to.z() - from.z()), static_cast<float>(covered));
            }
        }
    }

    void blend(const Lines& lines, int x, int y, double depth, float covered) {
        const std::size_t pixel = picture_.at(x, y);
        float strength = isSeen(x, y, depth) ? std::max(lines.strength, lines.throughSurface) : lines.throughSurface;
        if (isGhost(eye_.through(x, y) + depth * into_)) strength *= 0.25F;
        strength *= covered;
        // Many faint lines over each other are as faint as one.
        const float before = inked_[pixel];
        if (!(strength > before)) return;
        inked_[pixel] = strength;
        picture_.colours[pixel] += (strength - before) / (1 - before) * (lines.ink - picture_.colours[pixel]);
    }

    const Subject& subject_;
    const Eye& eye_;
    Point into_;
    Eigen::Matrix3d turn_;  // to pixels right, up and towards the eye
    Picture picture_;
    std::vector<Skin> skin_;                            // of each pixel, for relief
    double start_ = 0;                                  // depth that rays start at
    double through_ = 0;                                // how far they go
    std::vector<std::uint8_t> bothHidden_, bothFaint_;  // where both the subject and what was moved have flags
    std::span<const std::uint8_t> hidden_;
    std::span<const std::uint8_t> faint_;  // what all but ghost pixels look through
    std::vector<float> inked_;             // how much of a pixel is of the ink of the lines at work
    float lift_ = 0;                       // what lies in the surface by this much is drawn over it
};

}  // namespace

Picture besideEachOther(const Picture& left, const Picture& right) {
    Picture both(left.width + right.width, left.height, Colour::Zero());
    for (int y = 0; y < both.height; ++y)
        for (const auto& [from, at] : {std::pair{&left, 0}, {&right, left.width}}) {
            const auto row = static_cast<std::ptrdiff_t>(from->at(0, y));
            const auto to = static_cast<std::ptrdiff_t>(both.at(at, y));
            std::copy_n(from->colours.begin() + row, from->width, both.colours.begin() + to);
            std::copy_n(from->depths.begin() + row, from->width, both.depths.begin() + to);
        }
    return both;
}

std::vector<std::uint32_t> Picture::packed() const {
    std::vector<std::uint32_t> result(colours.size());
    mesh::parallelFor(result.size(), 16384, [&](std::size_t i) {
        const Eigen::Array3f c = colours[i].array().max(0.0F).min(1.0F) * 255.0F + 0.5F;
        result[i] = 0xFF000000U | static_cast<std::uint32_t>(c[0]) << 16 | static_cast<std::uint32_t>(c[1]) << 8 |
                    static_cast<std::uint32_t>(c[2]);
    });
    return result;
}

Picture paint(const Subject& subject, const Eye& eye) {
    return Painter(subject, eye).run();
}

Picture meanOfShifted(const std::function<Picture(const Shift&)>& painted) {
    Picture sum;
    for (const Shift& shift : smoothingShifts) {
        Picture sample = painted(shift);
        if (sum.colours.empty())
            sum = std::move(sample);
        else
            for (std::size_t i = 0; i < sum.colours.size(); ++i) sum.colours[i] += sample.colours[i];
    }
    for (Colour& c : sum.colours) c /= static_cast<float>(smoothingShifts.size());
    return sum;
}

Picture paintSmooth(const Subject& subject, const Eye& eye) {
    return meanOfShifted([&](const Shift& shift) {
        Eye moved = eye;
        moved.corner = eye.through(shift.x, shift.y);
        return paint(subject, moved);
    });
}

const space::RayScene& CloseUp::sceneFor(const mesh::Mesh& surface, const space::RayScene& whole, const mesh::Box& box,
                                         const Eye& eye) {
    // A scene's 32 bits tell 6e-8 of the diagonal apart; a picture wants a tenth of a pixel.
    constexpr double told = 6e-8;
    if (box.empty() || 0.1 * eye.pixel > told * box.diagonal()) {
        scene_.reset();
        return whole;
    }
    constexpr double margin = 0.5;  // of the view, on every side
    const auto isWithin = [&] {
        if (!scene_ || whole_ != &whole || eye_.right != eye.right || eye_.up != eye.up) return false;
        if (eye.pixel < 0.1 * eye_.pixel) return false;
        const Point first = eye_.seen(eye.corner);
        const Point last = eye_.seen(eye.through(eye.width, eye.height));
        return first.x() >= -margin * eye_.width && first.y() >= -margin * eye_.height &&
               last.x() <= (1 + margin) * eye_.width && last.y() <= (1 + margin) * eye_.height;
    };
    if (isWithin()) return *scene_;
    std::vector<std::uint8_t> inSight(surface.triangles.size());
    mesh::parallelFor(inSight.size(), 16384, [&](std::size_t t) {
        Eigen::AlignedBox2d seen;
        for (unsigned k = 0; k < 3; ++k)
            seen.extend(eye.seen(surface.corner(TriangleId(static_cast<std::uint32_t>(t)), k)).head<2>());
        inSight[t] = seen.max().x() >= -margin * eye.width && seen.min().x() <= (1 + margin) * eye.width &&
                     seen.max().y() >= -margin * eye.height && seen.min().y() <= (1 + margin) * eye.height;
    });
    std::vector<TriangleId> triangles;
    for (TriangleId t = 0; t < inSight.size(); ++t)
        if (inSight[t]) triangles.push_back(t);
    const Point across = eye.through(0.5 * eye.width, 0.5 * eye.height);
    const Point middle = across + eye.into() * eye.into().dot(box.centre() - across);
    Eigen::Matrix3d axes;
    axes << eye.right.transpose(), eye.up.transpose(), eye.into().transpose();
    scene_ = std::make_unique<space::RayScene>(surface, triangles, middle, axes);
    whole_ = &whole;
    eye_ = eye;
    return *scene_;
}

}  // namespace zither::draw
