// SPDX-License-Identifier: GPL-3.0-or-later
// What proofs that missed a goal say of the sets that were run.
#pragma once

#include <impasto/results/runs.h>

namespace impasto::results {

struct Learnt {
    std::map<game::Values, double> missed; // how many times too short a set fell of what holds the target
    // How many times shorter its GPU work has to be for what else is asked, where no cap is expected to keep that.
    std::map<game::Values, double> asked;
};

std::vector<Stage> learntStages();

} // namespace impasto::results
