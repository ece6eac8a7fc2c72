# SPDX-License-Identifier: GPL-3.0-or-later
# A floor of the house is a static library with an include folder of its own: `#include "core/gas.h"` is found only by
# targets that link fusain_core. An include that reaches upward therefore does not compile. tests/house scans for the
# ways around it (relative paths, Qt in the core).
#
# fusain_floor(NAME SOURCES … [USES floor …] [LINKS library …])
function(fusain_floor name)
  cmake_parse_arguments(FLOOR "" "" "SOURCES;USES;LINKS" ${ARGN})
  set(include_folder ${CMAKE_BINARY_DIR}/floors/${name})
  file(MAKE_DIRECTORY ${include_folder})
  file(CREATE_LINK ${CMAKE_SOURCE_DIR}/src/${name} ${include_folder}/${name} SYMBOLIC)
  add_library(fusain_${name} STATIC ${FLOOR_SOURCES})
  target_include_directories(fusain_${name} PUBLIC ${include_folder})
  target_link_libraries(fusain_${name} PUBLIC fusain_options ${FLOOR_LINKS})
  foreach(floor ${FLOOR_USES})
    target_link_libraries(fusain_${name} PUBLIC fusain_${floor})
  endforeach()
endfunction()

# fusain_together(NAME [SIZE n] [APART pattern …]): with FUSAIN_TOGETHER n files of a floor (8) are compiled as one, for they
# read the same headers and need the same templates: a whole build takes half the time. Files whose unnamed namespaces hold
# the same names stay apart.
function(fusain_together name)
  cmake_parse_arguments(FLOOR "" "SIZE" "APART" ${ARGN})
  if(NOT FLOOR_SIZE)
    set(FLOOR_SIZE 8)
  endif()
  set_target_properties(fusain_${name} PROPERTIES UNITY_BUILD ${FUSAIN_TOGETHER} UNITY_BUILD_BATCH_SIZE ${FLOOR_SIZE})
  list(TRANSFORM FLOOR_APART PREPEND ${CMAKE_SOURCE_DIR}/src/)
  file(GLOB apart ${FLOOR_APART})
  set_source_files_properties(${apart} PROPERTIES SKIP_UNITY_BUILD_INCLUSION ON)
endfunction()

# fusain_headers(NAME header … | REUSE_FROM target): the headers that most files of a floor read, compiled once; a floor that
# reads the same ones as a floor below uses that one's.
function(fusain_headers name)
  if(ARGV1 STREQUAL REUSE_FROM)
    target_precompile_headers(fusain_${name} ${ARGN})
  else()
    target_precompile_headers(fusain_${name} PRIVATE ${ARGN})
  endif()
  target_compile_options(fusain_${name} PRIVATE -fpch-preprocess) # lets ccache see through it (scripts/build)
endfunction()
