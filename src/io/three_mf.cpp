// 3MF: the objects of the core specification with their components, transforms, unit and names. The package is a ZIP
// archive (libzip) with an XML model (pugixml). Everything else (materials, slices, beams) says nothing of the surface.
#include <fmt/format.h>
#include <zip.h>

#include <cmath>
#include <deque>
#include <limits>
#include <map>
#include <memory>
#include <optional>
#include <pugixml.hpp>
#include <span>
#include <unordered_map>

#include "io/reading.h"
#include "io/text.h"
#include "mesh/disjoint_sets.h"
#include "mesh/edges.h"
#include "mesh/memory.h"

namespace zither::io {
namespace {

using mesh::badInput;
using mesh::Point;

constexpr std::pair<std::string_view, std::string_view> units[] = {
    {"micron", "um"}, {"millimeter", "mm"}, {"centimeter", "cm"}, {"meter", "m"}, {"inch", "in"}, {"foot", "ft"}};
constexpr std::string_view modelPath = "3D/3dmodel.model";
// Components of components: deeper than any real assembly, and an end where they go round in circles.
constexpr int deepest = 32;
// Triangles that components may make of a file.
constexpr std::uint64_t mostMade = 200'000'000;

struct CloseZip {
    void operator()(zip_t* z) const { zip_discard(z); }
};
using Zip = std::unique_ptr<zip_t, CloseZip>;
struct CloseFile {
    void operator()(zip_file_t* f) const { zip_fclose(f); }
};

Zip openZip(std::string_view bytes) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    if (!source) return nullptr;
    zip_t* zip = zip_open_from_source(source, ZIP_RDONLY, &error);
    if (!zip) zip_source_free(source);
    return Zip(zip);
}

// The content of a file of the package, unpacked piece by piece: no memory is taken for a size that is only claimed.
// Names are told apart without regard to case, as the package format wants it. nullopt: not there or damaged; an error
// where it unpacks to more than any model would.
Outcome<std::optional<std::string>> contentOf(zip_t* zip, std::string_view name, std::size_t packedBytes) {
    constexpr std::size_t piece = 1U << 20;
    // A text of numbers shrinks to a tenth, in rare cases to a fiftieth.
    constexpr std::size_t mostRatio = 200;
    constexpr std::size_t harmless = 32U << 20;
    while (!name.empty() && name.front() == '/') name.remove_prefix(1);
    const std::string path(name);
    const zip_int64_t index = zip_name_locate(zip, path.c_str(), ZIP_FL_NOCASE);
    if (index < 0) return std::nullopt;
    const std::unique_ptr<zip_file_t, CloseFile> file(zip_fopen_index(zip, static_cast<zip_uint64_t>(index), 0));
    if (!file) return std::nullopt;
    std::string content;
    for (;;) {
        const std::size_t used = content.size();
        content.resize(used + piece);
        const zip_int64_t got = zip_fread(file.get(), content.data() + used, piece);
        if (got < 0) return std::nullopt;
        content.resize(used + static_cast<std::size_t>(got));
        if (got == 0) return content;
        if (content.size() > harmless && content.size() / mostRatio > packedBytes)
            return badInput(
                fmt::format("'{}' in the package unpacks to more than {} times the whole file: no model does", name,
                            mostRatio),
                mesh::errorcode::unreadable, std::string(name));
    }
}

// Elements and attributes of the core specification, whatever prefix the file gives its namespace.
class Names {
public:
    // The first element that is a model. Of its namespaces the core one tells the prefix.
    static pugi::xml_node modelOf(const pugi::xml_document& document) {
        for (const pugi::xml_node node : document.children())
            if (localName(node.name()) == "model") return node;
        return {};
    }
    explicit Names(const pugi::xml_node& model) {
        const std::string_view name = model.name();
        if (const std::size_t colon = name.find(':'); colon != std::string_view::npos)
            prefix_ = name.substr(0, colon + 1);
    }
    [[nodiscard]] bool is(const pugi::xml_node& node, std::string_view name) const {
        const std::string_view full = node.name();
        return full.size() == prefix_.size() + name.size() && full.starts_with(prefix_) && full.ends_with(name);
    }
    [[nodiscard]] pugi::xml_node child(const pugi::xml_node& node, std::string_view name) const {
        for (const pugi::xml_node c : node.children())
            if (is(c, name)) return c;
        return {};
    }
    template <class Use>
    void forEach(const pugi::xml_node& node, std::string_view name, const Use& use) const {
        for (const pugi::xml_node c : node.children())
            if (is(c, name)) use(c);
    }
    static std::string_view localName(std::string_view name) { return name.substr(name.find(':') + 1); }

private:
    std::string prefix_;  // with its colon; empty for the default namespace
};

// A model file of the package, with what is needed to find its objects.
struct Model {
    pugi::xml_document document;
    pugi::xml_node top;
    Names names{pugi::xml_node()};
    std::unordered_map<unsigned, pugi::xml_node> objects;
};

// Rows of the 3MF matrix: the images of the axes, then of the origin.
using Transform = Eigen::Matrix<double, 3, 4>;

Transform identity() {
    Transform t = Transform::Zero();
    t.leftCols<3>().setIdentity();
    return t;
}

// nullopt: it cannot be read.
std::optional<Transform> transformOf(const pugi::xml_node& node) {
    Transform t = identity();
    const std::string_view text = node.attribute("transform").value();
    if (trimmed(text).empty()) return t;
    TextCursor cursor(text);
    for (int column = 0; column < 4; ++column)
        for (int row = 0; row < 3; ++row)
            if (!cursor.number(t(row, column)) || !std::isfinite(t(row, column))) return std::nullopt;
    if (!cursor.word().empty()) return std::nullopt;
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
        : zip_(openZip(bytes)), packed_(bytes.size()), name_(name), progress_(progress) {}

    Outcome<Surface> run() {
        if (!zip_) return cannotRead(name_, "a ZIP archive that cannot be opened: it is damaged or cut off");
        const Outcome<std::string> root = rootModel();
        if (!root) return mesh::errorOf(root);
        const Outcome<Model*> model = load(*root);
        if (!model) return mesh::errorOf(model);
        if (!*model) return cannotRead(name_, fmt::format("a ZIP archive without a readable 3MF model at '{}'", *root));
        const std::string_view unit = (*model)->top.attribute("unit").as_string("millimeter");
        for (const auto& [word, shortName] : units)
            if (word == unit) out_.unit = shortName;
        out_.format = &threeMf;
        const Names& names = (*model)->names;
        const std::vector<Placed> items = placedIn(names, names.child((*model)->top, "build"), "item", *root);
        if (auto fits = countAll(items); !fits) return mesh::errorOf(fits);
        for (const Placed& item : items)
            if (auto placed = place(item.path, item.node, identity(), 0); !placed) return mesh::errorOf(placed);
        if (out_.mesh.triangles.empty() && out_.unusableTriangles == 0)
            return cannotRead(name_, "3MF whose build holds no triangle");
        if (missing_ > 0)
            out_.remarks.push_back(fmt::format("{} parts of the build name an object that is not there", missing_));
        if (out_.mesh.regionNames.size() <= 1) {
            out_.mesh.regions.clear();
            out_.mesh.regionNames.clear();
        }
        return std::move(out_);
    }

private:
    // An item of the build or a component, and the model file that its object stands in.
    struct Placed {
        std::string path;
        pugi::xml_node node;
    };
    // What an object makes, with its components.
    struct Size {
        std::uint64_t triangles = 0;
        bool counted = false;
    };

    // The model that the package's relations name as its root.
    Outcome<std::string> rootModel() {
        const auto relations = contentOf(zip_.get(), "_rels/.rels", packed_);
        if (!relations) return mesh::errorOf(relations);
        pugi::xml_document document;
        if (*relations && document.load_buffer((*relations)->data(), (*relations)->size()))
            for (const pugi::xml_node all : document.children())
                for (const pugi::xml_node r : all.children())
                    if (Names::localName(r.name()) == "Relationship" &&
                        std::string_view(r.attribute("Type").value()).ends_with("/3dmodel"))
                        return r.attribute("Target").value();
        return std::string(modelPath);
    }

    // Another model file, where the production extension names one.
    static std::string pathOf(const pugi::xml_node& node, const std::string& otherwise) {
        for (const pugi::xml_attribute a : node.attributes())
            if (std::string_view(a.name()).ends_with(":path")) return a.value();
        return otherwise;
    }

    // The items of a build or the components of an object, in a model file.
    static std::vector<Placed> placedIn(const Names& names, const pugi::xml_node& list, std::string_view name,
                                        const std::string& path) {
        std::vector<Placed> placed;
        names.forEach(list, name, [&](const pugi::xml_node& node) { placed.push_back({pathOf(node, path), node}); });
        return placed;
    }

    // nullptr where there is no such model, or none that can be read.
    Outcome<Model*> load(const std::string& path) {
        const auto [it, fresh] = models_.try_emplace(path);
        if (!fresh) return it->second.get();
        auto content = contentOf(zip_.get(), path, packed_);
        if (!content) return cannotRead(name_, content.error().message);
        if (!progress_.report(0.2)) return mesh::cancelled();
        auto model = std::make_unique<Model>();
        if (!*content || !model->document.load_buffer_inplace((*content)->data(), (*content)->size(),
                                                              pugi::parse_default | pugi::parse_doctype))
            return nullptr;
        for (const pugi::xml_node node : model->document.children())
            if (node.type() == pugi::node_doctype)
                return cannotRead(name_, fmt::format("'{}' declares a document type; entities are not read", path));
        model->top = Names::modelOf(model->document);
        if (!model->top) return nullptr;
        model->names = Names(model->top);
        const Names& names = model->names;
        names.forEach(names.child(model->top, "resources"), "object", [&](const pugi::xml_node& o) {
            model->objects.insert_or_assign(o.attribute("id").as_uint(), o);
        });
        noteNotKept(*model);
        // The document points into the text.
        texts_.push_back(std::move(**content));
        it->second = std::move(model);
        return it->second.get();
    }

    void noteNotKept(const Model& model) {
        for (const pugi::xml_node r : model.names.child(model.top, "resources").children()) {
            const std::string_view kind = Names::localName(r.name());
            if (kind == "basematerials" || kind == "colorgroup" || kind == "compositematerials" ||
                kind == "multiproperties")
                out_.doesNotKeep("materials and colours");
            if (kind.starts_with("texture2d")) out_.doesNotKeep("textures");
            if (kind == "slicestack") out_.doesNotKeep("slices");
        }
    }

    // Triangles that an object makes; components that multiply are counted before any is made.
    Outcome<std::uint64_t> sizeOf(const std::string& path, unsigned id, int depth) {
        const Outcome<Model*> model = load(path);
        if (!model) return mesh::errorOf(model);
        if (!*model || depth > deepest || !(*model)->objects.contains(id)) return 0;
        Size& size = sizes_[{path, id}];
        if (size.counted) return size.triangles;
        size.counted = true;  // what goes round in circles makes nothing more
        const Names& names = (*model)->names;
        const pugi::xml_node object = (*model)->objects[id];
        std::uint64_t triangles = 0;
        names.forEach(names.child(names.child(object, "mesh"), "triangles"), "triangle",
                      [&](const pugi::xml_node&) { ++triangles; });
        for (const Placed& c : placedIn(names, names.child(object, "components"), "component", path)) {
            auto inner = sizeOf(c.path, c.node.attribute("objectid").as_uint(), depth + 1);
            if (!inner) return inner;
            triangles = std::min(triangles + *inner, 2 * mostMade);
        }
        size.triangles = triangles;
        return triangles;
    }

    Outcome<void> countAll(const std::vector<Placed>& items) {
        std::uint64_t triangles = 0;
        for (const Placed& item : items) {
            const auto size = sizeOf(item.path, item.node.attribute("objectid").as_uint(), 0);
            if (!size) return mesh::errorOf(size);
            triangles = std::min(triangles + *size, 2 * mostMade);
        }
        if (triangles > mostMade)
            return cannotRead(
                name_,
                fmt::format("its components repeat objects to more than {} million triangles; export fewer copies",
                            mostMade / 1'000'000));
        // About what a triangle with its vertices takes until vertices are joined.
        constexpr std::uint64_t bytesATriangle = 120;
        if (auto fits = mesh::enoughMemory(fmt::format("{}: reading {} triangles", name_, triangles),
                                           triangles * bytesATriangle);
            !fits)
            return fits;
        out_.mesh.triangles.reserve(triangles);
        out_.mesh.regions.reserve(triangles);
        return {};
    }

    Outcome<void> place(const std::string& path, const pugi::xml_node& node, const Transform& outer, int depth) {
        const unsigned id = node.attribute("objectid").as_uint();
        const std::optional<Transform> own = transformOf(node);
        if (!own)
            return cannotRead(name_,
                              fmt::format("the transform '{}' of object {} cannot be read: twelve numbers are expected",
                                          node.attribute("transform").value(), id));
        const Transform transform = combined(outer, *own);
        const Outcome<Model*> model = load(path);
        if (!model) return mesh::errorOf(model);
        if (!*model || depth > deepest || !(*model)->objects.contains(id)) {
            ++missing_;
            return {};
        }
        if (sizes_[{path, id}].triangles == 0) return {};
        const Names& names = (*model)->names;
        const pugi::xml_node object = (*model)->objects[id];
        if (const pugi::xml_node m = names.child(object, "mesh"); m && !addMesh(names, object, transform))
            return mesh::cancelled();
        for (const Placed& c : placedIn(names, names.child(object, "components"), "component", path))
            if (auto placed = place(c.path, c.node, transform, depth + 1); !placed) return placed;
        return {};
    }

    // False where cancelled.
    bool addMesh(const Names& names, const pugi::xml_node& object, const Transform& transform) {
        const pugi::xml_node m = names.child(object, "mesh");
        const std::size_t first = out_.mesh.positions.size();
        const bool moved = transform != identity();
        names.forEach(names.child(m, "vertices"), "vertex", [&](const pugi::xml_node& v) {
            Point p;
            bool good = true;
            const char* axes[] = {"x", "y", "z"};
            for (int k = 0; k < 3; ++k) good &= TextCursor::parseNumber(trimmed(v.attribute(axes[k]).value()), p[k]);
            if (!good) p.setConstant(std::numeric_limits<double>::quiet_NaN());
            out_.mesh.positions.push_back(moved ? Point(transform.leftCols<3>() * p + transform.col(3)) : p);
        });
        const std::size_t count = out_.mesh.positions.size() - first;
        const auto region = static_cast<std::uint32_t>(out_.mesh.regionNames.size());
        const std::string name = object.attribute("name").value();
        out_.mesh.regionNames.push_back(name.empty() ? fmt::format("object {}", region + 1) : name);
        names.forEach(names.child(m, "triangles"), "triangle", [&](const pugi::xml_node& t) {
            const char* corners[] = {"v1", "v2", "v3"};
            mesh::Triangle triangle{};
            bool good = true;
            for (unsigned k = 0; k < 3; ++k) {
                const auto index = t.attribute(corners[k]).as_ullong(~0ULL);
                good = good && index < count && out_.mesh.positions[first + index].allFinite();
                triangle[k] = static_cast<mesh::VertexId>(first + index);
            }
            if (!good) {
                ++out_.unusableTriangles;
                return;
            }
            out_.mesh.triangles.push_back(triangle);
            out_.mesh.regions.push_back(region);
        });
        for (const pugi::xml_node other : m.children())
            if (Names::localName(other.name()) == "beamlattice") out_.doesNotKeep("beams");
        return progress_.report(0.5);
    }

    Zip zip_;
    std::size_t packed_;
    const std::string& name_;
    Progress& progress_;
    std::deque<std::string> texts_;
    std::map<std::string, std::unique_ptr<Model>> models_;
    std::map<std::pair<std::string, unsigned>, Size> sizes_;
    std::size_t missing_ = 0;
    Surface out_;
};

// Of each region the first one that edges link it with: they become one object, as a closed surface must not become
// open ones.
std::vector<std::uint32_t> objectsOfRegions(const Mesh& m) {
    mesh::DisjointSets linked(std::max<std::size_t>(1, m.regionNames.size()));
    if (!m.regions.empty()) {
        const mesh::Groups shells = mesh::shellsOf(m, mesh::Edges(m));
        std::vector<std::uint32_t> regionOf(shells.count, mesh::noEdge);
        for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
            if (shells.of[t] == mesh::noEdge) continue;
            std::uint32_t& region = regionOf[shells.of[t]];
            if (region != mesh::noEdge) linked.join(region, m.regions[t]);
            region = m.regions[t];
        }
    }
    std::vector<std::uint32_t> first(std::max<std::size_t>(1, m.regionNames.size()), mesh::noEdge);
    std::vector<std::uint32_t> objects(first.size());
    for (std::uint32_t r = 0; r < objects.size(); ++r) {
        std::uint32_t& of = first[linked.find(r)];
        if (of == mesh::noEdge) of = r;
        objects[r] = of;
    }
    return objects;
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

// The objects of a model, one after the other.
class ObjectsXml {
public:
    ObjectsXml(const Mesh& m, std::string& xml) : m_(m), xml_(xml), number_(m.positions.size(), mesh::noIndex) {}

    void add(std::size_t id, const std::string& name, std::span<const mesh::TriangleId> triangles) {
        const auto to = std::back_inserter(xml_);
        fmt::format_to(to, "<object id=\"{}\" type=\"model\"{}><mesh><vertices>\n", id,
                       name.empty() ? "" : fmt::format(" name=\"{}\"", escaped(name)));
        std::uint32_t next = 0;
        for (const mesh::TriangleId t : triangles)
            for (const mesh::VertexId v : m_.triangles[t]) {
                if (number_[v] != mesh::noIndex) continue;
                number_[v] = next++;
                const Point& p = m_.positions[v];
                fmt::format_to(to, "<vertex x=\"{}\" y=\"{}\" z=\"{}\"/>\n", p.x(), p.y(), p.z());
            }
        xml_ += "</vertices><triangles>\n";
        for (const mesh::TriangleId t : triangles) {
            const mesh::Triangle& v = m_.triangles[t];
            fmt::format_to(to, "<triangle v1=\"{}\" v2=\"{}\" v3=\"{}\"/>\n", number_[v[0]], number_[v[1]],
                           number_[v[2]]);
        }
        xml_ += "</triangles></mesh></object>\n";
        // Objects share no vertices in the file, whatever they share here.
        for (const mesh::TriangleId t : triangles)
            for (const mesh::VertexId v : m_.triangles[t]) number_[v] = mesh::noIndex;
    }

private:
    const Mesh& m_;
    std::string& xml_;
    std::vector<std::uint32_t> number_;  // of each vertex in the object at hand
};

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
    const std::vector<std::uint32_t> objectOf = objectsOfRegions(m);
    std::vector<std::string> names(objectOf.size());
    for (std::uint32_t r = 0; r < m.regionNames.size(); ++r) {
        std::string& name = names[objectOf[r]];
        name += (name.empty() ? "" : ", ") + m.regionNames[r];
    }
    std::string build;
    std::vector<std::vector<mesh::TriangleId>> objects(objectOf.size());
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) objects[objectOf[m.regionOf(t)]].push_back(t);
    ObjectsXml written(m, xml);
    for (std::size_t i = 0; i < objects.size(); ++i) {
        if (objects[i].empty()) continue;
        written.add(i + 1, names[i], objects[i]);
        fmt::format_to(std::back_inserter(build), "<item objectid=\"{}\"/>", i + 1);
        if (!progress.report(0.5 * static_cast<double>(i + 1) / static_cast<double>(objects.size())))
            return mesh::cancelled();
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

}  // namespace

constinit const Format threeMf = {.name = "3mf",
                                  .title = "3MF",
                                  .extension = ".3mf",
                                  .written = "packed, 64-bit coordinates, its unit, names of its bodies",
                                  .keepsUnit = true,
                                  .keepsRegions = true,
                                  .recognises = looksLikeThreeMf,
                                  .read = readThreeMf,
                                  .write = writeThreeMf};

}  // namespace zither::io
