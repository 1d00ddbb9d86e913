// SPDX-License-Identifier: GPL-3.0-or-later
// The machine that this runs on is read, off the window's thread.
#include "shell/studio.h"
#include "stations/bench/bench.h"

#include <impasto/wording/machine.h>

namespace impasto::app {
namespace {

/// What a person typed of the same machine, and no file tells, stays.
void keepTyped(machine::Machine& read, const machine::Machine& before) {
    if (read.name != before.name || before.simulated) return;
    if (read.gpu == "not said") read.gpu = before.gpu;
    if (read.gpuMemory.value() == 0) read.gpuMemory = before.gpuMemory;
    if (read.panel.native.widthPx == 0) read.panel = before.panel;
}

void take(Studio& s, Result<probe::Probed> read) {
    s.state<BenchState>().reading = false;
    if (!read) {
        s.tell(read.error());
        if (s.view().session.machine() == nullptr) typeMachine(s);
        return;
    }
    if (const auto* before = s.view().session.machine()) keepTyped(read->machine, *before);
    const auto index = s.addMachine(toToml(read->machine), read->machine.name);
    if (!index) return s.tell(index.error());
    s.go(benchStation().id);
    // Nobody can simulate a machine that was read: from now on its runs are played.
    std::vector<document::Edit> edits{document::useMachine(*index)};
    if (s.view().edits().subject.rig == document::RigKind::Simulated)
        edits.push_back(document::useRig(document::RigKind::Hand));
    s.apply(document::together("use-machine", std::move(edits)));
    showChecks(s, true);
    const auto facts = s.view().session.machine()->facts.size();
    QString told = say("Read: %1 and %2 values.").arg(qs(read->machine.name)).arg(facts);
    for (const auto what : read->missing) told += QLatin1Char(' ') + qs(wording::missing(s.view().w, what));
    s.say(told);
}

} // namespace

void readThisMachine(Studio& s) {
    if (s.open() == nullptr || s.state<BenchState>().reading) return;
    if (s.options().systemRoot.empty()) return typeMachine(s);
    s.state<BenchState>().reading = true;
    probe::Options options{s.options().systemRoot, {}, s.options().clock().time_since_epoch().count(), {}};
    if (s.options().screens) options.screens = s.options().screens();
    s.open()->prober.post([&s, open = s.open(), options, pending = s.pending()](const std::stop_token& stop) mutable {
        options.context.stop = stop;
        auto read = std::make_shared<Result<probe::Probed>>(probe::readMachine(options));
        open->bridge.post([&s, read, pending] { take(s, std::move(*read)); });
    });
    s.notify();
}

} // namespace impasto::app
