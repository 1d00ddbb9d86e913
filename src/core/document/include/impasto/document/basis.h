// SPDX-License-Identifier: GPL-3.0-or-later
// What a decision rested on.
#pragma once

#include <cstdint>
#include <map>
#include <string>

namespace impasto::document {

/// Named fingerprints: machine, game, brief, baseline, costs, choice, cap.
using Basis = std::map<std::string, std::uint64_t>;

} // namespace impasto::document
