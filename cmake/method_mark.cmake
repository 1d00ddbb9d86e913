# SPDX-License-Identifier: GPL-3.0-or-later
# cmake -DOUT=FILE -DSOURCES="a;b;c" -P method_mark.cmake: a header with one mark of all these sources. It is written anew
# only where the mark differs.
set(all "")
foreach(source ${SOURCES})
  file(SHA256 ${source} one)
  string(APPEND all "${one}\n")
endforeach()
string(SHA256 mark "${all}")
file(CONFIGURE OUTPUT ${OUT} CONTENT "// Made by cmake/method_mark.cmake.
#pragma once
namespace impasto::results {
inline constexpr char methodSources[] = \"${mark}\";
}
")
