// An index of one kind where another is asked for; only the complete one compiles.
#include "mesh/id.h"

namespace zither::mesh {

using Vertex = Id<struct VertexTag>;
using Triangle = Id<struct TriangleTag>;

Vertex next(Vertex v) {
    return v + 1;
}

bool mixes() {
    const Triangle t = 3;
    const Vertex v = 3;
#if defined(ZITHER_TAKEN)
    return next(t) == v;
#elif defined(ZITHER_ASSIGNED)
    const Vertex w{t};
    return w == v;
#elif defined(ZITHER_COMPARED)
    return v == t;
#elif defined(ZITHER_ORDERED)
    return v < t;
#else
    const Vertex none = noIndex;
    return next(v) != none && t < 4;
#endif
}

}  // namespace zither::mesh
