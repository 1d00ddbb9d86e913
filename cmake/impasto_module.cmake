# SPDX-License-Identifier: GPL-3.0-or-later

# Flags of every target of ours.
add_library(impasto_flags INTERFACE)
target_compile_options(impasto_flags INTERFACE
  -Wall -Wextra -Wshadow -Wconversion -Wold-style-cast -Wnon-virtual-dtor -Wno-sign-conversion
  -ffp-contract=off -D_GLIBCXX_ASSERTIONS $<$<BOOL:${IMPASTO_WERROR}>:-Werror>
  # Of several sources built as one, none is the main file.
  $<$<AND:$<BOOL:${CMAKE_UNITY_BUILD}>,$<CXX_COMPILER_ID:GNU>>:-Wno-subobject-linkage>
  # g++ 12 sees overflows in the std::string concatenation of its own library.
  $<$<CXX_COMPILER_ID:GNU>:-fpch-preprocess -Wno-stringop-overflow -Wno-stringop-overread -Wno-restrict -Wno-array-bounds>)
target_compile_definitions(impasto_flags INTERFACE IMPASTO_VERSION="${PROJECT_VERSION}")
target_link_options(impasto_flags INTERFACE -Wl,-z,relro,-z,now)

set(IMPASTO_CORE_PCH <algorithm> <array> <cstdint> <functional> <map> <memory> <optional> <span> <string> <string_view>
  <vector> <tl/expected.hpp> <fmt/core.h>)

# The only way to make a core target: impasto_module(NAME stats USES run LIBS Eigen3::Eigen SOURCES ...).
# Public headers stand in <folder>/include/impasto/<name>; the include path holds that and what USES links, so that an
# include against the floors does not compile. OPTIMISED: in debug builds, too.
function(impasto_module)
  cmake_parse_arguments(M "OPTIMISED" "NAME" "USES;HIDES;LIBS;SOURCES" ${ARGN})
  add_library(impasto_${M_NAME} STATIC ${M_SOURCES})
  target_include_directories(impasto_${M_NAME} PUBLIC ${CMAKE_CURRENT_SOURCE_DIR}/${M_NAME}/include)
  target_include_directories(impasto_${M_NAME} PRIVATE ${CMAKE_CURRENT_SOURCE_DIR}/${M_NAME}) # its own private headers
  foreach(use ${M_USES})
    target_link_libraries(impasto_${M_NAME} PUBLIC impasto_${use})
  endforeach()
  foreach(use ${M_HIDES}) # linked, but its headers are not passed on
    target_link_libraries(impasto_${M_NAME} PRIVATE impasto_${use})
  endforeach()
  target_link_libraries(impasto_${M_NAME} PUBLIC tl::expected fmt::fmt PRIVATE impasto_flags ${M_LIBS})
  # Sanitized builds optimise what every test runs; what one test alone is made of is compiled in half the time.
  target_compile_options(impasto_${M_NAME} PRIVATE $<$<CONFIG:None>:-O1>)
  if(M_OPTIMISED) # matrices are too slow to test with otherwise
    target_compile_options(impasto_${M_NAME} PRIVATE $<$<CONFIG:Debug>:-O2>)
  endif()
  if(IMPASTO_FUZZ AND M_OPTIMISED) # linked, and reads nothing
    target_compile_options(impasto_${M_NAME} PRIVATE -O0 -fno-sanitize=all)
  endif()
  if(M_NAME STREQUAL "base" OR M_OPTIMISED)
    target_precompile_headers(impasto_${M_NAME} PRIVATE ${IMPASTO_CORE_PCH})
  else()
    target_precompile_headers(impasto_${M_NAME} REUSE_FROM impasto_base)
  endif()
endfunction()
