// SPDX-License-Identifier: GPL-3.0-or-later
// Logs that were given together: whether they are runs of one variant, by their averages.
#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace impasto::frames {

/// The group of each average, 0 that of the first; all 0 where they do not fall in groups. Groups lie further apart
/// than runs of one variant do (Evenness::mostSpread), hold two runs at least, and are two to four.
std::vector<std::size_t> groupsOf(std::span<const double> averages);

} // namespace impasto::frames
