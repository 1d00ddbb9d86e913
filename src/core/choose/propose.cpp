// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/propose.h>
#include <impasto/stats/stats.h>

#include <cmath>

namespace impasto::choose {
namespace {

constexpr double microsecondsPerMs = 1000.0;
constexpr double kibPerMib = 1024.0;

/// A candidate level of a setting.
struct Candidate {
    std::string level;
    double picture;
};

/// Per setting: the levels that can be chosen. Settings without a choice are left out of the search.
struct Group {
    const game::Setting* setting;
    std::vector<Candidate> candidates;
};

std::int64_t roundedUp(double value, double unit) {
    return static_cast<std::int64_t>(std::ceil(value * unit - 1e-6));
}

double differenceOf(const cost::Fit& fit, const cost::LevelKey& key) {
    const auto index = fit.indexOf(key);
    return index ? fit.estimate[*index] : 0.0;
}

std::vector<Group> groupsOf(const Ground& ground) {
    std::vector<Group> groups;
    for (const auto& setting : ground.game.settings) {
        const auto now = ground.baseline.find(setting.id);
        if (now == ground.baseline.end()) continue;
        const auto locked = ground.locked.find(setting.id);
        Group group{&setting, {}};
        for (const auto& level : setting.levels) {
            if (locked != ground.locked.end() && locked->second != level.name) continue;
            bool known = level.name == now->second;
            if (!known) {
                known = true;
                for (const auto& lane : ground.lanes) known = known && lane.fit.indexOf({setting.id, level.name});
            }
            if (known) group.candidates.push_back({level.name, level.picture});
        }
        if (group.candidates.empty()) group.candidates.push_back({now->second, 1.0});
        groups.push_back(std::move(group));
    }
    return groups;
}

/// A lock never gives way in silence: without its cost there is no proposal.
bool locksAreKnown(const Ground& ground) {
    const auto keys = cost::lockedLevels(ground.game, ground.baseline, ground.locked);
    return std::all_of(keys.begin(), keys.end(), [&](const cost::LevelKey& key) {
        return std::all_of(ground.lanes.begin(), ground.lanes.end(),
                           [&](const LaneCosts& lane) { return lane.fit.indexOf(key).has_value(); });
    });
}

double weightSum(const game::Game& game) {
    double sum = 0;
    for (const auto& s : game.settings) sum += s.weight;
    return sum > 0 ? sum : 1.0;
}

std::int64_t valueOf(const Group& group, const Candidate& candidate, double weights) {
    return std::llround(1000.0 * 100.0 * group.setting->weight * candidate.picture / weights);
}

double doubtFactor(const cost::Fit& fit) {
    return stats::studentQuantile(0.90, fit.degreesOfFreedom);
}

DoubtMargin marginOf(const Ground& ground, const LaneCosts& lane, std::size_t resource,
                     const std::vector<Group>& groups) {
    DoubtMargin margin{resource, doubtFactor(lane.fit) * lane.worstFactor * microsecondsPerMs, {}, lane.fit.covariance};
    for (const auto& group : groups) {
        std::vector<int> row;
        for (const auto& candidate : group.candidates) {
            const auto index = lane.fit.indexOf({group.setting->id, candidate.level});
            const bool baseline = ground.baseline.at(group.setting->id) == candidate.level;
            row.push_back(index && !baseline ? static_cast<int>(*index) : 0);
        }
        margin.columnOf.push_back(std::move(row));
    }
    return margin;
}

Problem problemOf(const Ground& ground, const std::vector<Group>& groups, Fps target) {
    Problem problem;
    const double weights = weightSum(ground.game);
    for (const auto& lane : ground.lanes) {
        const double usable = lane.safeShare * budgetOf(target).value();
        problem.capacity.push_back(static_cast<std::int64_t>(
            std::floor((usable - lane.missMs - lane.worstFactor * lane.fit.estimate[0]) * microsecondsPerMs)));
        problem.margins.push_back(marginOf(ground, lane, problem.capacity.size() - 1, groups));
    }
    const bool memory = ground.gpuMemory && ground.gpuMemorySize;
    if (memory)
        problem.capacity.push_back(static_cast<std::int64_t>(std::floor(
            (usableMemoryShare * ground.gpuMemorySize->value() - ground.gpuMemory->estimate[0]) * kibPerMib)));
    for (const auto& group : groups) {
        std::vector<Item> items;
        for (const auto& candidate : group.candidates) {
            const cost::LevelKey key{group.setting->id, candidate.level};
            Item item{valueOf(group, candidate, weights), {}};
            for (const auto& lane : ground.lanes)
                item.use.push_back(roundedUp(lane.worstFactor * differenceOf(lane.fit, key), microsecondsPerMs));
            if (memory) item.use.push_back(roundedUp(differenceOf(*ground.gpuMemory, key), kibPerMib));
            items.push_back(std::move(item));
        }
        problem.groups.push_back(std::move(items));
    }
    // A memory that the baseline overflows already is not a reason to find nothing: it is then asked not to grow.
    if (memory) {
        std::int64_t least = 0;
        for (const auto& group : problem.groups) {
            std::int64_t best = group.front().use.back();
            for (const auto& item : group) best = std::min(best, item.use.back());
            least += best;
        }
        problem.capacity.back() = std::max(problem.capacity.back(), least);
    }
    return problem;
}

} // namespace

Result<std::vector<LaneOutcome>> outcomeOf(const Ground& ground, const game::Values& values, Fps target) {
    std::vector<LaneOutcome> out;
    for (const auto& lane : ground.lanes) {
        game::Values measured = values;
        for (const auto& [id, level] : values) {
            const auto* setting = ground.game.setting(id);
            const bool taste = setting != nullptr && setting->weight == 0; // never measured, taken as free
            const auto now = ground.baseline.find(id);
            if (now == ground.baseline.end() || now->second == level) continue;
            if (!lane.fit.indexOf({id, level})) {
                if (!taste) return fail(ErrorCode::UnknownName, level, {{}, {}, {}, id});
                measured[id] = now->second;
            }
        }
        const auto p = cost::predict(lane.fit, ground.baseline, measured);
        if (!p) return fail(ErrorCode::LacksRuns, "1");
        LaneOutcome o{
            lane.lane, lane.worstPart, lane.worstFactor * p->mean + lane.missMs, lane.worstFactor * p->standardError, 0,
            0};
        o.marginMs = doubtFactor(lane.fit) * o.standardErrorMs;
        o.usableMs = lane.safeShare * budgetOf(target).value();
        out.push_back(o);
    }
    return out;
}

bool fits(const std::vector<LaneOutcome>& lanes) {
    return std::all_of(lanes.begin(), lanes.end(), [](const LaneOutcome& l) { return l.leftMs() >= 0; });
}

Result<Proposal> propose(const Ground& ground, Fps target, const Context& context) {
    if (ground.lanes.empty()) return fail(ErrorCode::LacksRuns, "1");
    if (!locksAreKnown(ground)) return fail(ErrorCode::LacksRuns, "1");
    const auto groups = groupsOf(ground);
    const Problem problem = problemOf(ground, groups, target);
    const auto choice = solve(problem, context);
    if (!choice) return tl::unexpected(choice.error());
    Proposal p;
    p.values = ground.baseline;
    for (std::size_t g = 0; g < groups.size(); ++g)
        p.values[groups[g].setting->id] = groups[g].candidates[choice->items[g]].level;
    p.picture = game::pictureValue(ground.game, p.values);
    p.proven = choice->proven;
    p.pictureGap = static_cast<double>(choice->bound - choice->value) / 1e5;
    p.nodes = choice->nodes;
    const auto lanes = outcomeOf(ground, p.values, target);
    if (!lanes) return tl::unexpected(lanes.error());
    p.lanes = *lanes;
    if (ground.gpuMemory) {
        const auto memory = cost::predict(*ground.gpuMemory, ground.baseline, p.values);
        if (memory) p.gpuMemoryMib = memory->mean;
        if (memory && ground.gpuMemorySize) p.gpuMemoryLeftMib = ground.gpuMemorySize->value() - memory->mean;
    }
    return p;
}

} // namespace impasto::choose
