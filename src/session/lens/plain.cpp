// The part as it is, and with the sides of its surface told apart.
#include "session/lens/lens.h"

namespace zither::session {
namespace {

mesh::Outcome<Coat> facingCoat(const LensView&, mesh::Progress&) {
    Coat coat;
    coat.legend.title = "Facing";
    coat.legend.note = "clay: outward   ·   ochre hatch: you look at an inside";
    return coat;
}

}  // namespace

constinit const Lens plainLens = {.name = "plain", .help = "The part in matte clay."};

constinit const Lens facingLens = {
    .name = "facing", .help = "Insides are hatched, wherever one looks at them.", .coat = facingCoat};

}  // namespace zither::session
