// SPDX-License-Identifier: GPL-3.0-or-later
// Prints one checksum over runs of three games.
#include "support/support.h"

#include <impasto/base/fingerprint.h>

using namespace impasto;
using namespace impasto::support;

int main() {
    Fingerprint mark;
    for (const char* file : {"saltmarsh-courier.toml", "lantern-orchard.toml", "tin-harbour.toml"}) {
        const auto game = gameNamed(file);
        const auto rig = rig::simulatedRig(tower(), game);
        if (!rig) return 1;
        run::Order order;
        order.variant = {game.presets.front().values, tower().panel.native, Fps(70), run::Sync::Variable};
        order.route = game.routes.front().name;
        order.seed = 42;
        const auto recording = (*rig)->record(order, {}, {}, {});
        if (!recording) return 1;
        mark.add(capture::fingerprintOf(recording->capture));
    }
    fmt::print("{:016x}\n", mark.value());
    return 0;
}
