# Shared compiler settings and the function that makes a room (a folder of src/) a target.
add_library(zither_settings INTERFACE)
target_compile_options(zither_settings INTERFACE
  $<BUILD_INTERFACE:-Wall$<SEMICOLON>-Wextra$<SEMICOLON>-Wshadow$<SEMICOLON>-Wconversion$<SEMICOLON>-Wno-sign-conversion>
  # Contracting a*b+c into one rounding would break the error bounds of the exact predicates.
  -ffp-contract=off)
target_compile_features(zither_settings INTERFACE cxx_std_20)
if(ZITHER_SANITIZE)
  target_compile_options(zither_settings INTERFACE -fsanitize=${ZITHER_SANITIZE} -fno-omit-frame-pointer)
  target_link_options(zither_settings INTERFACE -fsanitize=${ZITHER_SANITIZE})
  # What GCC says by itself: code that waits or repeats less under a sanitizer asks for it.
  if(CMAKE_CXX_COMPILER_ID MATCHES "Clang")
    foreach(kind address thread)
      string(TOUPPER ${kind} name)
      if(ZITHER_SANITIZE MATCHES ${kind})
        target_compile_definitions(zither_settings INTERFACE __SANITIZE_${name}__)
      endif()
    endforeach()
  endif()
  if(ZITHER_SANITIZE MATCHES "undefined")
    target_compile_options(zither_settings INTERFACE -fno-sanitize-recover=undefined)
  endif()
endif()
if(ZITHER_FUZZ)
  target_compile_options(zither_settings INTERFACE -fsanitize=fuzzer-no-link,address,undefined -fno-omit-frame-pointer
    -fno-sanitize-recover=undefined)
  target_link_options(zither_settings INTERFACE -fsanitize=address,undefined)
endif()

# zither_room(NAME [WINDOW] [SHELVES folder...] [FLOORS room...] [PACKAGES target...] [INTERNAL header...])
# SHELVES: folders within the room whose files belong to it. INTERNAL: headers that no other room includes, without .h;
# they are not installed. The property ZITHER_HEADERS_<room> names the others.
# Every .cpp of the folder belongs to the room, so that a new step or check needs no line here.
function(zither_room name)
  cmake_parse_arguments(ROOM "WINDOW" "" "SHELVES;FLOORS;PACKAGES;INTERNAL" ${ARGN})
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
  target_include_directories(zither_${name} PUBLIC
    $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/src> $<INSTALL_INTERFACE:include>)
  set_target_properties(zither_${name} PROPERTIES EXPORT_NAME ${name})
  list(TRANSFORM ROOM_FLOORS PREPEND zither_)
  target_link_libraries(zither_${name} PUBLIC zither_settings ${ROOM_FLOORS} ${ROOM_PACKAGES})
  # What was compiled once for the nearest room below that has such a header; most of a small file's time goes there.
  if(EXISTS ${CMAKE_CURRENT_SOURCE_DIR}/${name}/${name}_precompiled.h)
    target_precompile_headers(zither_${name} PRIVATE ${name}/${name}_precompiled.h)
    set(precompiled_below zither_${name} PARENT_SCOPE)
  elseif(precompiled_below)
    target_precompile_headers(zither_${name} REUSE_FROM ${precompiled_below})
  endif()

  set(public)
  foreach(source ${sources})
    cmake_path(GET source STEM stem)
    if(source MATCHES "\\.h$" AND NOT stem IN_LIST ROOM_INTERNAL)
      list(APPEND public ${source})
    endif()
  endforeach()
  set_property(GLOBAL PROPERTY ZITHER_HEADERS_${name} "${public}")
  # `ninja all_verify_interface_header_sets` compiles each header by itself, with the packages of its room alone.
  add_library(zither_${name}_headers INTERFACE)
  target_sources(zither_${name}_headers INTERFACE FILE_SET HEADERS BASE_DIRS ${PROJECT_SOURCE_DIR}/src FILES ${public})
  target_link_libraries(zither_${name}_headers INTERFACE zither_${name})
  set_target_properties(zither_${name}_headers PROPERTIES VERIFY_INTERFACE_HEADER_SETS ON)
endfunction()
