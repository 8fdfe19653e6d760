// Pictures as files.
#pragma once

#include <string>

#include "draw/picture.h"

namespace zither::draw {

// The bytes of a PNG file of 8 bits a colour. Throws std::bad_alloc where there is no room. The picture has pixels.
std::string pngOf(const Picture& picture);

}  // namespace zither::draw
