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
    session::Session start;
    start.id = {seededIdSource(1)()};
    session::SessionStore store(start);
    logbook::LogbookWriter writer(std::move(*logbook::Logbook::open(file)), {}, fixedClock());
    store.onChange([&](const session::Change& c) { writer.post(c, store); });
    static_cast<void>(session::applyRecipe(store, *session::readRecipe(dataFile("demo.toml"))).has_value());
    run::Run run;
    run.id = {seededIdSource(2)()};
    run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 300, 8, 12));
    store.addRuns({run});
    static_cast<void>(store.apply(session::writeNote("one of every version is kept")).has_value());
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
    session::Session start;
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
    session::SessionStore store(start);
    logbook::LogbookWriter writer(std::move(*book), hooks, systemClock());
    store.onChange([&](const session::Change& c) { writer.post(c, store); });
    if (!session::applyRecipe(store, *session::readRecipe(dataFile("demo.toml")))) return 1;
    const auto rig = rig::simulatedRig(*store.session().machine(), *store.session().game());
    const IdSource ids = systemIdSource();
    for (;;) {
        session::ResultsCache cache;
        auto orders =
            session::ordersFor(store.session(), session::compute(store.session(), cache, {}),
                               {session::Action::RecordBaseline, session::Reason::NeedRepeats, 1, 1, {}}, ids);
        store.addOrders(orders);
        run::Run soFar;
        capture::Capture frames;
        session::RecordHooks inner;
        inner.onStart = [&](const run::Order& order, RunId id) {
            soFar = {};
            soFar.id = id;
            soFar.order = order.id;
            frames = {};
        };
        inner.onFrame = [&](const rig::FrameSample& frame) {
            frames.framesMs.push_back(frame.frameMs);
            if (frames.frames() % 700 != 0) return;
            soFar.capture = std::make_shared<const capture::Capture>(frames);
            writer.postRecording(store.session(), soFar);
            writer.waitIdle();
        };
        inner.onRun = [&](run::Run run) { session::attach(store, std::move(run)); };
        if (!session::recordAll(**rig, orders, {true}, inner, {}, ids, systemClock())) return 1;
    }
}
