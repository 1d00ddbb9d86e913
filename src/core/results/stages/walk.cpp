// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/walk.h>

#include <impasto/results/costs.h>
#include <map>
#include <set>

namespace impasto::results {
namespace {

/// The highest share of its room that a run took anywhere.
double loadOf(const cost::SeenRun& run, const Costs& costs, const choose::Room& room) {
    const auto& resources = costs.ground.belief().resources();
    double most = 0;
    for (std::size_t k = 0; k < resources.size(); ++k) {
        const bool time = resources[k] != cost::Resource::GpuMemory;
        const auto& told = costs.hidden && time ? run.frameMs : run.taken[cost::indexOf(resources[k])];
        for (std::size_t p = 0; p < std::min(told.size(), room[k].size()); ++p)
            if (told[p]) most = std::max(most, *told[p] / room[k][p]);
    }
    return most;
}

/// The sets that were run, each with the mean of its runs.
std::vector<choose::Walked> walkedOf(const Costs& costs, const choose::Room& room) {
    std::map<cost::Set, std::vector<double>> loads;
    for (const auto& run : costs.seen)
        if (const double load = loadOf(run, costs, room); load > 0) loads[run.set].push_back(load);
    std::vector<choose::Walked> out;
    for (const auto& [set, values] : loads) out.push_back({set, *stats::mean(values)});
    return out;
}

/// Values with what is locked, as a set.
std::optional<cost::Set> lockedSet(const Inputs& in, const cost::Layout& layout, game::Values values) {
    for (const auto& [setting, level] : in.locked()) values[setting] = level;
    return layout.setOf(values);
}

/// The next step of the walk that is taken; nothing where runs that tell most are made, or before a run tells a time.
Maybe<Walking> walkingOf(const Inputs& in, const Context&) {
    const auto* costs = in.get<Costs>();
    const auto target = in.target();
    const auto walk = in.session({Part::Walk}).edits->settings.walk;
    if (costs == nullptr || !costs->ground.chooser || !target || walk == choose::WalkSchool::Measured)
        return std::shared_ptr<const Walking>();
    const auto& layout = costs->ground.belief().layout();
    const auto start = lockedSet(in, layout, in.baseline());
    if (!start) return std::shared_ptr<const Walking>();
    choose::WalkGround ground{*start, {}};
    for (const auto& preset : in.game()->presets)
        if (auto set = lockedSet(in, layout, preset.values)) ground.presets.push_back(std::move(*set));
    for (const auto& values : in.get<Skipped>()->sets)
        if (auto set = layout.setOf(values)) ground.skipped.push_back(std::move(*set));
    const auto& chooser = *costs->ground.chooser;
    std::stable_sort(ground.presets.begin(), ground.presets.end(),
                     [&](const auto& a, const auto& b) { return chooser.picture(a) > chooser.picture(b); });
    const auto room = costs->ground.room(target->rate);
    Walking out{walk, choose::strideOf(walk, chooser, room, walkedOf(*costs, room), ground)};
    const auto tried = std::set<cost::Set>(costs->tried.begin(), costs->tried.end()).size();
    if (tried >= mostWalkRuns) out.stride.next.reset();
    return std::make_shared<const Walking>(std::move(out));
}

} // namespace

std::vector<Stage> walkStages() {
    return {stage("walk", {Part::Target, Part::Game, Part::Baseline, Part::Locked, Part::Walk},
                  {use<Costs>(), use<Skipped>()}, walkingOf)};
}

} // namespace impasto::results
