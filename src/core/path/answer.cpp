// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/path/answer.h>

#include <impasto/frames/groups.h>

#include <cmath>
#include <impasto/document/edit.h>
#include <impasto/frames/examine.h>
#include <impasto/path/perform.h>
#include <impasto/stats/stats.h>

namespace impasto::path {
namespace {

/// Letters and digits alone, small.
std::string plainText(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
        if (letter || (c >= '0' && c <= '9')) out += letter ? static_cast<char>(c | 0x20) : c;
    }
    return out;
}

/// Whose frames a log of several programs holds; empty: it does not say.
std::string programOf(const capture::Capture& capture) {
    const auto note = capture.notes.find("program");
    return note == capture.notes.end() ? std::string() : note->second;
}

/// The open order whose level a text names.
std::vector<run::Order>::iterator orderNamed(const document::Session& session, std::vector<run::Order>& open,
                                             const std::string& text) {
    const std::string name = plainText(text);
    return std::find_if(open.begin(), open.end(), [&](const run::Order& order) {
        if (order.purpose != run::Purpose::Cost || session.game() == nullptr) return false;
        const auto changed = cost::changedLevels(session.edits->settings.baseline, order.variant.values);
        return std::any_of(changed.begin(), changed.end(), [&](const cost::LevelKey& key) {
            const auto* setting = session.game()->setting(key.setting);
            if (setting == nullptr) return false;
            const auto level = plainText(key.level);
            return name.find(plainText(setting->label) + level) != std::string::npos ||
                   name.find(plainText(setting->id) + level) != std::string::npos;
        });
    });
}

/// The open order that a log is meant for: said, or named by the level in its file name, or the oldest.
std::vector<run::Order>::iterator orderFor(const document::Session& session, std::vector<run::Order>& open,
                                           const ReadLog& log) {
    if (log.wants)
        if (const auto it = std::find_if(open.begin(), open.end(), [&](const auto& o) { return o.id == *log.wants; });
            it != open.end())
            return it;
    const auto it = orderNamed(session, open, log.run.name);
    return it == open.end() ? open.begin() : it;
}

/// Gives the log the order that it answers: that of the reading it takes the place of, or an open one. The fault of one
/// that does not fit it.
std::optional<Error> giveOrder(const document::Session& session, std::vector<run::Order>& open, ReadLog& log) {
    const auto* old = log.instead ? session.facts->run(*log.instead) : nullptr;
    if (old != nullptr && old->order) {
        log.run.maker = old->maker;
        log.run.order = old->order;
        return std::nullopt;
    }
    if (old != nullptr || session.edits->subject.rig != document::RigKind::Hand || open.empty()) return std::nullopt;
    const auto it = orderFor(session, open, log);
    log.run.maker = run::Maker::Hand;
    log.run.order = it->id;
    if (auto fault = mismatch(session, *it, *log.run.capture)) return fault;
    open.erase(it);
    return std::nullopt;
}

/// What is said of a run as it is added.
void sayOf(const document::Session& session, const ReadLog& log, std::optional<document::LeftOut> leftOut,
           std::vector<document::Edit>& edits) {
    const RunId id = log.run.id;
    edits.push_back(document::arrive(id));
    if (leftOut) edits.push_back(document::leaveOut(id, *leftOut));
    if (log.counts)
        edits.push_back(document::trimRun(
            id, {{0, log.counts->fromMs}, {log.counts->toMs, capture::durationMs(*log.run.capture)}}));
    if (log.instead) edits.push_back(document::useReading(session.firstReading(log.run), id));
}

/// Runs of logs that were given together and would be taken for one variant: those of other groups get names.
std::size_t nameGroups(const std::vector<run::Run>& runs, const std::vector<std::size_t>& unasked,
                       std::vector<document::Edit>& edits) {
    std::vector<double> averages;
    for (const auto i : unasked)
        averages.push_back(1000 * static_cast<double>(runs[i].capture->frames()) /
                           capture::durationMs(*runs[i].capture));
    const auto groups = frames::groupsOf(averages);
    std::size_t most = 0;
    for (std::size_t k = 0; k < groups.size(); ++k) {
        most = std::max(most, groups[k]);
        if (groups[k] > 0)
            edits.push_back(document::nameVariant(runs[unasked[k]].id, fmt::format("variant {}", groups[k] + 1)));
    }
    return most + 1;
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

/// Rates of the runs of the same values, recorded or read off.
std::vector<double> ratesLike(const document::Session& session, const run::Order& order) {
    std::vector<double> out;
    for (const auto& run : session.facts->runs) {
        const auto* other = session.orderOf(run);
        if (other == nullptr || other->variant != order.variant || other->route != order.route) continue;
        if (session.counts(run))
            out.push_back(1000 * static_cast<double>(run.capture->frames()) / capture::durationMs(*run.capture));
        else if (session.readOff(run))
            out.push_back(run.readOff->average.value());
    }
    return out;
}

/// A rate 30% off those.
std::optional<Error> offSiblings(const std::vector<double>& siblings, double rate) {
    const auto usual = stats::quantile(siblings, 0.5);
    if (!usual || std::abs(rate - *usual) <= 0.3 * *usual) return std::nullopt;
    return Error{ErrorCode::OrderMismatch, fmt::format("rate {:.0f}/{:.0f}", rate, *usual), {}, Kept::AllAsBefore};
}

/// Its name is that of what is dropped on it first.
bool untitled(const document::Session& session) {
    return session.game() == nullptr && session.edits->subject.title.empty();
}

bool anyOrdered(const document::Session& session) {
    return std::any_of(session.facts->runs.begin(), session.facts->runs.end(),
                       [&](const run::Run& run) { return run.order && session.shown(run); });
}

} // namespace

std::optional<Error> mismatch(const document::Session& session, const run::Order& order,
                              const capture::Capture& capture) {
    const auto differs = [](std::string how) {
        return Error{ErrorCode::OrderMismatch, std::move(how), {}, Kept::AllAsBefore};
    };
    const double seconds = capture::durationMs(capture) / 1000;
    if (seconds < 0.6 * order.seconds || seconds > 1.6 * order.seconds)
        return differs(fmt::format("{:.0f}/{:.0f}", seconds, order.seconds));
    if (const auto program = programOf(capture); !program.empty())
        for (const auto& run : session.facts->runs)
            if (session.counts(run))
                if (const auto other = programOf(*run.capture); !other.empty() && other != program)
                    return differs(fmt::format("program {}\n{}", program, other));
    const double rate = 1000 * static_cast<double>(capture.frames()) / capture::durationMs(capture);
    const auto siblings = ratesLike(session, order);
    if (auto off = offSiblings(siblings, rate)) return off;
    const bool free =
        !order.variant.cap && order.variant.sync == run::Sync::None && !(session.panel() && session.panel()->headset);
    if (free && siblings.empty())
        for (const auto& examined : frames::examine(capture))
            if (examined.finding == frames::Finding::Flattened && examined.figure >= frames::mostlyHeld) {
                // A game that nothing else limits may run evenly too: only a rate that a panel or a round cap has is
                // told.
                const double near = std::round(rate / 5) * 5;
                if (std::abs(rate - near) < 0.01 * near) return differs(fmt::format("capped {:.0f}", near));
            }
    return std::nullopt;
}

Result<Answered> answer(document::SessionStore& store, std::vector<ReadLog> logs) {
    const document::Session before = store.session();
    Answered out;
    auto open = openOrders(before);
    const bool anyOpen = !open.empty();
    std::vector<document::Edit> edits;
    std::vector<run::Run> runs;
    std::vector<std::size_t> unasked; // of them, those that answer nothing and count
    if (untitled(before) && !logs.empty()) edits.push_back(document::setTitle(logs.front().run.name));
    const bool ordered = anyOrdered(before);
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
        if (!log.run.order && !leftOut && !log.instead) unasked.push_back(runs.size());
        out.runs.push_back(log.run.id);
        runs.push_back(std::move(log.run));
    }
    out.variants = nameGroups(runs, unasked, edits);
    if (!runs.empty())
        if (const auto done = store.addRuns(std::move(runs), document::together("add-runs", std::move(edits))); !done)
            return tl::unexpected(done.error());
    const bool allAnswered = anyOpen && openOrders(store.session()).empty();
    if (allAnswered) out.last = store.session().facts->orders.back().purpose;
    return out;
}

Result<Answered> answer(document::SessionStore& store, std::optional<OrderId> wanted, const run::ReadOff& figures,
                        const IdSource& ids, const Clock& clock, const std::string& name) {
    if (const auto fault = run::faultOf(figures))
        return fail(ErrorCode::OutOfRange, fault->range, {{}, {}, {}, std::string(fault->key)});
    const document::Session before = store.session();
    const auto open = openOrders(before);
    const auto order = std::find_if(open.begin(), open.end(), [&](const auto& o) { return o.id == wanted; });
    if (wanted && order == open.end()) return fail(ErrorCode::UnknownName, wanted->hex());
    Answered out;
    const auto same = std::find_if(before.facts->runs.begin(), before.facts->runs.end(), [&](const run::Run& run) {
        return !figures.rates.empty() && run.readOff == figures && run.name == name && before.shown(run);
    });
    if (!wanted && same != before.facts->runs.end()) {
        out.runs = out.known = {same->id};
        return out;
    }
    run::Run run;
    run.id = {ids()};
    run.order = wanted;
    run.maker = wanted ? run::Maker::Hand : run::Maker::Dropped;
    run.made = clock();
    run.name = name;
    run.readOff = figures;
    capture::Capture empty; // without frames
    empty.notes[document::arrivalNote] = "yes";
    run.capture = std::make_shared<const capture::Capture>(std::move(empty));
    out.runs.push_back(run.id);
    std::vector<document::Edit> edits{document::arrive(run.id)};
    if (wanted)
        out.mismatch = offSiblings(ratesLike(before, *order), figures.average.value());
    else
        out.beside = anyOrdered(before) ? 1 : 0;
    if (out.mismatch) edits.push_back(document::leaveOut(run.id, document::LeftOut::Mismatch));
    if (out.beside > 0) edits.push_back(document::leaveOut(run.id, document::LeftOut::Beside));
    if (!wanted && untitled(before)) edits.push_back(document::setTitle(name));
    if (const auto done = store.addRuns({std::move(run)}, document::together("add-runs", std::move(edits))); !done)
        return tl::unexpected(done.error());
    if (wanted && openOrders(store.session()).empty()) out.last = order->purpose;
    return out;
}

Result<void> sayVariant(document::SessionStore& store, const RunId& run, const std::string& words) {
    const auto session = store.session();
    auto open = openOrders(session);
    const auto it = words.empty() ? open.end() : orderNamed(session, open, words);
    return store.apply(it == open.end() ? document::nameVariant(run, words) : document::answerOrder(run, it->id));
}

} // namespace impasto::path
