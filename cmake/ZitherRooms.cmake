# Shared compiler settings and the function that makes a room (a folder of src/) a target.
set(CMAKE_CXX_FLAGS_RELEASE "-O2 -DNDEBUG")
add_library(zither_settings INTERFACE)
target_compile_options(zither_settings INTERFACE -Wall -Wextra -Wshadow -Wconversion -Wno-sign-conversion
  # Contracting a*b+c into one rounding would break the error bounds of the exact predicates.
  -ffp-contract=off)
if(ZITHER_SANITIZE)
  target_compile_options(zither_settings INTERFACE -fsanitize=address,undefined -fno-sanitize-recover=undefined
    -fno-omit-frame-pointer)
  target_link_options(zither_settings INTERFACE -fsanitize=address,undefined)
endif()

# zither_room(NAME [WINDOW] [SHELVES folder...] [FLOORS room...] [PACKAGES target...])
# SHELVES: folders within the room whose files belong to it.
# Every .cpp of the folder belongs to the room, so that a new step or check needs no line here.
function(zither_room name)
  cmake_parse_arguments(ROOM "WINDOW" "" "SHELVES;FLOORS;PACKAGES" ${ARGN})
  set(folders ${name})
  foreach(shelf ${ROOM_SHELVES})
    list(APPEND folders ${name}/${shelf})
  endforeach()
  set(sources)
  foreach(folder ${folders})
    file(GLOB found CONFIGURE_DEPENDS ${CMAKE_CURRENT_SOURCE_DIR}/${folder}/*.cpp ${CMAKE_CURRENT_SOURCE_DIR}/${folder}/*.h)
    list(APPEND sources ${found})
  endforeach()
  add_library(zither_${name} STATIC ${sources})
  target_include_directories(zither_${name} PUBLIC ${PROJECT_SOURCE_DIR}/src)
  list(TRANSFORM ROOM_FLOORS PREPEND zither_)
  target_link_libraries(zither_${name} PUBLIC zither_settings ${ROOM_FLOORS} ${ROOM_PACKAGES})
  if(name STREQUAL "mesh")
    target_precompile_headers(zither_mesh PRIVATE mesh/precompiled.h)
  elseif(NOT ROOM_WINDOW AND NOT name STREQUAL "exact")
    target_precompile_headers(zither_${name} REUSE_FROM zither_mesh)
  endif()
endfunction()
