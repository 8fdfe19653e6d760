// The parts of the rig by name, and their files.
#include "demo/rig.h"

namespace rig {

std::vector<Part> skerryRig() {
    return {blade(), hub(), spinner(), ductFrame(), fairing(), strainer(), nacelle()};
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
