// 3MF: the objects of the core specification with their components, transforms, unit and names. The package is a ZIP
// archive (libzip) with an XML model (pugixml). Everything else (materials, slices, beams) says nothing of the surface.
#include <fmt/format.h>
#include <zip.h>

#include <map>
#include <memory>
#include <pugixml.hpp>

#include "io/formats.h"
#include "io/text.h"
#include "mesh/edges.h"

namespace zither::io {
namespace {

using mesh::badInput;
using mesh::Point;

constexpr std::pair<std::string_view, std::string_view> units[] = {
    {"micron", "um"}, {"millimeter", "mm"}, {"centimeter", "cm"}, {"meter", "m"}, {"inch", "in"}, {"foot", "ft"}};
constexpr std::string_view modelPath = "3D/3dmodel.model";
// Components of components: deeper than any real assembly, and an end where they go round in circles.
constexpr int deepest = 32;

struct CloseZip {
    void operator()(zip_t* z) const { zip_discard(z); }
};
using Zip = std::unique_ptr<zip_t, CloseZip>;

Zip openZip(std::string_view bytes) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    if (!source) return nullptr;
    zip_t* zip = zip_open_from_source(source, ZIP_RDONLY, &error);
    if (!zip) zip_source_free(source);
    return Zip(zip);
}

// The content of a file of the package; names are told apart without regard to case, as the package format wants it.
std::optional<std::string> contentOf(zip_t* zip, std::string_view name) {
    while (!name.empty() && name.front() == '/') name.remove_prefix(1);
    zip_stat_t stat;
    const std::string path(name);
    if (zip_stat(zip, path.c_str(), ZIP_FL_NOCASE, &stat) != 0 || (stat.valid & ZIP_STAT_SIZE) == 0)
        return std::nullopt;
    zip_file_t* file = zip_fopen_index(zip, stat.index, 0);
    if (!file) return std::nullopt;
    std::string content(stat.size, '\0');
    std::size_t at = 0;
    while (at < content.size()) {
        const zip_int64_t got = zip_fread(file, content.data() + at, content.size() - at);
        if (got <= 0) break;
        at += static_cast<std::size_t>(got);
    }
    zip_fclose(file);
    if (at < content.size()) return std::nullopt;
    return content;
}

// The model that the package's relations name as its root.
std::string rootModel(zip_t* zip) {
    const auto relations = contentOf(zip, "_rels/.rels");
    pugi::xml_document document;
    if (relations && document.load_buffer(relations->data(), relations->size()))
        for (const pugi::xml_node r : document.child("Relationships").children("Relationship"))
            if (std::string_view(r.attribute("Type").value()).ends_with("/3dmodel"))
                return r.attribute("Target").value();
    return std::string(modelPath);
}

// Rows of the 3MF matrix: the images of the axes, then of the origin.
using Transform = Eigen::Matrix<double, 3, 4>;

Transform identity() {
    Transform t = Transform::Zero();
    t.leftCols<3>().setIdentity();
    return t;
}

Transform transformOf(const pugi::xml_node& node) {
    Transform t = identity();
    const std::string_view text = node.attribute("transform").value();
    if (text.empty()) return t;
    TextCursor cursor(text);
    for (int column = 0; column < 4; ++column)
        for (int row = 0; row < 3; ++row)
            if (!cursor.number(t(row, column))) return identity();
    return t;
}

Transform combined(const Transform& outer, const Transform& inner) {
    Transform t;
    t.leftCols<3>() = outer.leftCols<3>() * inner.leftCols<3>();
    t.col(3) = outer.leftCols<3>() * inner.col(3) + outer.col(3);
    return t;
}

class Reading {
public:
    Reading(std::string_view bytes, const std::string& name, Progress& progress)
        : zip_(openZip(bytes)), name_(name), progress_(progress) {}

    Outcome<Surface> run() {
        if (!zip_) return badInput(name_ + ": a ZIP archive that cannot be opened: it is damaged or cut off");
        const std::string root = rootModel(zip_.get());
        const pugi::xml_document* model = load(root);
        if (!model) return badInput(fmt::format("{}: a ZIP archive without a readable 3MF model at '{}'", name_, root));
        const pugi::xml_node top = model->child("model");
        const std::string_view unit = top.attribute("unit").as_string("millimeter");
        for (const auto& [word, shortName] : units)
            if (word == unit) out_.unit = shortName;
        out_.format = Format::ThreeMf;
        for (const pugi::xml_node item : top.child("build").children("item")) {
            const std::string path = pathOf(item, root);
            if (!place(path, item.attribute("objectid").as_uint(), transformOf(item), 0)) return mesh::cancelled();
        }
        if (out_.mesh.triangles.empty() && out_.unusableTriangles == 0)
            return badInput(fmt::format("{}: 3MF whose build holds no triangle", name_));
        if (missing_ > 0)
            out_.remarks.push_back(fmt::format("{} parts of the build name an object that is not there", missing_));
        if (out_.mesh.regionNames.size() <= 1) {
            out_.mesh.regions.clear();
            out_.mesh.regionNames.clear();
        }
        return std::move(out_);
    }

private:
    // Another model file, where the production extension names one.
    static std::string pathOf(const pugi::xml_node& node, const std::string& otherwise) {
        for (const pugi::xml_attribute a : node.attributes())
            if (std::string_view(a.name()).ends_with(":path")) return a.value();
        return otherwise;
    }

    const pugi::xml_document* load(const std::string& path) {
        const auto [it, fresh] = models_.try_emplace(path);
        if (!fresh) return it->second.get();
        const auto content = contentOf(zip_.get(), path);
        auto document = std::make_unique<pugi::xml_document>();
        if (content && document->load_buffer(content->data(), content->size()) && document->child("model"))
            it->second = std::move(document);
        return it->second.get();
    }

    // False where cancelled.
    bool place(const std::string& path, unsigned id, const Transform& transform, int depth) {
        const pugi::xml_document* model = load(path);
        pugi::xml_node object;
        if (model)
            for (const pugi::xml_node o : model->child("model").child("resources").children("object"))
                if (o.attribute("id").as_uint() == id) object = o;
        if (!object || depth > deepest) {
            ++missing_;
            return true;
        }
        if (const pugi::xml_node m = object.child("mesh"); m && !addMesh(object, m, transform)) return false;
        for (const pugi::xml_node c : object.child("components").children("component"))
            if (!place(pathOf(c, path), c.attribute("objectid").as_uint(), combined(transform, transformOf(c)),
                       depth + 1))
                return false;
        return true;
    }

    bool addMesh(const pugi::xml_node& object, const pugi::xml_node& m, const Transform& transform) {
        const std::size_t first = out_.mesh.positions.size();
        const bool moved = transform != identity();
        for (const pugi::xml_node v : m.child("vertices").children("vertex")) {
            Point p;
            bool good = true;
            const char* axes[] = {"x", "y", "z"};
            for (int k = 0; k < 3; ++k) good &= TextCursor::parseNumber(trimmed(v.attribute(axes[k]).value()), p[k]);
            if (!good) p.setConstant(std::numeric_limits<double>::quiet_NaN());
            out_.mesh.positions.push_back(moved ? Point(transform.leftCols<3>() * p + transform.col(3)) : p);
        }
        const std::size_t count = out_.mesh.positions.size() - first;
        const auto region = static_cast<std::uint32_t>(out_.mesh.regionNames.size());
        const std::string name = object.attribute("name").value();
        out_.mesh.regionNames.push_back(name.empty() ? fmt::format("object {}", region + 1) : name);
        std::size_t done = 0;
        for (const pugi::xml_node t : m.child("triangles").children("triangle")) {
            const char* corners[] = {"v1", "v2", "v3"};
            mesh::Triangle triangle{};
            bool good = true;
            for (unsigned k = 0; k < 3; ++k) {
                const auto index = t.attribute(corners[k]).as_ullong(~0ULL);
                good &= index < count && out_.mesh.positions[first + index].allFinite();
                triangle[k] = static_cast<mesh::VertexId>(first + index);
            }
            if (!good) {
                ++out_.unusableTriangles;
                continue;
            }
            out_.mesh.triangles.push_back(triangle);
            out_.mesh.regions.push_back(region);
            if (++done % 65536 == 0 && !progress_.report(0.5)) return false;
        }
        return true;
    }

    Zip zip_;
    const std::string& name_;
    Progress& progress_;
    std::map<std::string, std::unique_ptr<pugi::xml_document>> models_;
    std::size_t missing_ = 0;
    Surface out_;
};

// One object a region where no edge joins two of them; else one object: a closed surface must not become open ones.
bool regionsAreApart(const Mesh& m) {
    if (m.regions.empty()) return false;
    const mesh::Groups shells = mesh::shellsOf(m, mesh::Edges(m));
    std::vector<std::uint32_t> regionOf(shells.count, mesh::noEdge);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (shells.of[t] == mesh::noEdge) continue;
        std::uint32_t& region = regionOf[shells.of[t]];
        if (region != mesh::noEdge && region != m.regions[t]) return false;
        region = m.regions[t];
    }
    return true;
}

std::string escaped(std::string_view text) {
    std::string out;
    for (char c : text) {
        if (c == '&')
            out += "&amp;";
        else if (c == '<')
            out += "&lt;";
        else if (c == '"')
            out += "&quot;";
        else if (static_cast<unsigned char>(c) >= 32)
            out += c;
    }
    return out;
}

void addObject(std::string& xml, const Mesh& m, std::uint32_t region, bool apart, std::size_t id) {
    const std::string name = apart && region < m.regionNames.size() ? m.regionNames[region] : std::string();
    fmt::format_to(std::back_inserter(xml), "<object id=\"{}\" type=\"model\"{}><mesh><vertices>\n", id,
                   name.empty() ? "" : fmt::format(" name=\"{}\"", escaped(name)));
    std::vector<std::uint32_t> number(m.positions.size(), mesh::noEdge);
    std::uint32_t next = 0;
    std::string triangles;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (apart && m.regions[t] != region) continue;
        for (mesh::VertexId v : m.triangles[t])
            if (number[v] == mesh::noEdge) {
                number[v] = next++;
                const Point& p = m.positions[v];
                fmt::format_to(std::back_inserter(xml), "<vertex x=\"{}\" y=\"{}\" z=\"{}\"/>\n", p.x(), p.y(), p.z());
            }
        fmt::format_to(std::back_inserter(triangles), "<triangle v1=\"{}\" v2=\"{}\" v3=\"{}\"/>\n",
                       number[m.triangles[t][0]], number[m.triangles[t][1]], number[m.triangles[t][2]]);
    }
    xml += "</vertices><triangles>\n" + triangles + "</triangles></mesh></object>\n";
}

}  // namespace

bool looksLikeThreeMf(std::string_view bytes) {
    return bytes.starts_with(std::string_view("PK\x03\x04", 4));
}

Outcome<Surface> readThreeMf(std::string_view bytes, const std::string& name, Progress& progress) {
    return Reading(bytes, name, progress).run();
}

Outcome<void> writeThreeMf(const Mesh& m, std::string_view unit, AtomicFile& file, Progress& progress) {
    std::string_view word = "millimeter";
    for (const auto& [known, shortName] : units)
        if (shortName == unit) word = known;
    std::string xml = fmt::format(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<model unit=\"{}\" xml:lang=\"en-US\" "
        "xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\"><resources>\n",
        word);
    const bool apart = regionsAreApart(m);
    std::string build;
    const std::size_t objects = apart ? m.regionNames.size() : 1;
    for (std::size_t i = 0; i < objects; ++i) {
        if (apart && std::find(m.regions.begin(), m.regions.end(), i) == m.regions.end()) continue;
        addObject(xml, m, static_cast<std::uint32_t>(i), apart, i + 1);
        fmt::format_to(std::back_inserter(build), "<item objectid=\"{}\"/>", i + 1);
        if (!progress.report(0.5 * static_cast<double>(i + 1) / static_cast<double>(objects))) return mesh::cancelled();
    }
    xml += "</resources><build>" + build + "</build></model>\n";
    constexpr std::string_view types =
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<Types "
        "xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"><Default Extension=\"rels\" "
        "ContentType=\"application/vnd.openxmlformats-package.relationships+xml\"/><Default Extension=\"model\" "
        "ContentType=\"application/vnd.ms-package.3dmanufacturing-3dmodel+xml\"/></Types>\n";
    constexpr std::string_view relations =
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<Relationships "
        "xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship "
        "Target=\"/3D/3dmodel.model\" Id=\"rel0\" "
        "Type=\"http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel\"/></Relationships>\n";
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* archive = zip_source_buffer_create(nullptr, 0, 0, &error);
    zip_source_keep(archive);
    zip_t* zip = zip_open_from_source(archive, ZIP_TRUNCATE, &error);
    const std::pair<std::string_view, std::string_view> parts[] = {
        {"[Content_Types].xml", types}, {"_rels/.rels", relations}, {modelPath, xml}};
    bool good = zip != nullptr;
    for (const auto& [path, content] : parts) {
        if (!good) break;
        zip_source_t* source = zip_source_buffer(zip, content.data(), content.size(), 0);
        const zip_int64_t index = zip_file_add(zip, std::string(path).c_str(), source, ZIP_FL_ENC_UTF_8);
        // The same surface gives the same bytes.
        good = index >= 0 && zip_file_set_dostime(zip, static_cast<zip_uint64_t>(index), 0, (1 << 5) | 1, 0) == 0;
    }
    good = good && zip_close(zip) == 0;
    std::string packed;
    if (good && zip_source_open(archive) == 0) {
        zip_stat_t stat;
        zip_source_stat(archive, &stat);
        packed.resize(stat.size);
        good = zip_source_read(archive, packed.data(), packed.size()) == static_cast<zip_int64_t>(packed.size());
        zip_source_close(archive);
    }
    zip_source_free(archive);
    if (!good || packed.empty()) return mesh::environment("the 3MF package could not be packed: not enough memory?");
    if (!progress.report(0.95)) return mesh::cancelled();
    return file.write(packed);
}

}  // namespace zither::io
