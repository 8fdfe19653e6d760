// STL, binary and ASCII. No unit and no structure: corners are joined here, while they are still 32-bit.
#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <cstring>
#include <limits>

#include "io/reading.h"
#include "io/surface_file.h"
#include "io/text.h"
#include "mesh/parallel.h"
#include "mesh/vertex_join.h"

namespace zither::io {
namespace {

using mesh::PointF;
using mesh::Triangle;

constexpr std::size_t headerSize = 80;
constexpr std::size_t recordSize = 50;
constexpr std::size_t dataBegin = headerSize + 4;

std::uint32_t littleEndian32(const char* bytes) {
    static_assert(std::endian::native == std::endian::little, "binary STL is read and written by plain copies");
    std::uint32_t value = 0;
    std::memcpy(&value, bytes, sizeof value);
    return value;
}

// Turns loose corners (three a triangle) into a mesh; triangles with a corner that is not finite are left out.
// Vertices are numbered as they first appear.
void joinCorners(std::vector<PointF>& corners, std::vector<std::uint32_t>& regions, Surface& out) {
    std::size_t kept = 0;
    for (std::size_t t = 0; 3 * t < corners.size(); ++t) {
        if (!corners[3 * t].allFinite() || !corners[3 * t + 1].allFinite() || !corners[3 * t + 2].allFinite()) continue;
        if (kept != t) {
            std::copy_n(corners.begin() + static_cast<std::ptrdiff_t>(3 * t), 3,
                        corners.begin() + static_cast<std::ptrdiff_t>(3 * kept));
            if (!regions.empty()) regions[kept] = regions[t];
        }
        ++kept;
    }
    out.unusableTriangles += corners.size() / 3 - kept;
    corners.resize(3 * kept);
    if (!regions.empty()) regions.resize(kept);

    std::vector<mesh::VertexId> vertex = mesh::firstOfEqual(std::span<const PointF>(corners));
    out.mesh.triangles.resize(kept);
    mesh::VertexId next = 0;
    for (std::uint32_t i = 0; i < vertex.size(); ++i) vertex[i] = vertex[i] == i ? next++ : vertex[vertex[i]];
    out.mesh.positions.resize(next);
    mesh::parallelFor(kept, 8192, [&](std::size_t t) {
        for (std::size_t k = 0; k < 3; ++k) out.mesh.triangles[t][k] = vertex[3 * t + k];
    });
    // Every corner of a vertex has the same coordinates: which of them is written last makes no difference, but two
    // threads must not write at once, so this stays a plain loop. Adding 0 turns -0 into +0.
    for (std::uint32_t i = 0, seen = 0; i < vertex.size(); ++i)
        if (vertex[i] == seen) {
            out.mesh.positions[seen++] = (corners[i].array() + 0.0F).cast<double>();
        }
    out.mesh.regions = std::move(regions);
}

// Share of 16 sampled records whose numbers could be a part's: random bytes have exponents all over the place.
bool recordsLookPlausible(std::string_view bytes) {
    const std::size_t records = (bytes.size() - dataBegin) / recordSize;
    if (records == 0) return false;
    constexpr std::size_t samples = 16;
    std::size_t plausible = 0;
    for (std::size_t s = 0; s < samples; ++s) {
        const char* record = bytes.data() + dataBegin + records * s / samples * recordSize;
        bool ok = true;
        for (std::size_t i = 3; i < 12; ++i) {
            const float a = std::abs(std::bit_cast<float>(littleEndian32(record + 4 * i)));
            ok = ok && (a == 0 || std::isnan(a) || (a > 1e-15F && a < 1e15F));
        }
        plausible += ok;
    }
    return plausible * 2 >= samples;
}

bool looksLikeStlBinary(std::string_view bytes) {
    if (bytes.size() < dataBegin) return false;
    const std::uint64_t declared = littleEndian32(bytes.data() + headerSize);
    if (bytes.size() == dataBegin + recordSize * declared) return true;
    return recordsLookPlausible(bytes);
}

Outcome<Surface> readStlBinary(std::string_view bytes, const std::string& name, Progress& progress) {
    const std::uint64_t declared = littleEndian32(bytes.data() + headerSize);
    const std::size_t present = (bytes.size() - dataBegin) / recordSize;
    const std::size_t leftOver = (bytes.size() - dataBegin) % recordSize;
    if (present == 0)
        return cannotRead(
            name, fmt::format("binary STL with no triangle: its header declares {}, and the data ends at byte {}",
                              declared, bytes.size()));
    if (present > mostTriangles) return tooManyTriangles(name, present);
    Surface out;
    out.format = &stlBinary;
    // A count that is too high means a file cut off; one that is too low is a lie: all whole records are read.
    if (declared > present)
        out.remarks.push_back(
            fmt::format("The header declares {} triangles but the file ends at byte {}, after {}: those were read",
                        declared, bytes.size(), present));
    else if (declared < present)
        out.remarks.push_back(
            fmt::format("The header declares {} triangles but the file holds {}: all were read", declared, present));
    else if (leftOver > 0)
        out.remarks.push_back(fmt::format("{} bytes after the last triangle were passed over", leftOver));

    std::vector<PointF> corners(3 * present);
    std::atomic<bool> attributes = false;
    mesh::parallelFor(present, 8192, [&](std::size_t t) {
        const char* record = bytes.data() + dataBegin + t * recordSize;
        std::memcpy(corners[3 * t].data(), record + 12, 36);
        if (record[48] != 0 || record[49] != 0) attributes = true;
    });
    if (attributes) out.doesNotKeep("a word of attributes with each triangle (some programs put colours there)");
    if (!progress.report(0.3)) return mesh::cancelled();
    std::vector<std::uint32_t> noRegions;
    joinCorners(corners, noRegions, out);
    if (!progress.report(1.0)) return mesh::cancelled();
    return out;
}

// The first words name a solid, and facets follow; whatever the line ends are, or if there are none.
bool looksLikeStlAscii(std::string_view bytes) {
    constexpr std::size_t looked = 65536;
    if (bytes.size() >= dataBegin &&
        bytes.size() == dataBegin + recordSize * std::uint64_t{littleEndian32(bytes.data() + headerSize)})
        return false;
    const std::string_view head = trimmed(withoutMark(bytes.substr(0, looked)));
    TextCursor cursor(head);
    if (!equalsIgnoringCase(cursor.word(), "solid")) return false;
    std::string_view word = cursor.word();
    if (word.empty()) return true;
    for (; !word.empty(); word = cursor.word())
        if (equalsIgnoringCase(word, "facet") || equalsIgnoringCase(word, "endsolid")) return true;
    return false;
}

struct NamedFrom {
    std::size_t triangle;  // first triangle of the solid
    std::string_view name;
};

struct AsciiPart {
    std::vector<PointF> corners;
    std::vector<NamedFrom> solids;
    std::size_t unreadable = 0;       // facets with a corner that is no number, or fewer than three corners
    std::size_t firstUnreadable = 0;  // offset in the part
};

// The rest of the line; up to the next keyword where everything stands on one line.
std::string_view nameOfSolid(TextCursor& cursor, std::string_view text, std::string_view keyword) {
    const std::size_t from = cursor.offset();
    for (;;) {
        const std::size_t before = cursor.offset();
        const std::string_view word = cursor.wordOfLine();
        if (word.empty()) break;
        if (!equalsIgnoringCase(word, keyword)) continue;
        cursor.goTo(before);
        return trimmed(text.substr(from, before - from));
    }
    const std::size_t to = cursor.offset();
    cursor.restOfLine();
    return trimmed(text.substr(from, to - from));
}

// Reads the whole facets of one stretch of text, which begins outside any facet.
AsciiPart parseFacets(std::string_view text) {
    AsciiPart part;
    TextCursor cursor(text);
    std::vector<PointF> loop;
    bool bad = false;
    std::size_t facetAt = 0;
    const auto endFacet = [&] {
        if (bad || loop.size() < 3) {
            if (part.unreadable++ == 0) part.firstUnreadable = facetAt;
        } else {
            for (std::size_t i = 2; i < loop.size(); ++i)
                part.corners.insert(part.corners.end(), {loop[0], loop[i - 1], loop[i]});
        }
        loop.clear();
        bad = false;
    };
    bool inFacet = false;
    while (true) {
        const std::string_view word = cursor.word();
        if (word.empty()) break;
        if (equalsIgnoringCase(word, "vertex")) {
            // A number may stand in the way of the next keyword only if it is missing: that facet is then unreadable.
            PointF p;
            for (int i = 0; i < 3; ++i) bad |= !cursor.number(p[i]);
            loop.push_back(p);
        } else if (equalsIgnoringCase(word, "facet")) {
            if (inFacet) endFacet();
            inFacet = true;
            facetAt = cursor.offset();
        } else if (equalsIgnoringCase(word, "endfacet")) {
            if (inFacet) endFacet();
            inFacet = false;
        } else if (equalsIgnoringCase(word, "solid")) {
            part.solids.push_back({part.corners.size() / 3, nameOfSolid(cursor, text, "facet")});
        } else if (equalsIgnoringCase(word, "endsolid")) {
            nameOfSolid(cursor, text, "solid");
        }
    }
    if (inFacet) endFacet();
    return part;
}

// Stretches of about a megabyte that end behind a line "endfacet"; one stretch where there is no such line.
std::vector<std::string_view> stretchesOf(std::string_view text) {
    constexpr std::size_t target = 1U << 20;
    constexpr std::string_view lineEnds = "\r\n";
    std::vector<std::string_view> stretches;
    while (!text.empty()) {
        std::size_t end = std::min(target, text.size());
        std::size_t lineBegin = end == text.size() ? end : text.find_last_of(lineEnds, end) + 1;
        while (end < text.size()) {
            end = std::min(text.find_first_of(lineEnds, end), text.size());
            if (equalsIgnoringCase(trimmed(text.substr(lineBegin, end - lineBegin)), "endfacet")) break;
            if (end < text.size()) lineBegin = ++end;
        }
        stretches.push_back(text.substr(0, end));
        text.remove_prefix(end);
    }
    return stretches;
}

Outcome<Surface> readStlAscii(std::string_view bytes, const std::string& name, Progress& progress) {
    bytes = withoutMark(bytes);
    const std::vector<std::string_view> stretches = stretchesOf(bytes);
    std::vector<AsciiPart> parts(stretches.size());
    std::atomic<bool> stop = false;
    mesh::parallelFor(stretches.size(), 1, [&](std::size_t i) {
        if (stop) return;
        parts[i] = parseFacets(stretches[i]);
        if (!progress.report(0.7 * static_cast<double>(i) / static_cast<double>(stretches.size()))) stop = true;
    });
    if (stop) return mesh::cancelled();

    Surface out;
    out.format = &stlAscii;
    std::vector<PointF> corners;
    std::vector<std::uint32_t> regions;
    std::size_t unreadable = 0;
    std::size_t firstLine = 0;
    for (std::size_t i = 0; i < parts.size(); ++i) {
        const std::size_t base = corners.size() / 3;
        for (const NamedFrom& solid : parts[i].solids) {
            if (out.mesh.regionNames.empty() && base + solid.triangle > 0) out.mesh.regionNames.emplace_back();
            regions.resize(base + solid.triangle, out.mesh.regionNames.empty()
                                                      ? 0
                                                      : static_cast<std::uint32_t>(out.mesh.regionNames.size() - 1));
            out.mesh.regionNames.emplace_back(solid.name);
        }
        corners.insert(corners.end(), parts[i].corners.begin(), parts[i].corners.end());
        regions.resize(corners.size() / 3,
                       out.mesh.regionNames.empty() ? 0 : static_cast<std::uint32_t>(out.mesh.regionNames.size() - 1));
        if (parts[i].unreadable > 0 && unreadable == 0)
            firstLine =
                lineAt(bytes, static_cast<std::size_t>(stretches[i].data() - bytes.data()) + parts[i].firstUnreadable);
        unreadable += parts[i].unreadable;
        parts[i] = {};
    }
    if (corners.empty() && unreadable > 0)
        return cannotRead(name,
                          fmt::format("no facet could be read; the first unreadable one begins at line {}", firstLine));
    if (corners.empty())
        return cannotRead(name, fmt::format("ASCII STL with no facet: the text ends at line {} without any",
                                            lineAt(bytes, bytes.size())));
    if (unreadable > 0)
        out.remarks.push_back(fmt::format("{} facets could not be read and were left out; the first begins at line {}",
                                          unreadable, firstLine));
    out.unusableTriangles = unreadable;
    if (out.mesh.regionNames.size() <= 1) regions.clear();
    joinCorners(corners, regions, out);
    if (!progress.report(1.0)) return mesh::cancelled();
    return out;
}

PointF normalOf(const std::array<PointF, 3>& c) {
    const Eigen::Vector3d n = (c[1] - c[0]).cast<double>().cross((c[2] - c[0]).cast<double>());
    const double length = n.norm();
    return length > 0 ? PointF((n / length).cast<float>()) : PointF(PointF::Zero());
}

std::array<PointF, 3> roundedCorners(const Mesh& m, mesh::TriangleId t) {
    return {m.corner(t, 0).cast<float>(), m.corner(t, 1).cast<float>(), m.corner(t, 2).cast<float>()};
}

// Writes triangles in batches; `one` appends a triangle to the batch.
template <class One>
Outcome<void> writeBatches(const Mesh& m, AtomicFile& file, Progress& progress, const One& one) {
    constexpr std::size_t batch = 20000;
    std::string buffer;
    for (std::size_t begin = 0; begin < m.triangles.size(); begin += batch) {
        buffer.clear();
        const std::size_t end = std::min(m.triangles.size(), begin + batch);
        for (std::size_t t = begin; t < end; ++t) one(static_cast<mesh::TriangleId>(t), buffer);
        if (auto written = file.write(buffer); !written) return written;
        if (!progress.report(static_cast<double>(end) / static_cast<double>(m.triangles.size())))
            return mesh::cancelled();
    }
    return {};
}

Outcome<void> writeStlBinary(const Mesh& m, std::string_view, AtomicFile& file, Progress& progress) {
    std::string header = "Binary STL written by Zither";
    header.resize(headerSize, ' ');
    const auto count = static_cast<std::uint32_t>(m.triangles.size());
    header.append(reinterpret_cast<const char*>(&count), 4);
    if (auto written = file.write(header); !written) return written;
    return writeBatches(m, file, progress, [&](mesh::TriangleId t, std::string& buffer) {
        const std::array<PointF, 3> corners = roundedCorners(m, t);
        const PointF normal = normalOf(corners);
        buffer.append(reinterpret_cast<const char*>(normal.data()), 12);
        for (const PointF& c : corners) buffer.append(reinterpret_cast<const char*>(c.data()), 12);
        buffer.append(2, '\0');
    });
}

// A region is one solid, wherever its triangles lie in the mesh.
Outcome<void> writeStlAscii(const Mesh& m, std::string_view, AtomicFile& file, Progress& progress) {
    const auto nameOf = [&](std::uint32_t region) {
        return region < m.regionNames.size() ? m.regionNames[region] : std::string();
    };
    std::vector<mesh::TriangleId> order(m.triangles.size());
    for (mesh::TriangleId t = 0; t < order.size(); ++t) order[t] = t;
    std::stable_sort(order.begin(), order.end(),
                     [&](mesh::TriangleId a, mesh::TriangleId b) { return m.regionOf(a) < m.regionOf(b); });
    std::uint32_t current = order.empty() ? 0 : m.regionOf(order.front());
    if (auto written = file.write(fmt::format("solid {}\n", nameOf(current))); !written) return written;
    auto written = writeBatches(m, file, progress, [&](mesh::TriangleId place, std::string& buffer) {
        const mesh::TriangleId t = order[place];
        if (const std::uint32_t region = m.regionOf(t); region != current) {
            fmt::format_to(std::back_inserter(buffer), "endsolid {}\nsolid {}\n", nameOf(current), nameOf(region));
            current = region;
        }
        const std::array<PointF, 3> c = roundedCorners(m, t);
        const PointF n = normalOf(c);
        fmt::format_to(std::back_inserter(buffer), "facet normal {} {} {}\n outer loop\n", n[0], n[1], n[2]);
        for (const PointF& p : c) fmt::format_to(std::back_inserter(buffer), "  vertex {} {} {}\n", p[0], p[1], p[2]);
        buffer += " endloop\nendfacet\n";
    });
    if (!written) return written;
    return file.write(fmt::format("endsolid {}\n", nameOf(current)));
}

}  // namespace

constinit const Format stlAscii = {.name = "stl-ascii",
                                   .title = "STL",
                                   .extension = {},
                                   .written = "text, 32-bit coordinates",
                                   .floats = true,
                                   .keepsRegions = true,
                                   .indexed = false,
                                   .recognises = looksLikeStlAscii,
                                   .read = readStlAscii,
                                   .write = writeStlAscii};

constinit const Format stlBinary = {.name = "stl-binary",
                                    .title = "STL",
                                    .extension = ".stl",
                                    .written = "binary, 32-bit coordinates",
                                    .floats = true,
                                    .indexed = false,
                                    .recognises = looksLikeStlBinary,
                                    .read = readStlBinary,
                                    .write = writeStlBinary};

}  // namespace zither::io
