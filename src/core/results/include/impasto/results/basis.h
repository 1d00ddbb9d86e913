// SPDX-License-Identifier: GPL-3.0-or-later
// What decisions would rest on now, and which of those that were made rest on something else.
#pragma once

#include <impasto/results/runs.h>

namespace impasto::results {

/// A decision's basis names whose marks differ now, in the order of the basis.
using Stale = std::vector<std::string>;

struct Standing {
    document::Basis now;
    Stale choice, cap, kept; // empty: it stands, or there is none
    [[nodiscard]] document::Basis ofChoice() const;
    [[nodiscard]] document::Basis ofCap() const;
    [[nodiscard]] document::Basis ofKept() const;
};

/// Of results that are not there yet: nothing is stale.
const Standing& standingOf(const Results& results);

std::vector<Stage> basisStages();

} // namespace impasto::results
