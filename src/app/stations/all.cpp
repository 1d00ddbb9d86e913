// SPDX-License-Identifier: GPL-3.0-or-later
// The list of stations: a new one is its folder and a line here.
#include "stations/bench/bench.h"
#include "stations/brief/brief.h"
#include "stations/layers/layers.h"
#include "stations/limits/limits.h"
#include "stations/logbook/logbook.h"
#include "stations/pace/pace.h"
#include "stations/proof/proof.h"
#include "stations/runs/runs.h"

namespace impasto::app {

const std::vector<Station>& stations() {
    static const std::vector<Station> all{benchStation(),  briefStation(), runsStation(),  limitsStation(),
                                          layersStation(), paceStation(),  proofStation(), logbookStation()};
    return all;
}

} // namespace impasto::app
