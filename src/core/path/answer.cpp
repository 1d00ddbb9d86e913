// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/path/answer.h>

#include <impasto/document/edit.h>
#include <impasto/path/perform.h>

namespace impasto::path {
namespace {

/// The order that the log answers: that of the reading it takes the place of, or the oldest open one that it fits.
void giveOrder(const document::Session& session, std::vector<run::Order>& open, ReadLog& log, Answered& out) {
    const auto* old = log.instead ? session.facts->run(*log.instead) : nullptr;
    if (old != nullptr && old->order) {
        log.run.maker = old->maker;
        log.run.order = old->order;
        return;
    }
    if (old != nullptr || session.edits->subject.rig != document::RigKind::Hand || open.empty()) return;
    if (auto fault = mismatch(open.front(), *log.run.capture)) {
        out.mismatch = std::move(fault);
        return;
    }
    log.run.maker = run::Maker::Hand;
    log.run.order = open.front().id;
    open.erase(open.begin());
}

/// What is said of a run as it is added.
void sayOf(const document::Session& session, const ReadLog& log, bool misfit, std::vector<document::Edit>& edits) {
    const RunId id = log.run.id;
    if (misfit) edits.push_back(document::leaveOut(id, document::LeftOut::Mismatch));
    if (log.counts)
        edits.push_back(document::trimRun(
            id, {{0, log.counts->fromMs}, {log.counts->toMs, capture::durationMs(*log.run.capture)}}));
    if (log.instead) edits.push_back(document::useReading(session.firstReading(log.run), id));
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
    for (auto& log : logs) {
        const bool faultBefore = out.mismatch.has_value();
        giveOrder(before, open, log, out);
        sayOf(before, log, !faultBefore && out.mismatch && !log.run.order, edits);
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
