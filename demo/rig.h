// The Skerry rig, a made-up tidal-current test stand: seven parts, damaged on purpose in known numbers and places.
#pragma once

#include <nlohmann/json.hpp>

#include <optional>
#include <string_view>

#include "demo/shapes.h"

namespace rig {

// One kind of damage at known places.
struct Damage {
    std::string kind;  // "hole", "speck", "crack", "t-junction", "flipped patch" ...
    std::size_t number = 0;
    std::vector<Point> places;
};

struct Part {
    std::string name;
    std::string story;  // what it is and where it comes from
    Soup soup;
    std::vector<Damage> damage;
};

Part blade();      // a scan
Part hub();        // a CAD export, face by face
Part spinner();    // flipped patches and a shell inside out
Part ductFrame();  // closed struts through each other
Part fairing();    // an open sheet
Part strainer();   // non-manifold, duplicate, degenerate, an interior wall
Part nacelle();    // sound: a hollow body with a cavity

std::vector<Part> skerryRig();

// Counts as definitions.md means them, by slow and obvious code over maps; self-intersections are not among them.
nlohmann::ordered_json slowCounts(const Soup& soup);

// What is to be made of a part once it is mended, as a recipe; null for parts that are to stay as they are.
nlohmann::ordered_json recipeOf(std::string_view part);

// damage.json of all parts.
nlohmann::ordered_json damageJson(const std::vector<Part>& parts);

// A clean closed surface with about `triangles` triangles: a pump casing, wavy enough that no two triangles are alike.
Soup casing(std::size_t triangles);

// The casing with 40 round bosses standing through its wall, all of them closed shells: about `triangles` triangles.
Soup bossedCasing(std::size_t triangles);

// The casing as a CAD export: 60 patches that miss each other by up to 0.008, every seventh of them facing inwards,
// with twelve bosses through the wall.
Soup patchedCasing(std::size_t triangles);

// The casing as a scan: 200 torn holes, 300 floating specks of two triangles, 50 spikes.
Soup scannedCasing(std::size_t triangles);

// A lattice of closed struts pushed through each other at their ends: about 80 triangles a strut.
Soup lattice(std::size_t triangles);

// The above by their names: "casing", "bossed-casing", "patched-casing", "scanned-casing", "lattice"; none for others.
std::optional<Soup> largeSurface(std::string_view kind, std::size_t triangles);

}  // namespace rig
