// SPDX-License-Identifier: GPL-3.0-or-later
// Moments that follow a frequency.
#pragma once

#include <span>
#include <vector>

namespace impasto::stats {

/// How strongly moments gather at a phase of a frequency: |mean of exp(2 pi i f t)|, 0 to 1 (Rayleigh).
double gathering(std::span<const double> seconds, double frequency);

/// The gatherings at frequencies 0, 1/10, 2/10 ... of one per span, up to `highest` per span, all at once by an FFT of
/// the moments on a grid: low by 2% at most. `seconds` ascend, two at the least. Span: from the first moment to the
/// last.
std::vector<double> gatherings(std::span<const double> seconds, double highest);

} // namespace impasto::stats
