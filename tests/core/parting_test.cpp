// One part made several, several made one.
#include "project/parting.h"
#include "io/surface_file.h"
#include "measure/mass.h"
#include "steps/call.h"
#include "steps/step.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::Pick;
using project::Piece;

// A hollow box, and beside it a smaller one.
Mesh twoBodies() {
    Mesh m = box(Point(0, 0, 0), Point(1, 1, 1));
    mesh::append(m, box(Point(5, 0, 0), Point(9, 4, 4)));
    mesh::append(m, flipped(box(Point(6, 1, 1), Point(8, 3, 3))));
    return m;
}

TEST(Parting, BodiesKeepTheirCavitiesAndComeLargestFirst) {
    const Mesh m = twoBodies();
    const auto pieces = project::apartByBody(m, surveyed(m), "rig");
    ASSERT_EQ(pieces.size(), 2U);
    EXPECT_EQ(pieces[0].name, "rig 1");
    EXPECT_EQ(pieces[0].mesh.triangles.size(), 24U);
    EXPECT_DOUBLE_EQ(measure::massOf(pieces[0].mesh).volume, 64 - 8);
    EXPECT_EQ(pieces[1].mesh.triangles.size(), 12U);
    for (const Piece& piece : pieces) EXPECT_EQ(measure::keptOf(piece.mesh, m).share, 1);
    // Joined again they are what they were.
    const Mesh again = project::joined(pieces);
    EXPECT_EQ(measure::keptOf(m, again).share, 1);
    EXPECT_EQ(again.triangles.size(), m.triangles.size());
    EXPECT_EQ(again.regionNames, (std::vector<std::string>{"rig 1", "rig 2"}));
}

// Each piece is what is left of the whole without the others: vertices, triangles and regions in their order.
TEST(Parting, PiecesAreTheWholeWithoutTheRest) {
    Mesh m;
    constexpr int many = 40;
    for (int i = 0; i < many; ++i) mesh::append(m, box(Point(3 * i, 0, 0), Point(3 * i + 2, 1, 1 + i % 7)));
    m.regionNames = {"odd", "even"};
    m.regions.clear();
    for (std::size_t t = 0; t < m.triangles.size(); ++t) m.regions.push_back(t % 2 == 0 ? 1 : 0);
    // So that a body's triangles and vertices lie all over the mesh.
    const std::size_t half = m.triangles.size() / 2;
    for (std::size_t t = 0; t < half; t += 3) std::swap(m.triangles[t], m.triangles[half + t]);
    const check::Survey survey = surveyed(m);
    const auto pieces = project::apartByBody(m, survey, "row");
    ASSERT_EQ(pieces.size(), static_cast<std::size_t>(many));
    std::size_t found = 0;
    for (std::uint32_t shell = 0; shell < survey.shells.size(); ++shell) {
        std::vector<std::uint8_t> keep;
        for (const std::uint32_t s : survey.shellOf) keep.push_back(s == shell);
        const Mesh alone = mesh::keepTriangles(m, keep);
        for (const Piece& piece : pieces)
            found += piece.mesh.positions == alone.positions && piece.mesh.triangles == alone.triangles &&
                     piece.mesh.regions == alone.regions && piece.mesh.regionNames == alone.regionNames;
    }
    EXPECT_EQ(found, pieces.size());
}

TEST(Parting, RegionsKeepTheirNames) {
    Mesh m = unitBox();
    m.regions.assign(12, 0);
    m.regions[3] = m.regions[4] = 1;
    m.regions[7] = 2;
    m.regionNames = {"wall", "inlet", "out/let", "nothing"};
    const auto pieces = project::apartByRegion(m, "duct");
    ASSERT_EQ(pieces.size(), 3U);
    EXPECT_EQ(pieces[1].name, "duct inlet");
    EXPECT_EQ(pieces[1].mesh.triangles.size(), 2U);
    EXPECT_EQ(project::fileNamesOf(pieces), (std::vector<std::string>{"duct wall", "duct inlet", "duct out_let"}));
    EXPECT_EQ(project::apartByRegion(unitBox(), "box").size(), 1U);
}

TEST(Parting, APickAndTheRest) {
    const auto pieces = project::apartByPick(unitBox(), Pick({0, 1}), "box");
    ASSERT_EQ(pieces.size(), 2U);
    EXPECT_EQ(pieces[0].mesh.triangles.size(), 2U);
    EXPECT_EQ(pieces[1].mesh.triangles.size(), 10U);
    EXPECT_EQ(project::apartByPick(unitBox(), Pick(), "box").size(), 1U);
    EXPECT_EQ(project::fileNamesOf({{"a", {}}, {"a", {}}, {"a", {}}}),
              (std::vector<std::string>{"a", "a (2)", "a (3)"}));
}

TEST(Parting, UglyMeshesComeApartWithoutLoss) {
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        std::size_t triangles = 0;
        const check::Survey survey = surveyed(m);
        for (const Piece& piece : project::apartByBody(m, survey, name)) {
            EXPECT_EQ(mesh::validate(piece.mesh), "");
            triangles += piece.mesh.triangles.size();
        }
        EXPECT_EQ(triangles + survey.counts.collapsedTriangles, m.triangles.size());
    }
}

TEST(Join, AnotherSurfaceComesBesideAsItStands) {
    const TemporaryFolder folder;
    const std::string file = (folder / "b.stl").string();
    const Mesh other = box(Point(3, 0, 0), Point(4, 1, 1));
    ASSERT_TRUE(io::writeSurface(other, file, {io::stlBinary}, silent()));
    const auto done = steps::runStep(*steps::parseStepCall("join with=" + file), shared(unitBox()), Pick(), silent());
    ASSERT_TRUE(done);
    const check::Survey survey = surveyed(done->part->mesh());
    EXPECT_EQ(survey.counts.shells, 2U);
    EXPECT_TRUE(survey.solid);
    EXPECT_EQ(measure::keptOf(unitBox(), done->part->mesh()).share, 1);
    EXPECT_EQ(measure::keptOf(other, done->part->mesh()).share, 1);
    EXPECT_FALSE(steps::runStep(*steps::parseStepCall("join with=none.stl"), shared(unitBox()), Pick(), silent()));
}

}  // namespace
}  // namespace zither::tests
