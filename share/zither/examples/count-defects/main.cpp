// Counts what is wrong with a surface file: count-defects FILE
#include <iostream>

#include <zither/check/surveyed.h>
#include <zither/io/surface_file.h>

int main(int argc, char** argv) {
    using namespace zither;
    if (argc != 2) {
        std::cerr << "usage: count-defects FILE\n";
        return 2;
    }
    mesh::SilentProgress progress;
    auto surface = io::readSurface(argv[1], progress);
    if (!surface) {
        std::cerr << surface.error().message << "\n";
        return 2;
    }
    const check::Surveyed part(std::move(surface->mesh));
    const auto survey = part.survey({}, progress);
    if (!survey) return 2;
    for (const check::CountKey& count : check::countKeys)
        std::cout << count.key << " " << (*survey)->counts.*count.member << "\n";
    return (*survey)->solid ? 0 : 1;
}
