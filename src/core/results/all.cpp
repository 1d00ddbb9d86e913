// SPDX-License-Identifier: GPL-3.0-or-later
// The list of stages: a new one is its file and a line here.
#include <impasto/results/baseline.h>
#include <impasto/results/basis.h>
#include <impasto/results/costs.h>
#include <impasto/results/generation.h>
#include <impasto/results/headset.h>
#include <impasto/results/learnt.h>
#include <impasto/results/limits.h>
#include <impasto/results/pace.h>
#include <impasto/results/power.h>
#include <impasto/results/proof.h>
#include <impasto/results/results.h>
#include <impasto/results/runs.h>
#include <impasto/results/walk.h>

namespace impasto::results {

const std::vector<Stage>& allStages() {
    static const std::vector<Stage> all = [] {
        std::vector<Stage> out;
        for (const auto& stages :
             {runStages(), baselineStages(), limitStages(), paceStages(), learntStages(), costStages(), walkStages(),
              choiceStages(), generationStages(), headsetStages(), powerStages(), proofStages(), basisStages()})
            out.insert(out.end(), stages.begin(), stages.end());
        return out;
    }();
    return all;
}

} // namespace impasto::results
