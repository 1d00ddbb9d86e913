// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/path/answer.h>

#include <impasto/document/edit.h>
#include <impasto/path/perform.h>

namespace impasto::path {
namespace {

/// Gives the log the order that it answers: that of the reading it takes the place of, or the oldest open one. The
/// fault of one that does not fit it.
std::optional<Error> giveOrder(const document::Session& session, std::vector<run::Order>& open, ReadLog& log) {
    const auto* old = log.instead ? session.facts->run(*log.instead) : nullptr;
    if (old != nullptr && old->order) {
        log.run.maker = old->maker;
        log.run.order = old->order;
        return std::nullopt;
    }
    if (old != nullptr || session.edits->subject.rig != document::RigKind::Hand || open.empty()) return std::nullopt;
    if (auto fault = mismatch(open.front(), *log.run.capture)) return fault;
    log.run.maker = run::Maker::Hand;
    log.run.order = open.front().id;
    open.erase(open.begin());
    return std::nullopt;
}

/// What is said of a run as it is added.
void sayOf(const document::Session& session, const ReadLog& log, std::optional<document::LeftOut> leftOut,
           std::vector<document::Edit>& edits) {
    const RunId id = log.run.id;
    if (leftOut) edits.push_back(document::leaveOut(id, *leftOut));
    if (log.counts)
        edits.push_back(document::trimRun(
            id, {{0, log.counts->fromMs}, {log.counts->toMs, capture::durationMs(*log.run.capture)}}));
    if (log.instead) edits.push_back(document::useReading(session.firstReading(log.run), id));
}

/// A run that is shown and holds the same recording; one that was deleted may come back.
const run::Run* knownRun(const document::Session& session, const std::vector<run::Run>& added, const ReadLog& log) {
    if (log.instead || !log.run.capture) return nullptr;
    const auto same = [&](const run::Run& run) {
        return run.capture && run.capture->framesMs == log.run.capture->framesMs &&
               capture::fingerprintOf(*run.capture) == capture::fingerprintOf(*log.run.capture);
    };
    for (const auto& run : session.facts->runs)
        if (session.shown(run) && same(run)) return &run;
    const auto it = std::find_if(added.begin(), added.end(), same);
    return it == added.end() ? nullptr : &*it;
}

} // namespace

std::optional<Error> mismatch(const run::Order& order, const capture::Capture& capture) {
    const double seconds = capture::durationMs(capture) / 1000;
    const double wanted = order.seconds;
    if (seconds >= 0.6 * wanted && seconds <= 1.6 * wanted) return std::nullopt;
    return Error{ErrorCode::OrderMismatch, fmt::format("{:.0f}/{:.0f}", seconds, wanted), {}, Kept::AllAsBefore};
}

Result<Answered> answer(document::SessionStore& store, std::vector<ReadLog> logs) {
    const document::Session before = store.session();
    Answered out;
    auto open = openOrders(before);
    const bool anyOpen = !open.empty();
    std::vector<document::Edit> edits;
    std::vector<run::Run> runs;
    if (before.game() == nullptr && before.edits->subject.title.empty() && !logs.empty())
        edits.push_back(document::setTitle(logs.front().run.name));
    const bool ordered = std::any_of(before.facts->runs.begin(), before.facts->runs.end(),
                                     [&](const run::Run& run) { return run.order && before.shown(run); });
    for (auto& log : logs) {
        if (const auto* known = knownRun(before, runs, log)) {
            out.runs.push_back(known->id);
            out.known.push_back(known->id);
            continue;
        }
        auto fault = giveOrder(before, open, log);
        std::optional<document::LeftOut> leftOut;
        if (fault) leftOut = document::LeftOut::Mismatch;
        if (!fault && ordered && !log.run.order && !log.instead) {
            leftOut = document::LeftOut::Beside;
            ++out.beside;
        }
        if (fault && !out.mismatch) out.mismatch = std::move(fault);
        sayOf(before, log, leftOut, edits);
        out.runs.push_back(log.run.id);
        runs.push_back(std::move(log.run));
    }
    store.addRuns(std::move(runs));
    if (!edits.empty())
        if (const auto done = store.apply(document::together("add-runs", std::move(edits))); !done)
            return tl::unexpected(done.error());
    const bool allAnswered = anyOpen && openOrders(store.session()).empty();
    if (allAnswered) out.last = store.session().facts->orders.back().purpose;
    return out;
}

} // namespace impasto::path
