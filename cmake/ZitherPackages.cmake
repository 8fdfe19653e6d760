# The packages that the core stands on; for this build and for whoever links it.
foreach(package Eigen3 TBB PNG fmt Boost nlohmann_json tl-expected pugixml OpenSSL SQLite3 zstd spdlog Threads)
  find_package(${package} REQUIRED)
endforeach()
find_package(embree 3 REQUIRED)
find_package(PkgConfig REQUIRED)
pkg_check_modules(pangocairo REQUIRED IMPORTED_TARGET pangocairo)
# Its -pthread would make every file of a room that uses it do without precompiled headers.
set_target_properties(PkgConfig::pangocairo PROPERTIES INTERFACE_COMPILE_OPTIONS "")
