// SPDX-License-Identifier: GPL-3.0-or-later
// Small systems of linear equations.
#pragma once

#include <span>
#include <vector>

namespace impasto::stats {

/// x of a x = b with a symmetric and positive definite, row by row, as many rows as b has values (Cholesky's L D L').
std::vector<double> solve(std::span<const double> a, std::span<const double> b);

} // namespace impasto::stats
