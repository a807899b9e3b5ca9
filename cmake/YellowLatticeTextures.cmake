# yl_add_textures(TARGET LIST file.toml [DEPENDS file...] [OPTIONS option...] [EXCLUDE_FROM_ALL])
#
# A target that builds the textures of a batch list with `ylat batch`. It runs when the list, a file that it reads, or a
# folder that it searches changed, and then builds only what changed. OPTIONS go to `ylat batch`, for example
# `OPTIONS --target desktop`. DEPENDS are files and targets that make inputs. The program is YL_YLAT, else the ylat of this
# package or of the search path.
#
#     find_package(YellowLattice REQUIRED COMPONENTS core)
#     yl_add_textures(game_textures LIST textures.toml)
#     add_dependencies(game game_textures)
include_guard(GLOBAL)

function(yl_add_textures target)
  cmake_parse_arguments(PARSE_ARGV 1 yl "EXCLUDE_FROM_ALL" "LIST" "DEPENDS;OPTIONS")
  if(NOT yl_LIST)
    message(FATAL_ERROR "yl_add_textures(${target}): LIST is missing")
  endif()
  if(yl_UNPARSED_ARGUMENTS)
    message(FATAL_ERROR "yl_add_textures(${target}): '${yl_UNPARSED_ARGUMENTS}' is not understood")
  endif()
  find_program(YL_YLAT ylat HINTS ${YellowLattice_TOOL_DIR})
  if(NOT YL_YLAT)
    message(FATAL_ERROR "yl_add_textures(${target}): ylat was not found; set YL_YLAT to the program")
  endif()
  get_filename_component(list "${yl_LIST}" ABSOLUTE)
  if(NOT EXISTS "${list}")
    message(FATAL_ERROR "yl_add_textures(${target}): there is no list ${list}")
  endif()
  set(stamp ${CMAKE_CURRENT_BINARY_DIR}/${target}.stamp)
  set(all ALL)
  if(yl_EXCLUDE_FROM_ALL)
    set(all)
  endif()
  add_custom_command(OUTPUT ${stamp}
    COMMAND ${YL_YLAT} batch ${list} --stamp ${stamp} --depfile ${stamp}.d ${yl_OPTIONS}
    DEPENDS ${list} ${yl_DEPENDS} DEPFILE ${stamp}.d
    COMMENT "Textures of ${yl_LIST}" VERBATIM)
  add_custom_target(${target} ${all} DEPENDS ${stamp})
endfunction()
