// What there is to know of a file format, in one place. A new format: its own file with its descriptor, and one line in
// formats.cpp. Messages, dialogs, help and tests read it from here.
#pragma once

#include <functional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "io/atomic_file.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::io {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Progress;

struct Format;

// What was read, and what could not be used.
struct Surface {
    Mesh mesh;
    const Format* format = nullptr;
    // Triangles (after splitting polygons) left out: a corner was NaN, infinite or out of range.
    std::size_t unusableTriangles = 0;
    // "mm", "in" ...; empty where the format has none.
    std::string unit;
    // What a user should know about this file: sentences, most important first.
    std::vector<std::string> remarks;
    // What the file holds besides and Zither does not keep: "vertex colours", "materials" ...
    std::vector<std::string> notKept;

    void doesNotKeep(std::string_view what);  // each once
};

struct Format {
    std::string_view name;   // short and stable, as in JSON: "stl-binary"
    std::string_view title;  // as people call it: "STL"
    std::string_view
        extension;             // ".stl": what is written to a file of that name; empty for a variant that is only read
    std::string_view written;  // how it is written, for dialogs: "binary, 32-bit coordinates"
    bool floats = false;       // it stores 32-bit coordinates, so that writing rounds
    bool keepsUnit = false;
    bool keepsRegions = false;
    bool indexed = true;  // what is read still has equal vertices to join
    // By content; nullptr for a variant that another entry recognises.
    bool (*recognises)(std::string_view bytes) = nullptr;
    Outcome<Surface> (*read)(std::string_view bytes, const std::string& name, Progress& progress) = nullptr;
    // `unit`: "mm", "in" ... or empty.
    Outcome<void> (*write)(const Mesh& m, std::string_view unit, AtomicFile& file, Progress& progress) = nullptr;
};

extern const Format threeMf;
extern const Format plyBinaryLittle;
extern const Format plyBinaryBig;
extern const Format plyAscii;
extern const Format off;
extern const Format stlAscii;
extern const Format obj;
extern const Format stlBinary;

// In the order in which they are recognised: the surest mark first.
std::span<const std::reference_wrapper<const Format>> formats();

// Those that can be written, in the order in which people are asked; and what the name of such a file ends in.
std::vector<const Format*> writableFormats();
std::string_view extensionOf(const Format& format);

// "STL, OBJ, PLY, OFF or 3MF": every title once; `last` stands before the last one.
std::string formatTitles(std::string_view last = "or");

}  // namespace zither::io
