// PLY: ascii and both binary byte orders. Elements other than vertices and faces are passed over by their declared
// layout. Coordinates keep the precision of their declared type.
#include <fmt/format.h>

#include <charconv>

#include <bit>
#include <cstring>
#include <limits>
#include <optional>

#include "io/formats.h"
#include "io/text.h"

namespace zither::io {
namespace {

using mesh::badInput;
using mesh::Point;

enum class Type { Int8, Uint8, Int16, Uint16, Int32, Uint32, Float32, Float64 };

std::optional<Type> typeNamed(std::string_view name) {
    constexpr std::pair<std::string_view, Type> names[] = {
        {"char", Type::Int8},     {"int8", Type::Int8},       {"uchar", Type::Uint8},    {"uint8", Type::Uint8},
        {"short", Type::Int16},   {"int16", Type::Int16},     {"ushort", Type::Uint16},  {"uint16", Type::Uint16},
        {"int", Type::Int32},     {"int32", Type::Int32},     {"uint", Type::Uint32},    {"uint32", Type::Uint32},
        {"float", Type::Float32}, {"float32", Type::Float32}, {"double", Type::Float64}, {"float64", Type::Float64}};
    for (const auto& [known, type] : names)
        if (known == name) return type;
    return std::nullopt;
}

std::size_t sizeOf(Type type) {
    constexpr std::size_t sizes[] = {1, 1, 2, 2, 4, 4, 4, 8};
    return sizes[static_cast<std::size_t>(type)];
}

struct Property {
    std::string name;
    Type type = Type::Float32;
    std::optional<Type> countType;  // of a list
};

struct Element {
    std::string name;
    std::uint64_t count = 0;
    std::vector<Property> properties;
};

struct Header {
    Format format = Format::PlyAscii;
    std::vector<Element> elements;
    std::size_t dataBegin = 0;
};

Outcome<Header> parseHeader(std::string_view bytes, const std::string& file) {
    Header header;
    TextCursor cursor(bytes);
    const auto wrong = [&](const std::string& what) {
        return badInput(fmt::format("{}: PLY header, line {}: {}", file, lineAt(bytes, cursor.offset()), what));
    };
    cursor.restOfLine();
    while (!cursor.atEnd()) {
        const std::string_view key = cursor.wordOfLine();
        if (key == "format") {
            const std::string_view kind = cursor.wordOfLine();
            if (kind == "ascii")
                header.format = Format::PlyAscii;
            else if (kind == "binary_little_endian")
                header.format = Format::PlyBinaryLittle;
            else if (kind == "binary_big_endian")
                header.format = Format::PlyBinaryBig;
            else
                return wrong(fmt::format("unknown format '{}'", kind));
        } else if (key == "element") {
            Element e;
            e.name = cursor.wordOfLine();
            const std::string_view count = cursor.wordOfLine();
            const auto [end, error] = std::from_chars(count.data(), count.data() + count.size(), e.count);
            if (error != std::errc() || end != count.data() + count.size())
                return wrong(fmt::format("'{}' is no count", count));
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
            p.type = *typeNamed(type);
            p.name = cursor.wordOfLine();
            header.elements.back().properties.push_back(std::move(p));
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
    virtual double next(Type type) = 0;
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
    double next(Type type) override {
        const std::string_view word = cursor_.word();
        double value = 0;
        if (type == Type::Float32) {  // the decimal is rounded to the declared type
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
    double next(Type type) override {
        const std::size_t size = sizeOf(type);
        if (bytesLeft() < size) {
            ok_ = false;
            return 0;
        }
        char raw[8];
        std::memcpy(raw, bytes_.data() + at_, size);
        if (big_ == (std::endian::native == std::endian::little)) std::reverse(raw, raw + size);
        at_ += size;
        switch (type) {
            case Type::Int8:
                return as<std::int8_t>(raw);
            case Type::Uint8:
                return as<std::uint8_t>(raw);
            case Type::Int16:
                return as<std::int16_t>(raw);
            case Type::Uint16:
                return as<std::uint16_t>(raw);
            case Type::Int32:
                return as<std::int32_t>(raw);
            case Type::Uint32:
                return as<std::uint32_t>(raw);
            case Type::Float32:
                return static_cast<double>(as<float>(raw));
            case Type::Float64:
                return as<double>(raw);
        }
        return 0;
    }
    [[nodiscard]] std::string place() const override { return fmt::format("byte {}", at_); }
    [[nodiscard]] std::size_t bytesLeft() const override { return bytes_.size() - at_; }

private:
    template <class T>
    static T as(const char* raw) {
        T value;
        std::memcpy(&value, raw, sizeof value);
        return value;
    }

    std::string_view bytes_;
    std::size_t at_;
    bool big_;
};

class PlyReader {
public:
    PlyReader(Values& values, Surface& out, Progress& progress) : values_(values), out_(out), progress_(progress) {}

    // False where the work was cancelled. Stops at the first value that cannot be read, which leaves values_.ok()
    // false.
    bool read(const Element& element) {
        const bool vertices = element.name == "vertex";
        const bool faces = element.name == "face";
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

    // Polygons can only be split once every vertex is known, and vertices may come after faces.
    void splitFaces() {
        std::size_t begin = 0;
        for (std::size_t end : faceEnds_) {
            addPolygon(std::span(indices_).subspan(begin, end - begin));
            begin = end;
        }
    }

private:
    void readVertex(const Element& element) {
        Point p = Point::Zero();
        for (const Property& property : element.properties) {
            if (property.countType) {
                passList(property);
                continue;
            }
            const double value = values_.next(property.type);
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
                values_.next(property.type);
            } else if (property.name == "vertex_indices" || property.name == "vertex_index") {
                const std::uint64_t count = listCount(property);
                for (std::uint64_t i = 0; i < count && values_.ok(); ++i)
                    indices_.push_back(values_.next(property.type));
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
                values_.next(property.type);
    }

    std::uint64_t listCount(const Property& property) {
        const double count = values_.next(*property.countType);
        return count > 0 && values_.ok() ? static_cast<std::uint64_t>(count) : 0;
    }

    void passList(const Property& property) {
        const std::uint64_t count = listCount(property);
        for (std::uint64_t i = 0; i < count && values_.ok(); ++i) values_.next(property.type);
    }

    void addPolygon(std::span<const double> raw) {
        if (raw.size() < 3) {
            ++out_.unusableTriangles;
            return;
        }
        polygon_.clear();
        for (double i : raw) {
            const bool inRange = i >= 0 && i < static_cast<double>(out_.mesh.positions.size()) && i == std::floor(i);
            if (!inRange || !out_.mesh.positions[static_cast<std::size_t>(i)].allFinite()) {
                out_.unusableTriangles += raw.size() - 2;
                return;
            }
            polygon_.push_back(static_cast<mesh::VertexId>(i));
        }
        splitPolygon(polygon_, out_.mesh.positions, [&](auto a, auto b, auto c) {
            out_.mesh.triangles.push_back({a, b, c});
        });
    }

    Values& values_;
    Surface& out_;
    Progress& progress_;
    std::vector<double> indices_;
    std::vector<std::size_t> faceEnds_;
    std::vector<mesh::VertexId> polygon_;
};

}  // namespace

bool looksLikePly(std::string_view bytes) {
    return bytes.size() >= 4 && bytes.substr(0, 3) == "ply" && isSpace(bytes[3]);
}

Outcome<Surface> readPly(std::string_view bytes, const std::string& name, Progress& progress) {
    Outcome<Header> header = parseHeader(bytes, name);
    if (!header) return tl::unexpected(header.error());
    Surface out;
    out.format = header->format;
    std::unique_ptr<Values> values;
    if (out.format == Format::PlyAscii)
        values = std::make_unique<AsciiValues>(bytes, header->dataBegin);
    else
        values = std::make_unique<BinaryValues>(bytes, header->dataBegin, out.format == Format::PlyBinaryBig);
    PlyReader reader(*values, out, progress);
    for (const Element& element : header->elements) {
        if (!reader.read(element)) return mesh::cancelled();
        if (values->ok()) continue;
        out.remarks.push_back(
            fmt::format("The data ends or cannot be read at {}, within element '{}' of {}: what came before was read",
                        values->place(), element.name, element.count));
        break;
    }
    reader.splitFaces();
    if (out.mesh.triangles.empty())
        return badInput(
            fmt::format("{}: PLY with {} vertices but no usable face{}", name, out.mesh.positions.size(),
                        values->ok() ? "" : fmt::format("; the data ends or cannot be read at {}", values->place())));
    if (!progress.report(1.0)) return mesh::cancelled();
    return out;
}

Outcome<void> writePly(const Mesh& m, AtomicFile& file, Progress& progress) {
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

}  // namespace zither::io
