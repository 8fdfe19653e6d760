// OFF: ASCII, with the prefixes for further values of a vertex (COFF, NOFF, STOFF ...), which say nothing of the
// surface.
#include <fmt/format.h>

#include "io/reading.h"
#include "io/text.h"

namespace zither::io {
namespace {

using mesh::Point;

// The next line that holds more than a comment; false at the end.
bool nextLine(TextCursor& cursor, std::string_view& line) {
    while (!cursor.atEnd()) {
        line = cursor.restOfLine();
        line = trimmed(line.substr(0, line.find('#')));
        if (!line.empty()) return true;
    }
    return false;
}

bool takeInteger(TextCursor& cursor, std::int64_t& value) {
    return TextCursor::parseInteger(cursor.word(), value);
}

// Numbers of a line, as many as there are.
std::vector<double> numbersOf(std::string_view line, std::size_t most) {
    TextCursor cursor(line);
    std::vector<double> numbers;
    double value = 0;
    while (numbers.size() < most) {
        const std::string_view word = cursor.word();
        if (word.empty() || !TextCursor::parseNumber(word, value)) break;
        numbers.push_back(value);
    }
    return numbers;
}

bool looksLikeOff(std::string_view bytes) {
    TextCursor cursor(withoutMark(bytes.substr(0, 65536)));
    std::string_view line;
    if (!nextLine(cursor, line)) return false;
    const std::string_view word = line.substr(0, line.find_first_of(" \t"));
    return word.size() <= 8 && word.ends_with("OFF") && word.find_first_not_of("STCN4nOF") == std::string_view::npos;
}

Outcome<Surface> readOff(std::string_view bytes, const std::string& name, Progress& progress) {
    bytes = withoutMark(bytes);
    TextCursor cursor(bytes);
    std::string_view line;
    nextLine(cursor, line);
    const std::string_view head = line.substr(0, line.find_first_of(" \t"));
    if (head.find_first_of("4n") != std::string_view::npos)
        return cannotRead(name, fmt::format("OFF of more than three dimensions ({}); export it in three", head));
    std::string_view counts = trimmed(line.substr(head.size()));
    if (counts.starts_with("BINARY")) return cannotRead(name, "binary OFF is not read; export it as text, or as PLY");
    if (counts.empty() && !nextLine(cursor, counts)) return cannotRead(name, "line 2: no counts");
    const std::vector<double> sizes = numbersOf(counts, 3);
    if (sizes.size() < 2 || !(sizes[0] >= 0) || !(sizes[1] >= 0))
        return cannotRead(name, fmt::format("line {}: '{}' are no counts of vertices and faces",
                                            lineAt(bytes, cursor.offset()) - 1, counts));
    Surface out;
    out.format = &off;
    if (head.starts_with("ST")) out.doesNotKeep("texture coordinates");
    if (head.find('C') != std::string_view::npos) out.doesNotKeep("vertex colours");
    if (head.find('N') != std::string_view::npos) out.doesNotKeep("vertex normals");
    PolygonSplitter splitter;
    // No line is shorter than two bytes: a count beyond that is wrong, and must not take memory.
    const auto vertices = static_cast<std::size_t>(std::min(sizes[0], static_cast<double>(bytes.size())));
    const auto faces = static_cast<std::size_t>(std::min(sizes[1], static_cast<double>(bytes.size())));
    // The position comes first in every variant.
    for (std::size_t v = 0; v < vertices; ++v) {
        if (!nextLine(cursor, line)) return cannotRead(name, fmt::format("ends after {} of {} vertices", v, vertices));
        const std::vector<double> p = numbersOf(line, 3);
        out.mesh.positions.push_back(p.size() == 3 ? Point(p[0], p[1], p[2])
                                                   : Point(Point::Constant(std::numeric_limits<double>::quiet_NaN())));
        if (v % 65536 == 0 && !progress.report(0.5 * static_cast<double>(v) / static_cast<double>(vertices)))
            return mesh::cancelled();
    }
    std::size_t missing = 0;
    std::vector<mesh::VertexId> polygon;
    for (std::size_t f = 0; f < faces; ++f) {
        if (!nextLine(cursor, line)) {
            missing = faces - f;
            break;
        }
        TextCursor words(line);
        std::int64_t count = 0;
        polygon.clear();
        if (!takeInteger(words, count) || count < 0 || static_cast<std::size_t>(count) > line.size()) {
            ++out.unusableTriangles;
            continue;
        }
        bool usable = true;
        for (std::int64_t k = 0; k < count; ++k) {
            std::int64_t index = -1;
            usable &= takeInteger(words, index) && index >= 0 && static_cast<std::size_t>(index) < vertices &&
                      out.mesh.positions[static_cast<std::size_t>(index)].allFinite();
            if (usable) polygon.push_back(static_cast<mesh::VertexId>(index));
        }
        if (!words.word().empty()) out.doesNotKeep("face colours");
        if (count < 3) continue;  // points and lines
        if (!usable) {
            out.unusableTriangles += static_cast<std::size_t>(count) - 2;
            continue;
        }
        splitter.split(polygon, out.mesh.positions, [&](auto a, auto b, auto c) {
            out.mesh.triangles.push_back({a, b, c});
        });
        if (f % 65536 == 0 && !progress.report(0.5 + 0.5 * static_cast<double>(f) / static_cast<double>(faces)))
            return mesh::cancelled();
    }
    splitter.remark(out);
    if (missing > 0) out.remarks.push_back(fmt::format("the file ends {} faces early", missing));
    return out;
}

Outcome<void> writeOff(const Mesh& m, std::string_view, AtomicFile& file, Progress& progress) {
    TextWriter text(file, progress, m.positions.size() + m.triangles.size(),
                    fmt::format("OFF\n{} {} 0\n", m.positions.size(), m.triangles.size()));
    for (const Point& p : m.positions)
        if (auto ok = text.addPoint("", p); !ok) return ok;
    for (const mesh::Triangle& t : m.triangles)
        if (auto ok = text.addNumbers("3 ", {t[0], t[1], t[2]}); !ok) return ok;
    return text.flush();
}

}  // namespace

constinit const Format off = {.name = "off",
                              .title = "OFF",
                              .extension = ".off",
                              .written = "text, 64-bit coordinates",
                              .recognises = looksLikeOff,
                              .read = readOff,
                              .write = writeOff};

}  // namespace zither::io
