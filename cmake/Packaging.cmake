# What is installed where, and the packages that are made of it: zither-cli (no Qt), zither (the window), libzither-dev.
include(GNUInstallDirs)

install(TARGETS zither-cli RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR} COMPONENT cli)
set(manual ${CMAKE_BINARY_DIR}/manual)
add_custom_command(OUTPUT ${manual}/zither-cli.1 ${manual}/zither.1 ${manual}/zither-cli.bash
  COMMAND python3 ${PROJECT_SOURCE_DIR}/scripts/manual.py $<TARGET_FILE:zither-cli> ${manual}
  DEPENDS zither-cli ${PROJECT_SOURCE_DIR}/scripts/manual.py)
add_custom_target(manual ALL DEPENDS ${manual}/zither-cli.1)
install(FILES ${manual}/zither-cli.1 DESTINATION ${CMAKE_INSTALL_MANDIR}/man1 COMPONENT cli)
install(FILES ${manual}/zither-cli.bash DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions RENAME zither-cli
  COMPONENT cli)
install(DIRECTORY share/zither/slurm DESTINATION ${CMAKE_INSTALL_DATADIR}/zither COMPONENT cli USE_SOURCE_PERMISSIONS)
install(FILES docs/cluster.md docs/command-line.md docs/definitions.md docs/file-formats.md docs/steps.md LICENSE
  DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT cli)

if(ZITHER_WINDOW)
  install(TARGETS zither RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR} COMPONENT window)
  install(FILES ${manual}/zither.1 DESTINATION ${CMAKE_INSTALL_MANDIR}/man1 COMPONENT window)
  install(FILES packaging/zither.desktop DESTINATION ${CMAKE_INSTALL_DATADIR}/applications COMPONENT window)
  install(FILES packaging/zither.xml DESTINATION ${CMAKE_INSTALL_DATADIR}/mime/packages COMPONENT window)
  install(FILES packaging/zither.svg DESTINATION ${CMAKE_INSTALL_DATADIR}/icons/hicolor/scalable/apps COMPONENT window)
  install(FILES packaging/org.zither.Zither.metainfo.xml DESTINATION ${CMAKE_INSTALL_DATADIR}/metainfo COMPONENT window)
  install(DIRECTORY ${CMAKE_BINARY_DIR}/rig/ DESTINATION ${CMAKE_INSTALL_DATADIR}/zither/rig COMPONENT window
    FILES_MATCHING PATTERN "*.stl")
endif()

# The core as a library: its rooms with their headers, for find_package(Zither). Installed, a header is <zither/mesh/mesh.h>.
set(library_rooms mesh exact space io measure check draw holes arrange fit repair enclose shape steps project)
set(library_targets zither_settings)
set_target_properties(zither_settings PROPERTIES EXPORT_NAME settings)
set(public_headers)
foreach(room ${library_rooms})
  list(APPEND library_targets zither_${room})
  get_property(headers GLOBAL PROPERTY ZITHER_HEADERS_${room})
  list(APPEND public_headers ${headers})
endforeach()
list(JOIN public_headers "\n" header_lines)
file(GENERATE OUTPUT ${CMAKE_BINARY_DIR}/public_headers.txt CONTENT "${header_lines}\n")
add_custom_command(OUTPUT ${CMAKE_BINARY_DIR}/public_headers.stamp
  COMMAND python3 ${PROJECT_SOURCE_DIR}/scripts/public_headers.py ${CMAKE_BINARY_DIR}/public_headers.txt
    ${CMAKE_BINARY_DIR}/include/zither
  COMMAND ${CMAKE_COMMAND} -E touch ${CMAKE_BINARY_DIR}/public_headers.stamp
  DEPENDS ${public_headers} ${CMAKE_BINARY_DIR}/public_headers.txt ${PROJECT_SOURCE_DIR}/scripts/public_headers.py)
add_custom_target(public-headers ALL DEPENDS ${CMAKE_BINARY_DIR}/public_headers.stamp)
install(DIRECTORY ${CMAKE_BINARY_DIR}/include/zither DESTINATION ${CMAKE_INSTALL_INCLUDEDIR} COMPONENT dev)
install(TARGETS ${library_targets} EXPORT ZitherTargets ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR} COMPONENT dev)
install(EXPORT ZitherTargets NAMESPACE Zither:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Zither COMPONENT dev)
include(CMakePackageConfigHelpers)
list(JOIN library_rooms "|" library_rooms_pattern)
list(JOIN library_rooms ", " library_rooms_words)
configure_package_config_file(cmake/ZitherConfig.cmake.in ${CMAKE_BINARY_DIR}/ZitherConfig.cmake
  INSTALL_DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Zither)
write_basic_package_version_file(${CMAKE_BINARY_DIR}/ZitherConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_BINARY_DIR}/ZitherConfig.cmake ${CMAKE_BINARY_DIR}/ZitherConfigVersion.cmake
  cmake/ZitherPackages.cmake DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Zither COMPONENT dev)
install(DIRECTORY share/zither/examples DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT dev)
install(FILES docs/definitions.md docs/library.md DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT dev)

set(CPACK_GENERATOR DEB)
# What is packaged is built first: `cpack` alone does, after any build.
set(package_targets zither-cli manual public-headers)
if(ZITHER_WINDOW)
  list(APPEND package_targets zither rig)
endif()
list(JOIN package_targets " " package_targets)
set(CPACK_INSTALL_COMMANDS "\"${CMAKE_COMMAND}\" --build \"${CMAKE_BINARY_DIR}\" --target ${package_targets}")
set(CPACK_PACKAGE_VENDOR "The Zither developers")
set(CPACK_PACKAGE_CONTACT "The Zither developers <developers@zither.invalid>")
set(CPACK_PACKAGE_VERSION ${PROJECT_VERSION})
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_COMPONENTS_ALL cli dev)
if(ZITHER_WINDOW)
  list(APPEND CPACK_COMPONENTS_ALL window)
endif()
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_SECTION graphics)
set(CPACK_DEBIAN_CLI_PACKAGE_NAME zither-cli)
set(CPACK_COMPONENT_CLI_DESCRIPTION "finds and mends what is wrong with triangle surfaces (command line)
 Exact counts, local repairs, decimation within proven bounds; the file that
 is written is read back before it is called good. Needs no display.")
set(CPACK_DEBIAN_WINDOW_PACKAGE_NAME zither)
set(CPACK_DEBIAN_WINDOW_PACKAGE_DEPENDS "zither-cli (= ${PROJECT_VERSION}), fonts-inter, qt6-qpa-plugins")
set(CPACK_COMPONENT_WINDOW_DESCRIPTION "finds and mends what is wrong with triangle surfaces
 A window in which surfaces are looked at, repaired, reduced, shaped and
 handed over with a proof.")
set(CPACK_DEBIAN_DEV_PACKAGE_NAME libzither-dev)
set(CPACK_DEBIAN_DEV_PACKAGE_SECTION libdevel)
set(CPACK_DEBIAN_DEV_PACKAGE_DEPENDS "libeigen3-dev, libtbb-dev, libembree-dev, libboost-dev, libgmp-dev, libfmt-dev, \
nlohmann-json3-dev, libfast-float-dev, libexpected-dev, libzip-dev, libpugixml-dev, libpng-dev, libsqlite3-dev, \
libzstd-dev, libxxhash-dev, libssl-dev, libpango1.0-dev, libspdlog-dev, pkg-config")
set(CPACK_COMPONENT_DEV_DESCRIPTION "finds and mends what is wrong with triangle surfaces (library)
 The core of Zither as static libraries with headers, for find_package(Zither).")
include(CPack)
