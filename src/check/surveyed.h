// A surface with what is known of it. It travels from reading through steps, track, judging and drawing, so that no
// surface is looked at twice: each part is made when it is first asked for, and never again.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <mutex>
#include <vector>

#include "check/survey.h"
#include "mesh/edges.h"
#include "mesh/lazy.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "space/ray_scene.h"
#include "space/triangle_tree.h"

namespace zither::check {

// Immutable to whoever holds it; all members may be called from several threads.
class Surveyed {
public:
    // What a survey spares. Memory: what the checks before needed is given back before rays are asked, so that nobody
    // else may hold the surface meanwhile.
    enum class Spares { Time, Memory };
    explicit Surveyed(std::shared_ptr<const Mesh> m, Spares spares = Spares::Time);
    explicit Surveyed(Mesh&& m) : Surveyed(std::make_shared<const Mesh>(std::move(m))) {}
    // Borrows the mesh, which must outlive it: for the length of a call.
    Surveyed(const Mesh& m);  // NOLINT: a mesh of which nothing is known yet
    Surveyed(const Surveyed&) = delete;
    Surveyed& operator=(const Surveyed&) = delete;
    ~Surveyed() = default;

    [[nodiscard]] const Mesh& mesh() const { return *mesh_; }
    [[nodiscard]] const std::shared_ptr<const Mesh>& shared() const { return mesh_; }
    [[nodiscard]] Spares spares() const { return spares_; }

    [[nodiscard]] const mesh::Edges& edges() const;
    [[nodiscard]] const mesh::Corners& corners() const;
    [[nodiscard]] const mesh::Groups& shells() const;  // as mesh::shellsOf
    // One flag a triangle: collapsed, or its corners on one line (exactly).
    [[nodiscard]] const std::vector<std::uint8_t>& degenerate() const;
    [[nodiscard]] const space::TriangleTree& tree() const;  // over every triangle
    [[nodiscard]] const space::RayScene& rays() const;      // the same, for pictures

    // Every check. The first call runs them; one with other options runs again only the checks that depend on them.
    // Error: only cancelled; then the next call tries again. `heard` is told each check that is done with the value
    // that it limits, from several threads.
    using Heard = std::function<void(DefectClass, double value)>;
    [[nodiscard]] mesh::Outcome<std::shared_ptr<const Survey>> survey(const SurveyOptions& options,
                                                                      mesh::Progress& progress,
                                                                      const Heard& heard = {}) const;
    // The survey that was made last; nullptr before the first.
    [[nodiscard]] std::shared_ptr<const Survey> known() const;

    // The options of that survey, for whoever does not mind which; the usual ones before the first.
    [[nodiscard]] SurveyOptions knownOptions() const;

    // The same surface with its survey, but without what takes much memory and is quickly made again: for stops that
    // nobody looks at.
    [[nodiscard]] std::shared_ptr<const Surveyed> light() const;

    // Give memory back; what is asked for again is made again. For whoever alone holds the surface.
    void forgetRays() const { rays_.forget(); }
    void forgetAllButRays() const;

    // Another numbering of the same surface (mesh::isSameSurface), with this one's survey.
    [[nodiscard]] std::shared_ptr<const Surveyed> renumbered(std::shared_ptr<const Mesh> m) const;

    // How many surveys were made since the program began; for tests and benchmarks.
    [[nodiscard]] static std::uint64_t surveysMade();

private:
    std::shared_ptr<const Mesh> mesh_;  // outlives the scene of rays, which shares its triangles
    Spares spares_ = Spares::Time;
    mesh::Lazy<mesh::Edges> edges_;
    mesh::Lazy<mesh::Corners> corners_;
    mesh::Lazy<mesh::Groups> shells_;
    mesh::Lazy<std::vector<std::uint8_t>> degenerate_;
    mesh::Lazy<space::TriangleTree> tree_;
    mesh::Lazy<std::unique_ptr<const space::RayScene>> rays_;
    mutable std::mutex surveying_;  // held while a survey is made
    mutable std::mutex reading_;    // held while survey_ is read or set
    mutable std::shared_ptr<const Survey> survey_;
};

using SurveyedPtr = std::shared_ptr<const Surveyed>;

}  // namespace zither::check
