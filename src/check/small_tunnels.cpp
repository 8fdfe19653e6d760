// Handles and tunnels that are small beside the part, as scanning and thresholding leave them.
#include "check/catalogue.h"
#include "check/surveyed.h"
#include "measure/tunnels.h"

namespace zither::check {
namespace {

constexpr Measure narrowTunnels = {.key = "small_tunnels"};
constexpr const Measure* measures[] = {&narrowTunnels};

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress& progress) {
    const double longest = options.tunnelPercent / 100 * survey.mass.size.diagonal();
    if (!(longest > 0)) return Findings();
    const Mesh& m = s.mesh();
    const std::vector<std::uint8_t> everywhere(m.triangles.size(), 1);
    const auto tunnels = measure::tunnelsOf(
        {m, s.edges(), s.corners(), everywhere}, longest, [](const auto&) { return true; }, progress);
    if (!tunnels) return mesh::errorOf(tunnels);
    Findings result;
    for (const measure::Tunnel& tunnel : *tunnels) {
        std::vector<Findings::Edge> edges;
        std::vector<TriangleId> triangles;
        for (std::size_t i = 0; i < tunnel.loop.size(); ++i) {
            edges.push_back({tunnel.loop[i], tunnel.loop[(i + 1) % tunnel.loop.size()]});
            for (const mesh::HalfEdge h : s.corners().at(tunnel.loop[i])) triangles.push_back(mesh::triangleOf(h));
        }
        std::sort(triangles.begin(), triangles.end());
        triangles.erase(std::unique(triangles.begin(), triangles.end()), triangles.end());
        result.add(smallTunnels, m, triangles, edges);
    }
    survey.measured.set(narrowTunnels, static_cast<double>(tunnels->size()));
    return result;
}

constexpr Setting settings[] = {
    {.id = "percent", .title = "tunnels below", .unit = "%", .usual = 3, .option = &SurveyOptions::tunnelPercent}};

}  // namespace

constinit const DefectDescriptor smallTunnels = {
    .key = "small-tunnels",
    .name = "Small tunnels",
    .sentence = "Handles or tunnels with a short way around them beside the whole part: bridges that a scan made up.",
    .ink = 0x5B5348,
    .glyph = glyph::hollow,
    .draw = drawEdges,
    .run = run,
    .limited = {.id = "small_tunnels",
                .title = "small tunnels",
                .unit = "",
                .value = measuredOf<narrowTunnels>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .measures = measures,
    .afterOthers = true,
    .byOptions = true,
};

}  // namespace zither::check
