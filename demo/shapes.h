// Building blocks of the Skerry rig. Independent of the core on purpose: what is checked must not be made by what
// checks.
#pragma once

#include <Eigen/Core>
#include <array>
#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace rig {

using Point = Eigen::Vector3d;

// Loose triangles, as an STL file holds them.
struct Soup {
    std::vector<std::array<Point, 3>> triangles;
    void add(const Point& a, const Point& b, const Point& c) { triangles.push_back({a, b, c}); }
    void addQuad(const Point& a, const Point& b, const Point& c, const Point& d) {
        add(a, b, c);
        add(a, c, d);
    }
    void append(const Soup& other) {
        triangles.insert(triangles.end(), other.triangles.begin(), other.triangles.end());
    }
};

// SplitMix64: the same numbers on every machine.
class Random {
public:
    explicit Random(std::uint64_t seed) : state_(seed) {}
    std::uint64_t next();
    double uniform();  // [0, 1)
    double between(double low, double high) { return low + (high - low) * uniform(); }
    std::size_t below(std::size_t count) { return next() % count; }
    Point direction();  // uniform on the sphere
    // A direction, then its length: one after the other, as compilers are free in what order they call within a term.
    Point vector(double shortest, double longest) {
        const Point towards = direction();
        return between(shortest, longest) * towards;
    }

private:
    std::uint64_t state_;
};

// Rounded to 32 bits, as the file will hold it: corners that meet must round alike.
Point rounded(const Point& p);

// A closed grid of nu (around, periodic) by nv (along) points, outwards where `at` runs counter-clockwise about the
// direction of growing v; closed by a point at either end.
Soup tube(std::size_t nu, std::size_t nv, const std::function<Point(double u, double v)>& at, const Point& start,
          const Point& end);

// Straight strut: a closed prism with `sides` sides and `segments` along it, from a to b.
Soup strut(const Point& a, const Point& b, double radius, std::size_t sides, std::size_t segments);

Soup sphere(const Point& centre, double radius, std::size_t nu, std::size_t nv);

Soup flipped(const Soup& s);

// Removes the triangles whose centroid is within radius of the centre and that face `towards`; returns how many.
// Zero: whichever way they face.
std::size_t punch(Soup& s, const Point& centre, double radius, const Point& towards = Point::Zero());

void writeStl(const Soup& s, const std::string& file);

}  // namespace rig
