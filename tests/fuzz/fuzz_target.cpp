// What comes from outside, fed with whatever the fuzzer thinks of:
// ZITHER_FUZZ=stl|obj|ply|off|3mf|zip|any|recipe|brief| step|pick chooses what is called. Built by clang with libFuzzer
// and sanitizers (scripts/fuzz.sh). Finding nothing means that no input crashes, hangs, leaks, takes memory without
// bound, or gives a mesh that is inconsistent.
#include <zip.h>

#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <string>
#include <string_view>

#include "io/surface_file.h"
#include "steps/brief.h"
#include "steps/recipe.h"

namespace {

using namespace zither;

mesh::SilentProgress progress;

void hold(bool right, const char* what) {
    if (right) return;
    std::fprintf(stderr, "does not hold: %s\n", what);
    std::abort();
}

void holdSurface(const mesh::Outcome<io::Surface>& surface) {
    if (surface)
        hold(mesh::validate(surface->mesh).empty(), "what is read is consistent");
    else
        hold(!surface.error().message.empty(), "a refusal has words");
}

void readAny(std::string_view bytes) {
    holdSurface(io::readSurface(bytes, "fuzz", progress));
}

// Only what this format is recognised by: other inputs are for other targets.
void readAs(const io::Format& format, std::string_view bytes) {
    if (format.recognises(bytes)) readAny(bytes);
}

// The bytes as the model of a package.
void readModel(std::string_view bytes) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* archive = zip_source_buffer_create(nullptr, 0, 0, &error);
    zip_source_keep(archive);
    zip_t* zip = zip_open_from_source(archive, ZIP_TRUNCATE, &error);
    const zip_int64_t index =
        zip_file_add(zip, "3D/3dmodel.model", zip_source_buffer(zip, bytes.data(), bytes.size(), 0), ZIP_FL_ENC_UTF_8);
    zip_set_file_compression(zip, static_cast<zip_uint64_t>(index), ZIP_CM_STORE, 0);
    if (zip_close(zip) == 0 && zip_source_open(archive) == 0) {
        zip_stat_t stat;
        zip_source_stat(archive, &stat);
        std::string packed(stat.size, '\0');
        zip_source_read(archive, packed.data(), packed.size());
        zip_source_close(archive);
        holdSurface(io::readSurface(packed, "fuzz.3mf", progress));
    }
    zip_source_free(archive);
}

void parseRecipe(std::string_view bytes) {
    const auto calls = steps::parseRecipe(std::string(bytes), "fuzz.json");
    if (!calls) return;
    // What is understood is written so that it is understood alike.
    const auto again = steps::parseRecipe(steps::recipeJson(*calls).dump(), "fuzz.json");
    hold(again.has_value() && again->steps.size() == calls->steps.size() && again->repair.has_value() == calls->repair.has_value(), "a recipe that is read can be written and read");
}

void parseBrief(std::string_view bytes) {
    const auto json = nlohmann::ordered_json::parse(bytes, nullptr, false);
    if (!json.is_discarded()) static_cast<void>(steps::parseBrief(json, "fuzz.json"));
}

void parseStep(std::string_view bytes) {
    static_cast<void>(steps::parseStepCall(bytes));
}

void parsePick(std::string_view bytes) {
    static const check::Surveyed part([] {
        mesh::Mesh m;
        for (int i = 0; i < 8; ++i) m.positions.emplace_back(i & 1, (i >> 1) & 1, i >> 2);
        m.triangles = {{0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4},
                       {1, 5, 4}, {2, 6, 3}, {3, 6, 7}, {0, 4, 2}};
        return m;
    }());
    const auto pick = steps::pickFromText(bytes, part, progress);
    if (!pick) return;
    for (const mesh::TriangleId t : pick->triangles()) hold(t < part.mesh().triangles.size(), "a pick is of the part");
}

using Target = void (*)(std::string_view);

Target chosen() {
    static const std::map<std::string_view, Target> targets = {
        {"stl", [](std::string_view b) { readAs(io::stlAscii, b), readAs(io::stlBinary, b); }},
        {"obj", [](std::string_view b) { readAs(io::obj, b); }},
        {"ply", [](std::string_view b) { readAs(io::plyBinaryLittle, b); }},
        {"off", [](std::string_view b) { readAs(io::off, b); }},
        {"3mf", readModel},
        {"zip", [](std::string_view b) { readAs(io::threeMf, b); }},
        {"any", readAny},
        {"recipe", parseRecipe},
        {"brief", parseBrief},
        {"step", parseStep},
        {"pick", parsePick},
    };
    const char* name = std::getenv("ZITHER_FUZZ");
    const auto it = targets.find(name ? name : "any");
    if (it == targets.end()) {
        std::fprintf(stderr, "ZITHER_FUZZ=%s: there is no such target\n", name);
        std::exit(2);
    }
    return it->second;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const Target target = chosen();
    target({reinterpret_cast<const char*>(data), size});
    return 0;
}
