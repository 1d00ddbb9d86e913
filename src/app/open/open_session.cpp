// SPDX-License-Identifier: GPL-3.0-or-later
#include "open/open_session.h"

namespace impasto::app {
namespace {

/// What a job threw, told on the window's thread.
Worker::Fault told(const Bridge& bridge, const std::function<void(const Error&)>& fault) {
    return [bridge, fault](const Error& error) { bridge.post([fault, error] { fault(error); }); };
}

} // namespace

results::Keeping keepingIn(std::shared_ptr<logbook::KeptResults> kept, std::uint64_t salt) {
    results::Keeping out;
    out.find = [kept](std::string_view stage, const RunId& run, std::uint64_t mark) {
        return kept->find(stage, run, mark);
    };
    out.keep = [kept](const std::vector<results::KeptBytes>& all) {
        std::vector<logbook::KeptResults::Entry> entries;
        for (const auto& each : all) entries.push_back({each.stage, each.run, each.mark, each.bytes});
        kept->keep(entries);
    };
    out.forget = [kept] { kept->forget(); };
    out.salt = salt;
    return out;
}

OpenSession::OpenSession(Started started, double speed, Deliver deliver, std::function<void(const Error&)> fault)
    : bridge(std::move(deliver)), store(std::move(started.store)), originals(std::move(started.originals)),
      recorder(bridge, speed, told(bridge, fault)), importer(told(bridge, fault)), solver(told(bridge, fault)),
      follower(told(bridge, fault)), reader(told(bridge, fault)), spans(told(bridge, fault)),
      results(told(bridge, fault)), files(told(bridge, fault)), prober(told(bridge, fault)) {}

OpenSession::~OpenSession() {
    close();
}

void OpenSession::startWriter(std::unique_ptr<logbook::Logbook> logbook, logbook::LogbookWriter::Hooks hooks,
                              Clock clock) {
    if (writer) formerWriters.push_back(std::move(writer));
    computing = std::make_shared<logbook::Computing>(logbook->file());
    writer = std::make_unique<logbook::LogbookWriter>(std::move(logbook), std::move(hooks), std::move(clock));
}

void OpenSession::close() {
    bridge.close();
    importStop.request_stop();
    recorder.cancel();
    for (Worker* worker : {&importer, &solver, &follower, &reader, &spans, &results, &files, &prober}) worker->cancel();
}

bool OpenSession::idle() const {
    return recorder.idle() && (!writer || writer->idle()) && importer.idle() && solver.idle() && follower.idle() &&
           reader.idle() && spans.idle() && results.idle() && files.idle() && prober.idle();
}

} // namespace impasto::app
