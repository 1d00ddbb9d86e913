// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/earlier.h>

#include "seen.h"

#include <cmath>

namespace impasto::results {
namespace {

/// How much of a run an earlier one is (our choice): of the same machine and version, neither is quite the same.
double weightOf(const document::EarlierRuns& earlier, const machine::Machine* machine, const game::Game& game) {
    constexpr double since = 0.03, elsewhere = 0.08, updated = 0.05; // standard deviations, relative
    double variance = recordedVariance + since * since;
    if (earlier.chips != document::chipsOf(machine)) variance += elsewhere * elsewhere;
    if (earlier.version != game.version) variance += updated * updated;
    return recordedVariance / variance;
}

/// The values as they can be set here: what was not there then is as it is in use. Nothing where a level is gone.
std::optional<cost::Set> setHere(const Here& at, const cost::Layout& layout, const game::Values& values) {
    auto here = at.baseline;
    for (const auto& [setting, level] : values) {
        const auto* known = at.game.setting(setting);
        if (known == nullptr || !here.contains(setting)) continue;
        if (!known->levelIndex(level)) return std::nullopt;
        here[setting] = level;
    }
    return layout.setOf(here);
}

/// By resource, part: means of the runs of the first one's set; empty where it is not told in every part.
std::array<std::vector<double>, 3> firstMeans(const cost::Layout& layout, const std::vector<cost::SeenRun>& runs) {
    std::array<std::vector<double>, 3> out;
    for (const auto resource : cost::allResources) {
        const std::size_t k = cost::indexOf(resource);
        const std::size_t parts = resource == cost::Resource::GpuMemory ? 1 : layout.parts.size();
        std::vector<double> sum(parts, 0.0);
        double count = 0;
        for (const auto& run : runs) {
            const auto& told = run.taken[k];
            if (run.set != runs.front().set || told.size() != parts ||
                !std::all_of(told.begin(), told.end(), [](const auto& ms) { return ms.has_value(); }))
                continue;
            for (std::size_t p = 0; p < parts; ++p) sum[p] += *told[p];
            ++count;
        }
        if (count == 0) continue;
        for (double& ms : sum) ms /= count;
        out[k] = std::move(sum);
    }
    return out;
}

} // namespace

std::vector<cost::SeenRun> earlierRuns(const document::EarlierRuns& earlier, const Here& at, const cost::Layout& layout,
                                       const std::vector<cost::SeenRun>& runs) {
    if (runs.empty()) return {};
    const auto own = firstMeans(layout, runs);
    if (own[cost::indexOf(cost::Resource::Cpu)].empty() || own[cost::indexOf(cost::Resource::Gpu)].empty()) return {};
    auto whole = layout;
    whole.parts = {{}};
    std::vector<cost::SeenRun> then;
    for (const auto& run : earlier.runs)
        if (const auto set = setHere(at, layout, run.values)) {
            cost::SeenRun seen{*set, {}};
            for (std::size_t k = 0; k < seen.taken.size(); ++k)
                if (run.taken[k] > 0) seen.taken[k] = {run.taken[k]};
            then.push_back(std::move(seen));
        }
    const auto belief = then.empty() ? std::nullopt : cost::Belief::of(whole, then);
    if (!belief || belief->hidden()) return {};
    const double weight = weightOf(earlier, at.machine, at.game);
    std::vector<cost::SeenRun> out;
    for (const auto& run : then) {
        cost::SeenRun here{run.set, {}};
        here.weight = weight;
        for (const auto resource : belief->resources()) {
            const std::size_t k = cost::indexOf(resource);
            const double before = belief->tell(resource, 0, runs.front().set).mean;
            if (run.taken[k].empty() || own[k].empty() || !(before > 0)) continue;
            for (const double ms : own[k]) here.taken[k].emplace_back(ms * *run.taken[k].front() / before);
        }
        out.push_back(std::move(here));
    }
    return out;
}

bool earlierFit(const cost::Layout& layout, const std::vector<cost::SeenRun>& runs,
                const std::vector<cost::SeenRun>& earlier) {
    constexpr double most = 4; // of the mean square of how many deviations they lie off
    auto before = earlier;
    for (const auto& run : runs)
        if (run.set == runs.front().set) before.insert(before.begin(), run);
    const auto belief = cost::Belief::of(layout, before);
    if (!belief) return false;
    double squares = 0, count = 0;
    for (const auto& run : runs) {
        if (run.set == runs.front().set || run.memoryFull) continue;
        for (const auto resource : {cost::Resource::Cpu, cost::Resource::Gpu}) {
            const auto& seen = run.taken[cost::indexOf(resource)];
            for (std::size_t p = 0; p < seen.size(); ++p) {
                if (!seen[p]) continue;
                const auto told = belief->tell(resource, p, run.set);
                const double noise = recordedVariance / run.weight * told.mean * told.mean;
                squares += std::pow(*seen[p] - told.mean, 2) / (told.variance + noise);
                ++count;
            }
        }
    }
    return count == 0 || squares <= most * count;
}

Result<document::EarlierRuns> earlierOf(const document::Session& earlier, const Results& results,
                                        const document::Session& now) {
    if (earlier.game() == nullptr || now.game() == nullptr || earlier.game()->name != now.game()->name)
        return fail(ErrorCode::UnknownName, now.game() == nullptr ? std::string() : now.game()->name,
                    {{}, {}, {}, "game"});
    const auto* costs = results.get<Costs>();
    if (costs == nullptr || !costs->ground.chooser || costs->hidden) return fail(ErrorCode::LacksRuns, "2");
    document::EarlierRuns out{earlier.name(), document::chipsOf(earlier.machine()), earlier.game()->version, {}};
    for (const auto& run : cost::merged(costs->seen, document::mostEarlierRuns / 3)) {
        document::EarlierRun told{costs->ground.valuesOf(run.set), {}};
        for (std::size_t k = 0; k < told.taken.size(); ++k) {
            double sum = 0;
            for (const auto& ms : run.taken[k]) sum += ms.value_or(0);
            const bool all =
                std::all_of(run.taken[k].begin(), run.taken[k].end(), [](const auto& ms) { return ms.has_value(); });
            if (all && !run.taken[k].empty()) told.taken[k] = sum / static_cast<double>(run.taken[k].size());
        }
        if (run.memoryFull) told.taken[cost::indexOf(cost::Resource::Gpu)] = 0; // moving data to and fro is in it
        out.runs.push_back(std::move(told));
    }
    const bool moved = std::any_of(out.runs.begin(), out.runs.end(),
                                   [&](const auto& run) { return run.values != out.runs.front().values; });
    if (!moved) return fail(ErrorCode::LacksRuns, "2");
    return out;
}

} // namespace impasto::results
