# What is installed: libraries, headers, the CMake package, pkg-config files, licence and guide.
include(CMakePackageConfigHelpers)
set(yl_package_dir ${CMAKE_INSTALL_LIBDIR}/cmake/YellowLattice)

# Each component has a file of targets of its own, so that a program needs the packages of those alone that it asks for.
foreach(component IN LISTS yl_components)
  install(TARGETS yl_${component} EXPORT YellowLattice-${component}
    RUNTIME COMPONENT runtime LIBRARY COMPONENT runtime NAMELINK_COMPONENT development ARCHIVE COMPONENT development)
  install(EXPORT YellowLattice-${component} NAMESPACE YellowLattice:: DESTINATION ${yl_package_dir}
    FILE YellowLattice-${component}-targets.cmake COMPONENT development)
endforeach()

install(DIRECTORY include/yl DESTINATION ${CMAKE_INSTALL_INCLUDEDIR} COMPONENT development
  FILES_MATCHING PATTERN "*.hpp")
configure_package_config_file(cmake/YellowLatticeConfig.cmake.in
  ${CMAKE_CURRENT_BINARY_DIR}/YellowLatticeConfig.cmake INSTALL_DESTINATION ${yl_package_dir})
write_basic_package_version_file(${CMAKE_CURRENT_BINARY_DIR}/YellowLatticeConfigVersion.cmake
  COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/YellowLatticeConfig.cmake cmake/YellowLatticeTextures.cmake
  ${CMAKE_CURRENT_BINARY_DIR}/YellowLatticeConfigVersion.cmake DESTINATION ${yl_package_dir} COMPONENT development)

# For builds without CMake. What a static library needs besides is private, and asked for by `pkg-config --static`.
set(yl_requires_core "libdeflate, zlib, libzstd, libhwy, lcms2, fmt, tbb")
set(yl_requires_gl "egl")
set(yl_requires_vulkan "vulkan")
set(yl_requires_d3d12 "libvkd3d-utils, vulkan")
set(yl_requires_model_import "assimp")
set(yl_requires_archive "libzip")
set(yl_requires_batch "libxxhash, libcurl, libuv")
foreach(component IN LISTS yl_components)
  string(REPLACE "_" "-" yl_dashed ${component})
  set(yl_pc_name yellowlattice-${yl_dashed})
  set(yl_pc_requires yellowlattice)
  if(component STREQUAL "core")
    set(yl_pc_name yellowlattice)
    set(yl_pc_requires)
  elseif(component STREQUAL "model_import")
        set(yl_pc_requires yellowlattice-model)
  elseif(component STREQUAL "d3d12" AND NOT WIN32)
    set(yl_pc_requires "yellowlattice, libvkd3d")  # the headers include its own
  endif()
  set(yl_pc_private ${yl_requires_${component}})
  if(BUILD_SHARED_LIBS)
    set(yl_pc_private)  # inside the library
  endif()
  configure_file(cmake/yellowlattice.pc.in ${CMAKE_CURRENT_BINARY_DIR}/${yl_pc_name}.pc @ONLY)
  install(FILES ${CMAKE_CURRENT_BINARY_DIR}/${yl_pc_name}.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig
    COMPONENT development)
endforeach()

install(FILES LICENSE README.md CHANGELOG.md DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT development)
install(DIRECTORY docs/guide DESTINATION ${CMAKE_INSTALL_DOCDIR} COMPONENT development)
