// The parts of the rig by name, and their files.
#include "demo/rig.h"

namespace rig {

std::vector<Part> skerryRig() {
    return {blade(), hub(), spinner(), ductFrame(), fairing(), strainer(), nacelle()};
}

nlohmann::ordered_json recipeOf(std::string_view part) {
    using Json = nlohmann::ordered_json;
    const auto recipe = [](std::initializer_list<std::pair<const char*, Json>> steps) {
        Json list = Json::array();
        for (const auto& [name, parameters] : steps) list.push_back({{"name", name}, {"parameters", parameters}});
        return Json{{"zither", 1}, {"steps", list}};
    };
    // A clean base in place of the torn root, and the way in which least of it hangs over.
    if (part == "blade")
        return recipe({{"trim", {{"axis", "z"}, {"at", 3}}},
                       {"place", {{"lie", "least-overhang"}, {"fit", "250,250,250"}, {"to", "floor"}}}});
    // Even triangles for a solver.
    if (part == "hub") return recipe({{"remesh", {{"length", 4}, {"deviation", 0.15}}}});
    // A sheet made a body, whose torn edges get a wall too.
    if (part == "fairing") return recipe({{"thicken", {{"thickness", 2}}}, {"thicken", {{"thickness", 0.8}}}});
    if (part == "strainer") return recipe({{"scale", {{"size", 30}, {"axis", "z"}}}});
    if (part == "nacelle") return recipe({{"hollow", {{"wall", 3}, {"drains", 2}}}});
    return nullptr;
}

nlohmann::ordered_json damageJson(const std::vector<Part>& parts) {
    nlohmann::ordered_json all = nlohmann::ordered_json::object();
    all["zither"] = 1;
    for (const Part& part : parts) {
        nlohmann::ordered_json damage = nlohmann::ordered_json::array();
        for (const Damage& d : part.damage) {
            nlohmann::ordered_json places = nlohmann::ordered_json::array();
            for (const Point& p : d.places) {
                const Point r = (p * 1000).array().round() / 1000;
                places.push_back({r.x(), r.y(), r.z()});
            }
            damage.push_back({{"kind", d.kind}, {"number", d.number}, {"places", places}});
        }
        all["parts"][part.name] = {{"file", part.name + ".stl"},
                                   {"unit", "mm"},
                                   {"story", part.story},
                                   {"counts", slowCounts(part.soup)},
                                   {"damage", damage}};
    }
    return all;
}

}  // namespace rig
