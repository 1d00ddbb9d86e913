// SPDX-License-Identifier: GPL-3.0-or-later
// Records on the rig into a logbook and prints every saved revision and chunk after its COMMIT, until it is killed.
// Arguments: the file. With a second argument it makes the logbook that tests/data keeps of this version.
#include "support/support.h"

#include <cstdio>
#include <impasto/logbook/writer.h>

using namespace impasto;
using namespace impasto::support;

namespace {

void makeKept(const char* file) {
    document::Session start;
    start.id = {seededIdSource(1)()};
    document::SessionStore store(start);
    description::Originals texts;
    logbook::LogbookWriter writer(std::move(*logbook::Logbook::open(file)), {}, fixedClock());
    store.onChange([&](const document::Change& c) { writer.post(c, store, texts); });
    static_cast<void>(document::applyRecipe(store, *document::readRecipe(dataFile("demo.toml"), texts)).has_value());
    run::Run run;
    run.id = {seededIdSource(2)()};
    run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 300, 8, 12));
    store.addRuns({run});
    static_cast<void>(store.apply(document::writeNote("one of every version is kept")).has_value());
    writer.waitIdle();
}

} // namespace

int main(int argc, char** argv) {
    if (argc < 2) return 2;
    if (argc > 2) {
        makeKept(argv[1]);
        return 0;
    }
    auto book = logbook::Logbook::open(argv[1]);
    if (!book) return 1;
    document::Session start;
    start.id = {systemIdSource()()};
    const auto said = [](const std::string& line) {
        std::fputs(line.c_str(), stdout);
        std::fflush(stdout);
    };
    logbook::LogbookWriter::Hooks hooks;
    hooks.onSaved = [&](SessionId id, std::uint64_t revision) {
        said(fmt::format("revision {} {}\n", id.hex(), revision));
    };
    hooks.onFramesSaved = [&](RunId id, std::size_t frames) { said(fmt::format("frames {} {}\n", id.hex(), frames)); };
    document::SessionStore store(start);
    description::Originals texts;
    logbook::LogbookWriter writer(std::move(*book), hooks, systemClock());
    store.onChange([&](const document::Change& c) { writer.post(c, store, texts); });
    if (!document::applyRecipe(store, *document::readRecipe(dataFile("demo.toml"), texts))) return 1;
    const auto rig = rig_sim::simulatedRig(texts, *store.session().machine(), *store.session().game());
    const IdSource ids = systemIdSource();
    for (;;) {
        results::ResultsCache cache;
        auto orders = path::ordersFor(store.session(), results::compute(store.session(), cache, {}),
                                      {path::Action::RecordBaseline, path::Reason::NeedRepeats, 1, 1, {}}, ids);
        store.addOrders(orders);
        run::Run soFar;
        capture::Capture recorded;
        path::RecordHooks inner;
        inner.onStart = [&](const run::Order& order, RunId id) {
            soFar = {};
            soFar.id = id;
            soFar.order = order.id;
            recorded = {};
        };
        inner.onFrame = [&](const rig::FrameSample& frame) {
            recorded.framesMs.push_back(frame.frameMs);
            if (recorded.frames() % 700 != 0) return;
            soFar.capture = std::make_shared<const capture::Capture>(recorded);
            writer.postRecording(store.session(), soFar);
            writer.waitIdle();
        };
        inner.onRun = [&](run::Run run) { store.addRuns({std::move(run)}); };
        if (!path::recordAll(**rig, orders, {true}, inner, {}, ids, systemClock())) return 1;
    }
}
