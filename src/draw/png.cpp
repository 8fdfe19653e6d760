// By libpng, in memory.
#include "draw/png.h"

#include <png.h>

#include <new>

namespace zither::draw {

std::string pngOf(const Picture& picture) {
    std::string rows;
    rows.reserve(3 * picture.colours.size());
    for (const std::uint32_t p : picture.packed())
        for (const unsigned shift : {16U, 8U, 0U}) rows.push_back(static_cast<char>(p >> shift & 0xFF));
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = static_cast<png_uint_32>(picture.width);
    image.height = static_cast<png_uint_32>(picture.height);
    image.format = PNG_FORMAT_RGB;
    png_alloc_size_t size = PNG_IMAGE_PNG_SIZE_MAX(image);
    std::string bytes(size, '\0');
    if (png_image_write_to_memory(&image, bytes.data(), &size, 0, rows.data(), 0, nullptr) == 0) throw std::bad_alloc();
    bytes.resize(size);
    return bytes;
}

}  // namespace zither::draw
