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

# fusain_together(NAME [APART pattern …]): with FUSAIN_TOGETHER six files of a floor are compiled as one, for they read the
# same headers: a whole build takes half the time. Files whose unnamed namespaces hold the same names stay apart.
function(fusain_together name)
  cmake_parse_arguments(FLOOR "" "" "APART" ${ARGN})
  set_target_properties(fusain_${name} PROPERTIES UNITY_BUILD ${FUSAIN_TOGETHER} UNITY_BUILD_BATCH_SIZE 6)
  list(TRANSFORM FLOOR_APART PREPEND ${CMAKE_SOURCE_DIR}/src/)
  file(GLOB apart ${FLOOR_APART})
  set_source_files_properties(${apart} PROPERTIES SKIP_UNITY_BUILD_INCLUSION ON)
endfunction()
