// zither-demo rig FOLDER | casing TRIANGLES FILE | bossed-casing TRIANGLES FILE | patched-casing TRIANGLES FILE |
// scanned-casing TRIANGLES FILE | lattice TRIANGLES FILE
#include <filesystem>
#include <fstream>
#include <iostream>

#include "demo/rig.h"

int main(int argc, char** argv) {
    const std::string call = argc > 1 ? argv[1] : "";
    if (call == "rig" && argc == 3) {
        const std::filesystem::path folder = argv[2];
        std::filesystem::create_directories(folder);
        const auto parts = rig::skerryRig();
        for (const rig::Part& part : parts) {
            rig::writeStl(part.soup, (folder / (part.name + ".stl")).string());
            if (const auto recipe = rig::recipeOf(part.name); !recipe.is_null())
                std::ofstream(folder / (part.name + ".recipe.json")) << recipe.dump(1) << "\n";
        }
        std::ofstream(folder / "damage.json") << rig::damageJson(parts).dump(1) << "\n";
        return 0;
    }
    if (argc == 4)
        if (const auto surface = rig::largeSurface(call, std::strtoul(argv[2], nullptr, 10))) {
            rig::writeStl(*surface, argv[3]);
            return 0;
        }
    std::cerr
        << "usage: zither-demo rig FOLDER | casing TRIANGLES FILE | bossed-casing TRIANGLES FILE | patched-casing "
           "TRIANGLES FILE | scanned-casing TRIANGLES FILE | lattice TRIANGLES FILE\n";
    return 2;
}
