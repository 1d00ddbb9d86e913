// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <impasto/results/sets.h>

namespace impasto::results {
namespace {

bool has(const std::vector<RunId>& ids, const RunId& id) {
    return std::find(ids.begin(), ids.end(), id) != ids.end();
}

capture::IntervalKind kindOf(const document::Session& session, const RunSet& set) {
    const auto& ids = set.counted.empty() ? set.leftOut : set.counted;
    return session.facts->run(ids.front())->capture->kind;
}

std::vector<frames::Summary> summariesOf(const Results& results, const RunSet& set) {
    std::vector<frames::Summary> out;
    for (const auto& id : set.counted)
        if (const auto* figures = results.of<RunFigures>(id)) out.push_back(figures->summary);
    return out;
}

stats::LowRule ruleOf(const document::Session& session) {
    return session.edits->goal.brief ? session.edits->goal.brief->lowRule : stats::LowRule::WorstMean;
}

} // namespace

bool RunSet::holds(const RunId& run) const {
    return has(counted, run) || has(leftOut, run);
}

std::vector<RunSet> setsOf(const document::Session& session, const Results& results) {
    std::vector<RunSet> out;
    for (const auto& run : session.facts->runs) {
        if (!session.shown(run) || !run.capture) continue;
        const auto* order = session.orderOf(run);
        const auto variant = order == nullptr ? session.baselineVariant() : order->variant;
        RunSet fresh{variant, session.variantName(run), session.edits->subject.route, {}, {}, {}, {}, {}};
        if (session.machine() != nullptr) fresh.machine = session.machine()->name;
        fresh.conditions = session.edits->subject.state.conditions;
        if (order != nullptr) {
            fresh.route = order->route;
            if (!order->machine.empty()) fresh.machine = order->machine;
            fresh.conditions = order->conditions;
        }
        auto it = std::find_if(out.begin(), out.end(), [&](const RunSet& set) {
            return set.variant == fresh.variant && set.name == fresh.name && set.route == fresh.route &&
                   set.machine == fresh.machine && run::comparable(set.conditions, fresh.conditions) &&
                   capture::alike(kindOf(session, set), run.capture->kind);
        });
        if (it == out.end()) it = out.insert(out.end(), std::move(fresh));
        (session.counts(run) ? it->counted : it->leftOut).push_back(run.id);
    }
    for (auto& set : out) set.figures = frames::familiesOf(summariesOf(results, set), ruleOf(session));
    return out;
}

std::optional<frames::FigureComparison> compareSets(const document::Session& session, const Results& results,
                                                    const RunSet& before, const RunSet& after) {
    const auto first = summariesOf(results, before), second = summariesOf(results, after);
    if (first.empty() || second.empty() || !capture::alike(kindOf(session, before), kindOf(session, after)))
        return std::nullopt;
    const auto compared = frames::compareFigures(first, second, ruleOf(session), {});
    return compared.empty() ? std::nullopt : std::optional(compared.front()); // the average
}

} // namespace impasto::results
