// Wavefront OBJ: positions, polygons, negative indices; groups and objects become regions. Everything else (normals,
// textures, materials, lines) says nothing about the surface and is passed over.
#include <fmt/format.h>

#include <atomic>
#include <limits>
#include <unordered_map>

#include "io/reading.h"
#include "io/text.h"
#include "mesh/parallel.h"

namespace zither::io {
namespace {

using mesh::Point;

constexpr std::int64_t unusableIndex = std::numeric_limits<std::int64_t>::min();

// One stretch of lines. Absolute indices are kept from 0; relative ones as counted from the stretch's own first vertex
// plus `relativeBase`, because the number of vertices before it is not known yet.
struct Stretch {
    static constexpr std::int64_t relativeBase = std::int64_t{1} << 40;
    std::vector<Point> vertices;
    std::vector<std::int64_t> indices;
    std::vector<std::uint32_t> faceEnds;                           // in indices
    std::vector<std::pair<std::size_t, std::string_view>> groups;  // first face, name
    bool named = false;                                            // some are groups
    bool objects = false;                                          // some are objects
    std::size_t badLines = 0;
    std::size_t firstBadLine = 0;  // offset in the stretch
    // What is not kept.
    bool colours = false;
    bool normals = false;
    bool textures = false;
    bool materials = false;
    bool lines = false;
    std::string_view unitComment;
};

void parseFace(TextCursor& cursor, Stretch& out) {
    for (std::string_view word = cursor.wordOfLine(); !word.empty(); word = cursor.wordOfLine()) {
        if (word.front() == '#') break;
        std::int64_t index = 0;
        if (!TextCursor::parseInteger(word.substr(0, word.find('/')), index) || index == 0)
            index = unusableIndex;
        else if (index > 0)
            --index;
        else
            index += static_cast<std::int64_t>(out.vertices.size()) + Stretch::relativeBase;
        out.indices.push_back(index);
    }
    out.faceEnds.push_back(static_cast<std::uint32_t>(out.indices.size()));
}

Stretch parse(std::string_view text) {
    Stretch out;
    TextCursor cursor(text, true);
    while (!cursor.atEnd()) {
        const std::size_t lineAtOffset = cursor.offset();
        const std::string_view key = cursor.wordOfLine();
        bool good = true;
        if (key == "v") {
            Point p;
            for (int k = 0; k < 3; ++k)
                if (!TextCursor::parseNumber(cursor.wordOfLine(), p[k])) {
                    good = false;
                    p[k] = std::numeric_limits<double>::quiet_NaN();
                }
            out.vertices.push_back(p);
            double colour = 0;
            out.colours |= TextCursor::parseNumber(cursor.wordOfLine(), colour) &&
                           TextCursor::parseNumber(cursor.wordOfLine(), colour);
        } else if (key == "f") {
            const std::size_t before = out.indices.size();
            parseFace(cursor, out);
            good = out.indices.size() >= before + 3;
        } else if (key == "g" || key == "o") {
            out.groups.emplace_back(out.faceEnds.size(), cursor.restOfLine());
            (key == "o" ? out.objects : out.named) = true;
            continue;
        } else if (key == "#") {
            if (const std::string_view comment = cursor.restOfLine(); speaksOfUnit(comment)) out.unitComment = comment;
            continue;
        } else {
            out.normals |= key == "vn";
            out.textures |= key == "vt";
            out.materials |= key == "usemtl" || key == "mtllib";
            out.lines |= key == "l" || key == "p" || key == "curv" || key == "surf";
        }
        if (!good && out.badLines++ == 0) out.firstBadLine = lineAtOffset;
        cursor.restOfLine();
    }
    return out;
}

// The line end at or behind `from` that no backslash carries on; the text's size where there is none.
std::size_t statementEnd(std::string_view text, std::size_t from) {
    for (std::size_t end = from;; ++end) {
        end = text.find_first_of("\r\n", end);
        if (end == std::string_view::npos) return text.size();
        std::size_t last = end;
        while (last > 0 && isBlank(text[last - 1])) --last;
        if (last > 0 && text[last - 1] == '\r') continue;  // the LF of a CR LF
        if (last == 0 || text[last - 1] != '\\') return end;
    }
}

std::vector<std::string_view> stretchesOf(std::string_view text) {
    constexpr std::size_t target = 1U << 20;
    std::vector<std::string_view> stretches;
    while (!text.empty()) {
        std::size_t end = text.size() <= target ? text.size() : statementEnd(text, target);
        if (end < text.size()) ++end;
        stretches.push_back(text.substr(0, end));
        text.remove_prefix(end);
    }
    return stretches;
}

// Puts the stretches together.
class Assembly {
public:
    // `grouped`: there are groups, and triangles get regions.
    Assembly(PolygonSplitter& splitter, bool grouped, Surface& out)
        : splitter_(splitter), grouped_(grouped), out_(out) {}

    void addFaces(const Stretch& s, std::size_t verticesBefore, std::size_t vertexCount) {
        std::size_t begin = 0;
        std::size_t group = 0;
        for (std::size_t f = 0; f <= s.faceEnds.size(); ++f) {
            for (; group < s.groups.size() && s.groups[group].first == f; ++group) startRegion(s.groups[group].second);
            if (f == s.faceEnds.size()) break;
            addPolygon(std::span(s.indices).subspan(begin, s.faceEnds[f] - begin), verticesBefore, vertexCount);
            begin = s.faceEnds[f];
        }
    }

private:
    // A group goes on wherever its name stands again. One without triangles is none: it is numbered with its first.
    void startRegion(std::string_view name) { group_ = name; }
    [[nodiscard]] std::uint32_t regionOfGroup() {
        if (numbered_ && named_ == group_) return region_;
        const auto [at, isNew] = regions_.try_emplace(group_, static_cast<std::uint32_t>(out_.mesh.regionNames.size()));
        if (isNew) out_.mesh.regionNames.push_back(group_);
        numbered_ = true;
        named_ = group_;
        return region_ = at->second;
    }

    void addPolygon(std::span<const std::int64_t> raw, std::size_t verticesBefore, std::size_t vertexCount) {
        if (raw.size() < 3) return;
        polygon_.clear();
        for (std::int64_t i : raw) {
            if (i >= Stretch::relativeBase / 2) i += static_cast<std::int64_t>(verticesBefore) - Stretch::relativeBase;
            if (i < 0 || i >= static_cast<std::int64_t>(vertexCount) ||
                !out_.mesh.positions[static_cast<std::size_t>(i)].allFinite()) {
                out_.unusableTriangles += raw.size() - 2;
                return;
            }
            polygon_.push_back(static_cast<mesh::VertexId>(i));
        }
        splitter_.split(polygon_, out_.mesh.positions, [&](auto a, auto b, auto c) {
            out_.mesh.triangles.push_back({a, b, c});
            if (grouped_) out_.mesh.regions.push_back(regionOfGroup());
        });
    }

    PolygonSplitter& splitter_;
    bool grouped_;
    Surface& out_;
    std::vector<mesh::VertexId> polygon_;
    std::string group_;  // the name that was said last
    std::unordered_map<std::string, std::uint32_t> regions_;
    bool numbered_ = false;  // region_ is that of named_
    std::string named_;
    std::uint32_t region_ = 0;
};

// Offset of the first line that begins as a statement; npos where there is none.
std::size_t firstStatement(std::string_view text) {
    TextCursor cursor(text);
    while (!cursor.atEnd()) {
        const std::size_t at = cursor.offset();
        const std::string_view key = cursor.wordOfLine();
        for (std::string_view known : {"v", "vn", "vt", "vp", "f", "g", "o", "s", "mtllib", "usemtl", "l", "p"})
            if (key == known) return at;
        cursor.restOfLine();
    }
    return std::string_view::npos;
}

// Some line is a vertex with three numbers.
bool hasVertex(std::string_view text) {
    TextCursor cursor(text);
    while (!cursor.atEnd()) {
        double value = 0;
        if (cursor.wordOfLine() == "v" && TextCursor::parseNumber(cursor.wordOfLine(), value) &&
            TextCursor::parseNumber(cursor.wordOfLine(), value) && TextCursor::parseNumber(cursor.wordOfLine(), value))
            return true;
        cursor.restOfLine();
    }
    return false;
}

// A statement comes first, after comments; or there is prose before it, and vertices behind. No byte is binary.
bool looksLikeObj(std::string_view bytes) {
    constexpr std::size_t looked = 1U << 20;
    const std::string_view head = withoutMark(bytes.substr(0, looked));
    if (head.find('\0') != std::string_view::npos) return false;
    TextCursor cursor(head);
    while (!cursor.atEnd()) {
        const std::size_t at = cursor.offset();
        const std::string_view key = cursor.wordOfLine();
        if (!key.empty() && key.front() != '#') return firstStatement(head.substr(at)) == 0 || hasVertex(head);
        cursor.restOfLine();
    }
    return false;
}

void collectNotKept(const std::vector<Stretch>& stretches, Surface& out) {
    const auto any = [&](bool Stretch::*member, std::string_view what) {
        if (std::any_of(stretches.begin(), stretches.end(), [&](const Stretch& s) { return s.*member; }))
            out.doesNotKeep(what);
    };
    any(&Stretch::colours, "vertex colours");
    any(&Stretch::normals, "vertex normals");
    any(&Stretch::textures, "texture coordinates");
    any(&Stretch::materials, "materials");
    any(&Stretch::lines, "lines, points or curves");
    for (const Stretch& s : stretches) noteUnitComment(s.unitComment, out);
}

// Lines of text before the first statement.
void notePassedOver(std::string_view bytes, Surface& out) {
    TextCursor cursor(bytes.substr(0, std::min(bytes.size(), firstStatement(bytes))));
    std::size_t lines = 0;
    while (!cursor.atEnd()) {
        const std::string_view line = cursor.restOfLine();
        lines += !line.empty() && line.front() != '#';
    }
    if (lines > 0)
        out.remarks.push_back(fmt::format("{} of text before the first statement {} passed over",
                                          lines == 1 ? "1 line" : fmt::format("{} lines", lines),
                                          lines == 1 ? "was" : "were"));
}

Outcome<Surface> readObj(std::string_view bytes, const std::string& name, Progress& progress) {
    bytes = withoutMark(bytes);
    const std::vector<std::string_view> texts = stretchesOf(bytes);
    std::vector<Stretch> stretches(texts.size());
    std::atomic<bool> stop = false;
    mesh::parallelFor(texts.size(), 1, [&](std::size_t i) {
        if (stop) return;
        stretches[i] = parse(texts[i]);
        stretches[i].indices.shrink_to_fit();
        stretches[i].vertices.shrink_to_fit();
        if (!progress.report(0.7 * static_cast<double>(i) / static_cast<double>(texts.size()))) stop = true;
    });
    if (stop) return mesh::cancelled();

    Surface out;
    out.format = &obj;
    std::size_t badLines = 0;
    std::size_t firstBadLine = 0;
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        out.mesh.positions.insert(out.mesh.positions.end(), stretches[i].vertices.begin(), stretches[i].vertices.end());
        if (badLines == 0 && stretches[i].badLines > 0)
            firstBadLine =
                lineAt(bytes, static_cast<std::size_t>(texts[i].data() - bytes.data()) + stretches[i].firstBadLine);
        badLines += stretches[i].badLines;
    }
    std::size_t triangles = 0;
    for (const Stretch& s : stretches)
        triangles += s.indices.size() - std::min(s.indices.size(), 2 * s.faceEnds.size());
    out.mesh.triangles.reserve(triangles);
    PolygonSplitter splitter;
    const bool grouped =
        std::any_of(stretches.begin(), stretches.end(), [](const Stretch& s) { return !s.groups.empty(); });
    if (grouped) out.mesh.regions.reserve(triangles);
    Assembly assembly(splitter, grouped, out);
    std::size_t verticesBefore = 0;
    for (Stretch& s : stretches) {
        assembly.addFaces(s, verticesBefore, out.mesh.positions.size());
        verticesBefore += s.vertices.size();
        s.indices = {};
        if (!progress.report(0.8)) return mesh::cancelled();
    }
    // Where a file has both, groups within objects are what it tells apart.
    const auto any = [&](bool Stretch::*what) {
        return std::any_of(stretches.begin(), stretches.end(), [&](const Stretch& s) { return s.*what; });
    };
    if (any(&Stretch::objects) && !any(&Stretch::named)) out.mesh.regionsAre = Mesh::Regions::Objects;
    collectNotKept(stretches, out);
    notePassedOver(bytes, out);
    splitter.remark(out);
    if (out.mesh.triangles.empty())
        return cannotRead(
            name, fmt::format(
                      "OBJ text with {} vertices but no usable face{}", out.mesh.positions.size(),
                      badLines > 0 ? fmt::format("; line {} is the first that could not be read", firstBadLine) : ""));
    if (badLines > 0)
        out.remarks.push_back(
            fmt::format("{} lines could not be read in full; the first is line {}", badLines, firstBadLine));
    if (out.mesh.regionNames.size() <= 1) out.mesh.regions.clear();
    if (!progress.report(1.0)) return mesh::cancelled();
    return out;
}

Outcome<void> writeObj(const Mesh& m, std::string_view, AtomicFile& file, Progress& progress) {
    TextWriter text(file, progress, m.positions.size() + m.triangles.size(), "# written by Zither\n");
    for (const Point& p : m.positions)
        if (auto ok = text.addPoint("v ", p); !ok) return ok;
    const std::string_view statement = m.regionsAre == Mesh::Regions::Objects ? "o" : "g";
    // The one name of a whole surface.
    if (m.regions.empty() && m.regionNames.size() == 1 && !m.regionNames.front().empty())
        text.append(fmt::format("{} {}\n", statement, m.regionNames.front()));
    std::uint32_t region = std::numeric_limits<std::uint32_t>::max();
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (!m.regions.empty() && m.regions[t] != region) {
            region = m.regions[t];
            text.append(fmt::format("{} {}\n", statement, m.regionNames[region]));
        }
        const mesh::Triangle& tri = m.triangles[t];
        if (auto ok = text.addNumbers("f ", {tri[0] + 1, tri[1] + 1, tri[2] + 1}); !ok) return ok;
    }
    return text.flush();
}

}  // namespace

constinit const Format obj = {.name = "obj",
                              .title = "OBJ",
                              .extension = ".obj",
                              .written = "text, 64-bit coordinates",
                              .keepsRegions = true,
                              .recognises = looksLikeObj,
                              .read = readObj,
                              .write = writeObj};

}  // namespace zither::io
