// Coordinates about the middle of the box, so that 32 bits are enough far from the origin too.
#include "space/ray_scene.h"

#include <embree3/rtcore.h>

#include <algorithm>
#include <limits>
#include <new>

#include "space/space_tolerances.h"

namespace zither::space {

struct RayScene::Scene {
    RTCDevice device = nullptr;
    RTCScene scene = nullptr;

    Scene() : device(rtcNewDevice(nullptr)) {
        if (!device) throw std::bad_alloc();
        scene = rtcNewScene(device);
        if (!scene) {
            rtcReleaseDevice(device);
            throw std::bad_alloc();
        }
        // Vertices are not copied into the tree: a third less memory for a twentieth of the speed.
        rtcSetSceneFlags(scene, static_cast<RTCSceneFlags>(RTC_SCENE_FLAG_COMPACT | RTC_SCENE_FLAG_ROBUST |
                                                           RTC_SCENE_FLAG_CONTEXT_FILTER_FUNCTION));
    }
    ~Scene() {
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
    }
    Scene(const Scene&) = delete;
    Scene& operator=(const Scene&) = delete;
};

namespace {

// Embree takes numbers up to 1.8e18; what is farther away meets nothing that lies within -1 and 1.
bool isUsable(const Eigen::Vector3f& v) {
    return (v.array().abs() < 1e15F).all();
}

// Where the way passes through the plane of a triangle; not above 0: not ahead.
RayScene::Passage through(const RayScene::Way& way, mesh::TriangleId t) {
    const mesh::Point normal = mesh::areaVector(way.mesh, t);
    const double slope = normal.dot(way.direction);
    return {t, slope == 0 ? 0 : normal.dot(way.mesh.corner(t, 0) - way.from) / slope, slope > 0};
}

// A ray that looks through what does not count, asked of every triangle that it may meet.
struct BeyondContext {
    RTCIntersectContext context;  // first: Embree hands on a pointer to it
    const RayScene::Way* way;
    std::vector<RayScene::Passage>* all;  // gathers them; nullptr: the first one is asked for
};

void filterBeyond(const RTCFilterFunctionNArguments* args) {
    const auto& asked = *reinterpret_cast<const BeyondContext*>(args->context);
    const mesh::TriangleId met(RTCHitN_primID(args->hit, args->N, 0));
    const RayScene::Passage passage = through(*asked.way, met);
    const bool counts = met != asked.way->own && (asked.all || passage.along > 0);
    if (counts && asked.all) asked.all->push_back(passage);
    if (!counts || asked.all) args->valid[0] = 0;
}

// Nothing where that is beyond Embree.
std::optional<RTCRay> rayFrom(const Eigen::Vector3f& start, const Eigen::Vector3f& direction) {
    if (!isUsable(start) || !isUsable(direction)) return std::nullopt;
    RTCRay ray{};
    ray.org_x = start.x();
    ray.org_y = start.y();
    ray.org_z = start.z();
    ray.dir_x = direction.x();
    ray.dir_y = direction.y();
    ray.dir_z = direction.z();
    ray.tfar = std::numeric_limits<float>::infinity();
    ray.mask = ~0U;
    return ray;
}

}  // namespace

RayScene::RayScene(const mesh::Mesh& m, Spares spares) {
    const mesh::Box box = mesh::boxOf(m);
    if (m.triangles.empty() || box.empty()) return;
    centre_ = box.centre();
    if (box.diagonal() > 0) scale_ = 2 / box.diagonal();
    build(m, {}, spares);
}

RayScene::RayScene(const mesh::Mesh& m, std::span<const mesh::TriangleId> triangles, const mesh::Point& centre,
                   const Eigen::Matrix3d& axes)
    : centre_(centre), axes_(axes) {
    if (triangles.empty()) return;
    mesh::Box box;
    for (const mesh::TriangleId t : triangles) {
        box.add(mesh::boxOf(m, t));
        numbers_.push_back(t);
    }
    box.add(centre);
    if (box.diagonal() > 0) scale_ = 1 / box.diagonal();
    build(m, triangles, Spares::Asking);
}

// No triangles: all of the mesh, whose triangles are shared.
void RayScene::build(const mesh::Mesh& m, std::span<const mesh::TriangleId> triangles, Spares spares) {
    const bool all = triangles.empty();
    const std::size_t triangleCount = all ? m.triangles.size() : triangles.size();
    const std::size_t vertexCount = all ? m.positions.size() : 3 * triangles.size();
    scene_ = std::make_unique<Scene>();
    RTCGeometry geometry = rtcNewGeometry(scene_->device, RTC_GEOMETRY_TYPE_TRIANGLE);
    if (!geometry) throw std::bad_alloc();
    auto* positions = static_cast<float*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0,
                                                                  RTC_FORMAT_FLOAT3, 3 * sizeof(float), vertexCount));
    unsigned* corners = nullptr;
    static_assert(sizeof(mesh::Triangle) == 3 * sizeof(unsigned));
    if (all)
        rtcSetSharedGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, m.triangles.data(), 0,
                                   sizeof(mesh::Triangle), triangleCount);
    else
        corners = static_cast<unsigned*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3,
                                                                 3 * sizeof(unsigned), triangleCount));
    if (!positions || (!all && !corners)) {
        rtcReleaseGeometry(geometry);
        throw std::bad_alloc();
    }
    const auto put = [&](const mesh::Point& p) {
        const Eigen::Vector3f local = within(p);
        positions = std::copy(local.data(), local.data() + 3, positions);
    };
    if (all) {
        for (const mesh::Point& p : m.positions) put(p);
    } else {
        for (const mesh::TriangleId t : triangles)
            for (unsigned k = 0; k < 3; ++k) put(m.corner(t, k));
        for (std::size_t i = 0; i < vertexCount; ++i) *corners++ = static_cast<std::uint32_t>(i);
    }
    if (spares == Spares::Building) {
        rtcSetSceneFlags(scene_->scene,
                         static_cast<RTCSceneFlags>(RTC_SCENE_FLAG_ROBUST | RTC_SCENE_FLAG_CONTEXT_FILTER_FUNCTION));
        rtcSetSceneBuildQuality(scene_->scene, RTC_BUILD_QUALITY_LOW);
        rtcSetGeometryBuildQuality(geometry, RTC_BUILD_QUALITY_LOW);
    }
    rtcCommitGeometry(geometry);
    rtcAttachGeometry(scene_->scene, geometry);
    rtcReleaseGeometry(geometry);
    rtcCommitScene(scene_->scene);
    if (rtcGetDeviceError(scene_->device) != RTC_ERROR_NONE) throw std::bad_alloc();
}

RayScene::~RayScene() = default;

bool RayScene::blocks(const mesh::Point& from, const mesh::Point& direction) const {
    auto ray = rayFrom(within(from), (axes_ * direction).cast<float>());
    if (!scene_ || !ray) return false;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcOccluded1(scene_->scene, &context, &*ray);
    return ray->tfar < 0;
}

std::optional<mesh::TriangleId> RayScene::firstMet(const mesh::Point& from, const mesh::Point& direction) const {
    const auto ray = rayFrom(within(from), (axes_ * direction).cast<float>());
    if (!scene_ || !ray) return std::nullopt;
    RTCRayHit query{};
    query.ray = *ray;
    query.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcIntersect1(scene_->scene, &context, &query);
    if (query.hit.geomID == RTC_INVALID_GEOMETRY_ID) return std::nullopt;
    return mesh::TriangleId(numberOf(query.hit.primID));
}

// The triangle that stops the ray; RTC_INVALID_GEOMETRY_ID: none.
std::uint32_t RayScene::askBeyond(const Way& way, std::vector<Passage>* all) const {
    const auto ray = rayFrom(within(way.from - tolerance::rayBefore / scale_ * way.direction),
                             (axes_ * way.direction).cast<float>());
    if (!scene_ || !ray) return RTC_INVALID_GEOMETRY_ID;
    RTCRayHit query{};
    query.ray = *ray;
    query.ray.tfar = static_cast<float>(way.within * scale_ + 2 * tolerance::rayBefore);
    query.hit.geomID = query.hit.primID = RTC_INVALID_GEOMETRY_ID;
    BeyondContext asked{{}, &way, all};
    rtcInitIntersectContext(&asked.context);
    asked.context.filter = filterBeyond;
    rtcIntersect1(scene_->scene, &asked.context, &query);
    return query.hit.primID;
}

std::optional<RayScene::Passage> RayScene::firstBeyond(const Way& way) const {
    const std::uint32_t met = askBeyond(way, nullptr);
    if (met == RTC_INVALID_GEOMETRY_ID) return std::nullopt;
    return through(way, mesh::TriangleId(met));
}

void RayScene::allBeyond(const Way& way, std::vector<Passage>& passages) const {
    passages.clear();
    static_cast<void>(askBeyond(way, &passages));
}

namespace {

// Rays that pass through hidden triangles.
struct HiddenContext {
    RTCIntersectContext context;  // first: Embree hands on a pointer to it
    std::span<const std::uint8_t> hidden;
    std::span<const std::uint32_t> numbers;  // of the triangles of the mesh; empty: they are the scene's
};

void filterHidden(const RTCFilterFunctionNArguments* args) {
    const auto& asked = *reinterpret_cast<const HiddenContext*>(args->context);
    for (unsigned i = 0; i < args->N; ++i) {
        if (args->valid[i] == 0) continue;
        const std::uint32_t met = RTCHitN_primID(args->hit, args->N, i);
        if (asked.hidden[asked.numbers.empty() ? met : asked.numbers[met]]) args->valid[i] = 0;
    }
}

}  // namespace

void RayScene::meet(const RayBundle& rays, RayHits& hits, std::span<const std::uint8_t> hidden) const {
    hits.triangle.fill(RayHits::none);
    if (!scene_) return;
    alignas(64) std::array<int, RayBundle::size> valid{};
    alignas(64) RTCRayHit16 query;
    const Eigen::Vector3f direction = (axes_ * rays.direction).cast<float>();
    for (std::size_t i = 0; i < RayBundle::size; ++i) {
        const Eigen::Vector3f start = within(rays.from[i]);
        const Eigen::Vector3f stretch(static_cast<float>(rays.near[i] * scale_),
                                      static_cast<float>(rays.far[i] * scale_), 0);
        valid[i] = stretch[1] >= stretch[0] && isUsable(start) && isUsable(stretch) ? -1 : 0;
        query.ray.org_x[i] = start.x();
        query.ray.org_y[i] = start.y();
        query.ray.org_z[i] = start.z();
        query.ray.dir_x[i] = direction.x();
        query.ray.dir_y[i] = direction.y();
        query.ray.dir_z[i] = direction.z();
        query.ray.tnear[i] = stretch[0];
        query.ray.tfar[i] = stretch[1];
        query.ray.time[i] = 0;
        query.ray.mask[i] = ~0U;
        query.ray.flags[i] = 0;
        query.hit.geomID[i] = RTC_INVALID_GEOMETRY_ID;
        query.hit.instID[0][i] = RTC_INVALID_GEOMETRY_ID;
    }
    HiddenContext context{{}, hidden, numbers_};
    rtcInitIntersectContext(&context.context);
    context.context.flags = RTC_INTERSECT_CONTEXT_FLAG_COHERENT;
    if (!hidden.empty()) context.context.filter = filterHidden;
    rtcIntersect16(valid.data(), scene_->scene, &context.context, &query);
    for (std::size_t i = 0; i < RayBundle::size; ++i) {
        if (valid[i] == 0 || query.hit.geomID[i] == RTC_INVALID_GEOMETRY_ID) continue;
        hits.triangle[i] = numberOf(query.hit.primID[i]);
        hits.along[i] = static_cast<float>(query.ray.tfar[i] / scale_);
        hits.second[i] = query.hit.u[i];
        hits.third[i] = query.hit.v[i];
    }
}

}  // namespace zither::space
