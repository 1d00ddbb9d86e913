// SPDX-License-Identifier: GPL-3.0-or-later
// Results of single runs as they are kept between starts: what is dear to compute; what is cheap is made again.
#pragma once

#include <impasto/results/baseline.h>

namespace impasto::results {

/// A mark of the sources that these results are computed by: another version of the program computes them anew.
std::uint64_t methodMark();

std::string packShape(const RunShape& shape);
std::string packFigures(const RunFigures& figures);
std::string packDoubt(const RunDoubt& doubt);
/// Errors: BadValue where the bytes are not such a result of these frames.
Maybe<RunShape> unpackShape(std::string_view bytes, const Inputs& in);
Maybe<RunFigures> unpackFigures(std::string_view bytes, const Inputs& in);
Maybe<RunDoubt> unpackDoubt(std::string_view bytes, const Inputs& in);

} // namespace impasto::results
