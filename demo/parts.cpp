// The parts of the rig. Lengths in millimetres.
#include <Eigen/Geometry>
#include <cmath>
#include <map>
#include <numbers>
#include <set>

#include "demo/rig.h"

namespace rig {
namespace {

constexpr double pi = std::numbers::pi;

// Outline of a foil of unit chord at u in [0, 1), counter-clockwise from the trailing edge.
Eigen::Vector2d foil(double u) {
    const double angle = 2 * pi * u;
    const double x = 0.5 * (1 + std::cos(angle));
    const double thickness =
        0.75 * (0.2969 * std::sqrt(x) - 0.126 * x - 0.3516 * x * x + 0.2843 * x * x * x - 0.1 * x * x * x * x) +
        0.02 * x;
    const double camber = 0.16 * x * (1 - x);
    return {x, camber + (angle < pi ? thickness : -thickness)};
}

Point bladePoint(double u, double v) {
    const Eigen::Vector2d section = foil(u);
    const double chord = 90 * (1 - 0.62 * v) * (1 - 0.5 * std::pow(v, 8));
    const double twist = 0.75 * (1 - v) * (1 - v) - 0.1;
    const double x = chord * (section.x() - 0.3);
    const double y = chord * section.y();
    return {x * std::cos(twist) - y * std::sin(twist), x * std::sin(twist) + y * std::cos(twist) + 14 * v * v, 420 * v};
}

// Everything in a smaller size: the parts of the test stand fit a printer of 250 mm.
Part scaled(Part part, double factor) {
    for (auto& t : part.soup.triangles)
        for (Point& p : t) p = rounded(factor * p);
    for (Damage& d : part.damage)
        for (Point& p : d.places) p *= factor;
    return part;
}

// A few triangles about a point, linked like a torn scrap of scan.
Soup scrap(Random& random, const Point& at, std::size_t count) {
    Soup s;
    const double size = random.between(0.3, 0.9);
    const Point x = random.direction();
    const Point y = x.unitOrthogonal();
    const auto rim = [&](std::size_t i) {
        const double angle = 0.5 * static_cast<double>(i);
        return rounded(at + size * (std::cos(angle) * x + std::sin(angle) * y) +
                       0.05 * static_cast<double>(i % 2) * x.cross(y));
    };
    for (std::size_t i = 0; i < count; ++i) s.add(rounded(at), rim(i), rim(i + 1));
    return s;
}

}  // namespace

Part blade() {
    Part part{"blade", "tidal blade, from a scanner: noise, torn holes, floating specks", {}, {}};
    Random random(101);
    constexpr std::size_t around = 190;
    constexpr std::size_t along = 200;
    // One noise value a grid point, so that neighbours move together.
    std::map<std::pair<long, long>, Point> noise;
    part.soup = tube(
        around, along,
        [&](double u, double v) {
            const auto key = std::pair{std::lround(u * around), std::lround(v * (along - 1))};
            if (!noise.contains(key)) noise[key] = 0.02 * random.vector(0.2, 1);
            return Point(bladePoint(u, v) + noise[key]);
        },
        bladePoint(0.25, 0) * 0.5 + bladePoint(0.75, 0) * 0.5, bladePoint(0.25, 1) * 0.5 + bladePoint(0.75, 1) * 0.5);
    Damage holes{"hole", 0, {}};
    const double sizes[] = {2.2, 2.6, 3, 3, 3.4, 4, 4, 5, 6, 7, 9, 11};
    std::size_t index = 0;
    for (double size : sizes) {
        const double v = 0.08 + 0.068 * static_cast<double>(index);
        const double u = index % 2 == 0 ? 0.22 + 0.01 * static_cast<double>(index % 3) : 0.74;
        const Point centre = bladePoint(u, v);
        punch(part.soup, centre, size, centre - 0.5 * (bladePoint(0.25, v) + bladePoint(0.75, v)));
        holes.places.push_back(centre);
        ++index;
    }
    holes.number = holes.places.size();
    Damage specks{"speck", 0, {}};
    for (int i = 0; i < 40; ++i) {
        // One after the other, as in Random::vector.
        const double y = random.between(60, 110);
        const double x = random.between(-40, 40);
        const double v = random.uniform();
        const double u = random.uniform();
        const Point at = bladePoint(u, v) + Point(x, y, 0);
        part.soup.append(scrap(random, at, 2 + random.below(8)));
        specks.places.push_back(at);
    }
    specks.number = specks.places.size();
    part.damage = {holes, specks};
    return scaled(part, 0.56);
}

namespace {

// Corners of the hub's profile (radius, height), a closed outline with a bore, counter-clockwise.
const std::vector<Eigen::Vector2d>& hubProfile() {
    static const std::vector<Eigen::Vector2d> outline = {{18, 0},  {106, 0},  {106, 16}, {74, 26},
                                                         {70, 70}, {58, 116}, {34, 146}, {18, 148}};
    return outline;
}

// One face of the hub: a band of the profile over one sector, with its own vertices.
struct Face {
    std::size_t band;
    std::size_t sector;
    std::size_t across;  // quads along the profile
    std::size_t around;  // quads around
    bool doubleStart;    // twice the points on its border to the band before: T-junctions there
    Point shift;
};

constexpr std::size_t hubSectors = 8;

Point hubPoint(std::size_t band, double t, double angle) {
    const auto& outline = hubProfile();
    const Eigen::Vector2d p = (1 - t) * outline[band] + t * outline[(band + 1) % outline.size()];
    return {p.x() * std::cos(angle), p.x() * std::sin(angle), p.y()};
}

Soup tessellate(const Face& f) {
    const auto at = [&](double i, std::size_t j) {
        const double angle = 2 * pi * (static_cast<double>(f.sector) + i / static_cast<double>(f.around)) / hubSectors;
        return hubPoint(f.band, static_cast<double>(j) / static_cast<double>(f.across), angle);
    };
    const auto placed = [&](const Point& p) { return rounded(p + f.shift); };
    Soup s;
    for (std::size_t j = 0; j < f.across; ++j)
        for (std::size_t i = 0; i < f.around; ++i) {
            const auto x = static_cast<double>(i);
            const Point a = placed(at(x, j));
            const Point b = placed(at(x + 1, j));
            const Point c = placed(at(x + 1, j + 1));
            const Point d = placed(at(x, j + 1));
            if (j == 0 && f.doubleStart) {
                const Point m = placed(0.5 * (at(x, 0) + at(x + 1, 0)));
                s.add(a, m, d);
                s.add(m, b, c);
                s.add(m, c, d);
            } else {
                s.addQuad(a, b, c, d);
            }
        }
    return s;
}

}  // namespace

Part hub() {
    Part part{"hub",
              "rotor hub, a CAD export tessellated face by face: hairline cracks, T-junctions, a flipped face",
              {},
              {}};
    Random random(202);
    Damage cracks{"crack", 0, {}};
    Damage junctions{"t-junction", 0, {}};
    Damage turned{"flipped face", 1, {}};
    const std::size_t bands = hubProfile().size();
    for (std::size_t band = 0; band < bands; ++band)
        for (std::size_t sector = 0; sector < hubSectors; ++sector) {
            Face face{band, sector, 10, 16, (band * hubSectors + sector) % 11 == 3, 0.003 * random.vector(0.5, 1)};
            Soup soup = tessellate(face);
            const Point centre = hubPoint(band, 0.5, 2 * pi * (static_cast<double>(sector) + 0.5) / hubSectors);
            if (face.doubleStart)
                for (std::size_t i = 0; i < face.around; ++i) {
                    const double angle = 2 * pi *
                                         (static_cast<double>(sector) +
                                          (static_cast<double>(i) + 0.5) / static_cast<double>(face.around)) /
                                         hubSectors;
                    junctions.places.push_back(hubPoint(band, 0, angle));
                }
            if (band == 4 && sector == 2) {
                soup = flipped(soup);
                turned.places.push_back(centre);
            }
            cracks.places.push_back(centre);
            part.soup.append(soup);
        }
    cracks.number = cracks.places.size();
    junctions.number = junctions.places.size();
    part.damage = {cracks, junctions, turned};
    return part;
}

Part spinner() {
    Part part{"spinner", "nose cone: patches flipped by hand, and a balance weight inside out", {}, {}};
    part.soup = tube(
        120, 90,
        [](double u, double v) {
            const double r = 85 * std::sqrt(1 - 0.985 * v * v);
            return Point(r * std::cos(2 * pi * u), r * std::sin(2 * pi * u), 130 * v);
        },
        Point(0, 0, 0), Point(0, 0, 131));
    Damage patches{"flipped patch", 0, {}};
    for (int i = 0; i < 6; ++i) {
        const double angle = 2 * pi * i / 6.0 + 0.3;
        const double v = 0.2 + 0.1 * i;
        const double r = 85 * std::sqrt(1 - 0.985 * v * v);
        const Point centre(r * std::cos(angle), r * std::sin(angle), 130 * v);
        for (auto& t : part.soup.triangles)
            if (((t[0] + t[1] + t[2]) / 3 - centre).norm() < 6 + i) std::swap(t[1], t[2]);
        patches.places.push_back(centre);
    }
    patches.number = patches.places.size();
    const Point weight(130, 0, 30);
    part.soup.append(flipped(sphere(weight, 16, 40, 24)));
    part.damage = {patches, {"shell inside out", 1, {weight}}};
    return part;
}

Part ductFrame() {
    Part part{"duct-frame", "frame of the duct: closed struts pushed through each other, never joined", {}, {}};
    Damage struts{"strut", 0, {}};
    const auto add = [&](const Point& a, const Point& b, double radius) {
        part.soup.append(strut(a, b, radius, 10, 8));
        struts.places.push_back(0.5 * (a + b));
    };
    constexpr int sides = 24;
    const auto onRing = [](double i, double radius, double z) {
        const double angle = 2 * pi * i / sides;
        return Point(radius * std::cos(angle), radius * std::sin(angle), z);
    };
    const double radii[] = {210, 196, 188, 192, 204};
    for (int ring = 0; ring < 5; ++ring)
        for (int i = 0; i < sides; ++i) {
            // Each strut runs a little past the corner, into its neighbour.
            const Point a = onRing(i, radii[ring], 45.0 * ring);
            const Point b = onRing(i + 1, radii[ring], 45.0 * ring);
            add(a - 0.06 * (b - a), b + 0.0613 * (b - a), 4.5);
        }
    for (int ring = 0; ring + 1 < 5; ++ring)
        for (int i = 0; i < sides; ++i) {
            const double skew = ring % 2 == 0 ? 0.5 : -0.5;
            const Point a = onRing(i + (ring % 2 == 0 ? 0.13 : 0.63), radii[ring], 45.0 * ring);
            const Point b = onRing(i + (ring % 2 == 0 ? 0.13 : 0.63) + skew, radii[ring + 1], 45.0 * (ring + 1));
            add(a - 0.04 * (b - a), b + 0.0417 * (b - a), 3.1);
        }
    struts.number = struts.places.size();
    part.damage = {struts};
    return scaled(part, 0.55);
}

Part fairing() {
    Part part{"fairing", "an open sheet of fairing: its rim is meant to be open, three tears are not", {}, {}};
    constexpr std::size_t nu = 110;
    constexpr std::size_t nv = 82;
    const auto at = [](double u, double v) {
        const double angle = pi * (0.12 + 0.76 * u);
        const double r = 95 + 20 * std::sin(pi * v);
        return rounded(Point(r * std::cos(angle), 260 * v, 0.8 * r * std::sin(angle)));
    };
    for (std::size_t j = 0; j < nv; ++j)
        for (std::size_t i = 0; i < nu; ++i) {
            const auto g = [&](std::size_t a, std::size_t b) {
                return at(static_cast<double>(a) / nu, static_cast<double>(b) / nv);
            };
            part.soup.addQuad(g(i, j), g(i, j + 1), g(i + 1, j + 1), g(i + 1, j));
        }
    Damage tears{"tear", 0, {}};
    const double sizes[] = {5, 8, 12};
    for (int i = 0; i < 3; ++i) {
        const Point centre = at(0.25 + 0.24 * i, 0.3 + 0.2 * i);
        punch(part.soup, centre, sizes[i]);
        tears.places.push_back(centre);
    }
    tears.number = tears.places.size();
    part.damage = {{"meant opening", 1, {at(0.5, 0)}}, tears};
    return scaled(part, 0.9);
}

namespace {

// A plate of cubes: the surface between full and empty ones. Cubes that touch only along an edge or at a corner make
// non-manifold edges and vertices.
class Cubes {
public:
    Cubes(int nx, int ny, int nz, double size) : n_{nx, ny, nz}, size_(size) {}

    void fill(int x, int y, int z) { full_.insert({x, y, z}); }
    void clear(int x, int y, int z) { full_.erase({x, y, z}); }
    [[nodiscard]] bool full(int x, int y, int z) const { return full_.contains({x, y, z}); }
    [[nodiscard]] Point at(double x, double y, double z) const { return rounded(size_ * Point(x, y, z)); }

    // The side of cube c towards +axis or -axis, outwards.
    void addSide(Soup& s, std::array<int, 3> c, int axis, bool up) const {
        Eigen::Vector3d corner(c[0], c[1], c[2]);
        if (up) corner[axis] += 1;
        Eigen::Vector3d u = Eigen::Vector3d::Zero();
        Eigen::Vector3d v = Eigen::Vector3d::Zero();
        u[(axis + 1) % 3] = 1;
        v[(axis + 2) % 3] = 1;
        const auto p = [&](const Eigen::Vector3d& q) { return at(q.x(), q.y(), q.z()); };
        if (up)
            s.addQuad(p(corner), p(corner + u), p(corner + u + v), p(corner + v));
        else
            s.addQuad(p(corner), p(corner + v), p(corner + u + v), p(corner + u));
    }

    [[nodiscard]] Soup surface() const {
        Soup s;
        for (const auto& c : full_)
            for (int axis = 0; axis < 3; ++axis)
                for (int up = 0; up < 2; ++up) {
                    std::array<int, 3> next = c;
                    next[static_cast<std::size_t>(axis)] += up ? 1 : -1;
                    if (!full_.contains(next)) addSide(s, c, axis, up != 0);
                }
        return s;
    }

private:
    std::array<int, 3> n_;
    double size_;
    std::set<std::array<int, 3>> full_;
};

}  // namespace

Part strainer() {
    Part part{"strainer",
              "intake strainer, modelled by hand: touching cubes, doubled and flat triangles, a wall inside",
              {},
              {}};
    constexpr int nx = 48;
    constexpr int ny = 30;
    constexpr int nz = 3;
    constexpr double cell = 4;
    Cubes cubes(nx, ny, nz, cell);
    for (int x = 0; x < nx; ++x)
        for (int y = 0; y < ny; ++y)
            for (int z = 0; z < nz; ++z)
                if (!(x % 6 >= 2 && x % 6 <= 3 && y % 6 >= 2 && y % 6 <= 3)) cubes.fill(x, y, z);
    Damage edges{"non-manifold edge", 0, {}};
    Damage corners{"non-manifold vertex", 0, {}};
    // Cubes on the plate that touch it only along an edge (above the rim of an opening) or at a corner.
    for (int i = 0; i < 4; ++i) {
        const int x = 6 * i + 8;
        cubes.fill(x + 1, 8, nz);
        cubes.clear(x + 1, 8, nz);
        cubes.fill(x, 1, nz);
        cubes.fill(x + 1, 2, nz);  // over an opening: meets its neighbour and the rim in edges only
        edges.places.push_back(cubes.at(x + 1, 2, nz + 0.5));
        cubes.fill(x + 2, 11, nz);
        cubes.fill(x + 3, 12, nz + 1);  // corner to corner
        corners.places.push_back(cubes.at(x + 3, 12, nz + 1));
    }
    edges.number = edges.places.size();
    corners.number = corners.places.size();
    part.soup = cubes.surface();
    // A wall inside the plate, across its whole width.
    Damage wall{"interior wall", 1, {cubes.at(24, ny / 2.0, nz / 2.0)}};
    for (int y = 0; y < ny; ++y)
        for (int z = 0; z < nz; ++z) cubes.addSide(part.soup, {24, y, z}, 0, false);
    Random random(606);
    Damage doubled{"duplicate triangle", 15, {}};
    Damage collapsed{"collapsed triangle", 6, {}};
    Damage flat{"flat triangle", 5, {}};
    const std::size_t sound = part.soup.triangles.size();
    std::set<std::size_t> used;
    const auto fresh = [&] {
        std::size_t t = random.below(sound);
        while (!used.insert(t).second) t = random.below(sound);
        return t;
    };
    for (std::size_t i = 0; i < doubled.number; ++i) {
        const auto t = part.soup.triangles[fresh()];
        part.soup.triangles.push_back(t);
        doubled.places.push_back((t[0] + t[1] + t[2]) / 3);
    }
    for (std::size_t i = 0; i < collapsed.number; ++i) {
        const auto t = part.soup.triangles[fresh()];
        part.soup.add(t[0], t[1], t[1]);
        collapsed.places.push_back(t[0]);
    }
    // A side is split at the middle of its diagonal, and a triangle without area keeps the surface closed.
    for (std::size_t i = 0; i < flat.number; ++i) {
        const std::size_t at = fresh();
        const auto t = part.soup.triangles[at];
        const Point middle = rounded(0.5 * (t[0] + t[1]));
        part.soup.triangles[at] = {t[0], middle, t[2]};
        part.soup.add(middle, t[1], t[2]);
        part.soup.add(t[0], t[1], middle);
        flat.places.push_back(middle);
    }
    part.damage = {edges, corners, wall, doubled, collapsed, flat};
    return part;
}

Part nacelle() {
    Part part{"nacelle", "nacelle, sound: a hollow body with its cavity", {}, {}};
    const auto body = [](double inset) {
        return tube(
            96, 120,
            [=](double u, double v) {
                const double r = (62 - inset) * std::sqrt(std::sin(pi * (0.04 + 0.92 * v)));
                return Point(r * std::cos(2 * pi * u), 0.9 * r * std::sin(2 * pi * u), (1 - 2 * v) * -(140 - inset));
            },
            Point(0, 0, -(141 - inset)), Point(0, 0, 141 - inset));
    };
    part.soup = body(0);
    part.soup.append(flipped(body(5)));
    return scaled(part, 0.85);
}

}  // namespace rig
