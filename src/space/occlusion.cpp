// Coordinates about the middle of the box, so that 32 bits are enough far from the origin too.
#include "space/occlusion.h"

#include <embree3/rtcore.h>

#include <limits>
#include <new>

namespace zither::space {

struct Occlusion::Scene {
    RTCDevice device = nullptr;
    RTCScene scene = nullptr;

    Scene() : device(rtcNewDevice(nullptr)) {
        if (!device) throw std::bad_alloc();
        scene = rtcNewScene(device);
        if (!scene) {
            rtcReleaseDevice(device);
            throw std::bad_alloc();
        }
        rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
    }
    ~Scene() {
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
    }
    Scene(const Scene&) = delete;
    Scene& operator=(const Scene&) = delete;
};

Occlusion::Occlusion(const mesh::Mesh& m) {
    const mesh::Box box = mesh::boxOf(m);
    if (m.triangles.empty() || box.empty()) return;
    centre_ = box.centre();
    scale_ = box.diagonal() > 0 ? 2 / box.diagonal() : 1;
    scene_ = std::make_unique<Scene>();
    RTCGeometry geometry = rtcNewGeometry(scene_->device, RTC_GEOMETRY_TYPE_TRIANGLE);
    if (!geometry) throw std::bad_alloc();
    auto* positions = static_cast<float*>(rtcSetNewGeometryBuffer(
        geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 3 * sizeof(float), m.positions.size()));
    auto* corners = static_cast<unsigned*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3,
                                                                   3 * sizeof(unsigned), m.triangles.size()));
    if (!positions || !corners) {
        rtcReleaseGeometry(geometry);
        throw std::bad_alloc();
    }
    for (const mesh::Point& p : m.positions)
        for (unsigned k = 0; k < 3; ++k) *positions++ = static_cast<float>((p[k] - centre_[k]) * scale_);
    for (const mesh::Triangle& t : m.triangles)
        for (const mesh::VertexId v : t) *corners++ = static_cast<std::uint32_t>(v);
    rtcCommitGeometry(geometry);
    rtcAttachGeometry(scene_->scene, geometry);
    rtcReleaseGeometry(geometry);
    rtcCommitScene(scene_->scene);
    if (rtcGetDeviceError(scene_->device) != RTC_ERROR_NONE) throw std::bad_alloc();
}

Occlusion::~Occlusion() = default;

bool Occlusion::blocks(const mesh::Point& from, const mesh::Point& direction) const {
    if (!scene_) return false;
    const mesh::Point start = (from - centre_) * scale_;
    RTCRay ray{};
    ray.org_x = static_cast<float>(start.x());
    ray.org_y = static_cast<float>(start.y());
    ray.org_z = static_cast<float>(start.z());
    ray.dir_x = static_cast<float>(direction.x());
    ray.dir_y = static_cast<float>(direction.y());
    ray.dir_z = static_cast<float>(direction.z());
    ray.tfar = std::numeric_limits<float>::infinity();
    ray.mask = ~0U;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcOccluded1(scene_->scene, &context, &ray);
    return ray.tfar < 0;
}

}  // namespace zither::space
