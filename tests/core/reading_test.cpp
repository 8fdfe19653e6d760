// What must load although it is odd, and what must be refused in words.
#include <gtest/gtest.h>
#include <zip.h>

#include "io/reading.h"
#include "io/surface_file.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

io::Surface read(const std::string& bytes) {
    auto surface = io::readSurface(bytes, "test", silent());
    EXPECT_TRUE(surface.has_value()) << (surface ? "" : surface.error().message);
    return surface ? std::move(*surface) : io::Surface();
}

std::string refused(const std::string& bytes) {
    const auto surface = io::readSurface(bytes, "test", silent());
    EXPECT_FALSE(surface.has_value());
    return surface ? "" : surface.error().message;
}

std::string joined(const std::vector<std::string>& things) {
    std::string all;
    for (const std::string& t : things) all += (all.empty() ? "" : "; ") + t;
    return all;
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    for (std::size_t at = 0; (at = text.find(from, at)) != std::string::npos; at += to.size())
        text.replace(at, from.size(), to);
    return text;
}

// ---- ASCII STL

const std::string twoSolids =
    "solid hub\nfacet normal 0 0 1\n outer loop\n  vertex 0 0 0\n  vertex 1 0 0\n  vertex 0 1 0\n endloop\nendfacet\n"
    "endsolid hub\nsolid rim of it\nfacet normal 0 0 1\n outer loop\n  vertex 0 0 1\n  vertex 1 0 1\n  vertex 0 1 1\n "
    "endloop\nendfacet\nendsolid rim of it\n";

TEST(OddFiles, AsciiStlWhateverItsLinesEndWith) {
    const io::Surface plain = read(twoSolids);
    ASSERT_EQ(plain.mesh.triangles.size(), 2U);
    ASSERT_EQ(plain.mesh.regionNames, (std::vector<std::string>{"hub", "rim of it"}));
    for (const std::string& text :
         {"\xEF\xBB\xBF" + twoSolids, replaced(twoSolids, "\n", "\r"), replaced(twoSolids, "\n", "\r\n"),
          replaced(twoSolids, "\n", " "), "\xEF\xBB\xBF\r\n" + replaced(twoSolids, "\n", "\r"),
          replaced(twoSolids, "solid", "SOLID")}) {
        const io::Surface odd = read(text);
        EXPECT_EQ(odd.format, &io::stlAscii);
        EXPECT_EQ(odd.mesh.triangles, plain.mesh.triangles);
        EXPECT_EQ(odd.mesh.positions, plain.mesh.positions);
        EXPECT_EQ(odd.mesh.regions, plain.mesh.regions);
        EXPECT_EQ(odd.mesh.regionNames, plain.mesh.regionNames);
    }
}

TEST(OddFiles, LargeAsciiStlIsTheSameWithBareCarriageReturns) {
    const TemporaryFolder folder;
    const Mesh m = sphere(3, 200, 100);
    ASSERT_TRUE(io::writeSurface(m, folder / "s.stl", {io::stlAscii}, silent()));
    const std::string text = *io::readBytes(folder / "s.stl");
    ASSERT_GT(text.size(), 4U << 20);
    const io::Surface plain = read(text);
    EXPECT_EQ(read(replaced(text, "\n", "\r")).mesh.triangles, plain.mesh.triangles);
    EXPECT_EQ(read(replaced(text, "\n", " ")).mesh.triangles, plain.mesh.triangles);
}

// ---- OBJ

TEST(OddFiles, ObjWithProseBeforeItsFirstStatement) {
    const io::Surface s =
        read("This file was made for the test stand.\n\n  Units are not told.\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
    EXPECT_EQ(s.format, &io::obj);
    EXPECT_EQ(s.mesh.triangles.size(), 1U);
    EXPECT_NE(joined(s.remarks).find("2 lines of text before the first statement"), std::string::npos)
        << joined(s.remarks);
    // Prose alone is none.
    EXPECT_NE(refused("Verily, five fine facets.\nNothing else.\n").find("which is no 3MF, PLY"), std::string::npos);
}

TEST(OddFiles, ObjStatementsGoOnBehindABackslash) {
    const std::string text = "v 0 0 \\\n 0\nv 1 \\\r\n0 0\nv 0 1 0\ng a \\\nname\nf 1\\\n 2 \\  \n3\n";
    const io::Surface s = read(text);
    ASSERT_EQ(s.mesh.triangles.size(), 1U);
    EXPECT_EQ(s.mesh.positions[1], Point(1, 0, 0));
    EXPECT_TRUE(joined(s.remarks).empty()) << joined(s.remarks);
    // A backslash within a word is a letter.
    // A group goes on where its name stands again.
    const auto again = read("v 0 0 0\nv 1 0 0\nv 0 1 0\ng a\nf 1 2 3\ng b\nf 1 3 2\ng none\ng a\nf 2 3 1\n");
    EXPECT_EQ(again.mesh.regionNames, (std::vector<std::string>{"a", "b"}));
    EXPECT_EQ(again.mesh.regions, (std::vector<std::uint32_t>{0, 1, 0}));
    EXPECT_EQ(read("g a\\b\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\ng c\nf 1 2 3\n").mesh.regionNames.front(), "a\\b");
}

TEST(OddFiles, ContinuedLinesAreNotCutBetweenStretches) {
    std::string text;
    while (text.size() < (3U << 20)) text += "v 0.25\\\n 0.5\\\n 1\n";
    const std::size_t count = std::count(text.begin(), text.end(), 'v');
    text += "v 1 0 0\nv 0 1 0\nf 1 " + std::to_string(count + 1) + " " + std::to_string(count + 2) + "\n";
    const io::Surface s = read(text);
    EXPECT_EQ(s.mesh.triangles.size(), 1U);
    EXPECT_TRUE(joined(s.remarks).empty()) << joined(s.remarks);
}

// ---- what is not kept

TEST(NotKept, IsToldOnceOnReading) {
    const io::Surface obj = read(
        "# units: mm\nmtllib a.mtl\nv 0 0 0 1 0 0\nv 1 0 0 1 0 0\nv 0 1 0 1 0 0\nvn 0 0 1\nvt 0 0\nusemtl red\nf 1 2 "
        "3\nl "
        "1 2\n");
    EXPECT_EQ(
        joined(obj.notKept),
        "vertex colours; vertex normals; texture coordinates; materials; lines, points or curves; a comment on its "
        "unit ('units: mm')");
    EXPECT_EQ(obj.remarks.back().substr(0, 40), "The file also holds vertex colours, vert");
    // Another comment does not hide it, and its case does not matter.
    EXPECT_EQ(joined(read("# UNITS: IN\n# a finite part\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n").notKept),
              "a comment on its unit ('UNITS: IN')");
    const io::Surface ply = read(
        "ply\nformat ascii 1.0\ncomment unit = m\nelement vertex 3\nproperty float x\nproperty float y\nproperty float "
        "z\nproperty float nx\nproperty uchar red\nproperty float quality\nelement face 1\nproperty list uchar int "
        "vertex_indices\nproperty uchar blue\nend_header\n0 0 0 1 9 1\n1 0 0 1 9 1\n0 1 0 1 9 1\n3 0 1 2 7\n");
    EXPECT_EQ(joined(ply.notKept),
              "a comment on its unit ('unit = m'); vertex normals; vertex colours; the property 'quality' of 'vertex'; "
              "face colours");
    EXPECT_EQ(
        joined(read("CNOFF\n3 1 0\n0 0 0 0 0 1 9 9 9 9\n1 0 0 0 0 1 9 9 9 9\n0 1 0 0 0 1 9 9 9 9\n3 0 1 2 1 0 0\n")
                   .notKept),
        "vertex colours; vertex normals; face colours");
    EXPECT_TRUE(read(twoSolids).notKept.empty());
}

// ---- polygons

TEST(Polygons, LargeOnesLieWithinThemselves) {
    // A comb: concave, in a plane aslant. The triangles' area is that of the polygon, and none is turned over.
    std::vector<Point> positions;
    std::vector<mesh::VertexId> polygon;
    const int teeth = 200;
    for (int i = 0; i < teeth; ++i) {
        positions.emplace_back(2 * i, 0, 3 * i);
        positions.emplace_back(2 * i + 1, 50, 3 * i + 1);
    }
    positions.emplace_back(2 * teeth, 60, 3 * teeth);
    positions.emplace_back(0, 60, 0);
    for (mesh::VertexId v = 0; v < positions.size(); ++v) polygon.push_back(v);
    Point whole = Point::Zero();
    for (std::size_t i = 0; i < polygon.size(); ++i) whole += positions[i].cross(positions[(i + 1) % polygon.size()]);
    io::PolygonSplitter splitter;
    Point sum = Point::Zero();
    double absolute = 0;
    std::size_t count = 0;
    splitter.split(polygon, positions, [&](auto a, auto b, auto c) {
        const Point n = (positions[b] - positions[a]).cross(positions[c] - positions[a]);
        sum += n;
        absolute += n.z();
        ++count;
        EXPECT_GE(n.z() * whole.z(), 0);
    });
    EXPECT_EQ(count, polygon.size() - 2);
    EXPECT_EQ(splitter.fans(), 0U);
    EXPECT_LT((sum - whole).norm(), 1e-9 * whole.norm());
    EXPECT_NEAR(absolute, whole.z(), 1e-9 * std::abs(whole.z()));
}

// Found by fuzzing: the grid of a polygon whose extent is no number.
TEST(Polygons, AtTheEndsOfWhatANumberHolds) {
    rig::Random random(5);
    for (int round = 0; round < 50; ++round) {
        std::vector<Point> positions;
        std::vector<mesh::VertexId> polygon;
        for (mesh::VertexId v = 0; v < 60; ++v) {
            const double sizes[] = {1e308, 1.7e308, 5e-324, 0, 1, -1e308};
            Point p = random.direction();
            for (int k = 0; k < 3; ++k) p[k] *= sizes[(v * 7 + static_cast<unsigned>(k + round)) % 6];
            positions.push_back(p);
            polygon.push_back(v);
        }
        io::PolygonSplitter splitter;
        std::size_t count = 0;
        splitter.split(polygon, positions, [&](auto a, auto b, auto c) {
            EXPECT_TRUE(a < 60 && b < 60 && c < 60);
            ++count;
        });
        EXPECT_EQ(count, polygon.size() - 2);
    }
}

// ---- 3MF

const std::string tetrahedron =
    "<mesh><vertices><vertex x='0' y='0' z='0'/><vertex x='1' y='0' z='0'/><vertex x='0' y='1' z='0'/><vertex x='0' "
    "y='0' "
    "z='1'/></vertices><triangles><triangle v1='0' v2='2' v3='1'/><triangle v1='0' v2='1' v3='3'/><triangle v1='1' "
    "v2='2' "
    "v3='3'/><triangle v1='0' v2='3' v3='2'/></triangles></mesh>";

std::string packed(const std::string& model) {
    zip_error_t error;
    zip_source_t* archive = zip_source_buffer_create(nullptr, 0, 0, &error);
    zip_source_keep(archive);
    zip_t* zip = zip_open_from_source(archive, ZIP_TRUNCATE, &error);
    zip_file_add(zip, "3D/3dmodel.model", zip_source_buffer(zip, model.data(), model.size(), 0), ZIP_FL_ENC_UTF_8);
    EXPECT_EQ(zip_close(zip), 0);
    zip_stat_t stat;
    zip_source_stat(archive, &stat);
    std::string bytes(stat.size, '\0');
    EXPECT_EQ(zip_source_open(archive), 0);
    EXPECT_EQ(zip_source_read(archive, bytes.data(), bytes.size()), static_cast<zip_int64_t>(bytes.size()));
    zip_source_close(archive);
    zip_source_free(archive);
    return bytes;
}

std::string modelOf(const std::string& resources, const std::string& build) {
    return packed("<?xml version='1.0'?><model unit='inch'><resources>" + resources + "</resources><build>" + build +
                  "</build></model>");
}

TEST(ThreeMfReading, NamespacePrefixesAreUnderstood) {
    std::string text =
        "<c:model xmlns:c='http://schemas.microsoft.com/3dmanufacturing/core/2015/02'><resources><object "
        "id='1'>" +
        tetrahedron + "</object></resources><build><item objectid='1'/></build></c:model>";
    for (const char* name :
         {"model", "resources", "object", "mesh", "vertices", "vertex", "triangles", "triangle", "build", "item"}) {
        text = replaced(text, std::string("<") + name + ">", std::string("<c:") + name + ">");
        text = replaced(text, std::string("<") + name + " ", std::string("<c:") + name + " ");
        text = replaced(text, std::string("</") + name + ">", std::string("</c:") + name + ">");
    }
    EXPECT_EQ(read(packed(text)).mesh.triangles.size(), 4U);
}

TEST(ThreeMfReading, DocumentTypesAreRefused) {
    const std::string bomb =
        "<?xml version='1.0'?><!DOCTYPE model [<!ENTITY a 'aaaa'><!ENTITY b '&a;&a;&a;'>]><model><resources><object "
        "id='1' name='&b;'>" +
        tetrahedron + "</object></resources><build><item objectid='1'/></build></model>";
    EXPECT_EQ(refused(packed(bomb)), "test: '3D/3dmodel.model' declares a document type; entities are not read");
}

TEST(ThreeMfReading, ATransformThatCannotBeReadIsAnError) {
    const std::string object = "<object id='1'>" + tetrahedron + "</object>";
    for (const char* transform : {"1 0 0 0 1 0 0 0 1 0 0", "1 0 0 0 one 0 0 0 1 0 0 0", "1 0 0 0 1 0 0 0 1 0 0 0 7",
                                  "nan 0 0 0 1 0 0 0 1 0 0 0"})
        EXPECT_NE(refused(modelOf(object, "<item objectid='1' transform='" + std::string(transform) + "'/>"))
                      .find("the transform '" + std::string(transform) + "' of object 1 cannot be read"),
                  std::string::npos);
    EXPECT_EQ(read(modelOf(object, "<item objectid='1' transform=''/>")).mesh.triangles.size(), 4U);
}

TEST(ThreeMfReading, ComponentsThatMultiplyAreCountedBeforeTheyAreMade) {
    // Ten of ten of ten ...: 4e9 triangles in a few hundred bytes.
    std::string resources = "<object id='1'>" + tetrahedron + "</object>";
    for (int level = 2; level <= 10; ++level) {
        resources += "<object id='" + std::to_string(level) + "'><components>";
        for (int i = 0; i < 10; ++i) resources += "<component objectid='" + std::to_string(level - 1) + "'/>";
        resources += "</components></object>";
    }
    EXPECT_EQ(refused(modelOf(resources, "<item objectid='10'/>")),
              "test: its components repeat objects to more than 200 million triangles; export fewer copies");
    EXPECT_EQ(read(modelOf(resources, "<item objectid='3'/>")).mesh.triangles.size(), 400U);
    // Without any triangle at the end of them there is nothing to do, however many there are.
    std::string empty = "<object id='1'><mesh/></object>";
    for (int level = 2; level <= 30; ++level) {
        empty += "<object id='" + std::to_string(level) + "'><components>";
        for (int i = 0; i < 10; ++i) empty += "<component objectid='" + std::to_string(level - 1) + "'/>";
        empty += "</components></object>";
    }
    EXPECT_EQ(refused(modelOf(empty, "<item objectid='30'/>")), "test: 3MF whose build holds no triangle");
}

TEST(ThreeMfReading, APackageThatUnpacksToFarTooMuchIsRefused) {
    const std::string blanks(64U << 20, ' ');
    EXPECT_NE(refused(packed("<model>" + blanks + "</model>")).find("unpacks to more than 200 times the whole file"),
              std::string::npos);
}

TEST(ThreeMfReading, MaterialsAreTold) {
    const io::Surface s =
        read(modelOf("<basematerials id='9'/><m:texture2d id='8'/><object id='1'>" + tetrahedron + "</object>",
                     "<item objectid='1'/>"));
    EXPECT_EQ(joined(s.notKept), "materials and colours; textures");
}

}  // namespace
}  // namespace zither::tests
