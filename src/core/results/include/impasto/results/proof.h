// SPDX-License-Identifier: GPL-3.0-or-later
// The proof as a result: proof::Proof of the runs before and after.
#pragma once

#include <impasto/proof/proof.h>
#include <impasto/results/runs.h>

namespace impasto::results {

std::vector<Stage> proofStages();

} // namespace impasto::results
