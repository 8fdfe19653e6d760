// What the fuzzers begin with: files of our own writers, and the same cut off, with bytes changed, and doubled.
// zither-corpus FOLDER
#include <filesystem>
#include <iostream>
#include <random>

#include "demo/shapes.h"
#include "io/surface_file.h"
#include "steps/recipe.h"
#include "tests/core/surfaces.h"

namespace {

using namespace zither;
namespace fs = std::filesystem;

class Corpus {
public:
    explicit Corpus(fs::path folder) : folder_(std::move(folder)) {}

    void add(const std::string& target, const std::string& bytes) {
        write(target, bytes);
        for (int i = 0; i < 6; ++i) {
            std::string damaged = bytes;
            for (int k = 0; k <= i && !damaged.empty(); ++k)
                damaged[random_() % damaged.size()] = static_cast<char>(random_());
            write(target, damaged);
            write(target, bytes.substr(0, bytes.empty() ? 0 : random_() % bytes.size()));
        }
        write(target, bytes + bytes);
    }

private:
    void write(const std::string& target, const std::string& bytes) {
        fs::create_directories(folder_ / target);
        const auto file = folder_ / target / ("seed" + std::to_string(next_++));
        if (!io::writeBytes(file, bytes)) std::cerr << "could not write " << file << "\n";
    }

    fs::path folder_;
    std::mt19937 random_{1};
    int next_ = 0;
};

std::string written(const mesh::Mesh& m, const io::Format& format) {
    const tests::TemporaryFolder folder;
    const auto file = folder / "part";
    mesh::SilentProgress progress;
    if (!io::writeSurface(m, file, {format, "in"}, progress)) return {};
    return io::readBytes(file).value_or(std::string());
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2) {
        std::cerr << "usage: zither-corpus FOLDER\n";
        return 2;
    }
    Corpus corpus(argv[1]);
    mesh::Mesh named = tests::together(tests::unitBox(), tests::box(mesh::Point(3, 0, 0), mesh::Point(4, 1, 1)));
    named.regionNames = {"inlet", "wall"};
    named.regions.assign(named.triangles.size(), 0);
    for (std::size_t t = 12; t < named.regions.size(); ++t) named.regions[t] = 1;
    for (const auto& m : {tests::unitBox(), named})
        for (const io::Format& format : io::formats()) {
            const std::string bytes = written(m, format);
            const bool package = &format == &io::threeMf;
            std::string title(format.title);
            std::transform(title.begin(), title.end(), title.begin(), ::tolower);
            corpus.add(package ? "zip" : title, bytes);
            corpus.add("any", bytes);
        }
    corpus.add("ply",
               "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty double y\nproperty int z\n"
               "element face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n");
    corpus.add("obj",
               "# a\nmtllib b\no c\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\ng d\nf 1/1/1 2//2 3 \\\n -1\nusemtl e\n");
    corpus.add("off", "COFF\n# a\n4 2 0\n0 0 0 1 1 1 1\n1 0 0\n1 1 0\n0 1 0\n4 0 1 2 3\n2 0 1\n");
    corpus.add("3mf",
               "<?xml version='1.0'?><model unit='inch'><resources><object id='1' name='a'><mesh><vertices><vertex "
               "x='0' y='0' z='0'/><vertex x='1' y='0' z='0'/><vertex x='0' y='1' z='0'/></vertices><triangles>"
               "<triangle v1='0' v2='1' v3='2'/></triangles></mesh></object><object id='2'><components><component "
               "objectid='1' transform='1 0 0 0 1 0 0 0 1 1 2 3'/></components></object></resources><build><item "
               "objectid='2'/></build></model>");
    std::vector<steps::StepCall> calls;
    for (const steps::Step& step : steps::catalogue()) {
        calls.push_back({&step});
        corpus.add("step", std::string(step.name) + " pick=ball:1,2,3,4+2");
        for (const steps::Parameter& p : step.parameters)
            corpus.add("step", std::string(step.name) + " " + std::string(p.name) + "=1.5%");
    }
    calls.back().pick = "boundary_edges+1";
    corpus.add("recipe", steps::recipeJson({calls}).dump());
    corpus.add("recipe", R"({"zither": 1, "steps": [{"name": "fill", "parameters": {"size": 2, "way": "flat"}}]})");
    corpus.add("brief", R"({"zither": 1, "title": "a", "requirements": {"boundary_edges": 0, "shells": "noted"}})");
    for (const char* pick : {"ball:1,2,3,4", "box:0,0,0,1,1,1-1", "shell:0+2", "triangles:0-5,9", "boundary_edges",
                             "smallest_angle:5+1", "ball:-1e0,0,0,1.05"})
        corpus.add("pick", pick);
    return 0;
}
