// PLY: ascii and both binary byte orders. Elements other than vertices and faces are passed over by their declared
// layout. Coordinates keep the precision of their declared type.
#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <limits>
#include <memory>

#include "io/reading.h"
#include "io/text.h"

namespace zither::io {
namespace {

using mesh::Point;

// A declared type: its size and how to read it, of bytes in this machine's order.
struct Type {
    std::string_view name;
    std::string_view otherName;
    std::size_t size;
    bool isFloat;  // 32 bits: decimals are rounded to it
    double (*read)(const char* raw);
};

template <class T>
double readAs(const char* raw) {
    T value;
    std::memcpy(&value, raw, sizeof value);
    return static_cast<double>(value);
}

constexpr Type types[] = {
    {"char", "int8", 1, false, readAs<std::int8_t>},    {"uchar", "uint8", 1, false, readAs<std::uint8_t>},
    {"short", "int16", 2, false, readAs<std::int16_t>}, {"ushort", "uint16", 2, false, readAs<std::uint16_t>},
    {"int", "int32", 4, false, readAs<std::int32_t>},   {"uint", "uint32", 4, false, readAs<std::uint32_t>},
    {"float", "float32", 4, true, readAs<float>},       {"double", "float64", 8, false, readAs<double>}};

const Type* typeNamed(std::string_view name) {
    for (const Type& type : types)
        if (type.name == name || type.otherName == name) return &type;
    return nullptr;
}

struct Property {
    std::string name;
    const Type* type = nullptr;
    const Type* countType = nullptr;  // of a list
};

struct Element {
    std::string name;
    std::uint64_t count = 0;
    std::vector<Property> properties;

    // What one of them takes of the file at least; 0 without properties.
    [[nodiscard]] std::size_t leastBytes(bool ascii) const {
        std::size_t bytes = 0;
        for (const Property& p : properties) bytes += ascii ? 2 : (p.countType ? p.countType : p.type)->size;
        return bytes;
    }
    [[nodiscard]] bool hasValue(std::string_view property) const {
        return std::any_of(properties.begin(), properties.end(),
                           [&](const Property& p) { return p.name == property && !p.countType; });
    }
};

struct Header {
    const Format* format = &plyAscii;
    std::vector<Element> elements;
    std::size_t dataBegin = 0;
    std::string_view unitComment;
};

Outcome<Header> parseHeader(std::string_view bytes, const std::string& file) {
    Header header;
    TextCursor cursor(bytes);
    const auto wrong = [&](const std::string& what) {
        return cannotRead(file, fmt::format("PLY header, line {}: {}", lineAt(bytes, cursor.offset()), what));
    };
    cursor.restOfLine();
    while (!cursor.atEnd()) {
        const std::string_view key = cursor.wordOfLine();
        if (key == "format") {
            const std::string_view kind = cursor.wordOfLine();
            if (kind == "ascii")
                header.format = &plyAscii;
            else if (kind == "binary_little_endian")
                header.format = &plyBinaryLittle;
            else if (kind == "binary_big_endian")
                header.format = &plyBinaryBig;
            else
                return wrong(fmt::format("unknown format '{}'", kind));
        } else if (key == "element") {
            Element e;
            e.name = cursor.wordOfLine();
            const std::string_view count = cursor.wordOfLine();
            if (!TextCursor::parseInteger(count, e.count)) return wrong(fmt::format("'{}' is no count", count));
            header.elements.push_back(std::move(e));
        } else if (key == "property") {
            if (header.elements.empty()) return wrong("a property before any element");
            Property p;
            std::string_view type = cursor.wordOfLine();
            if (type == "list") {
                p.countType = typeNamed(cursor.wordOfLine());
                if (!p.countType) return wrong("unknown type of a list's count");
                type = cursor.wordOfLine();
            }
            if (!typeNamed(type)) return wrong(fmt::format("unknown type '{}'", type));
            p.type = typeNamed(type);
            p.name = cursor.wordOfLine();
            header.elements.back().properties.push_back(std::move(p));
        } else if (key == "comment" || key == "obj_info") {
            const std::string_view comment = cursor.restOfLine();
            if (speaksOfUnit(comment)) header.unitComment = comment;
            continue;
        } else if (key == "end_header") {
            cursor.restOfLine();
            header.dataBegin = cursor.offset();
            return header;
        }
        cursor.restOfLine();
    }
    return wrong("the file ends before end_header");
}

// Gives one value after another, of the declared types; `ok` turns false at the end of the data or at a word that is no
// number.
class Values {
public:
    virtual ~Values() = default;
    virtual double next(const Type& type) = 0;
    [[nodiscard]] bool ok() const { return ok_; }
    [[nodiscard]] virtual std::string place() const = 0;
    // A list longer than what is left of the data is a lie.
    [[nodiscard]] virtual std::size_t bytesLeft() const = 0;

protected:
    bool ok_ = true;
};

class AsciiValues final : public Values {
public:
    AsciiValues(std::string_view bytes, std::size_t begin)
        : bytes_(bytes), begin_(begin), cursor_(bytes.substr(begin)) {}
    double next(const Type& type) override {
        const std::string_view word = cursor_.word();
        double value = 0;
        if (type.isFloat) {  // the decimal is rounded to the declared type
            float f = 0;
            ok_ = ok_ && TextCursor::parseNumber(word, f);
            value = static_cast<double>(f);
        } else {
            ok_ = ok_ && TextCursor::parseNumber(word, value);
        }
        return value;
    }
    [[nodiscard]] std::string place() const override {
        return fmt::format("line {}", lineAt(bytes_, begin_ + cursor_.offset()));
    }
    [[nodiscard]] std::size_t bytesLeft() const override { return bytes_.size() - begin_ - cursor_.offset(); }

private:
    std::string_view bytes_;
    std::size_t begin_;
    TextCursor cursor_;
};

class BinaryValues final : public Values {
public:
    BinaryValues(std::string_view bytes, std::size_t begin, bool big) : bytes_(bytes), at_(begin), big_(big) {}
    double next(const Type& type) override {
        if (bytesLeft() < type.size) {
            ok_ = false;
            return 0;
        }
        char raw[8];
        std::memcpy(raw, bytes_.data() + at_, type.size);
        if (big_ == (std::endian::native == std::endian::little)) std::reverse(raw, raw + type.size);
        at_ += type.size;
        return type.read(raw);
    }
    [[nodiscard]] std::string place() const override { return fmt::format("byte {}", at_); }
    [[nodiscard]] std::size_t bytesLeft() const override { return bytes_.size() - at_; }

private:
    std::string_view bytes_;
    std::size_t at_;
    bool big_;
};

class PlyReader {
public:
    PlyReader(Values& values, Surface& out, Progress& progress) : values_(values), out_(out), progress_(progress) {}

    // False where the work was cancelled. Stops at the first value that cannot be read, which leaves values_.ok()
    // false.
    bool read(const Element& element, bool ascii) {
        const bool vertices = element.name == "vertex";
        const bool faces = element.name == "face";
        // What has no properties takes nothing of the file, however many there are.
        const std::size_t least = element.leastBytes(ascii);
        if (least == 0) return true;
        noteNotKept(element, vertices, faces);
        const std::uint64_t room = values_.bytesLeft() / least + 1;
        if (vertices) out_.mesh.positions.reserve(std::min(element.count, room));
        for (std::uint64_t i = 0; i < element.count && values_.ok(); ++i) {
            if (vertices)
                readVertex(element);
            else if (faces)
                readFace(element);
            else
                pass(element);
            if (i % 65536 == 0 && !progress_.report(0.9 * static_cast<double>(i) / static_cast<double>(element.count)))
                return false;
        }
        return true;
    }

    // Polygons can only be split once every vertex is known, and vertices may come after faces. False where cancelled.
    bool splitFaces() {
        std::size_t begin = 0;
        out_.mesh.triangles.reserve(indices_.size() - std::min(indices_.size(), 2 * faceEnds_.size()));
        for (std::size_t f = 0; f < faceEnds_.size(); ++f) {
            addPolygon(std::span(indices_).subspan(begin, faceEnds_[f] - begin));
            begin = faceEnds_[f];
            if (f % 65536 == 0 && !progress_.report(0.9)) return false;
        }
        splitter_.remark(out_);
        return true;
    }

private:
    void readVertex(const Element& element) {
        Point p = Point::Zero();
        for (const Property& property : element.properties) {
            if (property.countType) {
                passList(property);
                continue;
            }
            const double value = values_.next(*property.type);
            if (property.name == "x")
                p[0] = value;
            else if (property.name == "y")
                p[1] = value;
            else if (property.name == "z")
                p[2] = value;
        }
        if (values_.ok()) out_.mesh.positions.push_back(p);
    }

    void readFace(const Element& element) {
        const std::size_t before = indices_.size();
        for (const Property& property : element.properties) {
            if (!property.countType) {
                values_.next(*property.type);
            } else if (property.name == "vertex_indices" || property.name == "vertex_index") {
                const std::uint64_t count = listCount(property);
                for (std::uint64_t i = 0; i < count && values_.ok(); ++i)
                    indices_.push_back(indexOf(values_.next(*property.type)));
            } else {
                passList(property);
            }
        }
        if (!values_.ok())
            indices_.resize(before);
        else
            faceEnds_.push_back(indices_.size());
    }

    void pass(const Element& element) {
        for (const Property& property : element.properties)
            if (property.countType)
                passList(property);
            else
                values_.next(*property.type);
    }

    std::uint64_t listCount(const Property& property) {
        const double count = values_.next(*property.countType);
        // A list longer than what is left of the data is a lie; it is read up to there.
        const auto most = static_cast<double>(values_.bytesLeft() + 1);
        return count > 0 && values_.ok() ? static_cast<std::uint64_t>(std::min(count, most)) : 0;
    }

    // No vertex where the value is no whole number from 0.
    static std::uint32_t indexOf(double value) {
        return value >= 0 && value < mesh::noIndex && value == std::floor(value) ? static_cast<std::uint32_t>(value)
                                                                                 : mesh::noIndex;
    }

    // Whatever is no coordinate and no list of corners.
    void noteNotKept(const Element& element, bool vertices, bool faces) {
        for (const Property& p : element.properties) {
            const std::string_view name = p.name;
            if (vertices && (name == "x" || name == "y" || name == "z")) continue;
            if (faces && p.countType && (name == "vertex_indices" || name == "vertex_index")) continue;
            const std::string of = fmt::format("{} ", element.name);
            if (name == "red" || name == "green" || name == "blue" || name == "alpha" || name.starts_with("diffuse_"))
                out_.doesNotKeep(of + "colours");
            else if (name == "nx" || name == "ny" || name == "nz")
                out_.doesNotKeep(of + "normals");
            else if (name == "s" || name == "t" || name == "u" || name == "v" || name.starts_with("texture_") ||
                     name == "texcoord" || name == "texnumber")
                out_.doesNotKeep(of + "texture coordinates");
            else
                out_.doesNotKeep(fmt::format("the property '{}' of '{}'", name, element.name));
        }
    }

    void passList(const Property& property) {
        const std::uint64_t count = listCount(property);
        for (std::uint64_t i = 0; i < count && values_.ok(); ++i) values_.next(*property.type);
    }

    void addPolygon(std::span<const std::uint32_t> raw) {
        if (raw.size() < 3) {
            ++out_.unusableTriangles;
            return;
        }
        polygon_.clear();
        for (std::uint32_t i : raw) {
            if (i >= out_.mesh.positions.size() || !out_.mesh.positions[i].allFinite()) {
                out_.unusableTriangles += raw.size() - 2;
                return;
            }
            polygon_.push_back(i);
        }
        splitter_.split(polygon_, out_.mesh.positions, [&](auto a, auto b, auto c) {
            out_.mesh.triangles.push_back({a, b, c});
        });
    }

    Values& values_;
    Surface& out_;
    Progress& progress_;
    PolygonSplitter splitter_;
    std::vector<std::uint32_t> indices_;
    std::vector<std::size_t> faceEnds_;
    std::vector<mesh::VertexId> polygon_;
};

bool looksLikePly(std::string_view bytes) {
    return bytes.size() >= 4 && bytes.substr(0, 3) == "ply" && isSpace(bytes[3]);
}

Outcome<Surface> readPly(std::string_view bytes, const std::string& name, Progress& progress) {
    Outcome<Header> header = parseHeader(bytes, name);
    if (!header) return mesh::errorOf(header);
    Surface out;
    out.format = header->format;
    std::unique_ptr<Values> values;
    if (out.format == &plyAscii)
        values = std::make_unique<AsciiValues>(bytes, header->dataBegin);
    else
        values = std::make_unique<BinaryValues>(bytes, header->dataBegin, out.format == &plyBinaryBig);
    noteUnitComment(header->unitComment, out);
    PlyReader reader(*values, out, progress);
    for (const Element& element : header->elements) {
        if (element.name == "vertex" && element.count > 0)
            for (const char* axis : {"x", "y", "z"})
                if (!element.hasValue(axis))
                    return cannotRead(name, fmt::format("PLY whose vertices have no '{}'", axis));
        if (!reader.read(element, out.format == &plyAscii)) return mesh::cancelled();
        if (values->ok()) continue;
        out.remarks.push_back(
            fmt::format("The data ends or cannot be read at {}, within element '{}' of {}: what came before was read",
                        values->place(), element.name, element.count));
        break;
    }
    if (!reader.splitFaces()) return mesh::cancelled();
    if (out.mesh.triangles.empty())
        return cannotRead(
            name,
            fmt::format("PLY with {} vertices but no usable face{}", out.mesh.positions.size(),
                        values->ok() ? "" : fmt::format("; the data ends or cannot be read at {}", values->place())));
    if (!progress.report(1.0)) return mesh::cancelled();
    return out;
}

Outcome<void> writePly(const Mesh& m, std::string_view, AtomicFile& file, Progress& progress) {
    std::string buffer = fmt::format(
        "ply\nformat binary_little_endian 1.0\ncomment written by Zither\nelement vertex {}\n"
        "property double x\nproperty double y\nproperty double z\nelement face {}\nproperty list uchar uint "
        "vertex_indices\nend_header\n",
        m.positions.size(), m.triangles.size());
    static_assert(sizeof(Point) == 24);
    if (auto written = file.write(buffer); !written) return written;
    if (auto written =
            file.write({reinterpret_cast<const char*>(m.positions.data()), m.positions.size() * sizeof(Point)});
        !written)
        return written;
    constexpr std::size_t batch = 100000;
    for (std::size_t begin = 0; begin < m.triangles.size(); begin += batch) {
        buffer.clear();
        const std::size_t end = std::min(m.triangles.size(), begin + batch);
        for (std::size_t t = begin; t < end; ++t) {
            buffer.push_back(3);
            buffer.append(reinterpret_cast<const char*>(m.triangles[t].data()), 12);
        }
        if (auto written = file.write(buffer); !written) return written;
        if (!progress.report(static_cast<double>(end) / static_cast<double>(m.triangles.size())))
            return mesh::cancelled();
    }
    return {};
}

}  // namespace

constinit const Format plyBinaryLittle = {.name = "ply-binary-little-endian",
                                          .title = "PLY",
                                          .extension = ".ply",
                                          .written = "binary, 64-bit coordinates",
                                          .recognises = looksLikePly,
                                          .read = readPly,
                                          .write = writePly};

constinit const Format plyBinaryBig = {
    .name = "ply-binary-big-endian", .title = "PLY", .extension = {}, .written = {}, .write = writePly};

constinit const Format plyAscii = {
    .name = "ply-ascii", .title = "PLY", .extension = {}, .written = {}, .write = writePly};

}  // namespace zither::io
