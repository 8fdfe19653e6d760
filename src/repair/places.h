// What a repair changed, place by place, so that each can be judged and put back by itself.
#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "check/surveyed.h"
#include "measure/loss.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::repair {

// What hangs together, by vertices, of triangles that went and triangles that came. Everything else is the same
// triangles, bit for bit and facing the same way, on both sides.
struct Place {
    mesh::Box box;
    mesh::Point corner = mesh::Point::Zero();  // of its first triangle: of no other place
    std::size_t went = 0;                      // triangles
    std::size_t came = 0;
};

// Keeps references to both surfaces. O(n log n). Places are numbered by their first triangle, those that went first.
class Places {
public:
    Places(const mesh::Mesh& before, const mesh::Mesh& after);

    [[nodiscard]] const std::vector<Place>& list() const { return list_; }
    // Of each triangle: its place; noIndex where it is kept.
    [[nodiscard]] const std::vector<std::uint32_t>& ofBefore() const { return ofBefore_; }
    [[nodiscard]] const std::vector<std::uint32_t>& ofAfter() const { return ofAfter_; }
    // Of each vertex: the place that it belongs to or borders; noIndex where there is none.
    [[nodiscard]] const std::vector<std::uint32_t>& ofVertexBefore() const { return vertexBefore_; }
    [[nodiscard]] const std::vector<std::uint32_t>& ofVertexAfter() const { return vertexAfter_; }

    // The place with the vertex that is nearest to the point, of those that went or came; none where nothing changed.
    [[nodiscard]] std::optional<std::uint32_t> nearest(const mesh::Point& to) const;

    // The surface after, with the places flagged 1 as they were before: first what stays of it, then what is put back.
    // Each triangle's number: in `after`, then in `before`.
    struct Back {
        mesh::Mesh mesh;
        std::vector<mesh::TriangleId> fromAfter;
        std::vector<mesh::TriangleId> fromBefore;
    };
    [[nodiscard]] Back putBack(const std::vector<std::uint8_t>& places) const;

private:
    const mesh::Mesh& before_;
    const mesh::Mesh& after_;
    std::vector<Place> list_;
    std::vector<std::uint32_t> ofBefore_;
    std::vector<std::uint32_t> ofAfter_;
    std::vector<std::uint32_t> vertexBefore_;
    std::vector<std::uint32_t> vertexAfter_;
};

// A place that is as it was, and what would have been worse there.
struct PlaceLeft {
    mesh::Box box;
    std::size_t triangles = 0;
    std::string why;  // "open edges: 12 instead of 4"
};

// Flags the places to put back so that no more than may be lost of what can be seen is lost in the others, and no piece
// (measure/loss.h): those first where most is. Empty: nothing need be put back. Error: cancelled.
mesh::Outcome<std::vector<std::uint8_t>> placesThatLose(const check::Surveyed& before, const check::Surveyed& after,
                                                        const Places& places, const measure::Told& told,
                                                        mesh::Progress& progress);

// Which places to put back so that no count that keeps a surface from being a solid is higher than before: of the
// places where one is, those first that mend least; more for what that makes worse, and for those that lose (as
// placesThatLose), which are put back anyway. Error: cancelled.
struct PutBackRules {
    std::vector<std::uint8_t> losing = {};         // empty: none does
    std::vector<check::DefectClass> classes = {};  // only these are counted; empty: all that are

    [[nodiscard]] bool counts(check::DefectClass defect) const {
        return classes.empty() || std::find(classes.begin(), classes.end(), defect) != classes.end();
    }
};
struct WorsePlaces {
    std::vector<std::uint8_t> flags;  // of each place; empty: none is put back
    std::vector<PlaceLeft> left;
    bool hopeless = false;  // some count stays worse whatever is put back
};
mesh::Outcome<WorsePlaces> placesToPutBack(const check::Surveyed& before, const check::Surveyed& after,
                                           const Places& places, PutBackRules rules, mesh::Progress& progress);

}  // namespace zither::repair
