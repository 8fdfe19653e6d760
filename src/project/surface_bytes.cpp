// A head of counts, then arrays one after the other.
#include "project/surface_bytes.h"

#include <fmt/format.h>
#include <xxhash.h>
#include <zstd.h>

#include <algorithm>
#include <bit>
#include <cstring>
#include <memory>

#include "mesh/memory.h"

namespace zither::project {

using mesh::Outcome;

static_assert(std::endian::native == std::endian::little, "surfaces are written as they lie in memory");

namespace {

constexpr std::uint32_t mark = 0x5352465A;  // "ZFRS"

struct Head {
    std::uint32_t mark = project::mark;
    std::uint16_t coordinateBytes = 8;  // 4 or 8
    std::uint16_t regionsAre = 0;       // 0: groups, 1: objects
    std::uint64_t vertices = 0;
    std::uint64_t wide = 0;  // vertices that 4 bytes do not hold: given again, with 8
    std::uint64_t triangles = 0;
    std::uint64_t regions = 0;      // triangles that have one: none or all
    std::uint64_t regionNames = 0;  // each a length of 8 bytes and so many bytes
};
static_assert(sizeof(Head) == 48);

mesh::Error damaged(std::string_view what) {
    return {mesh::ErrorKind::BadInput, fmt::format("a surface of this project is damaged: {}", what),
            mesh::errorcode::unreadable};
}

template <class T>
void append(std::string& bytes, const T* values, std::size_t count) {
    if (count > 0) bytes.append(reinterpret_cast<const char*>(values), count * sizeof(T));
}

bool isNarrow(const mesh::Point& p) {
    return std::all_of(p.begin(), p.end(), [](double x) {
        const double narrow = static_cast<float>(x);
        return std::bit_cast<std::uint64_t>(narrow) == std::bit_cast<std::uint64_t>(x);
    });
}

// Takes from the front; false where there is not so much.
class Reader {
public:
    explicit Reader(std::string_view bytes) : left_(bytes) {}
    template <class T>
    bool take(std::vector<T>& values, std::uint64_t count) {
        if (count > left_.size() / sizeof(T)) return false;
        values.resize(count);
        if (count > 0) std::memcpy(static_cast<void*>(values.data()), left_.data(), count * sizeof(T));
        left_.remove_prefix(count * sizeof(T));
        return true;
    }
    bool take(std::string& text, std::uint64_t count) {
        if (count > left_.size()) return false;
        text.assign(left_.substr(0, count));
        left_.remove_prefix(count);
        return true;
    }
    [[nodiscard]] bool empty() const { return left_.empty(); }

private:
    std::string_view left_;
};

static_assert(sizeof(mesh::Triangle) == 12 && sizeof(mesh::Point) == 24);

}  // namespace

std::string bytesOf(const mesh::Mesh& m) {
    std::vector<mesh::VertexId> wide;
    for (mesh::VertexId v = 0; v < m.positions.size(); ++v)
        if (!isNarrow(m.positions[v])) wide.push_back(v);
    // Most vertices of a surface that came as 32-bit numbers stay so: what a step leaves alone keeps its bytes.
    const bool narrow = 2 * wide.size() <= m.positions.size();
    if (!narrow) wide.clear();
    Head head;
    head.coordinateBytes = narrow ? 4 : 8;
    head.vertices = m.positions.size();
    head.wide = wide.size();
    head.triangles = m.triangles.size();
    head.regions = m.regions.size();
    head.regionNames = m.regionNames.size();
    head.regionsAre = static_cast<std::uint16_t>(m.regionsAre);
    std::string bytes;
    bytes.reserve(sizeof(Head) + 3 * head.coordinateBytes * head.vertices + 28 * head.wide + 12 * head.triangles +
                  4 * head.regions);
    append(bytes, &head, 1);
    if (narrow) {
        std::vector<float> coordinates;
        coordinates.reserve(3 * m.positions.size());
        for (const mesh::Point& p : m.positions)
            for (const double x : p) coordinates.push_back(static_cast<float>(x));
        append(bytes, coordinates.data(), coordinates.size());
    } else {
        append(bytes, m.positions.data(), m.positions.size());
    }
    append(bytes, m.triangles.data(), m.triangles.size());
    append(bytes, m.regions.data(), m.regions.size());
    append(bytes, wide.data(), wide.size());
    for (const mesh::VertexId v : wide) append(bytes, m.positions[v].data(), 3);
    for (const std::string& name : m.regionNames) {
        const std::uint64_t length = name.size();
        append(bytes, &length, 1);
        bytes += name;
    }
    return bytes;
}

Outcome<mesh::Mesh> surfaceFrom(std::string_view bytes) {
    const auto broken = [](std::string_view what) { return tl::unexpected(damaged(what)); };
    Reader reader(bytes);
    std::vector<Head> heads;
    if (!reader.take(heads, 1) || heads[0].mark != mark) return broken("it does not begin as one");
    const Head& head = heads[0];
    mesh::Mesh m;
    if (head.regionsAre > 1) return broken("it has regions of a kind that is not known");
    m.regionsAre = static_cast<mesh::Mesh::Regions>(head.regionsAre);
    if (head.coordinateBytes == 4) {
        std::vector<float> coordinates;
        if (head.vertices > bytes.size() || !reader.take(coordinates, 3 * head.vertices))
            return broken("vertices are missing");
        m.positions.reserve(head.vertices);
        for (std::size_t i = 0; i < coordinates.size(); i += 3)
            m.positions.emplace_back(coordinates[i], coordinates[i + 1], coordinates[i + 2]);
    } else if (head.coordinateBytes != 8 || !reader.take(m.positions, head.vertices)) {
        return broken("vertices are missing");
    }
    if (!reader.take(m.triangles, head.triangles)) return broken("triangles are missing");
    if (!reader.take(m.regions, head.regions)) return broken("regions are missing");
    std::vector<mesh::VertexId> wide;
    std::vector<mesh::Point> exact;
    if (!reader.take(wide, head.wide) || !reader.take(exact, head.wide)) return broken("vertices are missing");
    for (std::size_t i = 0; i < wide.size(); ++i) {
        if (wide[i] >= m.positions.size()) return broken("a vertex is not there");
        m.positions[wide[i]] = exact[i];
    }
    for (std::uint64_t i = 0; i < head.regionNames; ++i) {
        std::vector<std::uint64_t> length;
        if (!reader.take(length, 1) || !reader.take(m.regionNames.emplace_back(), length[0]))
            return broken("names of regions are missing");
    }
    if (!reader.empty()) return broken("there is more than it says");
    for (const mesh::Triangle& t : m.triangles)
        for (const mesh::VertexId v : t)
            if (v >= m.positions.size()) return broken("a triangle has a vertex that is not there");
    if (!m.regions.empty() && m.regions.size() != m.triangles.size()) return broken("regions are missing");
    for (const std::uint32_t r : m.regions)
        if (r >= m.regionNames.size()) return broken("a region has no name");
    return m;
}

ContentHash hashOf(std::string_view bytes) {
    XXH128_canonical_t canonical;
    XXH128_canonicalFromHash(&canonical, XXH3_128bits(bytes.data(), bytes.size()));
    ContentHash hash;
    std::copy(std::begin(canonical.digest), std::end(canonical.digest), hash.begin());
    return hash;
}

namespace {

// Quick: a kept step must be on disk within a second.
constexpr int level = 1;
// How far back what is in common is looked for: as far as the base and the bytes are long.
int widestWindow() {
    return ZSTD_cParam_getBounds(ZSTD_c_windowLog).upperBound;
}
int windowFor(std::size_t bytes) {
    constexpr int least = 18;
    return std::clamp(static_cast<int>(std::bit_width(bytes)) + 1, least, widestWindow());
}

}  // namespace

Outcome<std::string> packed(std::string_view bytes, std::string_view base) {
    const std::unique_ptr<ZSTD_CCtx, decltype(&ZSTD_freeCCtx)> context(ZSTD_createCCtx(), &ZSTD_freeCCtx);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_compressionLevel, level);
    if (!base.empty()) {
        ZSTD_CCtx_setParameter(context.get(), ZSTD_c_windowLog, windowFor(bytes.size() + base.size()));
        ZSTD_CCtx_setParameter(context.get(), ZSTD_c_enableLongDistanceMatching, 1);
        ZSTD_CCtx_refPrefix(context.get(), base.data(), base.size());
    }
    std::string result(ZSTD_compressBound(bytes.size()), '\0');
    const std::size_t size = ZSTD_compress2(context.get(), result.data(), result.size(), bytes.data(), bytes.size());
    if (ZSTD_isError(size))
        return tl::unexpected(mesh::Error{mesh::ErrorKind::Environment,
                                          fmt::format("a surface could not be packed: {}", ZSTD_getErrorName(size))});
    result.resize(size);
    return result;
}

Outcome<std::string> unpacked(std::string_view packed, std::uint64_t size, std::string_view base) {
    // What the head of the packed bytes says must agree before anything is allocated.
    if (ZSTD_getFrameContentSize(packed.data(), packed.size()) != size)
        return tl::unexpected(damaged("its size is not the one that was written"));
    if (const auto room = mesh::enoughMemory("unpacking a surface", size); !room) return mesh::errorOf(room);
    const std::unique_ptr<ZSTD_DCtx, decltype(&ZSTD_freeDCtx)> context(ZSTD_createDCtx(), &ZSTD_freeDCtx);
    ZSTD_DCtx_setParameter(context.get(), ZSTD_d_windowLogMax, widestWindow());
    if (!base.empty()) ZSTD_DCtx_refPrefix(context.get(), base.data(), base.size());
    std::string result(size, '\0');
    const std::size_t got =
        ZSTD_decompressDCtx(context.get(), result.data(), result.size(), packed.data(), packed.size());
    if (ZSTD_isError(got) || got != size) return tl::unexpected(damaged("it cannot be unpacked"));
    return result;
}

}  // namespace zither::project
