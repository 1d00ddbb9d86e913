// SPDX-License-Identifier: GPL-3.0-or-later
// Prints checksums of simulated runs, one a line: "rig" every shipped machine with every shipped game, "demo" the runs
// of the demo's session from its recipe to its end. The tables in tests/data/checksums are its output.
#include "support/support.h"

#include <impasto/base/text.h>
#include <set>

using namespace impasto;
using namespace impasto::support;

namespace {

std::set<std::string> filesIn(const char* folder) {
    std::set<std::string> out;
    for (const auto& entry : std::filesystem::directory_iterator(dataFile(folder)))
        out.insert(entry.path().filename().string());
    return out;
}

bool printRig() {
    for (const auto& machineFile : filesIn("machines"))
        for (const auto& gameFile : filesIn("games")) {
            const auto machine = machineNamed(machineFile);
            const auto game = gameNamed(gameFile);
            const auto rig = rig_sim::simulatedRig(originals(), machine, game);
            if (!rig) return false;
            run::Order order;
            order.variant = {game.presets.front().values, machine.panel.native, Fps(70), run::Sync::Variable};
            if (machine.panel.headset) order.variant.cap.reset();
            if (!machine.secondGpu.empty())
                order.variant.generation = run::Generation{run::GenerationKind::External, 2, {}, true};
            order.route = game.routes.front().name;
            order.seconds = 5;
            order.seed = 42;
            const auto recording = (*rig)->record(order, {}, {}, {});
            if (!recording) return false;
            fmt::print("{}\t{}\t{:016x}\n", machineFile, gameFile, capture::fingerprintOf(recording->capture));
        }
    return true;
}

bool printDemo() {
    description::Originals texts;
    const auto recipe = document::readRecipe(dataFile("demo.toml"), texts);
    if (!recipe) return false;
    Walk walk(demoStore(recipe->seed), recipe->seed);
    if (!walk.until(path::Action::Done)) return false;
    for (const auto& run : walk.store.session().facts->runs)
        fmt::print("{}\t{:016x}\n", run::keyOf(walk.store.session().orderOf(run)->purpose),
                   capture::fingerprintOf(*run.capture));
    return true;
}

} // namespace

int main(int argc, char** argv) {
    const std::string_view what = argc == 2 ? argv[1] : "";
    if (what == "rig") return printRig() ? 0 : 1;
    if (what == "demo") return printDemo() ? 0 : 1;
    return 2;
}
